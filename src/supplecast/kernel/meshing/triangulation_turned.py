"""Triangles of turned faces (cylinders, cones, balls, rings) that are whole rectangles in their parameters.

Rounds, bosses and bores nearly all are. Their grids are laid by formula, all at once, far quicker than the kernel meshes them,
and with less than half of its triangles. They do not meet the triangles of other faces point by point: for measuring, not
showing.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numba import njit
from OCP.TopAbs import TopAbs_Orientation

from supplecast.kernel.meshing.analytic_surfaces import ARCHED, FLAT, Surfaces
from supplecast.kernel.meshing.rectangle import rectangle
from supplecast.kernel.meshing.triangulation import Triangulation, chords


def triangulate(faces: Sequence[Any], surfaces: Surfaces, fine: float, angle: float) -> Triangulation:
    """Triangles within `fine` mm of those faces of the kernel that are turned and whole, no more than `angle` rad wide each.

    `surfaces` is the table of `faces`, whose rows are told.
    """
    turned = np.flatnonzero((surfaces.forms > FLAT) & (surfaces.off == 0)).tolist()
    spans = {row: span for row in turned if (span := rectangle(faces[row])) is not None}
    if not spans:
        return Triangulation.none()
    rows = np.array(list(spans))
    u0, u1, v0, v1 = np.array(list(spans.values())).T
    reaches = np.array([surfaces.half(rows, v)[0] for v in (v0, (v0 + v1) / 2, v1)])
    # Half of what a triangle may be off is for the one way, half for the other.
    across = chords(u1 - u0, np.abs(reaches).max(axis=0), fine / 2, angle)
    along = np.where(surfaces.forms[rows] == ARCHED, chords(v1 - v0, surfaces.bends[rows], fine / 2, angle), 1)

    inwards = np.array([faces[row].Orientation() == TopAbs_Orientation.TopAbs_REVERSED for row in rows])
    # Beyond its apex a cone's first parameter runs the other way round.
    senses = np.where(inwards, -1.0, 1.0) * np.where(reaches[0] + reaches[1] < 0, -1.0, 1.0)

    of = np.repeat(np.arange(len(rows)), along + 1)
    station = np.arange(len(of)) - (np.cumsum(along + 1) - along - 1)[of]
    reach, rise, *direction = surfaces.half(rows[of], v0[of] + (v1 - v0)[of] * station / along[of])
    section = np.column_stack([reach, rise, *(senses[of] * one for one in direction)])
    triangles = 2 * across * along
    corners, normals = np.empty((2, int(triangles.sum()), 3, 3))
    frames = np.concatenate([surfaces.places[rows, None], surfaces.axes[rows]], axis=1)
    _lay(frames, np.column_stack([u0, u1]), across, along, section, inwards, corners, normals)
    return Triangulation(corners, normals, np.repeat(rows, triangles))


def warm() -> None:
    """Compile what lays the grids, or load what was compiled before: once, ahead of the first."""
    one, corners = np.ones(1, dtype=np.int64), np.empty((2, 3, 3))
    _lay(np.zeros((1, 4, 3)), np.zeros((1, 2)), one, one, np.zeros((2, 4)), one == 0, corners, corners)


@njit(cache=True)
def _lay(frames, turns, across, along, section, inwards, corners, normals):  # type: ignore[no-untyped-def]
    """Fill in the triangles of each face: its half section, one row of `section` a station, turned step by step."""
    at = first = 0
    for face in range(len(frames)):
        (start, end), high = turns[face], along[face] + 1
        points, directions = np.empty((2, high, 3)), np.empty((2, high, 3))
        for i in range(across[face] + 1):
            turn = start + (end - start) * i / across[face]
            c, s, new = np.cos(turn), np.sin(turn), i % 2
            for k in range(high):
                reach, rise, out, up = section[first + k]
                for d in range(3):
                    aside = c * frames[face, 1, d] + s * frames[face, 2, d]
                    points[new, k, d] = frames[face, 0, d] + reach * aside + rise * frames[face, 3, d]
                    directions[new, k, d] = out * aside + up * frames[face, 3, d]
            for k in range(high - 1 if i else 0):
                for steps in (((1 - new, k), (new, k), (new, k + 1)), ((1 - new, k), (new, k + 1), (1 - new, k + 1))):
                    for corner in range(3):
                        a, b = steps[2 - corner] if inwards[face] else steps[corner]
                        for d in range(3):
                            corners[at, corner, d], normals[at, corner, d] = points[a, b, d], directions[a, b, d]
                    at += 1
        first += high
