"""The outside of a body: its holes, pockets and hollows filled, each along the face in which it opens.

A mouth is a hole in the outline of a face from which the body goes inwards; without it the face runs on across. Mouths part the
skin into what lies behind them and the outside, which closes over all that.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FORWARD
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import dot, subtract
from supplecast.kernel.measuring import datums, edges, measure
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, unchanged
from supplecast.kernel.shapes.shape import Solid, mapped, solid_of, wires_of
from supplecast.kernel.shapes.soundness import one

_HINT = "Pick a body that is its outside, or close its openings first."


def filled(solid: Solid) -> Made:
    """The body without what is hollow in it; bosses and ribs on its outside stay, and its faces keep their tags.

    KernelError, with the faces about it, where a hollow opens across several faces, so that none of them runs on over it.
    """
    mouths = [list(_mouths(solid, face)) for face in range(solid.face_count)]
    shut = {index for loops in mouths for loop in loops for index in _round(solid, loop)}
    skin = _outermost(solid, shut)
    if not shut and len(skin) == solid.face_count:
        return Made(solid, unchanged(solid))
    kept = set(skin)
    open_at = {
        f for e, at in enumerate(solid.faces_at_edges) if e not in shut and not kept.issuperset(at) for f in at if f in kept
    }
    open_at |= {face for e in shut if kept.issuperset(solid.faces_at_edges[e]) for face in solid.faces_at_edges[e]}
    if open_at:
        raise KernelError("What is hollow in this body opens across several faces.", _HINT, faces=tuple(sorted(open_at)))
    new = [_across(solid.face(face), mouths[face]) for face in skin]
    try:
        whole = one(solid_of(new), "filling what is hollow")
    except KERNEL_FAULTS as fault:
        raise KernelError("What is hollow in this body could not be filled.", _HINT) from fault
    ledger = Ledger([whole])
    for face, shape in zip(skin, new, strict=True):
        ledger.note(shape, Origin(None, (FaceOf(0, face),)))
    return ledger.made()[0]


def _mouths(solid: Solid, face: int) -> Iterator[Any]:
    """The inner wires of a face behind which the body goes inwards."""
    outer = BRepTools.OuterWire_s(solid.face(face))
    for wire in wires_of(solid.face(face)):
        if not wire.IsSame(outer) and all(_goes_in(solid, face, index) for index in _round(solid, wire)):
            yield wire


def _goes_in(solid: Solid, face: int, index: int) -> bool:
    """Whether the face beyond an edge lies behind this one."""
    others = set(solid.faces_at_edges[index]) - {face}
    if len(others) != 1:
        return False
    bend = edges.bend(solid, index)
    if bend in ("convex", "concave"):
        return bend == "convex"
    beyond = measure.point_inside(solid, others.pop())  # smooth: a round tells by where it leads
    foot, normal = datums.normal_at(solid, face, edges.middle(solid, index))
    return beyond is not None and dot(normal, subtract(beyond, foot)) < 0


def _round(solid: Solid, wire: Any) -> list[int]:
    """The edges of a wire by their numbers."""
    found = mapped(wire, TopAbs_EDGE)
    numbers = (solid.find_edge(found.FindKey(number)) for number in range(1, int(found.Extent()) + 1))
    return [number for number in numbers if number is not None]


def _outermost(solid: Solid, shut: set[int]) -> tuple[int, ...]:
    """Of the faces that hang together by edges not in `shut`, those that reach farthest round."""

    def width(island: tuple[int, ...]) -> float:
        boxes = [measure.face_box(solid, face) for face in island]
        return float(np.linalg.norm(np.max([b.high for b in boxes], axis=0) - np.min([b.low for b in boxes], axis=0)))

    return max(solid.islands(range(solid.face_count), shut), key=width)


def _across(face: Any, mouths: list[Any]) -> Any:
    """A face that runs on across its mouths."""
    if not mouths:
        return face
    ahead = face.Oriented(TopAbs_FORWARD)
    new, builder = ahead.EmptyCopied(), BRep_Builder()
    for wire in wires_of(ahead):
        if not any(wire.IsSame(mouth) for mouth in mouths):
            builder.Add(new, wire)
    return TopoDS.Face(new.Oriented(face.Orientation()))
