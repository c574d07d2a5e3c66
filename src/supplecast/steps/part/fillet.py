"""Fillet: edges rounded to one radius."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Literal

from supplecast import kernel
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Edges, FieldSpec, Length, Row
from supplecast.document.step import Before, Step
from supplecast.errors import StepError


class OtherRadius(Row):
    """Edges with a radius of their own."""

    sentence: ClassVar[str] = "; {edges} radius {radius} "
    adding: ClassVar[str] = "other radius"

    edges: Edges = ()
    radius: Length = "2 mm"


class Fillet(Step):
    """Round the picked edges and all that run on from them smoothly; `others` are edges that get another radius at once, which
    is how rounds of several sizes meet in a corner.

    Example: {"id": "w2c", "type": "fillet", "edges": [{"rule": "uprights", "of": "p81"}], "radius": "8 mm"}
    """

    type: Literal["fillet"] = "fillet"
    word = "Fillet"
    purpose = "round edges to a radius"
    search = "round radius soften edge rounding"
    follows = "screw hole"
    picture = ("M5 21V5M5 21h22", "M5 9c0 8 4 12 12 12")
    suits = ("edges",)

    edges: Edges = ()
    radius: Length = "1 mm"
    others: Annotated[tuple[OtherRadius, ...], FieldSpec("rows")] = ()
    body: BodyPick = None

    @property
    def repeats(self) -> bool:
        return True

    def sentence(self) -> str:
        return "Fillet {edges} radius {radius}{others}"

    def more(self) -> str:
        return "{others.add}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"edges": [pick for pick in picked if "edge" in pick], "radius": "2 mm"}

    def build(self, at: Builder) -> None:
        paths = ["", *(f"others.{number}." for number in range(len(self.others)))]
        for path in paths:
            at.need_picks(f"{path}edges", "Click the edges to round in the view, or choose a rule.")
        entry = at.holder("edges", self.body)
        solid = entry.body.solid
        handling.on_edge(at, "radius", solid, at.edges("edges", entry))
        sets = [(at.edges(f"{path}edges", entry), at.mm(f"{path}radius")) for path in paths]
        try:
            made = at.kernel("radius", kernel.blend.fillets, solid, sets)
        except StepError:
            for number in range(len(self.others)):  # is it one of the others that does not fit, even alone?
                at.kernel(f"others.{number}.radius", kernel.blend.fillets, solid, [sets[number + 1]])
            raise
        at.replace(entry, at.named(made, entry.body))
        at.dressed(entry)
