"""A component of a mold base: round about an axis along the pull, with the holes it needs in what it passes through."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from supplecast.geometry import Point2
from supplecast.tooling.base.places import Round
from supplecast.tooling.base.stack import Side
from supplecast.tooling.stock import Stock

Outline = tuple[Point2, ...]
"""(level, radius), levels rising: two points at one level make a step."""


def stepped(*spans: tuple[float, float, float]) -> Outline:
    """The outline of cylinders one after another, each (from level, to level, radius), given in any order."""
    ordered = sorted((min(a, b), max(a, b), radius) for a, b, radius in spans)
    return tuple(point for low, high, radius in ordered for point in ((low, radius), (high, radius)))


@dataclass(frozen=True)
class Component:
    """A turned body on the axis at (u, v), hollow along `inner`, and the `hole` it needs in all that it passes `through`:
    plates and other components, by id.

    One outline serves all of them, so that a hole is concentric through its whole stack by making.
    """

    id: str
    name: str
    side: Side
    at: Point2
    outer: Outline
    stock: Stock
    inner: Outline = ()
    hole: Outline = ()
    through: tuple[str, ...] = ()
    cup: tuple[float, float, float] | None = None
    """A round seat in its low end: the level, the ball's radius, and how deep it is, mm."""

    @property
    def rounds(self) -> list[Round]:
        """What its hole takes of the plates."""
        return rounds(self.at, self.hole)


def rounds(at: Point2, outline: Outline) -> list[Round]:
    """The cylinders of an outline at a place."""
    pairs: Iterable[tuple[Point2, Point2]] = zip(outline, outline[1:], strict=False)
    return [Round(at, max(a[1], b[1]), a[0], b[0]) for a, b in pairs if b[0] - a[0] > 1e-9]
