"""A surface of one face carried on beyond its edges: beyond all of them, or beyond chosen ones alone."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_REVERSED

from supplecast.errors import KernelError
from supplecast.geometry import Floats
from supplecast.kernel.measuring import edges as edges_of
from supplecast.kernel.measuring import measure, openings, probing
from supplecast.kernel.shapes.history import FaceOf, Made, Origin
from supplecast.kernel.shapes.shape import Solid, Surface, is_valid, listed
from supplecast.kernel.verbs import extent

_SIDES = ("u low", "u high", "v low", "v high")
_PROBE = 1e-3  # mm
_SLANT = 0.1  # of a direction along which a corner is carried, across its edge
_ON = 1e-6  # of a face's range in u or v that an edge may be off its side


def extended(sheet: Solid, by: float, edges: Sequence[int] = ()) -> Made:
    """A surface of one face carried on by `by` mm beyond all its edges, or beyond some: those of a flat surface if straight,
    of any other if it has four sides along its own lines. KernelError for several faces, and for edges it cannot be done at.
    """
    if sheet.face_count != 1:
        words = f"This surface has {sheet.face_count} faces; only a single one can be extended."
        raise KernelError(words, "Extend them before they are joined.")
    if not edges:
        wider = Surface(extent.carried_on(sheet, 0, 0.0, by))
    elif measure.is_flat(sheet, 0):
        wider = _flat(sheet, by, edges)
    else:
        wider = _four_sided(sheet, by, edges)
    before, after = measure.face_area(sheet, 0), measure.face_area(wider, 0)
    if after <= before * (1 + 1e-9) or wider.face_count != 1 or not is_valid(wider):
        raise KernelError("This surface cannot be carried on any further there.", "Draw it larger.", edges=tuple(edges))
    return Made(wider, ((Origin(None, (FaceOf(0, 0),)),),))


def _flat(sheet: Solid, by: float, edges: Sequence[int]) -> Surface:
    """A strip along each chosen edge, its ends on the lines of the edges beside it, or mitred where those are chosen too."""
    curved = tuple(edge for edge in edges if edges_of.line(sheet, edge) is None)
    if curved:
        raise KernelError("A flat surface is extended by straight edges.", "Leave out the curved ones.", edges=curved)
    out = {edge: _outwards(sheet, edge) for edge in edges}
    strips = []
    for edge in edges:
        near = [np.array(measure.vertex_point(sheet.vertex(v))) for v in edges_of.end_vertices(sheet, edge)]
        far = [p + _beyond(sheet, edge, p, out) * by for p in near]
        rim = BRepBuilderAPI_MakePolygon(*(gp_Pnt(*p.tolist()) for p in (near[0], near[1], far[1], far[0])), True)
        strips.append(BRepBuilderAPI_MakeFace(BRep_Tool.Surface_s(sheet.face(0)), rim.Wire(), True).Face())
    maker = BRepAlgoAPI_Fuse()
    # Faces become one only where they look the same way as the plane they lie on.
    maker.SetArguments(listed([sheet.face(0).Oriented(TopAbs_FORWARD)]))
    maker.SetTools(listed(strips))
    maker.Build()
    joined = ShapeUpgrade_UnifySameDomain(maker.Shape(), True, True, False)
    joined.Build()
    return _as_before(sheet, joined.Shape())


def _as_before(sheet: Solid, shape: Any) -> Surface:
    """A wider face as a surface that looks the way the sheet does."""
    return Surface(shape.Reversed() if sheet.face(0).Orientation() == TopAbs_REVERSED else shape)


def _outwards(sheet: Solid, index: int) -> Floats:
    """The direction in a flat face, square to a straight edge of it, that leads away from the face."""
    line = edges_of.line(sheet, index)
    assert line is not None
    middle, along = np.array(line[0]), np.array(line[1])
    aside = np.cross(along, np.array(measure.flat_frame(sheet, 0).normal))
    x, y, z = (middle + _PROBE * aside).tolist()
    return np.asarray(aside if probing.distance_to_faces(sheet, (0,), (x, y, z)) > _PROBE / 2 else -aside, float)


def _beyond(sheet: Solid, index: int, corner: Floats, out: Mapping[int, Floats]) -> Floats:
    """Where a corner goes for each millimetre that its edge is pushed out: along the edge beside it, or to where both meet."""
    x, y, z = corner.tolist()
    beside = next((e for e in range(sheet.number_of_edges) if e != index and measure.ends_at(sheet, e, (x, y, z))), None)
    if beside is None:
        return out[index]
    if beside in out:
        both = out[index] + out[beside]
        share = 1 + float(out[index] @ out[beside])
        return both / share if share > _SLANT else out[index]
    along = np.array(edges_of.tangent_at(sheet, beside, (x, y, z)))
    rise = float(along @ out[index])
    return along / rise if abs(rise) > _SLANT else out[index]


def _four_sided(sheet: Solid, by: float, edges: Sequence[int]) -> Surface:
    face = sheet.face(0)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    sides = {edge: _side(sheet, edge, (u0, u1, v0, v1)) for edge in openings.open_edges(sheet)}
    if None in sides.values():
        raise KernelError(
            "A curved surface is extended by an edge only where it has four sides along its own lines.",
            "Extend it beyond all its edges.",
            edges=tuple(edge for edge, side in sides.items() if side is None),
        )
    grown = {sides[edge] for edge in edges}
    surface = BRepAdaptor_Surface(face)
    rate = _rates(surface, (v0 + v1) / 2)
    if rate is None:
        u_low, u_high, v_low, v_high = (side in grown for side in _SIDES)
        return Surface(extent.widened(face, by, (u_low, u_high, v_low, v_high)))
    step = [by / rate[0], by / rate[0], by / rate[1], by / rate[1]]
    ends = [end + sign * size * (side in grown)
            for end, sign, size, side in zip((u0, u1, v0, v1), (-1, 1, -1, 1), step, _SIDES, strict=True)]  # fmt: skip
    if ends[1] - ends[0] > 2 * math.pi:
        raise KernelError("The surface would run into itself all round.", "Use less.", sized=True)
    return _as_before(sheet, BRepBuilderAPI_MakeFace(BRep_Tool.Surface_s(face), *ends, 1e-6).Face())


def _rates(surface: Any, v: float) -> tuple[float, float] | None:
    """Millimetres on a round surface for each unit of its parameters, at the middle of its v; None for free ones."""
    match surface.GetType():
        case GeomAbs_SurfaceType.GeomAbs_Cylinder:
            return surface.Cylinder().Radius(), 1.0
        case GeomAbs_SurfaceType.GeomAbs_Cone:
            cone = surface.Cone()
            return abs(cone.RefRadius() + v * math.sin(cone.SemiAngle())), 1.0
        case GeomAbs_SurfaceType.GeomAbs_Sphere:
            radius = surface.Sphere().Radius()
            return radius * math.cos(v), radius
        case GeomAbs_SurfaceType.GeomAbs_Torus:
            ring = surface.Torus()
            return abs(ring.MajorRadius() + ring.MinorRadius() * math.cos(v)), ring.MinorRadius()
        case _:
            return None


def _side(sheet: Solid, index: int, bounds: tuple[float, float, float, float]) -> str | None:
    """The side of a face's range that an edge runs along."""
    first, last = BRep_Tool.Range_s(sheet.nth_edge(index))
    trace = BRep_Tool.CurveOnSurface_s(sheet.nth_edge(index), sheet.face(0), first, last)
    places = np.array([(p.X(), p.Y()) for t in np.linspace(first, last, 5) for p in [trace.Value(float(t))]])
    wide = (bounds[1] - bounds[0], bounds[3] - bounds[2])
    for number, (name, bound) in enumerate(zip(_SIDES, bounds, strict=True)):
        if float(np.abs(places[:, number // 2] - bound).max()) < _ON * wide[number // 2]:
            return name
    return None
