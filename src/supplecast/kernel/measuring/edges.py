"""What kind of edge an edge is: how its faces bend there, what it runs on into, its radius, and the loops of a face."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from typing import Any, Literal

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepTools import BRepTools
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_Orientation, TopAbs_VERTEX
from OCP.TopExp import TopExp, TopExp_Explorer

from supplecast.geometry import Vec, unit
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.shape import AncestorMap, Solid, mapped, xyz

Bend = Literal["convex", "concave", "smooth", "mixed", "seam"]
_SMOOTH = math.radians(0.5)
LOOSE = 3e-3
"""mm that edges are off their faces, from which it may be that which stops a round or a shell: rounds of our own at oblique
corners come near it.
"""
_BENDS: Memo[dict[int, Bend]] = Memo("bends of edges")
_LOOKED_AT = 23  # places along an edge, as the kernel's own check takes
_LOOSENESS: Memo[tuple[float, ...]] = Memo("how far edges are off their faces")
_MEETING: Memo[dict[int, list[int]]] = Memo("edges that meet at vertices")


def bend(solid: Solid, index: int) -> Bend:
    """How the two faces meet: seen at 25, 50 and 75 % of the edge, `mixed` where these disagree. Remembered on the solid."""
    known = _BENDS.of(solid, dict)
    if index not in known:
        known[index] = _bend(solid, index)
    return known[index]


def _bend(solid: Solid, index: int) -> Bend:
    faces = solid.faces_at_edges[index]
    if len(faces) < 2 or solid.degenerate_edges[index]:
        return "seam"
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    low, high = curve.FirstParameter(), curve.LastParameter()
    sense = -1.0 if runs_back(solid, faces[0], index) else 1.0
    seen: set[Bend] = set()
    for share in (0.25, 0.5, 0.75):
        at = low + (high - low) * share
        spot, direction = gp_Pnt(), gp_Vec()
        curve.D1(at, spot, direction)
        first, second = _normal(solid, faces[0], index, at), _normal(solid, faces[1], index, at)
        if first is None or second is None or direction.Magnitude() < 1e-12:
            continue
        if first.Angle(second) < _SMOOTH:
            seen.add("smooth")
        else:
            seen.add("convex" if sense * first.Crossed(second).Dot(direction) > 0 else "concave")
    return seen.pop() if len(seen) == 1 else "mixed"


def end_vertices(solid: Solid, index: int) -> tuple[int, ...]:
    """The vertices an edge ends at: two, or one if it is closed."""
    ends = mapped(solid.nth_edge(index), TopAbs_VERTEX)
    return tuple(solid.find_vertex(ends.FindKey(number)) for number in range(1, int(ends.Extent()) + 1))


def tangent_at(solid: Solid, index: int, spot: Vec) -> Vec:
    """The direction of an edge at the point of it that is nearest to a place."""
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    shares = np.linspace(curve.FirstParameter(), curve.LastParameter(), 201)
    at = min(shares, key=lambda t: math.dist(xyz(curve.Value(float(t))), spot))
    place, direction = gp_Pnt(), gp_Vec()
    curve.D1(float(at), place, direction)
    return unit(xyz(direction))


def runs_back(solid: Solid, face: int, edge: int) -> bool:
    """Whether the edge, as it bounds the face, runs against its own curve."""
    explorer = TopExp_Explorer(solid.face(face), TopAbs_EDGE)
    wanted = solid.nth_edge(edge)
    while explorer.More():
        if explorer.Current().IsSame(wanted):
            return bool(explorer.Current().Orientation() == TopAbs_Orientation.TopAbs_REVERSED)
        explorer.Next()
    return False


def _normal(solid: Solid, face: int, edge: int, at: float) -> Any:
    """Normal out of the material beside the edge, or None at a pole."""
    trace = BRep_Tool.CurveOnSurface_s(solid.nth_edge(edge), solid.face(face), 0.0, 1.0)
    if trace is None:
        return None
    place = trace.Value(at)
    u, v, spot = gp_Vec(), gp_Vec(), gp_Pnt()
    BRepAdaptor_Surface(solid.face(face)).D1(place.X(), place.Y(), spot, u, v)
    normal = u.Crossed(v)
    if normal.Magnitude() < 1e-12:
        return None
    if solid.face(face).Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        normal.Reverse()
    return normal


def chain(solid: Solid, start: int) -> tuple[int, ...]:
    """Edges that run on smoothly from `start` at both ends, as far as each end has exactly one such continuation."""
    chained, ends = {start}, list(_ends(solid, start))
    while ends:
        vertex, direction, last = ends.pop()
        onward = []
        for other in _meeting(solid)[vertex]:
            if other in chained or other == last or (bend(solid, other) == "smooth") != (bend(solid, last) == "smooth"):
                continue
            onward += [(other, end) for end in _ends(solid, other) if end[0] == vertex and _against(end[1], direction)]
        if len(onward) == 1:
            other, _ = onward[0]
            chained.add(other)
            ends += [end for end in _ends(solid, other) if end[0] != vertex]
    return tuple(sorted(chained))


def _ends(solid: Solid, index: int) -> list[tuple[int, Any, int]]:
    """Vertex and outward tangent at both ends of an edge, and the edge; none for closed edges."""
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    corners = mapped(solid.nth_edge(index), TopAbs_VERTEX)
    if int(corners.Extent()) < 2:
        return []
    ends = []
    for parameter, sign in ((curve.FirstParameter(), -1.0), (curve.LastParameter(), 1.0)):
        spot, direction = gp_Pnt(), gp_Vec()
        curve.D1(parameter, spot, direction)
        if direction.Magnitude() < 1e-12:
            continue
        nearest = min(
            (corners.FindKey(n) for n in (1, 2)), key=lambda v: BRep_Tool.Pnt_s(solid.as_vertex(v)).SquareDistance(spot)
        )
        ends.append((solid.find_vertex(nearest), direction.Multiplied(sign / direction.Magnitude()), index))
    return ends


def _against(a: Any, b: Any) -> bool:
    return bool(a.Angle(b) > math.pi - _SMOOTH)


def _meeting(solid: Solid) -> dict[int, list[int]]:
    """For each vertex the edges that end there. Remembered on the solid."""
    return _MEETING.of(solid, lambda: _edges_by_vertex(solid))


def _edges_by_vertex(solid: Solid) -> dict[int, list[int]]:
    edges: dict[int, list[int]] = defaultdict(list)
    for edge in range(solid.number_of_edges):
        if not solid.degenerate_edges[edge]:
            corners = mapped(solid.nth_edge(edge), TopAbs_VERTEX)
            for number in range(1, int(corners.Extent()) + 1):
                edges[solid.find_vertex(corners.FindKey(number))].append(edge)
    return edges


def radius(solid: Solid, index: int) -> float | None:
    """Radius of a circular edge in mm; None for others."""
    if solid.degenerate_edges[index]:
        return None
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    return float(curve.Circle().Radius()) if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle else None


def line(solid: Solid, index: int) -> tuple[Vec, Vec] | None:
    """Middle and direction of a straight edge; None for curved ones."""
    if solid.degenerate_edges[index]:
        return None
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    if curve.GetType() != GeomAbs_CurveType.GeomAbs_Line:
        return None
    middle = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    direction = curve.Line().Direction()
    return xyz(middle), xyz(direction)


def length(solid: Solid, index: int) -> float:
    """Of an edge, mm."""
    return float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(solid.nth_edge(index))))


def middle(solid: Solid, index: int) -> Vec:
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    spot = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    return xyz(spot)


def outer_loop(solid: Solid, face: int) -> tuple[int, ...]:
    """The edges of a face's outer wire."""
    wire = BRepTools.OuterWire_s(solid.face(face))
    faces_at = AncestorMap()
    TopExp.MapShapesAndUniqueAncestors_s(wire, TopAbs_EDGE, TopAbs_EDGE, faces_at, False)
    edges = (solid.find_edge(faces_at.FindKey(n)) for n in range(1, int(faces_at.Extent()) + 1))
    return tuple(edge for edge in edges if edge is not None and not solid.degenerate_edges[edge])


def inner_loops(solid: Solid, face: int) -> tuple[int, ...]:
    """The edges of a face's holes."""
    outer = set(outer_loop(solid, face))
    return tuple(e for e in solid.face_edges[face] if e not in outer and not solid.degenerate_edges[e])


def passes(solid: Solid, index: int, spot: Vec, near: float = 1e-3) -> bool:
    """Whether an edge runs through a place, to `near` mm."""
    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*spot)).Vertex()
    return bool(BRepExtrema_DistShapeShape(vertex, solid.nth_edge(index)).Value() < near)


def looseness(solid: Solid) -> float:
    """How far an edge is off one of its faces at most, mm: files of other programs leave gaps, our own verbs hardly any.
    Remembered on the solid.
    """
    return max(_LOOSENESS.of(solid, lambda: tuple(_off(solid, e) for e in range(solid.number_of_edges))), default=0.0)


def gap(solid: Solid, some: Iterable[int]) -> tuple[int, str] | None:
    """Of some edges the one that is furthest off one of its faces, and words for that; None where all are near enough."""
    looseness(solid)
    off = _LOOSENESS.known(solid) or ()
    edge = max(some, key=lambda one: off[one], default=None)
    if edge is None or off[edge] <= LOOSE:
        return None
    return edge, f"faces do not quite meet there: an edge lies {off[edge]:.2g} mm off one"


def _off(solid: Solid, index: int) -> float:
    if solid.degenerate_edges[index]:
        return 0.0
    return max(off_face(solid.nth_edge(index), solid.face(face)) for face in solid.faces_at_edges[index])


def off_face(edge: Any, face: Any) -> float:
    """How far an edge is off its trace on a face at most, or off a plane, on which it may have none, mm.

    The kernel's own check takes a body that was placed for one that is far off itself.
    """
    surface, curve = BRepAdaptor_Surface(face), BRepAdaptor_Curve(edge)
    ends = curve.FirstParameter(), curve.LastParameter()
    flat = surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane
    # A straight edge is furthest off a plane at one of its ends.
    straight = flat and curve.GetType() == GeomAbs_CurveType.GeomAbs_Line
    places = ends if straight else np.linspace(*ends, _LOOKED_AT).tolist()
    if flat:
        plane = surface.Plane()
        return max(float(plane.Distance(curve.Value(t))) for t in places)
    trace = BRepAdaptor_Curve2d(edge, face)
    spots = ((curve.Value(t), trace.Value(t)) for t in places)
    return max(float(p.Distance(surface.Value(at.X(), at.Y()))) for p, at in spots)
