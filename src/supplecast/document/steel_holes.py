"""What a change does to the round holes of a piece of steel: drilled anew, opened up, or to be closed."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from supplecast import kernel
from supplecast.document.state import Entry
from supplecast.geometry import Axis, Bar, Vec, along, dot, subtract
from supplecast.naming.tag import maker

if TYPE_CHECKING:
    from supplecast.kernel.shapes.shape import Solid

_SAME = 1e-3  # mm
_ROUND = 0.5  # of a cylinder that a face must be to be a hole's, and not a fillet's
_INSIDE = 0.98  # of the radius, and of the half length: just inside of a hole's wall and ends

HoleVerdict = Literal["drilled", "opened up", "closed"]


@dataclass(frozen=True)
class Hole:
    """A stretch of a round hole: its axis with a place in the middle, the radius and the length, mm."""

    axis: Axis
    radius: float
    length: float

    @property
    def ends(self) -> tuple[float, float]:
        """Where it begins and ends along its axis."""
        middle = dot(self.axis.point, self.axis.direction)
        return middle - self.length / 2, middle + self.length / 2

    @property
    def bar(self) -> Bar:
        """What it takes."""
        start, end = (along(self.axis.point, self.axis.direction, s * self.length / 2) for s in (-1.0, 1.0))
        return Bar(start, end, self.radius)

    def moved(self, by: Vec) -> Hole:
        """The same elsewhere."""
        return Hole(Axis(along(self.axis.point, by, 1.0), self.axis.direction), self.radius, self.length)

    def is_in_line(self, other: Hole) -> bool:
        """Whether both have one axis."""
        off = subtract(other.axis.point, self.axis.nearest(other.axis.point))
        return abs(dot(self.axis.direction, other.axis.direction)) > 1 - 1e-9 and math.hypot(*off) < _SAME

    def is_within(self, other: Hole) -> bool:
        """Whether another takes all that it takes."""
        (low, high), (start, end) = self.ends, other.ends
        return self.is_in_line(other) and self.radius <= other.radius + _SAME and start - _SAME <= low and high <= end + _SAME


@dataclass(frozen=True)
class HoleChange:
    """What becomes of a hole, its diameter and the middle of it in mm, in the newer state unless it is `closed` there."""

    verdict: HoleVerdict
    diameter: float
    place: Vec


def holes(solid: Solid, faces: Iterable[int] | None = None) -> list[Hole]:
    """The stretches of round holes: cylinders that the material lies outside of, more than half round; only those among some
    faces, if they are given.
    """
    found = []
    for face in range(solid.face_count) if faces is None else faces:
        if kernel.measure.surface_word(solid, face) != "round":
            continue
        bent = kernel.measure.bend(solid, face)
        if bent is None or bent[1]:
            continue
        axis = kernel.datums.face_axis(solid, face)
        radius, box = bent[0], kernel.measure.face_box(solid, face)
        ends = [dot(corner, axis.direction) for corner in box.corners]
        if max(abs(c) for c in axis.direction) < 1 - 1e-9:  # a box about a leaning bore reaches past its ends
            around = radius * sum(abs(c) * math.sqrt(max(1 - c * c, 0.0)) for c in axis.direction)
            ends = [min(ends) + around, max(ends) - around]
        length = max(ends) - min(ends)
        if length > _SAME and kernel.measure.face_area(solid, face) > _ROUND * 2 * math.pi * radius * length:
            middle = (max(ends) + min(ends)) / 2 - dot(axis.point, axis.direction)
            found.append(Hole(Axis(along(axis.point, axis.direction, middle), axis.direction), radius, length))
    return found


def holes_by(entry: Entry, makers: Collection[str]) -> list[Hole]:
    """Those of a body that some steps made, by their ids."""
    made = [face for face, tags in enumerate(entry.body.tags) if any(maker(tag) in makers for tag in tags)]
    return holes(entry.body.solid, made)


def hole_changes(first: Solid, second: Solid, shift: Vec) -> Iterator[HoleChange]:
    """What becomes of the holes of a body, whose newer state moved by `shift` lies as the older one. What is in the newer one
    within a hole as it was is not told; nor is a hole that a pocket has swallowed.
    """
    back: Vec = (-shift[0], -shift[1], -shift[2])
    older, newer = holes(first), [hole.moved(shift) for hole in holes(second)]
    for hole in newer:
        if not any(hole.is_within(one) for one in older):
            place = hole.moved(back).axis.point
            yield HoleChange("opened up" if any(one.is_in_line(hole) for one in older) else "drilled", 2 * hole.radius, place)
    for hole in older:
        if not any(hole.is_within(one) for one in newer) and _is_filled(hole, second, back):
            yield HoleChange("closed", 2 * hole.radius, hole.axis.point)


def _is_filled(hole: Hole, second: Solid, back: Vec) -> bool:
    """Whether there is steel where a hole was: at either end of its axis, or just inside of its wall."""
    side = kernel.solid.across(hole.axis.direction, (0.36, 0.48, 0.8))
    middle = hole.moved(back).axis.point
    ways = [(hole.axis.direction, hole.length / 2), (side, hole.radius)]
    places = [along(middle, way, s * _INSIDE * far) for way, far in ways for s in (1.0, -1.0)]
    return any(kernel.probing.covers(second, place) for place in places)
