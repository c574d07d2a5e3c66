"""Triangles that some faces are measured by."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from supplecast.geometry import Floats, Ints, Rows


def chords(turns: Floats, radii: Floats, fine: float, angle: float) -> Rows:
    """Into how many chords arcs of `turns` rad are cut so that none is more than `fine` mm off, or wider than `angle` rad."""
    steps = 2 * np.arccos(np.maximum(1 - fine / np.maximum(radii, fine), 0.0))
    counts: Rows = np.maximum(np.ceil(turns / np.minimum(steps, angle)), 1).astype(np.int64)
    return counts


@dataclass(frozen=True)
class Triangulation:
    """Corners (m, 3, 3) in mm, counter-clockwise from outside, the normals out of the material there (m, 3, 3), and the row
    (m,) of the face that each triangle belongs to.
    """

    corners: Floats
    normals: Floats
    rows: Rows

    @classmethod
    def none(cls) -> Triangulation:
        return cls(np.empty((0, 3, 3)), np.empty((0, 3, 3)), np.empty(0, dtype=np.int64))

    @classmethod
    def of_face(cls, row: int, points: Floats, normals: Floats, triangles: Ints) -> Triangulation:
        """Those of one face, by its row: points and normals (n, 3), and triangles among them (m, 3)."""
        return cls(points[triangles], normals[triangles], np.full(len(triangles), row))

    @classmethod
    def joined(cls, several: Iterable[Triangulation]) -> Triangulation:
        """All of several, one after the other."""
        parts = [part for part in several if len(part.rows)]
        if not parts:
            return cls.none()
        corners, normals = (np.concatenate(one) for one in ([p.corners for p in parts], [p.normals for p in parts]))
        return cls(corners, normals, np.concatenate([part.rows for part in parts]))
