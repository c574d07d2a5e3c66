"""Triangles of flat faces between the points of their outlines: several times quicker than the kernel meshes them.

Rims that bend are cut into chords here for each face alone, so the triangles do not meet those of other faces point by point:
for measuring, not showing.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.TopAbs import TopAbs_Orientation, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from supplecast.geometry import Floats, Rows
from supplecast.kernel.meshing.analytic_surfaces import FLAT, Surfaces
from supplecast.kernel.meshing.triangulation import Triangulation, chords
from supplecast.kernel.shapes.shape import mapped, xyz


def triangulate(faces: Sequence[Any], surfaces: Surfaces, fine: float, angle: float) -> Triangulation:
    """Triangles of those faces of the kernel that are flat, with outlines within `fine` mm and chords turning by no more than
    `angle` rad; none where an outline crosses itself.

    `surfaces` is the table of `faces`, whose rows are told.
    """
    rows, shapes = _outlines(faces, surfaces, fine, angle)
    sound = shapely.is_valid(shapes)
    parts, of = shapely.get_parts(shapely.constrained_delaunay_triangles(shapes[sound]), return_index=True)
    if not len(parts):
        return Triangulation.none()
    rows = rows[sound][of]
    flat = shapely.get_coordinates(parts).reshape(-1, 4, 2)[:, :3]
    x, y = surfaces.axes[rows, 0, None], surfaces.axes[rows, 1, None]
    corners = surfaces.places[rows, None] + flat[:, :, :1] * x + flat[:, :, 1:] * y
    along, aside = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    clockwise = along[:, 0] * aside[:, 1] < along[:, 1] * aside[:, 0]
    inwards = np.array([face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED for face in faces])[rows]
    corners = np.where((inwards ^ clockwise)[:, None, None], corners[:, ::-1], corners)
    direction = np.cross(x, y) * np.where(inwards, -1.0, 1.0)[:, None, None]
    return Triangulation(corners, np.repeat(direction, 3, axis=1), rows)


def _outlines(faces: Sequence[Any], surfaces: Surfaces, fine: float, angle: float) -> tuple[Rows, Any]:
    """The rows of flat faces, and those faces as polygons in the axes of their own planes."""
    rings, of = [], []
    for row in np.flatnonzero((surfaces.forms == FLAT) & (surfaces.off == 0)).tolist():
        wires = mapped(faces[row], TopAbs_WIRE)
        outlines = [_round(TopoDS.Wire(wires.FindKey(n)), faces[row], fine, angle) for n in range(1, wires.Extent() + 1)]
        if all(len(ring) > 2 for ring in outlines):
            rings += outlines
            of += [row] * len(outlines)
    if not rings:
        return np.empty(0, dtype=np.int64), np.empty(0, dtype=object)
    sizes = [len(ring) for ring in rings]
    owner, number = np.repeat(of, sizes), np.repeat(np.arange(len(rings)), sizes)
    flat = np.einsum("ijk,ik->ij", surfaces.axes[owner, :2], np.concatenate(rings) - surfaces.places[owner])
    drawn = shapely.linearrings(flat, indices=number)
    # The ring that holds the others goes first.
    order = np.lexsort([-shapely.area(shapely.polygons(drawn)), of])
    rows, index = np.unique(np.array(of)[order], return_inverse=True)
    return rows, shapely.polygons(drawn[order], indices=index)


def _round(wire: Any, face: Any, fine: float, angle: float) -> Floats:
    """Points round a wire (n, 3), each edge's but its last; none where the wire cannot be followed all round."""
    ring: list[Floats] = []
    explorer = BRepTools_WireExplorer(wire, face)
    while explorer.More():
        curve = BRepAdaptor_Curve(explorer.Current())
        backwards = explorer.Current().Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        match curve.GetType():
            case GeomAbs_CurveType.GeomAbs_Line:
                ring.append(np.array([xyz(BRep_Tool.Pnt_s(explorer.CurrentVertex()))]))
            case GeomAbs_CurveType.GeomAbs_Circle:
                points = _arc(curve.Circle(), curve.FirstParameter(), curve.LastParameter(), fine, angle)
                ring.append(points[:0:-1] if backwards else points[:-1])
            case _:
                chords = GCPnts_TangentialDeflection(curve, angle, fine)
                points = np.array([xyz(chords.Value(n)) for n in range(1, chords.NbPoints() + 1)])
                ring.append(points[:0:-1] if backwards else points[:-1])
        explorer.Next()
    return np.concatenate(ring) if ring and len(ring) == wire.NbChildren() else np.empty((0, 3))


def _arc(circle: Any, first: float, last: float, fine: float, angle: float) -> Floats:
    place, radius = circle.Position(), circle.Radius()
    count = int(chords(np.array(last - first), np.array(radius), fine, angle))
    turns = np.linspace(first, last, 1 + count)[:, None]
    x, y = (radius * np.array(xyz(axis)) for axis in (place.XDirection(), place.YDirection()))
    points: Floats = np.array(xyz(place.Location())) + np.cos(turns) * x + np.sin(turns) * y
    return points
