"""Nudge: faces moved along their normals."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Faces
from supplecast.document.step import Before, Step


class Nudge(Step):
    """Move faces along their normals, out of the material or, with a negative distance, into it; neighbours follow.

    A round face grows or shrinks: a boss or a hole by the distance all round. Rounds on the edges of what is moved come along.
    Example: {"id": "n1", "type": "nudge", "faces": [{"face": "p81.end"}], "distance": "1.5 mm"}
    """

    type: Literal["nudge"] = "nudge"
    word = "Nudge"
    purpose = "move faces along their normals"
    search = "push pull face offset move face gap clearance oversize"
    follows = "draft"
    picture = ("M4 6h13v14H4z", "M17 6h7v14h-7M20 13h8m-3-3l3 3-3 3")
    suits = ("faces",)

    faces: Faces = ()
    distance: AnyLength = "1 mm"

    def sentence(self) -> str:
        return "Nudge {faces} by {distance}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"faces": [pick for pick in picked if "face" in pick]}

    def build(self, at: Builder) -> None:
        entry = at.holder("faces", None)
        distance = at.mm("distance")
        faces = at.faces("faces", entry)
        handling.on_face(at, "distance", entry.body.solid, faces)
        made = at.kernel("distance", kernel.carry_rounds.offset, entry.body.solid, faces, distance)
        at.replace(entry, at.named(made, entry.body))
