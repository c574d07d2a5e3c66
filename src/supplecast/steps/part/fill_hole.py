"""Fill hole: a surface laid into a loop of edges."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Edges
from supplecast.document.step import Before, Step


class FillHole(Step):
    """A surface in a closed loop of edges: flat where they lie in a plane, else as little bent as may be, or leaving its edges
    along the faces there. One edge of an opening stands for all of it.

    Example: {"id": "fh1", "type": "fill hole", "edges": [{"rule": "edges of", "of": "sf1.side[C1]"}]}
    """

    type: Literal["fill hole"] = "fill hole"
    word = "Fill hole"
    purpose = "a surface into a loop of edges"
    search = "patch cap close opening surface"
    follows = "extend surface"
    picture = ("M4 20V8l6-4h18v12l-6 4z", "M11 15c0-5 10-5 10 0s-10 5-10 0")
    suits = ("edges",)

    edges: Edges = ()
    meeting: Literal["touching", "smooth"] = "touching"

    @property
    def surfaces_made(self) -> tuple[str, ...]:
        return (self.id,)

    def sentence(self) -> str:
        return "Fill hole {edges}, {meeting} the faces round it"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"edges": [pick for pick in picked if "edge" in pick]}

    def build(self, at: Builder) -> None:
        entry = at.holder("edges", None, changes=False)
        made = at.kernel(
            "edges", kernel.patch.filled, entry.body.solid, at.edges("edges", entry), smooth=self.meeting == "smooth"
        )
        at.new(at.named(made, entry.body), "surface", self.name or "Surface")
