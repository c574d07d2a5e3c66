"""Plain geometric values shared by sketch and kernel: frames in space, outline curves and regions in a plane.

Lengths in mm, angles in radians. Everything here is data; nothing needs the geometry kernel.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int32]
Vec = tuple[float, float, float]
Point2 = tuple[float, float]


def vec(values: Floats | tuple[float, ...] | list[float]) -> Vec:
    x, y, z = (float(v) for v in values)
    return (x, y, z)


def unit(v: Vec) -> Vec:
    """`v` at length one. ValueError for a vector without direction."""
    length = math.sqrt(sum(c * c for c in v))
    if length < 1e-12:
        raise ValueError("a direction needs a length")
    return (v[0] / length, v[1] / length, v[2] / length)


def times(v: Vec, factor: float) -> Vec:
    return (v[0] * factor, v[1] * factor, v[2] * factor)


def dot(a: Vec, b: Vec) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def along(p: Vec, direction: Vec, distance: float) -> Vec:
    """The point `distance` mm from `p` along `direction`."""
    return (p[0] + direction[0] * distance, p[1] + direction[1] * distance, p[2] + direction[2] * distance)


@dataclass(frozen=True)
class Frame:
    """A plane with axes: `origin`, in-plane `x`, and `normal`; y completes the right-handed triple."""

    origin: Vec = (0.0, 0.0, 0.0)
    x: Vec = (1.0, 0.0, 0.0)
    normal: Vec = (0.0, 0.0, 1.0)

    @property
    def y(self) -> Vec:
        (a, b, c), (d, e, f) = self.normal, self.x
        return (b * f - c * e, c * d - a * f, a * e - b * d)

    def point(self, p: Point2) -> Vec:
        x, y = self.x, self.y
        return (
            self.origin[0] + x[0] * p[0] + y[0] * p[1],
            self.origin[1] + x[1] * p[0] + y[1] * p[1],
            self.origin[2] + x[2] * p[0] + y[2] * p[1],
        )

    def flat(self, p: Vec) -> Point2:
        """Where a point of space lies in the plane, seen along its normal."""
        off = (p[0] - self.origin[0], p[1] - self.origin[1], p[2] - self.origin[2])
        return (dot(off, self.x), dot(off, self.y))

    def rounded(self) -> Frame:
        """The frame to a nanometre, for telling whether two are the same plane."""
        return Frame(*(vec([round(c, 6) + 0.0 for c in v]) for v in (self.origin, self.x, self.normal)))

    def shifted(self, distance: float) -> Frame:
        return Frame(along(self.origin, self.normal, distance), self.x, self.normal)


STANDARD_PLANES = {
    "top": Frame(),
    "front": Frame(x=(1.0, 0.0, 0.0), normal=(0.0, -1.0, 0.0)),
    "side": Frame(x=(0.0, 1.0, 0.0), normal=(1.0, 0.0, 0.0)),
}

DIRECTIONS: dict[str, Vec] = {
    "+x": (1.0, 0.0, 0.0),
    "-x": (-1.0, 0.0, 0.0),
    "+y": (0.0, 1.0, 0.0),
    "-y": (0.0, -1.0, 0.0),
    "+z": (0.0, 0.0, 1.0),
    "-z": (0.0, 0.0, -1.0),
}


@dataclass(frozen=True)
class Line2:
    entity: str
    a: Point2
    b: Point2

    def sampled(self, chords: int) -> Floats:
        return np.array([self.a, self.b])


@dataclass(frozen=True)
class Arc2:
    """Arc about `centre` from `a` to `b`; `ccw` tells the sense of travel."""

    entity: str
    centre: Point2
    a: Point2
    b: Point2
    ccw: bool

    @property
    def radius(self) -> float:
        return math.dist(self.centre, self.a)

    @property
    def sweep(self) -> float:
        """Signed angle travelled, in (-2π, 2π)."""
        start = math.atan2(self.a[1] - self.centre[1], self.a[0] - self.centre[0])
        end = math.atan2(self.b[1] - self.centre[1], self.b[0] - self.centre[0])
        turn = (end - start) % (2 * math.pi)
        return turn if self.ccw else turn - 2 * math.pi

    def sampled(self, chords: int) -> Floats:
        start = math.atan2(self.a[1] - self.centre[1], self.a[0] - self.centre[0])
        angles = start + np.linspace(0.0, self.sweep, chords + 1)
        points = np.column_stack([np.cos(angles), np.sin(angles)]) * self.radius + np.array(self.centre)
        points[0], points[-1] = self.a, self.b
        return np.asarray(points)


@dataclass(frozen=True)
class Circle2:
    entity: str
    centre: Point2
    radius: float
    ccw: bool = True

    def sampled(self, chords: int) -> Floats:
        angles = np.linspace(0.0, 2 * math.pi, chords * 4 + 1) * (1.0 if self.ccw else -1.0)
        return np.asarray(np.column_stack([np.cos(angles), np.sin(angles)]) * self.radius + np.array(self.centre))


Curve2 = Line2 | Arc2 | Circle2


@dataclass(frozen=True)
class Region:
    """A bounded piece of a sketch plane: one outer loop, counter-clockwise, and its holes, clockwise."""

    outer: tuple[Curve2, ...]
    holes: tuple[tuple[Curve2, ...], ...] = ()

    @property
    def key(self) -> str:
        """A name that lasts while the outline keeps its entities: the least entity id of the outer loop."""
        return min(curve.entity for curve in self.outer)

    @property
    def middle(self) -> Point2:
        """About the middle of the outer loop."""
        x, y = np.concatenate([curve.sampled(16)[:-1] for curve in self.outer]).mean(axis=0)
        return (float(x), float(y))
