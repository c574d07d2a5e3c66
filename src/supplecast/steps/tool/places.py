"""The places of a tool: at each one a part, the steel that forms it, and how it lies to the first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.geometry import Floats, Frame, Point2

_SAME = 1e-3


@dataclass(frozen=True)
class Place:
    """A part and the bodies of the core and cavity side round it, innermost first; `middle` is the part's in the plane, and
    `turn` takes offsets from the first part's middle to those from this one's, (2, 2).
    """

    part: Entry
    core: tuple[Entry, ...]
    cavity: tuple[Entry, ...]
    middle: Point2
    turn: Floats

    def at(self, first: Place, place: Point2) -> Point2:
        """Where a place of the first part lies on this one."""
        off = self.turn @ (np.array(place) - np.array(first.middle))
        return (self.middle[0] + float(off[0]), self.middle[1] + float(off[1]))


def places(at: Builder, plane: Frame) -> list[Place]:
    """Every part with its steel; parts that are the first one turned or mirrored are told so."""
    bodies = at.bodies()
    parts = [e for e in bodies if e.role in ("molded", "linked", "part")]
    if not parts:
        at.fail("part", "There is no part yet.", "Link a part first.")
    shapes = [_plan(part, plane) for part in parts]
    found = []
    for part, shape in zip(parts, shapes, strict=True):
        middle = (shape.max(axis=0) + shape.min(axis=0)) / 2
        turn = _turn(shapes[0] - (shapes[0].max(axis=0) + shapes[0].min(axis=0)) / 2, shape - middle)
        sides = []
        for role in ("core", "cavity"):
            inner = [e for e in bodies if e.role == f"{role} insert" and _holds(e, plane, middle)]
            sides.append((*inner, *(e for e in bodies if e.role == role)))
        found.append(Place(part, sides[0], sides[1], (float(middle[0]), float(middle[1])), turn))
    return found


def _plan(entry: Entry, plane: Frame) -> Floats:
    points = kernel.measure.corners(entry.body.solid)
    off = points - np.array(plane.origin)
    return np.column_stack([off @ np.array(plane.x), off @ np.array(plane.y)])


def _turn(first: Floats, other: Floats) -> Floats:
    """How the first outline is turned or mirrored to become the other one."""
    goal = _sorted(other)
    for signs in ((1, 1), (-1, -1), (-1, 1), (1, -1)):
        turn = np.diag(np.array(signs, dtype=float))
        mine = _sorted(first @ turn.T)
        if mine.shape == goal.shape and np.abs(mine - goal).max() < _SAME:
            return turn
    return np.eye(2)


def _sorted(points: Floats) -> Floats:
    rounded = np.round(points, 3)
    found: Floats = rounded[np.lexsort((rounded[:, 1], rounded[:, 0]))]
    return found


def _holds(entry: Entry, plane: Frame, middle: Floats) -> bool:
    plan = _plan(entry, plane)
    return bool((plan.min(axis=0) <= middle).all() and (middle <= plan.max(axis=0)).all())


def steel(found: Sequence[Place]) -> list[Entry]:
    """All bodies of steel of some places, each once."""
    return list(dict.fromkeys(e for place in found for e in (*place.core, *place.cavity)))
