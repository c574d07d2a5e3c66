"""Ejector pins in a mold base: headed, held by the retainer plate, guided where the part is and loose behind."""

from __future__ import annotations

from supplecast.geometry import Point2
from supplecast.tooling.base.component import Component, stepped
from supplecast.tooling.base.components import pin_head
from supplecast.tooling.stock import Stock, at_least

_LOOSE, _HEAD = 0.5, 0.25  # mm a side in the support plate, and round pin and head in the retainer (common practice, no source)


def ejector_pin(name: str, at: Point2, tip: float, wide: float, back: float, rest: float) -> Component:
    """A pin of a diameter from its `tip` to the level `rest`, where the ejector plate begins; `back` is the core plate's. Its
    hole is that in support and retainer plate: the one in core and insert is its maker's.
    """
    head, high = pin_head(wide)
    r, under = wide / 2, rest - high
    return Component(
        name,
        "Ejector pin",
        "ejection",
        at,
        stepped((tip, under, r), (under, rest, head / 2)),
        Stock("Ejector pin", "round", (wide, at_least(rest - tip)), "X40CrMoV5-1", "ISO 6751", rest - tip),
        hole=stepped((back, under, r + _LOOSE), (under, rest, head / 2 + _HEAD)),
        through=("support", "retainer"),
    )
