"""Mirror: the image of steps, a feature or a body in a plane."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.copying import Copying
from supplecast.document.fields import PlaneField, PlanePick
from supplecast.document.several import several
from supplecast.document.step import Before


class Mirror(Copying):
    """The image in a plane of what steps added or cut, of a feature given by its faces, or of a body. Joined, a body and its
    image become one body and flush faces one face; `also` are further bodies, each mirrored like it.

    Example: {"id": "m1", "type": "mirror", "across": {"plane": "side"}}
    """

    type: Literal["mirror"] = "mirror"
    word = "Mirror"
    purpose = "the image in a plane"
    search = "symmetry reflect image flip copy"
    follows = "delete body"
    picture = ("M4 20V8l8 4v8z", "M16 2v20M28 20V8l-8 4v8z")
    suits = ("faces",)

    across: PlaneField = PlanePick(plane="side")
    result: Literal["joined", "as a new body"] = "joined"  # type: ignore[assignment]

    def sentence(self) -> str:
        subject = "{of} {body}{also}" if self.of == "a body" else self.subject()
        return f"Mirror {subject} across {{across}}" + (", {result}" if self.of == "a body" else "")

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        last = before.last
        plane = face or ({"datum": last.id} if last is not None and last.type == "plane" else None)
        body = {"body": before.bodies[-1]} if len(before.bodies) > 1 else {}
        return {**({"across": plane} if plane else {}), **body}

    def build(self, at: Builder) -> None:
        plane = at.frame("across")
        if self.of != "a body":
            self.spread(at, {"mirror": kernel.move.reflection(plane)}, "across")
            return
        joined = self.result == "joined"
        seek = at.target if joined else at.body
        entries = several(seek, seek(self.body), self.also)
        for number, entry in enumerate(entries):
            image = at.named(at.kernel("across", kernel.move.mirror, entry.body.solid, plane), entry.body)
            if joined:
                made = at.kernel("across", kernel.boolean.fuse, entry.body.solid, [image.solid])
                at.replace(entry, at.named(made, entry.body, image))
            else:
                name = self.name if self.name and len(entries) == 1 else f"{entry.name} (mirrored)"
                at.new(image, entry.role, name, entry.id if number else "")
