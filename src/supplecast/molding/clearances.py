"""How bodies lie to each other: what two of them have in common, or how far they are apart.

Triangles tell quickly which bodies, and which of their faces, can matter; what is told in the end comes from the exact shapes.
"""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from supplecast import kernel
from supplecast.errors import KernelError
from supplecast.geometry import Floats, Vec, vec
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import opening
from supplecast.search import Triangles

NEAR = 5.0
"""How far apart, in mm, bodies are still looked at as neighbours, if no more is asked."""
_TOUCHING = 1e-6
_CHORD = 0.1  # mm: what two meshes together may be off their bodies


@dataclass(frozen=True)
class Meeting:
    """Two bodies that overlap by `volume` mm³, `exact` or by their triangles, or that are `away` mm apart; where that is on
    the one and on the other, and which faces of both.
    """

    away: float
    volume: float
    exact: bool
    places: tuple[Vec, Vec]
    faces: tuple[tuple[int, ...], tuple[int, ...]]


_FINE, _ANGLE = 0.01, 0.1
_SKINS: Memo[Triangles] = Memo("fine triangles for the gaps to it")
_MEETINGS: Memo[WeakKeyDictionary[Solid, tuple[float, Meeting | None]]] = Memo("how it lies to other bodies")


def meetings(
    bodies: Mapping[str, Solid], within: float = NEAR, same: Collection[tuple[str, str]] = ()
) -> dict[tuple[str, str], Meeting]:
    """Every pair of bodies that overlaps or is no more than `within` mm apart, by their ids in the order given; but those that
    are the `same` thing, told either way round.

    Pairs are remembered as long as both bodies are there: after a change of one only its pairs are worked out again.
    """
    pairs = (pair for pair in itertools.combinations(bodies, 2) if pair not in same and pair[::-1] not in same)
    found = {(a, b): meeting(bodies[a], bodies[b], within) for a, b in pairs}
    return {pair: met for pair, met in found.items() if met is not None}


def meeting(a: Solid, b: Solid, within: float = NEAR) -> Meeting | None:
    """How two bodies lie to each other; None where they are more than `within` mm apart."""
    known = _MEETINGS.of(a, WeakKeyDictionary)
    looked, met = known.get(b, (-1.0, None))
    if looked < within and met is None:
        met = _met(a, b, within)
        known[b] = within, met
    return met if met is not None and met.away <= within else None


def _met(a: Solid, b: Solid, within: float) -> Meeting | None:
    if kernel.nearness.boxes_apart(a, b) > within:
        return None
    one, other = opening.meshed(a), opening.meshed(b)
    volume = opening.shared(one, other) if opening.near(one, other) else 0.0
    if volume > opening.allowed(one, other):
        return _overlap(a, b, volume)
    meshes = isinstance(a, MeshBody) or isinstance(b, MeshBody)
    # Looking for triangles no farther off than that takes a hundredth of the time that the exact distance would take.
    rough = one.manifold.min_gap(other.manifold, within + _CHORD)
    if rough >= within + _CHORD:
        return None
    return _apart_by_triangles(one, other, rough) if meshes else _apart(one, other, rough)


def _overlap(a: Solid, b: Solid, rough: float) -> Meeting:
    """What two bodies have in common; by the triangles alone where the kernel does not find it."""
    try:
        found = kernel.contact.overlap(a, b)
    except KernelError:
        found = None
    if found is None:
        foot = kernel.measure.loose_box(a).centre
        return Meeting(0.0, rough, False, (foot, foot), ((), ()))
    return Meeting(0.0, found.volume, True, (found.place, found.place), found.faces)


def _apart(one: opening.Meshed, other: opening.Meshed, rough: float) -> Meeting:
    """The exact least distance: between the pairs of faces whose boxes let them be nearest, the likeliest first."""
    a, b = one.solid, other.solid
    reach = rough + _CHORD
    boxes = _face_boxes(one), _face_boxes(other)
    gaps = np.maximum(boxes[0][0][:, None] - boxes[1][1][None], boxes[1][0][None] - boxes[0][1][:, None])
    apart = np.linalg.norm(np.maximum(gaps, 0.0), axis=2)
    likely = _likely(one, other)[:, None] + _likely(other, one)[None]
    pairs = np.argwhere(apart <= reach)
    best: tuple[float, Vec, Vec, int, int] | None = None
    for i, j in pairs[np.argsort(likely[apart <= reach])].tolist():
        if best is not None and (best[0] < _TOUCHING or apart[i, j] >= best[0]):
            continue
        away, foot, tip = kernel.nearness.between_faces(a, i, b, j)
        if best is None or away < best[0]:
            best = away, foot, tip, i, j
    assert best is not None, "the triangles are nearer to each other than the boxes of their faces"
    return Meeting(best[0], 0.0, True, (best[1], best[2]), ((best[3],), (best[4],)))


def _apart_by_triangles(one: opening.Meshed, other: opening.Meshed, away: float) -> Meeting:
    """The least distance of triangles, where a body has nothing more exact, and where that is, by their corners and middles."""
    best: tuple[float, Vec, Vec, int, int] | None = None
    for mine, theirs, swapped in ((one, other, False), (other, one, True)):
        corners = mine.triangles.corners
        places = np.concatenate([corners.reshape(-1, 3), corners.mean(axis=1)])
        near = theirs.triangles.nearest(places)
        at = int(near.away.argmin())
        if best is None or near.away[at] < best[0]:
            own = int(mine.faces[at // 3 if at < 3 * len(corners) else at - 3 * len(corners)])
            pair = vec(places[at]), vec(near.feet[at])
            faces = own, int(theirs.faces[near.triangles[at]])
            best = (float(near.away[at]), *(pair[::-1] if swapped else pair), *(faces[::-1] if swapped else faces))
    assert best is not None
    return Meeting(away, 0.0, False, (best[1], best[2]), ((best[3],), (best[4],)))


def _face_boxes(body: opening.Meshed) -> tuple[Floats, Floats]:
    """The corners of a box about each face, (faces, 3) mm each, a little larger than its triangles."""
    corners = body.triangles.corners
    low = np.full((body.solid.face_count, 3), np.inf)
    high = -low
    np.minimum.at(low, body.faces, corners.min(axis=1))
    np.maximum.at(high, body.faces, corners.max(axis=1))
    return low - _CHORD / 2, high + _CHORD / 2


def _likely(body: opening.Meshed, other: opening.Meshed) -> Floats:
    """For each face, how far the nearest corner of its triangles is off the other body, (faces,) mm."""
    corners = body.triangles.corners.reshape(-1, 3)
    away = other.triangles.nearest(corners).away.reshape(-1, 3).min(axis=1)
    least = np.full(body.solid.face_count, np.inf)
    np.minimum.at(least, body.faces, away)
    return least


def distances(places: Floats, others: Sequence[Solid]) -> Floats:
    """How far (n, 3) places are off the nearest of other bodies, to 0.01 mm; infinite without any."""
    away = np.full(len(places), np.inf)
    for other in others:
        away = np.minimum(away, _fine(other).nearest(places).away)
    return away


def _fine(solid: Solid) -> Triangles:
    def made() -> Triangles:
        skin = kernel.mesh.tessellate(solid, _FINE, _ANGLE, edges=False)
        return Triangles(skin.points[skin.triangles])

    return _SKINS.of(solid, made)
