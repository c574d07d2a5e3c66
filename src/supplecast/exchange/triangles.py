"""Triangle files of bodies: binary STL, 3MF and GLB."""

from __future__ import annotations

import io
import json
import struct
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import quoteattr

import numpy as np

from supplecast.geometry import Floats, Ints, Rows
from supplecast.text import cleaned

if TYPE_CHECKING:
    from supplecast.kernel.meshing.mesh import Mesh

ROLE_COLOURS = {
    "part": "#D9C7A3",
    "linked": "#D9C7A3",
    "molded": "#D9C7A3",
    "surface": "#7FA8B8",
    "mesh": "#A9A27C",
    "neighbour": "#9AA7A4",
    "shot": "#D9C7A3",
    "block": "#B9C3C0",
    "cavity": "#7A5BB5",
    "core": "#2A8C82",
    "cavity insert": "#9C84C9",
    "core insert": "#57AAA1",
    "core pin": "#3F7F78",
    "lifter": "#A8607C",
    "stripper": "#8C7AA6",
    "slide": "#B4527A",
    "core slide": "#B4527A",
    "insert": "#8A97A8",
    "ejector": "#5C6B73",
    "fixed base": "#A8AEBE",
    "moving base": "#9FB0AC",
    "ejection": "#8C979B",
    "feed": "#E0762F",
}


@dataclass(frozen=True)
class Part:
    """A meshed body ready to be written: its name, role and triangles (mm); `own` is a colour it was given by hand."""

    name: str
    role: str
    mesh: Mesh
    own: str = ""

    @property
    def colour(self) -> str:
        return self.own or ROLE_COLOURS[self.role]


def write_stl(parts: Sequence[Part]) -> bytes:
    """Binary STL, mm, all parts in one list of facets. The header does not begin with “solid”, as readers expect."""
    facets = np.concatenate([_facets(*part.mesh.welded()) for part in parts])
    header = b"Supple Cast binary STL, mm".ljust(80, b" ")
    return header + struct.pack("<I", len(facets)) + facets.tobytes()


_FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def _facets(points: Floats, triangles: Ints) -> Any:
    corners = points[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    facets = np.zeros(len(triangles), dtype=_FACET)
    facets["normal"] = normals / np.where(lengths > 0, lengths, 1)
    facets["corners"] = corners
    return facets


_CONTENT_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
_RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="rel0" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)


def write_3mf(parts: Sequence[Part]) -> bytes:
    """3MF core package, mm: one object with name and colour for each part."""
    materials = "".join(
        f"<base name={quoteattr(cleaned(part.name))} displaycolor={quoteattr(part.colour.upper() + 'FF')}/>" for part in parts
    )
    objects, items = [], []
    for number, part in enumerate(parts):
        points, triangles = part.mesh.welded()
        vertices = "".join(f'<vertex x="{x:.9g}" y="{y:.9g}" z="{z:.9g}"/>' for x, y, z in points.tolist())
        faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in triangles.tolist())
        objects.append(
            f'<object id="{number + 2}" type="model" name={quoteattr(cleaned(part.name))} pid="1" pindex="{number}">'
            f"<mesh><vertices>{vertices}</vertices><triangles>{faces}</triangles></mesh></object>"
        )
        items.append(f'<item objectid="{number + 2}"/>')
    model = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en-US" '
        'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
        '<metadata name="Application">Supple Cast</metadata>'
        f'<resources><basematerials id="1">{materials}</basematerials>{"".join(objects)}</resources>'
        f"<build>{''.join(items)}</build></model>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for name, text in (
            ("[Content_Types].xml", _CONTENT_TYPES),
            ("_rels/.rels", _RELATIONS),
            ("3D/3dmodel.model", model),
        ):
            info = zipfile.ZipInfo(name, date_time=(2020, 1, 1, 0, 0, 0))
            info.compress_type = zipfile.ZIP_DEFLATED
            package.writestr(info, text)
    return out.getvalue()


def write_glb(parts: Sequence[Part], *, with_edges: bool = True) -> bytes:
    """glTF 2.0 binary: one mesh a part, in metres and y up as the format asks, face and edge ranges in `extras`.

    `extras.faceEnds[k]` is the number of triangles up to face k; `extras.edgeEnds[k]` the number of segment points up to
    edge k. The viewer turns the root node's matrix back, so that it works in mm and z up.
    """
    writer = _Glb()
    nodes = []
    for part in parts:
        mesh = part.mesh
        attributes = {
            "POSITION": writer.floats(mesh.points, bounds=True),
            "NORMAL": writer.floats(mesh.normals),
        }
        primitives: list[dict[str, Any]] = [
            {
                "attributes": attributes,
                "indices": writer.indices(mesh.triangles),
                "material": writer.material(part.colour),
                "extras": {"faceEnds": mesh.face_ends.tolist()},
            }
        ]
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
        nodes.append({"name": cleaned(part.name), "mesh": writer.mesh(cleaned(part.name), primitives)})
    return writer.finish(nodes)


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

    def _view(self, content: bytes, target: int) -> int:
        self.binary += b"\0" * (-len(self.binary) % 4)
        self.views.append({"buffer": 0, "byteOffset": len(self.binary), "byteLength": len(content), "target": target})
        self.binary += content
        return len(self.views) - 1

    def floats(self, rows: Floats, *, bounds: bool = False) -> int:
        values = np.ascontiguousarray(rows, dtype="<f4")
        accessor: dict[str, Any] = {
            "bufferView": self._view(values.tobytes(), 34962),
            "componentType": 5126,
            "count": len(values),
            "type": "VEC3",
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

    def material(self, colour: str) -> int:
        channels = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
        self.materials.append(
            {"pbrMetallicRoughness": {"baseColorFactor": [*linear, 1.0], "metallicFactor": 0.0, "roughnessFactor": 0.8}}
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
        content = {
            "asset": {"version": "2.0", "generator": "Supple Cast"},
            "scene": 0,
            "scenes": [{"nodes": [0]}],
            "nodes": [root, *nodes],
            "meshes": self.meshes,
            "materials": self.materials,
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
