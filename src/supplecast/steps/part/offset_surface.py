"""Offset surface: a surface at a distance from faces or from another surface."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, BodyPick, Faces
from supplecast.document.step import Before, Step


class OffsetSurface(Step):
    """A new surface at a distance from faces of a body, or from a whole surface, out of the material or in front. Zero copies
    the faces.

    Example: {"id": "os1", "type": "offset surface", "faces": [{"face": "p81.end"}], "distance": "2 mm"}
    """

    type: Literal["offset surface"] = "offset surface"
    word = "Offset surface"
    purpose = "a surface at a distance from faces"
    search = "parallel surface gap clearance skin"
    follows = "thicken"
    picture = ("M4 20c6-9 18-9 24 0", "M4 12c6-9 18-9 24 0")
    suits = ("faces",)

    of: Literal["faces", "a surface"] = "faces"
    faces: Faces = ()
    surface: BodyPick = None
    distance: AnyLength = "2 mm"

    @property
    def surfaces_made(self) -> tuple[str, ...]:
        return (self.id,)

    def sentence(self) -> str:
        return f"Offset surface {{distance}} off {{of}} {'{faces}' if self.of == 'faces' else '{surface}'}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        drawn = before.surfaces()
        return {"of": "a surface", "surface": drawn[-1]} if drawn and not faces else {"faces": faces}

    def build(self, at: Builder) -> None:
        distance = at.mm("distance")
        if self.of == "a surface":
            body = at.surface("surface").body
        else:
            at.need_picks("faces", "Pick faces that hang together.")
            entry = at.holder("faces", None, changes=False)
            made = at.kernel("faces", kernel.surface.peeled, entry.body.solid, at.faces("faces", entry))
            body = at.named(made, entry.body)
        handling.on_face(at, "distance", body.solid, [0])
        if distance:
            body = at.named(at.kernel("distance", kernel.surface.aside, body.solid, distance), body)
        at.new(body, "surface", self.name or "Surface")
