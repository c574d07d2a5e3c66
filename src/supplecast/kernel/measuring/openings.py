"""Where a surface is open: runs of edges that follow one another, and those that have a face on one side only."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from OCP import collections as oc
from OCP.BRep import BRep_Tool
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.ShapeAnalysis import ShapeAnalysis_FreeBounds
from OCP.TopoDS import TopoDS

from supplecast.kernel.shapes.shape import Solid

_MEET = 1e-4  # mm between the ends of edges that follow one another


def whole(solid: Solid, edges: Sequence[int]) -> list[int]:
    """Edges, and all those that bound the same openings of a surface, each once."""
    chosen = dict.fromkeys(edges)
    free = open_edges(solid)
    if chosen.keys() & set(free):
        for wire in runs(solid, free):
            along = [edge for piece in in_order(wire) if (edge := solid.find_edge(piece)) is not None]
            if chosen.keys() & set(along):
                chosen.update(dict.fromkeys(along))
    return list(chosen)


def open_edges(solid: Solid) -> list[int]:
    """The edges that have a face on one side only."""
    return [e for e, faces in enumerate(solid.faces_at_edges) if len(faces) == 1 and not _closes(solid, e)]


def _closes(solid: Solid, index: int) -> bool:
    """Whether nothing is open at an edge with one face: that closes on itself there, or it is a pole."""
    (face,) = solid.faces_at_edges[index]
    return solid.degenerate_edges[index] or bool(BRep_Tool.IsClosed_s(solid.nth_edge(index), solid.face(face)))


def runs(solid: Solid, edges: Sequence[int]) -> list[Any]:
    """Edges as wires of those that follow one another."""
    loose, wires = oc.HSequence_TopoDS_Shape(), oc.HSequence_TopoDS_Shape()
    for edge in edges:
        loose.Append(solid.nth_edge(edge))
    ShapeAnalysis_FreeBounds.ConnectEdgesToWires_s(loose, _MEET, False, wires)
    return [TopoDS.Wire(wires.Value(number)) for number in range(1, int(wires.Length()) + 1)]


def in_order(wire: Any) -> list[Any]:
    """The edges of a wire one after another, each in the sense in which it is run along."""
    walker, edges = BRepTools_WireExplorer(wire), []
    while walker.More():
        edges.append(walker.Current())
        walker.Next()
    return edges
