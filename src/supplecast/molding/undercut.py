"""Undercuts: skin that is seen from neither side of the pull, and the sideways pulls that would free it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from supplecast.geometry import Bools, Floats, Frame, Rows, Vec, rounded, unit, vec
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding.sampled import Sampled, finer

_STEEP = math.sin(math.radians(1.5))  # skin nearer to the pull than that is asked for from both sides
_SHARE, _LEAST = 0.02, 0.05  # of a face, and mm²: less is an artefact of its edges
_FINER = 4.0  # how much closer an undercut is looked at than the whole skin
_SIDEWAYS = 36
_TRIED = 1200  # places, of which the best direction is found
_FREE = math.sin(math.radians(0.6))
WHOLE = 0.97  # of an undercut that a slide must free: the places along its edges may see the edge


@dataclass(frozen=True)
class Undercut:
    """Faces that hang together and are seen from neither side: their area in mm², their middle and, where a slide would free
    them, the direction in which it leaves; `share` of the area is free that way. `closed` ones are all of a hollow's skin.
    """

    faces: tuple[int, ...]
    area: float
    place: Vec
    slide: Vec | None
    share: float
    closed: bool


def hidden(skin: Sampled, pull: Vec) -> Bools:
    """Which places of a skin are seen from neither side of the pull."""
    direction = np.array(unit(pull))
    facing = skin.normals @ direction
    seen = np.ones(len(facing), dtype=bool)
    for sense in (1.0, -1.0):
        ask = np.flatnonzero(seen & (sense * facing > -_STEEP))
        _, away = skin.whole.hits(skin.just_outside[ask], sense * direction)
        seen[ask[np.isinf(away)]] = False
    return seen


def undercuts(skin: Sampled, hides: Bools, solid: Solid, pull: Vec) -> list[Undercut]:
    """The undercuts of a solid, largest first, each with the way a slide would take."""
    areas = skin.by_face(hides.astype(float), solid.face_count)
    whole = skin.by_face(np.ones(len(hides)), solid.face_count)
    faces = np.flatnonzero((areas > _SHARE * whole) & (areas > _LEAST))
    groups = []
    for group in solid.islands(int(face) for face in faces):
        near = finer(skin, group, _FINER)
        mine = hidden(near, pull)
        if not mine.any():
            continue
        weights = near.areas[mine]
        place = vec(np.average(near.middles[mine], axis=0, weights=weights))
        slide, share = _sideways(near, mine, pull)
        groups.append(
            Undercut(group, float(weights.sum()), place, slide if share >= WHOLE else None, share, _is_closed(solid, group))
        )
    return sorted(groups, key=lambda one: -one.area)


def freed(skin: Sampled, faces: Sequence[int], pull: Vec, directions: Sequence[Vec] | None = None) -> tuple[Vec, float]:
    """Of some directions, those square to the pull if none are given, the one along which most of what is hidden of some faces
    can leave, and how much of it can.
    """
    near = finer(skin, faces, _FINER)
    mine = hidden(near, pull)
    return _sideways(near, mine if mine.any() else np.ones(len(mine), dtype=bool), pull, directions)


@dataclass(frozen=True)
class Lifted:
    """The way, square to the pull, on which steel inside of the part leaves an undercut first, and how far that is, mm."""

    way: Vec
    depth: float


def lifted(skin: Sampled, faces: Sequence[int], pull: Vec, clear: float) -> Lifted | None:
    """How a lifter would free an undercut: along the way on which it has to go least, with nothing of the part before it there
    nor `clear` mm beyond. None if there is no such way.
    """
    near = finer(skin, faces, _FINER)
    rows = np.flatnonzero(hidden(near, pull) & (near.normals @ np.array(pull) < -_STEEP))
    if not len(rows):
        return None
    few = rows[:: max(len(rows) // _TRIED, 1)]
    best: Lifted | None = None
    for direction in _around(pull):
        spread = near.corners[rows].reshape(-1, 3) @ np.array(direction)
        depth = float(spread.max() - spread.min())
        if best is not None and depth > best.depth - 1e-3:
            continue
        if all(_leaves(near, some, direction, depth + clear) >= WHOLE for some in (few, rows)):
            best = Lifted(rounded(direction, 12), depth)
    return best


def _is_closed(solid: Solid, group: Sequence[int]) -> bool:
    return all(solid.neighbours[face] <= set(group) for face in group)


def _sideways(skin: Sampled, mine: Bools, pull: Vec, directions: Sequence[Vec] | None = None) -> tuple[Vec, float]:
    """Of directions square to the pull the one along which most of an area can leave, and how much of it can."""
    rows = np.flatnonzero(mine)
    few = rows[:: max(len(rows) // _TRIED, 1)]
    best: tuple[float, Vec] = (-1.0, pull)
    for direction in directions or _around(pull):
        share = _leaves(skin, few, direction)
        if share > best[0] + 1e-6:
            best = share, direction
    return best[1], _leaves(skin, rows, best[1])


def _leaves(skin: Sampled, rows: Rows, direction: Vec, far: float = np.inf) -> float:
    """How much of the area of some places can leave along a direction, or go `far` mm on it."""
    d = np.array(direction)
    free = rows[skin.normals[rows] @ d >= -_FREE]
    _, away = skin.whole.hits(skin.just_outside[free], d)
    return float(skin.areas[free][away >= far].sum() / skin.areas[rows].sum())


def _around(pull: Vec) -> Sequence[Vec]:
    """Directions square to the pull: along the axes of the document first, then every ten degrees."""
    level = Frame.lying((0.0, 0.0, 0.0), pull)
    x, y = np.array(level.x), np.array(level.y)
    turns = [0.0, 0.5, 1.0, 1.5, *(k / _SIDEWAYS * 2 for k in range(_SIDEWAYS))]
    return [vec(math.cos(math.pi * t) * x + math.sin(math.pi * t) * y) for t in turns]


def suggested_pull(skin: Sampled) -> list[tuple[Vec, float]]:
    """The three axes, and the share of the skin that would be seen from neither side; the best pull first."""
    tried: list[tuple[Vec, float]] = []
    for axis in range(3):
        direction = vec(np.eye(3)[axis])
        lost: Floats = skin.areas[hidden(skin, direction)]
        tried.append((direction, float(lost.sum() / max(skin.area, 1e-12))))
    return sorted(tried, key=lambda pair: round(pair[1], 4))
