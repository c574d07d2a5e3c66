"""The order of a solid's faces and edges, where the kernel leaves it to chance.

Its offset of a whole body keeps what it makes by where that lies in memory: another process numbers the same faces otherwise.
"""

from __future__ import annotations

from typing import Any

from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.TopAbs import TopAbs_FORWARD
from OCP.TopoDS import TopoDS, TopoDS_Wire

from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.measuring.openings import in_order
from supplecast.kernel.shapes.history import Made
from supplecast.kernel.shapes.shape import Solid, solid_of, wires_of
from supplecast.kernel.shapes.soundness import one

_DIGITS = 5
Key = tuple[float, ...]


def settled(made: Made) -> Made:
    """The same solid of one shell, its faces and edges in an order that only their places tell."""
    solid = made.solid
    order = sorted(range(solid.face_count), key=lambda face: _face_key(solid, face))
    whole = one(solid_of(_settled(solid, face) for face in order), "the offset")
    return Made(whole, tuple(made.origins[face] for face in order))


def _settled(solid: Solid, index: int) -> Any:
    """A face whose wires, and the edges in each, begin with what lies first."""
    face = solid.face(index)
    ahead = face.Oriented(TopAbs_FORWARD)
    outer = BRepTools.OuterWire_s(TopoDS.Face(ahead))
    rows = []
    for wire in wires_of(ahead):
        run = in_order(wire)
        indices = [solid.find_edge(edge) for edge in run]
        if None in indices or len(set(indices)) != int(wire.NbChildren()):
            return face  # one that closes on itself along a seam: where its edges begin says what is inside
        keys = [_key_of(solid, index) for index in indices if index is not None]
        first = min(range(len(run)), key=keys.__getitem__)
        rows.append((not wire.IsSame(outer), keys[first], wire, [*run[first:], *run[:first]]))
    new, builder = ahead.EmptyCopied(), BRep_Builder()
    for _, _, wire, run in sorted(rows, key=lambda row: row[:2]):
        again = TopoDS_Wire()
        builder.MakeWire(again)
        for edge in run:
            builder.Add(again, edge)
        again.Closed(wire.Closed())
        builder.Add(new, again.Oriented(wire.Orientation()))
    return TopoDS.Face(new.Oriented(face.Orientation()))


def _face_key(solid: Solid, face: int) -> Key:
    area, middle = measure.rough_face(solid, face)
    return (*_rounded(*middle), *_rounded(area))


def _key_of(solid: Solid, index: int) -> Key:
    """What tells an edge from the others of its wire: where its middle lies, and its length."""
    if solid.degenerate_edges[index]:
        return (float("inf"),)
    return (*_rounded(*edges.middle(solid, index)), *_rounded(edges.length(solid, index)))


def _rounded(*values: float) -> Key:
    return tuple(round(value, _DIGITS) + 0.0 for value in values)
