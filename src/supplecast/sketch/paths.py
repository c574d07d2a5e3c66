"""Drawn curves in the order in which a path runs through them."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from supplecast.curves import Circle2, Curve2, Ellipse2, Run
from supplecast.errors import SketchError
from supplecast.geometry import Point2

_CLOSE = 1e-6


def ends(curve: Curve2) -> tuple[Point2, Point2] | None:
    """Where a curve begins and ends; None for closed ones."""
    if isinstance(curve, Circle2) or (isinstance(curve, Ellipse2) and curve.closed):
        return None
    return curve.a, curve.b


def path(curves: Sequence[Curve2], start: Point2 | None = None) -> list[Curve2]:
    """One open chain of curves, from the end nearest to `start` (the first drawn if None) to the other.

    SketchError for closed chains, branches, and curves that stand apart.
    """
    chains = opened(curves)
    if len(chains) != 1 or sum(len(chain) for chain in chains) < len(curves):
        count = len(chains)
        words = "is closed" if not count else f"falls into {count} chains" if count > 1 else "has closed curves beside it"
        raise SketchError(f"The path {words}; it must be one open chain.", "Leave it open at one place, and join the others.")
    chain = chains[0]
    first, last = ends(chain[0]), ends(chain[-1])
    assert first and last
    if start is not None and math.dist(last[1], start) < math.dist(first[0], start):
        return [curve.reversed() for curve in reversed(chain)]
    return chain


def opened(curves: Sequence[Curve2]) -> list[list[Curve2]]:
    """Every open chain among some curves, each as drawn. SketchError where three ends or more meet."""
    loose = {curve.entity: both for curve in curves if (both := ends(curve)) is not None}
    rest = {curve.entity: curve for curve in curves if curve.entity in loose}
    places: list[tuple[Point2, list[str]]] = []
    for name, both in loose.items():
        for p in both:
            held = next((names for q, names in places if math.dist(p, q) < _CLOSE), None)
            if held is None:
                places.append((p, [name]))
            else:
                held.append(name)
    forked = next((p for p, names in places if len(names) > 2), None)
    if forked is not None:
        words = f"Several curves meet at ({forked[0]:.2f}, {forked[1]:.2f}): a path cannot fork."
        raise SketchError(words, "Draw the path in a sketch of its own.")
    chains = []
    for p, names in places:
        if len(names) == 1 and names[0] in rest:
            chains.append(_followed(rest, names[0], p))
    return chains


def _followed(rest: dict[str, Curve2], name: str, at: Point2) -> list[Curve2]:
    """The chain that begins with a curve at one of its ends; its curves are taken out of `rest`."""
    chain = []
    while True:
        curve = rest.pop(name)
        both = ends(curve)
        assert both is not None
        onward = curve if math.dist(both[0], at) <= math.dist(both[1], at) else curve.reversed()
        chain.append(onward)
        last = ends(onward)
        assert last is not None
        at = last[1]
        following = next((n for n, c in rest.items() if any(math.dist(p, at) < _CLOSE for p in ends(c) or ())), None)
        if following is None:
            return chain
        name = following


def runs(curves: Sequence[Curve2]) -> list[Run]:
    """Open chains as they are drawn, broken wherever three ends or more meet; so grids, stars and crossings are all welcome.

    SketchError if nothing open is drawn.
    """
    both = {curve.entity: pair for curve in curves if (pair := ends(curve)) is not None}
    every = [p for pair in both.values() for p in pair]
    left = [curve for curve in curves if curve.entity in both]
    joined = []
    while left:
        chain = [left.pop(0)]
        for forwards in (True, False):
            while (end := _last(chain, forwards)) is not None and _meeting(every, end) == 2:
                beside = next((c for c in left if any(math.dist(p, end) < _CLOSE for p in both[c.entity])), None)
                if beside is None:
                    break
                left.remove(beside)
                starts = math.dist(both[beside.entity][0], end) < _CLOSE
                onward = beside if starts == forwards else beside.reversed()
                chain.insert(len(chain) if forwards else 0, onward)
        first, last = _last(chain, False), _last(chain, True)
        assert first is not None and last is not None
        if math.dist(first, last) > _CLOSE:
            others = [c for c in curves if c not in chain]
            loose = [_meeting(every, p) == 1 and not any(_lies_on(c, p) for c in others) for p in (first, last)]
            joined.append(Run(tuple(chain), *loose))
    if not joined:
        raise SketchError("There is no open line in the sketch.", "Draw the lines along which it is to run.")
    return joined


def _last(chain: Sequence[Curve2], forwards: bool) -> Point2 | None:
    pair = ends(chain[-1 if forwards else 0])
    return pair and pair[1 if forwards else 0]


def _meeting(every: Sequence[Point2], p: Point2) -> int:
    return sum(math.dist(p, q) < _CLOSE for q in every)


def _lies_on(curve: Curve2, p: Point2) -> bool:
    points = curve.sampled(64)
    a, b = points[:-1], points[1:]
    along = b - a
    share = np.clip(((np.array(p) - a) * along).sum(axis=1) / np.maximum((along**2).sum(axis=1), 1e-18), 0, 1)
    return bool(np.linalg.norm(a + share[:, None] * along - np.array(p), axis=1).min() < 1e-3)
