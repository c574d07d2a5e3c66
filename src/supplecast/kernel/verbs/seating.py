"""Bodies seated on others by pairs of faces, axes and points.

Every pair is a few equations of the rigid motion. They are solved by Gauss and Newton, each step the shortest there is, so that
a body turns and moves no further than its pairs ask for; what the equations leave open is the freedom that is left.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from OCP.gp import gp_Trsf

from supplecast.errors import KernelError
from supplecast.geometry import Axis, Floats, Vec, cross, dot, times, unit, vec
from supplecast.kernel.verbs.move import Motion

_ROUNDS, _LONGEST = 60, 0.6  # Newton steps, and how far one of them may turn, rad
_CLOSE = 1e-10
_HELD = 1e-7
_TURNS = (0.0, math.pi, math.pi / 2, -math.pi / 2)

Kind = Literal["facing", "flush", "axis", "point"]


@dataclass(frozen=True)
class Pair:
    """What of the moved body comes to what of another: a point on each with its normal or direction. Flat faces are `facing`
    or `flush`, `gap` mm apart; an `axis` comes in line with another, either way round; a `point` onto another.
    """

    kind: Kind
    mine: Axis
    onto: Axis
    gap: float = 0.0


class Clash(KernelError):
    """Pair number `pair` does not hold together with those before it."""

    def __init__(self, message: str, hint: str, pair: int) -> None:
        super().__init__(message, hint)
        self.pair = pair


@dataclass(frozen=True)
class Seat:
    """A motion: `turn` (3, 3), then `shift` mm. What it leaves free: `slides`, square to each other, and turning about `spin`;
    `turns` counts all ways to turn that are left.
    """

    turn: Floats
    shift: Floats
    slides: tuple[Vec, ...]
    spin: Axis | None
    turns: int

    @property
    def motion(self) -> Motion:
        rows = np.hstack([self.turn, self.shift[:, None]]).reshape(-1).tolist()
        made = gp_Trsf()
        made.SetValues(*rows)
        return Motion(made)

    def place(self, p: Vec) -> Vec:
        """Where a point of the body comes to lie."""
        return vec(self.turn @ np.array(p) + self.shift)

    def moved(self, by: Sequence[float], angle: float) -> Seat:
        """The same, moved along its slides by so many mm each, and turned about its spin by `angle` rad."""
        turn, shift = self.turn, self.shift
        if self.spin and angle:
            more, foot = _turning(np.array(self.spin.direction) * angle), np.array(self.spin.point)
            turn, shift = more @ turn, more @ (shift - foot) + foot
        for far, way in zip(by, self.slides, strict=False):
            shift = shift + far * np.array(way)
        return Seat(turn, shift, self.slides, self.spin, self.turns)


def seated(pairs: Sequence[Pair], size: float, prefer: Sequence[Vec] = ()) -> Seat:
    """The seat of a body about as large as `size` mm, turned and moved as little as its pairs allow, the earlier ones first.

    The first slides are those nearest to the directions in `prefer`. Clash where a pair does not hold with those before it.
    """
    turn, shift = _first(pairs[0])
    for count in range(2, len(pairs) + 1):
        turn, shift = _further(pairs[:count], turn, shift, size)
    return _with_freedom(pairs, turn, shift, size, prefer)


def off(pairs: Sequence[Pair], seat: Seat) -> float:
    """How far the worst of some pairs is off by a seat, mm or rad."""
    return float(np.abs(_equations(pairs, seat.turn, seat.shift, 1.0)[0]).max())


def _first(pair: Pair) -> tuple[Floats, Floats]:
    """The seat by one pair: faces with their middles over each other, axes moved square to themselves."""
    mine, onto = np.array(pair.mine.point), np.array(pair.onto.point)
    if pair.kind == "point":
        return np.eye(3), onto - mine
    goal = pair.onto.direction
    if pair.kind == "facing" or (pair.kind == "axis" and dot(pair.mine.direction, goal) < 0):
        goal = times(goal, -1.0)
    turn = _between(pair.mine.direction, goal)
    shift = onto + pair.gap * np.array(pair.onto.direction) - turn @ mine
    if pair.kind == "axis":
        along = np.array(pair.onto.direction)
        shift = shift - along * ((turn @ mine + shift - mine) @ along)
    return turn, shift


def _between(a: Vec, b: Vec) -> Floats:
    """The shortest turn that brings one direction into another."""
    axis, angle = cross(a, b), math.acos(max(-1.0, min(1.0, dot(a, b))))
    if dot(axis, axis) < 1e-24:
        helper: Vec = (1.0, 0.0, 0.0) if abs(a[0]) < 0.9 else (0.0, 1.0, 0.0)
        axis = cross(a, helper)
    return _turning(np.array(unit(axis), dtype=np.float64) * angle)


def _further(pairs: Sequence[Pair], turn: Floats, shift: Floats, size: float) -> tuple[Floats, Floats]:
    """All of some pairs, begun from where those but the last hold: turned about the first one's direction, if need be."""
    worst = None
    for begin in _TURNS:
        about = _turning(np.array(pairs[0].onto.direction) * begin)
        foot = np.array(pairs[0].onto.point)
        found, moved, left = _solved(pairs, about @ turn, about @ (shift - foot) + foot, size)
        if left < _CLOSE:
            return found, moved
        if worst is None or left < worst[2]:
            worst = found, moved, left
    assert worst is not None
    raise _clash(pairs, *worst[:2])


def _solved(pairs: Sequence[Pair], turn: Floats, shift: Floats, size: float) -> tuple[Floats, Floats, float]:
    left = math.inf
    for _ in range(_ROUNDS):
        values, slopes = _equations(pairs, turn, shift, size)
        left = float(np.abs(values).max())
        if left < _CLOSE / 100:
            break
        step = np.asarray(np.linalg.lstsq(slopes, -values, rcond=1e-9)[0], dtype=np.float64)
        step *= min(1.0, _LONGEST / max(float(np.linalg.norm(step[:3])), 1e-300))
        foot = turn @ np.array(pairs[0].mine.point) + shift
        more = _turning(step[:3])
        turn, shift = more @ turn, more @ (shift - foot) + foot + size * step[3:]
    u, _, v = np.linalg.svd(turn)
    return u @ v, shift, left


def _equations(pairs: Sequence[Pair], turn: Floats, shift: Floats, size: float) -> tuple[Floats, Floats]:
    """What the pairs are off by, lengths in `size`, and its slopes by a turn about the first pair's point and by a shift."""
    values, slopes = [], []
    foot = turn @ np.array(pairs[0].mine.point) + shift
    for pair in pairs:
        at = turn @ np.array(pair.mine.point) + shift
        way, goal = turn @ np.array(pair.mine.direction), np.array(pair.onto.direction)
        off, arm = at - np.array(pair.onto.point), at - foot
        moves = np.hstack([-_crossing(arm) / size, np.eye(3)])  # of the point, by a turn and by a shift
        turns = np.hstack([-_crossing(way), np.zeros((3, 3))])
        if pair.kind == "point":
            values.append(off / size)
            slopes.append(moves)
        elif pair.kind == "axis":
            across = np.eye(3) - np.outer(goal, goal)
            values += [np.cross(goal, way), across @ off / size]
            slopes += [_crossing(goal) @ turns, across @ moves]
        else:
            sense = 1.0 if pair.kind == "facing" else -1.0
            values += [way + sense * goal, np.array([(off @ goal - pair.gap) / size])]
            slopes += [turns, (goal @ moves)[None]]
    return np.concatenate(values), np.vstack(slopes)


def _clash(pairs: Sequence[Pair], turn: Floats, shift: Floats) -> Clash:
    values, _ = _equations(pairs, turn, shift, 1.0)
    rows, at = [], 0
    for pair in pairs:
        angles = 0 if pair.kind == "point" else 3
        count = 1 if pair.kind in ("facing", "flush") else 3
        rows.append(
            (np.abs(values[at : at + angles]).max(initial=0.0), np.abs(values[at + angles : at + angles + count]).max())
        )
        at += angles + count
    lean, far = (float(max(column)) for column in zip(*rows, strict=True))
    what = f"{math.degrees(lean):.3g}°" if lean > 1e-6 else f"{far:.4g} mm"
    return Clash(
        f"This pair does not hold together with those before it: they would be {what} off.",
        "Take the pair out, or pick others.",
        len(pairs) - 1,
    )


def _with_freedom(pairs: Sequence[Pair], turn: Floats, shift: Floats, size: float, prefer: Sequence[Vec]) -> Seat:
    _, slopes = _equations(pairs, turn, shift, size)
    slides = _kernel(slopes[:, 3:])
    free = _kernel(slopes)
    foot = turn @ np.array(pairs[0].mine.point) + shift
    ways = list[Vec]()
    for way in [*map(np.array, prefer), *np.eye(3), *slides]:
        inside = slides.T @ (slides @ way) if len(slides) else np.zeros(3)
        inside = inside - sum((np.array(w) * (inside @ np.array(w)) for w in ways), np.zeros(3))
        if float(np.linalg.norm(inside)) > 0.1 and len(ways) < len(slides):
            ways.append(unit(vec(inside)))
    turns = len(free) - len(slides)
    return Seat(turn, shift, tuple(ways), _spin(free, slides, foot, pairs[0].onto.direction, size) if turns else None, turns)


def _spin(free: Floats, slides: Floats, foot: Floats, prefer: Vec, size: float) -> Axis:
    """Of the ways to turn that are left, the one nearest to a direction, about an axis through `foot` where it can be."""
    weights = free[:, :3] @ np.array(prefer)
    if np.linalg.norm(weights) < _HELD:
        weights = np.linalg.svd(free[:, :3])[0][:, 0]
    twist = weights @ free
    length = float(np.linalg.norm(twist[:3]))
    about, along = twist[:3] / length, size * twist[3:] / length
    along = along - slides.T @ (slides @ along) if len(slides) else along
    return Axis(vec(foot + np.cross(about, along)), vec(about))


def _kernel(rows: Floats) -> Floats:
    """Directions, one a row, along which some equations do not change."""
    _, sizes, turned = np.linalg.svd(rows)
    rank = int((sizes > _HELD).sum())
    rest: Floats = turned[rank:]
    return rest


def _turning(by: Floats) -> Floats:
    """A turn about a direction, by its length in rad (Rodrigues, 1840)."""
    angle = float(np.linalg.norm(by))
    if angle == 0.0:
        return np.eye(3)
    k = _crossing(by / angle)
    return np.eye(3) + math.sin(angle) * k + (1 - math.cos(angle)) * k @ k


def _crossing(a: Floats) -> Floats:
    """The matrix by which a vector is crossed with another."""
    x, y, z = a
    return np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
