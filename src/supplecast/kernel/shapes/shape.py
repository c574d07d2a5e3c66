"""Solids as values: one closed body of the kernel, its faces, edges and vertices numbered in a lasting order.

Indices start at 0 and follow the order in which the kernel explores the shape; that order survives copying, moving and
writing to a blob, but not an edit: lasting names are made of tags (see `supplecast.naming`).
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator
from functools import cached_property
from typing import Any

from OCP import collections as oc
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID, TopAbs_VERTEX, TopAbs_WIRE
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Shell

from supplecast.errors import KernelError
from supplecast.geometry import Vec

ShapeMap = oc.IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher
AncestorMap = oc.IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher
ShapeList = oc.List_TopoDS_Shape


def xyz(p: Any) -> Vec:
    """A point, vector or direction of the kernel as plain numbers."""
    return (p.X(), p.Y(), p.Z())


def listed(shapes: Iterable[Any]) -> Any:
    """Shapes as a list of the kernel's own."""
    listing = ShapeList()
    for shape in shapes:
        listing.Append(shape)
    return listing


class Solid:
    """One solid body. Equality is identity; the shape inside is never changed."""

    shape: Any
    closed = True
    of_triangles = False

    def __init__(self, shape: Any) -> None:
        self.shape = TopoDS.Solid(shape)

    @property
    def encloses(self) -> bool:
        """Whether it has an inside, by exact faces or by triangles."""
        return self.closed

    @cached_property
    def memos(self) -> dict[object, object]:
        """What was worked out of it, by `Memo`."""
        return {}

    @cached_property
    def _faces(self) -> Any:
        return mapped(self.shape, TopAbs_FACE)

    @cached_property
    def _edges(self) -> Any:
        ancestors = AncestorMap()
        TopExp.MapShapesAndUniqueAncestors_s(self.shape, TopAbs_EDGE, TopAbs_FACE, ancestors, False)
        return ancestors

    @cached_property
    def _vertices(self) -> Any:
        ancestors = AncestorMap()
        TopExp.MapShapesAndUniqueAncestors_s(self.shape, TopAbs_VERTEX, TopAbs_FACE, ancestors, False)
        return ancestors

    @property
    def face_count(self) -> int:
        return int(self._faces.Extent())

    @property
    def number_of_edges(self) -> int:
        return int(self._edges.Extent())

    @property
    def vertex_count(self) -> int:
        return int(self._vertices.Extent())

    def face(self, index: int) -> Any:
        return TopoDS.Face(self._faces.FindKey(index + 1))

    def nth_edge(self, index: int) -> Any:
        return TopoDS.Edge(self._edges.FindKey(index + 1))

    def vertex(self, index: int) -> Any:
        return TopoDS.Vertex(self._vertices.FindKey(index + 1))

    def find_face(self, shape: Any) -> int | None:
        index = int(self._faces.FindIndex(shape))
        return index - 1 if index else None

    def find_vertex(self, shape: Any) -> int:
        return int(self._vertices.FindIndex(shape)) - 1

    @staticmethod
    def as_vertex(shape: Any) -> Any:
        return TopoDS.Vertex(shape)

    def find_edge(self, shape: Any) -> int | None:
        index = int(self._edges.FindIndex(shape))
        return index - 1 if index else None

    @cached_property
    def faces_at_edges(self) -> tuple[tuple[int, ...], ...]:
        """For each edge the faces it bounds: two, or one where a face closes on itself along a seam."""
        rows = []
        for number in range(1, self.number_of_edges + 1):
            faces = self._edges.FindFromIndex(number)
            ends = (faces.First(), faces.Last()) if len(faces) > 1 else (faces.First(),)
            rows.append(tuple(int(self._faces.FindIndex(f)) - 1 for f in ends))
        return tuple(rows)

    @cached_property
    def degenerate_edges(self) -> tuple[bool, ...]:
        return tuple(bool(BRep_Tool.Degenerated_s(self.nth_edge(i))) for i in range(self.number_of_edges))

    @cached_property
    def face_edges(self) -> tuple[tuple[int, ...], ...]:
        rows: list[list[int]] = [[] for _ in range(self.face_count)]
        for edge, faces in enumerate(self.faces_at_edges):
            for face in faces:
                rows[face].append(edge)
        return tuple(tuple(row) for row in rows)

    @cached_property
    def neighbours(self) -> tuple[frozenset[int], ...]:
        """For each face the faces it shares an edge with."""
        return tuple(
            frozenset(other for edge in edges for other in self.faces_at_edges[edge] if other != face)
            for face, edges in enumerate(self.face_edges)
        )

    def islands(self, faces: Iterable[int], parted: Container[int] = ()) -> list[tuple[int, ...]]:
        """Faces in groups that hang together by shared edges other than those `parted`, the largest group first."""
        left, groups = set(faces), []
        while left:
            island: set[int] = set()
            edge = {left.pop()}
            while edge:
                island |= edge
                across = {e for face in edge for e in self.face_edges[face] if e not in parted}
                edge = {face for e in across for face in self.faces_at_edges[e]} & left
                left -= edge
            groups.append(tuple(sorted(island)))
        return sorted(groups, key=len, reverse=True)

    @cached_property
    def faces_at_edge_ends(self) -> tuple[frozenset[int], ...]:
        """For each edge the faces that meet at its end vertices."""
        rows = []
        for index in range(self.number_of_edges):
            meeting: set[int] = set()
            ends = mapped(self.nth_edge(index), TopAbs_VERTEX)
            for number in range(1, int(ends.Extent()) + 1):
                meeting |= self.vertex_faces(int(self._vertices.FindIndex(ends.FindKey(number))) - 1)
            rows.append(frozenset(meeting))
        return tuple(rows)

    def vertex_faces(self, index: int) -> frozenset[int]:
        rest = ShapeList()
        rest.Assign(self._vertices.FindFromIndex(index + 1))
        faces = set()
        for _ in range(len(rest)):
            faces.add(int(self._faces.FindIndex(rest.First())) - 1)
            rest.RemoveFirst()
        return frozenset(faces)


class Surface(Solid):
    """A surface body: faces that hang together and enclose nothing."""

    closed = False

    def __init__(self, shape: Any) -> None:
        self.shape = as_shell(shape)


def as_shell(shape: Any) -> Any:
    """The one shell in a kernel shape, or a shell of its one face. KernelError if its faces do not hang together."""
    shells = mapped(shape, TopAbs_SHELL)
    if shells.Extent() == 1:
        return TopoDS.Shell(shells.FindKey(1))
    faces = mapped(shape, TopAbs_FACE)
    if shells.Extent() > 1 or faces.Extent() != 1:
        raise KernelError("The faces do not hang together.", "Let them share edges, or sew them.")
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    builder.Add(shell, faces.FindKey(1))
    return shell


def solid_of(faces: Iterable[Any]) -> Any:
    """A solid of the kernel of faces that share their edges and close; whether it is sound is for the caller to check."""
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    for face in faces:
        builder.Add(shell, face)
    shell.Closed(True)
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def wires_of(face: Any) -> Iterator[Any]:
    """The wires of a face of the kernel."""
    found = mapped(face, TopAbs_WIRE)
    for number in range(1, int(found.Extent()) + 1):
        yield TopoDS.Wire(found.FindKey(number))


def mapped(shape: Any, kind: Any) -> Any:
    indexed = ShapeMap()
    TopExp.MapShapes_s(shape, kind, indexed)
    return indexed


def faces_of(solid: Solid, faces: Iterable[int]) -> Any:
    """Some faces of a solid as one compound of the kernel."""
    group, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(group)
    for face in faces:
        builder.Add(group, solid.face(face))
    return group


def solids_in(shape: Any) -> list[Solid]:
    """Every solid in a kernel shape, unwrapped from its compounds; none for a null shape."""
    if shape is None or shape.IsNull():
        return []
    indexed = mapped(shape, TopAbs_SOLID)
    return [Solid(indexed.FindKey(number)) for number in range(1, int(indexed.Extent()) + 1)]


def is_valid(solid: Solid) -> bool:
    return bool(BRepCheck_Analyzer(solid.shape).IsValid())
