"""Distances from many points at once to some faces of a solid.

Their triangles tell which face is nearest. The distance is then taken in closed form for flats, cylinders, cones, balls and
rings, and from the triangles for all others, where it is off by no more than the chord error. Places given are (n, 3) in mm.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GeomAbs import GeomAbs_SurfaceType as Kind

from supplecast.geometry import Bools, Floats, Rows
from supplecast.kernel import mesh, turned
from supplecast.kernel.shape import Solid, faces_of, xyz
from supplecast.search import Triangles

_ANGLE = 1.0  # rad: the chord error alone says how fine; small rounds are cut into fewer pieces

Feet = Callable[[Floats, Floats], Floats]
"""The nearest points of a whole surface, from places and a point of the face near each."""


@dataclass(frozen=True)
class Strewn:
    """Points on faces: where, on which face, and the normal out of the material there, exact on plain surfaces."""

    points: Floats
    faces: Rows
    normals: Floats


@dataclass(frozen=True)
class Near:
    """For each of several places the distance to the nearest face in mm, the foot there, the face, and whether the place is
    on the side its normal points to. `blur` is how far off the distance may be: nothing on plain faces.
    """

    away: Floats
    feet: Floats
    faces: Rows
    outside: Bools
    blur: Floats


class Skin:
    """Some faces of a solid, ready to be measured to; `fine` is the chord error of their triangles in mm. `empty` tells that
    some face has no triangles at all.
    """

    def __init__(self, solid: Solid, faces: Sequence[int], fine: float) -> None:
        self.faces, self.fine = tuple(faces), fine
        self._corners, self._normals, self._of = _triangles(solid, self.faces, fine)
        a, b, c = (self._corners[:, k] for k in range(3))
        self._areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
        self._plain = {face: _feet(solid, face) for face in self.faces}
        self._free = [face for face, plain in self._plain.items() if plain is None]
        self.area = float(self._areas.sum())
        self.empty = bool(set(self.faces) - set(self._of.tolist()))

    def strewn(self, count: int, least: int = 4) -> Strewn:
        """About `count` points spread over the faces by area, at least `least` on each; the same ones at each call."""
        points, which, normals = self._drawn(count, least)
        return self._settled(points, self._of[which], normals)

    def _drawn(self, count: int, least: int) -> tuple[Floats, Rows, Floats]:
        """Points on the triangles, the triangle of each, and the normal there."""
        drawn = np.random.default_rng(1)
        rows = []
        for face in self.faces:
            mine = np.flatnonzero(self._of == face)
            ends = np.cumsum(self._areas[mine])
            if len(mine) and ends[-1] > 0:
                number = max(least, round(count * ends[-1] / self.area))
                at = (np.arange(number) + drawn.random(number)) / number * ends[-1]
                rows.append(mine[np.minimum(np.searchsorted(ends, at), len(mine) - 1)])
        which = np.concatenate(rows) if rows else np.empty(0, dtype=np.int64)
        u, v = np.sqrt(drawn.random(len(which))), drawn.random(len(which))
        weights = np.column_stack([1 - u, u * (1 - v), u * v])[:, :, None]
        normals = (self._normals[which] * weights).sum(axis=1)
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
        return (self._corners[which] * weights).sum(axis=1), which, normals

    def _settled(self, points: Floats, faces: Rows, normals: Floats) -> Strewn:
        """Points laid from their triangle onto the surface itself, where that has a formula."""
        points, normals = points.copy(), normals.copy()
        for face in np.unique(faces):
            feet = self._plain[int(face)]
            if feet is not None:
                rows = np.flatnonzero(faces == face)
                on = feet(points[rows], points[rows])
                # A place off the surface along the rough normal has its foot along the true one.
                off = points[rows] + normals[rows] * (10 * self.fine)
                true = off - feet(off, on)
                sizes = np.linalg.norm(true, axis=1, keepdims=True)
                points[rows] = on
                normals[rows] = np.where(sizes > 1e-9, true / np.maximum(sizes, 1e-12), normals[rows])
        return Strewn(points, faces, normals)

    def nearest(self, places: Floats) -> Near:
        """The nearest of the faces, for each place."""
        total = len(places)
        if not len(self._corners) or not total:
            none = np.full(total, -1)
            return Near(np.full(total, np.inf), np.zeros((total, 3)), none, np.zeros(total, dtype=bool), np.zeros(total))
        found = self._search.nearest(places)
        best, feet, which = found.away, found.feet, found.triangles
        faces = self._of[which]
        outside = _dot(places - feet, self._normals[which].mean(axis=1)) > 0
        self._refine(places, faces, best, feet)
        return Near(best, feet, faces, outside, self.blur(faces))

    def blur(self, faces: Rows) -> Floats:
        """How far points on these faces may be off them, mm: by the chord error where their surface has no formula."""
        found: Floats = np.where(np.isin(faces, self._free), 1.5 * self.fine, 0.0)
        return found

    def _refine(self, places: Floats, faces: Rows, best: Floats, feet: Floats) -> None:
        """Put the true foot in the place of the one on a triangle; at the rim of a face, where its surface ends, they differ
        by more than the chord error, and the triangle's stays.
        """
        for face in np.unique(faces):
            plain = self._plain[int(face)]
            if plain is not None:
                rows = np.flatnonzero(faces == face)
                on = plain(places[rows], feet[rows])
                away = np.linalg.norm(places[rows] - on, axis=1)
                good = np.abs(away - best[rows]) < 1.5 * self.fine
                best[rows[good]], feet[rows[good]] = away[good], on[good]

    @cached_property
    def _search(self) -> Triangles:
        return Triangles(self._corners)


def _triangles(solid: Solid, faces: Sequence[int], fine: float) -> tuple[Floats, Floats, Rows]:
    """Corners and normals of all triangles, (n, 3, 3) each, and the face of each."""
    laid = {face: turned.grid(solid.face(face), fine, _ANGLE) for face in faces}
    meshed = [face for face, grid in laid.items() if grid is None]
    if meshed:
        BRepMesh_IncrementalMesh(faces_of(solid, meshed), fine, False, _ANGLE, True)
    corners, normals, of = [np.empty((0, 3, 3))], [np.empty((0, 3, 3))], [np.empty(0, dtype=np.int64)]
    for face, grid in laid.items():
        patch = grid or mesh.patch(solid, face)
        if patch is not None:
            points, ways, triangles = patch
            corners.append(points[triangles])
            normals.append(ways[triangles])
            of.append(np.full(len(triangles), face))
    return np.concatenate(corners), np.concatenate(normals), np.concatenate(of)


def _feet(solid: Solid, face: int) -> Feet | None:
    """The closed form of a face's surface, or None."""
    surface = BRepAdaptor_Surface(solid.face(face))
    if surface.GetType() != Kind.GeomAbs_OffsetSurface:
        return _plain(surface)
    base, by = _plain(surface.BasisSurface()), abs(surface.OffsetValue())
    return _off(base, by) if base else None


def is_plain(solid: Solid, face: int) -> bool:
    """Whether distances to a face are found in closed form."""
    return _feet(solid, face) is not None


def _off(base: Feet, by: float) -> Feet:
    """Off a plain surface by `by` mm, on whichever side the near point is."""

    def feet(p: Floats, near: Floats) -> Floats:
        on = base(p, near)
        found: Floats = on + _unit(near - base(near, near)) * by
        return found

    return feet


def _plain(surface: Any) -> Feet | None:
    match surface.GetType():
        case Kind.GeomAbs_Plane:
            place = np.array(xyz(surface.Plane().Location()))
            normal = np.array(xyz(surface.Plane().Axis().Direction()))
            return lambda p, near: p - ((p - place) @ normal)[:, None] * normal
        case Kind.GeomAbs_Sphere:
            centre, radius = np.array(xyz(surface.Sphere().Location())), surface.Sphere().Radius()
            return lambda p, near: centre + _unit(p - centre) * radius
        case Kind.GeomAbs_Cylinder:
            shape = surface.Cylinder()
            return _round(shape.Axis(), lambda rho, z, near: (np.full_like(rho, shape.Radius()), z))
        case Kind.GeomAbs_Torus:
            ring = surface.Torus()
            return _round(ring.Axis(), _in_ring(ring.MajorRadius(), ring.MinorRadius()))
        case Kind.GeomAbs_Cone:
            cone = surface.Cone()
            return _round(cone.Axis(), _in_cone(cone.RefRadius(), cone.SemiAngle()))
    return None


Half = Callable[[Floats, Floats, Floats], tuple[Floats, Floats]]
"""In the half plane through an axis: the foot's distance from the axis and height, from those of a place."""


def _round(axis: Any, half: Half) -> Feet:
    """Surfaces of revolution: solved in the half plane through the axis and the place."""
    place: Floats = np.array(xyz(axis.Location()))
    way: Floats = np.array(xyz(axis.Direction()))

    def feet(p: Floats, near: Floats) -> Floats:
        z = (p - place) @ way
        out = p - place - z[:, None] * way
        rho, z_foot = half(np.linalg.norm(out, axis=1), z, (near - place) @ way)
        found: Floats = place + _unit(out) * rho[:, None] + z_foot[:, None] * way
        return found

    return feet


def _in_ring(major: float, minor: float) -> Half:
    def foot(rho: Floats, z: Floats, near: Floats) -> tuple[Floats, Floats]:
        size = np.maximum(np.hypot(rho - major, z), 1e-12)
        return major + (rho - major) / size * minor, z / size * minor

    return foot


def _in_cone(radius: float, angle: float) -> Half:
    """A cone's wall in the half plane is a line, or its mirror image beyond the apex: whichever holds the near point."""
    c, s = float(np.cos(angle)), float(np.sin(angle))

    def foot(rho: Floats, z: Floats, near: Floats) -> tuple[Floats, Floats]:
        side = np.where(radius + near * s / c < 0, -1.0, 1.0)
        along = (side * rho - radius) * s + z * c
        return side * (radius + along * s), along * c

    return foot


def _unit(rows: Floats) -> Floats:
    sizes = np.linalg.norm(rows, axis=1, keepdims=True)
    return np.where(sizes > 1e-12, rows / np.maximum(sizes, 1e-12), np.array([1.0, 0.0, 0.0]))


def _dot(a: Floats, b: Floats) -> Floats:
    found: Floats = np.einsum("ij,ij->i", a, b)
    return found


def _safe(values: Floats) -> Floats:
    found: Floats = np.where(np.abs(values) < 1e-300, 1e-300, values)
    return found
