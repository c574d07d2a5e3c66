"""Surfaces that have a formula (flats, cylinders, cones, balls and rings), many of them in one table.

Each is a straight line or an arc turned about an axis, or a flat, so that the feet of any number of places on any of them, and
points on them by their parameters, are worked out in one pass.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType as Kind

from supplecast.geometry import Bools, Floats, Rows
from supplecast.kernel.shapes.shape import xyz

FREE, FLAT, STRAIGHT, ARCHED = range(4)


@dataclass(frozen=True)
class Surfaces:
    """One row a surface. `forms` says which of the four each is: FREE ones have no formula, and their rows mean nothing.

    `places` (n, 3) and `axes` (n, 3, 3), x, y, z in rows, are their frames, turned about z. A STRAIGHT one's line starts
    `far` mm off the axis and leans outwards by `leans` rad; an ARCHED one's arc of radius `bends` mm is centred there. `off` is
    how far in mm the face itself runs off all that, on whichever side.
    """

    forms: Rows
    places: Floats
    axes: Floats
    far: Floats
    bends: Floats
    leans: Floats
    off: Floats

    @property
    def plain(self) -> Bools:
        analytic: Bools = self.forms != FREE
        return analytic

    def feet(self, rows: Rows, places: Floats, near: Floats) -> Floats:
        """The nearest points of whole surfaces: of that in `rows` (k,) to each of `places` (k, 3), given a point of the face
        `near` each. Where a surface is FREE, that point.
        """
        feet = self._on(rows, places, near)
        aside = np.flatnonzero(self.off[rows] > 0)
        if len(aside):
            out = near[aside] - self._on(rows[aside], near[aside], near[aside])
            feet[aside] += _unit(out) * self.off[rows[aside], None]
        return feet

    def _on(self, rows: Rows, places: Floats, near: Floats) -> Floats:
        forms, feet = self.forms[rows], near.copy()
        flat = np.flatnonzero(forms == FLAT)
        if len(flat):
            at, mine = places[flat], rows[flat]
            z = self.axes[mine, 2]
            feet[flat] = at - dots(at - self.places[mine], z)[:, None] * z
        bent = np.flatnonzero(forms > FLAT)
        if len(bent):
            at, mine = places[bent], rows[bent]
            centre, z = self.places[mine], self.axes[mine, 2]
            high = dots(at - centre, z)
            out = at - centre - high[:, None] * z
            far, high = self._in_half(mine, np.linalg.norm(out, axis=1), high, dots(near[bent] - centre, z))
            feet[bent] = centre + _unit(out) * far[:, None] + high[:, None] * z
        return feet

    def _in_half(self, rows: Rows, far: Floats, high: Floats, near: Floats) -> tuple[Floats, Floats]:
        """Feet in the half plane through the axis: how far off it and how high, from the same of each place."""
        lean, middle, bend = self.leans[rows], self.far[rows], self.bends[rows]
        s, c = np.sin(lean), np.cos(lean)
        # A cone's wall is a line there, or its mirror image beyond the apex: whichever holds the near point.
        side = np.where(middle * c + near * s < 0, -1.0, 1.0)
        along = (side * far - middle) * s + high * c
        size = np.maximum(np.hypot(far - middle, high), 1e-12)
        arched = self.forms[rows] == ARCHED
        return (
            np.where(arched, middle + (far - middle) / size * bend, side * (middle + along * s)),
            np.where(arched, high / size * bend, along * c),
        )

    def slid(self, rows: Rows, between: Floats) -> Floats:
        """How far two points on a surface, or on triangles of it, that are `between` (k, 3) apart lie apart along what is
        straight of it: all of a flat, the height of a cylinder or cone. Nothing on others.
        """
        forms = self.forms[rows]
        along = np.abs(dots(between, self.axes[rows, 2]))
        slides: Floats = np.where(forms == FLAT, np.linalg.norm(between, axis=1), np.where(forms == STRAIGHT, along, 0.0))
        return slides

    def half(self, rows: Rows, v: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        """The half section of turned surfaces at their second parameter: how far off the axis it is and how high, and the same
        of the normal that the parameters give there.
        """
        arched = self.forms[rows] == ARCHED
        lean, reach = self.leans[rows], np.where(arched, self.bends[rows], v)
        c, s = np.cos(np.where(arched, v, lean)), np.sin(np.where(arched, v, lean))
        hand = np.where(np.linalg.det(self.axes[rows]) < 0, -1.0, 1.0)
        return (
            self.far[rows] + reach * np.where(arched, c, s),
            reach * np.where(arched, s, c),
            hand * c,
            hand * np.where(arched, s, -s),
        )


def surfaces(faces: Iterable[Any]) -> Surfaces:
    """The table of some faces of the kernel, in their order."""
    rows = [_row(BRepAdaptor_Surface(face)) for face in faces]
    forms, frames, sizes = zip(*rows, strict=True) if rows else ((), (), ())
    table = np.array(frames, dtype=np.float64).reshape(-1, 4, 3)
    far, bends, leans, off = np.array(sizes, dtype=np.float64).reshape(-1, 4).T
    return Surfaces(np.array(forms, dtype=np.int64), table[:, 0], table[:, 1:], far, bends, leans, off)


_Row = tuple[int, tuple[Any, ...], tuple[float, float, float, float]]
_NOTHING: _Row = (FREE, ((0.0, 0.0, 0.0),) * 4, (0.0, 0.0, 0.0, 0.0))


def _row(surface: Any) -> _Row:
    """The form of a surface, its frame (place and axes), and its sizes: far, bend, lean, off."""
    match surface.GetType():
        case Kind.GeomAbs_Plane:
            shape = surface.Plane()
            form, sizes = FLAT, (0.0, 0.0, 0.0, 0.0)
        case Kind.GeomAbs_Cylinder:
            shape = surface.Cylinder()
            form, sizes = STRAIGHT, (shape.Radius(), 0.0, 0.0, 0.0)
        case Kind.GeomAbs_Cone:
            shape = surface.Cone()
            form, sizes = STRAIGHT, (shape.RefRadius(), 0.0, shape.SemiAngle(), 0.0)
        case Kind.GeomAbs_Sphere:
            shape = surface.Sphere()
            form, sizes = ARCHED, (0.0, shape.Radius(), 0.0, 0.0)
        case Kind.GeomAbs_Torus:
            shape = surface.Torus()
            form, sizes = ARCHED, (shape.MajorRadius(), shape.MinorRadius(), 0.0, 0.0)
        case Kind.GeomAbs_OffsetSurface:
            form, frame, (far, bend, lean, off) = _row(surface.BasisSurface())
            if form == FREE or off:
                return _NOTHING
            return form, frame, (far, bend, lean, abs(surface.OffsetValue()))
        case _:
            return _NOTHING
    place = shape.Position()
    frame = (place.Location(), place.XDirection(), place.YDirection(), place.Direction())
    return form, tuple(xyz(one) for one in frame), sizes


def _unit(rows: Floats) -> Floats:
    sizes = np.linalg.norm(rows, axis=1, keepdims=True)
    return np.where(sizes > 1e-12, rows / np.maximum(sizes, 1e-12), np.array([1.0, 0.0, 0.0]))


def dots(a: Floats, b: Floats) -> Floats:
    """Scalar products row by row, (k,)."""
    products: Floats = np.einsum("ij,ij->i", a, b)
    return products
