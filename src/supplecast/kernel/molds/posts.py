"""Posts: what the core half reaches into round holes of the part with, each from the rim of its hole to its end."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_CurveType

from supplecast.geometry import Vec, dot
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.shape import Solid, xyz

_ALONG = math.cos(math.radians(0.1))
_CLOSE = 1e-4  # mm


@dataclass(frozen=True)
class Post:
    """The flat face round a hole's mouth, the middle of the mouth, its radius, and that of the round edge about the rim, None
    where the rim has another outline; how deep the hole is from its rim on, mm, and the faces in it.
    """

    rim: int
    middle: Vec
    radius: float
    around: float | None
    depth: float
    faces: tuple[int, ...]


@dataclass(frozen=True)
class _Circle:
    """An edge that is a whole circle, or an arc of one, square to the pull."""

    edge: int
    centre: Vec
    radius: float


def posts(part: Solid, of_core: Sequence[bool], pull: Vec) -> list[Post]:
    """The round holes of a part that end towards the pull in a flat rim, are the core's to form, and narrow from there on; the
    pull is along an axis.
    """
    found: list[Post] = []
    for rim in range(part.face_count):
        if not of_core[rim] or not measure.is_flat(part, rim):
            continue
        if dot(measure.flat_frame(part, rim).normal, pull) < _ALONG:
            continue
        circles = [circle for edge in part.face_edges[rim] if (circle := _circle(part, edge, pull)) is not None]
        for mouth in circles:
            faces = _inside(part, of_core, rim, mouth, pull)
            if faces:
                around = (c.radius for c in circles if math.dist(c.centre, mouth.centre) < _CLOSE and c.radius > mouth.radius)
                level = dot(mouth.centre, pull)
                deep = max(level - dot(corner, pull) for face in faces for corner in measure.face_box(part, face).corners)
                post = Post(rim, mouth.centre, mouth.radius, max(around, default=None), deep, faces)
                if all(math.dist(post.middle, other.middle) > _CLOSE for other in found):  # a mouth of several arcs is one
                    found.append(post)
    return found


def _circle(part: Solid, index: int, pull: Vec) -> _Circle | None:
    if part.degenerate_edges[index]:
        return None
    curve = BRepAdaptor_Curve(part.nth_edge(index))
    if curve.GetType() != GeomAbs_CurveType.GeomAbs_Circle:
        return None
    circle = curve.Circle()
    if abs(dot(xyz(circle.Axis().Direction()), pull)) < _ALONG:
        return None
    return _Circle(index, xyz(circle.Location()), float(circle.Radius()))


def _inside(part: Solid, of_core: Sequence[bool], rim: int, mouth: _Circle, pull: Vec) -> tuple[int, ...]:
    """The core's faces beyond a round edge of a rim; none unless all of them lie within it, behind the rim."""
    edge = {face for face in part.faces_at_edges[mouth.edge] if face != rim}
    inside: set[int] = set()
    while edge:
        inside |= edge
        edge = {n for face in edge for n in part.neighbours[face] if of_core[n] and n != rim} - inside
        if any(not _lies_within(part, face, mouth, pull) for face in edge):
            return ()
    if not inside or any(not of_core[f] or not _lies_within(part, f, mouth, pull) for f in inside):
        return ()
    return tuple(sorted(inside))


def _lies_within(part: Solid, face: int, mouth: _Circle, pull: Vec) -> bool:
    box = measure.face_box(part, face)
    for axis in range(3):
        low, high = box.low[axis] - mouth.centre[axis], box.high[axis] - mouth.centre[axis]
        if abs(pull[axis]) > 0.5:
            if (high if pull[axis] > 0 else -low) > _CLOSE:
                return False
        elif max(-low, high) > mouth.radius + _CLOSE:
            return False
    return True
