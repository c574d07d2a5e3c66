"""Chamfer: edges bevelled by one distance."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, BodyPick, Edges, Length
from supplecast.document.step import Before, Step


class Chamfer(Step):
    """Bevel the picked edges and all that run on from them smoothly: by one distance, by two, or by a distance and an angle.

    The first distance, and the angle, are those on the more level of the two faces; `turned` takes the other one.
    Example: {"id": "c2c", "type": "chamfer", "edges": [{"rule": "outer loop", "of": "p81.end"}], "distance": "1 mm"}
    """

    type: Literal["chamfer"] = "chamfer"
    word = "Chamfer"
    purpose = "bevel edges"
    search = "bevel break corner countersink"
    follows = "fillet"
    picture = ("M5 21V5M5 21h22", "M5 10l11 11")
    suits = ("edges",)

    edges: Edges = ()
    how: Literal["by a distance", "by two distances", "by a distance and an angle"] = "by a distance"
    distance: Length = "1 mm"
    second: Length = "2 mm"
    angle: Angle = "45"
    turned: Literal["from the level face", "from the upright face"] = "from the level face"
    body: BodyPick = None

    @property
    def repeats(self) -> bool:
        return True

    def sentence(self) -> str:
        size = {
            "by a distance": "{how} {distance}",
            "by two distances": "{how} {distance} and {second}, {turned}",
            "by a distance and an angle": "{how} {distance} at {angle}, {turned}",
        }[self.how]
        return f"Chamfer {{edges}} {size}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"edges": [pick for pick in picked if "edge" in pick]}

    def build(self, at: Builder) -> None:
        at.need_picks("edges", "Click the edges to bevel in the view, or choose a rule.")
        entry = at.holder("edges", self.body)
        distance = at.mm("distance")
        edges = at.edges("edges", entry)
        handling.on_edge(at, "distance", entry.body.solid, edges)
        solid, turned = entry.body.solid, self.turned == "from the upright face"
        blend = kernel.blend
        if self.how == "by a distance":
            made = at.kernel("distance", blend.chamfer, solid, edges, distance)
        elif self.how == "by two distances":
            made = at.kernel("distance", blend.chamfer_uneven, solid, edges, distance, at.mm("second"), turned=turned)
        else:
            made = at.kernel("distance", blend.chamfer_at, solid, edges, distance, at.radians("angle", 1, 89), turned=turned)
        at.replace(entry, at.named(made, entry.body))
        at.dressed(entry)
