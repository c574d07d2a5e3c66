"""A wall by rays and by balls, from triangles alone: rays by Möller and Trumbore's test, balls with trimesh's nearest point."""

from __future__ import annotations

import numpy as np
from trimesh.triangles import closest_point

from supplecast.geometry import Floats
from supplecast.kernel import mesh
from supplecast.kernel.meshing.face_samples import FaceSamples
from supplecast.kernel.shapes.history import Made
from supplecast.kernel.shapes.shape import Solid

_FINE = 100  # the wall over the chord error


def walls(body: Solid, made: Made, opened: list[int], wall: float, count: int = 150) -> tuple[Floats, Floats]:
    """Wall in mm along rays, and by shrinking balls (Ma, Bae, Choi 2012), from points spread over the kept faces away from
    edges: two walls from any open face, and with no other face nearer to where the wall ends.
    """
    kept = [face for face in range(body.face_count) if face not in opened]
    skin_of = FaceSamples(body, kept, wall / _FINE)
    strewn = skin_of.strewn(count)
    clear = skin_of.nearest(strewn.points - wall * strewn.normals).away > wall * (1 - 1e-3)
    clear &= FaceSamples(body, opened, wall / _FINE).nearest(strewn.points).away > 2 * wall
    starts, directions = strewn.points[clear], -strewn.normals[clear]
    whole = mesh.tessellate(made.solid, wall / _FINE, 0.2)
    rays = _hit(starts + wall / 50 * directions, directions, whole.points[whole.triangles]) + wall / 50
    inner = [face for face, row in enumerate(made.origins) if any(origin.role == "inner" for origin in row)]
    ends = whole.face_ends
    rows = np.concatenate([np.arange(ends[face - 1] if face else 0, ends[face]) for face in inner])
    skin = whole.points[whole.triangles[rows]]
    radii = np.full(len(starts), 3 * wall)
    for _ in range(5):
        between = _nearest(starts + radii[:, None] * directions, skin) - starts
        away = np.linalg.norm(between - radii[:, None] * directions, axis=1)
        touching = (between**2).sum(axis=1) / (2 * np.maximum((between * directions).sum(axis=1), 1e-9))
        radii = np.where(away < radii - 1e-9, np.minimum(touching, radii), radii)
    return rays, 2 * radii


def _hit(starts: Floats, directions: Floats, corners: Floats) -> Floats:
    """How far along its way each start meets a triangle (Möller, Trumbore 1997)."""
    a, ab, ac = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    found = np.full(len(starts), np.inf)
    for row, (start, direction) in enumerate(zip(starts, directions, strict=True)):
        p = np.cross(direction, ac)
        whole = (ab * p).sum(axis=1)
        met = np.abs(whole) > 1e-12
        whole = np.where(met, whole, 1.0)
        u = ((start - a) * p).sum(axis=1) / whole
        q = np.cross(start - a, ab)
        v, t = (q @ direction) / whole, (q * ac).sum(axis=1) / whole
        good = met & (u > -1e-9) & (v > -1e-9) & (u + v < 1 + 1e-9) & (t > 0)
        found[row] = t[good].min(initial=np.inf)
    return found


def _nearest(places: Floats, corners: Floats) -> Floats:
    found = np.empty_like(places)
    for row, place in enumerate(places):
        on = closest_point(corners, np.broadcast_to(place, (len(corners), 3)))
        found[row] = on[np.linalg.norm(on - place, axis=1).argmin()]
    return found
