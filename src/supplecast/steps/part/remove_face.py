"""Remove face: faces taken away, or replaced by a plane, their neighbours carried on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Faces
from supplecast.document.step import Step

if TYPE_CHECKING:
    from supplecast.document.model import Document


class RemoveFace(Step):
    """Take away the faces of a boss, hole, round or bevel; the faces around them are carried on until they meet.

    Example: {"id": "rf1", "type": "remove face", "faces": [{"face": "w2c.blend{p81.side[L1]|p81.side[L2]}"}]}
    """

    type: Literal["remove face"] = "remove face"
    word = "Remove face"
    purpose = "take faces away, neighbours close the gap"
    rank = 86
    picture = ("M4 9h14v11H4zM4 9l6-5h14v11l-6 5M18 9l6-5", "M20 2l8 8M28 2l-8 8")
    suits = ("faces",)

    faces: Faces = ()

    def sentence(self) -> str:
        return "Remove face {faces}, its neighbours close the gap"

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"faces": [pick for pick in picked if "face" in pick]}

    def build(self, at: Builder) -> None:
        entry = at.holder("faces", None)
        if not self.faces:
            at.fail("faces", "No face is picked.", "Click the faces that are to go.")
        made = at.kernel("faces", kernel.feature.removed, entry.body.solid, at.faces("faces", entry))
        at.replace(entry, at.named(made, entry.body))
