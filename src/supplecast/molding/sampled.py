"""A body's skin as many small triangles: the places at which it is judged, and the picture on which maps are painted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from supplecast.geometry import Floats, Rows
from supplecast.kernel.meshing.mesh import Mesh
from supplecast.search import Triangles

PLACES = 20_000
_MOST = 90_000
_FILL = 0.15  # mean area of the triangles over the square of their longest edge, as bisection leaves them
_SLIVER = 1 / 12  # of the same square: thinner triangles are not cut further


@dataclass(frozen=True)
class Sampled:
    """Small triangles of a solid's skin: `corners` (n, 3, 3) mm, their `middles` laid onto the `whole`, `normals` (n, 3) out of
    the material there, as exact as the node normals of the mesh they were cut from, and the `faces` (n,) they lie on.

    `whole` are finer triangles, to be searched; `fine` is how far those may be off the skin, mm.
    """

    corners: Floats
    middles: Floats
    normals: Floats
    faces: Rows
    whole: Triangles
    fine: float

    @cached_property
    def areas(self) -> Floats:
        return Triangles(self.corners).areas

    @cached_property
    def area(self) -> float:
        return float(self.areas.sum())

    @property
    def spacing(self) -> float:
        """How far apart places lie on the average, mm."""
        return float(np.sqrt(self.area / max(len(self.corners), 1)))

    @cached_property
    def just_outside(self) -> Floats:
        """The middles lifted off the skin by more than the mesh is off it: rays from there do not begin inside."""
        return self.middles + 2 * self.fine * self.normals

    @cached_property
    def size(self) -> float:
        """The diagonal of the box, mm."""
        if not len(self.corners):
            return 0.0
        return float(np.linalg.norm(self.corners.max(axis=(0, 1)) - self.corners.min(axis=(0, 1))))

    def carried(self, motion: Floats) -> Sampled:
        """The same on the solid carried by a turn and a shift, or mirrored, (3, 4)."""
        turn, shift = motion[:, :3], motion[:, 3]
        sense = 1 if np.linalg.det(turn) > 0 else -1
        corners, whole = (rows[:, ::sense] @ turn.T + shift for rows in (self.corners, self.whole.corners))
        return Sampled(corners, self.middles @ turn.T + shift, self.normals @ turn.T, self.faces, Triangles(whole), self.fine)

    def by_face(self, of: Floats, count: int) -> Floats:
        """The area, mm², that each of `count` faces has where a share `of` (n,) from 0 to 1 of its places counts."""
        sums: Floats = np.bincount(self.faces, weights=self.areas * of, minlength=count).astype(np.float64)
        return sums


def finer(skin: Sampled, faces: Sequence[int], times: float) -> Sampled:
    """Only some faces of a skin, their places so many times as close to each other."""
    mine = np.isin(skin.faces, faces)
    directions = np.repeat(skin.normals[mine][:, None], 3, axis=1)
    corners, directions, of = _cut(skin.corners[mine], directions, skin.faces[mine], skin.spacing / times)
    return Sampled(corners, skin.whole.nearest(corners.mean(axis=1)).feet, directions[:, 0], of, skin.whole, skin.fine)


def sampled(coarse: Mesh, fine: Mesh, error: float, places: int = PLACES) -> Sampled:
    """A coarse mesh cut into about as many triangles as `places`, laid onto a fine one with a chord `error` in mm."""
    corners, normals = coarse.points[coarse.triangles], coarse.normals[coarse.triangles]
    longest = np.sqrt(float(Triangles(corners).areas.sum()) / places / _FILL)
    small, directions, of = _cut(corners, normals, coarse.faces, float(longest))
    normal = directions.mean(axis=1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    whole = Triangles(fine.points[fine.triangles])
    return Sampled(small, whole.nearest(small.mean(axis=1)).feet, normal, of, whole, error)


def _cut(corners: Floats, normals: Floats, faces: Rows, longest: float) -> tuple[Floats, Floats, Rows]:
    """Triangles halved across their longest edge until none is longer than that, slivers left as they are."""
    done: list[tuple[Floats, Floats, Rows]] = []
    count = len(corners)
    while len(corners):
        edges = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)
        which = edges.argmax(axis=1)
        areas = Triangles(corners).areas
        split = (edges[np.arange(len(edges)), which] > longest) & (areas > _SLIVER * longest**2)
        if count + int(split.sum()) > _MOST:
            split[:] = False
        done.append((corners[~split], normals[~split], faces[~split]))
        corners, normals, faces, which = corners[split], normals[split], faces[split], which[split]
        count += len(corners)
        rows = np.arange(len(corners))[:, None]
        turn = (which[:, None] + np.arange(3)) % 3  # the longest edge first
        corners, normals = corners[rows, turn], normals[rows, turn]
        half, direction = (corners[:, 0] + corners[:, 1]) / 2, (normals[:, 0] + normals[:, 1]) / 2
        direction /= np.maximum(np.linalg.norm(direction, axis=1, keepdims=True), 1e-12)
        corners = np.concatenate([_with(corners, 1, half), _with(corners, 0, half)])
        normals = np.concatenate([_with(normals, 1, direction), _with(normals, 0, direction)])
        faces = np.concatenate([faces, faces])
    if not done:
        return corners, normals, faces
    return (
        np.concatenate([part[0] for part in done]),
        np.concatenate([part[1] for part in done]),
        np.concatenate([part[2] for part in done]),
    )


def _with(rows: Floats, corner: int, place: Floats) -> Floats:
    changed = rows.copy()
    changed[:, corner] = place
    return changed
