"""Loft: a body drawn over outlines, or from an outline to a point."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from supplecast import kernel
from supplecast.curves import Region
from supplecast.document.builder import Builder
from supplecast.document.fields import FieldSpec, Profiles, SpotField
from supplecast.document.shaping import Shaping, newest_sketches, usual_result
from supplecast.document.step import Before
from supplecast.geometry import Frame


class Loft(Shaping):
    """A body through the outlines of two or more sketches on different planes, in their order; it may begin or end in a point.

    Straight, it runs from each outline to the next in straight lines; smooth, in one curve through all. Corners are matched by
    where they lie; `turn` shifts the matching by so many corners from each outline to the next.
    Example: {"id": "q1", "type": "loft", "over": [{"sketch": "k3f"}, {"sketch": "k4a"}]}
    """

    type: Literal["loft"] = "loft"
    word = "Loft"
    purpose = "draw a body over outlines"
    search = "blend transition through sections"
    follows = "sweep"
    picture = ("M5 21h22", "M5 21L11 5h10l6 16M11 5c3-2 7-2 10 0s-7 2-10 0")

    over: Profiles
    shape: Literal["straight", "smooth"] = "straight"
    turn: Annotated[int, Field(ge=-400, le=400), FieldSpec("count")] = 0
    begin: SpotField = None
    end: SpotField = None

    @model_validator(mode="before")
    @classmethod
    def _of_two(cls, data: Any) -> Any:
        """Documents written before lofts took more outlines name a `first` and a `second` one."""
        if isinstance(data, dict) and "first" in data and "second" in data:
            rest = {name: value for name, value in data.items() if name not in ("first", "second")}
            return {**rest, "over": [data["first"], data["second"]]}
        return data

    def sentence(self) -> str:
        begin = " from {begin}" if self.begin else ""
        end = " to {end}" if self.end else ""
        return f"Loft {{shape}}{begin} over {{over}}{end}{self.onto()}"

    def more(self) -> str:
        point = "".join(f"; {name}s at {{{name}}}" for name in ("begin", "end") if getattr(self, name) is None)
        return f"corners matched, turned by {{turn}}{point}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        drawn = [step for step in before.steps if step.type in ("sketch", "point")]
        if drawn and drawn[-1].type == "point":  # set after the outline: it is drawn to that point
            over, end = newest_sketches(before, 1, cls.word), {"end": {"datum": drawn[-1].id}}
        else:
            over, end = newest_sketches(before, 2, cls.word, or_else="a sketch and then a datum point"), {}
        return {"over": [{"sketch": sketch} for sketch in over], "result": usual_result(before), **end}

    def build(self, at: Builder) -> None:
        targets = self.targets(at)
        sections: list[tuple[Region, Frame]] = []
        for number, pick in enumerate(self.over, 1):
            sketch, regions = at.regions("over", pick)
            if len(regions) != 1:
                words = f"Outline {number}, “{sketch.name}”, has {len(regions)} areas; a loft runs over one."
                at.fail("over", words, "Pick one of its areas.")
            sections.append((regions[0], sketch.frame))
        first, last = (next(iter(at.spots(field)), None) for field in ("begin", "end"))
        straight = self.shape == "straight"
        made = at.kernel("over", kernel.loft.loft, sections, straight=straight, turn=self.turn, first=first, last=last)
        at.lines(made.matched)
        sketch = at.sketch(self.over[0].sketch, "over")
        self.combine(at, targets, [("", at.named(made.made, sketch=sketch))], "over")
