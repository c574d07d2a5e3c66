"""Triangles from STL, 3MF and OBJ files.

A 3MF file is a zip: what it would unpack to is limited before and while it is read, and its XML may not define entities.
"""

from __future__ import annotations

import io
import re
import struct
import xml.parsers.expat
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Ints
from supplecast.text import cleaned

MOST_TRIANGLES = 300_000
"""Of all meshes in a file."""
_MOST_IN_TEXT = 100_000
_MOST_UNPACKED = 150 * 2**20
_MOST_RATIO = 200
_LONGEST_TEXT = 40 * 2**20  # bytes: a facet in text takes some 250
_MOST_BODIES = 40
_UNITS = {"micron": 1e-3, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "foot": 304.8, "meter": 1000.0}
_BROKEN = KernelError("This file of triangles is broken.", "Export it again from where it was made.")


def _refuse_many(count: int, most: int = MOST_TRIANGLES) -> None:
    if count > most:
        raise KernelError(f"This mesh has {count} triangles; up to {most} can be read.", "Thin the mesh out.")


class FiledMesh(NamedTuple):
    """A mesh in a file: its name, points (n, 3) mm and triangles (m, 3)."""

    name: str
    points: Floats
    triangles: Ints


def kind_of(content: bytes) -> str:
    """What kind of file of triangles this is, told by what is in it: stl, 3mf, obj, or nothing."""
    if content.startswith(b"PK\x03\x04"):
        return "3mf"
    start = content[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"solid") or len(content) == 84 + 50 * int.from_bytes(content[80:84], "little"):
        return "stl"
    return "obj" if _OBJ.match(start) and re.search(rb"^f\s", content, re.MULTILINE) else ""


_OBJ = re.compile(rb"(#[^\n]*\n|mtllib [^\n]*\n|\s)*(o |g |s |v |vn |vt |usemtl )")


def read_meshes(content: bytes, scale: float = 1.0) -> list[FiledMesh]:
    """The meshes in an STL, 3MF or OBJ file, told apart by what is in it. STL and OBJ know no unit: theirs is `scale` mm."""
    match kind_of(content):
        case "3mf":
            return [FiledMesh(*one) for one in read_3mf(content)]
        case "stl":
            points, triangles = read_stl(content)
            return [FiledMesh("Mesh", points * scale, triangles)]
        case "obj":
            return [FiledMesh(name, points * scale, triangles) for name, points, triangles in read_obj(content)]
    raise KernelError("This file holds no triangles.", "Take it as filed.")


def read_obj(content: bytes) -> list[FiledMesh]:
    """The objects of an OBJ file as it is filed, its polygons as fans of triangles; colours and normals are passed over."""
    if len(content) > _LONGEST_TEXT:
        raise _BROKEN
    points: list[tuple[float, float, float]] = []
    objects: list[tuple[str, list[tuple[int, int, int]]]] = [("Mesh", [])]
    count = 0
    try:
        for line in content.decode("utf-8", "replace").splitlines():
            word, _, rest = line.strip().partition(" ")
            if word == "v":
                x, y, z = rest.split()[:3]
                points.append((float(x), float(y), float(z)))
            elif word == "o":
                objects.append((cleaned(rest).strip()[:80] or "Mesh", []))
            elif word == "f":
                ring = [int(corner.split("/")[0]) for corner in rest.split()]
                ring = [corner - 1 if corner > 0 else len(points) + corner for corner in ring]
                count += len(ring) - 2
                _refuse_many(count)
                objects[-1][1].extend((ring[0], b, c) for b, c in zip(ring[1:], ring[2:], strict=False))
    except ValueError as fault:
        raise _BROKEN from fault
    places = np.array(points, dtype=np.float64).reshape(-1, 3)
    meshes = []
    for name, rows in objects:
        triangles = np.array(rows, dtype=np.int64).reshape(-1, 3)
        if not len(triangles):
            continue
        if triangles.min() < 0 or triangles.max() >= len(places) or not np.isfinite(places).all():
            raise _BROKEN
        used, mine = np.unique(triangles, return_inverse=True)
        meshes.append(FiledMesh(name, places[used], mine.reshape(-1, 3).astype(np.int32)))
    if not meshes:
        raise KernelError("This OBJ file holds no mesh.", "Export the bodies themselves.")
    if len(meshes) > _MOST_BODIES:
        raise KernelError(f"This OBJ file holds {len(meshes)} objects; up to {_MOST_BODIES} can be read.", "Export fewer.")
    return meshes


def read_stl(content: bytes) -> tuple[Floats, Ints]:
    """Points in mm (STL has no unit) and triangles of a binary or text STL."""
    count = struct.unpack_from("<I", content, 80)[0] if len(content) >= 84 else -1
    if count >= 0 and len(content) == 84 + 50 * count:
        _refuse_many(count)
        rows = np.frombuffer(content, dtype=np.dtype([("n", "<f4", 3), ("p", "<f4", (3, 3)), ("a", "<u2")]), offset=84)
        corners = rows["p"].astype(float).reshape(-1, 3)
    else:
        _refuse_many(content.count(b"endfacet"), _MOST_IN_TEXT)
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
    _refuse_many(sum(text.count(b"<triangle ") for text in texts))
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
