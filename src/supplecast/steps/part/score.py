"""Score: an outline marked on a face."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Faces, ProfileField
from supplecast.document.shaping import newest_sketches
from supplecast.document.step import Before, Step
from supplecast.naming.tag import maker, role


class Score(Step):
    """Mark a face with the outline of a sketch, straight down from its plane, so that what lies inside can be picked apart:
    to give it a finish, a draft or a thickness of its own. The shape does not change.

    Example: {"id": "sc1", "type": "score", "profile": {"sketch": "k4a"}, "face": [{"face": "p81.end"}]}
    """

    type: Literal["score"] = "score"
    word = "Score"
    purpose = "mark a face with an outline"
    search = "mark outline area imprint sticker label finish colour"
    follows = "remove face"
    picture = ("M4 19l6-12h18l-6 12z", "M13 13c2-3 8-3 7 0s-9 3-7 0")
    suits = ("faces",)

    profile: ProfileField
    face: Faces = ()

    def sentence(self) -> str:
        return "Score {face} with {profile}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        (sketch,) = newest_sketches(before, 1, cls.word)
        return {"profile": {"sketch": sketch}, "face": [pick for pick in picked if "face" in pick]}

    def build(self, at: Builder) -> None:
        sketch, regions = at.regions("profile")
        entry, face = at.only_face("face", "Pick the face to mark.")
        entry = at.target(entry.id)
        body = entry.body
        for region in regions:
            made = at.kernel("profile", kernel.split_face.imprint, body.solid, face, region, sketch.frame)
            label = region.name
            named = at.named(made, body)
            tags = tuple(
                tuple(f"{t}[{label}]" if (maker(t), role(t)) == (self.id, "scored") else t for t in row) for row in named.tags
            )
            kept = [index for index, row in enumerate(tags) if body.tags[face][0] in row]
            body = type(body)(named.solid, tags)
            if kept:
                face = kept[0]
        at.replace(entry, body)
