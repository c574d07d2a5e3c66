"""Extend surface: a surface carried on beyond its edges."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Length
from supplecast.document.step import Step


class ExtendSurface(Step):
    """Carry a surface of one face on beyond all its edges.

    Example: {"id": "es1", "type": "extend surface", "surface": "sf1", "by": "5 mm"}
    """

    type: Literal["extend surface"] = "extend surface"
    word = "Extend surface"
    purpose = "carry a surface on beyond its edges"
    follows = "offset surface"
    picture = ("M9 16l4-8h12l-4 8z", "M4 20l5-12h4M25 8h4l-5 12h-4M4 20h20")

    surface: BodyPick = None
    by: Length = "5 mm"

    def sentence(self) -> str:
        return "Extend surface {surface} by {by}"

    def build(self, at: Builder) -> None:
        entry = at.surface("surface", changes=True)
        made = at.kernel("by", kernel.surface.extended, entry.body.solid, at.mm("by"))
        at.replace(entry, at.named(made, entry.body))
