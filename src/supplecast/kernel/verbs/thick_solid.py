"""The kernel's own calls for a thick solid, with their settings, and what their history says."""

from __future__ import annotations

from typing import Any

from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeThickSolid
from OCP.GeomAbs import GeomAbs_JoinType

from supplecast.errors import KernelError
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.history import EdgeOf, FaceOf, Ledger, Made, Origin, VertexOf, each, traced_to, unchanged
from supplecast.kernel.shapes.shape import ShapeList, Solid, solids_in
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean
from supplecast.kernel.verbs.wall_check import Wanted

ARC, SHARP = GeomAbs_JoinType.GeomAbs_Arc, GeomAbs_JoinType.GeomAbs_Intersection


def attempt(wanted: Wanted, join: Any, crossing: bool) -> Made:
    """The shell as the kernel makes it with these settings: how offset faces are joined, and whether all their intersections
    are computed. KernelError where it makes none; whether it is right is another matter.
    """
    maker = (_by_one_wall if len(set(wanted.walls.values())) == 1 else _by_many)(wanted, join, crossing)
    solid, role = wanted.solid, "outer" if wanted.outward else "inner"
    if not wanted.opened:
        return _closed(wanted, maker, role)
    result = checked(maker.Shape(), "the shell")[0]
    ledger = Ledger([result])
    opened = set(wanted.opened)
    for index in range(solid.face_count):
        face = solid.face(index)
        source = (FaceOf(0, index),)
        ledger.note(face, Origin(None, source))
        for new in each(maker.Modified(face)):
            ledger.note(new, Origin(None, source))
            if index in opened:
                ledger.note(new, Origin("rim", source))
        for new in each(maker.Generated(face)):
            ledger.note(new, Origin(role, source))
    _note_joins(ledger, solid, maker, role)
    return ledger.made()[0]


def _by_one_wall(wanted: Wanted, join: Any, crossing: bool) -> Any:
    faces = ShapeList()
    for face in wanted.opened:
        faces.Append(wanted.solid.face(face))
    maker = BRepOffsetAPI_MakeThickSolid()
    by = wanted.least if wanted.outward else -wanted.least
    skin = BRepOffset_Mode.BRepOffset_Skin
    maker.MakeThickSolidByJoin(wanted.solid.shape, faces, by, 1e-3, skin, crossing, False, join, False)
    if not maker.IsDone():
        raise KernelError("the kernel found no offset")
    return maker


def _by_many(wanted: Wanted, join: Any, crossing: bool) -> Any:
    maker = BRepOffset_MakeOffset()
    sign = 1.0 if wanted.outward else -1.0
    usual = max(wanted.walls.values(), key=lambda wall: list(wanted.walls.values()).count(wall))
    skin = BRepOffset_Mode.BRepOffset_Skin
    maker.Initialize(wanted.solid.shape, sign * usual, 1e-3, skin, crossing, False, join, False)
    for face in wanted.opened:
        maker.AddFace(wanted.solid.face(face))
    for face, wall in wanted.walls.items():
        if wall != usual:
            maker.SetOffsetOnFace(wanted.solid.face(face), sign * wall)
    if wanted.opened:
        maker.MakeThickSolid()
    else:
        maker.MakeOffsetShape()
    if not maker.IsDone():
        raise KernelError("the kernel found no offset")
    return maker


def note_skin(ledger: Ledger, solid: Solid, maker: Any, role: str) -> None:
    """What the kernel's offset of a whole solid grew from: its faces, and the edges and corners it goes round."""
    for index in range(solid.face_count):
        for new in each(maker.Generated(solid.face(index))):
            ledger.note(new, Origin(role, (FaceOf(0, index),)))
    _note_joins(ledger, solid, maker, role)


def _note_joins(ledger: Ledger, solid: Solid, maker: Any, role: str) -> None:
    for index in range(solid.number_of_edges):
        for new in each(maker.Generated(solid.nth_edge(index))):
            ledger.note(new, Origin(role, (EdgeOf(0, index),)))
    for index in range(solid.vertex_count):
        for new in each(maker.Generated(solid.vertex(index))):
            ledger.note(new, Origin(role, (VertexOf(0, index),)))


def _closed(wanted: Wanted, maker: Any, role: str) -> Made:
    """Without an open face the verb returns the offset skin itself, so the body is what lies between it and the solid."""
    solid = wanted.solid
    shape = maker.Shape()
    if wanted.outward and any(measure.rough_volume(piece) < 0 for piece in solids_in(shape)):
        shape = shape.Reversed()
    skin = checked(shape, "the shell")[0]
    ledger = Ledger([skin])
    note_skin(ledger, solid, maker, role)
    rows = ledger.made()[0].origins
    if wanted.outward:
        return traced_to(boolean.cut(skin, [solid])[0], [rows, unchanged(solid)])
    return traced_to(boolean.cut(solid, [skin])[0], [unchanged(solid), rows])
