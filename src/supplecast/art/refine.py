"""Triangles made smaller without moving the skin: what is unrolled needs corners where it is to give way."""

from __future__ import annotations

import numpy as np

from supplecast.geometry import Floats, Ints, Rows

_ROUNDS = 8
_MOST = 40_000
"""Triangles: beyond, no round is begun."""
# How a triangle falls apart by which of its sides are halved, bits 1, 2, 4 for those after its corners 0, 1, 2: corners 0 to 2
# are its own, 3 to 5 the middles of its sides.
_PARTS: dict[int, tuple[tuple[int, int, int], ...]] = {
    0: ((0, 1, 2),),
    1: ((0, 3, 2), (3, 1, 2)),
    2: ((1, 4, 0), (4, 2, 0)),
    4: ((2, 5, 1), (5, 0, 1)),
    3: ((1, 4, 3), (0, 3, 4), (0, 4, 2)),
    6: ((2, 5, 4), (1, 4, 5), (1, 5, 0)),
    5: ((0, 3, 5), (2, 5, 3), (2, 3, 1)),
    7: ((0, 3, 5), (3, 1, 4), (5, 4, 2), (3, 4, 5)),
}


def refined(points: Floats, normals: Floats, triangles: Rows | Ints, longest: float) -> tuple[Floats, Floats, Rows, Rows]:
    """The same skin with no side longer than `longest` mm, as far as there is room: points (n, 3), normals (n, 3), triangles
    (m, 3), and of which triangle each is a part, (m,). Triangles that share a corner share those put between.
    """
    held, of = triangles.astype(np.int64), np.arange(len(triangles))
    for _ in range(_ROUNDS):
        sides = np.stack([held, np.roll(held, -1, axis=1)], axis=-1)
        pairs, back = np.unique(np.sort(sides.reshape(-1, 2), axis=1), axis=0, return_inverse=True)
        long = np.linalg.norm(points[pairs[:, 0]] - points[pairs[:, 1]], axis=1) > longest
        if not long.any() or len(held) > _MOST:
            break
        new = np.cumsum(long) - 1 + len(points)
        middles = pairs[long]
        points = np.concatenate([points, points[middles].mean(axis=1)])
        between = normals[middles].sum(axis=1)
        normals = np.concatenate([normals, between / np.maximum(np.linalg.norm(between, axis=1, keepdims=True), 1e-12)])
        back = back.reshape(-1, 3)
        corners = np.concatenate([held, new[back]], axis=1)
        kinds = long[back] @ np.array([1, 2, 4])
        pieces, parents = [], []
        for kind, parts in _PARTS.items():
            mine = np.flatnonzero(kinds == kind)
            for part in parts:
                pieces.append(corners[mine][:, part])
                parents.append(of[mine])
        held, of = np.concatenate(pieces), np.concatenate(parents)
    return points, normals, held, of
