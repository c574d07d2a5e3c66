"""Runners and gates as solids: straight runs along the parting plane, their ends, and the gates into the part.

Places are given in a frame that lies in the parting plane, its normal along the pull.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax2

from supplecast.curves import Line2, Region
from supplecast.geometry import Frame, Point2, Vec, along, cross, subtract, times, turned, unit
from supplecast.kernel.shapes.history import Made, Origin, traced_to
from supplecast.kernel.shapes.profile import as_dir, as_point
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import boolean, loft, solid

Section = Literal["full round", "trapezoid"]
GateKind = Literal["edge", "fan", "submarine"]
_LEAN = math.radians(10)  # of the sides of a trapezoid
_REACH = 0.5  # mm that a gate reaches into the cavity
_BEFORE = 1.0  # mm of steel at least between a runner and the wall over a submarine gate
_SINK = 45.0  # degrees at which a submarine gate dives
_TINY = 1e-6
_SEAM = math.radians(37)
_SKEW = (0.31, 0.53, 0.79)  # the poles and the seam of a ball lie aside of whatever meets it


@dataclass(frozen=True)
class Size:
    """Width of the runners in mm, and their section; `sense` is −1 where what lies on one side of the plane only lies behind
    it, against the normal, in the cavity half.
    """

    width: float
    section: Section
    sense: float = -1.0


@dataclass(frozen=True)
class GateSize:
    """Of a gate: its width and depth in mm, and the length of its land before the part."""

    kind: GateKind
    width: float
    depth: float
    land: float


Run = tuple[Point2, Point2]


def net(runs: Sequence[Run], frame: Frame, size: Size) -> Made:
    """Straight runs as one solid, in the role `runner`; their ends are round, or square for trapezoids."""
    parts = [_run(frame, a, b, size) for a, b in runs]
    if size.section == "full round":
        ends = {(round(p[0], 3), round(p[1], 3)) for run in runs for p in run}
        parts += [_ball(frame.point(p), size.width / 2) for p in sorted(ends)]
    whole = boolean.fuse(parts[0].solid, [made.solid for made in parts[1:]], simplify=False) if len(parts) > 1 else None
    return traced_to(whole, [made.origins for made in parts]) if whole else parts[0]


def _role(made: Made, role: str) -> Made:
    return Made(made.solid, tuple((Origin(role),) for _ in made.origins))


def _run(frame: Frame, a: Point2, b: Point2, size: Size) -> Made:
    start, direction = frame.point(a), unit(subtract(frame.point(b), frame.point(a)))
    length = math.dist(a, b)
    if size.section == "full round":
        return _rod(start, direction, frame.normal, size.width / 2, length)
    begin = _across(frame, along(start, direction, -size.width / 2), direction)
    return _role(solid.extrude(_trapezoid(size), begin, length + size.width), "runner")


def _across(frame: Frame, origin: Vec, direction: Vec) -> Frame:
    """The plane square to a way, its y along the frame's normal."""
    return Frame(origin, cross(frame.normal, direction), direction)


def _trapezoid(size: Size) -> Region:
    """As deep as wide, narrower at its floor: nearly round inside."""
    half, deep = size.width / 2, size.sense * size.width
    floor = half - size.width * math.tan(_LEAN)
    corners = [(-half, 0.0), (half, 0.0), (floor, deep), (-floor, deep)]
    if size.sense < 0:
        corners = corners[::-1]
    return Region(tuple(Line2(f"t{k}", corners[k], corners[(k + 1) % 4]) for k in range(4)))


def _rod(start: Vec, direction: Vec, up: Vec, radius: float, length: float) -> Made:
    """A cylinder whose seam lies aside of the parting plane, in which the gates' tops and other seams would meet it."""
    aside = turned(cross(up, direction), direction, _SEAM)
    axes = gp_Ax2(as_point(start), as_dir(direction), as_dir(aside))
    rod = one(BRepPrimAPI_MakeCylinder(axes, radius, length).Shape(), "the runner")
    return Made(rod, ((Origin("runner"),),) * rod.face_count)


def _ball(centre: Vec, radius: float) -> Made:
    axes = gp_Ax2(as_point(centre), as_dir(unit(_SKEW)))
    ball = Solid(BRepPrimAPI_MakeSphere(axes, radius).Shape())
    return Made(ball, ((Origin("runner"),),) * ball.face_count)


def stand_off(gate_size: GateSize, size: Size) -> float:
    """How far a runner ends before the wall, mm, middle of its round end: the land is what stands between that end and the
    wall.
    """
    reach = size.width / 2
    return max(gate_size.land, reach + _BEFORE) if gate_size.kind == "submarine" else gate_size.land + reach


def gate(frame: Frame, at: Point2, inwards: Point2, gate_size: GateSize, size: Size) -> Made:
    """A gate from a runner's end at `at` into the part, whose wall lies `stand_off` mm on along the unit vector `inwards`; in
    the role `gate`.
    """
    start, direction = frame.point(at), subtract(frame.point(inwards), frame.origin)
    if gate_size.kind == "submarine":
        return _diving(frame, start, direction, gate_size, size)
    across = _across(frame, along(start, direction, -0.3 * size.width), direction)
    length = 0.3 * size.width + stand_off(gate_size, size) + _REACH
    narrow = size.width * 0.8 if gate_size.kind == "fan" else gate_size.width
    begin, end = (_flat_section(wide, gate_size.depth, size.sense) for wide in (narrow, gate_size.width))
    if abs(narrow - gate_size.width) < _TINY:
        return _role(solid.extrude(begin, across, length), "gate")
    return _role(loft.loft([(begin, across), (end, across.shifted(length))]).made, "gate")


def _flat_section(width: float, depth: float, sense: float) -> Region:
    half, deep = width / 2, sense * depth
    corners = [(-half, 0.0), (half, 0.0), (half, deep), (-half, deep)]
    if sense < 0:
        corners = corners[::-1]
    return Region(tuple(Line2(f"g{k}", corners[k], corners[(k + 1) % 4]) for k in range(4)))


def _diving(frame: Frame, start: Vec, direction: Vec, gate_size: GateSize, size: Size) -> Made:
    """A cone from the runner's end under the parting line, narrowing to the part's wall."""
    turn = math.radians(_SINK)
    sink = times(frame.normal, size.sense * math.sin(turn))
    dive = unit(
        (
            direction[0] * math.cos(turn) + sink[0],
            direction[1] * math.cos(turn) + sink[1],
            direction[2] * math.cos(turn) + sink[2],
        )
    )
    begin, end, length = _cone(gate_size, size)
    return _role(solid.cone(start, dive, begin, end, length), "gate")


def _cone(gate_size: GateSize, size: Size) -> tuple[float, float, float]:
    """The radii of a submarine gate at its runner and at its tip, and its length, mm."""
    length = stand_off(gate_size, size) / math.cos(math.radians(_SINK)) + _REACH
    return size.width * 0.45, gate_size.width / 2, length


def tucked(gate_size: GateSize, size: Size) -> float:
    """How far the tip of a submarine gate lies behind the lip of steel over it, seen along the pull, mm: so far it must bend
    back to come out. The lip is where the cone's upper flank comes up to the plane.
    """
    begin, end, length = _cone(gate_size, size)
    s, c = math.sin(math.radians(_SINK)), math.cos(math.radians(_SINK))
    ahead, under = length * c + (end - begin) * s, length * s + (begin - end) * c  # along the flank, from its beginning on
    return ahead * (1 - begin * c / under)


def sprue(frame: Frame, at: Point2, outer: float, inner: float, length: float, sense: float) -> Made:
    """A tapered sprue, `inner` mm wide where it meets the plane, `length` mm long to one side of it; role `sprue`."""
    base = frame.point(at)
    return _role(solid.cone(base, times(frame.normal, sense), inner / 2, outer / 2, length), "sprue")


def well(frame: Frame, at: Point2, width: float, depth: float, sense: float) -> Made:
    """A cold-slug well across from the sprue; role `well`."""
    base = frame.point(at)
    return _role(solid.cone(base, times(frame.normal, sense), width / 2, 0.45 * width, depth), "well")
