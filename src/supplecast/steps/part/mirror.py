"""Mirror: a body's image in a plane, joined to it or beside it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, PlaneField, PlanePick
from supplecast.document.step import Step

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Mirror(Step):
    """The image of a body in a plane. Joined, both halves become one body and flush faces one face.

    Example: {"id": "m1", "type": "mirror", "across": {"plane": "side"}}
    """

    type: Literal["mirror"] = "mirror"
    word = "Mirror"
    purpose = "a body's image in a plane"
    rank = 120

    body: BodyPick = None
    across: PlaneField = PlanePick(plane="side")
    result: Literal["joined", "as a new body"] = "joined"

    def sentence(self) -> str:
        return "Mirror {body} across {across}, {result}"

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        return {"across": face} if face else {}

    def build(self, at: Builder) -> None:
        plane = at.frame("across")
        if self.result == "joined":
            entry = at.target(self.body)
            image = at.named(at.kernel("across", kernel.move.mirror, entry.body.solid, plane), entry.body)
            made = at.kernel("across", kernel.boolean.fuse, entry.body.solid, [image.solid])
            at.replace(entry, at.named(made, entry.body, image))
            return
        entry = at.body(self.body)
        image = at.named(at.kernel("across", kernel.move.mirror, entry.body.solid, plane), entry.body)
        at.new(image, entry.role, self.name or f"{entry.name}, mirrored")
