"""Lines and circles without ends: moved aside by a distance, and where they meet. Corners and offsets are built on them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.model import Arc, Circle, Line
from supplecast.sketch.pen import Pen


@dataclass(frozen=True)
class Straight:
    """The line through a point along a unit direction."""

    at: Point2
    direction: Point2

    def moved(self, aside: float) -> Straight:
        """Moved to its left by `aside` mm."""
        return Straight((self.at[0] - self.direction[1] * aside, self.at[1] + self.direction[0] * aside), self.direction)

    def foot(self, p: Point2) -> Point2:
        t = (p[0] - self.at[0]) * self.direction[0] + (p[1] - self.at[1]) * self.direction[1]
        return (self.at[0] + t * self.direction[0], self.at[1] + t * self.direction[1])


@dataclass(frozen=True)
class Round:
    """The circle about a centre; `ccw` says which way it is run through, so that its left side is known."""

    centre: Point2
    radius: float
    ccw: bool = True

    def moved(self, aside: float) -> Round:
        """Moved to its left: a counter-clockwise circle shrinks."""
        return Round(self.centre, self.radius - aside if self.ccw else self.radius + aside, self.ccw)

    def foot(self, p: Point2) -> Point2:
        d = math.dist(p, self.centre)
        if d < 1e-12:
            return (self.centre[0] + self.radius, self.centre[1])
        share = self.radius / d
        return (self.centre[0] + (p[0] - self.centre[0]) * share, self.centre[1] + (p[1] - self.centre[1]) * share)


Carrier = Straight | Round


def carrier(pen: Pen, name: str, *, back: bool = False) -> Carrier:
    """What a line, arc or circle lies on, run through from its start to its end, or `back`."""
    match pen.shape(name):
        case Line(a=a, b=b):
            p, q = (pen.at(b), pen.at(a)) if back else (pen.at(a), pen.at(b))
            length = math.dist(p, q)
            if length < 1e-9:
                raise SketchError(f"{pen.name(name).capitalize()} has no length.", "Erase it.")
            return Straight(p, ((q[0] - p[0]) / length, (q[1] - p[1]) / length))
        case Arc(c=c, cw=cw):
            return Round(pen.at(c), pen.radius(name), cw == back)
        case Circle(c=c):
            return Round(pen.at(c), pen.radius(name), not back)
    raise SketchError("Only lines, arcs and circles can be used for this.", "Pick such curves.")


def meeting(a: Carrier, b: Carrier) -> list[Point2]:
    """Where two carriers meet; touching counts within a nanometre."""
    if isinstance(a, Straight) and isinstance(b, Straight):
        cross = a.direction[0] * b.direction[1] - a.direction[1] * b.direction[0]
        if abs(cross) < 1e-12:
            return []
        t = ((b.at[0] - a.at[0]) * b.direction[1] - (b.at[1] - a.at[1]) * b.direction[0]) / cross
        return [(a.at[0] + t * a.direction[0], a.at[1] + t * a.direction[1])]
    if isinstance(a, Straight) and isinstance(b, Round):
        foot = a.foot(b.centre)
        off = math.dist(foot, b.centre)
        if b.radius < 0 or off > b.radius + 1e-9:
            return []
        half = math.sqrt(max(b.radius**2 - off**2, 0.0))
        return [(foot[0] + s * half * a.direction[0], foot[1] + s * half * a.direction[1]) for s in (-1, 1)]
    if isinstance(b, Straight):
        return meeting(b, a)
    assert isinstance(a, Round) and isinstance(b, Round)
    d = math.dist(a.centre, b.centre)
    if d < 1e-9 or a.radius < 0 or b.radius < 0 or d > a.radius + b.radius + 1e-9 or d < abs(a.radius - b.radius) - 1e-9:
        return []
    u = ((b.centre[0] - a.centre[0]) / d, (b.centre[1] - a.centre[1]) / d)
    along = (d * d + a.radius**2 - b.radius**2) / (2 * d)
    half = math.sqrt(max(a.radius**2 - along**2, 0.0))
    base = (a.centre[0] + along * u[0], a.centre[1] + along * u[1])
    return [(base[0] - s * half * u[1], base[1] + s * half * u[0]) for s in (-1, 1)]


def nearest_of(places: Sequence[Point2], p: Point2) -> Point2 | None:
    return min(places, key=lambda q: math.dist(p, q), default=None)
