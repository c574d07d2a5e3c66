"""Wanted gap: how far apart two bodies are to be."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import molding
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, LengthFromZero
from supplecast.document.step import Before, Step


class WantedGap(Step):
    """What the least distance between two bodies is to be, from `least` to `most`. The gauge of gaps holds it against the
    bodies as they are in the end, whatever steps come after.

    Example: {"id": "wg", "type": "wanted gap", "first": "lid", "second": "base", "least": "0.1 mm", "most": "0.2 mm"}
    """

    type: Literal["wanted gap"] = "wanted gap"
    word = "Wanted gap"
    purpose = "a gap to be kept between two bodies"
    search = "clearance fit tolerance interference distance check rule"
    follows = "measure"
    picture = ("M3 4h10v16H3zM19 4h10v16H19z", "M13 12h6m-2-2l2 2-2 2M15 10l-2 2 2 2")

    document_kinds = ("part", "tool", "assembly")

    first: BodyPick = None
    second: BodyPick = None
    least: LengthFromZero = "0.1 mm"
    most: LengthFromZero = "0.3 mm"

    def sentence(self) -> str:
        return "Between {first} and {second} a gap of {least} to {most}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        pair = before.pair(picked)
        return {"first": pair["body"], "second": pair["tools"][0]} if pair else {}

    def build(self, at: Builder) -> None:
        first = at.body(self.first, "first")
        second = at.body(self.second, "second")
        if first.id == second.id:
            at.fail("second", f"A gap lies between two bodies; both are {first.name}.", "Choose another body.")
        least, most = at.mm("least"), at.mm("most")
        if most < least:
            at.fail("most", f"The most, {at.in_unit(most)}, is less than the least, {at.in_unit(least)}.", "Type a larger one.")
        at.figure("least", least)
        at.figure("most", most)
        unit = at.scope.unit
        within = max(most, molding.clearances.NEAR)
        met = molding.clearances.meeting(first.body.solid, second.body.solid, within)
        if met is None:
            words = f"over {at.in_unit(within)} {unit} apart"
        elif met.volume:
            words = "they overlap"
        else:
            words = f"{at.in_unit(met.away)} {unit} here"
        holds = met is not None and not met.volume and least <= round(met.away, 6) <= most
        at.reading(words, 0.0 if holds else 2.0, 1.0)
