"""How warm the wall of the cavity is, place by place, over the water: heat from the parts' skins into sinks along the bores.

A steady mean over the cycle, in endless steel: potentials of sources and of line sinks superposed (Carslaw and Jaeger,
Conduction of Heat in Solids, point and line sources, from memory). Outer walls, joints and the machine are left out, and so is
how the melt's heat comes in a beat: it tells where a wall stays warmer than elsewhere, not the temperature of a molded part.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree
from scipy.spatial.distance import cdist

from supplecast.geometry import Bar, Floats
from supplecast.molding.sampled import Sampled
from supplecast.tooling.coolant import CONDUCTS_STEEL

_PATCHES, _COARSE = 2000, 120  # sources that a skin is seen as from itself, and from another part
_LONG = 10.0  # mm of bore that is one sink
_NEIGHBOURS = 4


@dataclass(frozen=True)
class Heated:
    """A part's skin, and how much heat comes from each of its places, as shares that sum to 1 over it, (n,)."""

    skin: Sampled
    shares: Floats


@dataclass(frozen=True)
class _Sources:
    """Places (n, 3) in mm, what comes from each in W, and how far each is spread, mm."""

    places: Floats
    power: Floats
    spread: Floats


def heated(skin: Sampled, walls: Floats) -> Heated:
    """A skin whose places bring in heat as their `walls` (n,) are thick: half a wall's melt cools towards either side."""
    weights = skin.areas * np.where(np.isfinite(walls), walls, np.nanmedian(walls))
    return Heated(skin, weights / weights.sum())


def over_water(parts: Sequence[Heated], bores: Sequence[Bar], power: float, film: float) -> list[Floats]:
    """K by which each place of each skin is over the water, where `power` W come from all parts alike and `film` W/(m² K) pass
    into the water. ValueError without bores.
    """
    if not bores:
        raise ValueError("no bores")
    each = power / len(parts)
    fine = [_patches(part, each, _PATCHES) for part in parts]
    coarse = [_patches(part, each, _COARSE) for part in parts]
    ends, radii = _segments(bores)
    lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    middles = ends.mean(axis=1)
    # Each sink's own wall is as warm as its film asks for; together they take what comes in.
    walls = middles + radii[:, None] * _aside(ends)
    count = len(radii)
    matrix = np.zeros((count + 1, count + 1))
    matrix[:count, :count] = -_lines(walls, ends, radii) - np.diag(1e6 / (film * 2 * math.pi * radii * lengths))
    matrix[:count, count] = matrix[count, :count] = 1.0
    from_parts = sum((_points(walls, sources) for sources in coarse), np.zeros(count))
    found = np.linalg.solve(matrix, np.concatenate([-from_parts, [power]]))
    sinks, level = found[:count], found[count]
    warm = []
    for number, part in enumerate(parts):
        there = fine[number].places
        total = _points(there, fine[number]) + level - _lines(there, ends, radii) @ sinks
        for other in (s for k, s in enumerate(coarse) if k != number):
            total += _points(there, other)
        warm.append(_between(part.skin.middles, there, total))
    return warm


def _between(there: Floats, places: Floats, values: Floats) -> Floats:
    """Values at places (n, 3) carried over to others, by the nearest of them and how near they are."""
    count = min(_NEIGHBOURS, len(places))
    away, near = cKDTree(places).query(there, k=count)
    away, near = away.reshape(len(there), count), near.reshape(len(there), count)
    weights = 1.0 / np.maximum(away, 1e-6) ** 2
    found: Floats = (weights * values[near]).sum(axis=1) / weights.sum(axis=1)
    return found


def _patches(part: Heated, power: float, count: int) -> _Sources:
    """A skin as about so many sources: its places gathered by a grid."""
    skin = part.skin
    cell = math.sqrt(skin.area / count)
    _, of = np.unique(np.floor(skin.middles / cell).astype(int), axis=0, return_inverse=True)
    of = of.ravel()
    heat: Floats = np.bincount(of, weights=part.shares).astype(np.float64)
    areas = np.bincount(of, weights=skin.areas)
    places = np.stack([np.bincount(of, weights=part.shares * skin.middles[:, k]) for k in range(3)], axis=1)
    spread: Floats = np.sqrt(areas / math.pi) / 2
    return _Sources(places / heat[:, None], power * heat, spread)


def _segments(bores: Sequence[Bar]) -> tuple[Floats, Floats]:
    """Bores cut into sinks: the ends of each, (n, 2, 3), and their radii, mm."""
    rows, radii = [], []
    for bore in bores:
        start, end = np.array(bore.start), np.array(bore.end)
        count = max(round(float(np.linalg.norm(end - start)) / _LONG), 1)
        cuts = start + np.linspace(0, 1, count + 1)[:, None] * (end - start)
        rows += [np.stack([a, b]) for a, b in zip(cuts, cuts[1:], strict=False)]
        radii += [bore.radius] * count
    return np.array(rows), np.array(radii)


def _aside(ends: Floats) -> Floats:
    """A unit vector square to each sink, (n, 3)."""
    along = ends[:, 1] - ends[:, 0]
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    other = np.eye(3)[np.argmin(np.abs(along), axis=1)]
    side = np.cross(along, other)
    aside: Floats = side / np.linalg.norm(side, axis=1, keepdims=True)
    return aside


def _points(there: Floats, sources: _Sources) -> Floats:
    """K at places from sources spread over small discs: at the middle of one it is that of the disc, far off of a point."""
    away = np.sqrt(cdist(there, sources.places, "sqeuclidean") + sources.spread**2)
    total: Floats = (1.0 / away) @ sources.power * _UNIT
    return total


def _lines(there: Floats, ends: Floats, radii: Floats) -> Floats:
    """K at places (n,) for each W of line sources (m,), (n, m); inside of a bore as on its wall."""
    along = ends[:, 1] - ends[:, 0]
    lengths = np.linalg.norm(along, axis=1)
    along = along / lengths[:, None]
    z = there @ along.T - np.einsum("jk,jk->j", ends[:, 0], along)
    rho = np.sqrt(np.maximum(cdist(there, ends[:, 0], "sqeuclidean") - z**2, 0.0))
    rho = np.maximum(rho, radii)
    found: Floats = (np.arcsinh((lengths - z) / rho) + np.arcsinh(z / rho)) / lengths * _UNIT
    return found


_UNIT = 1000.0 / (4 * math.pi * CONDUCTS_STEEL)  # K of 1 W at 1 mm
