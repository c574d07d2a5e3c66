"""Scale for shrinkage: the part enlarged to the size of the cavity."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Percent, SpotField
from supplecast.document.state import Entry
from supplecast.document.step import Step
from supplecast.errors import SuppleError
from supplecast.geometry import Vec
from supplecast.tooling.shrinkage import cavity_factor, simple_factor
from supplecast.wording import show


class Shrink(Step):
    """Enlarge the part by 1/(1−S), evenly or by a shrinkage of its own along each axis, as filled resins have it. A blank
    percentage takes the middle of the resin's range.

    Example: {"id": "s2", "type": "shrink", "shrinkage": "0.55 %", "about": "origin"}
    """

    type: Literal["shrink"] = "shrink"
    word = "Scale for shrinkage"
    purpose = "enlarge the part to cavity size"
    search = "scale allowance grow larger"
    follows = "lay"
    picture = ("M9 9h14v9H9z", "M5 5h22v17H5zM9 9L5 5M23 9l4-4")
    document_kinds = ("tool",)

    spread: Literal["evenly", "by axis"] = "evenly"
    shrinkage: Percent = ""
    x: Percent = ""
    y: Percent = ""
    z: Percent = ""
    about: Literal["origin", "centroid", "a point"] = "origin"
    spot: SpotField = None
    part: BodyPick = None

    def sentence(self) -> str:
        size = "{shrinkage}" if self.spread == "evenly" else "{x} in x, {y} in y, {z} in z"
        spot = " {spot}" if self.about == "a point" else ""
        return f"Scale {{part}} for shrinkage {{spread}} {size} about its {{about}}{spot}"

    def build(self, at: Builder) -> None:
        entry = at.target(self.part, "part", roles=("linked", "part"))
        solid = entry.body.solid
        before = kernel.measure.box(solid).size
        if self.spread == "evenly":
            shrinkage = self._shrinkage(at, "shrinkage")
            factor = self._factor(at, "shrinkage", shrinkage)
            made = at.kernel("shrinkage", kernel.move.scale, solid, factor, self._centre(at, entry))
            factors: Vec = (factor, factor, factor)
            at.figure("factor", factor)
        else:
            values = [self._shrinkage(at, axis) for axis in "xyz"]
            x, y, z = (self._factor(at, axis, value) for axis, value in zip("xyz", values, strict=True))
            factors = (x, y, z)
            shrinkage = max(values)
            made = at.kernel("x", kernel.move.stretch, solid, factors, self._centre(at, entry))
        self._tell(at, shrinkage, factors, before)
        at.replace(entry, at.named(made, entry.body))

    def _shrinkage(self, at: Builder, field: str) -> float:
        return at.ratio(field) if getattr(self, field) else at.material.usual_shrinkage

    def _factor(self, at: Builder, field: str, shrinkage: float) -> float:
        low, high = at.material.shrinkage
        try:
            factor = cavity_factor(shrinkage)
        except SuppleError as fault:
            at.fail(field, fault.message, fault.hint)
        if getattr(self, field) and not low - 1e-12 <= shrinkage <= high + 1e-12:
            span = f"{show(low * 100)}–{show(high * 100)} %"
            at.caution(field, f"{show(shrinkage * 100)} % is outside the range of {at.material.name}, {span}.")
        return factor

    def _centre(self, at: Builder, entry: Entry) -> Vec:
        if self.about == "centroid":
            return kernel.measure.mass(entry.body.solid).centroid
        if self.about == "a point":
            if self.spot is None:
                at.fail("spot", "No point is picked to scale about.", "Pick one, or scale about the origin.")
            return at.spots("spot")[0]
        return (0.0, 0.0, 0.0)

    def _tell(self, at: Builder, shrinkage: float, factors: Vec, before: Vec) -> None:
        material = at.material
        low, high = material.shrinkage
        exact, simple = cavity_factor(shrinkage), simple_factor(shrinkage)
        longest = max(before)
        at.note(
            f"{material.name} {show(low * 100)}–{show(high * 100)} %. Cavity is 1/(1−S) = {exact:.6f} of the part; "
            f"1+S is {simple:.6f}, "
            f"{at.in_unit(round((exact - simple) * longest, 4))} {at.scope.unit} less over the longest side."
        )
        part, cavity = (" × ".join(at.in_unit(round(s, 3)) for s in size)
                        for size in (before, [s * f for s, f in zip(before, factors, strict=True)]))  # fmt: skip
        at.note(f"Part {part}, cavity {cavity} {at.scope.unit}.")
