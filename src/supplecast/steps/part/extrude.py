"""Extrude: an outline raised to a height, as a new body, added to one or cut from it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.curves import Region
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, BodyPick, Length, ProfileField
from supplecast.document.shaping import Result, combine, newest_sketches, target_of, usual_result
from supplecast.document.state import SketchEntry
from supplecast.document.step import Step
from supplecast.naming import Body

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Extrude(Step):
    """Raise the areas of a sketch up, down or to both sides of its plane, with or without draft.

    Positive draft narrows the outline on the way. `through all` goes past the far end of the body it adds to or cuts.
    Example: {"id": "p81", "type": "extrude", "profile": {"sketch": "k3f"}, "distance": "27 mm", "draft": "1.5 deg"}
    """

    type: Literal["extrude"] = "extrude"
    word = "Extrude"
    purpose = "raise an outline: new body, add or cut"
    rank = 20

    profile: ProfileField
    extent: Literal["by distance", "through all"] = "by distance"
    distance: Length = "10 mm"
    direction: Literal["up", "down", "both ways"] = "up"
    draft: Angle = "0"
    result: Result = "new"
    body: BodyPick = None

    def sentence(self) -> str:
        far = "{extent}" if self.extent == "through all" else "{extent} {distance}"
        onto = {"new": "", "add": " to {body}", "cut": " from {body}"}[self.result]
        return f"Extrude {{profile}} {far} {{direction}}, draft {{draft}}, {{result}}{onto}"

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        (sketch,) = newest_sketches(document, 1, cls.word)
        return {"profile": {"sketch": sketch}, "result": usual_result(document), "distance": "10 mm"}

    def build(self, at: Builder) -> None:
        entry = target_of(at, self.result, self.body)
        sketch, regions = at.regions("profile")
        draft = at.radians("draft")
        if entry is None:
            if self.extent == "through all":
                at.fail("extent", "A new body has nothing to go through.", "Give it a distance.")
            length = at.mm("distance")
            combine(at, "new", None, [(r.name, self._raised(at, sketch, r, length, draft)) for r in regions])
            return
        if self.extent == "through all":
            box = kernel.measure.loose_box(entry.body.solid)
            length = 2 * (box.diagonal + math.dist(box.centre, sketch.frame.origin))
        else:
            length = at.mm("distance")
        combine(at, self.result, entry, [(r.name, self._raised(at, sketch, r, length, draft)) for r in regions])

    def _raised(self, at: Builder, sketch: SketchEntry, region: Region, length: float, draft: float) -> Body:
        if self.direction == "both ways":
            made = at.kernel("draft", kernel.solid.extrude_both, region, sketch.frame, length, draft=draft)
        else:
            up = self.direction == "up"
            made = at.kernel("draft", kernel.solid.extrude, region, sketch.frame, length, up=up, draft=draft)
        return at.named(made, sketch=sketch)
