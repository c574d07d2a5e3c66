"""Plain geometric values shared by sketch and kernel: frames in space, outline curves and regions in a plane.

Lengths in mm, angles in radians. Everything here is data; nothing needs the geometry kernel.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int32]
Rows = NDArray[np.int64]
Bools = NDArray[np.bool_]
Vec = tuple[float, float, float]
Point2 = tuple[float, float]


def vec(values: Floats | tuple[float, ...] | list[float]) -> Vec:
    x, y, z = (float(v) for v in values)
    return (x, y, z)


def rounded(values: Iterable[float], digits: int) -> Vec:
    """Three numbers to so many digits after the point."""
    x, y, z = (round(value, digits) for value in values)
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


def subtract(a: Vec, b: Vec) -> Vec:
    """The vector from `b` to `a`."""
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


def cross(a: Vec, b: Vec) -> Vec:
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def turned(v: Vec, axis: Vec, angle: float) -> Vec:
    """`v` turned by `angle` rad about the unit vector `axis` (Rodrigues' formula)."""
    c, s, w = math.cos(angle), math.sin(angle), cross(axis, v)
    share = dot(axis, v) * (1 - c)
    return (
        v[0] * c + w[0] * s + axis[0] * share,
        v[1] * c + w[1] * s + axis[1] * share,
        v[2] * c + w[2] * s + axis[2] * share,
    )


def _mixed(a: Vec, share: float, b: Vec, other: float) -> Vec:
    return (a[0] * share + b[0] * other, a[1] * share + b[1] * other, a[2] * share + b[2] * other)


@dataclass(frozen=True)
class Mass:
    """Volume in mm³, surface in mm², centre of volume in mm."""

    volume: float
    area: float
    centroid: Vec


@dataclass(frozen=True)
class Box:
    """Axis-parallel box, mm."""

    low: Vec
    high: Vec

    @property
    def size(self) -> Vec:
        return (self.high[0] - self.low[0], self.high[1] - self.low[1], self.high[2] - self.low[2])

    @property
    def centre(self) -> Vec:
        return (
            (self.high[0] + self.low[0]) / 2,
            (self.high[1] + self.low[1]) / 2,
            (self.high[2] + self.low[2]) / 2,
        )

    @property
    def corners(self) -> list[Vec]:
        (a, b, c), (d, e, f) = self.low, self.high
        return [(x, y, z) for x in (a, d) for y in (b, e) for z in (c, f)]

    @property
    def diagonal(self) -> float:
        return float(sum(s * s for s in self.size) ** 0.5)


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

    def space(self, points: Floats) -> Floats:
        """Points of the plane, shape (n, 2), as points of space, (n, 3)."""
        x, y = np.array(self.x), np.array(self.y)
        return np.asarray(np.array(self.origin) + points[:, :1] * x + points[:, 1:] * y)

    def flat(self, p: Vec) -> Point2:
        """Where a point of space lies in the plane, seen along its normal."""
        off = (p[0] - self.origin[0], p[1] - self.origin[1], p[2] - self.origin[2])
        return (dot(off, self.x), dot(off, self.y))

    def rounded(self) -> Frame:
        """The frame to a nanometre, for telling whether two are the same plane."""
        return Frame(*(vec([round(c, 6) + 0.0 for c in v]) for v in (self.origin, self.x, self.normal)))

    def tilted(self, angle: float, about: str) -> Frame:
        """Turned by `angle` (rad) about its own x or y axis."""
        if angle == 0:
            return self
        c, s = math.cos(angle), math.sin(angle)
        if about == "x":
            return Frame(self.origin, self.x, _mixed(self.normal, c, self.y, -s))
        return Frame(self.origin, _mixed(self.x, c, self.normal, -s), _mixed(self.normal, c, self.x, s))

    def shifted(self, distance: float) -> Frame:
        return Frame(along(self.origin, self.normal, distance), self.x, self.normal)

    def swung(self, axis: Axis, angle: float) -> Frame:
        """Turned by `angle` rad about an axis of space."""
        arm = turned(subtract(self.origin, axis.point), axis.direction, angle)
        origin = along(axis.point, arm, 1.0)
        return Frame(origin, turned(self.x, axis.direction, angle), turned(self.normal, axis.direction, angle))

    def turned_x(self, normal: Vec) -> Vec:
        """Where its x points once the frame is turned, by no more than it must, so that its normal is `normal`."""
        axis = cross(self.normal, normal)
        size = math.sqrt(dot(axis, axis))
        if size < 1e-12:  # the same way, or straight against it: then it is turned about its own y
            return self.x if dot(self.normal, normal) > 0 else times(self.x, -1.0)
        return turned(self.x, unit(axis), math.atan2(size, dot(self.normal, normal)))

    def over(self, p: Vec) -> float:
        """Signed height of a point over the plane."""
        return dot(subtract(p, self.origin), self.normal)

    @classmethod
    def lying(cls, origin: Vec, normal: Vec, along: Vec | None = None) -> Frame:
        """A plane through a point, square to `normal`. Its x runs as nearly as it can along `along`; if that is None, along
        the world's x, or y where the normal is nearer to x, so that a sketch lies as people expect.
        """
        n = unit(normal)
        guide = along or ((1.0, 0.0, 0.0) if abs(n[0]) < 0.9 else (0.0, 1.0, 0.0))
        x = unit(subtract(guide, times(n, dot(guide, n))))
        return cls((origin[0] + 0.0, origin[1] + 0.0, origin[2] + 0.0), x, (n[0] + 0.0, n[1] + 0.0, n[2] + 0.0))

    @classmethod
    def seen(cls, origin: Vec, normal: Vec) -> Frame:
        """A plane as one sees it who looks against its normal: its y runs up, along the world's z or, seen along that, y; its
        coordinates are the world's.
        """
        n = unit(normal)
        up = (0.0, 0.0, 1.0) if abs(n[2]) < 0.9 else (0.0, 1.0, 0.0)
        return cls.lying(times(n, dot(origin, n)), n, cross(up, n))


@dataclass(frozen=True)
class Axis:
    """A line in space with a sense: a point on it and its unit direction."""

    point: Vec
    direction: Vec

    def nearest(self, p: Vec) -> Vec:
        return along(self.point, self.direction, dot(subtract(p, self.point), self.direction))


class Bar(NamedTuple):
    """A round bar: from where to where its axis runs, and its radius, mm."""

    start: Vec
    end: Vec
    radius: float


STANDARD_PLANES = {
    "top": Frame(),
    "front": Frame(x=(1.0, 0.0, 0.0), normal=(0.0, -1.0, 0.0)),
    "side": Frame(x=(0.0, 1.0, 0.0), normal=(1.0, 0.0, 0.0)),
}

STANDARD_AXES = {
    "x": Axis((0.0, 0.0, 0.0), (1.0, 0.0, 0.0)),
    "y": Axis((0.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
    "z": Axis((0.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
}

AXES: tuple[Vec, Vec, Vec] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))

DIRECTIONS: dict[str, Vec] = {
    "+x": (1.0, 0.0, 0.0),
    "-x": (-1.0, 0.0, 0.0),
    "+y": (0.0, 1.0, 0.0),
    "-y": (0.0, -1.0, 0.0),
    "+z": (0.0, 0.0, 1.0),
    "-z": (0.0, 0.0, -1.0),
}
