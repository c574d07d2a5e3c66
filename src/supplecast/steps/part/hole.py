"""Hole: plain round holes."""

from __future__ import annotations

from typing import Literal

from supplecast.document.builder import Builder
from supplecast.document.drilling import Drilling, Ring
from supplecast.document.fields import Length


class Hole(Drilling):
    """Plain round holes from a face or plane downwards, at the points of a sketch and at picked points, all cut at once.

    Example: {"id": "h1", "type": "hole", "diameter": "4 mm", "sketch": "k3f", "into": {"face": "p81.end"}}
    """

    type: Literal["hole"] = "hole"
    word = "Hole"
    purpose = "plain round holes at points"
    search = "drill bore round opening"
    follows = "loft"
    picture = ("M3 10h26v11H3z", "M12 10v11M20 10v11M12 10c2-2 6-2 8 0s-6 2-8 0")
    suits = (
        "faces",
        "edges",
    )

    diameter: Length = "4 mm"

    def sentence(self) -> str:
        return f"Hole {{diameter}} wide, {self.where()}"

    def build(self, at: Builder) -> None:
        wide = at.mm("diameter")
        self.drill(at, "diameter", [Ring("wall", wide, wide)])
