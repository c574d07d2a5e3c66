"""Faces as sheets of paper: what a flat, round or conical one is unrolled by, and where on it a place lies."""

from __future__ import annotations

import math
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType

from supplecast.art.sheet import Cone, Flat, Round
from supplecast.errors import KernelError
from supplecast.geometry import Axis, Frame, Vec, along, dot, subtract, times, unit
from supplecast.kernel.measuring import datums, measure
from supplecast.kernel.shapes.shape import Solid, xyz

_WHOLE = 2 * math.pi - 1e-6
_TINY = 1e-9


def sheet_of(solid: Solid, face: int, spot: Vec | None = None) -> Flat | Round | Cone | None:
    """The sheet that a face is, its origin at the face's middle, or nearest to a place. None for faces that cannot be unrolled
    in closed form.

    y runs up the face where it can, else away from who looks from the front; a face that goes all the way round has its middle
    in front, where the document is seen from against y.
    """
    surface = BRepAdaptor_Surface(solid.face(face))
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        frame = Frame.seen(measure.flat_frame(solid, face).origin, measure.flat_frame(solid, face).normal)
        return Flat(Frame(_dropped(frame, spot or measure.face_middle(solid, face)), frame.x, frame.normal))
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        return _round(solid, face, surface, spot)
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Cone:
        return _cone(solid, face, surface, spot)
    return None


def touching(solid: Solid, face: int, spot: Vec | None = None) -> Frame:
    """The plane that touches a face at its middle, or nearest to a place: y up it, the normal out of the material."""
    near = spot or measure.point_inside(solid, face) or measure.face_middle(solid, face)
    place, out = datums.normal_at(solid, face, near)
    seen = Frame.seen(place, out)
    return Frame(place, seen.x, seen.normal)


def axis_of(solid: Solid, face: int) -> Axis:
    """The axis that a face is turned about. KernelError for one that is not."""
    word = measure.surface_word(solid, face)
    if word == "flat":
        raise KernelError("A flat face has no axis to go round.", "Lay the picture on as a label.", faces=(face,))
    return datums.face_axis(solid, face)


def round_about(axis: Axis, solid: Solid, face: int, spot: Vec | None = None) -> tuple[Frame, float]:
    """An axis as a frame that looks to the middle of a face, or to a place, at its foot; and 1 where x goes to the right round
    it as seen from outside with y along it, else -1.
    """
    direction = times(axis.direction, _upwards(axis.direction))
    place = spot or _front(axis, measure.face_middle(solid, face))
    foot = axis.nearest(place)
    inside = measure.point_inside(solid, face) or place
    out = datums.normal_at(solid, face, inside)[1]
    arm = subtract(inside, axis.nearest(inside))
    return Frame.lying(foot, direction, subtract(place, foot)), math.copysign(1.0, dot(out, arm))


def _dropped(frame: Frame, place: Vec) -> Vec:
    return along(place, frame.normal, -frame.over(place))


def _front(axis: Axis, middle: Vec) -> Vec:
    """A place beside an axis, at the height of a face's middle, that is seen from the front."""
    foot = axis.nearest(middle)
    way = (0.0, -1.0, 0.0) if abs(axis.direction[1]) < 0.9 else (0.0, 0.0, 1.0)
    return along(foot, unit(subtract(way, times(axis.direction, dot(way, axis.direction)))), 1.0)


def _upwards(direction: Vec) -> float:
    """The sense in which a direction is upwards; one that lies level goes away from the viewer, or else to the right."""
    for axis in (2, 1, 0):
        if abs(direction[axis]) > 1e-6:
            return math.copysign(1.0, direction[axis])
    return 1.0


def _round(solid: Solid, face: int, surface: Any, spot: Vec | None) -> Round:
    form = surface.Cylinder()
    line = Axis(xyz(form.Axis().Location()), xyz(form.Axis().Direction()))
    place = spot or _middle(solid, face, surface, line)
    up, foot = _upwards(line.direction), line.nearest(place)
    frame = Frame.lying(foot, line.direction, subtract(place, foot))
    return Round(frame, form.Radius(), up * _outwards(solid, face, line), up)


def _cone(solid: Solid, face: int, surface: Any, spot: Vec | None) -> Cone:
    form = surface.Cone()
    apex = xyz(form.Apex())
    line = Axis(apex, xyz(form.Axis().Direction()))
    place = spot or _middle(solid, face, surface, line)
    height = dot(subtract(place, apex), line.direction)
    into = line.direction if height > 0 else times(line.direction, -1.0)
    half = abs(form.SemiAngle())
    frame = Frame.lying(apex, into, subtract(place, line.nearest(place)))
    out = _outwards(solid, face, line)
    # Seen from outside, what is right depends on which way is up: y leads away from the apex where that is upwards.
    far = unit(along(times(into, math.cos(half)), frame.x, math.sin(half)))
    up = _upwards(far)
    return Cone(frame, half, abs(height) / math.cos(half), up * out, up)


def _middle(solid: Solid, face: int, surface: Any, line: Axis) -> Vec:
    u0, u1, v0, v1 = BRepTools.UVBounds_s(solid.face(face))
    middle = xyz(surface.Value((u0 + u1) / 2, (v0 + v1) / 2))
    if u1 - u0 < _WHOLE:
        return middle
    foot = line.nearest(middle)
    front = subtract(_front(line, middle), foot)
    return along(foot, front, math.dist(middle, foot))


def _outwards(solid: Solid, face: int, line: Axis) -> float:
    """1 where the skin looks away from the axis, -1 in a hole."""
    inside = measure.point_inside(solid, face) or measure.face_middle(solid, face)
    place, out = datums.normal_at(solid, face, inside)
    arm = subtract(place, line.nearest(place))
    return math.copysign(1.0, dot(out, arm)) if dot(arm, arm) > _TINY else 1.0
