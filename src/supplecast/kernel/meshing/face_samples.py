"""Distances from many points at once to some faces of a solid.

Their triangles tell which face is nearest. The distance is then taken in closed form for flats, cylinders, cones, balls and
rings, and from the triangles for all others, where it is off by no more than the chord error. Places given are (n, 3) in mm.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from OCP.BRepMesh import BRepMesh_IncrementalMesh

from supplecast.geometry import Bools, Floats, Rows
from supplecast.kernel.meshing import mesh, triangulation_flat, triangulation_turned
from supplecast.kernel.meshing.analytic_surfaces import Surfaces, dots, surfaces
from supplecast.kernel.meshing.triangulation import Triangulation
from supplecast.kernel.shapes import apart
from supplecast.kernel.shapes.shape import Solid, faces_of
from supplecast.search import Triangles

_ANGLE = 1.0  # rad: the chord error alone says how fine; small rounds are cut into fewer pieces


_ASIDE = 0.97  # cosine of how far off square a place may lie over its foot, as facets let it, and still be over the face


@dataclass(frozen=True)
class Strewn:
    """Points on faces: where, on which face, and the normal out of the material there. `tolerance` is how far off in mm they
    may be: nothing on plain faces.
    """

    points: Floats
    faces: Rows
    normals: Floats
    tolerance: Floats


@dataclass(frozen=True)
class Near:
    """For each of several places the distance to the nearest face in mm, the foot there, the face, and whether the place is
    on the side its normal points to; `beside` where it lies aside of the face, whose rim is nearest. `tolerance` is how far
    off the distance may be: nothing on plain faces, but for their rims.
    """

    away: Floats
    feet: Floats
    faces: Rows
    outside: Bools
    tolerance: Floats
    beside: Bools


class FaceSamples:
    """Some faces of a solid, ready to be measured to; `fine` is the chord error of their triangles in mm. `empty` tells that
    some face has no triangles at all.
    """

    def __init__(self, solid: Solid, faces: Sequence[int], fine: float) -> None:
        self.faces, self.fine = tuple(faces), fine
        self._numbers = np.array(self.faces, dtype=np.int64)
        self._surfaces = surfaces(solid.face(face) for face in faces)
        self._patches = _patches(solid, faces, self._surfaces, fine)
        a, b, c = (self._patches.corners[:, k] for k in range(3))
        areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
        self._in_order = np.argsort(self._patches.rows, kind="stable")  # the triangles of each face in a row
        self._ends = np.cumsum(areas[self._in_order])
        self._by_face = np.bincount(self._patches.rows, areas, len(faces))
        self._counts = np.bincount(self._patches.rows, minlength=len(faces))
        self.area = float(self._by_face.sum())
        self.empty = bool((self._counts == 0).any())

    def strewn(self, count: int, least: int = 4) -> Strewn:
        """About `count` points spread over the faces by area, at least `least` on each; the same ones at each call."""
        which, points, normals = self._drawn(count, least)
        rows = self._patches.rows[which]
        on = self._surfaces.feet(rows, points, points)
        # A place off the surface along the rough normal has its foot along the true one.
        off = points + normals * (10 * self.fine)
        true = off - self._surfaces.feet(rows, off, on)
        sizes = np.linalg.norm(true, axis=1, keepdims=True)
        exact = self._surfaces.plain[rows, None] & (sizes > 1e-9)
        return Strewn(
            on,
            self._numbers[rows],
            np.where(exact, true / np.maximum(sizes, 1e-12), normals),
            self._tolerance(self._surfaces.plain[rows]),
        )

    def _drawn(self, count: int, least: int) -> tuple[Rows, Floats, Floats]:
        """Triangles, a point on each, and the normal there."""
        drawn = np.random.default_rng(1)
        shown = np.flatnonzero(self._by_face > 0)
        numbers = np.maximum(least, np.round(count * self._by_face[shown] / max(self.area, 1e-300)).astype(np.int64))
        rows = np.repeat(shown, numbers)
        rank = np.arange(len(rows)) - np.repeat(np.cumsum(numbers) - numbers, numbers)
        share = (rank + drawn.random(len(rows))) / np.repeat(numbers, numbers)
        at = (np.cumsum(self._by_face) - self._by_face)[rows] + share * self._by_face[rows]
        last = np.cumsum(self._counts)[rows]
        which = self._in_order[np.clip(np.searchsorted(self._ends, at), last - self._counts[rows], last - 1)]
        u, v = np.sqrt(drawn.random(len(which))), drawn.random(len(which))
        weights = np.column_stack([1 - u, u * (1 - v), u * v])[:, :, None]
        normals = (self._patches.normals[which] * weights).sum(axis=1)
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
        return which, (self._patches.corners[which] * weights).sum(axis=1), normals

    def nearest(self, places: Floats) -> Near:
        """The nearest of the faces, for each place."""
        total = len(places)
        if not len(self._patches.rows) or not total:
            none = np.full(total, -1)
            nothing = np.zeros(total, dtype=bool)
            return Near(np.full(total, np.inf), np.zeros((total, 3)), none, nothing, np.zeros(total), nothing)
        hits = self._search.nearest(places)
        rows, away, feet = self._patches.rows[hits.triangles], hits.away, hits.feet
        over = dots(places - feet, self._patches.normals[hits.triangles].mean(axis=1))
        outside = over > 0
        beside = np.abs(over) < _ASIDE * away
        on = self._surfaces.feet(rows, places, feet)
        true = np.linalg.norm(places - on, axis=1)
        # Beyond the rim of its face a foot counts for nothing: the triangle's stays, which is on a chord of the rim.
        beyond = self._surfaces.slid(rows, on - feet) > 1.5 * self.fine
        good = self._surfaces.plain[rows] & ~beyond & (np.abs(true - away) < 1.5 * self.fine)
        away, feet = np.where(good, true, away), np.where(good[:, None], on, feet)
        return Near(away, feet, self._numbers[rows], outside, self._tolerance(good), beside)

    def _tolerance(self, exact: Bools) -> Floats:
        tolerance: Floats = np.where(exact, 0.0, 1.5 * self.fine)
        return tolerance

    @cached_property
    def _search(self) -> Triangles:
        return Triangles(self._patches.corners)


def _patches(solid: Solid, faces: Sequence[int], surfaces: Surfaces, fine: float) -> Triangulation:
    """Triangles of faces: by formula where there is one, and by the kernel where not."""
    shapes = [solid.face(face) for face in faces]
    by_formula = (triangulation_flat, triangulation_turned)
    laid = Triangulation.joined(module.triangulate(shapes, surfaces, fine, _ANGLE) for module in by_formula)
    others = sorted(set(range(len(faces))) - set(laid.rows.tolist()))
    if not others:
        return laid
    BRepMesh_IncrementalMesh(faces_of(solid, (faces[row] for row in others)), fine, False, _ANGLE, not apart.alone())
    patches = {row: mesh.patch(solid, faces[row]) for row in others}
    return Triangulation.joined(
        [laid, *(Triangulation.of_face(row, *patch) for row, patch in patches.items() if patch is not None)]
    )


def is_plain(solid: Solid, face: int) -> bool:
    """Whether distances to a face are found in closed form."""
    return bool(surfaces([solid.face(face)]).plain[0])
