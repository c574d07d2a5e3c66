"""Ejector blades: flat at the tip, where the part is narrow, on a round shank with a head as ejector pins have."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

from supplecast.geometry import Point2
from supplecast.tooling import stiffness
from supplecast.tooling.base.component import Component
from supplecast.tooling.base.pins import ejector_pin
from supplecast.tooling.stock import Stock, at_least

GAP = 0.1
"""Mm a side by which a blade is thinner than what it pushes on (common practice, no source)."""


@dataclass(frozen=True)
class BladeSize:
    """Thickness and width of the flat, and the diameter of the shank, mm."""

    thick: float
    wide: float
    shank: float

    @property
    def stiffness(self) -> float:
        """Second moment of area about its weak axis, mm⁴."""
        return self.wide * self.thick**3 / 12


BLADES = tuple(
    BladeSize(*row)
    for row in (
        (0.8, 3.8, 4.2), (1.0, 3.8, 4.2), (1.2, 3.8, 4.2), (1.0, 4.5, 5.0), (1.2, 4.5, 5.0), (1.5, 4.5, 5.0), (1.2, 5.5, 6.0),
        (1.5, 5.5, 6.0), (1.5, 7.5, 8.0), (2.0, 7.5, 8.0), (2.0, 9.5, 10.0), (2.0, 11.5, 12.0), (2.5, 11.5, 12.0),
        (2.5, 15.5, 16.0),
    )
)  # fmt: skip
"""Flat ejector pins (ISO 8693, from memory)."""


def usual(wall: float, long: float, most: float) -> BladeSize | None:
    """The thickest blade for a wall and a straight stretch so long, and of those the widest that is no wider than `most` mm;
    None where the wall is too thin or the stretch too short for any.
    """
    return max(_fitting(wall, long, most), key=lambda size: (size.thick, size.wide), default=None)


def _fitting(wall: float, long: float, most: float) -> Iterable[BladeSize]:
    return (s for s in BLADES if s.thick <= wall - 2 * GAP + 1e-9 and s.wide <= min(long - 2 * GAP, most) + 1e-9)


def blade_shank(name: str, at: Point2, tip: float, start: float, size: BladeSize, back: float, rest: float) -> Component:
    """The shank of a blade with its `tip` at a level, from `start` to the level `rest` where the ejector plate begins."""
    pin = ejector_pin(name, at, start, size.shank, back, rest)
    kind = f"Ejector blade {size.thick:g} × {size.wide:g}"
    long = round(rest - tip, 2)
    stock = Stock(kind, "round", (size.shank, at_least(long)), pin.stock.material, "ISO 8693", long)
    return replace(pin, name="Ejector blade", stock=stock)


def buckling_force(size: BladeSize, length: float) -> float:
    """N under which the flat, `length` mm long, gives way about its weak axis: Euler's third case (see `stiffness`)."""
    return math.pi**2 * stiffness.E * size.stiffness / (0.7 * length) ** 2
