"""Runners: how they branch from the sprue to the gates, how long each way is, and how wide they and their gates should be."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.geometry import Point2

_SAME = 1e-3  # mm: places that differ by less lie in one line
_BRANCH = 0.5  # of the way to the gates: where runners part that part again farther on
GATE_DEPTH = 0.6  # of the wall: thickness of an edge gate (common practice, from memory: 0.5 to 0.8)
GATE_WIDTH = 3.0  # of its thickness (common practice, from memory: 2 to 4)
SHEAR = 40_000.0  # 1/s in a gate (common practice, from memory: 20,000 to 60,000 by resin)
SUB_GATE = 0.5  # of the wall: diameter of a submarine gate where it breaks in (common practice, from memory)


@dataclass(frozen=True)
class Net:
    """Straight runs between points of the parting plane, and the length of the way from the sprue to each gate, mm, in the
    order of the gates; `turns` are the points where ways part, with the axis along which they do.
    """

    gates: tuple[Point2, ...]
    runs: tuple[tuple[Point2, Point2], ...]
    lengths: tuple[float, ...]
    turns: tuple[tuple[Point2, int], ...]

    @property
    def total(self) -> float:
        return sum(math.dist(a, b) for a, b in self.runs)

    @property
    def balance(self) -> float:
        """The shortest way over the longest: 1 for a balanced net."""
        return min(self.lengths) / max(self.lengths) if max(self.lengths) else 1.0


def net(sprue: Point2, gates: Sequence[Point2], approach: int) -> Net:
    """The runs from a sprue to gates, which are reached along axis `approach`, 0 or 1. Where gates lie in a grid of 1, 2, 4,
    8 or 16 about the sprue, all ways are equally long.

    Groups are parted in turn along one axis and the other; where that cannot go on evenly, a comb runs along the row.
    """
    made = _Growing(approach, [], {}, [])
    made.branch(sprue, list(enumerate(gates)), None, 0.0)
    return Net(tuple(gates), tuple(made.runs), tuple(made.lengths[number] for number in range(len(gates))), tuple(made.turns))


Gate = tuple[int, Point2]


@dataclass
class _Growing:
    approach: int
    runs: list[tuple[Point2, Point2]]
    lengths: dict[int, float]
    turns: list[tuple[Point2, int]]

    def branch(self, at: Point2, gates: list[Gate], last: int | None, so_far: float) -> None:
        if len(gates) == 1:
            number, gate = gates[0]
            self.lengths[number] = so_far + self.line(at, gate)
            return
        axis = self._next_axis(gates, last)
        low, high = _halved(gates, axis)
        aside = sum(gate[1 - axis] for _, gate in gates) / len(gates) - at[1 - axis]
        if len(low) != len(high) or (axis == last and abs(aside) < _SAME):
            self.comb(at, gates, axis, so_far)
            return
        if axis == last:  # parted along the same axis again: first a step aside, or the run would lie on the one before
            spot = _with(at, 1 - axis, at[1 - axis] + _BRANCH * aside)
            so_far, at = so_far + self.line(at, spot), spot
        self.turns.append((at, axis))
        for group in (low, high):
            target = sum(gate[axis] for _, gate in group) / len(group)
            # Where runners on their way to the gates part once more across it, they stop short to do so.
            at_gates = axis == self.approach and len(group) > 1 and _spread(group, axis) < _SAME
            share = _BRANCH if at_gates else 1.0
            spot = _with(at, axis, at[axis] + share * (target - at[axis]))
            self.branch(spot, group, axis, so_far + self.line(at, spot))

    def _next_axis(self, gates: list[Gate], last: int | None) -> int:
        """Across the approach first, then in turns as long as there is something to part."""
        first = 1 - self.approach if last is None else 1 - last
        return first if _spread(gates, first) > _SAME else 1 - first

    def comb(self, at: Point2, gates: list[Gate], axis: int, so_far: float) -> None:
        """A run along one axis with a branch at every place where gates are."""
        places = sorted({round(gate[axis], 6) for _, gate in gates})
        for side in ([p for p in places if p < at[axis] - _SAME][::-1], [p for p in places if p > at[axis] + _SAME]):
            spot = at
            for place in side:
                onward = _with(at, axis, place)
                self.line(spot, onward)
                spot = onward
        for number, gate in gates:
            spot = _with(at, axis, gate[axis])
            self.lengths[number] = so_far + abs(gate[axis] - at[axis]) + self.line(spot, gate)

    def line(self, a: Point2, b: Point2) -> float:
        """A run, with a corner where it is not straight along an axis, arriving along the approach; its length."""
        if min(abs(a[0] - b[0]), abs(a[1] - b[1])) > _SAME:
            corner = _with(a, 1 - self.approach, b[1 - self.approach])
            return self.line(a, corner) + self.line(corner, b)
        length = math.dist(a, b)
        if length > _SAME:
            self.runs.append((a, b))
        return length


def _spread(gates: Sequence[Gate], axis: int) -> float:
    values = [gate[axis] for _, gate in gates]
    return max(values) - min(values)


def _halved(gates: list[Gate], axis: int) -> tuple[list[Gate], list[Gate]]:
    """Gates on both sides of their middle along an axis; all in the first where one lies on it."""
    values = [gate[axis] for _, gate in gates]
    middle = (max(values) + min(values)) / 2
    if any(abs(value - middle) < _SAME for value in values):
        return gates, []
    return [g for g in gates if g[1][axis] < middle], [g for g in gates if g[1][axis] > middle]


def _with(point: Point2, axis: int, value: float) -> Point2:
    return (value, point[1]) if axis == 0 else (point[0], value)


_LEAST = {
    "ABS": 4.8, "PC": 4.8, "PC/ABS": 6.4, "PMMA": 7.5, "POM": 3.2, "PP": 4.8, "PS": 3.2, "PBT": 4.8, "PET": 4.8, "TPU": 6.4,
}  # fmt: skip
_ANY = 3.0


def least_width(resin: str) -> float:
    """Mm under which a runner freezes before the part is full, by resin: the lower ends of the usual table of runner diameters
    (common practice, from memory); 3 for those not in it, polyamides and polyethylenes among them, which flow in less.
    """
    return _LEAST.get(resin, _ANY)


def runner_width(mass: float, length: float, resin: str = "") -> float:
    """Diameter in mm of the runner for a molding of so many grams, so many mm long: √m · ⁴√L / 3.7 (common practice, from
    memory), rounded up to half a millimetre and not under what the resin asks for.
    """
    wide = math.sqrt(max(mass, 0.0)) * math.sqrt(math.sqrt(max(length, 1.0))) / 3.7
    return math.ceil(2 * max(wide, least_width(resin))) / 2


def gate_width(flow: float, depth: float) -> float:
    """mm of a flat gate that lets `flow` mm³/s through without shearing it harder than is usual."""
    return 6 * flow / (SHEAR * depth**2)


def shear_rate(flow: float, width: float, depth: float) -> float:
    """1/s at the wall of a flat gate, `flow` in mm³/s, sizes in mm: 6 Q / (w h²), the flow between parallel plates."""
    return 6 * flow / (width * depth**2)
