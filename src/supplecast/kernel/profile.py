"""Outlines made ready for the kernel: planar faces whose edges remember the sketch entity they came from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Pln, gp_Pnt
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Arc2, Circle2, Curve2, Frame, Line2, Region


@dataclass(frozen=True)
class Profile:
    """A bounded planar face; `edges` pairs each of its edges with the id of the sketch entity it lies on."""

    face: Any
    edges: tuple[tuple[Any, str], ...]
    frame: Frame


def point(p: tuple[float, float, float]) -> Any:
    return gp_Pnt(*p)


def direction(d: tuple[float, float, float]) -> Any:
    return gp_Dir(*d)


def plane(frame: Frame) -> Any:
    return gp_Pln(gp_Ax3(point(frame.origin), direction(frame.normal), direction(frame.x)))


def _edge(curve: Curve2, frame: Frame) -> Any:
    match curve:
        case Line2():
            return BRepBuilderAPI_MakeEdge(point(frame.point(curve.a)), point(frame.point(curve.b))).Edge()
        case Circle2():
            axis = gp_Ax2(point(frame.point(curve.centre)), direction(frame.normal), direction(frame.x))
            edge = BRepBuilderAPI_MakeEdge(gp_Circ(axis, curve.radius)).Edge()
            return edge if curve.ccw else TopoDS.Edge(edge.Reversed())
        case Arc2():
            half = curve.sampled(2)[1]
            through = (float(half[0]), float(half[1]))
            arc = GC_MakeArcOfCircle(
                point(frame.point(curve.a)), point(frame.point(through)), point(frame.point(curve.b))
            ).Value()
            return BRepBuilderAPI_MakeEdge(arc).Edge()


def flat_wire(curves: tuple[Curve2, ...], frame: Frame, *, closed: bool = True) -> tuple[Any, list[tuple[Any, str]]]:
    """A wire of curves that follow each other, and its edges with their entities. KernelError if it is not one chain."""
    maker = BRepBuilderAPI_MakeWire()
    edges = []
    for curve in curves:
        maker.Add(_edge(curve, frame))
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
