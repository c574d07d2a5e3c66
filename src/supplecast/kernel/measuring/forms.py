"""The known form of a free surface or curve: plane, cylinder, cone, ball, ring; line, circle.

A surface of revolution is known by its normals: all of them meet one axis. In Plücker's coordinates that is a linear system
(Pottmann, Randrup: Rotational and helical surface approximation for reverse engineering, 1998), from memory.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.Geom import (
    Geom_Circle,
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Line,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_ToroidalSurface,
)
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopoDS import TopoDS

from supplecast.geometry import Floats
from supplecast.kernel.shapes.shape import mapped, xyz

_LARGEST = 1e3  # a round of so many times the size of a face is a flat that is not quite flat
_FREE_CURVES = (
    GeomAbs_CurveType.GeomAbs_BSplineCurve,
    GeomAbs_CurveType.GeomAbs_BezierCurve,
    GeomAbs_CurveType.GeomAbs_OtherCurve,
)


class _Seen(NamedTuple):
    """A free surface by some points (n, 3) and unit normals (n, 3), a point of its seam if it has one, and its middle."""

    points: Floats
    normals: Floats
    seam: Floats | None
    middle: Floats


def of_face(face: Any, close: float) -> Any | None:
    """The kernel's surface of known form that a face lies on, its normals the same way; None if it is free indeed."""
    closing = [] if is_whole(face) else seams(face)
    if len(closing) > 1:
        return None  # closed both ways and yet with an edge: its traces would have to be drawn by hand
    surface = BRepAdaptor_Surface(face)
    form = None
    # A patch of cubics that lies on a plane at sixteen places lies on it everywhere; of others more places are asked.
    for count in (4,) if _is_simple(surface) else (4, 9):
        seen = _seen(surface, BRepTools.UVBounds_s(face), closing, count)
        forms = (fit(seen, close) for fit in (_plane, _ball, _cylinder, _turned)) if seen else ()
        form = next((form for form in forms if form is not None), None)
        if form is None:
            return None
    return form


def is_whole(face: Any) -> bool:
    """Whether a face has no edge but seams and poles: a whole ball, or a whole ring."""
    return all(BRep_Tool.Degenerated_s(edge) or BRep_Tool.IsClosed_s(edge, face) for edge in _edges_in(face))


def _is_simple(surface: Any) -> bool:
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_BSplineSurface:
        return False
    spline = surface.BSpline()
    return bool(max(spline.UDegree(), spline.VDegree()) <= 3 and spline.NbUKnots() == spline.NbVKnots() == 2)


def _seen(surface: Any, bounds: tuple[float, float, float, float], closing: list[Any], count: int) -> _Seen | None:
    low_u, high_u, low_v, high_v = bounds
    spot, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    rows = []
    shares = np.linspace(0.003, 0.997, count)  # at the very ends, at a pole, a surface may have no normal
    for u in low_u + shares * (high_u - low_u):
        for v in low_v + shares * (high_v - low_v):
            surface.D1(float(u), float(v), spot, du, dv)
            normal = du.Crossed(dv)
            size = normal.Magnitude()
            if size < 1e-12:
                return None
            rows.append((*xyz(spot), normal.X() / size, normal.Y() / size, normal.Z() / size))
    table = np.array(rows)
    middle = np.array(xyz(surface.Value((low_u + high_u) / 2, (low_v + high_v) / 2)))
    return _Seen(table[:, :3], table[:, 3:], along(closing[0], np.array([0.5]))[0] if closing else None, middle)


def _plane(seen: _Seen, close: float) -> Any | None:
    centre = seen.points.mean(axis=0)
    normal = np.linalg.svd(seen.points - centre)[2][2]
    if float(np.abs((seen.points - centre) @ normal).max()) > close:
        return None
    normal *= math.copysign(1.0, float(normal @ seen.normals[0]))
    return Geom_Plane(gp_Pnt(*centre.tolist()), gp_Dir(*normal.tolist()))


def _ball(seen: _Seen, close: float) -> Any | None:
    if seen.seam is not None:
        return None  # with a pole in it, which would have to be drawn by hand
    fit = round_through(seen.points, close, _LARGEST)
    if fit is None:
        return None
    centre, radius = fit
    axis = np.linalg.svd([seen.middle - centre])[2][2]  # square to where the face lies, so that no pole is in it
    return Geom_SphericalSurface(_axes(seen, centre, axis), radius)


def _cylinder(seen: _Seen, close: float) -> Any | None:
    x, y, axis = np.linalg.svd(seen.normals)[2]
    flat = seen.points @ np.column_stack([x, y])
    fit = round_through(flat, close, _LARGEST)
    if fit is None:
        return None
    spot, radius = fit
    foot = spot[0] * x + spot[1] * y
    return Geom_CylindricalSurface(_axes(seen, foot + (seen.points[0] @ axis) * axis, axis), radius)


def _turned(seen: _Seen, close: float) -> Any | None:
    """Cone or ring: about the axis that all normals meet."""
    centre = seen.points.mean(axis=0)
    size = float(np.linalg.norm(np.ptp(seen.points, axis=0)))
    at = (seen.points - centre) / size
    *_, line = np.linalg.svd(np.column_stack([seen.normals, np.cross(at, seen.normals)]))[2]
    moment, axis = line[:3], line[3:]
    length = float(np.linalg.norm(axis))
    if length < 1e-6:
        return None
    axis, moment = axis / length, moment / length
    foot = centre + size * np.cross(axis, moment)
    high = (seen.points - foot) @ axis
    out = np.linalg.norm(seen.points - foot - high[:, None] * axis, axis=1)
    profile = np.column_stack([out, high])
    middle = profile.mean(axis=0)
    along = np.linalg.svd(profile - middle)[2][0]
    if float(np.abs((profile - middle) @ (-along[1], along[0])).max()) < close:
        return _cone(seen, foot, axis, middle, along)
    fit = round_through(profile, close, _LARGEST)
    if fit is None or fit[0][0] <= fit[1]:
        return None
    spot, radius = fit
    return Geom_ToroidalSurface(_axes(seen, foot + spot[1] * axis, axis, float(spot[0])), float(spot[0]), radius)


def _cone(seen: _Seen, foot: Floats, axis: Floats, middle: Floats, along: Floats) -> Any | None:
    if abs(along[1]) < 1e-9:
        return None
    half = math.atan(along[0] / along[1])
    upward = axis * math.copysign(1.0, half)
    return Geom_ConicalSurface(_axes(seen, foot + middle[1] * axis, upward), abs(half), float(middle[0]))


def _axes(seen: _Seen, foot: Floats, axis: Floats, tube: float = 0.0) -> Any:
    """Where a turned form lies: its x along the seam, or away from the face where that has none; left-handed if it looks in.

    `tube` is how far from the axis the middle of a ring's tube runs.
    """
    guide = (seen.middle - foot) * -1.0 if seen.seam is None else seen.seam - foot
    guide = guide - (guide @ axis) * axis
    frame = gp_Ax3(gp_Pnt(*foot.tolist()), gp_Dir(*axis.tolist()), gp_Dir(*guide.tolist()))
    arm = seen.points[0] - foot
    arm -= (arm @ axis) * axis
    out = seen.points[0] - foot - tube * arm / np.linalg.norm(arm) if tube else arm
    if float(out @ seen.normals[0]) < 0:
        frame.YReverse()
    return frame


def round_through(points: Floats, close: float, most: float) -> tuple[Floats, float] | None:
    """Centre and radius of the circle or ball through points (n, 2 or 3), by linear least squares; None where one is off it by
    more than `close` mm, or it is more than `most` times as large as they lie apart.
    """
    middle = points.mean(axis=0)
    off = points - middle
    system = np.column_stack([2 * off, np.ones(len(off))])
    *centre, rest = np.linalg.lstsq(system, (off**2).sum(axis=1), rcond=None)[0]
    radius = math.sqrt(max(float(rest + np.dot(centre, centre)), 0.0))
    if radius > most * float(np.linalg.norm(np.ptp(off, axis=0))):
        return None
    far = float(np.abs(np.linalg.norm(off - centre, axis=1) - radius).max())
    return (middle + centre, radius) if far <= close else None


def seams(face: Any) -> list[Any]:
    """The edges along which a face closes on itself."""
    return [edge for edge in _edges_in(face) if BRep_Tool.IsClosed_s(edge, face)]


def _edges_in(face: Any) -> list[Any]:
    indexed = mapped(face, TopAbs_EDGE)
    return [TopoDS.Edge(indexed.FindKey(number)) for number in range(1, int(indexed.Extent()) + 1)]


def along(edge: Any, shares: Floats) -> Floats:
    """(n, 3) places along an edge's curve at shares of its range."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    return np.array([xyz(curve.Value(float(first + share * (last - first)))) for share in shares])


def of_edge(edge: Any, close: float) -> tuple[Any, float, float] | None:
    """The line or circle that a free edge runs along, and from where to where on it; None for any other."""
    if BRep_Tool.Degenerated_s(edge) or BRepAdaptor_Curve(edge).GetType() not in _FREE_CURVES:
        return None
    points = along(edge, np.linspace(0, 1, 11))
    return _line(points, close) or _circle(points, close)


def _line(points: Floats, close: float) -> tuple[Any, float, float] | None:
    run = points[-1] - points[0]
    length = float(np.linalg.norm(run))
    if length < close:
        return None
    run /= length
    off = points - points[0]
    if float(np.linalg.norm(off - (off @ run)[:, None] * run, axis=1).max()) > close:
        return None
    return Geom_Line(gp_Pnt(*points[0].tolist()), gp_Dir(*run.tolist())), 0.0, length


def _circle(points: Floats, close: float) -> tuple[Any, float, float] | None:
    middle = points.mean(axis=0)
    x, y, normal = np.linalg.svd(points - middle)[2]
    if float(np.abs((points - middle) @ normal).max()) > close:
        return None
    flat = (points - middle) @ np.column_stack([x, y])
    fit = round_through(flat, close, _LARGEST)
    if fit is None:
        return None
    spot, radius = fit
    centre = middle + spot[0] * x + spot[1] * y
    arms = points - centre
    normal *= math.copysign(1.0, float(np.cross(arms[0], arms[1]) @ normal))
    turn = float(np.unwrap(np.arctan2(np.cross(arms[:1], arms) @ normal, arms @ arms[0]))[-1])
    axes = gp_Ax2(gp_Pnt(*centre.tolist()), gp_Dir(*normal.tolist()), gp_Dir(*arms[0].tolist()))
    return Geom_Circle(axes, radius), 0.0, turn
