"""Whether a shelled body has the walls it should have: measured from many points, never trusted on the kernel's word.

The new skin must stand off the kept faces by their walls, and there must be new skin wherever there is room for it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType as Kind
from OCP.gp import gp_Pnt2d
from OCP.TopAbs import TopAbs_IN

from supplecast.geometry import Bools, Floats, Rows, vec
from supplecast.kernel.measuring import measure, probing
from supplecast.kernel.meshing.face_samples import FaceSamples, is_plain
from supplecast.kernel.shapes.shape import Solid, xyz

_POINTS = 600
_BAD_SHARE = 0.004
_CONFIRMED = 16
_FEW = 0.02
_GRID = 6


Corners = Literal["either", "rounded", "sharp"]
"""Rounded about the re-entrant edge, as an even wall is, or sharp; or either, as the kernel finds it."""


@dataclass(frozen=True)
class Wanted:
    """What a shell was to be: the wall in mm of each kept face of `solid`, the open ones, which way the wall goes, and how the
    edges of the hollow come out that run along a re-entrant edge of the body.
    """

    solid: Solid
    walls: Mapping[int, float]
    opened: tuple[int, ...]
    outward: bool = False
    corners: Corners = "either"

    @property
    def least(self) -> float:
        return min(self.walls.values())

    @property
    def slack(self) -> float:
        return max(0.01 * self.least, 0.004)

    @property
    def fine(self) -> float:
        return min(0.02 * self.least, 0.05)


@dataclass(frozen=True)
class Spare:
    """For each of several places: the room left beyond the wall in mm, the foot on the kept skin, the wall there, the most
    that it may be (at a rim that of either face), and whether the place is outside of the body; `tolerance` is how far off
    that may be, mm.
    """

    room: Floats
    feet: Floats
    walls: Floats
    most: Floats
    outside: Bools
    tolerance: Floats


class Room:
    """The kept faces by their wall, and the open ones, ready to be measured to."""

    def __init__(self, wanted: Wanted) -> None:
        self.wanted = wanted
        groups: dict[float, list[int]] = {}
        for face, wall in wanted.walls.items():
            groups.setdefault(wall, []).append(face)
        self.groups = {wall: FaceSamples(wanted.solid, faces, wanted.fine) for wall, faces in groups.items()}
        self.area = sum(skin.area for skin in self.groups.values())
        self.open = FaceSamples(wanted.solid, wanted.opened, wanted.fine)

    def spare(self, places: Floats) -> Spare:
        """How much further off each place the kept skin is than its wall: the least over all faces."""
        total = len(places)
        zeros = np.zeros((3, total))
        least = Spare(np.full(total, np.inf), np.zeros((total, 3)), zeros[0], zeros[1], np.zeros(total, dtype=bool), zeros[2])
        nears = [(wall, skin.nearest(places)) for wall, skin in self.groups.items()]
        for wall, near in nears:
            # Aside of a face, over a rim of it, the lesser wall of those that meet there is enough: what is sharp stays sharp.
            meeting = [np.where(other.away <= near.away + self.wanted.fine, w, wall) for w, other in nears]
            walls = np.where(near.beside, np.min(meeting, axis=0), wall)
            closer = near.away - walls < least.room
            least.room[closer], least.feet[closer] = (near.away - walls)[closer], near.feet[closer]
            least.walls[closer] = walls[closer]
            least.most[closer] = np.where(near.beside, np.max(meeting, axis=0), wall)[closer]
            least.outside[closer], least.tolerance[closer] = near.outside[closer], near.tolerance[closer]
        return least

    @cached_property
    def tight(self) -> tuple[int, ...]:
        """Faces that an inward wall turns inside out: rounded outwards to no more than their wall."""
        if self.wanted.outward:
            return ()
        bends = ((face, wall, measure.bend(self.wanted.solid, face)) for face, wall in self.wanted.walls.items())
        return tuple(face for face, wall, bent in bends if bent is not None and bent[1] and bent[0] <= wall + 1e-6)

    @cached_property
    def expected(self) -> tuple[Floats, Floats, Floats]:
        """As many free places as a result is checked at: the same for every setting that is tried."""
        return self.free(_POINTS)

    def free(self, count: int, fewest: int = 4) -> tuple[Floats, Floats, Floats]:
        """Places where the new skin must be: off points of the kept faces by their wall, with no other wall in the way.

        Returns those places, how far off each may be in mm, and for every face of the solid the share of its points that
        have one.
        """
        wanted = self.wanted
        sign = 1.0 if wanted.outward else -1.0
        strewn = [(wall, skin.strewn(round(count * skin.area / self.area), fewest)) for wall, skin in self.groups.items()]
        at = np.concatenate([points.points + sign * wall * points.normals for wall, points in strewn])
        of = np.concatenate([points.faces for _, points in strewn])
        tolerance = np.concatenate([points.tolerance for _, points in strewn])
        spare, through = self.spare(at), self.open.nearest(at)
        outside = np.where(through.away < spare.room + spare.walls, through.outside, spare.outside)
        free = (spare.room >= -wanted.slack / 2 - tolerance) & (through.away > wanted.slack) & (outside == wanted.outward)
        free &= ~np.isin(of, self.tight)  # of a round as tight as the wall the new skin is nothing, or a corner of others
        shares = [free[of == face].mean() if (of == face).any() else 0.0 for face in range(wanted.solid.face_count)]
        return at[free], tolerance[free], np.array(shares)


def fault(room: Room, made: Solid, skin_faces: Sequence[int]) -> str:
    """What is wrong with a shell whose new skin are `skin_faces`, in words; nothing where all is well."""
    wanted = room.wanted
    if not skin_faces:
        return "no cavity is possible at this wall"
    astray = _astray(room, made, skin_faces)  # before meshing, which may never end on these
    if astray is not None:
        return _thin(wanted, astray)
    new = FaceSamples(made, skin_faces, wanted.fine)
    if new.empty:  # a round as tight as the wall: its offset is a line, which nobody can see or mesh
        return "faces would shrink to nothing"
    points = new.strewn(_POINTS)
    spare = room.spare(points.points)
    slack = wanted.slack + spare.tolerance + points.tolerance
    thin = np.flatnonzero(spare.room < -slack)
    if _too_many(room, points.points, thin, spare.room):
        return _thin(wanted, float(spare.room[thin].min()))
    square = ((points.points - spare.feet) * points.normals).sum(axis=1)
    if max((square < 0).mean(), (spare.outside != wanted.outward).mean()) > 0.5:  # inside out, or on the wrong side
        return "no cavity is possible at this wall"
    square = np.abs(square)
    beside_open = room.open.nearest(points.points).away < spare.room + spare.walls
    # Square to the skin it is a wall away, at sharp inner corners too; what stands up from it is only near it sideways.
    thick = (square - spare.most > slack) | ((spare.room > slack) & (square < spare.walls - slack))
    if (thick & ~beside_open).mean() > _BAD_SHARE:
        return "material would be left where there should be none"
    places, tolerance, _ = room.expected
    near = new.nearest(places)
    if (near.away > wanted.slack + near.tolerance + tolerance).sum() > 2 * _BAD_SHARE * max(len(places), 1):
        return "part of the hollow would be missing"
    return ""


def too_near(room: Room, made: Solid, skin_faces: Sequence[int]) -> bool:
    """Whether new skin stands off the kept faces by less than it should, however far it is elsewhere."""
    points = FaceSamples(made, skin_faces, room.wanted.fine).strewn(_POINTS)
    spare = room.spare(points.points)
    thin = np.flatnonzero(spare.room < -(room.wanted.slack + spare.tolerance + points.tolerance))
    return _too_many(room, points.points, thin, spare.room)


def _thin(wanted: Wanted, spare: float) -> str:
    return f"the wall would be {max(wanted.least + spare, 0.0):.2f} mm in places"


def _too_many(room: Room, places: Floats, rows: Rows, spare: Floats) -> bool:
    """Whether too many places are too near, the nearest of them measured again by the kernel itself."""
    share = len(rows) / max(len(places), 1)
    if share <= _BAD_SHARE:
        return False
    wanted = room.wanted
    worst = rows[np.argsort(spare[rows])][:_CONFIRMED]
    true = 0
    for row in worst:
        spot = vec(places[row])
        exact = min(probing.distance_to_faces(wanted.solid, s.faces, spot) - wall for wall, s in room.groups.items())
        true += exact < -wanted.slack
    return share * true / len(worst) > _BAD_SHARE


def _astray(room: Room, made: Solid, faces: Sequence[int]) -> float | None:
    """The least room in mm on those faces that the kernel offsets only by way of another surface, found without triangles;
    None where no more than a few places on them have less than there should be.
    """
    spots, places = [], []
    for face in faces:
        surface = BRepAdaptor_Surface(made.face(face))
        if surface.GetType() not in (Kind.GeomAbs_OffsetSurface, Kind.GeomAbs_OtherSurface) or is_plain(made, face):
            continue
        u0, u1, v0, v1 = BRepTools.UVBounds_s(made.face(face))
        for i in range(_GRID):
            for k in range(_GRID):
                u, v = u0 + (i + 0.5) / _GRID * (u1 - u0), v0 + (k + 0.5) / _GRID * (v1 - v0)
                spots.append((face, u, v))
                places.append(xyz(surface.Value(u, v)))
    left = room.spare(np.array(places).reshape(-1, 3)).room
    short = left < -2 * room.wanted.slack
    if not short.any():
        return None
    # Whether a place lies within its face's outline takes the kernel long: asked only where that matters.
    inside = np.array([BRepClass_FaceClassifier(made.face(f), gp_Pnt2d(u, v), 1e-6).State() == TopAbs_IN for f, u, v in spots])
    return float(left[inside].min()) if inside.any() and short[inside].mean() > _FEW else None
