"""What each kind of equation comes to, many at once: residuals in mm and their slopes."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from supplecast.geometry import Floats

_TINY = 1e-12

Values = tuple[Floats, Floats]
"""Residuals (k,) and their slopes (k, w) against the scalars the equations read."""


def _unit(d: Floats) -> tuple[Floats, Floats]:
    length = np.maximum(np.hypot(d[:, 0], d[:, 1]), _TINY)
    return length, d / length[:, None]


def _sum(p: Floats, c: Floats) -> Values:
    """c0·p0 + c1·p1 + c2·p2 − c3."""
    return (p * c[:, :3]).sum(axis=1) - c[:, 3], c[:, :3]


def _distance(p: Floats, c: Floats) -> Values:
    length, e = _unit(p[:, 2:4] - p[:, :2])
    return length - c[:, 0], np.hstack([-e, e])


def _on_round(p: Floats, c: Floats) -> Values:
    """Distance of a point (first) from a centre, less the radius."""
    length, e = _unit(p[:, :2] - p[:, 2:4])
    return length - p[:, 4], np.hstack([e, -e, -np.ones((len(p), 1))])


def _height(p: Floats, c: Floats, r: Floats | None = None) -> Values:
    """Signed distance of a point (first) from the line a–b, times a frozen sign, less a constant or a radius."""
    point, a, b = p[:, :2], p[:, 2:4], p[:, 4:6]
    length, u = _unit(b - a)
    n = np.column_stack([-u[:, 1], u[:, 0]])
    away = point - a
    t = ((away * u).sum(axis=1) / length)[:, None]
    s = c[:, :1]
    value = s[:, 0] * (n * away).sum(axis=1) - c[:, 1]
    slopes = [s * n, -s * (1 - t) * n, -s * t * n]
    if r is not None:
        value, slopes = value - r, [*slopes, -np.ones((len(p), 1))]
    return value, np.hstack(slopes)


def _touching_line(p: Floats, c: Floats) -> Values:
    """A round (centre first, radius last) that touches a line without a shared point."""
    return _height(p, np.column_stack([c[:, 0], np.zeros(len(c))]), p[:, 6])


def _touching_round(p: Floats, c: Floats) -> Values:
    """Two rounds that touch without a shared point: |c1c2| = s1·r1 + s2·r2."""
    length, e = _unit(p[:, 2:4] - p[:, :2])
    return length - c[:, 0] * p[:, 4] - c[:, 1] * p[:, 5], np.hstack([-e, e, -c[:, :1], -c[:, 1:2]])


def _turn(p: Floats, c: Floats) -> Values:
    """Angle from u = a–b to v = c–d, less a constant, within ±π, weighted to mm."""
    u, v = p[:, 2:4] - p[:, :2], p[:, 6:8] - p[:, 4:6]
    angle = np.arctan2(v[:, 1], v[:, 0]) - np.arctan2(u[:, 1], u[:, 0]) - c[:, 0]
    angle = (angle + math.pi) % (2 * math.pi) - math.pi
    du = np.column_stack([u[:, 1], -u[:, 0]]) / np.maximum((u * u).sum(axis=1), 1e-18)[:, None]
    dv = np.column_stack([-v[:, 1], v[:, 0]]) / np.maximum((v * v).sum(axis=1), 1e-18)[:, None]
    w = c[:, 1]
    return w * angle, w[:, None] * np.hstack([-du, du, -dv, dv])


def _equal(p: Floats, c: Floats) -> Values:
    lu, eu = _unit(p[:, 2:4] - p[:, :2])
    lv, ev = _unit(p[:, 6:8] - p[:, 4:6])
    return lu - lv, np.hstack([-eu, eu, ev, -ev])


def _halfway(p: Floats, c: Floats) -> Values:
    """The middle of two points lies on the line a–b."""
    middle = np.hstack([(p[:, :2] + p[:, 2:4]) / 2, p[:, 4:8]])
    value, slopes = _height(middle, np.column_stack([np.ones(len(p)), np.zeros(len(p))]))
    return value, np.hstack([slopes[:, :2] / 2, slopes[:, :2] / 2, slopes[:, 2:]])


def _square(p: Floats, c: Floats) -> Values:
    """Two points lie square across the line a–b."""
    d, line = p[:, 2:4] - p[:, :2], p[:, 6:8] - p[:, 4:6]
    length, u = _unit(line)
    along = (d * u).sum(axis=1)
    turn = (d - along[:, None] * u) / length[:, None]
    return along, np.hstack([-u, u, -turn, turn])


def _apart(p: Floats, c: Floats) -> Values:
    """Distance of two points, times a sign, and two radii, times theirs, less a size."""
    length, e = _unit(p[:, 2:4] - p[:, :2])
    g = c[:, :1]
    return g[:, 0] * length + (p[:, 4:6] * c[:, 1:3]).sum(axis=1) - c[:, 3], np.hstack([-g * e, g * e, c[:, 1:3]])


def _beside(p: Floats, c: Floats) -> Values:
    """Signed distance of a centre (first) from the line a–b and a radius (last), times a sign, less a size."""
    value, slopes = _height(p[:, :6], np.column_stack([c[:, 0], c[:, 2]]))
    return value + c[:, 1] * p[:, 6], np.hstack([slopes, c[:, 1:2]])


def _arc_length(p: Floats, c: Floats) -> Values:
    """Radius (last) times the angle from a to b about a centre (first), run through in a frozen sense, less a size."""
    u, v = p[:, 2:4] - p[:, :2], p[:, 4:6] - p[:, :2]
    sign = c[:, :1]
    angle = np.arctan2(v[:, 1], v[:, 0]) - np.arctan2(u[:, 1], u[:, 0])
    angle = np.mod(sign[:, 0] * angle, 2 * math.pi)
    du = np.column_stack([u[:, 1], -u[:, 0]]) / np.maximum((u * u).sum(axis=1), 1e-18)[:, None]
    dv = np.column_stack([-v[:, 1], v[:, 0]]) / np.maximum((v * v).sum(axis=1), 1e-18)[:, None]
    r = p[:, 6:7]
    return r[:, 0] * angle - c[:, 1], np.hstack([-sign * r * (du + dv), sign * r * du, sign * r * dv, angle[:, None]])


def _linear(p: Floats, c: Floats) -> Values:
    """Six scalars, each with its factor, less a size."""
    return (p * c[:, :6]).sum(axis=1) - c[:, 6], c[:, :6]


def _by_complex_step(residual: Callable[[NDArray[np.complex128], Floats], NDArray[np.complex128]]) -> Any:
    """An equation whose slopes come from a complex step, all scalars at once: exact to rounding (Squire and Trapp 1998)."""

    def evaluate(p: Floats, c: Floats) -> Values:
        k, w = p.shape
        stepped = np.repeat(p[None].astype(complex), w + 1, axis=0)
        stepped[np.arange(1, w + 1), :, np.arange(w)] += 1e-30j
        values = residual(stepped.reshape(-1, w), np.tile(c, (w + 1, 1))).reshape(w + 1, k)
        return values[0].real, (values[1:].imag / 1e-30).T

    return evaluate


def _on_ellipse(p: NDArray[np.complex128], c: Floats) -> NDArray[np.complex128]:
    """Distance, to first order, of a point (first) from an ellipse: centre, end of its long half-axis, short half-axis."""
    q, e, b = p[:, :2] - p[:, 2:4], p[:, 4:6] - p[:, 2:4], p[:, 6]
    squared = (e * e).sum(axis=1)
    length = np.sqrt(squared)
    along, across = (q * e).sum(axis=1) / squared, (e[:, 0] * q[:, 1] - e[:, 1] * q[:, 0]) / length
    value = along**2 + across**2 / b**2 - 1
    slope = 2 * np.sqrt((along / length) ** 2 + (across / b**2) ** 2)
    return np.asarray(value / np.where(np.abs(slope) < 1e-9, 1e-9, slope))


def _touching_ellipse(p: NDArray[np.complex128], c: Floats) -> NDArray[np.complex128]:
    """A line a–b that touches an ellipse: its distance from the centre is the ellipse's reach square to it."""
    centre, e, b, a, direction = p[:, :2], p[:, 2:4] - p[:, :2], p[:, 4], p[:, 5:7], p[:, 7:9] - p[:, 5:7]
    n = np.column_stack([-direction[:, 1], direction[:, 0]]) / np.sqrt((direction * direction).sum(axis=1))[:, None]
    squared = (e * e).sum(axis=1)
    reach = np.sqrt((n * e).sum(axis=1) ** 2 + b**2 * (n[:, 0] * e[:, 1] - n[:, 1] * e[:, 0]) ** 2 / squared)
    return np.asarray(c[:, 0] * (n * (centre - a)).sum(axis=1) - reach)


KINDS: dict[str, tuple[int, Callable[[Floats, Floats], Values]]] = {
    "sum": (3, _sum),
    "distance": (4, _distance),
    "on round": (5, _on_round),
    "height": (6, _height),
    "touching line": (7, _touching_line),
    "touching round": (6, _touching_round),
    "turn": (8, _turn),
    "equal": (8, _equal),
    "halfway": (8, _halfway),
    "square": (8, _square),
    "apart": (6, _apart),
    "beside": (7, _beside),
    "arc length": (7, _arc_length),
    "linear": (6, _linear),
    "on ellipse": (7, _by_complex_step(_on_ellipse)),
    "touching ellipse": (9, _by_complex_step(_touching_ellipse)),
}
"""How many scalars an equation of each kind reads, and what gives its residuals and slopes."""
