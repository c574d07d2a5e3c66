"""How far a body's skin is off a mesh of the same thing, such as a scan of it: signed, outwards counted up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from supplecast import kernel
from supplecast.geometry import Bools, Floats, Rows, Vec, vec
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import opening
from supplecast.molding.sampled import Sampled
from supplecast.search import Triangles

FAR = 5.0
"""Mm from which on there is no mesh to be compared with."""
_ALIKE = 0.5  # of the smaller one's volume that both must have in common
_WAYS = np.array([[0.577, 0.211, 0.789], [-0.353, 0.866, -0.353], [0.267, -0.535, -0.802]])  # askew to most faces
_SKINS: Memo[Triangles] = Memo("triangles to be compared with")


@dataclass(frozen=True)
class Deviation:
    """How far a skin lies beyond a mesh and behind it at the most, mm, and where; the `share` of its area that lies within
    `close`; and how far the mesh goes beyond the skin, either way, and where.
    """

    beyond: float
    behind: float
    places: tuple[Vec, Vec]
    share: float
    missed: float
    missed_at: Vec


def alike(body: Solid, mesh: MeshBody) -> bool:
    """Whether a mesh is of the same thing as a body: most of the smaller one is in both, by their boxes where it is open."""
    a, b = kernel.measure.loose_box(body), mesh.box()
    sizes = np.maximum(np.minimum(a.high, b.high) - np.maximum(a.low, b.low), 0.0)
    least = min(np.prod(np.subtract(box.high, box.low)) for box in (a, b))
    if float(np.prod(sizes)) <= _ALIKE * least:
        return False
    if not mesh.tight:
        return True
    one, other = opening.meshed(body), opening.meshed(mesh)
    return opening.shared(one, other) > _ALIKE * min(kernel.measure.rough_volume(body), mesh.mass().volume)


def signed(places: Floats, meshes: Sequence[MeshBody]) -> Floats:
    """How far (n, 3) places are off the nearest of some meshes, mm, less than 0 inside of it; infinite where none is near."""
    best = np.full(len(places), np.inf)
    for mesh in meshes:
        skin = _skin(mesh)
        near = skin.nearest(places, FAR)
        inside = _inside(skin, places) if mesh.tight else _behind(skin, places, near.feet, near.triangles)
        away = np.where(inside, -near.away, near.away)
        best = np.where(near.away < np.abs(best), away, best)
    return best


def _skin(mesh: MeshBody) -> Triangles:
    return _SKINS.of(mesh, lambda: Triangles(mesh.corners))


def _inside(skin: Triangles, places: Floats) -> Bools:
    """By what rays meet first: the inside of the skin, in at least two of three directions."""
    votes = np.zeros(len(places), dtype=int)
    for way in _WAYS:
        hit, _ = skin.hits(places, way)
        votes += (hit >= 0) & (skin.normals[hit] @ way > 0)
    return np.asarray(votes >= 2)


def _behind(skin: Triangles, places: Floats, feet: Floats, triangles: Rows) -> Bools:
    """Of an open mesh: on which side of the nearest triangle a place lies."""
    return np.asarray(np.einsum("ij,ij->i", places - feet, skin.normals[triangles]) < 0)


def deviation(places: Sampled, mesh: MeshBody, close: float) -> Deviation:
    """How far a body's skin is off a mesh, and the mesh off it."""
    off = signed(places.middles, [mesh])
    found = np.isfinite(off)
    high, low = np.where(found, off, -np.inf), np.where(found, off, np.inf)
    back = places.whole.nearest(mesh.points).away
    at = int(back.argmax())
    return Deviation(
        max(float(high.max()), 0.0),
        max(-float(low.min()), 0.0),
        (vec(places.middles[high.argmax()]), vec(places.middles[low.argmin()])),
        float(places.areas[np.abs(off) <= close].sum() / max(places.area, 1e-300)),
        float(back[at]),
        vec(mesh.points[at]),
    )
