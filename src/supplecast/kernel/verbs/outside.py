"""The outside of a body: its holes, pockets and hollows filled, each along the face in which it opens.

A mouth is a hole in the outline of a face from which the body goes inwards; without it the face runs on across. Mouths part the
skin into what lies behind them and the outside, which closes over all that.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FORWARD, TopAbs_WIRE
from OCP.TopoDS import TopoDS, TopoDS_Shell

from supplecast.errors import KernelError
from supplecast.geometry import dot, subtract
from supplecast.kernel.measuring import datums, edges, measure
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, unchanged
from supplecast.kernel.shapes.shape import Solid, mapped, one

_HINT = "Pick a body that is its outside, or close its openings first."


def filled(solid: Solid) -> Made:
    """The body without what is hollow in it; bosses and ribs on its outside stay, and its faces keep their tags.

    KernelError, with the faces about it, where a hollow opens across several faces, so that none of them runs on over it.
    """
    mouths = [list(_mouths(solid, face)) for face in range(solid.face_count)]
    shut = {solid.find_edge(edge) for loops in mouths for loop in loops for edge in _edges(loop)}
    skin = _outermost(solid, shut)
    if not shut and len(skin) == solid.face_count:
        return Made(solid, unchanged(solid))
    kept = set(skin)
    open_at = {
        f for e, at in enumerate(solid.faces_at_edges) if e not in shut and not kept.issuperset(at) for f in at if f in kept
    }
    across = {edge for edge in shut if edge is not None and kept.issuperset(solid.faces_at_edges[edge])}
    open_at |= {face for edge in across for face in solid.faces_at_edges[edge]}
    if open_at:
        raise KernelError("What is hollow in this body opens across several faces.", _HINT, faces=tuple(sorted(open_at)))
    new = [_across(solid.face(face), mouths[face]) for face in skin]
    try:
        whole = one(_closed(new), "filling what is hollow")
    except KERNEL_FAULTS as fault:
        raise KernelError("What is hollow in this body could not be filled.", _HINT) from fault
    ledger = Ledger([whole])
    for face, shape in zip(skin, new, strict=True):
        ledger.note(shape, Origin(None, (FaceOf(0, face),)))
    return ledger.made()[0]


def _mouths(solid: Solid, face: int) -> Iterator[Any]:
    """The inner wires of a face behind which the body goes inwards."""
    outer = BRepTools.OuterWire_s(solid.face(face))
    wires = mapped(solid.face(face), TopAbs_WIRE)
    for number in range(1, int(wires.Extent()) + 1):
        wire = wires.FindKey(number)
        if not wire.IsSame(outer) and all(_goes_in(solid, face, solid.find_edge(edge)) for edge in _edges(wire)):
            yield wire


def _goes_in(solid: Solid, face: int, edge: int | None) -> bool:
    """Whether the face beyond an edge lies behind this one."""
    others = set(solid.faces_at_edges[edge]) - {face} if edge is not None else set()
    if edge is None or len(others) != 1:
        return False
    bend = edges.bend(solid, edge)
    if bend in ("convex", "concave"):
        return bend == "convex"
    beyond = measure.point_inside(solid, others.pop())  # smooth: a round tells by where it leads
    foot, normal = datums.normal_at(solid, face, edges.middle(solid, edge))
    return beyond is not None and dot(normal, subtract(beyond, foot)) < 0


def _edges(wire: Any) -> Iterator[Any]:
    found = mapped(wire, TopAbs_EDGE)
    for number in range(1, int(found.Extent()) + 1):
        yield found.FindKey(number)


def _outermost(solid: Solid, shut: set[int | None]) -> tuple[int, ...]:
    """Of the faces that hang together by edges not in `shut`, those that reach farthest round."""
    left, best, widest = set(range(solid.face_count)), set[int](), -1.0
    while left:
        island, edge = set[int](), {left.pop()}
        while edge:
            island |= edge
            edge = {f for face in edge for e in solid.face_edges[face] if e not in shut for f in solid.faces_at_edges[e]} & left
            left -= edge
        boxes = [measure.face_box(solid, face) for face in island]
        size = np.max([b.high for b in boxes], axis=0) - np.min([b.low for b in boxes], axis=0)
        if float(np.linalg.norm(size)) > widest:
            best, widest = island, float(np.linalg.norm(size))
    return tuple(sorted(best))


def _across(face: Any, mouths: list[Any]) -> Any:
    """A face that runs on across its mouths."""
    if not mouths:
        return face
    ahead = face.Oriented(TopAbs_FORWARD)
    new, builder, wires = ahead.EmptyCopied(), BRep_Builder(), mapped(ahead, TopAbs_WIRE)
    for number in range(1, int(wires.Extent()) + 1):
        wire = wires.FindKey(number)
        if not any(wire.IsSame(mouth) for mouth in mouths):
            builder.Add(new, wire)
    return TopoDS.Face(new.Oriented(face.Orientation()))


def _closed(faces: list[Any]) -> Any:
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    for face in faces:
        builder.Add(shell, face)
    shell.Closed(True)
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid
