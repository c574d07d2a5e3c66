"""Screw hole: holes for metric screws, by thread, kind and fit."""

from __future__ import annotations

from typing import Literal

from supplecast.document.builder import Builder
from supplecast.document.drilling import Drilling, Ring
from supplecast.tooling.screws import SCREWS, Fit, Size


class ScrewHole(Drilling):
    """Holes for metric screws: clearance (ISO 273), tapped (drill to ISO 2306), counterbored for socket heads (DIN 974-1 for
    ISO 4762) or countersunk for 90° heads (ISO 15065). All sizes are written from memory of those standards.

    Example: {"id": "h2", "type": "screw hole", "size": "M3", "kind": "counterbore", "sketch": "k3f"}
    """

    type: Literal["screw hole"] = "screw hole"
    word = "Screw hole"
    purpose = "holes by metric screw sizes and fits"
    search = "countersink counterbore thread clearance drill bolt"
    follows = "hole"
    picture = ("M3 7h26v14H3z", "M8 7v5h5v9M24 7v5h-5v9")
    suits = (
        "faces",
        "edges",
    )

    size: Size = "M3"
    kind: Literal["clearance", "tapped", "counterbore", "countersink"] = "clearance"
    fit: Fit = "medium"

    def sentence(self) -> str:
        fit = "" if self.kind == "tapped" else ", {fit} fit"
        return f"Screw hole {{size}} {{kind}}{fit}, {self.where()}"

    def build(self, at: Builder) -> None:
        screw = SCREWS[self.size]
        wide = screw.tapping if self.kind == "tapped" else screw.through(self.fit)
        rings = [Ring("wall", wide, wide)]
        if self.kind == "tapped":
            at.note(f"Drilled {at.in_unit(wide)} for a thread {self.size} × {screw.pitch:g}.")
        elif self.kind == "counterbore":
            rings.insert(0, Ring("head", screw.head, screw.head, screw.head_depth))
            at.note(f"Head {at.in_unit(screw.head)} wide and {at.in_unit(screw.head_depth)} deep, hole {at.in_unit(wide)}.")
        elif self.kind == "countersink":
            if screw.sink is None:
                at.fail("kind", f"The standard has no countersink for {self.size}.", "Choose M10 or smaller, or a counterbore.")
            rings.insert(0, Ring("head", screw.sink, wide, (screw.sink - wide) / 2))  # 90°: as deep as the radius shrinks
            at.note(f"Sunk to {at.in_unit(screw.sink)} at 90°, hole {at.in_unit(wide)}.")
        self.drill(at, "size", rings)
