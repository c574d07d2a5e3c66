"""Thicken: a surface given a wall."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Length
from supplecast.document.step import Before, Step


class Thicken(Step):
    """A solid of a surface and a thickness, to the side it looks to, to the other, or half to each. The surface is used up.

    Example: {"id": "th1", "type": "thicken", "surface": "sf1", "wall": "2 mm"}
    """

    type: Literal["thicken"] = "thicken"
    word = "Thicken"
    purpose = "give a surface a wall"
    search = "wall from surface sheet skin"
    follows = "measure"
    picture = ("M4 19C10 6 20 6 27 14", "M4 15C10 1 21 1 28 10l-1 4M4 19v-4")

    surface: BodyPick = None
    wall: Length = "2 mm"
    side: Literal["in front", "behind", "on both sides"] = "in front"

    @property
    def spent(self) -> tuple[str, ...]:
        return (self.surface,) if self.surface else ()

    def sentence(self) -> str:
        return "Thicken {surface} by {wall} {side}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"surface": next(reversed(before.surfaces()), None)}

    def build(self, at: Builder) -> None:
        entry = at.surface("surface", changes=True)
        wall, body = at.mm("wall"), entry.body
        if self.side == "on both sides":
            made = at.kernel("wall", kernel.surface.aside, body.solid, -wall / 2)
            body = at.named(made, body)
        sense = -1.0 if self.side == "behind" else 1.0
        made = at.kernel("wall", kernel.surface.thickened, body.solid, sense * wall)
        solid_name = self.name or re.sub(r"^Surface\b", "Body", entry.name)
        at.replace(entry, at.named(made, body), role="part", name=solid_name)
