"""Where a part sticks to its core, and where pins can push it off: a raster seen along the pull.

Shrinking holds a part on steep faces of the core. Each such place pulls at the pins by its area, the less the more it leans.
Pins stand where the part is flat across the pull and wide enough for them, one after another at the place that brings the
steep faces nearest to a pin; on a part that mirrors itself, in mirrored groups.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import distance_transform_edt, maximum_filter, minimum_filter

from supplecast.geometry import Bools, Floats, Frame, Point2, Vec
from supplecast.molding.sampled import Sampled
from supplecast.search import Triangles

_CELL = 0.5  # mm
_MOST_CELLS = 400
_FLAT = math.cos(math.radians(3.0))
_STEP = 0.1  # mm: a greater step under a pin is an edge
STEEP = math.radians(10.0)
"""Faces that lean more hold nothing (common practice, no source)."""
_CANDIDATES, _PULLS = 900, 1500
_ROUND = 1.0  # mm of flat that must lie round a pin
_ALIKE = 0.92  # share of the places that must have their mirror image


@dataclass(frozen=True)
class Raster:
    """The part seen from the core side, cells `size` mm wide: the height along the pull of what is seen, NaN beside it, and
    where it is flat; `low` is the first cell's corner in the plane.
    """

    heights: Floats
    flat: Bools
    low: Point2
    size: float
    plane: Frame

    def place(self, row: int, column: int) -> Point2:
        return (self.low[0] + (row + 0.5) * self.size, self.low[1] + (column + 0.5) * self.size)

    def highest(self, place: Point2, radius: float, beside: float) -> float:
        """The highest level along the pull within a radius of a place; `beside` counts where nothing of the part is."""
        rows, columns = np.indices(self.heights.shape)
        off = np.hypot(self.low[0] + (rows + 0.5) * self.size - place[0], self.low[1] + (columns + 0.5) * self.size - place[1])
        near = self.heights[off <= radius + self.size]
        inside = all(
            low + radius <= spot <= low + count * self.size - radius
            for low, spot, count in zip(self.low, place, self.heights.shape, strict=True)
        )
        highest = float(np.where(np.isnan(near), beside, near).max(initial=-math.inf))
        return highest if inside else max(highest, beside)

    def room(self) -> Floats:
        """How far each cell is from the nearest place where a pin cannot stand, mm."""
        distances: Floats = distance_transform_edt(np.pad(self.flat, 1))[1:-1, 1:-1] * self.size
        return distances


def raster(skin: Sampled, pull: Vec) -> Raster:
    """The part as the pins meet it, coming along the pull against it."""
    plane = Frame.lying((0.0, 0.0, 0.0), pull)
    points = skin.whole.corners.reshape(-1, 3)
    x, y, up = np.array(plane.x), np.array(plane.y), np.array(plane.normal)
    (u0, u1), (v0, v1) = ((float((points @ a).min()), float((points @ a).max())) for a in (x, y))
    top = float((points @ up).max()) + 1.0
    size = max(_CELL, (u1 - u0) / _MOST_CELLS, (v1 - v0) / _MOST_CELLS)
    us, vs = np.arange(u0 + size / 2, u1, size), np.arange(v0 + size / 2, v1, size)
    grid = (us[:, None, None] * x + vs[None, :, None] * y + top * up).reshape(-1, 3)
    which, away = skin.whole.hits(grid, -up)
    met = np.isfinite(away)
    heights = np.where(met, top - np.where(met, away, 0.0), np.nan).reshape(len(us), len(vs))
    facing = np.where(met, skin.whole.normals[np.maximum(which, 0)] @ up, 0.0).reshape(heights.shape)
    whole = np.where(np.isnan(heights), -1e9, heights)
    level = maximum_filter(whole, 3) - minimum_filter(whole, 3) < _STEP
    return Raster(heights, (facing > _FLAT) & level & met.reshape(heights.shape), (u0, v0), size, plane)


@dataclass(frozen=True)
class Room:
    """What pins of a `radius` in mm need: how far `apart` their middles are, under which level they stand, so that none is on
    the rim, faces they must not mark, places that are `held` already, and what their middles must be how far off.
    """

    radius: float
    apart: float
    below: float
    spared: Sequence[int] = ()
    held: Sequence[Point2] = ()
    beside: Sequence[tuple[Point2, float]] = ()


def proposed(skin: Sampled, pull: Vec, room: Room, count: int) -> list[Point2]:
    """Places for so many pins besides those held, in the plane square to the pull; fewer where there is no room."""
    seen = raster(skin, pull)
    if room.spared:
        seen = _without(seen, skin, pull, room.spared)
    radius, below = room.radius, room.below
    fits = seen.flat & (seen.room() >= radius + _ROUND) & (np.where(np.isnan(seen.heights), 1e9, seen.heights) < below - 1.5)
    rows, columns = np.indices(fits.shape)
    for (u, v), off in room.beside:
        fits &= np.hypot(seen.low[0] + (rows + 0.5) * seen.size - u, seen.low[1] + (columns + 0.5) * seen.size - v) > off
    cells = np.argwhere(fits)
    if not len(cells):
        return []
    cells = cells[:: max(len(cells) // _CANDIDATES, 1)]
    places = np.array([seen.place(int(r), int(c)) for r, c in cells])
    pulls, weights = _pulls(skin, seen.plane, pull)
    mirrored = list(places[:, None]) if room.held else _groups(seen, fits, places)  # beside held ones nothing mirrors any more
    groups = [group for group in mirrored if _stands(seen, fits, group)]
    return _chosen(groups, pulls, weights, count, room)


def _without(seen: Raster, skin: Sampled, pull: Vec, spared: Sequence[int]) -> Raster:
    """The raster without the faces that must not be marked."""
    rows, columns = np.nonzero(seen.flat)
    flat = np.column_stack([seen.low[0] + (rows + 0.5) * seen.size, seen.low[1] + (columns + 0.5) * seen.size])
    up = np.array(pull)
    places = seen.plane.space(flat) + (seen.heights[rows, columns] + 1.0)[:, None] * up
    which, _ = Triangles(skin.corners).hits(places, -up)
    kept = seen.flat.copy()
    kept[rows, columns] = ~np.isin(skin.faces[which], spared) & (which >= 0)
    return replace(seen, flat=kept)


def _pulls(skin: Sampled, plane: Frame, pull: Vec) -> tuple[Floats, Floats]:
    """Steep places of the core side in the plane, and how hard each holds."""
    lean = np.arcsin(np.clip(skin.normals @ np.array(pull), -1, 1))
    holds = np.flatnonzero((lean > -1e-3) & (lean < STEEP))
    if not len(holds):
        holds = np.arange(len(skin.areas))
    weights = skin.areas[holds] * np.maximum(1 - np.abs(lean[holds]) / STEEP, 0.02)
    kept = np.random.default_rng(1).choice(len(holds), min(_PULLS, len(holds)), replace=False, p=weights / weights.sum())
    middles = skin.middles[holds[kept]]
    return np.column_stack([middles @ np.array(plane.x), middles @ np.array(plane.y)]), np.ones(len(kept))


def _groups(seen: Raster, fits: Bools, places: Floats) -> list[Floats]:
    """For each place the places that go with it: its mirror images, where the part has them."""
    shape = ~np.isnan(seen.heights)
    groups = [places[:, None]]
    middle = np.array([seen.low[k] + shape.shape[k] * seen.size / 2 for k in (0, 1)])
    for axis in (0, 1):
        turned = np.flip(fits, axis)
        both = (fits & turned).sum() / max(fits.sum(), 1)
        if both >= _ALIKE:
            mirrored = [group.copy() for group in groups]
            for group in mirrored:
                group[:, :, axis] = 2 * middle[axis] - group[:, :, axis]
            groups = [np.concatenate([group, image], axis=1) for group, image in zip(groups, mirrored, strict=True)]
    return list(groups[0])


def _stands(seen: Raster, fits: Bools, group: Floats) -> bool:
    """Whether every place of a group is one where a pin can stand: images may fall beside."""
    cells = np.floor((group - np.array(seen.low)) / seen.size).astype(int)
    inside = ((cells >= 0) & (cells < np.array(fits.shape))).all(axis=1)
    return bool(inside.all() and fits[cells[:, 0], cells[:, 1]].all())


def _chosen(groups: list[Floats], pulls: Floats, weights: Floats, count: int, room: Room) -> list[Point2]:
    """Greedy k-median: the group that brings the pulls nearest to a pin, as long as there is room."""
    held = [np.array(place) for place in room.held]
    away = np.min([np.linalg.norm(pulls - place, axis=1) for place in held], axis=0) if held else np.full(len(pulls), np.inf)
    near = [np.linalg.norm(pulls[None] - group[:, None], axis=2).min(axis=0) for group in groups]
    taken: list[Floats] = []
    left = np.ones(len(groups), dtype=bool)
    while len(taken) < count and left.any():
        best, gain = -1, math.inf
        for k in np.flatnonzero(left):
            group = _single(groups[k])
            if len(taken) + len(group) > count or not _clear(group, [*held, *taken], room.apart):
                left[k] = False
                continue
            cost = float((np.minimum(away, near[k]) * weights).sum())
            if cost < gain - 1e-9:
                best, gain = int(k), cost
        if best < 0:
            break
        taken += list(_single(groups[best]))
        away = np.minimum(away, near[best])
        left[best] = False
    return [(float(p[0]), float(p[1])) for p in taken]


def _single(group: Floats) -> Floats:
    """A group without places that fall together, on the mirror's own line."""
    kept: list[Floats] = []
    for place in group:
        if all(np.linalg.norm(place - other) > 1.0 for other in kept):
            kept.append(place)
    return np.array(kept)


def _clear(group: Floats, taken: list[Floats], apart: float) -> bool:
    others = [*taken]
    for place in group:
        if any(np.linalg.norm(place - other) < apart for other in others):
            return False
        others.append(place)
    return True
