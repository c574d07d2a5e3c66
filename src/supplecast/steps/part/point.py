"""Point: a datum point to measure from or scale about."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Spot, SpotField
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame


class Point(Step):
    """A datum point: a corner, a place along an edge, the centre of a round edge or the middle of a face, moved as typed.

    Example: {"id": "pt1", "type": "point", "place": {"origin": true}, "x": "10 mm"}
    """

    type: Literal["point"] = "point"
    word = "Point"
    purpose = "a datum point: corner, centre, place on an edge"
    search = "datum reference vertex place"
    follows = "axis"
    document_kinds = ("part", "tool", "assembly")
    picture = ("M4 9h14v11H4zM4 9l6-5h14v11l-6 5M18 9l6-5", "M18 6v6M15 9h6")
    suits = (
        "edges",
        "faces",
    )

    place: SpotField = Spot(origin=True)
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"
    z: AnyLength = "0 mm"

    def sentence(self) -> str:
        return "Point {name} at {place}, moved by {x}, {y}, {z}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"place": picked[0]} if picked else {}

    def build(self, at: Builder) -> None:
        points = at.spots("place")
        if not points:
            at.fail("place", "No point is picked.", "Pick a corner, a round edge or a face.")
        x, y, z = points[0]
        at.place("point", Frame(origin=(x + at.mm("x"), y + at.mm("y"), z + at.mm("z"))))
