"""Mix: what has to be weighed out to cast the part by hand."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import StringConstraints

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Count, FieldSpec, Percent
from supplecast.document.state import PARTS
from supplecast.document.step import Step
from supplecast.errors import SuppleError
from supplecast.tooling.mixing import amounts

Ratio = Annotated[str, StringConstraints(max_length=24, strip_whitespace=True), FieldSpec("words")]


class Mix(Step):
    """The amounts for a number of castings, parts with their funnel and risers, and something to spare; for two components by
    their ratio by mass, such as 100:90.
    Example: {"id": "mi13", "type": "mix", "castings": 1, "ratio": "100:90", "spare": "10 %"}
    """

    type: Literal["mix"] = "mix"
    word = "Mix"
    purpose = "amounts to weigh out for hand casting"
    rank = 86
    picture = ("M8 4h7v12a3 3 0 0 1-7 0zM18 4h7v12a3 3 0 0 1-7 0z", "M8 11h7M18 8h7")
    sheets = ("tool",)

    castings: Count = 1
    ratio: Ratio = ""
    spare: Percent = "10 %"

    def sentence(self) -> str:
        return "Mix for {castings} castings, components {ratio} by mass, {spare} to spare"

    def build(self, at: Builder) -> None:
        bodies = [e for e in at.bodies() if e.role in (*PARTS, "feed")]
        if not any(e.role != "feed" for e in bodies):
            at.fail("castings", "There is no part yet.", "Link a part first.")
        volume = sum(kernel.measure.volume(e.body.solid) for e in bodies) * self.castings
        material = at.material
        try:
            found = amounts(volume, material.density, self.ratio, at.ratio("spare"))
        except SuppleError as fault:
            at.fail("ratio", fault.message, fault.hint)
        at.figure("mix_g", found.whole)
        parts = f"{found.a:.1f} g and {found.b:.1f} g" if found.b else f"{found.a:.1f} g"
        at.note(f"{volume / 1000:.2f} cm³ of {material.name} at {material.density:g} g/cm³, with what is to spare: {parts}.")
