"""Mix: what has to be weighed out to cast the part by hand."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Count, Percent
from supplecast.document.state import PARTS
from supplecast.document.step import Step
from supplecast.steps.tool.drops import feeds_ahead
from supplecast.steps.tool.weighing import Ratio, weighed


class Mix(Step):
    """The amounts for a number of castings, parts with their funnel and risers, and something to spare; for two components by
    their ratio by mass, such as 100:90.
    Example: {"id": "mi13", "type": "mix", "castings": 1, "ratio": "100:90", "spare": "10 %"}
    """

    type: Literal["mix"] = "mix"
    word = "Mix"
    purpose = "amounts to weigh out for hand casting"
    search = "weigh resin silicone polyurethane two parts grams"
    follows = "cooling"
    picture = ("M8 4h7v12a3 3 0 0 1-7 0zM18 4h7v12a3 3 0 0 1-7 0z", "M8 11h7M18 8h7")
    document_kinds = ("tool",)

    castings: Count = 1
    ratio: Ratio = ""
    spare: Percent = "10 %"

    def sentence(self) -> str:
        return "Mix for {castings} castings, components {ratio} by mass, {spare} to spare"

    def build(self, at: Builder) -> None:
        bodies = [e for e in at.bodies() if e.role in (*PARTS, "feed")]
        if not any(e.role != "feed" for e in bodies):
            at.fail("castings", "There is no part yet.", "Link a part first.")
        later = feeds_ahead(at)
        if later:
            words = "A feed is made below this step, and what it holds is not in the mix"
            at.caution("castings", f"{words}. Move this step below it.")
        volume = sum(kernel.measure.volume(e.body.solid) for e in bodies) * self.castings
        material = at.material
        at.figure("mix_g", weighed(at, self.ratio, volume, material.name, material.density, 1))
