"""Solids of triangles: flat facets sewn together, neighbours in one plane made one face."""

from __future__ import annotations

from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepLib import BRepLib
from OCP.gp import gp_Pnt
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Ints
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.shape import Solid, mapped
from supplecast.kernel.shapes.soundness import one

MOST = 6000
"""Triangles: every one is a face of its own until they are merged."""


def solid_of(points: Floats, triangles: Ints) -> Solid:
    """The solid bounded by triangles: points (n, 3) mm, triangles (m, 3) indices. KernelError if they do not close."""
    if len(triangles) > MOST:
        raise KernelError(
            f"This mesh has {len(triangles)} triangles; up to {MOST} can be made a solid.",
            "Take it as a mesh, or import a STEP file.",
        )
    sewing = BRepBuilderAPI_Sewing(1e-6)
    for a, b, c in points[triangles]:
        polygon = BRepBuilderAPI_MakePolygon(gp_Pnt(*map(float, a)), gp_Pnt(*map(float, b)), gp_Pnt(*map(float, c)), True)
        if polygon.IsDone():
            sewing.Add(BRepBuilderAPI_MakeFace(polygon.Wire(), True).Face())
    sewing.Perform()
    shells = mapped(sewing.SewedShape(), TopAbs_SHELL)
    if sewing.NbFreeEdges() or int(shells.Extent()) != 1:
        raise KernelError("The triangles do not close to one solid.", "Take them as a mesh, or import a STEP file.")
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shells.FindKey(1))).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    merged = ShapeUpgrade_UnifySameDomain(solid, True, True, False)
    merged.Build()
    result = one(merged.Shape(), "sewing the triangles")
    if measure.rough_volume(result) <= 0:
        raise KernelError("The triangles enclose nothing.", "Repair the mesh, or import a STEP file.")
    return result
