"""Drawn curves in the order in which a path runs through them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.curves import Arc2, Curve2, Line2
from supplecast.errors import SketchError
from supplecast.geometry import Point2

_CLOSE = 1e-6


def path(curves: Sequence[Curve2], start: Point2 | None = None) -> list[Line2 | Arc2]:
    """One open chain of lines and arcs, from the end nearest to `start` (the origin if None) to the other.

    SketchError for closed chains, branches, and curves that stand apart.
    """
    rest = [curve for curve in curves if isinstance(curve, (Line2, Arc2))]
    if not rest or len(rest) < len(curves):
        raise SketchError("The path is not a chain of lines and arcs.", "Draw one open chain, without circles.")
    ends = [p for curve in rest for p in (curve.a, curve.b)]
    loose = [p for p in ends if sum(math.dist(p, q) < _CLOSE for q in ends) == 1]
    if len(loose) != 2:
        words = "is closed" if not loose else f"has {len(loose)} loose ends"
        raise SketchError(f"The path {words}; it must be one open chain.", "Leave it open at one place, and join the others.")
    at = min(loose, key=lambda p: math.dist(p, start or (0.0, 0.0)))
    chain: list[Line2 | Arc2] = []
    while rest:
        following = next((c for c in rest if math.dist(c.a, at) < _CLOSE or math.dist(c.b, at) < _CLOSE), None)
        if following is None:
            raise SketchError("The path comes apart.", "Join its pieces.")
        rest.remove(following)
        onward = following if math.dist(following.a, at) < _CLOSE else following.reversed()
        assert isinstance(onward, (Line2, Arc2))
        chain.append(onward)
        at = onward.b
    return chain
