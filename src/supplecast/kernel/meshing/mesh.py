"""Triangles of a solid for display and export, face by face, and the polylines of its edges.

The bindings give no bulk access to a triangulation, and a loop over its nodes is fifty times too slow for editing. So the
arrays are read where they lie in memory; at first use that shortcut is compared with the slow way on a known body, and
never used if they differ.
"""

from __future__ import annotations

import ctypes
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.BRepLib import BRepLib_ToolTriangulatedShape
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
from OCP.BRepTools import BRepTools
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopLoc import TopLoc_Location

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Ints, Rows
from supplecast.kernel.shapes import apart
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid, Surface


@dataclass(frozen=True)
class Mesh:
    """Triangles of a solid, in mm.

    points (n, 3) float64, not shared between faces; normals (n, 3) float64, out of the material; triangles (m, 3) int32
    counter-clockwise from outside; face_ends (faces,) int32: triangles of face k are those up to face_ends[k].
    edges: one (k, 3) float64 polyline for each edge of the solid, empty where an edge has no length.
    """

    points: Floats
    normals: Floats
    triangles: Ints
    face_ends: Ints
    edges: tuple[Floats, ...]

    @cached_property
    def faces(self) -> Rows:
        """The face that each triangle belongs to, (m,)."""
        counts = np.diff(self.face_ends, prepend=0)
        return np.repeat(np.arange(len(counts)), counts)

    def carried(self, motion: Floats) -> Mesh:
        """The mesh of the solid carried by a turn and a shift, or mirrored, (3, 4)."""
        turn, shift = motion[:, :3], motion[:, 3]
        triangles = self.triangles if np.linalg.det(turn) > 0 else self.triangles[:, ::-1]
        edges = tuple(line @ turn.T + shift for line in self.edges)
        return Mesh(self.points @ turn.T + shift, self.normals @ turn.T, triangles, self.face_ends, edges)

    def welded(self) -> tuple[Floats, Ints]:
        """Points shared between faces, and triangles on them: a watertight mesh for a sound solid."""
        points, triangles, _ = self.welding()
        return points, triangles

    def welding(self) -> tuple[Floats, Ints, Rows]:
        """The same, with which triangle each was, (k,): those whose corners fall together are left out."""
        keys = np.round(self.points, 9) + 0.0
        unique, inverse = np.unique(keys, axis=0, return_inverse=True)
        triangles = inverse.reshape(-1)[self.triangles].astype(np.int32)
        flat = (
            (triangles[:, 0] == triangles[:, 1]) | (triangles[:, 1] == triangles[:, 2]) | (triangles[:, 2] == triangles[:, 0])
        )
        rows = np.flatnonzero(~flat)
        return unique, triangles[rows], rows


def tessellate(solid: Solid, deflection: float, angle: float, *, edges: bool = True) -> Mesh:
    """Mesh within `deflection` mm of the surface and `angle` rad between neighbouring facets; with polylines for its `edges`.

    Raises KernelError naming the faces that could not be meshed.
    """
    if isinstance(solid, MeshBody):
        return _as_it_is(solid)
    # The mesher keeps what is already fine enough, also on edges shared with another body, where it then leaves cracks.
    BRepTools.Clean_s(solid.shape, True)
    BRepMesh_IncrementalMesh(solid.shape, deflection, False, angle, not apart.alone())
    points, normals, triangles, ends, failed = [], [], [], [], []
    count = triangle_count = 0
    for index in range(solid.face_count):
        patched = patch(solid, index)
        if patched is None:
            failed.append(index)
            ends.append(triangle_count)
            continue
        nodes, normal, corners = patched
        points.append(nodes)
        normals.append(normal)
        triangles.append(corners + count)
        count += len(nodes)
        triangle_count += len(corners)
        ends.append(triangle_count)
    if failed:
        raise KernelError("Some faces could not be turned into triangles.", faces=tuple(failed))
    return Mesh(
        np.concatenate(points),
        np.concatenate(normals),
        np.concatenate(triangles).astype(np.int32),
        np.array(ends, dtype=np.int32),
        polylines(solid, deflection, angle) if edges else (),
    )


def skin(solid: Solid, faces: Sequence[int], deflection: float, angle: float) -> tuple[Floats, Floats, Ints]:
    """Points (n, 3) mm, outward normals (n, 3) and triangles (m, 3) of some faces, meshed aside: the solid keeps what triangles
    it has. KernelError for faces that could not be meshed.
    """
    points, normals, triangles, count = [], [], [], 0
    for index in faces:
        copied = BRepBuilderAPI_Copy(solid.face(index)).Shape()
        BRepMesh_IncrementalMesh(copied, deflection, False, angle, False)
        patched = patch(Surface(copied), 0)
        if patched is None:
            raise KernelError("This face could not be turned into triangles.", faces=(index,))
        points.append(patched[0])
        normals.append(patched[1])
        triangles.append(patched[2] + count)
        count += len(patched[0])
    return np.concatenate(points), np.concatenate(normals), np.concatenate(triangles).astype(np.int32)


def polylines(solid: Solid, deflection: float, angle: float) -> tuple[Floats, ...]:
    """One (k, 3) polyline for each edge of a solid, as `tessellate` gives them."""
    return tuple(_polyline(solid, index, deflection, angle) for index in range(solid.number_of_edges))


def _as_it_is(body: MeshBody) -> Mesh:
    """The triangles that a mesh body has; corners have a normal in each region, the mean of those around them there."""
    keys = body.regions[:, None] * len(body.points) + body.triangles
    _, first, of = np.unique(keys.reshape(-1), return_index=True, return_inverse=True)
    corners = body.corners
    weighted = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    summed = np.stack([np.bincount(of.reshape(-1), np.repeat(weighted[:, k], 3)) for k in range(3)], axis=1)
    normals = summed / np.maximum(np.linalg.norm(summed, axis=1, keepdims=True), 1e-300)
    points = body.points[body.triangles.reshape(-1)[first]]
    return Mesh(points, normals, of.reshape(-1, 3).astype(np.int32), body.ends, body.lines)


def patch(solid: Solid, index: int) -> tuple[Floats, Floats, Ints] | None:
    """Points, outward normals and triangles of a face that has been meshed; None if it could not be."""
    face = solid.face(index)
    place = TopLoc_Location()
    held = BRep_Tool.Triangulation_s(face, place)
    if held is None:
        return None
    BRepLib_ToolTriangulatedShape.ComputeNormals_s(face, held)
    nodes, normal, corners = _read(held)
    if not place.IsIdentity():
        transform = place.Transformation()
        matrix = np.array([[transform.Value(r, c) for c in range(1, 5)] for r in range(1, 4)])
        nodes = nodes @ matrix[:, :3].T + matrix[:, 3]
        normal = normal @ matrix[:, :3].T
    if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        corners, normal = corners[:, ::-1], -normal
    return nodes, normal, corners - 1


def _polyline(solid: Solid, index: int, deflection: float, angle: float) -> Floats:
    if solid.degenerate_edges[index]:
        return np.empty((0, 3))
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    points = GCPnts_TangentialDeflection(curve, angle, deflection)
    rows = np.empty((points.NbPoints(), 3))
    for number in range(points.NbPoints()):
        at = points.Value(number + 1)
        rows[number] = at.X(), at.Y(), at.Z()
    return rows


def _read(patch: Any) -> tuple[Floats, Floats, Ints]:
    return _read_memory(patch) if _memory_can_be_read() else _read_slowly(patch)


def _read_slowly(patch: Any) -> tuple[Floats, Floats, Ints]:
    nodes, normals = np.empty((patch.NbNodes(), 3)), np.empty((patch.NbNodes(), 3))
    for number in range(1, patch.NbNodes() + 1):
        at, direction = patch.Node(number), patch.Normal(number)
        nodes[number - 1] = at.X(), at.Y(), at.Z()
        normals[number - 1] = direction.X(), direction.Y(), direction.Z()
    corners = np.array([patch.Triangle(n).Get() for n in range(1, patch.NbTriangles() + 1)], dtype=np.int32)
    return nodes, normals, corners


def _address(wrapped: Any) -> int:
    return int(ctypes.c_void_p.from_address(id(wrapped) + 16).value or 0)


def _array(address: int, kind: Any, rows: int) -> Any:
    data = ctypes.c_void_p.from_address(address).value or 0
    return np.ctypeslib.as_array((kind * (rows * 3)).from_address(data)).reshape(rows, 3).copy()


def _read_memory(patch: Any) -> tuple[Floats, Floats, Ints]:
    nodes = _array(_address(patch.InternalNodes()), ctypes.c_double, patch.NbNodes())
    normals = _array(_address(patch.InternalNormals()) + 24, ctypes.c_float, patch.NbNodes()).astype(np.float64)
    corners = _array(_address(patch.InternalTriangles()) + 24, ctypes.c_int32, patch.NbTriangles())
    return nodes, normals, corners


@lru_cache(maxsize=1)
def _memory_can_be_read() -> bool:
    sample = Solid(BRepPrimAPI_MakeCylinder(3.0, 5.0).Shape())
    BRepMesh_IncrementalMesh(sample.shape, 0.1, False, 0.3, False)
    for index in range(sample.face_count):
        patch = BRep_Tool.Triangulation_s(sample.face(index), TopLoc_Location())
        BRepLib_ToolTriangulatedShape.ComputeNormals_s(sample.face(index), patch)
        if not patch.IsDoublePrecision():
            return False
        for fast, slow in zip(_read_memory(patch), _read_slowly(patch), strict=True):
            assert isinstance(fast, np.ndarray) and isinstance(slow, np.ndarray)
            if fast.shape != slow.shape or not np.allclose(fast, slow, atol=1e-6):
                return False
    return True
