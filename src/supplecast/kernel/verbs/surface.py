"""Surfaces: outlines raised or turned into sheets, sheets thickened to walls, moved aside, and sewn into solids."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Ax1, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_VERTEX
from OCP.TopExp import TopExp

from supplecast.curves import Curve2
from supplecast.errors import KernelError
from supplecast.geometry import Axis, Frame, Vec, cross, dot, subtract, times
from supplecast.kernel.measuring import datums, measure, probing
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import EdgeOf, FaceOf, Ledger, Made, Origin, composed, each
from supplecast.kernel.shapes.profile import as_dir, as_point, flat_wire
from supplecast.kernel.shapes.shape import Solid, Surface, mapped
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import revolve
from supplecast.kernel.verbs.recognise import recognised
from supplecast.kernel.verbs.tidy import unified

_FULL = 2 * math.pi


@dataclass(frozen=True)
class Drawn:
    """A sheet drawn by an open chain of curves: its faces' origins, and in what roles its free edges would be walled up.

    `left` says whether the sheet's normals point to the left of the chain.
    """

    made: Made
    rims: tuple[tuple[int, Origin], ...]
    left: bool


def raised(chain: Sequence[Curve2], frame: Frame, length: float) -> Drawn:
    """The surface over an open chain, `length` mm along the frame's normal or, below 0, against it. Role `side`."""
    wire, edges = flat_wire(tuple(chain), frame, closed=False)
    return _drawn(BRepPrimAPI_MakePrism(wire, gp_Vec(*times(frame.normal, length)), True), edges, chain, frame)


def turned(chain: Sequence[Curve2], frame: Frame, axis: Axis, angle: float) -> Drawn:
    """The surface of an open chain turned about an axis by `angle` rad (0 to 2π). Role `side`."""
    revolve.refuse_angle(angle)
    revolve.refuse_crossing(chain, *revolve.in_plane(frame, axis), touching=False)
    wire, edges = flat_wire(tuple(chain), frame, closed=False)
    about = gp_Ax1(as_point(axis.point), as_dir(axis.direction))
    whole = angle > _FULL - 1e-9
    maker = BRepPrimAPI_MakeRevol(wire, about, True) if whole else BRepPrimAPI_MakeRevol(wire, about, angle, True)
    return _drawn(maker, edges, chain, frame)


def _drawn(maker: Any, edges: Sequence[tuple[Any, str]], chain: Sequence[Curve2], frame: Frame) -> Drawn:
    if not maker.IsDone():
        raise KernelError("The outline could not be drawn out into a surface.")
    sheet = Surface(maker.Shape())
    ledger = Ledger([sheet])
    for edge, entity in edges:
        for side in each(maker.Generated(edge)):
            ledger.note(side, Origin("side", (entity,)))
    left_over = [index for index, row in enumerate(ledger.rows[0]) if not row]
    silent = [entity for edge, entity in edges if not len(maker.Generated(edge))]
    # A full turn says nothing of lines square to the axis; one such line, one such face.
    if len(left_over) == 1 and len(silent) == 1:
        ledger.rows[0][left_over[0]].append(Origin("side", (silent[0],)))
    return Drawn(ledger.made()[0], tuple(_rims(maker, sheet, edges)), _points_left(sheet, ledger.made()[0], chain, frame))


def _rims(maker: Any, sheet: Surface, edges: Sequence[tuple[Any, str]]) -> list[tuple[int, Origin]]:
    rims = []
    for shape, role in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        if not shape.IsNull():
            rims += [(index, Origin(role)) for index in _edges_in(sheet, shape)]
    firsts = (TopExp.FirstVertex_s(edges[0][0], True), "tip"), (TopExp.LastVertex_s(edges[-1][0], True), "tail")
    for vertex, role in firsts:
        for made in each(maker.Generated(vertex)):
            index = sheet.find_edge(made)
            if index is not None and len(sheet.faces_at_edges[index]) == 1:
                rims.append((index, Origin(role)))
    return rims


def _edges_in(sheet: Solid, shape: Any) -> list[int]:
    held = mapped(shape, TopAbs_EDGE)
    indices = (sheet.find_edge(held.FindKey(number)) for number in range(1, int(held.Extent()) + 1))
    return [index for index in indices if index is not None]


def _points_left(sheet: Surface, made: Made, chain: Sequence[Curve2], frame: Frame) -> bool:
    """Whether the sheet's normal, beside the middle of the chain's first curve, points to the curve's left."""
    first = chain[0]
    before, here, after = first.at(np.array([0.49, 0.5, 0.51]))
    face = next(i for i, row in enumerate(made.origins) if any(first.entity in o.sources for o in row))
    _, normal = datums.normal_at(sheet, face, frame.point((float(here[0]), float(here[1]))))
    a, b = (frame.point((float(p[0]), float(p[1]))) for p in (before, after))
    return dot(normal, cross(frame.normal, subtract(b, a))) > 0


def walled(drawn: Drawn, thickness: float, side: str) -> Made:
    """A wall along a drawn chain: to its `left`, its `right`, or half to each (`middle`).

    Roles: `side` from the entity, `far` from the entity on the other skin, `start`, `end`, and `tip` and `tail` at the ends
    of the chain. KernelError if the wall is thicker than a bend allows.
    """
    sheet, made = drawn.made.solid, drawn.made
    assert isinstance(sheet, Surface)
    rims = dict(drawn.rims)
    sense = 1.0 if drawn.left else -1.0
    if side == "middle":
        moved, carried = _aside(sheet, -sense * thickness / 2)
        made = composed(made, moved)
        rims = {carried[index]: origin for index, origin in rims.items() if index in carried}
        sheet = moved.solid
    by = thickness * (-sense if side == "right" else sense)
    thick = thickened(sheet, by, rims)
    rows = tuple(tuple(_far_origin(origin, made) for origin in row) for row in thick.origins)
    return unified(composed(made, Made(thick.solid, rows)), "the wall")


def _far_origin(origin: Origin, sheet: Made) -> Origin:
    """A far face is told by the entity that drew the near one."""
    if origin.role != "far":
        return origin
    source = origin.sources[0]
    assert isinstance(source, FaceOf)
    return Origin("far", sheet.origins[source.face][0].sources)


def _aside(sheet: Solid, distance: float) -> tuple[Made, dict[int, int]]:
    """The sheet moved aside along its normals, faces keeping their names, and where its edges went."""
    maker = _offset(sheet, distance, thick=False)
    result = Surface(maker.Shape())
    ledger = Ledger([result])
    for index in range(sheet.face_count):
        for new in each(maker.Generated(sheet.face(index))):
            ledger.note(new, Origin(None, (FaceOf(0, index),)))
    edges = {}
    for index in range(sheet.number_of_edges):
        for new in each(maker.Generated(sheet.nth_edge(index))):
            edge = result.find_edge(new)
            if edge is not None:
                edges[index] = edge
    return ledger.made()[0], edges


def aside(sheet: Solid, distance: float) -> Made:
    """The surface at a distance from another, mm along its normals; faces in the role `aside` of what they follow."""
    made, _ = _aside(sheet, distance)
    rows = tuple(tuple(Origin("aside", o.sources) for o in row) for row in made.origins)
    return recognised(Made(made.solid, rows))


def _offset(sheet: Solid, distance: float, *, thick: bool) -> Any:
    maker = BRepOffset_MakeOffset()
    sharp = GeomAbs_JoinType.GeomAbs_Intersection
    maker.Initialize(sheet.shape, distance, 1e-4, BRepOffset_Mode.BRepOffset_Skin, False, False, sharp, thick)
    try:
        maker.MakeOffsetShape()
    except KERNEL_FAULTS as fault:
        raise _too_thick(distance) from fault
    if not maker.IsDone() or maker.Shape().IsNull():
        raise _too_thick(distance)
    return maker


def _too_thick(distance: float) -> KernelError:
    return KernelError(
        f"{abs(distance):g} mm does not fit: somewhere the surface is bent more tightly than that.",
        "Use less, choose the other side, or make its bends wider.",
        sized=True,
    )


def thickened(sheet: Solid, thickness: float, rims: dict[int, Origin] | None = None) -> Made:
    """A sheet given a thickness along its normals (against them if negative).

    Its faces keep their names; new ones are `far` of the face they follow and, round the free edges, `rim` of the edge or as
    `rims` says. The distance between the two skins is measured.
    """
    maker = _offset(sheet, thickness, thick=True)
    shape = maker.Shape()
    solid = one(shape, "the wall")
    if measure.rough_volume(solid) < 0:
        solid = one(shape.Reversed(), "the wall")
    ledger = Ledger([solid])
    for index in range(sheet.face_count):
        ledger.note(sheet.face(index), Origin(None, (FaceOf(0, index),)))
        for new in each(maker.Generated(sheet.face(index))):
            ledger.note(new, Origin("far", (FaceOf(0, index),)))
    for edge in range(sheet.number_of_edges):
        beside = solid.find_edge(sheet.nth_edge(edge))
        if beside is None or len(sheet.faces_at_edges[edge]) > 1:
            continue
        origin = (rims or {}).get(edge, Origin("rim", (EdgeOf(0, edge),)))
        for face in solid.faces_at_edges[beside]:
            if not ledger.rows[0][face]:
                ledger.rows[0][face].append(origin)
    made = ledger.made()[0]
    if not _apart(made, abs(thickness)):
        raise _too_thick(thickness)
    return recognised(made)


def _apart(made: Made, thickness: float) -> bool:
    """Whether every far face stands off the near ones by the thickness, as sampled in one point of each."""
    near = tuple(i for i, row in enumerate(made.origins) if any(o.role is None for o in row))
    far = (i for i, row in enumerate(made.origins) if any(o.role == "far" for o in row))
    spots = (measure.point_inside(made.solid, face) for face in far)
    away = (probing.distance_to_faces(made.solid, near, spot) for spot in spots if spot is not None)
    return all(abs(distance - thickness) <= max(0.01 * thickness, 0.004) for distance in away)


def sewn(sheets: Sequence[Solid], tolerance: float = 1e-4) -> Made:
    """Sheets joined along the edges they share: a solid where they close, which they must.

    KernelError says how many edges stay open and where the first is.
    """
    maker = BRepBuilderAPI_Sewing(tolerance)
    for sheet in sheets:
        maker.Add(sheet.shape)
    maker.Perform()
    shape = maker.SewedShape()
    if maker.NbFreeEdges():
        vertices = mapped(maker.FreeEdge(1), TopAbs_VERTEX)
        x, y, z = measure.vertex_point(Solid.as_vertex(vertices.FindKey(1)))
        count = maker.NbFreeEdges()
        raise KernelError(
            f"The surfaces do not close: open edges: {count}, one of them at ({x:.2f}, {y:.2f}, {z:.2f}).",
            "Add what is missing by Fill hole or Bridge surface, or let their edges meet.",
        )
    closed = BRepBuilderAPI_MakeSolid(Surface(shape).shape).Solid()
    BRepLib.OrientClosedSolid_s(closed)
    solid = one(closed, "the sewing")
    ledger = Ledger([solid])
    for number, sheet in enumerate(sheets):
        for index in range(sheet.face_count):
            face = sheet.face(index)
            origin = Origin(None, (FaceOf(number, index),))
            new = maker.ModifiedSubShape(face)
            ledger.note(face if new.IsNull() else new, origin)
    return recognised(ledger.made()[0])


def side_of(sheet: Solid, p: Vec) -> float:
    """How far a point lies off the nearest place of a sheet, positive where its normals point to, mm."""
    nearest = min(range(sheet.face_count), key=lambda face: probing.distance_to_faces(sheet, (face,), p))
    spot, normal = datums.normal_at(sheet, nearest, p)
    return dot(subtract(p, spot), normal)


def peeled(solid: Solid, faces: Sequence[int]) -> Made:
    """Faces of a solid as a surface of their own, in the role `of` each. KernelError if they do not hang together."""
    maker = BRepBuilderAPI_Sewing(1e-6)
    for face in faces:
        maker.Add(solid.face(face))
    maker.Perform()
    sheet = Surface(maker.SewedShape())
    ledger = Ledger([sheet])
    for face in faces:
        new = maker.ModifiedSubShape(solid.face(face))
        ledger.note(solid.face(face) if new.IsNull() else new, Origin("of", (FaceOf(0, face),)))
    return ledger.made()[0]
