"""Loft: a body drawn over two outlines."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.curves import Region
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, ProfileField
from supplecast.document.shaping import Result, combine, newest_sketches, target_of, usual_result
from supplecast.document.step import Step
from supplecast.geometry import Frame

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Loft(Step):
    """A body between the outlines of two sketches on different planes.

    Example: {"id": "q1", "type": "loft", "first": {"sketch": "k3f"}, "second": {"sketch": "k4a"}}
    """

    type: Literal["loft"] = "loft"
    word = "Loft"
    purpose = "draw a body over two outlines"
    rank = 50

    first: ProfileField
    second: ProfileField
    result: Result = "new"
    body: BodyPick = None

    def sentence(self) -> str:
        onto = {"new": "", "add": " to {body}", "cut": " from {body}"}[self.result]
        return "Loft from {first} to {second}, {result}" + onto

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        first, second = newest_sketches(document, 2, cls.word)
        return {"first": {"sketch": first}, "second": {"sketch": second}, "result": usual_result(document)}

    def build(self, at: Builder) -> None:
        target = target_of(at, self.result, self.body)
        sections: list[tuple[Region, Frame]] = []
        for field in ("first", "second"):
            sketch, regions = at.regions(field)
            if len(regions) != 1:
                at.fail(field, f"This sketch has {len(regions)} areas; a loft runs over one.", "Pick one of its areas.")
            sections.append((regions[0], sketch.frame))
        made = at.kernel("second", kernel.loft.loft, sections)
        combine(at, self.result, target, [("", at.named(made))])
