"""The planar map of a sketch: its curves cut at their crossings, the faces they enclose, and the ends that are open.

Pieces become edges between vertices; round each vertex they are sorted by direction, then by bend, and every face is traced
with its inside on the left. What ends openly encloses nothing and is pruned, and told as a gap. Faces are exact: areas by
Green's theorem, nesting by winding numbers of the curves themselves.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from supplecast import budget
from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Loop, green, winding
from supplecast.geometry import Floats, Point2
from supplecast.sketch.crossings import CLOSE, Indices, cuts

_SAME_ANGLE = 2e-6
_CUTTING, _TRACING, _BENT, _HOLE = 5, 50, 400, 2  # work units of a cut, a piece, one of an ellipse or spline, a hole tried


@dataclass(frozen=True)
class Gap:
    """An open end: its place, its entity, and how far the next open end is (mm, infinite if there is none)."""

    at: Point2
    entity: str
    other: Point2 | None
    width: float


@dataclass(frozen=True)
class Face:
    """A bounded face: outer loop counter-clockwise, holes clockwise, `depth` how many outlines lie round its component."""

    outer: Loop
    holes: tuple[Loop, ...]
    sides: tuple[tuple[str, bool], ...]
    depth: int
    area: float


@dataclass(frozen=True)
class PlanarMap:
    faces: tuple[Face, ...]
    gaps: tuple[Gap, ...]


def arranged(curves: Sequence[Curve2]) -> PlanarMap:
    """The planar map of curves."""
    if not curves:
        return PlanarMap((), ())
    pieces = _cut(curves)
    bent = sum(not isinstance(piece, (Line2, Arc2, Circle2)) for piece in pieces)
    budget.spend(_TRACING * (len(pieces) - bent) + _BENT * bent)
    place, tail, head = _vertices(pieces)
    keep = _distinct(pieces, tail, head)
    pieces, tail, head = [pieces[i] for i in keep], tail[keep], head[keep]
    inner = _pruned(tail, head)
    gaps = _gaps(pieces, place, tail, head)
    pieces = [piece for piece, good in zip(pieces, inner, strict=True) if good]
    return PlanarMap(_faces(pieces, tail[inner], head[inner]), gaps)


def _cut(curves: Sequence[Curve2]) -> list[Curve2]:
    """The curves cut at all their crossings."""
    crossings = cuts(curves)
    budget.spend(_CUTTING * len(crossings.at))
    order = np.lexsort((crossings.at, crossings.curve))
    by_curve = np.searchsorted(crossings.curve[order], np.arange(len(curves) + 1))
    pieces: list[Curve2] = []
    for index, curve in enumerate(curves):
        at = crossings.at[order[by_curve[index] : by_curve[index + 1]]]
        closed = isinstance(curve, Circle2) or (isinstance(curve, Ellipse2) and curve.closed)
        slack = 4 * CLOSE / max(_length(curve), 4 * CLOSE)
        if closed:
            at = _thinned(np.sort(np.mod(at, 1.0)), slack)
            if len(at) > 1 and at[0] + 1 - at[-1] <= slack:
                at = at[:-1]
            if len(at) == 1:  # a piece from a point round to itself would look like no piece at all
                at = np.sort(np.mod([at[0], at[0] + 0.5], 1.0))
            if len(at):
                pieces += [curve.part(t0, t1) for t0, t1 in zip(at, [*at[1:], at[0] + 1], strict=True)]
            else:
                pieces.append(curve)
            continue
        at = at[(at > slack) & (at < 1 - slack)]
        ends = [0.0, *_thinned(at, slack), 1.0]
        pieces += [curve.part(t0, t1) for t0, t1 in zip(ends, ends[1:], strict=False)] if len(ends) > 2 else [curve]
    return [piece for piece in pieces if _length(piece) > 2 * CLOSE]


def _thinned(at: Floats, slack: float) -> Floats:
    return at[np.concatenate([[True], np.diff(at) > slack])] if len(at) else at


def _length(curve: Curve2) -> float:
    match curve:
        case Line2():
            return math.dist(curve.a, curve.b)
        case Arc2() | Circle2():
            return abs(curve.sweep) * curve.radius
        case _:
            return float(np.hypot(*np.diff(curve.sampled(12), axis=0).T).sum())


def ends_of(curve: Curve2) -> tuple[Point2, Point2]:
    if isinstance(curve, Circle2):
        right = (curve.centre[0] + curve.radius, curve.centre[1])
        return right, right
    return curve.a, curve.b


def _vertices(pieces: Sequence[Curve2]) -> tuple[Floats, Indices, Indices]:
    """Places (v, 2) of the vertices, and the vertex at which each piece starts and ends."""
    points = np.array([end for piece in pieces for end in ends_of(piece)]).reshape(-1, 2)
    close = cKDTree(points).query_pairs(4 * CLOSE, output_type="ndarray")
    n = len(points)
    graph = csr_matrix((np.ones(len(close)), (close[:, 0], close[:, 1])), shape=(n, n))
    count, label = connected_components(graph, directed=False)
    place = np.zeros((count, 2))
    place[label[::-1]] = points[::-1]
    return place, label[0::2].astype(np.int64), label[1::2].astype(np.int64)


def _distinct(pieces: Sequence[Curve2], tail: Indices, head: Indices) -> list[int]:
    """Pieces less those that lie on another one."""
    alike: dict[tuple[int, int], list[int]] = defaultdict(list)
    for index, (a, b) in enumerate(zip(tail.tolist(), head.tolist(), strict=True)):
        alike[(min(a, b), max(a, b))].append(index)
    keep = []
    for group in alike.values():
        middles: list[Floats] = []
        for index in group:
            if len(group) > 1:
                middle = pieces[index].at(np.array([0.5]))[0]
                if any(float(np.hypot(*(middle - other))) < 8 * CLOSE for other in middles):
                    continue
                middles.append(middle)
            keep.append(index)
    return sorted(keep)


def _pruned(tail: Indices, head: Indices) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which edges enclose something: chains that end openly are taken off. A loop on one vertex counts twice there."""
    alive = np.ones(len(tail), bool)
    while True:
        degree = np.bincount(np.concatenate([tail[alive], head[alive]]), minlength=int(max(tail.max(), head.max())) + 1)
        hanging = alive & ((degree[tail] == 1) | (degree[head] == 1))
        if not hanging.any():
            return alive
        alive &= ~hanging


def _gaps(pieces: Sequence[Curve2], place: Floats, tail: Indices, head: Indices) -> tuple[Gap, ...]:
    degree = np.bincount(np.concatenate([tail, head]), minlength=len(place))
    loose = [
        (int(vertex), piece.entity)
        for piece, ends in zip(pieces, zip(tail, head, strict=True), strict=True)
        for vertex in ends
        if degree[vertex] == 1
    ]
    if len(loose) < 2:
        return tuple(Gap(_place(place[vertex]), entity, None, math.inf) for vertex, entity in loose)
    ends = np.array([place[vertex] for vertex, _ in loose])
    widths, nearest = cKDTree(ends).query(ends, k=2)  # the first is the end itself: no two open ends share a place
    return tuple(
        Gap(_place(ends[index]), entity, _place(ends[nearest[index, 1]]), float(widths[index, 1]))
        for index, (_, entity) in enumerate(loose)
    )


def _place(at: Floats) -> Point2:
    return float(at[0]), float(at[1])


def _faces(pieces: Sequence[Curve2], tail: Indices, head: Indices) -> tuple[Face, ...]:
    if not pieces:
        return ()
    n = len(pieces)
    start = np.concatenate([tail, head])  # half-edge h < n runs along its piece, h + n against it
    angle, bend = _leaving(pieces)
    following = _following(start, angle, bend, n)
    loop_of = np.full(2 * n, -1)
    loops: list[list[int]] = []
    for h in range(2 * n):
        if loop_of[h] >= 0:
            continue
        chain = []
        while loop_of[h] < 0:
            loop_of[h] = len(loops)
            chain.append(h)
            h = int(following[h])
        loops.append(chain)
    greens = np.array([green(piece) for piece in pieces])
    share = np.concatenate([greens, -greens])
    areas = np.bincount(loop_of, share, len(loops))
    _, component = connected_components(
        csr_matrix((np.ones(n), (tail, head)), shape=(int(start.max()) + 1,) * 2), directed=False
    )
    of_loop = [int(component[start[chain[0]]]) for chain in loops]
    curve_loops = [tuple(pieces[h] if h < n else pieces[h - n].reversed() for h in chain) for chain in loops]
    outers = [i for i in range(len(loops)) if areas[i] > 0]
    holds: dict[int, list[int]] = defaultdict(list)
    parent: dict[int, int | None] = {}
    boxes = np.array([_box(curve_loops[i]) for i in outers]).reshape(-1, 4)
    for i in range(len(loops)):
        if areas[i] > 0:
            continue
        point = np.array(ends_of(curve_loops[i][0])[0])
        near = (boxes[:, :2] <= point).all(axis=1) & (boxes[:, 2:] >= point).all(axis=1)
        held = [outers[j] for j in np.nonzero(near)[0] if of_loop[outers[j]] != of_loop[i]]
        budget.spend(_HOLE * len(held))
        around = [k for k in held if winding(curve_loops[k], point) != 0]
        inside = min(around, key=lambda k: areas[k], default=None)
        parent[of_loop[i]] = inside
        if inside is not None:
            holds[inside].append(i)

    def depth(part: int) -> int:
        inside, deep = parent.get(part), 0
        while inside is not None:
            inside, deep = parent.get(of_loop[inside]), deep + 1
        return deep

    return tuple(
        Face(
            curve_loops[i],
            tuple(curve_loops[h] for h in holds[i]),
            tuple(sorted({(pieces[h % n].entity, h < n) for h in loops[i]})),
            depth(of_loop[i]),
            float(areas[i] + sum(areas[h] for h in holds[i])),
        )
        for i in outers
    )


def _leaving(pieces: Sequence[Curve2]) -> tuple[Floats, Floats]:
    """Direction (rad) and bend (1/mm, positive to the left) with which each half-edge leaves its vertex, (2n,)."""
    n = len(pieces)
    angle, bend = np.empty(2 * n), np.empty(2 * n)
    for index, piece in enumerate(pieces):
        match piece:
            case Line2():
                direction = math.atan2(piece.b[1] - piece.a[1], piece.b[0] - piece.a[0])
                angle[index], angle[index + n], bend[index], bend[index + n] = direction, direction + math.pi, 0.0, 0.0
            case Arc2() | Circle2():
                sign = 1.0 if piece.ccw else -1.0
                start = piece.start if isinstance(piece, Arc2) else 0.0
                angle[index] = start + sign * math.pi / 2
                angle[index + n] = start + piece.sweep - sign * math.pi / 2
                bend[index], bend[index + n] = sign / piece.radius, -sign / piece.radius
            case _:
                h = 1e-4
                for at, place in ((index, np.array([0.0, h, 2 * h])), (index + n, 1 - np.array([0.0, h, 2 * h]))):
                    p = piece.at(place)
                    first, second = (-3 * p[0] + 4 * p[1] - p[2]) / (2 * h), (p[0] - 2 * p[1] + p[2]) / h**2
                    speed = max(math.hypot(*first), 1e-12)
                    angle[at] = math.atan2(first[1], first[0])
                    bend[at] = float(first[0] * second[1] - first[1] * second[0]) / speed**3
    return np.mod(angle, 2 * math.pi), bend


def _following(start: Indices, angle: Floats, bend: Floats, n: int) -> Indices:
    """The half-edge that follows each one round the face on its left."""
    # Directions are measured from the first at each vertex, so that none is split by the cut from 2π to 0.
    first = np.full(int(start.max()) + 1, np.nan)
    first[start[::-1]] = angle[::-1]
    turned = np.mod(angle - first[start] + _SAME_ANGLE, 2 * math.pi) - _SAME_ANGLE
    order = np.lexsort((turned, start))
    ranked = turned[order]
    apart = np.concatenate([[True], (np.diff(start[order]) != 0) | (np.diff(ranked) > _SAME_ANGLE)])
    group = np.empty(2 * n, np.int64)
    group[order] = np.cumsum(apart)
    order = np.lexsort((bend, group))
    place = np.empty(2 * n, np.int64)
    place[order] = np.arange(2 * n)
    vertex = start[order]
    begins = np.concatenate([[True], np.diff(vertex) != 0])
    block_start = np.maximum.accumulate(np.where(begins, np.arange(2 * n), 0))
    counts = np.bincount(np.cumsum(begins) - 1)
    block_size = np.repeat(counts, counts)
    twin = np.concatenate([np.arange(n, 2 * n), np.arange(n)])
    at = place[twin]
    before = block_start[at] + np.mod(at - block_start[at] - 1, block_size[at])
    return np.asarray(order[before])


def _box(loop: Loop) -> tuple[float, float, float, float]:
    """A box that surely holds a loop: x and y from, x and y to."""
    boxes = []
    for curve in loop:
        match curve:
            case Line2(a=a, b=b):
                boxes.append((min(a[0], b[0]), min(a[1], b[1]), max(a[0], b[0]), max(a[1], b[1])))
            case Arc2(centre=c) | Circle2(centre=c):
                r = curve.radius
                boxes.append((c[0] - r, c[1] - r, c[0] + r, c[1] + r))
            case _:
                points = curve.sampled(12)
                spare = float(np.ptp(points, axis=0).max()) * 0.1
                low, high = points.min(axis=0) - spare, points.max(axis=0) + spare
                boxes.append((float(low[0]), float(low[1]), float(high[0]), float(high[1])))
    x0, y0, x1, y1 = zip(*boxes, strict=True)
    return (min(x0), min(y0), max(x1), max(y1))
