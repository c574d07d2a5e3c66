"""Whether the bodies of a mold open: proven by how their faces lie to their way, and again by rays and by what they share.

The faces that form a half, together with the parting surface and the shut-offs, are a sheet that ends at the block's walls.
Where all of it can be seen along the way that the half opens, its plan has no folds: it is a height field, and cannot trap
anything, however far it moves. Closed shells and a sum of volumes that comes out right do not prove that (a window without a
slide passes both), so what bodies share at rest is measured on their triangles too.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from weakref import WeakKeyDictionary

import numpy as np
from manifold3d import Manifold, Mesh, OpType

from supplecast import kernel
from supplecast.geometry import Bools, Floats, Frame, Rows, Vec, unit, vec
from supplecast.kernel.shapes import lineage
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.shape import Solid
from supplecast.search import Triangles

_TURNED = math.radians(0.05)
FINE, ANGLE = 0.05, 0.3
"""Mm and rad: how fine bodies of a tool are meshed, for the check and for the view."""
_OFF = 3.0  # chord errors that a ray begins off its face
_SAME = 1e-9  # of motions
_LEAST = 0.05  # mm²: less is an artefact of edges


@dataclass(frozen=True)
class Trap:
    """Faces of a body that something stands before on their way out, and the area of that, mm²."""

    faces: tuple[int, ...]
    area: float


def facing_wrong(solid: Solid, faces: Sequence[int], direction: Vec) -> tuple[int, ...]:
    """Of the faces that form the part, those that look along the way on which their body leaves: they would carry it along."""
    drafts = kernel.facing.drafts(solid, direction, faces)
    return tuple(face for face, (_, high) in zip(faces, drafts, strict=True) if high > _TURNED)


@dataclass(eq=False)
class Meshed:
    """A body as triangles, for rays and for what it shares with others."""

    solid: Solid
    shares: WeakKeyDictionary[Meshed, float] = field(default_factory=WeakKeyDictionary, repr=False)
    """What is known of the space it shares with others: no less than that, if it may be made by facets alone."""

    @cached_property
    def mesh(self) -> kernel.mesh.Mesh:
        """Its triangles, without its edges."""
        source, motion = lineage.carried(self.solid) or (None, None)
        known = _MESHED.known(source) if source else None
        if known is not None and motion is not None:
            return known.mesh.carried(motion)
        return kernel.mesh.tessellate(self.solid, FINE, ANGLE, edges=False)

    @cached_property
    def triangles(self) -> Triangles:
        return Triangles(self.mesh.points[self.mesh.triangles])

    @cached_property
    def box(self) -> tuple[Floats, Floats]:
        return self.mesh.points.min(axis=0), self.mesh.points.max(axis=0)

    @cached_property
    def faces(self) -> Rows:
        return self.mesh.faces

    @cached_property
    def normals(self) -> Floats:
        """Of the skin at each triangle, (n, 3): the facets' own may be tens of degrees off on slivers."""
        mean = self.mesh.normals[self.mesh.triangles].mean(axis=1)
        normals: Floats = mean / np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-300)
        return normals

    @cached_property
    def manifold(self) -> Manifold:
        points, triangles = self.mesh.welded()
        return Manifold(Mesh(points.astype(np.float32), triangles.astype(np.uint32)))


_MESHED: Memo[Meshed] = Memo("triangles for the opening check")


def meshed(solid: Solid) -> Meshed:
    """A body as triangles, remembered on it: an edit late in the sheet leaves most bodies as they are."""
    return _MESHED.of(solid, lambda: Meshed(solid))


def shared(a: Meshed, b: Meshed) -> float:
    """The volume in mm³ that two bodies have in common, as their triangles tell it. Remembered as long as both are there."""
    known = a.shares.get(b)
    if known is None:
        known = a.shares[b] = abs(float((a.manifold ^ b.manifold).volume()))
    return known


def shared_at_most(a: Meshed, b: Meshed) -> float:
    """No less than what two bodies have in common, in mm³: where both were carried to their place together, and only cut since,
    what they had in common before, so that copies are asked once.
    """
    befores = lineage.carried_and_cut(a.solid), lineage.carried_and_cut(b.solid)
    if befores[0] and befores[1] and np.allclose(befores[0][1], befores[1][1], atol=_SAME):
        before = shared(meshed(befores[0][0]), meshed(befores[1][0]))
        if before <= allowed(a, b):
            return before
    return shared(a, b)


def shared_by_most(one: Meshed, others: Sequence[Meshed]) -> list[float]:
    """No less than what a body has in common with each of others, in mm³: those whose boxes are apart are asked at once, and
    singly only where that is more than facets alone may make.
    """
    found: dict[Meshed, float] = {}
    groups: list[list[Meshed]] = []
    for other in others:
        if other in one.shares or lineage.carried_and_cut(other.solid):
            found[other] = shared_at_most(one, other)
            continue
        group = next((g for g in groups if not any(near(other, held) for held in g)), None)
        if group is None:
            groups.append([other])
        else:
            group.append(other)
    for group in groups:
        whole = Manifold.batch_boolean([other.manifold for other in group], OpType.Add)
        most = abs(float((one.manifold ^ whole).volume()))
        for other in group:
            if most <= allowed(one, other):
                one.shares[other] = most
            found[other] = shared(one, other)
    return [found[other] for other in others]


def near(a: Meshed, b: Meshed) -> bool:
    """Whether the boxes of two bodies meet."""
    (low, high), (low2, high2) = a.box, b.box
    return bool((low <= high2).all() and (low2 <= high).all())


def allowed(a: Meshed, b: Meshed) -> float:
    """The volume in mm³ that facets alone may make two bodies share where they touch: a tenth of the chord error over the
    smaller one's skin.
    """
    return 0.1 * FINE * min(float(m.triangles.areas.sum()) for m in (a, b))


def standing(others: Sequence[Meshed]) -> Triangles:
    """What several bodies put in the way, to be searched at once."""
    return Triangles(np.concatenate([other.triangles.corners for other in others] or [np.zeros((0, 3, 3))]))


def trapped(moving: Meshed, direction: Vec, others: Triangles, far: float = math.inf) -> Trap:
    """What stands in the way of a body that leaves along `way`, by `far` mm: rays from its faces that lead on that way."""
    d = np.array(unit(direction))
    triangles = moving.triangles
    leading = np.flatnonzero(moving.normals @ d > math.sin(_TURNED))
    leading = leading[_may_meet(triangles.corners[leading], vec(d), others)]
    starts, areas, of = _spread(triangles, leading)
    starts = starts + _OFF * FINE * moving.normals[of]
    _, away = others.hits(starts, d)
    hit = away < far
    by_face = np.bincount(moving.faces[of], weights=areas * hit, minlength=moving.solid.face_count)
    faces = tuple(int(face) for face in np.flatnonzero(by_face > _LEAST))
    return Trap(faces, float(by_face[list(faces)].sum()))


def _may_meet(corners: Floats, direction: Vec, others: Triangles) -> Bools:
    """Which triangles (n, 3, 3) that leave along a unit vector may come to the box round others."""
    if not len(others.corners):
        return np.zeros(len(corners), dtype=bool)
    lying = Frame.lying((0.0, 0.0, 0.0), direction)
    axes = np.array([lying.x, lying.y, lying.normal])
    box = np.array(others.box.corners) @ axes.T
    low, high = box.min(axis=0) - _OFF * FINE, box.max(axis=0) + _OFF * FINE
    a, b, c = (corners[:, k] @ axes.T for k in range(3))
    least, most = np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c)
    meets: Bools = ((most >= low) & (least <= high))[:, :2].all(axis=1) & (least[:, 2] <= high[2])
    return meets


def _spread(triangles: Triangles, rows: Rows) -> tuple[Floats, Floats, Rows]:
    """Places on triangles, more on larger ones: where, the area each stands for, and its triangle."""
    areas = triangles.areas[rows]
    counts = np.clip(np.ceil(areas / 0.5), 1, 400).astype(int)
    of = np.repeat(rows, counts)
    drawn = np.random.default_rng(1).random((len(of), 2))
    u, v = np.sqrt(drawn[:, :1]), drawn[:, 1:]
    corners = triangles.corners[of]
    places = corners[:, 0] * (1 - u) + corners[:, 1] * u * (1 - v) + corners[:, 2] * u * v
    return places, np.repeat(areas / counts, counts), of
