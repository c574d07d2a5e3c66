"""What a drawing's equations leave open, say twice or contradict.

Weak case: at a singular position (a triangle squeezed flat) rank here is less than rank nearby; it is told from a doubled
constraint by looking whether it holds beside that place, solved without it.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from supplecast.geometry import Floats, Point2
from supplecast.sketch.banded import Band, Factor
from supplecast.sketch.equations import SizeOf
from supplecast.sketch.model import ORIGIN, Arc, Constraint, Drawing, Line
from supplecast.sketch.newton import newton
from supplecast.sketch.system import System

_RANK = 1e-7
_DEPENDENT = 1e-6
_MOVES = 1e-6
_SHARE = 1e-5
_BESIDE, _HOLDS = 0.05, 1e-7  # mm: how far aside, and what counts as holding there


@dataclass(frozen=True)
class Freedom:
    """How many freedoms are left, what can still move, and whether some equations depend on others."""

    count: int
    loose: frozenset[str]
    deficient: bool


def freedom(system: System, z: Floats) -> Freedom:
    """Freedoms by the banded factor where the rows are independent, else by the singular values."""
    n, m = len(z), system.count
    if not m:
        return Freedom(n, _loose(system, np.ones(n)), False)
    _, slopes = system.evaluate(z)
    norms = np.sqrt(np.bincount(system.entry_rows, slopes**2, m))
    scaled = slopes / np.maximum(norms, 1e-12)[system.entry_rows]
    band = Band(system.entry_rows, system.entry_columns, m, n)
    factor = band.factored(scaled, 0.0) if norms.min() > 1e-12 else None
    if factor is not None and (factor.least > 1e-4 if not len(band.hubs) else _reaches_all(band, factor, scaled)):
        moves = _projected(band, factor, scaled, n)
        return Freedom(n - m, _loose(system, moves), False)
    dense = system.dense(scaled)
    _, values, basis = np.linalg.svd(dense, full_matrices=True)
    rank = int((values > _RANK * max(float(values[0]), 1e-30)).sum())
    moves = np.abs(basis[rank:]).max(axis=0, initial=0.0)
    return Freedom(n - rank, _loose(system, moves), rank < m)


def _reaches_all(band: Band, factor: Factor, slopes: Floats) -> bool:
    """Whether every right side can be met, tried with three at random: then no row depends on others."""
    wanted = np.random.default_rng(3).normal(size=(band.m, 3))
    for right in wanted.T:
        met = band.times(slopes, band.transposed(slopes, band.solve(factor, right)))
        if float(np.abs(met - right).max()) > 1e-3:
            return False
    return True


def _projected(band: Band, factor: Factor, slopes: Floats, n: int) -> Floats:
    """How far three random wishes move each unknown once the equations have had their say, (n,)."""
    wishes = np.random.default_rng(1).normal(size=(3, n))
    moved = np.zeros(n)
    for wish in wishes:
        for _ in range(2):
            wish = wish - band.transposed(slopes, band.solve(factor, band.times(slopes, wish)))
        moved = np.maximum(moved, np.abs(wish))
    return moved


def _rounds(system: System) -> frozenset[str]:
    return frozenset(system.rounds)


def _loose(system: System, moves: Floats) -> frozenset[str]:
    """Points that can move and rounds whose radius can change."""

    def free(scalar: str) -> bool:
        column = system.column[scalar]
        return bool(column < len(moves) and moves[column] > _MOVES)

    points = {name for name in system.drawing.points if free(f"{name}.x") or free(f"{name}.y")}
    return frozenset(points | {name for name in _rounds(system) if free(f"{name}.r")})


@dataclass(frozen=True)
class Doubled:
    """Constraints, youngest of each group, that follow from older ones; and how many equations seem to follow from others only
    because they hold at an extreme, as a line of the one length that just reaches touches: they fix something all the same.
    """

    names: tuple[str, ...]
    extremes: int


def said_twice(drawing: Drawing, size: SizeOf, at: Mapping[str, float]) -> Doubled:
    """What is said twice at a place where rank is short."""
    whole, z = _whole(drawing, size, at)
    spare = Counter(whole.owners[rows[0]] for rows in _circuits(whole, z))
    rows_of = Counter(whole.owners)
    names, extremes = [], 0
    for name, count in spare.items():
        # That an arc's ends lie on its circle follows of itself in many copies: nobody has said it, so it is not said twice.
        # And what says two things is needed while one of them is news.
        if name in drawing.constraints and count == rows_of[name]:
            if _follows(drawing, size, name, whole, z):
                names.append(name)
            else:
                extremes += count
    return Doubled(tuple(names), extremes)


def _follows(drawing: Drawing, size: SizeOf, name: str, whole: System, z: Floats) -> bool:
    """Whether a constraint holds wherever the others do: beside this place, solved without it."""
    others = {k: held for k, held in drawing.constraints.items() if k != name}
    rest = System(drawing.model_copy(update={"constraints": others}), size, merged=False)
    start = rest.z.copy()
    for scalar, column in rest.column.items():
        if column < len(start):  # the others are the origin's
            start[column] = whole.scalar(z, scalar)
    beside, _ = newton(rest, start + np.random.default_rng(2).normal(scale=_BESIDE, size=len(start)))
    there = z.copy()
    for scalar, column in whole.column.items():
        if column < len(there):
            there[column] = rest.scalar(beside, scalar)
    residual, _ = whole.evaluate(there)
    return bool(np.abs(residual[[row for row, owner in enumerate(whole.owners) if owner == name]]).max() < _HOLDS)


def circuit(drawing: Drawing, size: SizeOf, name: str) -> tuple[str, ...]:
    """The constraints that together say what `name` says, itself included; none if it says something of its own."""
    whole = System(drawing, size, merged=False)
    mine = [rows for rows in _circuits(whole, whole.z) if any(whole.owners[row] == name for row in rows)]
    owners = dict.fromkeys(whole.owners[row] for rows in mine[:1] for row in rows)
    return tuple(owner for owner in owners if owner in drawing.constraints)


def conflict(drawing: Drawing, size: SizeOf, at: Mapping[str, float], start: Mapping[str, float]) -> tuple[str, ...]:
    """The constraints that contradict each other, youngest first; none if no such group is found.

    Looked for at the best place that was found and, where that is squeezed to nothing, at the start.
    """
    clashing = _clashing(drawing, size, at)
    return clashing if len(clashing) > 1 else _clashing(drawing, size, start) or clashing


def _clashing(drawing: Drawing, size: SizeOf, at: Mapping[str, float]) -> tuple[str, ...]:
    whole, z = _whole(drawing, size, at)
    residual, _ = whole.evaluate(z)
    groups = [rows for rows in _circuits(whole, z) if np.abs(residual[rows]).max() > 1e-7]
    if not groups:
        return ()
    worst = max(groups, key=lambda rows: float(np.abs(residual[rows]).max()))
    owners = dict.fromkeys(whole.owners[row] for row in sorted(worst, key=lambda row: -row))
    return tuple(name for name in owners if name in drawing.constraints)


def _whole(drawing: Drawing, size: SizeOf, at: Mapping[str, float]) -> tuple[System, Floats]:
    """All equations, none merged, at given scalars."""
    whole = System(drawing, size, merged=False)
    z = whole.z.copy()
    for name, value in at.items():
        z[whole.column[name]] = value
    return whole, z


def _circuits(system: System, z: Floats) -> list[list[int]]:
    """Groups of rows that depend on each other: each begins with the youngest, which follows from the others."""
    _, slopes = system.evaluate(z)
    dense = system.dense(slopes)
    norms = np.linalg.norm(dense, axis=1)
    rows = dense / np.maximum(norms, 1e-12)[:, None]
    basis = np.zeros((0, rows.shape[1]))
    used: list[int] = []
    circuits = []
    for index, row in enumerate(rows):
        rest = row.copy()
        for _ in range(2):
            rest = rest - basis.T @ (basis @ rest)
        length = float(np.linalg.norm(rest))
        if norms[index] > 1e-12 and length > _DEPENDENT:
            basis = np.vstack([basis, rest / length])
            used.append(index)
            continue
        shares = np.linalg.lstsq(rows[used].T, row, rcond=None)[0] if used else np.empty(0)
        circuits.append([index, *(used[i] for i in np.nonzero(np.abs(shares) > _SHARE)[0])])
    return circuits


def measured(constraint: Constraint, points: Mapping[str, Point2], radii: Mapping[str, float], drawing: Drawing) -> float:
    """What a size comes to in a solved drawing, in mm or rad."""

    def at(name: str) -> Floats:
        return np.array(points.get(name, (0.0, 0.0)) if name != ORIGIN else (0.0, 0.0))

    def direction(name: str) -> Floats:
        line = drawing.entities[name]
        assert isinstance(line, Line)
        return at(line.b) - at(line.a)

    def away(point: str, line: str) -> float:
        held = drawing.entities[line]
        assert isinstance(held, Line)
        u, off = direction(line), at(point) - at(held.a)
        return abs(float(u[0] * off[1] - u[1] * off[0])) / max(math.hypot(*u), 1e-12)

    def centre(name: str) -> str:
        return str(drawing.entities[name].c)  # type: ignore[union-attr]

    on = constraint.on
    match constraint.type:
        case "radius":
            return radii[on[0]]
        case "diameter":
            return 2 * radii[on[0]]
        case "radius apart":
            return abs(radii[on[0]] - radii[on[1]])
        case "distance x" | "distance y":
            return float((at(on[1]) - at(on[0]))[0 if constraint.type == "distance x" else 1])
        case "distance" | "across" if on[1] in drawing.entities:
            return away(on[0], on[1]) * (2 if constraint.type == "across" else 1)
        case "distance":
            return math.dist(at(on[0]), at(on[1]))
        case "distance near" | "distance far":
            r = radii[on[1]]
            far = constraint.type == "distance far"
            if isinstance(drawing.entities.get(on[0]), Line):
                between, r0 = away(centre(on[1]), on[0]), 0.0
                return between + r if far else between - r
            point, r0 = (centre(on[0]), radii[on[0]]) if on[0] in drawing.entities else (on[0], 0.0)
            between = math.dist(at(point), at(centre(on[1])))
            if far:
                return between + r + r0
            return between - r - r0 if between >= max(r, r0) else abs(r - r0) - between
        case "arc length":
            arc = drawing.entities[on[0]]
            assert isinstance(arc, Arc)
            u, v = at(arc.a) - at(arc.c), at(arc.b) - at(arc.c)
            turn = math.atan2(v[1], v[0]) - math.atan2(u[1], u[0])
            return radii[on[0]] * ((-turn if arc.cw else turn) % (2 * math.pi))
        case "turned":
            u, v = at(on[0]) - at(on[2]), at(on[1]) - at(on[2])
            turn = math.atan2(v[1], v[0]) - math.atan2(u[1], u[0])
            return ((turn + math.pi) % (2 * math.pi) - math.pi) / (constraint.times or 1)
        case _:
            u = np.array([1.0, 0.0]) if len(on) == 1 else direction(on[0])
            v = direction(on[-1])
            u, v = (-u if constraint.sector & 1 else u), (-v if constraint.sector & 2 else v)
            turn = math.atan2(v[1], v[0]) - math.atan2(u[1], u[0])
            return (turn + math.pi) % (2 * math.pi) - math.pi
