"""Scale for shrinkage: the part enlarged to the size of the cavity."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Percent
from supplecast.document.step import Step
from supplecast.errors import SuppleError
from supplecast.quantities import show
from supplecast.tooling.shrinkage import cavity_factor, simple_factor


class Shrink(Step):
    """Enlarge the part by 1/(1−S). A blank percentage takes the middle of the resin's range.

    Example: {"id": "s2", "type": "shrink", "shrinkage": "0.55 %", "about": "origin"}
    """

    type: Literal["shrink"] = "shrink"
    word = "Scale for shrinkage"
    purpose = "enlarge the part to cavity size"
    rank = 20
    picture = ("M9 9h14v9H9z", "M5 5h22v17H5zM9 9L5 5M23 9l4-4")
    sheets = ("tool",)

    shrinkage: Percent = ""
    about: Literal["origin", "centroid"] = "origin"
    part: BodyPick = None

    def sentence(self) -> str:
        return "Scale {part} for shrinkage {shrinkage} about its {about}"

    def build(self, at: Builder) -> None:
        entry = at.target(self.part, "part", roles=("linked", "part"))
        material = at.material
        low, high = material.shrinkage
        shrinkage = at.ratio("shrinkage") if self.shrinkage else material.usual_shrinkage
        try:
            factor = cavity_factor(shrinkage)
        except SuppleError as fault:
            at.fail("shrinkage", fault.message, fault.hint)
        solid = entry.body.solid
        centre = kernel.measure.mass(solid).centroid if self.about == "centroid" else (0.0, 0.0, 0.0)
        made = at.kernel("shrinkage", kernel.move.scale, solid, factor, centre)
        at.figure("factor", factor)
        span = f"{show(low * 100)}–{show(high * 100)} %"
        at.note(f"{material.name} {span}. Cavity is 1/(1−S) = {factor:.6f} of the part; 1+S is {simple_factor(shrinkage):.6f}.")
        if self.shrinkage and not low - 1e-12 <= shrinkage <= high + 1e-12:
            at.caution("shrinkage", f"{show(shrinkage * 100)} % is outside the range of {material.name}, {span}.")
        at.replace(entry, at.named(made, entry.body))
