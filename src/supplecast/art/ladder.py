"""The meridian of faces turned about an axis, as a ladder of places with the way to each."""

from __future__ import annotations

import numpy as np
from scipy import sparse
from scipy.sparse import csgraph

from supplecast.geometry import Floats, Frame, Ints, Rows

_SAME = 1e-5  # mm
_FEW = 400  # rungs: finer ones are not seen


def ladder(points: Floats, triangles: Ints, axis: Frame, place: Floats) -> tuple[tuple[float, float, float], ...]:
    """Places (height, distance from the axis, way), in mm, along the meridian of triangles (m, 3) on points (n, 3) that are
    turned about an axis; the way is 0 where the meridian is nearest to `place`, and grows towards its upper end.

    Ways are shortest ones over the triangles' sides as seen in the half plane through the axis: on a turned surface these run
    along the meridian.
    """
    away = points - np.array(axis.origin)
    height = away @ np.array(axis.normal)
    far = np.hypot(away @ np.array(axis.x), away @ np.array(axis.y))
    flat, of = np.unique(np.round(np.column_stack([height, far]) / _SAME).astype(np.int64), axis=0, return_inverse=True)
    nodes = flat * _SAME
    corners = of.reshape(-1)[triangles]
    a, b = corners.ravel(), np.roll(corners, -1, axis=1).ravel()
    apart = a != b
    a, b = a[apart], b[apart]
    lengths = np.linalg.norm(nodes[a] - nodes[b], axis=1)
    graph = sparse.csr_array(_sides(a, b, lengths), shape=(len(nodes), len(nodes)))
    first = int(np.argmin(nodes[:, 0]))
    ways = csgraph.dijkstra(graph, directed=False, indices=first)
    # From the far end of that way it is a straight run to the other end.
    start = int(np.argmax(np.where(np.isfinite(ways), ways, -1.0)))
    ways = csgraph.dijkstra(graph, directed=False, indices=start)
    ways = ways if nodes[start, 0] <= nodes[int(np.argmax(np.where(np.isfinite(ways), ways, -1.0))), 0] else -ways
    known = np.flatnonzero(np.isfinite(ways))
    order = known[np.argsort(ways[known], kind="stable")]
    if len(order) > _FEW:
        order = order[np.unique(np.linspace(0, len(order) - 1, _FEW).round().astype(int))]
    rungs = np.column_stack([nodes[order], ways[order]])
    nearest = np.argmin(np.linalg.norm(rungs[:, :2] - _seen(axis, place), axis=1))
    rungs[:, 2] -= _way_at(rungs, _seen(axis, place), int(nearest))
    return tuple((float(h), float(f), float(w)) for h, f, w in rungs)


def _sides(a: Rows, b: Rows, lengths: Floats) -> tuple[Floats, tuple[Rows, Rows]]:
    """Each side once, with its length."""
    pairs = np.sort(np.column_stack([a, b]), axis=1)
    unique, first = np.unique(pairs, axis=0, return_index=True)
    return lengths[first], (unique[:, 0], unique[:, 1])


def _seen(axis: Frame, place: Floats) -> Floats:
    away = place - np.array(axis.origin)
    return np.array([away @ np.array(axis.normal), np.hypot(away @ np.array(axis.x), away @ np.array(axis.y))])


def _way_at(rungs: Floats, place: Floats, nearest: int) -> float:
    """The way to the place of the ladder that lies nearest, between rungs."""
    best, way = np.inf, float(rungs[nearest, 2])
    for k in (nearest - 1, nearest):
        if 0 <= k < len(rungs) - 1:
            run = rungs[k + 1, :2] - rungs[k, :2]
            share = float(np.clip((place - rungs[k, :2]) @ run / max(float(run @ run), 1e-30), 0.0, 1.0))
            off = float(np.linalg.norm(rungs[k, :2] + share * run - place))
            if off < best:
                best, way = off, float(rungs[k, 2] + share * (rungs[k + 1, 2] - rungs[k, 2]))
    return way
