"""A body cut by a plane, and how thick the cut is at a place of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.optimize import brentq, minimize_scalar

from supplecast.curves import Curve2
from supplecast.geometry import Floats, Point2

_CHORDS = 48


def across(curves: Sequence[Curve2], spot: Point2) -> tuple[Point2, Point2] | None:
    """The two ends of the straight way through the material at a place of a cut: from the outline nearest to the place, through
    it, to the outline beyond. None where the place lies outside of the material.
    """
    p = np.array(spot)
    runs = [curve.at(np.linspace(0.0, 1.0, _CHORDS + 1)) for curve in curves]
    if not _is_inside(runs, p):
        return None
    which = int(np.argmin([np.linalg.norm(run - p, axis=1).min() for run in runs]))
    least = int(np.linalg.norm(runs[which] - p, axis=1).argmin())
    low, high = max(least - 1, 0) / _CHORDS, min(least + 1, _CHORDS) / _CHORDS

    def away(t: float) -> float:
        return float(np.linalg.norm(_at(curves[which], t) - p))

    off = minimize_scalar(away, bounds=(low, high), method="bounded", options={"xatol": 1e-12})
    first = _at(curves[which], float(off.x))
    direction = p - first
    if np.linalg.norm(direction) < 1e-9:
        return None
    direction /= np.linalg.norm(direction)
    best: tuple[float, Floats] | None = None
    for curve, run in zip(curves, runs, strict=True):
        off = run - first
        side = direction[0] * off[:, 1] - direction[1] * off[:, 0]
        for piece in np.flatnonzero(np.sign(side[:-1]) != np.sign(side[1:])):
            end = _at(curve, _crossing(curve, first, direction, piece / _CHORDS, (piece + 1) / _CHORDS))
            far = float((end - first) @ direction)
            if far > np.linalg.norm(p - first) - 1e-9 and (best is None or far < best[0]):
                best = far, end
    return None if best is None else (_point(first), _point(best[1]))


def _at(curve: Curve2, t: float) -> Floats:
    return np.asarray(curve.at(np.array([t]))[0])


def _point(p: Floats) -> Point2:
    return (float(p[0]), float(p[1]))


def _is_inside(runs: Sequence[Floats], p: Floats) -> bool:
    """By how often a ray to the right meets the outline: once more than an even number of times inside."""
    count = 0
    for run in runs:
        a, b = run[:-1], run[1:]
        level = (a[:, 1] > p[1]) != (b[:, 1] > p[1])
        rise = np.where(level, b[:, 1] - a[:, 1], 1.0)
        x = a[:, 0] + (p[1] - a[:, 1]) / rise * (b[:, 0] - a[:, 0])
        count += int((level & (x > p[0])).sum())
    return count % 2 == 1


def _crossing(curve: Curve2, start: Floats, direction: Floats, a: float, b: float) -> float:
    """Where a curve crosses a line between two parameters at which it lies on either side of it."""

    def side(t: float) -> float:
        off = _at(curve, t) - start
        return float(direction[0] * off[1] - direction[1] * off[0])

    return float(brentq(side, a, b, xtol=1e-15))
