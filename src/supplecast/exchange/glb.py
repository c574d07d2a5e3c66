"""Bodies as glTF 2.0 binary: for viewers, for the pages, and read back from what the pages are given."""

from __future__ import annotations

import json
import struct
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from supplecast.art.look import Look
from supplecast.art.picture import as_png
from supplecast.exchange.triangles import Part, Printed
from supplecast.geometry import Floats, Ints, Rows
from supplecast.text import cleaned

if TYPE_CHECKING:
    from supplecast.kernel.meshing.mesh import Mesh

_OVER = 0.01  # mm that prints stand over the skin, since viewers draw what lies in one plane in any order
_SAMPLER = {"magFilter": 9729, "minFilter": 9987, "wrapS": 33071, "wrapT": 33071}


def write_glb(parts: Sequence[Part], *, with_edges: bool = True) -> bytes:
    """glTF 2.0 binary: one mesh a part, in metres and y up as the format asks, face and edge ranges in `extras`.

    `extras.faceEnds[k]` is the number of triangles up to face k; `extras.edgeEnds[k]` the number of segment points up to
    edge k. Prints are primitives of their own, with their pictures inside. The viewer turns the root node's matrix back, so
    that it works in mm and z up.
    """
    writer = _Glb()
    nodes = []
    for part in parts:
        mesh = part.mesh
        attributes = {
            "POSITION": writer.floats(mesh.points, bounds=True),
            "NORMAL": writer.floats(mesh.normals),
        }
        primitives = _faces(writer, part, attributes)
        if with_edges:
            segments, ends = _segments(mesh)
            if len(segments):
                primitives.append(
                    {
                        "mode": 1,
                        "attributes": {"POSITION": writer.floats(segments, bounds=True)},
                        "extras": {"edgeEnds": ends},
                    }
                )
        primitives += [_print(writer, one) for one in part.prints if len(one.cut.points)]
        nodes.append({"name": cleaned(part.name), "mesh": writer.mesh(cleaned(part.name), primitives)})
    return writer.finish(nodes)


def _faces(writer: _Glb, part: Part, attributes: dict[str, int]) -> list[dict[str, Any]]:
    """A primitive for each look, on the same points."""
    mesh, of = part.mesh, part.look_of
    if len(part.worn) == 1:
        return [
            {
                "attributes": attributes,
                "indices": writer.indices(mesh.triangles),
                "material": writer.material(part.worn[0]),
                "extras": {"faceEnds": mesh.face_ends.tolist()},
            }
        ]
    used = [number for number in range(len(part.worn)) if (of == number).any()]
    return [
        {
            "attributes": attributes,
            "indices": writer.indices(mesh.triangles[of == number]),
            "material": writer.material(part.worn[number]),
        }
        for number in used
    ]


def _print(writer: _Glb, one: Printed) -> dict[str, Any]:
    """A print a hair over the skin, with its picture inside the file."""
    cut = one.cut
    return {
        "attributes": {
            "POSITION": writer.floats(cut.points + _OVER * cut.normals, bounds=True),
            "NORMAL": writer.floats(cut.normals),
            "TEXCOORD_0": writer.floats(cut.places),
        },
        "indices": writer.indices(np.arange(len(cut.points), dtype=np.int32).reshape(-1, 3)),
        "material": writer.picture(one.file, as_png(one.pixels)),
    }


def _segments(mesh: Mesh) -> tuple[Floats, list[int]]:
    rows, ends, count = [], [], 0
    for line in mesh.edges:
        if len(line) > 1:
            rows.append(np.repeat(line, 2, axis=0)[1:-1])
            count += 2 * (len(line) - 1)
        ends.append(count)
    return (np.concatenate(rows) if rows else np.empty((0, 3))), ends


@dataclass(frozen=True)
class Skin:
    """Triangles read back from a GLB written here, in mm: points and normals (n, 3), triangles (m, 3), and of which face each
    is, (m,).
    """

    points: Floats
    normals: Floats
    triangles: Ints
    faces: Rows


def read_skin(content: bytes) -> Skin:
    """The first mesh of a GLB written by `write_glb`."""
    length = struct.unpack_from("<I", content, 12)[0]
    head = json.loads(content[20 : 20 + length])
    binary = content[28 + length :]
    first = head["meshes"][0]["primitives"][0]

    def rows(index: int, kind: str, width: int) -> Any:
        accessor = head["accessors"][index]
        start = head["bufferViews"][accessor["bufferView"]]["byteOffset"]
        return np.frombuffer(binary, kind, accessor["count"] * (1 if kind == "<u4" else width), start).reshape(-1, width)

    triangles = rows(first["indices"], "<u4", 3).astype(np.int32)
    ends = np.array(first["extras"]["faceEnds"])
    faces = np.repeat(np.arange(len(ends)), np.diff(ends, prepend=0))
    points, normals = (rows(first["attributes"][name], "<f4", 3).astype(np.float64) for name in ("POSITION", "NORMAL"))
    return Skin(points, normals, triangles, faces)


class _Glb:
    def __init__(self) -> None:
        self.binary = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []
        self.meshes: list[dict[str, Any]] = []
        self.materials: list[dict[str, Any]] = []
        self.images: list[dict[str, Any]] = []
        self.textures: list[dict[str, Any]] = []

    def _view(self, content: bytes, target: int | None = None) -> int:
        self.binary += b"\0" * (-len(self.binary) % 4)
        view = {"buffer": 0, "byteOffset": len(self.binary), "byteLength": len(content)}
        self.views.append(view if target is None else {**view, "target": target})
        self.binary += content
        return len(self.views) - 1

    def floats(self, rows: Floats, *, bounds: bool = False) -> int:
        values = np.ascontiguousarray(rows, dtype="<f4")
        accessor: dict[str, Any] = {
            "bufferView": self._view(values.tobytes(), 34962),
            "componentType": 5126,
            "count": len(values),
            "type": f"VEC{values.shape[1]}",
        }
        if bounds:
            accessor["min"], accessor["max"] = values.min(axis=0).tolist(), values.max(axis=0).tolist()
        self.accessors.append(accessor)
        return len(self.accessors) - 1

    def indices(self, triangles: Ints) -> int:
        values = np.ascontiguousarray(triangles, dtype="<u4")
        self.accessors.append(
            {
                "bufferView": self._view(values.tobytes(), 34963),
                "componentType": 5125,
                "count": values.size,
                "type": "SCALAR",
            }
        )
        return len(self.accessors) - 1

    def material(self, look: Look) -> int:
        material: dict[str, Any] = {
            "pbrMetallicRoughness": {
                "baseColorFactor": [*look.shade, look.cover],
                "metallicFactor": 1.0 if look.kind == "metal" else 0.0,
                "roughnessFactor": look.roughness,
            }
        }
        if look.cover < 1:
            material |= {"alphaMode": "BLEND", "doubleSided": True}
        self.materials.append(material)
        return len(self.materials) - 1

    def picture(self, name: str, content: bytes) -> int:
        """A material of a picture that is kept in the file."""
        self.images.append({"name": cleaned(name), "bufferView": self._view(content), "mimeType": "image/png"})
        self.textures.append({"source": len(self.images) - 1, "sampler": 0})
        self.materials.append(
            {
                "pbrMetallicRoughness": {
                    "baseColorTexture": {"index": len(self.textures) - 1},
                    "metallicFactor": 0.0,
                    "roughnessFactor": 0.5,
                },
                "alphaMode": "BLEND",
            }
        )
        return len(self.materials) - 1

    def mesh(self, name: str, primitives: list[dict[str, Any]]) -> int:
        self.meshes.append({"name": name, "primitives": primitives})
        return len(self.meshes) - 1

    def finish(self, nodes: list[dict[str, Any]]) -> bytes:
        # mm, z up → m, y up
        root = {"children": list(range(1, len(nodes) + 1)), "matrix": [
            0.001, 0, 0, 0, 0, 0, -0.001, 0, 0, 0.001, 0, 0, 0, 0, 0, 1,
        ]}  # fmt: skip
        pictures = {"images": self.images, "textures": self.textures, "samplers": [_SAMPLER]} if self.images else {}
        content = {
            "asset": {"version": "2.0", "generator": "Supple Cast"},
            "scene": 0,
            "scenes": [{"nodes": [0]}],
            "nodes": [root, *nodes],
            "meshes": self.meshes,
            "materials": self.materials,
            **pictures,
            "accessors": self.accessors,
            "bufferViews": self.views,
            "buffers": [{"byteLength": len(self.binary) + (-len(self.binary) % 4)}],
        }
        text = json.dumps(content, separators=(",", ":"), ensure_ascii=False).encode()
        text += b" " * (-len(text) % 4)
        binary = bytes(self.binary) + b"\0" * (-len(self.binary) % 4)
        total = 12 + 8 + len(text) + 8 + len(binary)
        return (
            struct.pack("<4sII", b"glTF", 2, total)
            + struct.pack("<I4s", len(text), b"JSON")
            + text
            + struct.pack("<I4s", len(binary), b"BIN\0")
            + binary
        )
