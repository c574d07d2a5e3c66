"""Sew: surfaces that close made a solid."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPicks
from supplecast.document.step import Before, Step


class Sew(Step):
    """Join surfaces along the edges they share; where they close all round they become a solid. They are used up.

    Example: {"id": "sw1", "type": "sew", "surfaces": ["sf1", "sf2"]}
    """

    type: Literal["sew"] = "sew"
    word = "Sew"
    purpose = "join surfaces into a solid"
    search = "stitch join surfaces close watertight"
    follows = "extend surface"
    picture = ("M4 6h10v13H4zM18 6h10v13H18z", "M14 8h4M14 12h4M14 16h4")

    surfaces: BodyPicks = ()

    @property
    def spent(self) -> tuple[str, ...]:
        return self.surfaces

    def sentence(self) -> str:
        return "Sew {surfaces} into a solid"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"surfaces": before.surfaces()}

    def build(self, at: Builder) -> None:
        if len(self.surfaces) < 2:
            at.fail("surfaces", "Two surfaces or more are needed.", "Choose those that close together.")
        entries = [at.target(name, "surfaces") for name in self.surfaces]
        wrong = next((entry for entry in entries if entry.role != "surface"), None)
        if wrong is not None:
            at.fail("surfaces", f"{wrong.name} is a solid, not a surface.", "Leave it out.")
        made = at.kernel("surfaces", kernel.surface.sewn, [entry.body.solid for entry in entries])
        at.new(at.named(made, *(entry.body for entry in entries)), "part", self.name or "Body")
        for entry in entries:
            at.remove(entry)
