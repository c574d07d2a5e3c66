"""Stock: what a component of a tool is ordered as, and sizes that are kept in stock."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass
from typing import Literal

Form = Literal["plate", "round", "screw", "ring"]

_R10 = (1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0)
_R20 = (1.0, 1.12, 1.25, 1.4, 1.6, 1.8, 2.0, 2.24, 2.5, 2.8, 3.15, 3.55, 4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0)


def _decades(row: tuple[float, ...], rounded: dict[float, float]) -> tuple[float, ...]:
    whole = [round(value * factor, 3) for factor in (1.0, 10.0, 100.0, 1000.0) for value in row]
    return tuple(rounded.get(value, value) for value in whole)


THICK = _decades(_R10, {31.5: 32.0, 3.15: 3.0, 6.3: 6.0, 1.25: 1.2})
"""Thicknesses of plates, diameters of rounds and lengths of pins before they are cut off, mm: R10 of ISO 3, rounded as ISO 6753
and ISO 6751 do (from memory).
"""
DENSITY = 7.85
"""G/cm³ of steel (common handbook value, from memory)."""
WIDE = _decades(_R20, {11.2: 11.0, 22.4: 22.0, 31.5: 32.0, 35.5: 36.0, 112.0: 110.0, 224.0: 225.0})
"""Sides of plates and heights of spacers, mm: R20 of ISO 3, rounded (from memory: what is kept in stock differs by maker)."""


def at_least(size: float, series: tuple[float, ...] = THICK) -> float:
    """The size in mm next above one in a series."""
    return series[min(bisect_left(series, size - 1e-6), len(series) - 1)]


@dataclass(frozen=True)
class Stock:
    """What a component is ordered as: its kind in words, the sizes in mm that its form has, what it is made of, and the
    standard that it follows, blank for what is made for this tool; `cut` is the length in mm that it is cut off to.

    Sizes: plate length, width, thickness; round diameter, length; screw nominal, length; ring outside, inside, height.
    """

    kind: str
    form: Form
    sizes: tuple[float, ...]
    material: str
    norm: str = ""
    cut: float | None = None
