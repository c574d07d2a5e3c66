"""How far the melt has to flow from a gate, and how many walls that is.

The centres of the balls of `wall` make a sheet of points in the middle of the walls. Points near each other are linked, unless
skin lies between them, and the shortest way from the gate is sought over the links (Dijkstra).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra
from scipy.spatial import cKDTree

from supplecast.geometry import Floats, Rows, Vec, vec
from supplecast.molding.wall import Walls

_NODES = 5000
_REACH = 3.2  # links reach so many times as far as nodes lie apart, but never as far as two walls


@dataclass(frozen=True)
class Flow:
    """From the gate to every place of the skin, (n,): `lengths` in mm and `ratios` in walls along the way; inf where the melt
    finds no way. `end` is the last place to fill.
    """

    lengths: Floats
    ratios: Floats
    end: Vec

    @property
    def longest(self) -> float:
        return float(self.lengths[np.isfinite(self.lengths)].max(initial=0.0))

    @property
    def highest(self) -> float:
        return float(self.ratios[np.isfinite(self.ratios)].max(initial=0.0))


def flow(walls: Walls, gate: Vec) -> Flow:
    """The ways from a gate on or near the skin."""
    skin = walls.skin
    inside = skin.middles - skin.normals * (walls.balls / 2)[:, None]
    sound = np.flatnonzero(~walls.rim & (walls.balls > 0.1 * walls.usual))
    apart = max(float(np.sqrt(skin.areas[sound].sum() / 2 / _NODES)), 0.3 * walls.usual)
    nodes = _thinned(inside[sound], apart)
    places, sizes = inside[sound][nodes], walls.balls[sound][nodes]
    gate_inside = _inside(walls, gate)
    places, sizes = np.concatenate([places, gate_inside[None]]), np.append(sizes, walls.usual)
    pairs = cKDTree(places).query_pairs(max(min(_REACH * apart, 1.9 * walls.usual), 1.8 * apart), output_type="ndarray")
    pairs = pairs[~skin.whole.crossed(places[pairs[:, 0]], places[pairs[:, 1]])]
    lengths = np.linalg.norm(places[pairs[:, 0]] - places[pairs[:, 1]], axis=1)
    ratios = 2 * lengths / (sizes[pairs[:, 0]] + sizes[pairs[:, 1]])
    far, many = (_from_gate(pairs, weights, len(places)) for weights in (lengths, ratios))
    tree = cKDTree(places)
    _, near = tree.query(inside, k=4)
    own = np.linalg.norm(inside[:, None] - places[near], axis=2)
    whole_length = (far[near] + own).min(axis=1)
    whole_ratio = (many[near] + own / sizes[near]).min(axis=1)
    reached = np.isfinite(whole_length)
    last = int(np.where(reached, whole_length, -1.0).argmax())
    return Flow(whole_length, whole_ratio, vec(skin.middles[last]))


def _inside(walls: Walls, gate: Vec) -> Floats:
    """The middle of the wall beside the gate."""
    near = walls.skin.whole.nearest(np.array([gate]))
    normal = walls.skin.whole.normals[near.triangles[0]]
    size, _ = walls.skin.whole.balls(near.feet, normal[None], np.array([walls.cap]))
    centres: Floats = near.feet[0] - normal * size[0] / 2
    return centres


def _thinned(places: Floats, apart: float) -> Rows:
    """One of the places in each cell of a grid."""
    cells = np.floor(places / apart).astype(np.int64)
    _, first = np.unique(cells, axis=0, return_index=True)
    return first


def _from_gate(pairs: Rows, weights: Floats, count: int) -> Floats:
    links = coo_matrix((weights, (pairs[:, 0], pairs[:, 1])), shape=(count, count)).tocsr()
    lengths: Floats = dijkstra(links, directed=False, indices=count - 1)
    return lengths
