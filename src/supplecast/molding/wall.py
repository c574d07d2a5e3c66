"""How thick the walls of a part are: everywhere by the largest ball that fits inside, and straight through by rays.

A ray measures a wall well where its two skins are parallel, and knows nothing of the mass at a rib's root; the ball measures
both. Neither means anything at rims, which look along the wall: those places are left out of the figures.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from supplecast.geometry import Bools, Floats, Rows, Vec, vec
from supplecast.molding.sampled import Sampled

_CAP = 4.0  # balls are looked for up to so many usual walls
_CLEAN = 0.996  # less is the mesh's own roughness
_RIM = 0.5  # a ball that some skin enters deeper than that share of its radius lies across the end of a wall
THIN, THICK = 0.8, 1.2  # of the usual wall: beyond these a place is pointed out (the root of a textbook rib reaches 1.2)
_LEAST_SPOT = 2.0  # mm²
_STEPS, _AROUND, _BEST = 8, 12, 12


@dataclass(frozen=True)
class Spot:
    """Places next to each other where the wall is thin, or thick: their middle, area in mm², the extreme wall in mm, and the
    faces they lie on.
    """

    place: Vec
    area: float
    wall: float
    faces: tuple[int, ...]


@dataclass(frozen=True)
class Walls:
    """Walls at the places of a skin: `balls` and `rays` (n,) mm; `rim` (n,) tells the places that look along a wall.

    `cap` is the largest ball that was looked for.
    """

    skin: Sampled
    balls: Floats
    rays: Floats
    rim: Bools
    cap: float

    def share_below(self, share: float) -> float:
        """The wall that so much of the area stays below, rims left out; 0 if nothing is left."""
        keep = ~self.rim
        if not keep.any():
            return 0.0
        order = np.argsort(self.balls[keep])
        sums = np.cumsum(self.skin.areas[keep][order])
        return float(self.balls[keep][order][np.searchsorted(sums, share * sums[-1]).clip(max=len(order) - 1)])

    @cached_property
    def usual(self) -> float:
        return self.share_below(0.5)

    @cached_property
    def least(self) -> float:
        return self.share_below(0.01)

    @cached_property
    def most(self) -> float:
        return self.share_below(0.99)

    def thin(self, limit: float) -> list[Spot]:
        """Where the wall stays under a limit by more than the mesh may be off, the thinnest first."""
        spots = []
        for rows in self._together((self.balls < limit - self.skin.fine) & ~self.rim):
            least = rows[self.balls[rows].argmin()]
            spots.append(self._spot(rows, float(self.balls[least]), vec(self.skin.middles[least])))
        return sorted(spots, key=lambda spot: spot.wall)

    def thick(self) -> list[Spot]:
        """Masses thicker than the usual wall, the thickest first; in each the largest ball is sought by climbing."""
        limit = THICK * self.usual
        spots = [self._spot(rows, *self._climbed(rows)) for rows in self._together((self.balls > limit) & ~self.rim)]
        return sorted((spot for spot in spots if spot.wall > limit), key=lambda spot: -spot.wall)

    def _together(self, mine: Bools) -> Iterator[Rows]:
        """Places in groups that lie next to each other, in the middle of the wall; small groups are left out."""
        rows = np.flatnonzero(mine)
        if not len(rows):
            return
        middles = self.skin.middles[rows] - self.skin.normals[rows] * (self.balls[rows] / 2)[:, None]
        groups = _linked(middles, 2.5 * self.skin.spacing)
        for number in range(int(groups.max()) + 1):
            held = rows[groups == number]
            if self.skin.areas[held].sum() >= _LEAST_SPOT:
                yield held

    def _spot(self, rows: Rows, wall: float, place: Vec) -> Spot:
        faces = tuple(int(face) for face in np.unique(self.skin.faces[rows]))
        return Spot(place, float(self.skin.areas[rows].sum()), wall, faces)

    def _climbed(self, rows: Rows) -> tuple[float, Vec]:
        """The largest ball near some places, and where it touches: steps on the skin, shorter each time, from the best.

        Only balls that no skin enters at all count: two rounds beside a rib do not face each other. 0 where skin enters all.
        """
        drawn = np.random.default_rng(3)
        entered = _entered(self.skin, self.skin.middles[rows], self.skin.normals[rows], self.balls[rows], _CLEAN)
        sizes = np.where(entered, 0.0, self.balls[rows])
        first = np.union1d(np.argsort(-sizes)[:_BEST], np.argsort(-self.balls[rows])[:_BEST])
        places, normals, sizes = self.skin.middles[rows][first], self.skin.normals[rows][first], sizes[first]
        step = self.skin.spacing
        for _ in range(_STEPS):
            around = np.repeat(places, _AROUND, axis=0) + drawn.normal(size=(len(places) * _AROUND, 3)) * step
            near = self.skin.whole.nearest(around)
            directions = self.skin.whole.normals[near.triangles]
            alike = (directions * np.repeat(normals, _AROUND, axis=0)).sum(axis=1) > 0.9
            feet, directions = near.feet[alike], directions[alike]
            balls, _ = self.skin.whole.balls(feet, directions, np.full(len(feet), self.cap))
            good = ~_entered(self.skin, feet, directions, balls, _CLEAN)
            places, normals = np.concatenate([places, feet[good]]), np.concatenate([normals, directions[good]])
            sizes = np.concatenate([sizes, balls[good]])
            best = np.argsort(-sizes)[:_BEST]
            places, normals, sizes, step = places[best], normals[best], sizes[best], step / 2
        return float(sizes[0]), vec(places[0])


def walls(skin: Sampled, usual: float) -> Walls:
    """Measure a skin; `usual` is about what walls are expected, mm."""
    inside = skin.middles - 1e-6 * skin.size * skin.normals
    _, rays = skin.whole.hits(inside, -skin.normals)
    rays = np.where(np.isfinite(rays), rays, 0.0)  # an open skin lets them out
    cap = _CAP * max(usual, float(np.median(rays)) if len(rays) else usual)
    balls, _ = skin.whole.balls(skin.middles, skin.normals, np.clip(rays, 1e-6, cap))
    return Walls(skin, balls, rays, _entered(skin, skin.middles, skin.normals, balls, _RIM), cap)


def _entered(skin: Sampled, places: Floats, normals: Floats, balls: Floats, share: float) -> Bools:
    """Which balls some skin enters, nearer to the middle than a share of the radius."""
    centres = places - normals * (balls / 2)[:, None]
    entered: Bools = skin.whole.nearest(centres, share * balls / 2).triangles >= 0
    return entered


def _linked(places: Floats, near: float) -> Rows:
    pairs = cKDTree(places).query_pairs(near, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(places), len(places)))
    _, groups = connected_components(links, directed=False)
    linked: Rows = groups.astype(np.int64)
    return linked


def root_ball(rib: float, wall: float, round_: float) -> float:
    """The largest ball at a rib's root, mm: D = ((t/2 + R)² + (s + R)² − R²) / (s + 2R) for a rib t on a wall s with roots
    rounded by R (closed form: the circle that touches the wall's far side and both rounds).
    """
    return ((rib / 2 + round_) ** 2 + (wall + round_) ** 2 - round_**2) / (wall + 2 * round_)
