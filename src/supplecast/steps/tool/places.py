"""The places of a tool: at each one a part, the steel that forms it, and how it lies to the first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Faces
from supplecast.document.state import PARTS, Entry
from supplecast.geometry import Floats, Frame, Point2

_SAME = 5e-3  # mm


@dataclass(frozen=True)
class Place:
    """A part and the bodies of the core and cavity side round it, innermost first; `middle` is where the part's
    centre of mass lies in the plane, and `turn` takes offsets from the first part's middle to those from this one's, (2, 2).
    """

    part: Entry
    core: tuple[Entry, ...]
    cavity: tuple[Entry, ...]
    middle: Point2
    turn: Floats

    def at(self, first: Place, place: Point2) -> Point2:
        """Where a place of the first part lies on this one."""
        ((x, y),) = self.all_at(first, np.array([place])).tolist()
        return (x, y)

    def on(self, first: Place, place: Point2) -> Point2:
        """Where a place of this part lies on the first one."""
        x, y = (self.turn.T @ (np.array(place) - np.array(self.middle)) + np.array(first.middle)).tolist()
        return (x, y)

    def all_at(self, first: Place, places: Floats) -> Floats:
        """Where places of the first part, (n, 2), lie on this one."""
        moved: Floats = (places - np.array(first.middle)) @ self.turn.T + np.array(self.middle)
        return moved


def places(at: Builder, plane: Frame) -> list[Place]:
    """Every part with its steel; parts that are the first one turned or mirrored are told so."""
    bodies = at.bodies()
    parts = [e for e in bodies if e.role in PARTS]
    if not parts:
        at.fail("part", "There is no part yet.", "Link a part first.")
    # The corners alone would not do: a round part has a single one, on the seam, and that turns with it.
    middles = [np.array(plane.flat(kernel.measure.mass(part.body.solid).centroid)) for part in parts]
    offs = [_plan(part, plane) - middle for part, middle in zip(parts, middles, strict=True)]
    cavities = []
    for part, middle, off in zip(parts, middles, offs, strict=True):
        turn = _turn(offs[0], off)
        sides = []
        for role in ("core", "cavity"):
            inner = [e for e in bodies if e.role == f"{role} insert" and _holds(e, plane, middle)]
            sides.append((*inner, *(e for e in bodies if e.role == role)))
        cavities.append(Place(part, sides[0], sides[1], (float(middle[0]), float(middle[1])), turn))
    return cavities


def _plan(entry: Entry, plane: Frame) -> Floats:
    return kernel.parting.flat(kernel.measure.corners(entry.body.solid), plane)


def _turn(first: Floats, other: Floats) -> Floats:
    """How the corners of the first part are turned or mirrored to become those of the other one."""
    goal = cKDTree(other)
    for signs in ((1, 1), (-1, -1), (-1, 1), (1, -1)):
        turn = np.diag(np.array(signs, dtype=float))
        mine = first @ turn.T
        if len(first) == len(other) and max(goal.query(mine)[0].max(), cKDTree(mine).query(other)[0].max()) < _SAME:
            return turn
    return np.eye(2)


def _holds(entry: Entry, plane: Frame, middle: Floats) -> bool:
    plan = _plan(entry, plane)
    return bool((plan.min(axis=0) <= middle).all() and (middle <= plan.max(axis=0)).all())


def steel(cavities: Sequence[Place]) -> list[Entry]:
    """All bodies of steel of some places, each once."""
    return list(dict.fromkeys(e for place in cavities for e in (*place.core, *place.cavity)))


def on_first(at: Builder, field: str, picks: Faces, first: Place) -> list[int]:
    """The faces picked in a field, as those of the first part; they can be picked on any copy of it."""
    if not picks:
        return []
    holder = at.holder(field, None, changes=False)
    picked = at.faces(field, holder)
    if holder.id == first.part.id:
        return picked
    # Copies carry the names of the first, and each its number behind them.
    names = {tags[0].rpartition("[")[0]: face for face, tags in enumerate(first.part.body.tags)}
    faces = [names.get(holder.body.tags[face][0].rpartition("[")[0]) for face in picked]
    if holder.role not in PARTS or None in faces:
        at.fail(field, f"A picked face is of {holder.name}, not of the part.", "Pick faces of the part.")
    return [face for face in faces if face is not None]
