"""Axis: a datum axis to turn, pattern or measure about."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AxisField, AxisPick, PlaneField, PlanePick, Spots
from supplecast.document.step import Before, Step
from supplecast.geometry import Axis, Frame


class AxisStep(Step):
    """A datum axis: along an edge, a sketch line or the middle of a round face; where two planes meet; or through two points.

    Example: {"id": "ax1", "type": "axis", "how": "where planes meet", "first": {"plane": "front"}, "second": {"plane": "side"}}
    """

    type: Literal["axis"] = "axis"
    word = "Axis"
    purpose = "a datum axis to turn or copy about"
    search = "datum reference line centre"
    follows = "plane"
    document_kinds = ("part", "tool", "assembly")
    picture = ("M5 19c0-3 22-3 22 0s-22 3-22 0", "M16 2v20")
    suits = (
        "edges",
        "faces",
    )

    how: Literal["along", "where planes meet", "through two points"] = "along"
    of: AxisField = AxisPick(axis="z")
    first: PlaneField = PlanePick(plane="front")
    second: PlaneField = PlanePick(plane="side")
    points: Spots = ()

    def sentence(self) -> str:
        words = {
            "along": "{how} {of}",
            "where planes meet": "{how}: {first} and {second}",
            "through two points": "{how}: {points}",
        }
        return f"Axis {{name}} {words[self.how]}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        if len(faces) == 2:
            return {"how": "where planes meet", "first": faces[0], "second": faces[1]}
        return {"of": picked[0]} if picked else {}

    def build(self, at: Builder) -> None:
        axis = self._axis(at)
        at.place("axis", Frame.lying(axis.point, axis.direction))

    def _axis(self, at: Builder) -> Axis:
        if self.how == "along":
            return at.axis("of")
        if self.how == "where planes meet":
            return at.kernel("second", kernel.datums.crossing, at.frame("first"), at.frame("second"))
        points = at.spots("points")
        if len(points) != 2:
            at.fail("points", f"Two points are needed; {len(points)} are picked.", "Pick corners or centres in the view.")
        return at.kernel("points", kernel.datums.through_two, *points)
