"""Offsets of ellipses and splines: splines fitted to the true offset, which is no curve of these kinds.

Places of the true offset are interpolated, more of them until the fit is within `CLOSE` of it; how far it is off is said. Such
a copy is fixed where it was drawn: no size links it to its source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from supplecast.curves import Curve2, Ellipse2, Spline2, interpolated
from supplecast.errors import SketchError
from supplecast.geometry import Floats, Point2
from supplecast.sketch.acts.pieces import laid
from supplecast.sketch.crossings import nearest
from supplecast.sketch.model import Spline
from supplecast.sketch.pen import Pen

CLOSE = 1e-3  # mm
_COUNTS = (5, 9, 17, 33, 65, 129)
_SEEN = 2000
_STEP = 1e-5


@dataclass(frozen=True)
class Fit:
    """The places a spline runs through, its two handles, and how far it is off the true offset at most, mm."""

    through: tuple[Point2, ...]
    first: Point2
    last: Point2
    off: float


def offset(pen: Pen, name: str, aside: float) -> tuple[str, str]:
    """Draw a curve again `aside` mm to its left; the points the copy begins and ends at.

    SketchError where it would cross itself or could not be fitted.
    """
    curve = laid(pen)[name]
    assert isinstance(curve, (Ellipse2, Spline2))
    _refuse_bends(pen, name, curve, aside)
    # A closed ellipse is drawn in two halves, since a spline does not end where it begins.
    halves = [curve.part(0.0, 0.5), curve.part(0.5, 1.0)] if isinstance(curve, Ellipse2) and curve.closed else [curve]
    fits = [fitted(half, aside) for half in halves]
    off = max(fit.off for fit in fits)
    if off > CLOSE:
        raise SketchError(
            f"At that distance {pen.name(name)} cannot be followed: a fitted spline would be {off:.2g} mm off.",
            "Type a smaller distance, or part the curve where it bends most.",
        )
    ends = [pen.point(fit.through[0]) for fit in fits]
    ends.append(ends[0] if len(fits) > 1 else pen.point(fits[0].through[-1]))
    for fit, (a, b) in zip(fits, pairwise(ends), strict=True):
        between = [pen.point(place) for place in fit.through[1:-1]]
        first, last = pen.point(fit.first), pen.point(fit.last)
        pen.hold("fix", pen.put(Spline(through=(a, *between, b), first=first, last=last)))
    pen.report.notes.append(
        f"{pen.name(name).capitalize()} offset is a spline fitted within {max(off, 1e-4):.4f} mm, fixed where it is"
    )
    return ends[0], ends[-1]


def fitted(curve: Ellipse2 | Spline2, aside: float) -> Fit:
    """An interpolating spline along the places `aside` mm to the left of an open curve."""
    best: Fit | None = None
    for count in _COUNTS:
        shares = np.linspace(0.0, 1.0, count)
        places = _aside(curve, shares, aside)
        chords = np.hypot(*np.diff(places, axis=0).T)
        ways = _ways(curve, np.array([0.0, 1.0]))
        through = tuple((float(x), float(y)) for x, y in places)
        first, last = places[0] + ways[0] * chords[0] / 3, places[-1] - ways[1] * chords[-1] / 3
        handles = (float(first[0]), float(first[1])), (float(last[0]), float(last[1]))
        drawn = interpolated("", through, *handles)
        between = drawn.at((np.arange(8 * count) + 0.5) / (8 * count))
        feet = curve.at(nearest(curve, between))
        off = float(np.abs(np.hypot(*(between - feet).T) - abs(aside)).max())
        best = Fit(through, *handles, off)
        if off <= CLOSE:
            break
    assert best is not None
    return best


def _ways(curve: Curve2, shares: Floats) -> Floats:
    """(k, 2) unit tangents."""
    low, high = np.maximum(shares - _STEP, 0.0), np.minimum(shares + _STEP, 1.0)
    run = curve.at(high) - curve.at(low)
    return np.asarray(run / np.linalg.norm(run, axis=1, keepdims=True))


def _aside(curve: Curve2, shares: Floats, aside: float) -> Floats:
    ways = _ways(curve, shares)
    return np.asarray(curve.at(shares) + aside * np.column_stack([-ways[:, 1], ways[:, 0]]))


def _refuse_bends(pen: Pen, name: str, curve: Curve2, aside: float) -> None:
    """SketchError where the curve bends towards that side more tightly than it is to be offset."""
    shares = np.linspace(0.0, 1.0, _SEEN)
    places, ways = curve.at(shares), _ways(curve, shares)
    turns = np.arctan2(
        ways[:-1, 0] * ways[1:, 1] - ways[:-1, 1] * ways[1:, 0], (ways[:-1] * ways[1:]).sum(axis=1)
    )  # to the left
    lengths = np.hypot(*np.diff(places, axis=0).T)
    bent = float((math.copysign(1.0, aside) * turns / np.maximum(lengths, 1e-12)).max())
    if bent * abs(aside) >= 1.0:
        words = f"{pen.name(name).capitalize()} bends to a radius of {1 / bent:.3g} mm on that side"
        raise SketchError(
            f"{words}: the offset would cross itself.",
            f"Stay under {1 / bent:.3g} mm, or choose the other side.",
        )
