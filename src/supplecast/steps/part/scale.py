"""Scale: a body made larger or smaller."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Factor, SpotField
from supplecast.document.step import Step
from supplecast.geometry import Vec


class Scale(Step):
    """Scale a body evenly, or by a factor for each axis, about the origin, its centroid or a point.

    Flats stay flat, and rounds stay round about an axis with equal factors across it; other rounds become free faces.
    Example: {"id": "sc1", "type": "scale", "factor": "1.02", "about": "the origin"}
    """

    type: Literal["scale"] = "scale"
    word = "Scale"
    purpose = "make a body larger or smaller"
    search = "size enlarge shrink shrinkage bigger smaller"
    follows = "lettering"
    picture = ("M4 12h9v9H4z", "M4 3h19v18H4zM16 10l5-5m-4 0h4v4")
    takes_meshes = True

    body: BodyPick = None
    how: Literal["evenly by", "per axis by"] = "evenly by"
    factor: Factor = "1"
    x: Factor = "1"
    y: Factor = "1"
    z: Factor = "1"
    about: Literal["the origin", "its centroid", "a point"] = "the origin"
    point: SpotField = None

    def sentence(self) -> str:
        by = "{factor}" if self.how == "evenly by" else "{x}, {y}, {z}"
        point = " {point}" if self.about == "a point" else ""
        return f"Scale {{body}} {{how}} {by} about {{about}}{point}"

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        solid = entry.body.solid
        about = self._about(at, solid)
        if self.how == "evenly by":
            made = at.kernel("factor", kernel.move.scale, solid, at.plain("factor"), about)
        else:
            factors = (at.plain("x"), at.plain("y"), at.plain("z"))
            made = at.kernel("x", kernel.move.stretch, solid, factors, about)
        at.replace(entry, at.named(made, entry.body))

    def _about(self, at: Builder, solid: kernel.shape.Solid) -> Vec:
        if self.about == "the origin":
            return (0.0, 0.0, 0.0)
        if self.about == "its centroid":
            return kernel.measure.mass(solid).centroid
        if self.point is None:
            at.fail("point", "No point is picked.", "Pick a corner, a centre or a datum point.")
        return at.spots("point")[0]
