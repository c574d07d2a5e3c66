"""Meshed bodies ready to be written, with what they wear; and binary STL."""

from __future__ import annotations

import struct
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from supplecast.art.look import Look
from supplecast.geometry import Floats, Ints, Rows, Vec

if TYPE_CHECKING:
    from supplecast.art.decal import Decal
    from supplecast.art.picture import Pixels
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
class Printed:
    """A print cut to what it covers, with its picture's pixels. For formats that paint whole triangles, the `sheet` of all its
    copies, the `rows` of the mesh's triangles that it touches, and where their `corners` lie in the sheet, (k, 3, 2); `endless`
    where it goes round and meets itself.
    """

    name: str
    file: str
    cut: Decal
    pixels: Pixels
    sheet: Pixels
    rows: Rows
    corners: Floats
    endless: bool = False


@dataclass(frozen=True)
class Part:
    """A meshed body ready to be written: its name, role and triangles (mm). `looks` are what its faces look like, the first
    that of most, and `of` which each face has; without them it looks as its role does. `prints` lie on it, the later over the
    earlier.
    """

    name: str
    role: str
    mesh: Mesh
    looks: tuple[Look, ...] = ()
    of: tuple[int, ...] = ()
    prints: tuple[Printed, ...] = ()

    @property
    def worn(self) -> tuple[Look, ...]:
        return self.looks or (Look("solid", ROLE_COLOURS[self.role]),)

    @property
    def colour(self) -> str:
        return self.worn[0].colour

    @property
    def look_of(self) -> Rows:
        """Which look each triangle has, (m,)."""
        if len(self.worn) == 1:
            return np.zeros(len(self.mesh.triangles), dtype=np.int64)
        looks: Rows = np.array(self.of)[self.mesh.faces]
        return looks

    def moved(self, offset: Vec) -> Part:
        """The same, carried along."""
        mesh = replace(self.mesh, points=self.mesh.points + np.array(offset))
        prints = tuple(replace(p, cut=replace(p.cut, points=p.cut.points + np.array(offset))) for p in self.prints)
        return replace(self, mesh=mesh, prints=prints)


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
