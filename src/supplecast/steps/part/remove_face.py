"""Remove face: faces taken away, or one replaced by a plane; their neighbours follow."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Faces, PlaneField, PlanePick
from supplecast.document.step import Before, Step


class RemoveFace(Step):
    """Take away the faces of a boss, hole, round or bevel: the faces around them are carried on until they meet. Or lay one
    flat face into another plane, its neighbours following.

    Example: {"id": "rf1", "type": "remove face", "faces": [{"face": "w2c.blend{p81.side[L1]|p81.side[L2]}"}]}
    """

    type: Literal["remove face"] = "remove face"
    word = "Remove face"
    purpose = "take faces away, or lay one into a plane"
    search = "delete face defeature clean simplify"
    follows = "nudge"
    picture = ("M4 9h14v11H4zM4 9l6-5h14v11l-6 5M18 9l6-5", "M20 2l8 8M28 2l-8 8")
    suits = ("faces",)

    faces: Faces = ()
    instead: Literal["its neighbours close the gap", "a plane takes its place"] = "its neighbours close the gap"
    plane: PlaneField = PlanePick(plane="top")

    def sentence(self) -> str:
        plane = ": {plane}" if self.instead == "a plane takes its place" else ""
        return f"Remove face {{faces}}, {{instead}}{plane}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"faces": [pick for pick in picked if "face" in pick]}

    def build(self, at: Builder) -> None:
        entry = at.holder("faces", None)
        faces = at.faces("faces", entry)
        if self.instead == "a plane takes its place":
            if len(faces) != 1:
                at.fail("faces", f"One flat face can be replaced; {len(faces)} are picked.", "Pick one.")
            made = at.kernel("plane", kernel.feature.replaced, entry.body.solid, faces[0], at.frame("plane"))
        else:
            made = at.kernel("faces", kernel.feature.removed, entry.body.solid, faces)
        at.replace(entry, at.named(made, entry.body))
