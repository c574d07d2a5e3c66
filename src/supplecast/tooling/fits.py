"""How much air pins have in their holes: hole fits by ISO 286-2, and the gaps that printed and cast molds need."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Making = Literal["steel", "printed", "cast"]

# Up to a diameter in mm: hole H7 and shaft g6 as ISO 286-2 has them, µm: upper deviation of H7, upper and lower of g6.
_H7_G6 = (
    (3.0, 10, -2, -8),
    (6.0, 12, -4, -12),
    (10.0, 15, -5, -14),
    (18.0, 18, -6, -17),
    (30.0, 21, -7, -20),
    (50.0, 25, -9, -25),
    (80.0, 30, -10, -29),
    (120.0, 35, -12, -34),
)
_SIDE: dict[Making, float] = {"printed": 0.15, "cast": 0.15}  # mm a side (common practice: 0.1 to 0.2)


@dataclass(frozen=True)
class Fit:
    """The least and greatest clearance over the diameter, mm, and the gap a side that is drawn."""

    least: float
    greatest: float
    side: float


def h7_g6(diameter: float) -> Fit | None:
    """A locating pin in its hole, from the tables of ISO 286-2; None for diameters they do not hold here (over 120 mm)."""
    for upto, hole, upper, lower in _H7_G6:
        if diameter <= upto:
            least, greatest = -upper / 1000, (hole - lower) / 1000
            return Fit(least, greatest, (least + greatest) / 4)
    return None


def fit(making: Making, diameter: float) -> Fit | None:
    """The fit of register pins by how the mold is made."""
    if making == "steel":
        return h7_g6(diameter)
    side = _SIDE[making]
    return Fit(2 * side, 2 * side, side)
