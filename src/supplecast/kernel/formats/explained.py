"""Solids of triangles whose faces are all flats and rounds: each face is its exact form, bounded where it meets its neighbours.

Which faces meet, and where round them corners lie, is taken from the mesh; where exactly edges and corners are follows from the
forms alone. What comes of it is held against the mesh from both sides.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from OCP import collections as oc
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepLib import BRepLib
from OCP.Geom import Geom_Circle, Geom_CylindricalSurface, Geom_Ellipse, Geom_Line, Geom_Plane
from OCP.GeomAPI import GeomAPI_Interpolate, GeomAPI_ProjectPointOnCurve
from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Pnt
from OCP.ShapeFix import ShapeFix_Face
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Vertex, TopoDS_Wire

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame
from supplecast.kernel.measuring import measure
from supplecast.kernel.meshing import mesh
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.mesh_body import Form, MeshBody
from supplecast.kernel.shapes.shape import Solid, mapped
from supplecast.kernel.shapes.soundness import one
from supplecast.search import Triangles
from supplecast.wording import brief, plural

_PARALLEL = 1e-4
_EXACT = 1e-7
_ROUNDS = 8
_MOST_OFF = 0.02  # of the size: a solid further off its mesh is another one
_MOST_FACES = 1000
_AS_MESH = "Take it as a mesh."


class Explained(NamedTuple):
    """A solid, the most that it is off its mesh in mm, and its faces in words."""

    solid: Solid
    off: float
    words: str


class _Line(NamedTuple):
    """A line between two regions, and the points of the mesh that it runs through."""

    regions: tuple[int, int]
    run: tuple[int, ...]


class _Edge(NamedTuple):
    """An edge of the kernel, and whether it runs as its line does."""

    shape: Any
    along: bool


def as_solid(body: MeshBody) -> Explained:
    """The solid of flats and rounds that a tight mesh lies on. KernelError where they do not explain all of it."""
    if not body.tight:
        raise KernelError("These triangles do not close to a body.", _AS_MESH)
    if body.face_count > _MOST_FACES:
        raise KernelError(f"This mesh has {body.face_count} faces; up to {_MOST_FACES} can be made exact.", _AS_MESH)
    free = [face for face, form in enumerate(body.forms) if form.kind == "free"]
    if free:
        share = 100 * sum(body.face_area(face) for face in free) / float(body.areas.sum())
        raise KernelError(
            f"{brief(share, 2)} % of this mesh lies on no flat and no round.", f"{_AS_MESH} Or import a STEP file."
        )
    try:
        solid = _Building(_halved(body)).built()
    except KERNEL_FAULTS as fault:
        raise KernelError("The flats and rounds of this mesh do not close to a solid.", _AS_MESH) from fault
    off = _off(solid, body)
    if off > _MOST_OFF * body.box().diagonal:
        raise KernelError(f"Its flats and rounds would be {brief(off)} mm off the mesh.", _AS_MESH)
    kinds = [form.kind for form in body.forms]
    flats, rounds = kinds.count("flat"), kinds.count("round")
    words = plural(flats, "flat") + (f" and {plural(rounds, 'round')}" if rounds else "")
    return Explained(solid, off, words)


def _halved(body: MeshBody) -> MeshBody:
    """The same with every round that goes all the way about parted in two along its axis: then each face has one ring round it,
    and no seam.
    """
    labels, forms = body.regions.copy(), list(body.forms)
    for face, form in enumerate(body.forms):
        if form.kind != "round":
            continue
        rows = np.flatnonzero(body.regions == face)
        frame = Frame.lying(form.point, form.direction)
        corners = body.corners[rows]
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        turns = np.arctan2(normals @ frame.y, normals @ frame.x)
        strips = np.unique(turns.round(4))
        gaps = np.diff(np.append(strips, strips[0] + 2 * math.pi))
        if gaps.max() > math.pi / 2:
            continue
        cuts = [strips[np.abs(strips - at).argmin()] + 1e-3 for at in (-math.pi / 2, math.pi / 2)]
        half = np.flatnonzero((turns > cuts[0]) & (turns < cuts[1]))
        labels[rows[half]] = len(forms)
        forms.append(form)
    order = np.argsort(labels, kind="stable")
    ends = np.cumsum(np.bincount(labels, minlength=len(forms))).astype(np.int32)
    return MeshBody(body.points, body.triangles[order], ends, forms, body.tight)


def _off(solid: Solid, body: MeshBody) -> float:
    """How far the solid's skin and the mesh are apart at the most, from many places of both."""
    fine = mesh.tessellate(solid, max(body.box().diagonal / 20_000, 1e-3), 0.1, edges=False)
    corners = fine.points[fine.triangles]
    there = Triangles(corners).nearest(body.corners.mean(axis=1)).away.max()
    back = Triangles(body.corners).nearest(corners.mean(axis=1)).away.max()
    return float(max(there, back, max(form.off for form in body.forms)))


class _Building:
    """Corners, edges and faces of the solid, each made once."""

    def __init__(self, body: MeshBody) -> None:
        self.body = body
        self.size = body.box().diagonal
        self.vertices: dict[int, Any] = {}
        around: dict[int, set[int]] = defaultdict(set)
        for region, triangle in zip(body.regions.tolist(), body.triangles.tolist(), strict=True):
            for corner in triangle:
                around[corner].add(region)
        self.around = around
        self.sides = {
            (region, a, b)
            for region, (x, y, z) in zip(body.regions.tolist(), body.triangles.tolist(), strict=True)
            for a, b in ((x, y), (y, z), (z, x))
        }

    def built(self) -> Solid:
        """The solid. KernelError or faults of the kernel where it cannot be had."""
        lines = [_Line((faces[0], faces[-1]), run) for faces, run in self.body.borders]
        edges = [self._edge(line) for line in lines]
        sewing = BRepBuilderAPI_Sewing(1e-6 * self.size)
        for face in range(self.body.face_count):
            sewing.Add(self._face(face, lines, edges))
        sewing.Perform()
        shells = mapped(sewing.SewedShape(), TopAbs_SHELL)
        if sewing.NbFreeEdges() or int(shells.Extent()) != 1:
            raise KernelError("The flats and rounds of this mesh do not close to a solid.", _AS_MESH)
        solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shells.FindKey(1))).Solid()
        BRepLib.OrientClosedSolid_s(solid)
        whole = ShapeUpgrade_UnifySameDomain(solid, True, True, False)
        whole.Build()
        made = one(whole.Shape(), "making a solid of the mesh")
        want = self.body.mass().volume
        if abs(measure.rough_volume(made) - want) > 0.05 * want:
            raise KernelError("The flats and rounds of this mesh do not close to a solid.", _AS_MESH)
        return made

    def _vertex(self, corner: int, curve: Any) -> Any:
        """The corner where several forms meet, with a tolerance that reaches the curve."""
        known = self.vertices.get(corner)
        if known is None:
            forms = [self.body.forms[region] for region in sorted(self.around[corner])]
            place = _meeting(forms, self.body.points[corner])
            known = self.vertices[corner] = TopoDS_Vertex()
            BRep_Builder().MakeVertex(known, gp_Pnt(*map(float, place)), _EXACT)
        reach = GeomAPI_ProjectPointOnCurve(BRep_Tool.Pnt_s(known), curve).LowerDistance()
        BRep_Builder().UpdateVertex(known, float(reach) + _EXACT)
        return known

    def _edge(self, line: _Line) -> _Edge:
        first, second = (self.body.forms[region] for region in line.regions)
        places = self.body.points[list(line.run)]
        curve = _curve(first, second, places)
        if line.run[0] == line.run[-1]:
            at, to = (_parameter(curve, gp_Pnt(*map(float, place))) for place in places[:2])
            return _Edge(BRepBuilderAPI_MakeEdge(curve).Edge(), (to - at) % curve.Period() < curve.Period() / 2)
        a, b = (self._vertex(corner, curve) for corner in (line.run[0], line.run[-1]))
        at, to = (_parameter(curve, BRep_Tool.Pnt_s(vertex)) for vertex in (a, b))
        if curve.IsPeriodic():
            turn = curve.Period()
            to = at + (to - at) % turn
            middle = at + (_parameter(curve, gp_Pnt(*map(float, _half_way(places)))) - at) % turn
            if middle > to:  # the arc runs the other way round
                return _Edge(BRepBuilderAPI_MakeEdge(curve, b, a, to, at + turn).Edge(), False)
        elif at > to:
            return _Edge(BRepBuilderAPI_MakeEdge(curve, b, a, to, at).Edge(), False)
        return _Edge(BRepBuilderAPI_MakeEdge(curve, a, b, at, to).Edge(), True)

    def _face(self, region: int, lines: Sequence[_Line], edges: Sequence[_Edge]) -> Any:
        """A face as its surface looks, bounded counter-clockwise; sewing turns it over where the material lies outside."""
        form = self.body.forms[region]
        turned = form.kind == "round" and not form.outward
        face, builder = TopoDS_Face(), BRep_Builder()
        builder.MakeFace(face, _surface(form), _EXACT)
        for loop in self._loops(region, lines):
            wire = TopoDS_Wire()
            builder.MakeWire(wire)
            for number in reversed(loop) if turned else loop:
                run, edge = lines[number].run, edges[number]
                with_region = (region, run[0], run[1]) in self.sides
                builder.Add(wire, edge.shape if (edge.along == with_region) != turned else edge.shape.Reversed())
            builder.Add(face, wire)
        fix = ShapeFix_Face(face)
        fix.FixOrientationMode = 0
        fix.Perform()
        return fix.Result()

    def _loops(self, region: int, lines: Sequence[_Line]) -> list[list[int]]:
        """The lines round a region, ring by ring, in the order in which they follow each other."""
        starts: dict[int, int] = {}
        ends: dict[int, int] = {}
        rings = []
        for number, line in enumerate(lines):
            if region not in line.regions:
                continue
            if line.run[0] == line.run[-1]:
                rings.append([number])
                continue
            along = (region, line.run[0], line.run[1]) in self.sides
            first, last = (line.run[0], line.run[-1]) if along else (line.run[-1], line.run[0])
            if first in starts:
                raise KernelError("Two parts of a face of this mesh meet in one corner.", _AS_MESH)
            starts[first], ends[number] = number, last
        left = set(starts.values())
        while left:
            ring = [min(left)]
            left.remove(ring[0])
            while (further := starts[ends[ring[-1]]]) in left:
                left.remove(further)
                ring.append(further)
            rings.append(ring)
        return rings


def _surface(form: Form) -> Any:
    axes = gp_Ax3(gp_Pnt(*form.point), gp_Dir(*form.direction))
    return Geom_Plane(axes) if form.kind == "flat" else Geom_CylindricalSurface(axes, form.radius)


def _curve(first: Form, second: Form, places: Floats) -> Any:
    """The curve in which two forms meet near a line of places (k, 3)."""
    if first.kind == "round" and second.kind == "flat":
        first, second = second, first
    n, a = np.array(first.direction), np.array(second.direction)
    lean = abs(float(n @ a))
    if first.kind == "flat" and second.kind == "round" and lean > 1 - _PARALLEL**2:
        height = float((np.array(first.point) - second.point) @ a)
        centre = np.array(second.point) + height * a
        return Geom_Circle(gp_Ax2(gp_Pnt(*map(float, centre)), gp_Dir(*second.direction)), second.radius)
    if first.kind == "flat" and second.kind == "round" and lean > _PARALLEL:
        height = float((np.array(first.point) - second.point) @ n) / float(a @ n)
        centre = np.array(second.point) + height * a
        long = a - n * float(a @ n)
        axes = gp_Ax2(gp_Pnt(*map(float, centre)), gp_Dir(*map(float, n)), gp_Dir(*map(float, long)))
        return Geom_Ellipse(axes, second.radius / lean, second.radius)
    if first.kind == "flat" and second.kind == "flat":
        if lean > 1 - _PARALLEL**2:
            raise KernelError("Two flats of this mesh run into each other.", _AS_MESH)
        direction = np.cross(n, a)
    elif first.kind == "flat":
        direction = a - n * float(a @ n)
    elif lean > 1 - _PARALLEL**2:
        direction = n
    else:
        return _through(first, second, places)
    direction = direction / np.linalg.norm(direction)
    place = _meeting([first, second], places.mean(axis=0))
    return Geom_Line(gp_Pnt(*map(float, place)), gp_Dir(*map(float, direction)))


def _through(first: Form, second: Form, places: Floats) -> Any:
    """A smooth curve through places put onto both of two rounds that cross."""
    ring = bool((places[0] == places[-1]).all())
    points = oc.HArray1_gp_Pnt(1, len(places) - ring)
    for number, place in enumerate(places[: len(places) - ring], 1):
        points.SetValue(number, gp_Pnt(*map(float, _meeting([first, second], place))))
    fitted = GeomAPI_Interpolate(points, ring, _EXACT)
    fitted.Perform()
    return fitted.Curve()


def _meeting(forms: Sequence[Form], near: Floats) -> Floats:
    """The place on all of some forms next to another, by Gauss and Newton: the shortest steps there are."""
    place = np.array(near, dtype=np.float64)
    for _ in range(_ROUNDS):
        rows, values = [], []
        for form in forms:
            off, direction = place - form.point, np.array(form.direction)
            if form.kind == "flat":
                rows.append(direction)
                values.append(float(off @ direction))
            else:
                aside = off - direction * float(off @ direction)
                length = float(np.linalg.norm(aside))
                rows.append(aside / max(length, 1e-300))
                values.append(length - form.radius)
        step = np.linalg.lstsq(np.array(rows), -np.array(values), rcond=1e-4)[0]
        place = place + step
        if float(np.abs(step).max()) < 1e-12:
            break
    return place


def _parameter(curve: Any, place: Any) -> float:
    return float(GeomAPI_ProjectPointOnCurve(place, curve).LowerDistanceParameter())


def _half_way(places: Floats) -> Floats:
    """The place half way along a run of places."""
    lengths = np.concatenate([[0.0], np.linalg.norm(np.diff(places, axis=0), axis=1).cumsum()])
    return np.array([np.interp(lengths[-1] / 2, lengths, places[:, k]) for k in range(3)])
