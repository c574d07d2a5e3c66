"""What can be measured on faces, edges and points, and between two of them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt

from supplecast.errors import KernelError
from supplecast.geometry import Vec, dot, subtract
from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid, xyz


@dataclass(frozen=True)
class Thing:
    """A face or an edge of a solid by its index, or a point."""

    solid: Solid | None = None
    face: int | None = None
    edge: int | None = None
    point: Vec | None = None

    @property
    def shape(self) -> Any:
        if self.point is not None:
            return BRepBuilderAPI_MakeVertex(gp_Pnt(*self.point)).Vertex()
        assert self.solid is not None
        return self.solid.face(self.face) if self.face is not None else self.solid.nth_edge(self.edge or 0)

    @property
    def direction(self) -> Vec | None:
        """The normal of a flat face out of the material, or the direction of a straight edge."""
        if self.solid is None:
            return None
        if self.face is not None:
            return measure.flat_frame(self.solid, self.face).normal if measure.is_flat(self.solid, self.face) else None
        line = edges.line(self.solid, self.edge or 0)
        return line[1] if line else None


@dataclass(frozen=True)
class Figure:
    """One thing measured: what it is called, its value, and whether that is mm, mm², or rad."""

    name: str
    value: float
    unit: str


def single(thing: Thing) -> list[Figure]:
    """Length and radius of an edge, area and radius of a face, coordinates of a point."""
    if thing.point is not None:
        return [Figure(axis, value, "mm") for axis, value in zip("xyz", thing.point, strict=True)]
    solid = thing.solid
    assert solid is not None
    if thing.face is not None:
        figures = [Figure("area", measure.face_area(solid, thing.face), "mm²")]
        radius = _face_radius(solid, thing.face)
        return [*figures, *([Figure("radius", radius, "mm"), Figure("diameter", 2 * radius, "mm")] if radius else [])]
    index = thing.edge or 0
    figures = [Figure("length", float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(solid.nth_edge(index)))), "mm")]
    radius = edges.radius(solid, index)
    return [*figures, *([Figure("radius", radius, "mm"), Figure("diameter", 2 * radius, "mm")] if radius else [])]


def _face_radius(solid: Solid, face: int) -> float | None:
    if isinstance(solid, MeshBody):
        return solid.forms[face].radius or None
    surface = BRepAdaptor_Surface(solid.face(face))
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        return float(surface.Cylinder().Radius())
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Sphere:
        return float(surface.Sphere().Radius())
    return None


def between(first: Thing, second: Thing) -> tuple[list[Figure], tuple[Vec, Vec]]:
    """Least distance, its parts along the axes, the angle and, of two flat faces back to back, the wall; and where it was
    measured.
    """
    near = BRepExtrema_DistShapeShape(first.shape, second.shape)
    if not near.IsDone() or near.NbSolution() < 1:
        raise KernelError("The distance between these two could not be found.", "Pick other ones.")
    a, b = xyz(near.PointOnShape1(1)), xyz(near.PointOnShape2(1))
    off = subtract(b, a)
    figures = [Figure("least distance", float(near.Value()), "mm")]
    figures += [Figure(f"along {axis}", abs(value), "mm") for axis, value in zip("xyz", off, strict=True)]
    directions = first.direction, second.direction
    if directions[0] is not None and directions[1] is not None:
        lean = max(-1.0, min(1.0, dot(directions[0], directions[1])))
        angle = math.acos(abs(lean))
        mixed = (first.face is None) != (second.face is None)
        figures.append(Figure("angle", math.pi / 2 - angle if mixed else angle, "rad"))
        if first.face is not None and second.face is not None and lean < -1 + 1e-9 and first.solid and second.solid:
            frame = measure.flat_frame(first.solid, first.face)
            wall = -frame.over(measure.flat_frame(second.solid, second.face).origin)
            if wall > 1e-9:
                figures.append(Figure("wall", wall, "mm"))
            elif wall < -1e-9:
                figures.append(Figure("gap", -wall, "mm"))
    return figures, (a, b)
