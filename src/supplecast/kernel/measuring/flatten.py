"""Edges of bodies laid flat into a plane: single edges, the cut of a body with the plane, and its silhouette.

Lines, and circles that lie parallel to the plane, come out exact. Whatever else is sampled: it comes out as an arc where it is
one, else as a smooth curve through points on it, between which it may be off by about a ten-thousandth of its size.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepLib import BRepLib
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Ax2, gp_Pnt, gp_Vec
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS

from supplecast.curves import Arc2, Circle2, Curve2, Line2, Spline2, interpolated
from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Point2, Vec, dot
from supplecast.kernel.measuring import datums, forms, probing
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.profile import as_dir, as_point, plane
from supplecast.kernel.shapes.shape import Solid, xyz

_SAMPLES = 25
_FLAT = 1e-7
_SHORT = 1e-5
_ROUND = 1e-7
_TURNS = 1e-6  # cosine between a normal and the view where a face turns away
_ASIDE = 3e-3  # mm: far enough for a round face that the plane just touches to have fallen away by more than a tolerance


def flattened(solid: Solid, index: int, frame: Frame) -> Curve2:
    """One edge laid into a plane. KernelError if it stands square on it."""
    if solid.degenerate_edges[index]:
        raise KernelError("That edge is a single point.", "Pick another edge.")
    curve = _laid(solid.nth_edge(index), frame)
    if curve is None:
        raise KernelError("That edge stands square on the plane: seen from there it is a point.", "Pick another edge.")
    return curve


def lies_in(solid: Solid, index: int, frame: Frame) -> bool:
    """Whether an edge lies in a plane, by a few of its places."""
    return all(abs(frame.over(place)) < _SHORT for place in _along(solid, index))


def _along(solid: Solid, index: int) -> list[Vec]:
    """Five places of an edge, its ends among them."""
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    return [xyz(curve.Value(t)) for t in np.linspace(curve.FirstParameter(), curve.LastParameter(), 5)]


def section(solid: Solid, frame: Frame) -> list[Curve2]:
    """The outline in which the plane cuts a body. KernelError if it misses it."""
    if isinstance(solid, MeshBody):
        return _cut_lines(solid, frame)
    maker = BRepAlgoAPI_Section(solid.shape, plane(frame))
    maker.Build()
    laid = _all_laid(maker.Shape(), frame) if maker.IsDone() else []
    curves = [curve for curve in laid if _parts(curve, solid, frame)]
    if not curves:
        raise KernelError("The plane does not cut that body.", "Raise the plane of the sketch, or pick another body.")
    return curves


def _cut_lines(body: MeshBody, frame: Frame) -> list[Curve2]:
    """Where a plane cuts triangles: a line across each of them that it crosses."""
    over = (body.points - np.array(frame.origin)) @ np.array(frame.normal)
    above = over[body.triangles] > 0
    rows = np.flatnonzero(above.any(axis=1) & ~above.all(axis=1))
    curves: list[Curve2] = []
    for triangle in body.triangles[rows].tolist():
        ends = []
        for a, b in zip(triangle, [*triangle[1:], triangle[0]], strict=True):
            if (over[a] > 0) != (over[b] > 0):
                ends.append(body.points[a] + over[a] / (over[a] - over[b]) * (body.points[b] - body.points[a]))
        first, last = (frame.flat((float(p[0]), float(p[1]), float(p[2]))) for p in ends)
        if math.dist(first, last) > _SHORT:
            curves.append(Line2("", first, last))
    if not curves:
        raise KernelError("The plane does not cut that body.", "Raise the plane of the sketch, or pick another body.")
    return curves


def silhouette(solid: Solid, frame: Frame) -> list[Curve2]:
    """Where the curved faces of a body turn away from who looks along the plane's normal."""
    algorithm = HLRBRep_Algo()
    algorithm.Add(solid.shape)
    axes = gp_Ax2(as_point(frame.origin), as_dir(frame.normal), as_dir(frame.x))
    algorithm.Projector(HLRAlgo_Projector(axes))
    algorithm.Update()
    algorithm.Hide()
    lines = HLRBRep_HLRToShape(algorithm)
    curves: list[Curve2] = []
    for shape in (lines.OutLineVCompound(), lines.OutLineHCompound()):
        if shape is not None and not shape.IsNull():
            BRepLib.BuildCurves3d_s(shape)
            curves += _all_laid(shape, Frame())  # already in the coordinates of the plane
    curves += [curve for curve in _rims_at_seams(solid, frame) if not any(_same(curve, other) for other in curves)]
    if not curves:
        raise KernelError("Seen from there that body has no curved outline.", "Take its edges instead.")
    return curves


def _rims_at_seams(solid: Solid, frame: Frame) -> list[Curve2]:
    """Seams that lie where their face turns away: hidden lines leave them out, since they are edges."""
    rims = []
    for index, faces in enumerate(solid.faces_at_edges):
        if len(set(faces)) != 1 or solid.degenerate_edges[index]:
            continue
        normals = [datums.normal_at(solid, faces[0], place)[1] for place in _along(solid, index)[1:-1]]
        if all(abs(dot(normal, frame.normal)) < _TURNS for normal in normals):
            laid = _laid(solid.nth_edge(index), frame)
            rims += [laid] if laid is not None else []
    return rims


def _same(one: Curve2, other: Curve2) -> bool:
    return bool(np.abs(one.at(np.array([0.5])) - other.at(np.array([0.5]))).max() < _SHORT)


def _parts(curve: Curve2, solid: Solid, frame: Frame) -> bool:
    """Whether a line of the cut has material on one side only: where the plane just touches a round face it has not."""
    before, middle, after = curve.at(np.array([0.499, 0.5, 0.501]))
    run = after - before
    length = float(np.hypot(*run))
    aside = np.array([-run[1], run[0]]) / length * min(_ASIDE, 100 * length)
    left, right = (probing.covers(solid, frame.point(_tuple(middle + side * aside))) for side in (1, -1))
    return left != right


def _all_laid(shape: Any, frame: Frame) -> list[Curve2]:
    curves = []
    explorer = TopExp_Explorer(shape, TopAbs_EDGE)
    while explorer.More():
        laid = _laid(TopoDS.Edge(explorer.Current()), frame)
        if laid is not None:
            curves.append(laid)
        explorer.Next()
    return curves


def _laid(edge: Any, frame: Frame) -> Curve2 | None:
    curve = BRepAdaptor_Curve(edge)
    low, high = curve.FirstParameter(), curve.LastParameter()

    def at(t: float) -> Point2:
        return frame.flat(xyz(curve.Value(t)))

    a, b = _ends(edge, frame) or (at(low), at(high))
    kind = curve.GetType()
    if kind == GeomAbs_CurveType.GeomAbs_Line:
        return Line2("", a, b) if math.dist(a, b) > _SHORT else None
    if kind == GeomAbs_CurveType.GeomAbs_Circle:
        circle = curve.Circle()
        along = dot(xyz(circle.Axis().Direction()), frame.normal)
        if abs(along) > 1 - 1e-9:
            centre = frame.flat(xyz(circle.Location()))
            if abs(high - low - 2 * math.pi) < 1e-9:
                return Circle2("", centre, circle.Radius())
            return _arc(centre, circle.Radius(), a, b, along > 0)  # the kernel runs counter-clockwise about a circle's axis

    def slope(t: float) -> Floats:
        spot, direction = gp_Pnt(), gp_Vec()
        curve.D1(t, spot, direction)
        origin = frame.flat(frame.origin)
        tip = frame.flat((frame.origin[0] + direction.X(), frame.origin[1] + direction.Y(), frame.origin[2] + direction.Z()))
        return np.asarray(np.subtract(tip, origin) * (high - low) / (_SAMPLES - 1))

    points = np.array([a, *(at(t) for t in np.linspace(low, high, _SAMPLES)[1:-1]), b])
    return _smooth(points, slope(low), slope(high))


def _ends(edge: Any, frame: Frame) -> tuple[Point2, Point2] | None:
    """Where an edge's vertices lie, which edges share: so an outline closes though its curves come within a tolerance only."""
    first, last = TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge)
    if first.IsNull() or last.IsNull():
        return None
    return frame.flat(xyz(BRep_Tool.Pnt_s(first))), frame.flat(xyz(BRep_Tool.Pnt_s(last)))


def _arc(centre: Point2, radius: float, a: Point2, b: Point2, ccw: bool) -> Arc2:
    """The arc between two places that lie on it within a tolerance: its centre moves by no more than that, its radius stays."""
    chord = np.subtract(b, a)
    span = float(np.hypot(*chord))
    if span > _SHORT and max(abs(math.dist(centre, p) - radius) for p in (a, b)) > 1e-9:
        aside = np.array([-chord[1], chord[0]]) / span
        reach = math.sqrt(max(radius**2 - span**2 / 4, 0.0))
        middle = np.add(a, b) / 2
        centre = _tuple(middle + aside * math.copysign(reach, float(np.subtract(centre, middle) @ aside)))
    return Arc2("", centre, a, b, ccw)


def _smooth(points: Floats, leaving: Floats, arriving: Floats) -> Line2 | Arc2 | Circle2 | Spline2 | None:
    size = float(np.hypot(*np.ptp(points, axis=0)))
    if size < _SHORT:
        return None
    direction = np.linalg.svd(points - points.mean(axis=0))[2][0]
    off = (points - points.mean(axis=0)) @ np.array([-direction[1], direction[0]])
    if float(np.abs(off).max()) < _FLAT * size:  # seen edge-on
        along = (points - points[0]) @ direction
        first, last = points[along.argmin()], points[along.argmax()]
        return Line2("", _tuple(first), _tuple(last))
    circle = _circle(points, size)
    if circle is not None:
        return circle
    places = [_tuple(p) for p in points]
    return interpolated("", places, _tuple(points[0] + leaving / 3), _tuple(points[-1] - arriving / 3))


def _circle(points: Floats, size: float) -> Arc2 | Circle2 | None:
    """The arc or circle that all the points lie on; None if they do not."""
    fit = forms.round_through(points, _ROUND * size, 100)
    if fit is None:
        return None
    middle, radius = fit
    centre = _tuple(middle)
    a, b = _tuple(points[0]), _tuple(points[-1])
    if math.dist(a, b) < _SHORT:
        return Circle2("", centre, radius)
    out = points[1:-1] - middle
    turn = float(out[0][0] * out[1][1] - out[0][1] * out[1][0])
    return _arc(centre, radius, a, b, turn > 0)


def _tuple(p: Floats) -> Point2:
    return (float(p[0]), float(p[1]))
