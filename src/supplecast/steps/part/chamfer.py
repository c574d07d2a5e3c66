"""Chamfer: edges bevelled by one distance."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Edges, Length
from supplecast.document.step import Step

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Chamfer(Step):
    """Bevel the picked edges, and all that run on from them smoothly, by the same distance on both faces.

    Example: {"id": "c2c", "type": "chamfer", "edges": [{"rule": "outer loop", "of": "p81.end"}], "distance": "1 mm"}
    """

    type: Literal["chamfer"] = "chamfer"
    word = "Chamfer"
    purpose = "bevel edges by a distance"
    rank = 70
    picture = ("M5 21V5M5 21h22", "M5 10l11 11")
    suits = ("edges",)

    edges: Edges = ()
    distance: Length = "1 mm"
    body: BodyPick = None

    def sentence(self) -> str:
        return "Chamfer {edges} by {distance}"

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"edges": [pick for pick in picked if "edge" in pick]}

    def build(self, at: Builder) -> None:
        entry = at.holder("edges", self.body)
        distance = at.mm("distance")
        if not self.edges:
            at.fail("edges", "No edge is picked.", "Click the edges to bevel in the view, or choose a rule.")
        edges = at.edges("edges", entry)
        made = at.kernel("distance", kernel.blend.chamfer, entry.body.solid, edges, distance)
        at.replace(entry, at.named(made, entry.body))
