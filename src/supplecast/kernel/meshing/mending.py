"""Triangles of a file mended: points that belong together joined, what says nothing left out, turned the same way, small gaps
closed. What was done is told; what cannot be done without guessing is left.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from manifold3d import Error, Manifold, Mesh, triangulate
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import breadth_first_order, connected_components
from scipy.spatial import cKDTree

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Ints, Rows
from supplecast.search import Triangles
from supplecast.wording import brief, plural

_WELDS = (0.0, 1e-7, 1e-6, 1e-5, 1e-4)  # of the size, from the nearest on
_SMALL_GAP = 0.02  # of all area: a larger gap may be meant to be there
_ASIDE = 1e-4  # of the size: off a triangle, to look whether it lies inside others
_CROSSED = 1e-3  # of all area
_PASSES = 12
_MOST_GAPS = 2000
_NOTHING = 1e-6  # of the volume that so much skin could hold: a sheet seen from both sides holds none


@dataclass(frozen=True)
class Mended:
    """Points (n, 3) mm and triangles (m, 3) that share them; whether they are `tight`, what was `done`, and what is `left`."""

    points: Floats
    triangles: Ints
    tight: bool
    done: tuple[str, ...]
    left: tuple[str, ...]


def mended(points: Floats, triangles: Ints) -> Mended:
    """A sound mesh of points (n, 3) mm and triangles (m, 3), as far as it can be had. KernelError where nothing is left."""
    done, left = list[str](), list[str]()
    size = float(np.linalg.norm(np.ptp(points, axis=0)))
    points, triangles = _welded(points, triangles, size, done)
    triangles = _telling(points, triangles, done)
    if not len(triangles):
        raise KernelError("This mesh holds no triangle with an area.", "Export it again from where it was made.")
    triangles = _turned_alike(points, triangles, done)
    triangles = _closed(points, triangles, done)
    used = np.unique(triangles)
    points, triangles = points[used], np.searchsorted(used, triangles).astype(np.int32)
    gaps = len(_open_sides(triangles))
    if gaps:
        left.append(f"open along {plural(gaps, 'side')} of triangles")
    tight = not gaps and Manifold(Mesh(points.astype(np.float32), triangles.astype(np.uint32))).status() == Error.NoError
    if not gaps and not tight:
        left.append("more than two triangles meet along a line")
    if tight and _volume(points, triangles) < 0:
        triangles = np.ascontiguousarray(triangles[:, ::-1])
        done.append("turned inside out")
    if tight and (share := _crossed(points, triangles, size)) > _CROSSED:
        tight = False
        left.append(f"it crosses itself ({brief(100 * share, 2)} % of its skin lies inside it)")
    return Mended(points, triangles, tight, tuple(done), tuple(left))


def _welded(points: Floats, triangles: Ints, size: float, done: list[str]) -> tuple[Floats, Ints]:
    """Points that are the same, and where that leaves gaps, points that nearly are, as far apart as it takes to close them."""
    best: tuple[int, float, Floats, Ints] | None = None
    for share in _WELDS:
        there, corners = _joined_points(points, triangles, share * size)
        gaps = len(_open_sides(corners[~_is_line(corners)]))
        if best is None or gaps < best[0]:
            best = gaps, share * size, there, corners
        if not gaps:
            break
    assert best is not None
    _, far, there, corners = best
    if far:
        done.append(f"points up to {brief(far)} mm apart joined")
    return there, corners


def _joined_points(points: Floats, triangles: Ints, within: float) -> tuple[Floats, Ints]:
    there, of = np.unique(points, axis=0, return_inverse=True)
    of = of.reshape(-1)
    if within:
        near = cKDTree(there).query_pairs(within, output_type="ndarray")
        graph = coo_matrix((np.ones(len(near)), (near[:, 0], near[:, 1])), shape=(len(there),) * 2)
        count, labels = connected_components(graph, directed=False)
        sums = np.stack([np.bincount(labels, there[:, k], count) for k in range(3)], axis=1)
        there, of = sums / np.bincount(labels, minlength=count)[:, None], labels[of]
    return there, of[triangles].astype(np.int32)


def _is_line(triangles: Ints) -> Rows:
    a, b, c = triangles.T
    return np.asarray((a == b) | (b == c) | (c == a))


def _telling(points: Floats, triangles: Ints, done: list[str]) -> Ints:
    """Those triangles that have three corners, each once."""
    whole = triangles[~_is_line(triangles)]
    if len(whole) < len(triangles):
        done.append(f"{plural(len(triangles) - len(whole), 'triangle')} without area left out")
    _, first = np.unique(np.sort(whole, axis=1), axis=0, return_index=True)
    if len(first) < len(whole):
        done.append(f"{plural(len(whole) - len(first), 'triangle')} told twice left out")
    return whole[np.sort(first)]


def _sides(triangles: Ints) -> Ints:
    """The sides of all triangles as they run, (3 m, 2)."""
    return np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2).reshape(-1, 2)


def _open_sides(triangles: Ints) -> Ints:
    """Sides that bound one triangle only, as they run there, (k, 2)."""
    sides = _sides(triangles)
    _, of, counts = np.unique(np.sort(sides, axis=1), axis=0, return_inverse=True, return_counts=True)
    opened: Ints = sides[counts[of.reshape(-1)] == 1]
    return opened


def _turned_alike(points: Floats, triangles: Ints, done: list[str]) -> Ints:
    """Neighbours turned the same way, each piece as the most of its area was."""
    sides = _sides(triangles)
    keys = np.sort(sides, axis=1)
    order = np.lexsort((keys[:, 1], keys[:, 0]))
    keys, along = keys[order], (sides[order, 0] == keys[order, 0])
    of = order // 3
    starts = np.flatnonzero(np.concatenate([[True], (keys[1:] != keys[:-1]).any(axis=1)]))
    twice = starts[np.diff(np.append(starts, len(keys))) == 2]
    against = along[twice] == along[twice + 1]
    if not against.any():
        return triangles
    a, b = of[twice], of[twice + 1]
    count = len(triangles)
    contrary = {(min(pair), max(pair)) for pair in zip(a[against].tolist(), b[against].tolist(), strict=True)}
    graph = coo_matrix((np.ones(len(a)), (a, b)), shape=(count, count)).tocsr()
    number, piece = connected_components(graph, directed=False)
    turned = np.zeros(count, dtype=bool)
    for first in np.unique(piece, return_index=True)[1].tolist():
        walk, before = breadth_first_order(graph, first, directed=False)
        for at in walk[1:].tolist():
            come = int(before[at])
            turned[at] = turned[come] ^ ((min(come, at), max(come, at)) in contrary)
    corners = points[triangles]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    flipped = np.bincount(piece, areas * turned, number) > np.bincount(piece, areas * ~turned, number)
    turned ^= flipped[piece]
    done.append(f"{plural(int(turned.sum()), 'triangle')} turned over")
    return np.where(turned[:, None], triangles[:, ::-1], triangles)


def _closed(points: Floats, triangles: Ints, done: list[str]) -> Ints:
    """Small gaps closed by triangles between the points round them; not those of pieces that would enclose nothing."""
    whole = float(_areas(points, triangles).sum())
    loops = _loops(_open_sides(triangles))
    patches = [_patch(points, loop) for loop in loops] if len(loops) <= _MOST_GAPS else []
    patches = [
        patch
        for loop, patch in zip(loops, patches, strict=False)
        if len(patch) == len(loop) - 2 and float(_areas(points, patch).sum()) < _SMALL_GAP * whole
    ]
    if not patches:
        return triangles
    piece, hollow = _pieces(points, np.concatenate([triangles, *patches]))
    patches = [patch for patch in patches if hollow[piece[patch[0, 0]]]]
    if patches:
        done.append(f"{plural(len(patches), 'gap')} closed")
    return np.concatenate([triangles, *patches]).astype(np.int32)


def _areas(points: Floats, triangles: Ints) -> Floats:
    a, b, c = (points[triangles[:, k]] for k in range(3))
    return np.asarray(np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2)


def _pieces(points: Floats, triangles: Ints) -> tuple[Rows, Rows]:
    """The piece that each point belongs to, by what hangs together, and whether each piece has a volume."""
    sides = _sides(triangles)
    graph = coo_matrix((np.ones(len(sides)), (sides[:, 0], sides[:, 1])), shape=(len(points),) * 2)
    count, piece = connected_components(graph, directed=False)
    of = piece[triangles[:, 0]]
    about = points[np.unique(piece, return_index=True)[1]][of]
    a, b, c = (points[triangles[:, k]] - about for k in range(3))
    volumes = np.bincount(of, np.einsum("ij,ij->i", a, np.cross(b, c)) / 6, count)
    areas = np.bincount(of, _areas(points, triangles), count)
    return piece, np.asarray(np.abs(volumes) > _NOTHING * areas**1.5)


def _loops(sides: Ints) -> list[list[int]]:
    """Rings of points round gaps, each run against the sides, so that a patch of it looks the way its neighbours do."""
    after: dict[int, list[int]] = defaultdict(list)
    for a, b in sides.tolist():
        after[b].append(a)
    loops = []
    while after:
        start = next(iter(after))
        loop = [start]
        while loop[-1] in after:
            here = after[loop[-1]]
            further = here.pop()
            if not here:
                del after[loop[-1]]
            if further in loop:
                ring = loop[loop.index(further) :]
                loops += [ring] if len(ring) > 2 else []
                del loop[loop.index(further) + 1 :]
                if further == start and further not in after:
                    break
            else:
                loop.append(further)
    return loops


def _patch(points: Floats, loop: list[int]) -> Ints:
    """Triangles (k, 3) that fill a ring of points, laid flat where it is flattest."""
    ring = points[loop]
    near = ring - ring.mean(axis=0)
    normal = np.cross(near, np.roll(near, -1, axis=0)).sum(axis=0)
    length = float(np.linalg.norm(normal))
    if length < 1e-300:
        return np.empty((0, 3), dtype=np.int32)
    normal /= length
    x = np.eye(3)[np.abs(normal).argmin()]
    x = x - normal * (x @ normal)
    x /= np.linalg.norm(x)
    flat = np.stack([near @ x, near @ np.cross(normal, x)], axis=1)
    filled = np.asarray(triangulate([flat]), dtype=np.int32).reshape(-1, 3)
    return np.asarray(loop, dtype=np.int32)[filled]


def _volume(points: Floats, triangles: Ints) -> float:
    a, b, c = (points[triangles[:, k]] - points.mean(axis=0) for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6


def _crossed(points: Floats, triangles: Ints, size: float) -> float:
    """The share of the skin that lies inside of other parts of it: from there outwards, the inside of the skin is met first."""
    skin = Triangles(points[triangles])
    middles = skin.corners.mean(axis=1) + _ASIDE * size * skin.normals
    large = skin.areas > (10 * _ASIDE * size) ** 2 / 100
    hit, _ = skin.hits(middles[large], skin.normals[large])
    inside = (hit >= 0) & (np.einsum("ij,ij->i", skin.normals[hit], skin.normals[large]) > 1e-3)
    return float(skin.areas[large][inside].sum() / max(skin.areas.sum(), 1e-300))


def without_slivers(points: Floats, triangles: Ints, thin: float) -> tuple[Floats, Ints]:
    """A closed mesh without sides shorter and triangles narrower than `thin` mm, which no face can be made of: short sides are
    drawn together, and a narrow triangle shares out its longest side with its neighbour.
    """
    for _ in range(_PASSES):
        sides = _sides(triangles)
        short = sides[np.linalg.norm(points[sides[:, 0]] - points[sides[:, 1]], axis=1) < thin]
        if len(short):
            graph = coo_matrix((np.ones(len(short)), (short[:, 0], short[:, 1])), shape=(len(points),) * 2)
            _, labels = connected_components(graph, directed=False)
            first = np.unique(labels, return_index=True)[1]
            points, triangles = points[first], labels[triangles].astype(np.int32)
            triangles = triangles[~_is_line(triangles)]
        narrow = slivers(points, triangles, thin)
        if not len(narrow):
            break
        triangles = _shared_out(points, triangles, narrow)
    return points, triangles


def slivers(points: Floats, triangles: Ints, thin: float) -> Rows:
    """Triangles lower than `thin` mm over their longest side."""
    corners = points[triangles]
    longest = np.max([np.linalg.norm(corners[:, k] - corners[:, k - 1], axis=1) for k in range(3)], axis=0)
    doubled = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return np.flatnonzero(doubled < thin * longest)


def _shared_out(points: Floats, triangles: Ints, narrow: Rows) -> Ints:
    """Narrow triangles and their neighbours beyond their longest sides, parted the other way."""
    rows = triangles.copy()
    of = {(a, b): at for at, (x, y, z) in enumerate(rows.tolist()) for a, b in ((x, y), (y, z), (z, x))}
    touched: set[int] = set()
    for at in narrow.tolist():
        ring = rows[at].tolist()
        lengths = [float(np.linalg.norm(points[ring[k]] - points[ring[(k + 1) % 3]])) for k in range(3)]
        k = int(np.argmax(lengths))
        a, b, c = ring[k], ring[(k + 1) % 3], ring[(k + 2) % 3]
        beyond = of.get((b, a), at)
        if {at, beyond} & touched or beyond == at:
            continue
        d = (set(rows[beyond].tolist()) - {a, b}).pop()
        if (c, d) in of or (d, c) in of:
            continue
        rows[at], rows[beyond] = (c, a, d), (d, b, c)
        touched |= {at, beyond}
    return rows
