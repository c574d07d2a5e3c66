"""Bridge surface: a surface from one run of edges to another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Edges
from supplecast.document.step import Before, Step


class BridgeSurface(Step):
    """A surface of straight lines from one run of edges to another, of one body or of two. Both close, or both end.

    Example: {"id": "br1", "type": "bridge surface",
    "first": [{"rule": "edges of", "of": "sf1.side[C1]"}], "second": [{"rule": "edges of", "of": "sf2.side[C1]"}]}
    """

    type: Literal["bridge surface"] = "bridge surface"
    word = "Bridge surface"
    purpose = "a surface from edges to edges"
    search = "join connect two edges surface blend"
    follows = "fill hole"
    picture = ("M5 20c4-6 18-6 22 0M9 4c4 4 10 4 14 0", "M5 20L9 4M27 20L23 4M12 16l1-9M20 16l-1-9")
    suits = ("edges",)

    first: Edges = ()
    second: Edges = ()

    @property
    def surfaces_made(self) -> tuple[str, ...]:
        return (self.id,)

    def sentence(self) -> str:
        return "Bridge surface from {first} to {second}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        edges = [pick for pick in picked if "edge" in pick]
        return {"first": edges[:1], "second": edges[1:2]} if len(edges) == 2 else {"first": edges}

    def build(self, at: Builder) -> None:
        entries = [at.holder(field, None, changes=False) for field in ("first", "second")]
        runs = [(entry.body.solid, at.edges(field, entry)) for field, entry in zip(("first", "second"), entries, strict=True)]
        made = at.kernel("second", kernel.patch.bridged, *runs)
        at.new(at.named(made, *(entry.body for entry in entries)), "surface", self.name or "Surface")
