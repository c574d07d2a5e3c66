"""A picture cut to what it covers of a skin: triangles of its own, with their places in the picture."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from supplecast.art import unroll
from supplecast.art.laying import MOST, Laying
from supplecast.art.refine import refined
from supplecast.art.sheet import Cast, Laid
from supplecast.geometry import Bools, Floats, Ints, Rows
from supplecast.search import Triangles

_FINE = 14  # sides of triangles to half of a picture's diagonal, where it is unrolled
_MOSTLY = 0.98
_SPECK = 1e-9  # mm² of a piece that is left out


@dataclass(frozen=True)
class Decal:
    """points (3 k, 3) mm, normals (3 k, 3), places in the picture (3 k, 2) from its upper left, three rows a triangle;
    `stretch` of each triangle, `faces` the row of the triangle each came from, both (k,); `covered` is the share of all copies
    that lies on the skin, by area on paper.
    """

    points: Floats
    normals: Floats
    places: Floats
    stretch: Floats
    source: Rows
    covered: float

    @property
    def strain(self) -> float:
        """The stretch that all but a fiftieth of its area stays under."""
        if not len(self.stretch):
            return 0.0
        a, b, c = (self.points[k::3] for k in range(3))
        areas = np.linalg.norm(np.cross(b - a, c - a), axis=1)
        order = np.argsort(self.stretch)
        under = np.cumsum(areas[order]) / max(float(areas.sum()), 1e-30)
        return float(self.stretch[order][min(int(np.searchsorted(under, _MOSTLY)), len(order) - 1)])


def decal(points: Floats, normals: Floats, triangles: Rows | Ints, laying: Laying) -> Decal:
    """The part of a picture, or of its copies, that lies on a skin: points (n, 3) mm, outward normals (n, 3), triangles (m, 3).
    Empty where it lies beside all of it.
    """
    parts = np.arange(len(triangles))
    if isinstance(laying.sheet, Laid):  # so that flats stay true while what is between them gives way
        points, normals, triangles, parts = refined(points, normals, triangles, laying.reach / _FINE)
    corners, facing = points[triangles], normals[triangles]
    pieces = []
    for rows, paper in _papers(points, triangles, facing, laying):
        on = _in_picture(paper, laying)
        cut, source = _cut(on, _tiles(laying), np.array([laying.width / 2, laying.height / 2]))
        if not len(cut):
            continue
        worst = unroll.stretch(corners[rows][source], paper[source])
        pieces.append((cut, rows[source], worst))
    if not pieces:
        none = np.empty((0, 3))
        return Decal(none, none, np.empty((0, 2)), np.empty(0), np.empty(0, dtype=np.int64), 0.0)
    cut = np.concatenate([piece[0] for piece in pieces])
    source = np.concatenate([piece[1] for piece in pieces])
    worst = np.concatenate([piece[2] for piece in pieces])
    shares, places = cut[:, :, :3], cut[:, :, 3:]
    on = np.einsum("kij,kjx->kix", shares, corners[source])
    out = np.einsum("kij,kjx->kix", shares, facing[source])
    out /= np.maximum(np.linalg.norm(out, axis=2, keepdims=True), 1e-12)
    across, aside = places[:, 1] - places[:, 0], places[:, 2] - places[:, 0]
    area = np.abs(across[:, 0] * aside[:, 1] - across[:, 1] * aside[:, 0]).sum() / 2
    u, v = places[:, :, 0] / laying.width + 0.5, 0.5 - places[:, :, 1] / laying.height
    seen = np.stack([1 - u if laying.mirrored else u, v], axis=-1)
    whole = laying.width * laying.height * laying.columns * laying.rows
    return Decal(
        on.reshape(-1, 3), out.reshape(-1, 3), seen.reshape(-1, 2), worst, parts[source], min(float(area / whole), 1.0)
    )


def corners_of(points: Floats, normals: Floats, triangles: Rows | Ints, laying: Laying) -> tuple[Rows, Floats]:
    """Where the corners of whole triangles lie in the picture of all copies (`picture.tiled`), (k, 3, 2) from its upper left,
    for those that it touches, by their rows, (k,): beyond 0 and 1 outside it.
    """
    facing = normals[triangles]
    best = np.zeros(len(triangles))
    places = np.zeros((len(triangles), 3, 2))
    half = np.array([laying.width, laying.height]) / 2
    for rows, paper in _papers(points, triangles, facing, laying):
        on = _in_picture(paper, laying)
        cut, source = _cut(on, _tiles(laying), half)
        across, aside = cut[:, 1, 3:] - cut[:, 0, 3:], cut[:, 2, 3:] - cut[:, 0, 3:]
        area = np.bincount(source, np.abs(across[:, 0] * aside[:, 1] - across[:, 1] * aside[:, 0]), minlength=len(rows))
        more = area > best[rows]
        best[rows[more]] = area[more]
        wide = laying.width + (laying.columns - 1) * laying.across
        high = laying.height + (laying.rows - 1) * laying.along
        u, v = (on[..., 0] + half[0]) / wide, 1 - (on[..., 1] + half[1]) / high
        places[rows[more]] = np.stack([u, v], axis=-1)[more]
    touched = np.flatnonzero(best > 0)
    return touched, places[touched]


def nearest(points: Floats, triangles: Rows | Ints, place: Floats) -> tuple[Floats, Floats]:
    """The place of a skin that is nearest to one of space, (3,) mm, and the normal there, (3,)."""
    skin = Triangles(points[triangles])
    found = skin.nearest(place[None])
    return found.feet[0], skin.normals[found.triangles[0]]


def _papers(points: Floats, triangles: Rows | Ints, facing: Floats, laying: Laying) -> list[tuple[Rows, Floats]]:
    """Which triangles lie on paper, and where, (k, 3, 2) mm: once for each time that a sheet goes round."""
    sheet = laying.sheet
    every = np.arange(len(triangles))
    if isinstance(sheet, Laid):
        welded, of = _welded(points)
        shared = of[triangles]
        whole = (shared[:, 0] != shared[:, 1]) & (shared[:, 1] != shared[:, 2]) & (shared[:, 2] != shared[:, 0])
        rows = np.flatnonzero(whole)
        place = np.array(sheet.frame.origin)
        chosen = rows[unroll.near(welded, shared[rows], place, 1.3 * laying.reach)]
        frame = sheet.frame
        return [(chosen, unroll.unrolled(welded, shared[chosen], frame)[shared[chosen]])]
    if isinstance(sheet, Cast):
        every = np.flatnonzero(sheet.faced(facing))
    corners = points[triangles[every]]
    return [(every, sheet.on_paper(corners, wraps)) for wraps in range(-sheet.turns, sheet.turns + 1)]


def _welded(points: Floats) -> tuple[Floats, Rows]:
    unique, of = np.unique(np.round(points, 7) + 0.0, axis=0, return_inverse=True)
    return unique, of.reshape(-1)


def _in_picture(paper: Floats, laying: Laying) -> Floats:
    """Places on paper as seen from the first picture's middle, (k, 3, 2) mm."""
    c, s = math.cos(laying.turn), math.sin(laying.turn)
    away = paper - np.array([laying.x, laying.y])
    return np.stack([c * away[..., 0] + s * away[..., 1], c * away[..., 1] - s * away[..., 0]], axis=-1)


def _tiles(laying: Laying) -> Floats:
    """Middles of all copies, (n, 2) mm, seen from the first."""
    columns, rows = np.meshgrid(np.arange(laying.columns), np.arange(laying.rows))
    middles: Floats = np.stack([columns.ravel() * laying.across, rows.ravel() * laying.along], axis=-1)[:MOST]
    return middles


def _cut(on: Floats, tiles: Floats, half: Floats) -> tuple[Floats, Rows]:
    """Triangles (k, 3, 2) cut to each rectangle: pieces (n, 3, 5), of each corner its shares of the triangle's three and its
    place from the rectangle's middle; and which triangle each is of, (n,).
    """
    touched = _touched(on, tiles, half)
    pieces, source = _clipped(np.ascontiguousarray(on[touched]), np.ascontiguousarray(tiles), half)
    return pieces, np.flatnonzero(touched)[source]


def _touched(on: Floats, tiles: Floats, half: Floats) -> Bools:
    low, high = tiles.min(axis=0) - half, tiles.max(axis=0) + half
    near: Bools = (on.min(axis=1) <= high).all(axis=1) & (on.max(axis=1) >= low).all(axis=1)
    return near


@njit(cache=True)
def _clipped(on, tiles, half):  # type: ignore[no-untyped-def]
    pieces = np.empty((max(8, 4 * len(on)), 3, 5))
    source = np.empty(len(pieces), dtype=np.int64)
    count = 0
    ring, other = np.empty((12, 5)), np.empty((12, 5))
    for t in range(len(on)):
        for n in range(len(tiles)):
            apart = False
            for axis in range(2):
                least = min(on[t, 0, axis], on[t, 1, axis], on[t, 2, axis]) - tiles[n, axis]
                most = max(on[t, 0, axis], on[t, 1, axis], on[t, 2, axis]) - tiles[n, axis]
                if least >= half[axis] or most <= -half[axis]:
                    apart = True
            if apart:
                continue
            size = 3
            for k in range(3):
                ring[k, :] = 0.0
                ring[k, k] = 1.0
                for axis in range(2):
                    ring[k, 3 + axis] = on[t, k, axis] - tiles[n, axis]
            for side in range(4):
                axis, sign = 3 + side // 2, 1.0 if side % 2 == 0 else -1.0
                bound, made = half[side // 2], 0
                for k in range(size):
                    a, b = ring[k], ring[(k + 1) % size]
                    da, db = bound - sign * a[axis], bound - sign * b[axis]
                    if da >= 0:
                        other[made, :] = a
                        made += 1
                    if (da > 0 and db < 0) or (da < 0 and db > 0):
                        share = da / (da - db)
                        other[made, :] = a + share * (b - a)
                        other[made, axis] = sign * bound
                        made += 1
                size = made
                ring, other = other, ring
            for k in range(1, size - 1):
                area = (ring[k, 3] - ring[0, 3]) * (ring[k + 1, 4] - ring[0, 4]) - (ring[k + 1, 3] - ring[0, 3]) * (
                    ring[k, 4] - ring[0, 4]
                )
                if abs(area) < _SPECK:
                    continue
                if count == len(pieces):
                    wider = np.empty((2 * count, 3, 5))
                    wider[:count] = pieces
                    longer = np.empty(2 * count, dtype=np.int64)
                    longer[:count] = source
                    pieces, source = wider, longer
                pieces[count, 0], pieces[count, 1], pieces[count, 2] = ring[0], ring[k], ring[k + 1]
                source[count] = t
                count += 1
    return pieces[:count], source[:count]


def warm() -> None:
    """Compile it, so that the first picture does not wait."""
    _clipped(np.zeros((1, 3, 2)), np.zeros((1, 2)), np.ones(2))
