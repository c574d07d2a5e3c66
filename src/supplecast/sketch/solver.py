"""Finding the coordinates that satisfy every constraint, and how much freedom is left.

Unknowns are point coordinates and radii. Each kind of equation is one NumPy batch that returns residuals in mm and their
gradients; a damped least-norm Newton loop moves loose geometry as little as it can. Tangency at a shared end is an angle
equation, since the distance form is singular there. Checked against scipy.optimize.least_squares in the tests.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from supplecast.errors import SketchError
from supplecast.geometry import Floats, Point2
from supplecast.sketch.model import ORIGIN, Arc, Circle, Constraint, Drawing, Line

_TOLERANCE = 1e-12
_ROUNDS = 60


@dataclass(frozen=True)
class Solution:
    """Solved coordinates (mm) and radii, the freedoms left, and the largest misfit in mm."""

    points: Mapping[str, Point2]
    radii: Mapping[str, float]
    freedoms: int
    misfit: float


_Block = tuple[Floats, NDArray[np.int64], Floats]
"""Residuals, the unknowns each takes part of, and the slopes against those."""

_KINDS = ("linear", "distance", "radial", "turn", "equal")


@dataclass
class _Rows:
    """Equations by kind; every index points into the vector of unknowns, -1 meaning a fixed zero."""

    linear: list[tuple[list[tuple[int, float]], float]] = field(default_factory=list)
    distance: list[tuple[int, int, int, int, float]] = field(default_factory=list)
    radial: list[tuple[int, int, int, int, int]] = field(default_factory=list)
    turn: list[tuple[tuple[int, ...], float, float]] = field(default_factory=list)
    equal: list[tuple[int, ...]] = field(default_factory=list)
    owners: dict[str, list[str]] = field(default_factory=lambda: {kind: [] for kind in _KINDS})


def solve(drawing: Drawing, size: Callable[[str, Constraint], float]) -> Solution:
    """Solve a drawing from where it lies. `size` gives a constraint's value in mm or rad.

    Raises SketchError naming the constraints in conflict.
    """
    system = _System(drawing, size)
    z, misfit = system.newton()
    if misfit > 1e-7:
        raise SketchError(
            "The sizes and constraints of the sketch contradict each other: " + system.worst(z) + ".",
            "Change or remove one of them.",
        )
    freedoms = system.freedoms(z)
    points, radii = system.told(z)
    for name, entity in drawing.entities.items():
        if isinstance(entity, Line) and math.dist(points[entity.a], points[entity.b]) < 1e-7:
            raise SketchError(f"The line {name} has shrunk to nothing.", "Change the sizes that squeeze it.")
        if not isinstance(entity, Line) and radii[name] <= 1e-9:
            raise SketchError(f"The round {name} has no radius left.", "Change the sizes that squeeze it.")
    return Solution(points, radii, freedoms, misfit)


class _System:
    def __init__(self, drawing: Drawing, size: Callable[[str, Constraint], float]) -> None:
        self.drawing = drawing
        self.column: dict[str, int] = {}
        start: list[float] = []
        for name, place in drawing.points.items():
            self.column[name] = len(start)
            start += [place[0], place[1]]
        for name, entity in drawing.entities.items():
            if isinstance(entity, Line):
                continue
            self.column[f"r:{name}"] = len(start)
            start.append(
                entity.r if isinstance(entity, Circle) else math.dist(drawing.place(entity.c), drawing.place(entity.a))
            )
        self.start = np.array(start)
        self.rows = _Rows()
        for name, entity in drawing.entities.items():
            if isinstance(entity, Arc):
                for end in (entity.a, entity.b):
                    self._radial(name, end, f"arc {name}")
        for name, constraint in drawing.constraints.items():
            value = size(name, constraint) if constraint.value is not None else 0.0
            self._add(name, constraint, value)
        self._batch()

    # Unknown numbers of a point; the origin is a fixed zero.
    def _xy(self, point: str) -> tuple[int, int]:
        if point == ORIGIN:
            return (-1, -1)
        column = self.column[point]
        return (column, column + 1)

    def _radial(self, round_name: str, point: str, owner: str) -> None:
        entity = self.drawing.entities[round_name]
        assert isinstance(entity, (Arc, Circle))
        self.rows.radial.append((*self._xy(entity.c), *self._xy(point), self.column[f"r:{round_name}"]))
        self.rows.owners["radial"].append(owner)

    def _add(self, name: str, constraint: Constraint, value: float) -> None:
        on, rows = constraint.on, self.rows
        owner = f"{constraint.type} {constraint.value}" if constraint.value else f"{constraint.type} of {', '.join(on)}"
        linear: list[tuple[list[tuple[int, float]], float]] = []
        match constraint.type:
            case "coincident":
                (ax, ay), (bx, by) = self._xy(on[0]), self._xy(on[1])
                linear = [([(ax, 1), (bx, -1)], 0.0), ([(ay, 1), (by, -1)], 0.0)]
            case "horizontal" | "vertical":
                line = self.drawing.entities[on[0]]
                assert isinstance(line, Line)
                axis = 1 if constraint.type == "horizontal" else 0
                linear = [([(self._xy(line.a)[axis], 1), (self._xy(line.b)[axis], -1)], 0.0)]
            case "level" | "plumb" | "distance x" | "distance y":
                axis = 1 if constraint.type in ("level", "distance y") else 0
                linear = [([(self._xy(on[1])[axis], 1), (self._xy(on[0])[axis], -1)], value)]
            case "midpoint":
                half, a, b = (self._xy(point) for point in on)
                linear = [([(half[i], 1), (a[i], -0.5), (b[i], -0.5)], 0.0) for i in (0, 1)]
            case "radius" | "diameter":
                share = 1.0 if constraint.type == "radius" else 0.5
                linear = [([(self.column[f"r:{on[0]}"], 1)], value * share)]
            case "distance":
                rows.distance.append((*self._xy(on[0]), *self._xy(on[1]), value))
                rows.owners["distance"].append(owner)
            case "on":
                self._radial(on[1], on[0], owner)
            case "equal":
                self._equal(on, owner, linear)
            case "angle":
                line = self.drawing.entities[on[0]]
                assert isinstance(line, Line)
                self._turn((-2, -2, -3, -2, *self._xy(line.a), *self._xy(line.b)), value, owner)
            case "tangent":
                self._tangent(on, owner)
        for row in linear:
            rows.linear.append(row)
            rows.owners["linear"].append(owner)

    def _equal(self, on: tuple[str, ...], owner: str, linear: list[tuple[list[tuple[int, float]], float]]) -> None:
        first, second = (self.drawing.entities[name] for name in on)
        if isinstance(first, Line) and isinstance(second, Line):
            ends = (first.a, first.b, second.a, second.b)
            self.rows.equal.append(tuple(index for point in ends for index in self._xy(point)))
            self.rows.owners["equal"].append(owner)
        else:
            linear.append(([(self.column[f"r:{on[0]}"], 1), (self.column[f"r:{on[1]}"], -1)], 0.0))

    def _tangent(self, on: tuple[str, ...], owner: str) -> None:
        line, arc = self.drawing.entities[on[0]], self.drawing.entities[on[1]]
        assert isinstance(line, Line) and isinstance(arc, Arc)
        a, b, p, c = (np.array(self.drawing.place(q)) for q in (line.a, line.b, on[2], arc.c))
        way, out = b - a, c - p
        # The side on which the centre lies is frozen: it tells the round apart from its mirror image.
        side = 1.0 if way[0] * out[1] - way[1] * out[0] >= 0 else -1.0
        indices = (*self._xy(line.a), *self._xy(line.b), *self._xy(on[2]), *self._xy(arc.c))
        self._turn(indices, side * math.pi / 2, owner)

    def _turn(self, indices: tuple[int, ...], angle: float, owner: str) -> None:
        """The second segment stands at `angle` to the first. Index -2 is the constant 0, -3 the constant 1."""
        places = [self._at(self.start, index) for index in indices]
        u = math.dist(places[0:2], places[2:4])
        v = math.dist(places[4:6], places[6:8])
        self.rows.turn.append((indices, angle, max(u * v / max(math.hypot(u, v), 1e-9), 1e-3)))
        self.rows.owners["turn"].append(owner)

    @staticmethod
    def _at(z: Floats, index: int) -> float:
        return {-1: 0.0, -2: 0.0, -3: 1.0}.get(index, float(z[index]) if index >= 0 else 0.0)

    def _batch(self) -> None:
        rows, n = self.rows, len(self.start)
        # Two spare columns hold the constants 0 and 1, so that fixed ends need no special case.
        self.zero, self.one = n, n + 1

        def fixed(indices: object) -> NDArray[np.int64]:
            array = np.array(indices, dtype=np.int64)
            return np.where(array >= 0, array, np.where(array == -3, self.one, self.zero))

        width = 3
        self.linear_at = fixed([[i for i, _ in r] + [-1] * (width - len(r)) for r, _ in rows.linear] or np.empty((0, 3)))
        self.linear_by = np.array([[c for _, c in r] + [0.0] * (width - len(r)) for r, _ in rows.linear]).reshape(-1, 3)
        self.linear_to = np.array([v for _, v in rows.linear])
        self.distance_at = fixed([r[:4] for r in rows.distance] or np.empty((0, 4)))
        self.distance_to = np.array([r[4] for r in rows.distance])
        self.radial_at = fixed(rows.radial or np.empty((0, 5)))
        self.turn_at = fixed([r[0] for r in rows.turn] or np.empty((0, 8)))
        self.turn_to = np.array([r[1] for r in rows.turn])
        self.turn_weight = np.array([r[2] for r in rows.turn])
        self.equal_at = fixed(rows.equal or np.empty((0, 8)))

    def evaluate(self, z: Floats) -> tuple[Floats, Floats]:
        """Residuals (m,) in mm and their gradient (m, n)."""
        full = np.concatenate([z, [0.0, 1.0]])
        blocks = [
            self._linear(full),
            self._distance(full),
            self._radial_rows(full),
            self._turns(full),
            self._equals(full),
        ]
        residual = np.concatenate([r for r, _, _ in blocks])
        gradient = np.zeros((len(residual), len(full)))
        row = 0
        for values, at, slopes in blocks:
            count = len(values)
            np.add.at(gradient, (np.arange(row, row + count)[:, None], at), slopes)
            row += count
        return residual, gradient[:, : len(z)]

    def _linear(self, full: Floats) -> _Block:
        return (full[self.linear_at] * self.linear_by).sum(axis=1) - self.linear_to, self.linear_at, self.linear_by

    def _distance(self, full: Floats) -> _Block:
        p = full[self.distance_at]
        d = p[:, 2:4] - p[:, 0:2]
        length = np.maximum(np.linalg.norm(d, axis=1), 1e-12)
        e = d / length[:, None]
        return length - self.distance_to, self.distance_at, np.hstack([-e, e])

    def _radial_rows(self, full: Floats) -> _Block:
        p = full[self.radial_at]
        d = p[:, 2:4] - p[:, 0:2]
        length = np.maximum(np.linalg.norm(d, axis=1), 1e-12)
        e = d / length[:, None]
        return length - p[:, 4], self.radial_at, np.hstack([-e, e, -np.ones((len(p), 1))])

    def _turns(self, full: Floats) -> _Block:
        p = full[self.turn_at]
        u, v = p[:, 2:4] - p[:, 0:2], p[:, 6:8] - p[:, 4:6]
        angle = np.arctan2(v[:, 1], v[:, 0]) - np.arctan2(u[:, 1], u[:, 0]) - self.turn_to
        angle = (angle + math.pi) % (2 * math.pi) - math.pi
        du = np.column_stack([u[:, 1], -u[:, 0]]) / np.maximum((u * u).sum(axis=1), 1e-18)[:, None]
        dv = np.column_stack([-v[:, 1], v[:, 0]]) / np.maximum((v * v).sum(axis=1), 1e-18)[:, None]
        w = self.turn_weight
        return w * angle, self.turn_at, w[:, None] * np.hstack([-du, du, -dv, dv])

    def _equals(self, full: Floats) -> _Block:
        p = full[self.equal_at]
        u, v = p[:, 2:4] - p[:, 0:2], p[:, 6:8] - p[:, 4:6]
        lu, lv = np.linalg.norm(u, axis=1), np.linalg.norm(v, axis=1)
        eu, ev = u / np.maximum(lu, 1e-12)[:, None], v / np.maximum(lv, 1e-12)[:, None]
        return lu - lv, self.equal_at, np.hstack([-eu, eu, ev, -ev])

    def newton(self) -> tuple[Floats, float]:
        """Least-norm Newton with Levenberg damping (0.02× on a halving, 8× on a refusal); returns z and max misfit."""
        z, damping = self.start.copy(), 1e-3
        residual, gradient = self.evaluate(z)
        if not len(residual):
            return z, 0.0
        best = float(residual @ residual)
        for _ in range(_ROUNDS):
            if np.abs(residual).max() < _TOLERANCE:
                break
            normal = gradient @ gradient.T + damping * np.eye(len(residual))
            step = gradient.T @ np.linalg.lstsq(normal, -residual, rcond=None)[0]
            tried, slopes = self.evaluate(z + step)
            size = float(tried @ tried)
            if not math.isfinite(size) or size >= best:
                damping = max(damping * 8, 1e-9)
                if damping > 1e9:
                    break
                continue
            damping = max(damping * (0.02 if size < best / 4 else 0.3), 1e-12)
            z, residual, gradient, best = z + step, tried, slopes, size
        return z, float(np.abs(residual).max())

    def freedoms(self, z: Floats) -> int:
        _, gradient = self.evaluate(z)
        if not len(gradient):
            return len(z)
        norms = np.linalg.norm(gradient, axis=1)
        values = np.linalg.svd(gradient[norms > 1e-12] / norms[norms > 1e-12, None], compute_uv=False)
        return len(z) - int((values > 1e-7 * max(float(values[0]), 1e-30)).sum()) if len(values) else len(z)

    def worst(self, z: Floats) -> str:
        residual, _ = self.evaluate(z)
        owners = [owner for kind in _KINDS for owner in self.rows.owners[kind]]
        ranked = sorted(zip(np.abs(residual), owners, strict=True), reverse=True)[:3]
        return ", ".join(f"{owner} ({miss:.3g} mm off)" for miss, owner in ranked if miss > 1e-7)

    def told(self, z: Floats) -> tuple[dict[str, Point2], dict[str, float]]:
        points: dict[str, Point2] = {ORIGIN: (0.0, 0.0)}
        for name in self.drawing.points:
            x, y = self._xy(name)
            points[name] = (float(z[x]), float(z[y]))
        radii = {
            name: float(z[self.column[f"r:{name}"]])
            for name, entity in self.drawing.entities.items()
            if not isinstance(entity, Line)
        }
        return points, radii
