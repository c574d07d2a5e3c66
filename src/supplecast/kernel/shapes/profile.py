"""Outlines made ready for the kernel: planar faces whose edges remember the sketch entity they came from."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int
from OCP.GC import GC_MakeArcOfCircle
from OCP.Geom import Geom_BSplineCurve
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Elips, gp_Pln, gp_Pnt
from OCP.TopoDS import TopoDS

from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Region, Spline2
from supplecast.errors import KernelError
from supplecast.geometry import Frame, times, vec


@dataclass(frozen=True)
class Profile:
    """A bounded planar face; `edges` pairs each of its edges with the id of the sketch entity it lies on."""

    face: Any
    edges: tuple[tuple[Any, str], ...]
    frame: Frame


def as_point(p: tuple[float, float, float]) -> Any:
    return gp_Pnt(*p)


def as_dir(d: tuple[float, float, float]) -> Any:
    return gp_Dir(*d)


def plane(frame: Frame) -> Any:
    return gp_Pln(gp_Ax3(as_point(frame.origin), as_dir(frame.normal), as_dir(frame.x)))


def curve_edge(curve: Curve2, frame: Frame) -> Any:
    match curve:
        case Line2():
            return BRepBuilderAPI_MakeEdge(as_point(frame.point(curve.a)), as_point(frame.point(curve.b))).Edge()
        case Circle2():
            axis = gp_Ax2(as_point(frame.point(curve.centre)), as_dir(frame.normal), as_dir(frame.x))
            edge = BRepBuilderAPI_MakeEdge(gp_Circ(axis, curve.radius)).Edge()
            return edge if curve.ccw else TopoDS.Edge(edge.Reversed())
        case Arc2():
            half = curve.sampled(2)[1]
            through = (float(half[0]), float(half[1]))
            arc = GC_MakeArcOfCircle(
                as_point(frame.point(curve.a)), as_point(frame.point(through)), as_point(frame.point(curve.b))
            ).Value()
            return BRepBuilderAPI_MakeEdge(arc).Edge()
        case Ellipse2():
            return _ellipse(curve, frame)
        case Spline2():
            return BRepBuilderAPI_MakeEdge(_spline(curve, frame)).Edge()


def _ellipse(curve: Ellipse2, frame: Frame) -> Any:
    long, short = curve.axes
    start, sweep = curve.start, curve.sweep
    if np.hypot(*short) > np.hypot(*long):  # the kernel wants the longer half-axis first
        long, short, start = short, -long, start - math.pi / 2
    x = np.subtract(frame.point((long[0], long[1])), frame.origin)
    # Run through clockwise, the ellipse is built about the normal turned round.
    normal = frame.normal if sweep > 0 else times(frame.normal, -1.0)
    axis = gp_Ax2(as_point(frame.point(curve.centre)), as_dir(normal), as_dir(vec(x)))
    shape = gp_Elips(axis, float(np.hypot(*long)), float(np.hypot(*short)))
    first = start if sweep > 0 else -start
    if curve.closed:
        return BRepBuilderAPI_MakeEdge(shape).Edge()
    return BRepBuilderAPI_MakeEdge(shape, first, first + abs(sweep)).Edge()


def _spline(curve: Spline2, frame: Frame) -> Any:
    """The B-spline of a chain of Bézier pieces with continuous curvature, on simple knots."""
    _, poles = curve.b_spline()
    held = Array1_gp_Pnt(1, len(poles))
    for index, pole in enumerate(poles, 1):
        held.SetValue(index, as_point(frame.point((float(pole[0]), float(pole[1])))))
    spans = np.array(curve.spans)
    knots = Array1_double(1, len(spans) + 1)
    counts = Array1_int(1, len(spans) + 1)
    for index, knot in enumerate(np.concatenate([[0.0], np.cumsum(spans)]), 1):
        knots.SetValue(index, float(knot))
        counts.SetValue(index, 4 if index in (1, len(spans) + 1) else 1)
    return Geom_BSplineCurve(held, knots, counts, 3)


def flat_wire(curves: tuple[Curve2, ...], frame: Frame, *, closed: bool = True) -> tuple[Any, list[tuple[Any, str]]]:
    """A wire of curves that follow each other, and its edges with their entities. KernelError if it is not one chain."""
    maker = BRepBuilderAPI_MakeWire()
    edges = []
    for curve in curves:
        maker.Add(curve_edge(curve, frame))
        if not maker.IsDone():
            raise KernelError("The outline is not one connected loop.", "Join its ends.")
        # The wire copies an edge to share its vertices: only the copy is known to the verbs' histories.
        edges.append((maker.Edge(), curve.entity))
    wire = maker.Wire()
    if closed and not wire.Closed():
        raise KernelError("The outline does not close.", "Join its first and last point.")
    return wire, edges


def profile(region: Region, frame: Frame) -> Profile:
    """The planar face of a region. Raises KernelError for outlines that are open or cross themselves."""
    wire, edges = flat_wire(region.outer, frame)
    maker = BRepBuilderAPI_MakeFace(plane(frame), wire, True)
    for hole in region.holes:
        inner, inner_edges = flat_wire(hole, frame)
        maker.Add(inner)
        edges += inner_edges
    if not maker.IsDone():
        raise KernelError("The outline does not bound a flat area.")
    face = maker.Face()
    if face.IsNull() or not BRepCheck_Analyzer(face).IsValid():
        raise KernelError("The outline crosses itself.", "Pull the crossing lines apart.")
    return Profile(face, tuple(edges), frame)
