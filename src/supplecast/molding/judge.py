"""All that is measured of one body to tell whether it can be molded; each part is worked out when it is first asked for."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from supplecast import kernel
from supplecast.geometry import Bools, Floats, Vec, unit
from supplecast.kernel.shapes import lineage
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import estimates, undercut, wall
from supplecast.molding.flow import Flow, flow
from supplecast.molding.sampled import Sampled, sampled
from supplecast.molding.undercut import Undercut
from supplecast.molding.wall import Walls

_USUAL = 2.0  # mm: a wall to begin with where no resin is known
UPRIGHT = math.radians(0.05)  # a face that leans less stands along the pull


@dataclass(eq=False)
class Skin:
    """A body's triangles and walls, whatever the pull and the resin."""

    solid: Solid

    @cached_property
    def _source(self) -> tuple[Skin, Floats] | None:
        """The skin of the solid that this one is, carried elsewhere: places of a tool are copies of one part."""
        found = lineage.carried(self.solid)
        return (skin_of(found[0]), found[1]) if found else None

    @cached_property
    def _mesh(self) -> kernel.mesh.Mesh:
        if self._source:
            return self._source[0]._mesh.carried(self._source[1])
        return kernel.mesh.tessellate(self.solid, self.fine, 0.2, edges=False)

    @property
    def fine(self) -> float:
        return min(max(kernel.measure.loose_box(self.solid).diagonal / 4000, 0.005), 0.1)

    @cached_property
    def places(self) -> Sampled:
        if self._source:
            return self._source[0].places.carried(self._source[1])
        fine = self._mesh
        coarse = kernel.mesh.tessellate(self.solid, 2.5 * self.fine, 0.45, edges=False)
        return sampled(coarse, fine, self.fine)

    @cached_property
    def walls(self) -> Walls:
        if self._source:
            return replace(self._source[0].walls, skin=self.places)
        return wall.walls(self.places, _USUAL)

    def projected(self, pull: Vec) -> float:
        return estimates.projected_area([self._mesh.welded()], pull)


_SKIN: Memo[Skin] = Memo("skin")


def skin_of(solid: Solid) -> Skin:
    """The skin of a solid, remembered on it: several steps of a tool ask for it."""
    return _SKIN.of(solid, lambda: Skin(solid))


@dataclass(eq=False)
class Pulled:
    """How a body lies to a pull."""

    skin: Skin
    pull: Vec

    @cached_property
    def drafts(self) -> Floats:
        """Least and greatest signed draft of each face, (faces, 2) rad."""
        return kernel.facing.drafts(self.skin.solid, self.pull)

    @cached_property
    def least(self) -> Floats:
        """How far each face leans at least, (faces,) rad; NaN for faces that turn over."""
        low, high = self.drafts[:, 0], self.drafts[:, 1]
        under = np.where(high <= UPRIGHT, np.maximum(-high, 0.0), np.nan)
        angles: Floats = np.where(low >= -UPRIGHT, np.maximum(low, 0.0), under)
        return angles

    @cached_property
    def map(self) -> Floats:
        """Signed draft at each place of the skin, (n,) rad."""
        facing = self.skin.places.normals @ np.array(unit(self.pull))
        angles: Floats = np.arcsin(np.clip(facing, -1.0, 1.0))
        return angles

    @cached_property
    def areas(self) -> Floats:
        """Of each face, mm²."""
        places = self.skin.places
        areas: Floats = places.by_face(np.ones(len(places.faces)), self.skin.solid.face_count)
        return areas

    def short(self, needed: float | Floats) -> list[int]:
        """Faces that lean less than `needed` rad somewhere, for all or each (faces,); those that lean least first."""
        wanting = np.flatnonzero(self.least < needed - 1e-9)
        return [int(face) for face in sorted(wanting, key=lambda face: (round(float(self.least[face]), 4), -self.areas[face]))]

    @cached_property
    def turning(self) -> list[int]:
        """Faces that are seen from both sides, the largest first."""
        return [int(face) for face in sorted(np.flatnonzero(np.isnan(self.least)), key=lambda face: -self.areas[face])]

    @cached_property
    def silhouettes(self) -> list[Floats]:
        """Where those faces turn over, each line as (n, 3) mm, cut off at the face's outline to about a place's spacing."""
        lines = []
        for line in kernel.silhouette.lines(self.skin.solid, self.turning, self.pull):
            points = kernel.silhouette.sampled(line)
            near = self.skin.places.whole.nearest(points, 4 * self.skin.fine).triangles >= 0
            ends = np.flatnonzero(np.diff(np.concatenate([[False], near, [False]]).astype(int)))
            lines += [points[a:b] for a, b in zip(ends[::2], ends[1::2], strict=True) if b - a > 1]
        return lines

    @cached_property
    def hidden(self) -> Bools:
        return undercut.hidden(self.skin.places, self.pull)

    @cached_property
    def undercuts(self) -> list[Undercut]:
        return undercut.undercuts(self.skin.places, self.hidden, self.skin.solid, self.pull)

    @cached_property
    def projected(self) -> float:
        return self.skin.projected(self.pull)

    def flow(self, gate: Vec) -> Flow:
        return flow(self.skin.walls, gate)
