"""Revolve: an outline turned about an axis of its sketch."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, BodyPick, ProfileField
from supplecast.document.shaping import Result, combine, newest_sketches, target_of, usual_result
from supplecast.document.step import Step

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Revolve(Step):
    """Turn the areas of a sketch about the sketch's own x or y axis. The outline may touch the axis but not cross it.

    Example: {"id": "r1", "type": "revolve", "profile": {"sketch": "k3f"}, "axis": "y", "angle": "360"}
    """

    type: Literal["revolve"] = "revolve"
    word = "Revolve"
    purpose = "turn an outline about an axis"
    rank = 30

    profile: ProfileField
    axis: Literal["x", "y"] = "y"
    angle: Angle = "360"
    result: Result = "new"
    body: BodyPick = None

    def sentence(self) -> str:
        onto = {"new": "", "add": " to {body}", "cut": " from {body}"}[self.result]
        return "Revolve {profile} about the sketch's {axis} by {angle}, {result}" + onto

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        (sketch,) = newest_sketches(document, 1, cls.word)
        return {"profile": {"sketch": sketch}, "result": usual_result(document)}

    def build(self, at: Builder) -> None:
        target = target_of(at, self.result, self.body)
        sketch, regions = at.regions("profile")
        angle = at.radians("angle", 0.0, 360.0)
        way = (1.0, 0.0) if self.axis == "x" else (0.0, 1.0)
        tools = []
        for region in regions:
            made = at.kernel("profile", kernel.revolve.revolve, region, sketch.frame, (0.0, 0.0), way, min(angle, 2 * math.pi))
            tools.append((region.name, at.named(made, sketch=sketch)))
        combine(at, self.result, target, tools)
