"""Solids from files of triangles, STL and 3MF: flat facets sewn together, neighbours in one plane made one face.

Only meant for simple shapes: every facet is a face of its own until it is merged, so large meshes are refused. A 3MF file is a
zip: what it would unpack to is limited before and while it is read, and its XML may not define entities.
"""

from __future__ import annotations

import io
import struct
import xml.parsers.expat
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepLib import BRepLib
from OCP.gp import gp_Pnt
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Ints
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.shape import Solid, mapped, one
from supplecast.text import cleaned

MOST_FACETS = 6000
_MOST_UNPACKED = 150 * 2**20
_MOST_RATIO = 200
_LONGEST_TEXT = 1000 * MOST_FACETS  # bytes: a facet in text takes some 250
_MOST_BODIES = 40
_UNITS = {"micron": 1e-3, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "foot": 304.8, "meter": 1000.0}
_BROKEN = KernelError("This file of triangles is broken.", "Export it again from where it was made.")


def solid_of(points: Floats, triangles: Ints) -> Solid:
    """The solid bounded by triangles: points (n, 3) mm, triangles (m, 3) indices. KernelError if they do not close."""
    _refuse_many(len(triangles))
    sewing = BRepBuilderAPI_Sewing(1e-6)
    for a, b, c in points[triangles]:
        polygon = BRepBuilderAPI_MakePolygon(gp_Pnt(*map(float, a)), gp_Pnt(*map(float, b)), gp_Pnt(*map(float, c)), True)
        if polygon.IsDone():
            sewing.Add(BRepBuilderAPI_MakeFace(polygon.Wire(), True).Face())
    sewing.Perform()
    shells = mapped(sewing.SewedShape(), TopAbs_SHELL)
    if sewing.NbFreeEdges() or int(shells.Extent()) != 1:
        raise KernelError("The triangles do not close to one solid.", "Repair the mesh, or import a STEP file.")
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shells.FindKey(1))).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    merged = ShapeUpgrade_UnifySameDomain(solid, True, True, False)
    merged.Build()
    result = one(merged.Shape(), "sewing the triangles")
    if measure.rough_volume(result) <= 0:
        raise KernelError("The triangles enclose nothing.", "Repair the mesh, or import a STEP file.")
    return result


def _refuse_many(count: int, most: int = MOST_FACETS) -> None:
    if count > most:
        raise KernelError(
            f"This mesh has {count} triangles; up to {most} can be made a solid.",
            "Import a STEP file, or thin the mesh out.",
        )


def read_stl(content: bytes) -> tuple[Floats, Ints]:
    """Points in mm (STL has no unit) and triangles of a binary or text STL."""
    count = struct.unpack_from("<I", content, 80)[0] if len(content) >= 84 else -1
    if count >= 0 and len(content) == 84 + 50 * count:
        _refuse_many(count)
        rows = np.frombuffer(content, dtype=np.dtype([("n", "<f4", 3), ("p", "<f4", (3, 3)), ("a", "<u2")]), offset=84)
        corners = rows["p"].astype(float).reshape(-1, 3)
    else:
        _refuse_many(content.count(b"endfacet"))
        if len(content) > _LONGEST_TEXT:
            raise _BROKEN
        try:
            words = content.decode("ascii").split()
            places = [i for i, word in enumerate(words) if word == "vertex"]
            corners = np.array([[float(words[i + k]) for k in (1, 2, 3)] for i in places]).reshape(-1, 3)
        except (ValueError, IndexError, UnicodeDecodeError) as fault:
            raise _BROKEN from fault
    if not len(corners) or len(corners) % 3 or not np.isfinite(corners).all():
        raise _BROKEN
    points, index = np.unique(corners, axis=0, return_inverse=True)
    return points, index.reshape(-1, 3).astype(np.int32)


def read_3mf(content: bytes) -> list[tuple[str, Floats, Ints]]:
    """The named meshes of a 3MF file, in mm. KernelError for broken files and for zips that would unpack to too much."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            infos = archive.infolist()
            whole = sum(info.file_size for info in infos)
            if len(infos) > 1000 or whole > _MOST_UNPACKED or whole > _MOST_RATIO * max(len(content), 1):
                raise KernelError("This 3MF file would unpack to far more than it holds.", "Export it again, or use STEP.")
            models = [info for info in infos if info.filename.lower().endswith(".model")]
            texts = [_unpacked(archive, info) for info in models]
    except (zipfile.BadZipFile, OSError, NotImplementedError, RuntimeError, EOFError) as fault:
        raise _BROKEN from fault
    _refuse_many(sum(text.count(b"<triangle ") for text in texts), _MOST_BODIES * MOST_FACETS)
    meshes = [mesh for text in texts for mesh in _meshes(text)]
    if not meshes:
        raise KernelError("This 3MF file holds no mesh.", "Export the bodies themselves.")
    return meshes


def _unpacked(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """One file of the zip, never more than its head promised: the head may lie."""
    with archive.open(info) as stream:
        text = stream.read(info.file_size + 1)
    if len(text) > info.file_size:
        raise KernelError("This 3MF file unpacks to more than it says.", "Export it again, or use STEP.")
    return text


@dataclass
class _Reading:
    scale: float = 1.0
    name: str = ""
    points: list[tuple[float, float, float]] = field(default_factory=list)
    triangles: list[tuple[int, int, int]] = field(default_factory=list)
    done: list[tuple[str, Floats, Ints]] = field(default_factory=list)


def _meshes(text: bytes) -> Sequence[tuple[str, Floats, Ints]]:
    state = _Reading()
    parser = xml.parsers.expat.ParserCreate(namespace_separator=" ")

    def refuse(*_: object) -> None:
        raise KernelError("This 3MF file defines entities, which it may not.", "Export it again.")

    def begin(name: str, attributes: dict[str, str]) -> None:
        match name.rsplit(" ", 1)[-1]:
            case "model":
                state.scale = _UNITS[attributes.get("unit", "millimeter")]
            case "object":
                state.name, state.points, state.triangles = attributes.get("name", ""), [], []
            case "vertex":
                state.points.append((float(attributes["x"]), float(attributes["y"]), float(attributes["z"])))
            case "triangle":
                state.triangles.append((int(attributes["v1"]), int(attributes["v2"]), int(attributes["v3"])))

    def end(name: str) -> None:
        if name.rsplit(" ", 1)[-1] == "object" and state.triangles:
            points, triangles = np.array(state.points) * state.scale, np.array(state.triangles, dtype=np.int32)
            if not len(points) or triangles.min() < 0 or triangles.max() >= len(points) or not np.isfinite(points).all():
                raise _BROKEN
            state.done.append((cleaned(state.name).strip() or "Mesh", points, triangles))

    parser.EntityDeclHandler = refuse
    parser.StartElementHandler, parser.EndElementHandler = begin, end
    try:
        parser.Parse(text, True)
    except (xml.parsers.expat.ExpatError, KeyError, ValueError, OverflowError) as fault:
        raise _BROKEN from fault
    return state.done
