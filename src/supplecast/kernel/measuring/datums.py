"""Planes, axes and points found on a solid: what datums, patterns and paths are set by."""

from __future__ import annotations

import math
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.GeomLProp import GeomLProp_SLProps
from OCP.gp import gp_Pnt, gp_Vec

from supplecast.errors import KernelError
from supplecast.geometry import Axis, Frame, Vec, along, cross, dot, subtract, times, turned, unit
from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid, xyz

_FLAT, _ROUND, _CONE = (
    GeomAbs_SurfaceType.GeomAbs_Plane,
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
)


def along_edge(solid: Solid, index: int, share: float, left: int) -> tuple[Vec, Vec]:
    """The point at a share (0 to 1) of an edge's length, and the edge's direction there.

    The edge runs so that face `left` lies to its left, seen from outside: a sense that outlives a rebuild.
    """
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    first, last = curve.FirstParameter(), curve.LastParameter()
    length = GCPnts_AbscissaPoint.Length_s(curve)
    back = edges.runs_back(solid, left, index)
    measured = GCPnts_AbscissaPoint(curve, length * (1 - share if back else share), first)
    at = min(max(measured.Parameter(), first), last)
    spot, direction = gp_Pnt(), gp_Vec()
    curve.D1(at, spot, direction)
    if direction.Magnitude() < 1e-12:
        raise KernelError("The edge has no direction at this point.", "Choose another place along it.", edges=(index,))
    return xyz(spot), times(unit(xyz(direction)), -1.0 if back else 1.0)


def centre(solid: Solid, index: int) -> Vec:
    """Centre of a round edge. KernelError for others."""
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        return xyz(curve.Circle().Location())
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Ellipse:
        return xyz(curve.Ellipse().Location())
    raise KernelError(
        "This edge is not round: it has no centre.", "Pick a round edge, or a place along this one.", edges=(index,)
    )


def nearest_place(solid: Solid, index: int, p: Vec, left: int) -> tuple[bool, float]:
    """What is meant by a click on an edge at `p`: whether its centre, and else which share along it: an end or the middle.

    The outer sixths of an edge are its ends; a round edge between them means its centre.
    """
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    first, last = curve.FirstParameter(), curve.LastParameter()
    ends = [xyz(curve.Value(t)) for t in (first, last)]
    near = GCPnts_AbscissaPoint.Length_s(curve) / 6
    closed = math.dist(*ends) < 1e-7
    back = edges.runs_back(solid, left, index)
    for share, end in ((1.0 if back else 0.0, ends[0]), (0.0 if back else 1.0, ends[1])):
        if not closed and math.dist(end, p) < near:
            return False, share
    return curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle, 0.5


def edge_axis(solid: Solid, index: int) -> Axis:
    """A straight edge as an axis, or the axis of a round one. KernelError for others."""
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        return Axis(edges.middle(solid, index), _settled(xyz(curve.Line().Direction())))
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        axis = curve.Circle().Axis()
        return Axis(xyz(axis.Location()), _settled(xyz(axis.Direction())))
    raise KernelError("This edge is neither straight nor round.", "Pick a straight or a round edge.", edges=(index,))


def face_axis(solid: Solid, face: int) -> Axis:
    """The axis of a round face, or the normal of a flat one at its middle. KernelError for others."""
    if isinstance(solid, MeshBody):
        axis = solid.face_axis(face)
        return Axis(axis.point, axis.direction if solid.forms[face].kind == "flat" else _settled(axis.direction))
    surface = BRepAdaptor_Surface(solid.face(face))
    kind = surface.GetType()
    if kind == _FLAT:
        return Axis(measure.face_middle(solid, face), measure.flat_frame(solid, face).normal)
    if kind == _ROUND:
        axis = surface.Cylinder().Axis()
    elif kind == _CONE:
        axis = surface.Cone().Axis()
    elif kind == GeomAbs_SurfaceType.GeomAbs_Torus:
        axis = surface.Torus().Axis()
    elif kind == GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution:
        axis = surface.AxeOfRevolution()
    else:
        raise KernelError("This face has no axis.", "Pick a round face.", faces=(face,))
    direction = _settled(xyz(axis.Direction()))
    # The middle of the face, dropped onto the axis, so that the axis stands where the face is.
    return Axis(Axis(xyz(axis.Location()), direction).nearest(measure.face_middle(solid, face)), direction)


def runs_along(solid: Solid, face: int, direction: Vec) -> bool:
    """Whether a face is flat or a cylinder and goes straight on along `way`, of length 1."""
    surface = BRepAdaptor_Surface(solid.face(face))
    if surface.GetType() == _FLAT:
        return abs(dot(measure.flat_frame(solid, face).normal, direction)) < 1e-9
    return bool(surface.GetType() == _ROUND) and abs(dot(face_axis(solid, face).direction, direction)) > 1 - 1e-12


def _settled(direction: Vec) -> Vec:
    """A direction with its largest part positive, so that it does not depend on how the kernel drew the curve."""
    big = max(direction, key=lambda c: round(abs(c), 9))
    return times(direction, -1.0) if big < 0 else direction


def tangent_plane(solid: Solid, face: int, angle: float) -> Frame:
    """The plane that touches a round face, its normal out of the material.

    On cylinders and cones `angle` rad goes round the axis from the side that looks along the world's x (y where the axis is
    x). A face of another kind is touched at its middle.
    """
    surface = BRepAdaptor_Surface(solid.face(face))
    kind = surface.GetType()
    if kind == _FLAT:
        raise KernelError("This face is flat already.", "Use “offset” from it.", faces=(face,))
    if kind not in (_ROUND, _CONE):
        u0, u1, v0, v1 = BRepTools.UVBounds_s(solid.face(face))
        spot, out = normal_at(solid, face, xyz(surface.Value((u0 + u1) / 2, (v0 + v1) / 2)))
        return Frame.lying(spot, out)
    axis = face_axis(solid, face)
    side = turned(Frame.lying(axis.point, axis.direction).x, axis.direction, angle)
    away = surface.Cylinder().Radius() if kind == _ROUND else _radius_at(surface.Cone(), axis.point)
    spot, out = normal_at(solid, face, along(axis.point, side, away))
    frame = Frame.lying(spot, out)
    return Frame(frame.origin, unit(cross(axis.direction, frame.normal)), frame.normal) if kind == _ROUND else frame


def normal_at(solid: Solid, face: int, p: Vec) -> tuple[Vec, Vec]:
    """The place of a face's surface nearest to a point, and the normal out of the material there."""
    surface = BRep_Tool.Surface_s(solid.face(face))
    projection = GeomAPI_ProjectPointOnSurf(gp_Pnt(*p), surface)
    if not projection.NbPoints():
        raise KernelError("No place of the face is nearest to that point.", "Choose another point.", faces=(face,))
    u, v = projection.LowerDistanceParameters()
    props = GeomLProp_SLProps(surface, u, v, 1, 1e-9)
    if not props.IsNormalDefined():
        raise KernelError("The face comes to a point there: it has no normal.", "Choose another place.", faces=(face,))
    sense = -1.0 if solid.face(face).Orientation().name == "TopAbs_REVERSED" else 1.0
    return xyz(props.Value()), times(xyz(props.Normal()), sense)


def _radius_at(cone: Any, p: Vec) -> float:
    """Radius of a cone at the height of a point on its axis, mm."""
    return math.dist(xyz(cone.Apex()), p) * math.tan(abs(cone.SemiAngle()))


def through_line(axis: Axis, base: Frame, angle: float) -> Frame:
    """The plane through an axis, turned by `angle` rad about it from where it is nearest to parallel with `base`."""
    lean = subtract(base.normal, times(axis.direction, dot(base.normal, axis.direction)))
    if math.hypot(*lean) < 1e-9:
        raise KernelError("The axis stands square on the plane the angle is measured from.", "Measure it from another plane.")
    return Frame(axis.point, axis.direction, turned(unit(lean), axis.direction, angle))


def midway(first: Frame, second: Frame) -> Frame:
    """The plane halfway between two parallel planes, or the one that halves the angle between two that meet."""
    facing = dot(first.normal, second.normal)
    n2 = times(second.normal, -1.0) if facing < 0 else second.normal
    normal = unit((first.normal[0] + n2[0], first.normal[1] + n2[1], first.normal[2] + n2[2]))
    if abs(facing) > 1 - 1e-12:
        return Frame(along(first.origin, first.normal, first.over(second.origin) / 2), first.x, first.normal)
    line = crossing(first, second)
    return Frame.lying(line.point, normal, line.direction)


def crossing(first: Frame, second: Frame) -> Axis:
    """The line in which two planes meet. KernelError if they are parallel."""
    direction = cross(first.normal, second.normal)
    if math.hypot(*direction) < 1e-9:
        raise KernelError("The two planes are parallel: they do not meet.", "Pick two that cross.")
    direction = unit(direction)
    # From the first plane's origin, in that plane and square to the line, to where the second plane is met.
    towards = cross(direction, first.normal)
    step = -second.over(first.origin) / dot(second.normal, towards)
    return Axis(along(first.origin, towards, step), _settled(direction))


def through_points(a: Vec, b: Vec, c: Vec) -> Frame:
    """The plane through three points, its x from the first to the second. KernelError if they lie in a line."""
    normal = cross(subtract(b, a), subtract(c, a))
    if math.hypot(*normal) < 1e-9 * max(math.dist(a, b) * math.dist(a, c), 1e-3):
        raise KernelError("The three points lie in one line.", "Pick three that do not.")
    return Frame.lying(a, normal, subtract(b, a))


def through_two(a: Vec, b: Vec) -> Axis:
    """The axis from one point to another. KernelError if they are the same."""
    if math.dist(a, b) < 1e-9:
        raise KernelError("The two points are the same.", "Pick two apart from each other.")
    return Axis(a, unit(subtract(b, a)))
