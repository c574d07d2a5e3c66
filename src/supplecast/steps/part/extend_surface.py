"""Extend surface: a surface carried on beyond its edges."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Edges, Length
from supplecast.document.step import Before, Step


class ExtendSurface(Step):
    """Carry a surface of one face on beyond all its edges, or beyond the picked ones alone: straight ones of a flat surface,
    sides of a curved one.

    Example: {"id": "es1", "type": "extend surface", "surface": "sf1", "by": "5 mm"}
    """

    type: Literal["extend surface"] = "extend surface"
    word = "Extend surface"
    purpose = "carry a surface on beyond its edges"
    search = "lengthen grow surface"
    follows = "offset surface"
    picture = ("M9 16l4-8h12l-4 8z", "M4 20l5-12h4M25 8h4l-5 12h-4M4 20h20")
    suits = ("edges",)

    surface: BodyPick = None
    by: Length = "5 mm"
    beyond: Literal["all its edges", "picked edges"] = "all its edges"
    edges: Edges = ()

    def sentence(self) -> str:
        if self.beyond == "all its edges":
            return "Extend surface {surface} by {by} beyond {beyond}"
        return "Extend surface by {by} beyond {beyond} {edges}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        edges = [pick for pick in picked if "edge" in pick]
        if edges:
            return {"beyond": "picked edges", "edges": edges}
        return {"surface": next(reversed(before.surfaces()), None)}

    def build(self, at: Builder) -> None:
        if self.beyond == "all its edges":
            entry, edges = at.surface("surface", changes=True), []
        else:
            entry = at.holder("edges", None)
            if entry.role != "surface":
                at.fail("edges", f"{entry.name} is a solid, not a surface.", "Pick edges of a surface.")
            edges = at.edges("edges", entry)
        made = at.kernel("by", kernel.extend.extended, entry.body.solid, at.mm("by"), edges)
        at.replace(entry, at.named(made, entry.body))
