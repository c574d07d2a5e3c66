"""Which areas a solved drawing bounds: loops chained through shared points, nested by the even-odd rule.

Weak cases, refused with their place rather than guessed: open ends, branches, and loops that cross each other.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from supplecast.errors import SketchError
from supplecast.geometry import Arc2, Circle2, Curve2, Floats, Line2, Point2, Region
from supplecast.sketch.model import Circle, Drawing, Line
from supplecast.sketch.solver import Solution

_CHORDS = 32
_CLOSE = 1e-6

Loop = tuple[Curve2, ...]


def curves(drawing: Drawing, solution: Solution, *, construction: bool = False) -> list[Curve2]:
    """The drawn curves at their solved places; with `construction`, only the construction ones."""
    found: list[Curve2] = []
    for name, entity in drawing.entities.items():
        if entity.construction != construction:
            continue
        if isinstance(entity, Line):
            found.append(Line2(name, solution.points[entity.a], solution.points[entity.b]))
        elif isinstance(entity, Circle):
            found.append(Circle2(name, solution.points[entity.c], solution.radii[name]))
        else:
            p = solution.points
            found.append(Arc2(name, p[entity.c], p[entity.a], p[entity.b], not entity.cw))
    return found


def regions(drawing: Drawing, solution: Solution) -> list[Region]:
    """Every area to be filled: loops at even depth, less the loops directly inside them, ordered by their lasting key.

    Raises SketchError naming the place of an open end, a branch or a crossing.
    """
    drawn = curves(drawing, solution)
    if not drawn:
        raise SketchError("The sketch is empty.", "Add a figure to it, such as a rectangle.")
    loops = [(c,) for c in drawn if isinstance(c, Circle2)] + _chained([c for c in drawn if not isinstance(c, Circle2)])
    outlines = [_sampled(loop) for loop in loops]
    boxes = np.array([[*outline.min(axis=0), *outline.max(axis=0)] for outline in outlines])
    _refuse_crossings(outlines, boxes)
    depth = [
        [
            int(other)
            for other in _holding(outlines[mine][0], boxes)
            if other != mine and _inside(outlines[mine][0], outlines[other])
        ]
        for mine in range(len(loops))
    ]
    found = []
    for index, loop in enumerate(loops):
        if len(depth[index]) % 2:
            continue
        holes = [
            _turned(loops[inner], outlines[inner], ccw=False)
            for inner in range(len(loops))
            if index in depth[inner] and len(depth[inner]) == len(depth[index]) + 1
        ]
        found.append(Region(_turned(loop, outlines[index], ccw=True), tuple(holes)))
    return sorted(found, key=lambda region: region.key)


def area(region: Region) -> float:
    """Exact area in mm² by Green's theorem over lines and arcs."""
    return sum(_signed_area(loop) for loop in (region.outer, *region.holes))


def _signed_area(loop: Loop) -> float:
    total = 0.0
    for curve in loop:
        if isinstance(curve, Circle2):
            total += math.pi * curve.radius**2 * (1 if curve.ccw else -1)
            continue
        total += (curve.a[0] * curve.b[1] - curve.b[0] * curve.a[1]) / 2
        if isinstance(curve, Arc2):
            total += curve.radius**2 * (curve.sweep - math.sin(curve.sweep)) / 2
    return total


def _chained(drawn: Sequence[Line2 | Arc2]) -> list[Loop]:
    ends: dict[tuple[int, int], list[int]] = defaultdict(list)

    def key(p: Point2) -> tuple[int, int]:
        return (round(p[0] / _CLOSE), round(p[1] / _CLOSE))

    def near(p: Point2) -> tuple[int, int]:
        x, y = key(p)
        for dx in (0, -1, 1):
            for dy in (0, -1, 1):
                if (x + dx, y + dy) in ends:
                    return (x + dx, y + dy)
        return (x, y)

    knots: list[tuple[tuple[int, int], tuple[int, int]]] = []
    for index, curve in enumerate(drawn):
        pair = []
        for p in (curve.a, curve.b):
            knot = near(p)
            ends[knot].append(index)
            pair.append(knot)
        knots.append((pair[0], pair[1]))
    _refuse_open(ends)
    left, loops = set(range(len(drawn))), []
    while left:
        first = min(left)
        left.discard(first)
        loop: list[Curve2] = [drawn[first]]
        at = knots[first][1]
        while at != knots[first][0]:
            following = next(i for i in ends[at] if i in left)
            left.discard(following)
            forward = knots[following][0] == at
            loop.append(drawn[following] if forward else reversed_curve(drawn[following]))
            at = knots[following][1] if forward else knots[following][0]
        loops.append(tuple(loop))
    return loops


def _refuse_open(ends: dict[tuple[int, int], list[int]]) -> None:
    loose = [(x * _CLOSE, y * _CLOSE) for (x, y), curves_there in ends.items() if len(curves_there) == 1]
    if loose:
        x, y = loose[0]
        others = sorted(math.dist(loose[0], other) for other in loose[1:])
        gap = f", {others[0]:.3g} mm from the next open end" if others else ""
        raise SketchError(f"The outline is open at ({x:.2f}, {y:.2f}){gap}.", "Join its ends, then it can be used.")
    for (x, y), curves_there in ends.items():
        if len(curves_there) > 2:
            raise SketchError(
                f"At ({x * _CLOSE:.2f}, {y * _CLOSE:.2f}) {len(curves_there)} lines meet.",
                "An outline may not branch: trim what is not part of it.",
            )


def reversed_curve(curve: Curve2) -> Curve2:
    """The same curve run through the other way."""
    match curve:
        case Line2():
            return Line2(curve.entity, curve.b, curve.a)
        case Arc2():
            return Arc2(curve.entity, curve.centre, curve.b, curve.a, not curve.ccw)
        case Circle2():
            return Circle2(curve.entity, curve.centre, curve.radius, not curve.ccw)


def _turned(loop: Loop, outline: Floats, *, ccw: bool) -> Loop:
    x, y = outline[:, 0], outline[:, 1]
    is_ccw = float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) > 0
    return loop if is_ccw == ccw else tuple(reversed_curve(curve) for curve in reversed(loop))


def _sampled(loop: Loop) -> Floats:
    return np.concatenate([curve.sampled(_CHORDS)[:-1] for curve in loop])


def _inside(point: Floats, outline: Floats) -> bool:
    """Even-odd test of a point against a closed polyline."""
    a, b = outline, np.roll(outline, -1, axis=0)
    spans = (a[:, 1] > point[1]) != (b[:, 1] > point[1])
    a, b = a[spans], b[spans]
    at = a[:, 0] + (point[1] - a[:, 1]) * (b[:, 0] - a[:, 0]) / (b[:, 1] - a[:, 1])
    return bool((at > point[0]).sum() % 2)


def _holding(point: Floats, boxes: Floats) -> NDArray[np.intp]:
    """Which boxes (x and y from, x and y to) hold a point."""
    return np.nonzero((boxes[:, :2] <= point).all(axis=1) & (boxes[:, 2:] >= point).all(axis=1))[0]


def _refuse_crossings(outlines: Sequence[Floats], boxes: Floats) -> None:
    for i in range(len(outlines)):
        apart = (boxes[:i, :2] > boxes[i, 2:]) | (boxes[:i, 2:] < boxes[i, :2])
        for j in np.nonzero(~apart.any(axis=1))[0]:
            place = _crossing(outlines[i], outlines[int(j)])
            if place is not None:
                raise SketchError(
                    f"Two outlines cross at ({place[0]:.2f}, {place[1]:.2f}).",
                    "Move one clear of the other, or put them into sketches of their own.",
                )


def _crossing(first: Floats, second: Floats) -> Point2 | None:
    a, b = first[:, None], np.roll(first, -1, axis=0)[:, None]
    c, d = second[None, :], np.roll(second, -1, axis=0)[None, :]

    def side(p: Floats, q: Floats, r: Floats) -> Floats:
        return np.asarray((q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0]))

    crossing = (side(a, b, c) * side(a, b, d) < 0) & (side(c, d, a) * side(c, d, b) < 0)
    if not crossing.any():
        return None
    i, _ = np.argwhere(crossing)[0]
    return (float(first[i, 0]), float(first[i, 1]))
