"""Faces as flat sheets: where each corner of a triangle lies on paper, in mm.

On paper x runs to the right and y upwards, both as seen from outside. A sheet that goes all the way round lies on paper over
and over: `wraps` say which of its turns are looked at.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from supplecast.geometry import Bools, Floats, Frame

_FACING = 1e-3  # sine of the angle under which a face still looks at what is cast on it


@dataclass(frozen=True)
class Flat:
    """A flat face: its own plane. Lengths are true."""

    frame: Frame
    kind: Literal["flat"] = "flat"

    turns: ClassVar[int] = 0

    def on_paper(self, corners: Floats, wraps: int = 0) -> Floats:
        """Corners of triangles (m, 3, 3) mm on paper, (m, 3, 2) mm."""
        return _in_frame(self.frame, corners)

    def in_space(self, paper: Floats) -> Floats:
        """Places on paper (n, 2) in space, (n, 3) mm."""
        return self.frame.space(paper)


@dataclass(frozen=True)
class Cast:
    """Whatever looks at a plane, seen straight from it."""

    frame: Frame
    kind: Literal["cast"] = "cast"

    turns: ClassVar[int] = 0

    def on_paper(self, corners: Floats, wraps: int = 0) -> Floats:
        """Corners of triangles (m, 3, 3) mm on paper, (m, 3, 2) mm."""
        return _in_frame(self.frame, corners)

    def in_space(self, paper: Floats) -> Floats:
        """Places on paper (n, 2) on the plane they are cast from, (n, 3) mm."""
        return self.frame.space(paper)

    def faced(self, normals: Floats) -> Bools:
        """Which triangles look at the plane, by their corners' normals (m, 3, 3)."""
        towards: Bools = (normals @ np.array(self.frame.normal)).min(axis=1) > _FACING
        return towards


@dataclass(frozen=True)
class Round:
    """A round face of a `radius`, unrolled. `axis` has its axis along the normal and looks along x where the paper's origin is,
    at that height; `sense` is 1 where x goes round it by the right hand, `up` 1 where y goes along the axis.
    """

    axis: Frame
    radius: float
    sense: float
    up: float
    kind: Literal["round"] = "round"

    turns: ClassVar[int] = 1

    def on_paper(self, corners: Floats, wraps: int = 0) -> Floats:
        """Corners of triangles (m, 3, 3) mm on paper, (m, 3, 2) mm; arcs have their own length."""
        angle, _, height = _turned(self.axis, corners)
        return np.stack([self.sense * self.radius * (angle + 2 * math.pi * wraps), self.up * height], axis=-1)

    def in_space(self, paper: Floats) -> Floats:
        """Places on paper (n, 2) in space, (n, 3) mm."""
        angle = self.sense * paper[:, 0] / self.radius
        return _about(self.axis, angle, np.full(len(paper), self.radius), self.up * paper[:, 1])


@dataclass(frozen=True)
class Cone:
    """A conical face, unrolled to a sector: what is `slant` mm from the apex (the origin of `axis`, whose normal leads into the
    cone) is so far from the sector's centre, and angles round the axis shrink by the sine of the `half` angle at the apex.

    The paper's origin is where the axis looks along x, `slant` from the apex; y leads away from it where `up` is 1.
    """

    axis: Frame
    half: float
    slant: float
    sense: float
    up: float
    kind: Literal["cone"] = "cone"

    turns: ClassVar[int] = 1

    def on_paper(self, corners: Floats, wraps: int = 0) -> Floats:
        """Corners of triangles (m, 3, 3) mm on paper, (m, 3, 2) mm; all lengths are true."""
        angle, far, height = _turned(self.axis, corners)
        slant = np.hypot(far, height)
        swing = self.sense * (angle + 2 * math.pi * wraps) * math.sin(self.half)
        return np.stack([slant * np.sin(swing), self.up * (slant * np.cos(swing) - self.slant)], axis=-1)

    def in_space(self, paper: Floats) -> Floats:
        """Places on paper (n, 2) in space, (n, 3) mm."""
        outwards = self.slant + self.up * paper[:, 1]
        slant = np.hypot(paper[:, 0], outwards)
        angle = self.sense * np.arctan2(paper[:, 0], outwards) / math.sin(self.half)
        return _about(self.axis, angle, slant * math.sin(self.half), slant * math.cos(self.half))


@dataclass(frozen=True)
class Turned:
    """Faces turned about one axis, as a strip once round: x is the angle at the `radius` of the paper's origin, y the way along
    the meridian, which `ladder` tells: places (height along the axis, distance from it, way), in mm, in order.
    """

    axis: Frame
    radius: float
    sense: float
    ladder: tuple[tuple[float, float, float], ...]
    kind: Literal["turned"] = "turned"

    turns: ClassVar[int] = 1

    def on_paper(self, corners: Floats, wraps: int = 0) -> Floats:
        """Corners of triangles (m, 3, 3) mm on paper, (m, 3, 2) mm."""
        angle, far, height = _turned(self.axis, corners)
        rungs = np.array(self.ladder)
        places = np.stack([height, far], axis=-1).reshape(-1, 2)
        ways = _along(rungs[:, :2], rungs[:, 2], places).reshape(far.shape)
        return np.stack([self.sense * self.radius * (angle + 2 * math.pi * wraps), ways], axis=-1)

    def in_space(self, paper: Floats) -> Floats:
        """Places on paper (n, 2) in space, (n, 3) mm."""
        rungs = np.array(self.ladder)
        height, far = (np.interp(paper[:, 1], rungs[:, 2], rungs[:, k]) for k in (0, 1))
        return _about(self.axis, self.sense * paper[:, 0] / self.radius, far, height)


@dataclass(frozen=True)
class Laid:
    """Faces of any form round a place, unrolled with as little stretch as can be: `frame` touches them there. Which triangles,
    and where they lie on paper, is worked out on the mesh (`unroll`).
    """

    frame: Frame
    kind: Literal["laid"] = "laid"

    def in_space(self, paper: Floats) -> Floats:
        """Places on paper (n, 2) on the plane that touches the faces there, (n, 3) mm."""
        return self.frame.space(paper)


Sheet = Flat | Cast | Round | Cone | Turned | Laid


def _in_frame(frame: Frame, corners: Floats) -> Floats:
    away = corners - np.array(frame.origin)
    return np.stack([away @ np.array(frame.x), away @ np.array(frame.y)], axis=-1)


def _turned(axis: Frame, corners: Floats) -> tuple[Floats, Floats, Floats]:
    """Angle round an axis in rad, even within each triangle, distance from it and height along it, each (m, 3).

    A corner on the axis itself has the angle that the others have in the middle.
    """
    away = corners - np.array(axis.origin)
    across, aside, height = (away @ np.array(v) for v in (axis.x, axis.y, axis.normal))
    far = np.hypot(across, aside)
    angle = np.arctan2(aside, across)
    # On the far side angles jump from π to -π: the triangle stays in one piece, on the side where its first corner is.
    angle += 2 * math.pi * np.round((angle[:, :1] - angle) / (2 * math.pi))
    on_axis = far < 1e-9 * max(1.0, float(far.max(initial=0.0)))
    if on_axis.any():
        known = np.where(on_axis, 0.0, angle).sum(axis=1) / np.maximum((~on_axis).sum(axis=1), 1)
        angle = np.where(on_axis, known[:, None], angle)
    return angle, far, height


def _along(places: Floats, ways: Floats, points: Floats) -> Floats:
    """The way along a polyline at the place nearest to each of some points, (n,)."""
    best, found = np.full(len(points), np.inf), np.zeros(len(points))
    for a, b, start, end in zip(places[:-1], places[1:], ways[:-1], ways[1:], strict=True):
        run = b - a
        share = np.clip((points - a) @ run / max(float(run @ run), 1e-30), 0.0, 1.0)
        off = ((points - a - share[:, None] * run) ** 2).sum(axis=1)
        nearer = off < best
        best[nearer], found[nearer] = off[nearer], (start + share * (end - start))[nearer]
    return found


def _about(axis: Frame, angle: Floats, far: Floats, height: Floats) -> Floats:
    """Places by their angle round an axis, distance from it and height along it, (n, 3)."""
    x, y, z = (np.array(v) for v in (axis.x, axis.y, axis.normal))
    out = np.cos(angle)[:, None] * x + np.sin(angle)[:, None] * y
    return np.asarray(np.array(axis.origin) + far[:, None] * out + height[:, None] * z)
