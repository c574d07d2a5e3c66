"""Mirror: the image of steps, a feature or a body in a plane."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.copying import Copying
from supplecast.document.fields import PlaneField, PlanePick
from supplecast.document.step import Before


class Mirror(Copying):
    """The image in a plane of what steps added or cut, of a feature given by its faces, or of a body. Joined, a body and its
    image become one body and flush faces one face.

    Example: {"id": "m1", "type": "mirror", "across": {"plane": "side"}}
    """

    type: Literal["mirror"] = "mirror"
    word = "Mirror"
    purpose = "the image in a plane"
    follows = "delete body"
    picture = ("M4 20V8l8 4v8z", "M16 2v20M28 20V8l-8 4v8z")
    suits = ("faces",)

    across: PlaneField = PlanePick(plane="side")
    result: Literal["joined", "as a new body"] = "joined"  # type: ignore[assignment]

    def sentence(self) -> str:
        subject = "{of} {body}" if self.of == "a body" else self.subject()
        return f"Mirror {subject} across {{across}}" + (", {result}" if self.of == "a body" else "")

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        return {"across": face} if face else {}

    def build(self, at: Builder) -> None:
        plane = at.frame("across")
        if self.of != "a body":
            self.spread(at, {"mirror": kernel.move.reflection(plane)}, "across")
            return
        joined = self.result == "joined"
        entry = at.target(self.body) if joined else at.body(self.body)
        image = at.named(at.kernel("across", kernel.move.mirror, entry.body.solid, plane), entry.body)
        if joined:
            made = at.kernel("across", kernel.boolean.fuse, entry.body.solid, [image.solid])
            at.replace(entry, at.named(made, entry.body, image))
        else:
            at.new(image, entry.role, self.name or f"{entry.name} (mirrored)")
