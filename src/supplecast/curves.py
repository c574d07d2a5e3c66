"""Outline curves in a plane, and the regions they bound.

Every curve runs over a parameter from 0 to 1, can be cut into parts and turned round, and remembers the sketch entity it is a
piece of. Lengths in mm, angles in radians.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.linalg import solve_banded

from supplecast.geometry import Floats, Point2

_TURN = 2 * math.pi


@dataclass(frozen=True)
class Line2:
    entity: str
    a: Point2
    b: Point2

    def at(self, t: Floats) -> Floats:
        """Points (k, 2) at parameters (k,)."""
        a, b = np.array(self.a), np.array(self.b)
        return np.asarray(a + np.asarray(t)[:, None] * (b - a))

    def part(self, t0: float, t1: float) -> Line2:
        a, b = self.at(np.array([t0, t1]))
        return Line2(self.entity, _tuple(a), _tuple(b))

    def reversed(self) -> Line2:
        return Line2(self.entity, self.b, self.a)

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
    def start(self) -> float:
        return math.atan2(self.a[1] - self.centre[1], self.a[0] - self.centre[0])

    @property
    def sweep(self) -> float:
        """Signed angle travelled, in (-2π, 2π)."""
        end = math.atan2(self.b[1] - self.centre[1], self.b[0] - self.centre[0])
        turn = (end - self.start) % _TURN
        return turn if self.ccw else turn - _TURN

    def at(self, t: Floats) -> Floats:
        return _round_points(self.centre, self.radius, self.start + np.asarray(t) * self.sweep)

    def part(self, t0: float, t1: float) -> Arc2:
        a, b = self.at(np.array([t0, t1]))
        return replace(self, a=self.a if t0 <= 0 else _tuple(a), b=self.b if t1 >= 1 else _tuple(b))

    def reversed(self) -> Arc2:
        return Arc2(self.entity, self.centre, self.b, self.a, not self.ccw)

    def sampled(self, chords: int) -> Floats:
        points = self.at(np.linspace(0.0, 1.0, chords + 1))
        points[0], points[-1] = self.a, self.b
        return points


@dataclass(frozen=True)
class Circle2:
    """A whole circle, from the point at its right."""

    entity: str
    centre: Point2
    radius: float
    ccw: bool = True

    @property
    def sweep(self) -> float:
        return _TURN if self.ccw else -_TURN

    def at(self, t: Floats) -> Floats:
        return _round_points(self.centre, self.radius, np.asarray(t) * self.sweep)

    def part(self, t0: float, t1: float) -> Arc2:
        a, b = self.at(np.array([t0, t1]))
        return Arc2(self.entity, self.centre, _tuple(a), _tuple(b), self.ccw)

    def reversed(self) -> Circle2:
        return Circle2(self.entity, self.centre, self.radius, not self.ccw)

    def sampled(self, chords: int) -> Floats:
        return self.at(np.linspace(0.0, 1.0, chords * 4 + 1))


@dataclass(frozen=True)
class Ellipse2:
    """Ellipse about `centre`, or a piece of it: `major` is the end of its long half-axis, `minor` the short half-axis, `start`
    and `sweep` the eccentric angles (rad) from where and how far it runs."""

    entity: str
    centre: Point2
    major: Point2
    minor: float
    start: float = 0.0
    sweep: float = _TURN

    @property
    def axes(self) -> tuple[Floats, Floats]:
        """The two half-axes as vectors."""
        long = np.subtract(self.major, self.centre)
        return long, np.array([-long[1], long[0]]) / math.hypot(*long) * self.minor

    @property
    def closed(self) -> bool:
        return abs(abs(self.sweep) - _TURN) < 1e-12

    @property
    def a(self) -> Point2:
        return _tuple(self.at(np.array([0.0]))[0])

    @property
    def b(self) -> Point2:
        return _tuple(self.at(np.array([1.0]))[0])

    def angle_of(self, p: Point2) -> float:
        """The eccentric angle of a place on the ellipse, rad."""
        off = np.subtract(p, self.centre)
        u, v = (float(off @ axis / (axis @ axis)) for axis in self.axes)
        return math.atan2(v, u)

    def between(self, start: Point2, end: Point2, *, ccw: bool = True) -> Ellipse2:
        """The piece from one place on it to another: all the way round where they are one."""
        low = self.angle_of(start)
        turn = (self.angle_of(end) - low) % _TURN
        sweep = (turn or _TURN) if ccw else (turn or _TURN) - _TURN or -_TURN
        return replace(self, start=low, sweep=sweep)

    def at(self, t: Floats) -> Floats:
        angle = (self.start + np.asarray(t) * self.sweep)[:, None]
        long, short = self.axes
        return np.asarray(np.array(self.centre) + np.cos(angle) * long + np.sin(angle) * short)

    def part(self, t0: float, t1: float) -> Ellipse2:
        return replace(self, start=self.start + t0 * self.sweep, sweep=(t1 - t0) * self.sweep)

    def reversed(self) -> Ellipse2:
        return replace(self, start=self.start + self.sweep, sweep=-self.sweep)

    def sampled(self, chords: int) -> Floats:
        return self.at(np.linspace(0.0, 1.0, chords * 4 + 1))


@dataclass(frozen=True)
class Spline2:
    """Smooth chain of cubic Bézier pieces: `poles` 3n + 1 points, `spans` the n lengths of their parameters."""

    entity: str
    poles: tuple[Point2, ...]
    spans: tuple[float, ...]

    @property
    def a(self) -> Point2:
        return self.poles[0]

    @property
    def b(self) -> Point2:
        return self.poles[-1]

    def _local(self, t: Floats) -> tuple[Floats, Floats]:
        """For parameters: four poles each (k, 4, 2), and the parameters within their pieces."""
        ends = np.concatenate([[0.0], np.cumsum(self.spans)]) / sum(self.spans)
        piece = np.clip(np.searchsorted(ends, t, side="right") - 1, 0, len(self.spans) - 1)
        poles = np.array(self.poles)[3 * piece[:, None] + np.arange(4)]
        return poles, (t - ends[piece]) / (ends[piece + 1] - ends[piece])

    def at(self, t: Floats) -> Floats:
        poles, s = self._local(np.asarray(t, dtype=float))
        weights = np.column_stack([(1 - s) ** 3, 3 * s * (1 - s) ** 2, 3 * s**2 * (1 - s), s**3])
        return np.asarray(np.einsum("kp,kpc->kc", weights, poles))

    def part(self, t0: float, t1: float) -> Spline2:
        total = sum(self.spans)
        low, high = t0 * total, t1 * total
        poles: list[Point2] = []
        spans: list[float] = []
        start = 0.0
        for index, span in enumerate(self.spans):
            u0, u1 = max((low - start) / span, 0.0), min((high - start) / span, 1.0)
            start += span
            if u1 - u0 <= 1e-12:
                continue
            piece = bezier_part(np.array(self.poles[3 * index : 3 * index + 4]), u0, u1)
            poles += [_tuple(p) for p in (piece[1:] if poles else piece)]
            spans.append(span * (u1 - u0))
        return Spline2(self.entity, tuple(poles), tuple(spans))

    def reversed(self) -> Spline2:
        return Spline2(self.entity, self.poles[::-1], self.spans[::-1])

    def b_spline(self) -> tuple[Floats, Floats]:
        """Knots, clamped, and de Boor points (k, 2) of the same curve as one cubic B-spline on simple inner knots."""
        p, spans = np.array(self.poles), np.array(self.spans)
        inner = [p[1]]
        for i in range(len(spans) - 1):
            inner.append(p[3 * i + 1] + (p[3 * i + 2] - p[3 * i + 1]) * (spans[i] + spans[i + 1]) / spans[i])
        ends = np.concatenate([[0.0], np.cumsum(spans)])
        return np.concatenate([[0.0] * 3, ends, [ends[-1]] * 3]), np.array([p[0], *inner, p[-2], p[-1]])

    def sampled(self, chords: int) -> Floats:
        each = max(chords // 2, 6)
        s = np.linspace(0.0, 1.0, each + 1)
        weights = np.column_stack([(1 - s) ** 3, 3 * s * (1 - s) ** 2, 3 * s**2 * (1 - s), s**3])
        pieces = np.array(self.poles)[3 * np.arange(len(self.spans))[:, None] + np.arange(4)]
        points = np.einsum("sp,npc->nsc", weights, pieces)
        return np.concatenate([points[:, :-1].reshape(-1, 2), [self.poles[-1]]])


Curve2 = Line2 | Arc2 | Circle2 | Ellipse2 | Spline2
Loop = tuple[Curve2, ...]


def interpolated(
    entity: str, points: Sequence[Point2], first: Point2, last: Point2, spans_between: Sequence[float] = ()
) -> Spline2:
    """The cubic spline with continuous curvature through `points`, leaving and arriving by way of two handles.

    Knots are spaced by chord length, if spans are not given; the handles are the second and the last but one Bézier pole (de
    Boor, A Practical Guide to Splines, ch. IV: complete cubic spline).
    """
    p = np.array(points, dtype=float)
    spans = np.maximum(spans_between if len(spans_between) else np.hypot(*np.diff(p, axis=0).T), 1e-9)
    slopes = np.empty_like(p)
    slopes[0] = 3 * (np.array(first) - p[0]) / spans[0]
    slopes[-1] = 3 * (p[-1] - np.array(last)) / spans[-1]
    if len(p) > 2:
        before, after = spans[:-1], spans[1:]
        chords = np.diff(p, axis=0) / spans[:, None]
        right = 3 * (after[:, None] * chords[:-1] + before[:, None] * chords[1:])
        right[0] -= after[0] * slopes[0]
        right[-1] -= before[-1] * slopes[-1]
        band = np.zeros((3, len(p) - 2))
        band[1] = 2 * (before + after)
        band[0, 1:], band[2, :-1] = before[:-1], after[1:]
        slopes[1:-1] = solve_banded((1, 1), band, right)
    poles = np.empty((3 * len(spans) + 1, 2))
    poles[::3] = p
    poles[1::3] = p[:-1] + slopes[:-1] * spans[:, None] / 3
    poles[2::3] = p[1:] - slopes[1:] * spans[:, None] / 3
    return Spline2(entity, tuple(_tuple(q) for q in poles), tuple(float(s) for s in spans))


def end_handle(end: Point2, following: Point2, third: Point2 | None) -> Point2:
    """Where a handle goes so that the end leaves as a parabola through the first three points would."""
    direction = (following[0] - end[0], following[1] - end[1])
    if third is not None:
        d1, d2 = math.dist(end, following), max(math.dist(following, third), 1e-9)
        onward = ((third[0] - following[0]) / d2, (third[1] - following[1]) / d2)
        before = (direction[0] / max(d1, 1e-9), direction[1] / max(d1, 1e-9))
        bend = d1 / (d1 + d2)
        direction = (
            (before[0] * (1 + bend) - onward[0] * bend) * d1,
            (before[1] * (1 + bend) - onward[1] * bend) * d1,
        )
    return (end[0] + direction[0] / 3, end[1] + direction[1] / 3)


def bezier_part(poles: Floats, u0: float, u1: float) -> Floats:
    """The four poles of a piece of a cubic Bézier, by blossoming."""

    def blossom(a: float, b: float, c: float) -> Floats:
        q = poles
        for u in (a, b, c):
            q = q[:-1] * (1 - u) + q[1:] * u
        return np.asarray(q[0])

    return np.array([blossom(u0, u0, u0), blossom(u0, u0, u1), blossom(u0, u1, u1), blossom(u1, u1, u1)])


def green(curve: Curve2) -> float:
    """Area between a curve and the origin, ½∮(x dy − y dx) along it, mm²: exact for every kind of curve."""
    match curve:
        case Line2():
            return _chord(curve.a, curve.b)
        case Arc2():
            return _chord(curve.a, curve.b) + curve.radius**2 * (curve.sweep - math.sin(curve.sweep)) / 2
        case Circle2():
            return math.pi * curve.radius**2 * (1 if curve.ccw else -1)
        case Ellipse2():
            segment = math.hypot(*curve.axes[0]) * curve.minor * (curve.sweep - math.sin(curve.sweep)) / 2
            return segment + (0.0 if curve.closed else _chord(curve.a, curve.b))
        case Spline2():
            p = np.array(curve.poles)
            quads = p[3 * np.arange(len(curve.spans))[:, None] + np.arange(4)]
            x, y = quads[..., 0], quads[..., 1]
            return float(np.einsum("ni,ij,nj->", x, _GREEN, y))
    raise TypeError(curve)


# ½∫(xy′ − yx′) of a cubic Bézier as a form in its poles: Σ xᵢ·Gᵢⱼ·yⱼ, from the products of Bernstein polynomials.
_GREEN = np.array([[0, 6, 3, 1], [-6, 0, 3, 3], [-3, -3, 0, 6], [-1, -3, -6, 0]]) / 20.0


def _chord(a: Point2, b: Point2) -> float:
    return (a[0] * b[1] - b[0] * a[1]) / 2


def _round_points(centre: Point2, radius: float, angles: Floats) -> Floats:
    return np.asarray(np.column_stack([np.cos(angles), np.sin(angles)]) * radius + np.array(centre))


def _tuple(p: Floats) -> Point2:
    return (float(p[0]), float(p[1]))


@dataclass(frozen=True)
class Region:
    """A bounded piece of a sketch plane: one outer loop, counter-clockwise, and its holes, clockwise.

    `key` names it by the entities around it and the side of each on which it lies, so that it is known again after an edit.
    """

    outer: Loop
    holes: tuple[Loop, ...] = ()
    key: str = ""

    @property
    def name(self) -> str:
        """A short name that lasts while the outline keeps its entities: the least of their ids."""
        return min(curve.entity for curve in self.outer)

    @property
    def middle(self) -> Point2:
        """About the middle of the outer loop."""
        x, y = np.concatenate([curve.sampled(16)[:-1] for curve in self.outer]).mean(axis=0)
        return (float(x), float(y))

    @property
    def area(self) -> float:
        """Exact area, mm²."""
        return sum(green(curve) for loop in (self.outer, *self.holes) for curve in loop)


def winding(loop: Loop, point: Floats) -> int:
    """How often a closed loop runs round a point that does not lie on it."""
    total = 0.0
    for curve in loop:
        if isinstance(curve, Circle2):
            total += curve.sweep if math.dist(curve.centre, point) < curve.radius else 0.0
        elif isinstance(curve, Arc2):
            total += _seen(point, np.array([curve.a, curve.b]))
            direction, away = np.subtract(curve.b, curve.a), np.subtract(point, curve.a)
            right = float(direction[0] * away[1] - direction[1] * away[0]) < 0
            if right == curve.ccw and math.dist(curve.centre, point) < curve.radius:
                total += math.copysign(2 * math.pi, curve.sweep)
            elif math.dist(curve.a, curve.b) < 1e-12 and math.dist(curve.centre, point) < curve.radius:
                total += curve.sweep
        else:
            total += _seen(point, curve.sampled(1 if isinstance(curve, Line2) else 512))
    return round(total / (2 * math.pi))


def _seen(point: Floats, chain: Floats) -> float:
    """The angle under which a chain of points is seen, counter-clockwise positive."""
    d = chain - point
    cross = d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]
    dot = (d[:-1] * d[1:]).sum(axis=1)
    return float(np.arctan2(cross, dot).sum())


@dataclass(frozen=True)
class Run:
    """An open chain of curves, and which of its ends are loose: those that meet no other curve."""

    chain: tuple[Curve2, ...]
    loose_start: bool
    loose_end: bool
