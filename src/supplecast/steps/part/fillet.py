"""Fillet: edges rounded to one radius."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Edges, Length
from supplecast.document.step import Step

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Fillet(Step):
    """Round the picked edges and all that run on from them smoothly.

    Example: {"id": "w2c", "type": "fillet", "edges": [{"rule": "uprights", "of": "p81"}], "radius": "8 mm"}
    """

    type: Literal["fillet"] = "fillet"
    word = "Fillet"
    purpose = "round edges to a radius"
    rank = 60
    picture = ("M5 21V5M5 21h22", "M5 9c0 8 4 12 12 12")
    suits = ("edges",)

    edges: Edges = ()
    radius: Length = "1 mm"
    body: BodyPick = None

    def sentence(self) -> str:
        return "Fillet {edges} radius {radius}"

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"edges": [pick for pick in picked if "edge" in pick], "radius": "2 mm"}

    def build(self, at: Builder) -> None:
        entry = at.holder("edges", self.body)
        radius = at.mm("radius")
        if not self.edges:
            at.fail("edges", "No edge is picked.", "Click the edges to round in the view, or choose a rule.")
        edges = at.edges("edges", entry)
        made = at.kernel("radius", kernel.blend.fillet, entry.body.solid, edges, radius)
        at.replace(entry, at.named(made, entry.body))
