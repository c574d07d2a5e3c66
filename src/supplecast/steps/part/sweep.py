"""Sweep: an outline carried along a path."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Profile, ProfileField
from supplecast.document.shaping import Result, combine, newest_sketches, target_of, usual_result
from supplecast.document.step import Step
from supplecast.sketch.paths import path

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Sweep(Step):
    """Carry the areas of a sketch along an open chain of lines and arcs, which begins in their plane and square to it.

    Sharp corners of the path are mitred.
    Example: {"id": "w1", "type": "sweep", "profile": {"sketch": "k3f"}, "path": {"sketch": "k4a"}, "result": "add"}
    """

    type: Literal["sweep"] = "sweep"
    word = "Sweep"
    purpose = "carry an outline along a path"
    rank = 40

    profile: ProfileField
    path: ProfileField
    result: Result = "new"
    body: BodyPick = None

    def sentence(self) -> str:
        onto = {"new": "", "add": " to {body}", "cut": " from {body}"}[self.result]
        return "Sweep {profile} along {path}, {result}" + onto

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        outline, path = newest_sketches(document, 2, cls.word)
        return {"profile": {"sketch": outline}, "path": {"sketch": path}, "result": usual_result(document)}

    def build(self, at: Builder) -> None:
        target = target_of(at, self.result, self.body)
        sketch, regions = at.regions("profile")
        way: Profile = self.path
        route = at.sketch(way.sketch, "path")
        middle = sketch.frame.point(regions[0].middle)
        chain = at.kernel("path", path, route.curves, route.frame.flat(middle))
        tools = []
        for region in regions:
            made = at.kernel("path", kernel.sweep.sweep, region, sketch.frame, chain, route.frame)
            tools.append((region.name, at.named(made, sketch=sketch)))
        combine(at, self.result, target, tools)
