"""A drawing as equations: unknown numbers, one NumPy batch for each kind of equation, residuals in mm and their gradients.

Unknowns are point coordinates and radii. Numbers that a constraint makes equal, or sets to a value, are merged before solving
(coincident, horizontal, vertical, level, plumb, fix, radius), unless that would merge more than a few radii into one: such a
hub would touch nearly every equation. Signs and branches are frozen from where the drawing lies, so that a round stays on its
side. Tangency at a shared end is an angle equation: its distance form has the same gradient as the end lying on the round, and
the system would look as if something were said twice.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from supplecast.errors import SketchError
from supplecast.geometry import Floats, Point2
from supplecast.sketch.model import ORIGIN, Arc, Circle, Constraint, Drawing, Ellipse, Line, Shape, Spline, stands_on

Indices = NDArray[np.int64]
SizeOf = Callable[[str, Constraint], float]
_MOST_MERGED_RADII = 10
_TINY = 1e-12
_SAME = 1e-9


@dataclass(frozen=True)
class Equation:
    """One row: its kind, the scalars it reads, its constants, and the constraint (or arc) it says."""

    kind: str
    at: tuple[str, ...]
    constants: tuple[float, ...]
    owner: str


@dataclass
class _Batch:
    rows: list[int] = field(default_factory=list)
    at: list[list[int]] = field(default_factory=list)
    constants: list[tuple[float, ...]] = field(default_factory=list)


Values = tuple[Floats, Floats]
"""Residuals (k,) and their slopes (k, w) against the scalars the equations read."""


def _unit(d: Floats) -> tuple[Floats, Floats]:
    length = np.maximum(np.hypot(d[:, 0], d[:, 1]), _TINY)
    return length, d / length[:, None]


def _sum(p: Floats, c: Floats) -> Values:
    """c0·p0 + c1·p1 + c2·p2 − c3."""
    return (p * c[:, :3]).sum(axis=1) - c[:, 3], c[:, :3]


def _distance(p: Floats, c: Floats) -> Values:
    length, e = _unit(p[:, 2:4] - p[:, :2])
    return length - c[:, 0], np.hstack([-e, e])


def _on_round(p: Floats, c: Floats) -> Values:
    """Distance of a point (first) from a centre, less the radius."""
    length, e = _unit(p[:, :2] - p[:, 2:4])
    return length - p[:, 4], np.hstack([e, -e, -np.ones((len(p), 1))])


def _height(p: Floats, c: Floats, r: Floats | None = None) -> Values:
    """Signed distance of a point (first) from the line a–b, times a frozen sign, less a constant or a radius."""
    point, a, b = p[:, :2], p[:, 2:4], p[:, 4:6]
    length, u = _unit(b - a)
    n = np.column_stack([-u[:, 1], u[:, 0]])
    away = point - a
    t = ((away * u).sum(axis=1) / length)[:, None]
    s = c[:, :1]
    value = s[:, 0] * (n * away).sum(axis=1) - c[:, 1]
    slopes = [s * n, -s * (1 - t) * n, -s * t * n]
    if r is not None:
        value, slopes = value - r, [*slopes, -np.ones((len(p), 1))]
    return value, np.hstack(slopes)


def _touching_line(p: Floats, c: Floats) -> Values:
    """A round (centre first, radius last) that touches a line without a shared point."""
    return _height(p, np.column_stack([c[:, 0], np.zeros(len(c))]), p[:, 6])


def _touching_round(p: Floats, c: Floats) -> Values:
    """Two rounds that touch without a shared point: |c1c2| = s1·r1 + s2·r2."""
    length, e = _unit(p[:, 2:4] - p[:, :2])
    return length - c[:, 0] * p[:, 4] - c[:, 1] * p[:, 5], np.hstack([-e, e, -c[:, :1], -c[:, 1:2]])


def _turn(p: Floats, c: Floats) -> Values:
    """Angle from u = a–b to v = c–d, less a constant, within ±π, weighted to mm."""
    u, v = p[:, 2:4] - p[:, :2], p[:, 6:8] - p[:, 4:6]
    angle = np.arctan2(v[:, 1], v[:, 0]) - np.arctan2(u[:, 1], u[:, 0]) - c[:, 0]
    angle = (angle + math.pi) % (2 * math.pi) - math.pi
    du = np.column_stack([u[:, 1], -u[:, 0]]) / np.maximum((u * u).sum(axis=1), 1e-18)[:, None]
    dv = np.column_stack([-v[:, 1], v[:, 0]]) / np.maximum((v * v).sum(axis=1), 1e-18)[:, None]
    w = c[:, 1]
    return w * angle, w[:, None] * np.hstack([-du, du, -dv, dv])


def _equal(p: Floats, c: Floats) -> Values:
    lu, eu = _unit(p[:, 2:4] - p[:, :2])
    lv, ev = _unit(p[:, 6:8] - p[:, 4:6])
    return lu - lv, np.hstack([-eu, eu, ev, -ev])


def _halfway(p: Floats, c: Floats) -> Values:
    """The middle of two points lies on the line a–b."""
    middle = np.hstack([(p[:, :2] + p[:, 2:4]) / 2, p[:, 4:8]])
    value, slopes = _height(middle, np.column_stack([np.ones(len(p)), np.zeros(len(p))]))
    return value, np.hstack([slopes[:, :2] / 2, slopes[:, :2] / 2, slopes[:, 2:]])


def _square(p: Floats, c: Floats) -> Values:
    """Two points lie square across the line a–b."""
    d, line = p[:, 2:4] - p[:, :2], p[:, 6:8] - p[:, 4:6]
    length, u = _unit(line)
    along = (d * u).sum(axis=1)
    turn = (d - along[:, None] * u) / length[:, None]
    return along, np.hstack([-u, u, -turn, turn])


def _apart(p: Floats, c: Floats) -> Values:
    """Distance of two points, times a sign, and two radii, times theirs, less a size."""
    length, e = _unit(p[:, 2:4] - p[:, :2])
    g = c[:, :1]
    return g[:, 0] * length + (p[:, 4:6] * c[:, 1:3]).sum(axis=1) - c[:, 3], np.hstack([-g * e, g * e, c[:, 1:3]])


def _beside(p: Floats, c: Floats) -> Values:
    """Signed distance of a centre (first) from the line a–b and a radius (last), times a sign, less a size."""
    value, slopes = _height(p[:, :6], np.column_stack([c[:, 0], c[:, 2]]))
    return value + c[:, 1] * p[:, 6], np.hstack([slopes, c[:, 1:2]])


def _arc_length(p: Floats, c: Floats) -> Values:
    """Radius (last) times the angle from a to b about a centre (first), run through in a frozen sense, less a size."""
    u, v = p[:, 2:4] - p[:, :2], p[:, 4:6] - p[:, :2]
    sign = c[:, :1]
    angle = np.arctan2(v[:, 1], v[:, 0]) - np.arctan2(u[:, 1], u[:, 0])
    angle = np.mod(sign[:, 0] * angle, 2 * math.pi)
    du = np.column_stack([u[:, 1], -u[:, 0]]) / np.maximum((u * u).sum(axis=1), 1e-18)[:, None]
    dv = np.column_stack([-v[:, 1], v[:, 0]]) / np.maximum((v * v).sum(axis=1), 1e-18)[:, None]
    r = p[:, 6:7]
    return r[:, 0] * angle - c[:, 1], np.hstack([-sign * r * (du + dv), sign * r * du, sign * r * dv, angle[:, None]])


def _linear(p: Floats, c: Floats) -> Values:
    """Six scalars, each with its factor, less a size."""
    return (p * c[:, :6]).sum(axis=1) - c[:, 6], c[:, :6]


def _by_complex_step(residual: Callable[[NDArray[np.complex128], Floats], NDArray[np.complex128]]) -> Any:
    """An equation whose slopes come from a complex step, all scalars at once: exact to rounding (Squire and Trapp 1998)."""

    def evaluate(p: Floats, c: Floats) -> Values:
        k, w = p.shape
        stepped = np.repeat(p[None].astype(complex), w + 1, axis=0)
        stepped[np.arange(1, w + 1), :, np.arange(w)] += 1e-30j
        found = residual(stepped.reshape(-1, w), np.tile(c, (w + 1, 1))).reshape(w + 1, k)
        return found[0].real, (found[1:].imag / 1e-30).T

    return evaluate


def _on_ellipse(p: NDArray[np.complex128], c: Floats) -> NDArray[np.complex128]:
    """Distance, to first order, of a point (first) from an ellipse: centre, end of its long half-axis, short half-axis."""
    q, e, b = p[:, :2] - p[:, 2:4], p[:, 4:6] - p[:, 2:4], p[:, 6]
    squared = (e * e).sum(axis=1)
    length = np.sqrt(squared)
    along, across = (q * e).sum(axis=1) / squared, (e[:, 0] * q[:, 1] - e[:, 1] * q[:, 0]) / length
    value = along**2 + across**2 / b**2 - 1
    slope = 2 * np.sqrt((along / length) ** 2 + (across / b**2) ** 2)
    return np.asarray(value / np.where(np.abs(slope) < 1e-9, 1e-9, slope))


def _touching_ellipse(p: NDArray[np.complex128], c: Floats) -> NDArray[np.complex128]:
    """A line a–b that touches an ellipse: its distance from the centre is the ellipse's reach square to it."""
    centre, e, b, a, direction = p[:, :2], p[:, 2:4] - p[:, :2], p[:, 4], p[:, 5:7], p[:, 7:9] - p[:, 5:7]
    n = np.column_stack([-direction[:, 1], direction[:, 0]]) / np.sqrt((direction * direction).sum(axis=1))[:, None]
    squared = (e * e).sum(axis=1)
    reach = np.sqrt((n * e).sum(axis=1) ** 2 + b**2 * (n[:, 0] * e[:, 1] - n[:, 1] * e[:, 0]) ** 2 / squared)
    return np.asarray(c[:, 0] * (n * (centre - a)).sum(axis=1) - reach)


_KINDS: dict[str, tuple[int, Callable[[Floats, Floats], Values]]] = {
    "sum": (3, _sum),
    "distance": (4, _distance),
    "on round": (5, _on_round),
    "height": (6, _height),
    "touching line": (7, _touching_line),
    "touching round": (6, _touching_round),
    "turn": (8, _turn),
    "equal": (8, _equal),
    "halfway": (8, _halfway),
    "square": (8, _square),
    "apart": (6, _apart),
    "beside": (7, _beside),
    "arc length": (7, _arc_length),
    "linear": (6, _linear),
    "on ellipse": (7, _by_complex_step(_on_ellipse)),
    "touching ellipse": (9, _by_complex_step(_touching_ellipse)),
}


class System:
    """The equations of a drawing. With `merged`, plain equalities are taken out beforehand; diagnosis wants them all."""

    def __init__(self, drawing: Drawing, size: SizeOf, *, merged: bool = True) -> None:
        self.drawing = drawing
        self.start: dict[str, float] = {}
        for name, (x, y) in drawing.points.items():
            self.start[f"{name}.x"], self.start[f"{name}.y"] = x, y
        for name, entity in drawing.entities.items():
            if isinstance(entity, (Circle, Ellipse)):
                self.start[f"{name}.r"] = entity.r
            elif isinstance(entity, Arc):
                self.start[f"{name}.r"] = math.dist(drawing.place(entity.c), drawing.place(entity.a))
        self.equations: list[Equation] = []
        for name, entity in drawing.entities.items():
            if isinstance(entity, Arc):
                self._on(entity.a, name, f"arc {name}")
                self._on(entity.b, name, f"arc {name}")
        for name in drawing.taken:
            self._hold_still(name)
        self.doubled: list[str] = []
        self.sizes: dict[str, float] = {}
        for name, constraint in drawing.constraints.items():
            value = size(name, constraint) if constraint.value is not None else 0.0
            self.sizes[name] = value
            if not constraint.driven:
                _say(self, name, constraint, value)
        self._compile(merged)

    @property
    def rounds(self) -> list[str]:
        """Entities that have a radius."""
        return [name for name, entity in self.drawing.entities.items() if not isinstance(entity, (Line, Spline))]

    # --- saying constraints as equations ---------------------------------------------------------------------------

    def xy(self, point: str) -> tuple[str, str]:
        return ("0", "0") if point == ORIGIN else (f"{point}.x", f"{point}.y")

    def place(self, point: str) -> Point2:
        return self.drawing.place(point)

    def shape(self, name: str) -> Shape:
        return self.drawing.entities[name]

    def centre(self, name: str) -> str:
        return self.drawing.entities[name].c  # type: ignore[union-attr]

    def line(self, name: str) -> Line:
        entity = self.drawing.entities[name]
        assert isinstance(entity, Line)
        return entity

    def ends(self, name: str) -> tuple[str, ...]:
        line = self.line(name)
        return (*self.xy(line.a), *self.xy(line.b))

    def add(self, kind: str, at: tuple[str, ...], owner: str, *constants: float) -> None:
        self.equations.append(Equation(kind, at, constants, owner))

    def same(self, a: str, b: str, owner: str, offset: float = 0.0) -> None:
        """b − a = offset."""
        self.add("sum", (a, b, "0"), owner, -1.0, 1.0, 0.0, offset)

    def _hold_still(self, name: str) -> None:
        """What was taken from the model lies where the model says."""
        for point in sorted(stands_on(self.shape(name)) - {ORIGIN}):
            for scalar in self.xy(point):
                self.add("sum", (scalar, "0", "0"), f"taken {name}", 1.0, 0.0, 0.0, self.start[scalar])
        if isinstance(self.shape(name), (Circle, Ellipse)):
            self.add("sum", (f"{name}.r", "0", "0"), f"taken {name}", 1.0, 0.0, 0.0, self.start[f"{name}.r"])

    def _on(self, point: str, round_name: str, owner: str) -> None:
        centre = self.centre(round_name)
        self.add("on round", (*self.xy(point), *self.xy(centre), f"{round_name}.r"), owner)

    def turn(self, u: tuple[str, ...], v: tuple[str, ...], angle: float, owner: str) -> None:
        value = self.value
        lengths = [math.hypot(value(w[2]) - value(w[0]), value(w[3]) - value(w[1])) for w in (u, v)]
        weight = lengths[0] * lengths[1] / max(math.hypot(*lengths), 1e-9)
        self.add("turn", (*u, *v), owner, angle, max(weight, 1e-3))

    def _at(self, scalars: tuple[str, ...]) -> list[float]:
        return [self.value(name) for name in scalars]

    def value(self, scalar: str) -> float:
        found = self.start.get(scalar)
        return found if found is not None else 1.0 if scalar == "1" else 0.0

    def direction(self, line: str) -> Point2:
        held = self.line(line)
        return _minus(self.place(held.b), self.place(held.a))

    # --- from scalars to unknowns ----------------------------------------------------------------------------------

    def _compile(self, merged: bool) -> None:
        holder = {name: name for name in (*self.start, "0", "1")}
        fixed = {"0": 0.0, "1": 1.0}
        kept: list[Equation] = []
        radii: dict[str, int] = {}

        def find(name: str) -> str:
            while holder[name] != name:
                holder[name] = holder[holder[name]]
                name = holder[name]
            return name

        for equation in self.equations:
            if not (merged and equation.kind == "sum" and self._merges(equation, find, fixed, holder, radii)):
                kept.append(equation)
        # In the order of the drawing: what lies together there makes for a narrow band.
        free = {find(name) for name in self.start} - fixed.keys()
        names = [name for name in self.start if name in free]
        sizes = {name: index for index, name in enumerate(names)}
        self.z = np.array([self.start[name] for name in names])
        constants = [fixed[name] for name in fixed]
        slots = {name: len(names) + index for index, name in enumerate(fixed)}
        self.constants = np.array(constants)
        self.column = {name: sizes.get(find(name), slots.get(find(name), 0)) for name in (*self.start, "0", "1")}
        self.rows = kept
        self.owners = [equation.owner for equation in kept]
        self._batch(kept)

    def _merges(
        self,
        equation: Equation,
        find: Callable[[str], str],
        fixed: dict[str, float],
        holder: dict[str, str],
        radii: dict[str, int],
    ) -> bool:
        """Take an equality of two scalars, or of one and a value, into the holders; False if it must stay an equation."""
        ca, cb, cc, value = equation.constants
        a, b = (find(name) for name in equation.at[:2])
        if cc != 0.0 or abs(ca) != 1.0 or (cb != -ca and b != "0"):
            return False
        if b == "0" or a == "0":
            free, sign = (a, ca) if b == "0" else (b, cb)
            if free in fixed:
                return self._twice(abs(fixed[free] - value / sign), equation)
            fixed[free] = value / sign
            return True
        if a == b:
            return self._twice(abs(value), equation)
        if a in fixed and b in fixed:
            return self._twice(abs(ca * fixed[a] + cb * fixed[b] - value), equation)
        if value != 0.0:
            return False
        if a in fixed or b in fixed:
            loose, bound = (b, a) if a in fixed else (a, b)
            holder[loose] = bound
            return True
        if a.endswith(".r"):
            count = radii.get(a, 1) + radii.get(b, 1)
            if count > _MOST_MERGED_RADII:
                return False
            radii[b] = count
        holder[a] = b
        return True

    def _twice(self, misfit: float, equation: Equation) -> bool:
        """An equality that others say already is left out, and noted; one that contradicts them stays, to be found wrong."""
        if misfit > _SAME:
            return False
        self.doubled.append(equation.owner)
        return True

    def _batch(self, equations: list[Equation]) -> None:
        batches: dict[str, _Batch] = {}
        for row, equation in enumerate(equations):
            batch = batches.setdefault(equation.kind, _Batch())
            batch.rows.append(row)
            batch.at.append([self.column[name] for name in equation.at])
            batch.constants.append(equation.constants)
        self.batches = [
            (_KINDS[kind][1], np.array(b.rows), np.array(b.at, dtype=np.int64), np.array(b.constants, dtype=float))
            for kind, b in batches.items()
        ]
        rows = [np.repeat(rows, at.shape[1]) for _, rows, at, _ in self.batches]
        columns = [at.ravel() for _, _, at, _ in self.batches]
        empty = np.empty(0, dtype=np.int64)
        every = np.concatenate(columns) if columns else empty
        self._used = every < len(self.z)  # the rest are constants
        self.entry_rows = (np.concatenate(rows) if rows else empty)[self._used]
        self.entry_columns = every[self._used]

    def resized(self, name: str, held: Constraint, value: float) -> bool:
        """Put another value of a size into its equations; False if they are not there as such, or would change."""
        rows = [row for row, owner in enumerate(self.owners) if owner == name]
        kept, self.equations = self.equations, []
        _say(self, name, held, value)
        said_now, self.equations = self.equations, kept
        if not rows or len(rows) != len(said_now):
            return False
        for row, equation in zip(rows, said_now, strict=True):
            if (equation.kind, equation.at) != (self.rows[row].kind, self.rows[row].at):
                return False
        for row, equation in zip(rows, said_now, strict=True):
            self.rows[row] = equation
            for _, batch_rows, _, constants in self.batches:
                place = np.nonzero(batch_rows == row)[0]
                if len(place):
                    constants[place[0]] = equation.constants
        self.sizes[name] = value
        return True

    def moved(self, drawing: Drawing, z: Floats) -> System:
        """The same equations for a drawing of the same parts that lies at other places."""
        self.drawing, self.z = drawing, z.copy()
        for name in self.start:
            self.start[name] = self.scalar(z, name)
        return self

    @property
    def count(self) -> int:
        return len(self.owners)

    def evaluate(self, z: Floats) -> tuple[Floats, Floats]:
        """Residuals (m,) in mm, and the slopes at (entry_rows, entry_columns)."""
        full = np.concatenate([z, self.constants])
        residual = np.empty(self.count)
        slopes = []
        for kind, rows, at, constants in self.batches:
            value, slope = kind(full[at], constants)
            residual[rows] = value
            slopes.append(slope.ravel())
        return residual, (np.concatenate(slopes) if slopes else np.empty(0))[self._used]

    def dense(self, slopes: Floats) -> Floats:
        """The gradient (m, n) as a full matrix."""
        whole = np.zeros((self.count, len(self.z)))
        np.add.at(whole, (self.entry_rows, self.entry_columns), slopes)
        return whole

    def sparse(self, slopes: Floats) -> Any:
        """The gradient (m, n) as a sparse matrix."""
        return csr_matrix((slopes, (self.entry_rows, self.entry_columns)), shape=(self.count, len(self.z)))

    def scalar(self, z: Floats, name: str) -> float:
        column = self.column[name]
        return float(z[column]) if column < len(z) else float(self.constants[column - len(z)])


def _say(system: System, name: str, constraint: Constraint, value: float) -> None:
    match constraint.type:
        case "angle":
            _angle(system, name, constraint, value)
        case "shifted":
            _shifted(system, name, constraint)
        case "turned":
            _turned(system, name, constraint, value)
        case _:
            _SAY[constraint.type](system, name, constraint.on, value)


def said(drawing: Drawing, name: str, numbers: Mapping[str, str] | None = None) -> str:
    """A constraint as a message names it; `numbers` are the names of things, if they are known already."""
    constraint = drawing.constraints.get(name)
    if constraint is None:
        return name
    size = f" {constraint.value}" if constraint.value and not constraint.driven else ""
    numbers = numbers or numbered(drawing)
    on = [numbers.get(part, part) for part in constraint.on]
    match constraint.type:
        case "on":
            return f"{on[0]} on {on[1]}"
        case "midpoint":
            return f"{on[0]} midway between {on[1]} and {on[2]}"
        case "symmetric":
            return f"{on[0]} and {on[1]} symmetric about {on[2]}"
        case "tangent":
            return f"tangent of {on[0]} and {on[1]}"
    return f"{constraint.type}{size} of {' and '.join(on)}"


def numbered(drawing: Drawing) -> dict[str, str]:
    """Every point and entity as people call it: by kind and number, in the order of drawing."""
    found = {ORIGIN: "the origin", **{name: f"point {number}" for number, name in enumerate(drawing.points, 1)}}
    counts: Counter[str] = Counter()
    for name, entity in drawing.entities.items():
        counts[entity.type] += 1
        found[name] = f"{entity.type} {counts[entity.type]}"
    return found


def named(drawing: Drawing, part: str) -> str:
    """A point or an entity as people call it."""
    return numbered(drawing).get(part, part)


def _coincident(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    for a, b in zip(s.xy(on[0]), s.xy(on[1]), strict=True):
        s.same(a, b, name)


def _levelled(axis: int) -> Callable[[System, str, tuple[str, ...], float], None]:
    def say(s: System, name: str, on: tuple[str, ...], value: float) -> None:
        a, b = (s.line(on[0]).a, s.line(on[0]).b) if len(on) == 1 else on
        s.same(s.xy(a)[axis], s.xy(b)[axis], name, value)

    return say


def _fix(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    for scalar, place in zip(s.xy(on[0]), s.place(on[0]), strict=True):
        s.add("sum", (scalar, "0", "0"), name, 1.0, 0.0, 0.0, float(place))


def _midpoint(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    half, a, b = (s.xy(point) for point in on)
    for i in (0, 1):
        s.add("sum", (half[i], a[i], b[i]), name, 1.0, -0.5, -0.5, 0.0)


def _radius(share: float) -> Callable[[System, str, tuple[str, ...], float], None]:
    def say(s: System, name: str, on: tuple[str, ...], value: float) -> None:
        s.add("sum", (f"{on[0]}.r", "0", "0"), name, 1.0, 0.0, 0.0, value * share)

    return say


def _minus(a: Point2, b: Point2) -> Point2:
    return (a[0] - b[0], a[1] - b[1])


def _side(s: System, point: Point2, line: str) -> float:
    """On which side of a line a point lies, as a sign."""
    away, direction = _minus(point, s.place(s.line(line).a)), s.direction(line)
    return 1.0 if direction[0] * away[1] - direction[1] * away[0] >= 0 else -1.0


def _far(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    if on[1] in s.drawing.entities:
        s.add("height", (*s.xy(on[0]), *s.ends(on[1])), name, _side(s, s.place(on[0]), on[1]), value)
    else:
        s.add("distance", (*s.xy(on[0]), *s.xy(on[1])), name, value)


def _lies_on(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    match s.shape(on[1]):
        case Line():
            s.add("height", (*s.xy(on[0]), *s.ends(on[1])), name, 1.0, 0.0)
        case Ellipse(c=c, a=a):
            s.add("on ellipse", (*s.xy(on[0]), *s.xy(c), *s.xy(a), f"{on[1]}.r"), name)
        case _:
            s._on(on[0], on[1], name)


def _alike(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    if isinstance(s.drawing.entities[on[0]], Line):
        s.add("equal", (*s.ends(on[0]), *s.ends(on[1])), name)
    else:
        s.same(f"{on[0]}.r", f"{on[1]}.r", name)


def _angle(s: System, name: str, held: Constraint, value: float) -> None:
    base = ("0", "0", "1", "0") if len(held.on) == 1 else s.ends(held.on[0])
    to = s.ends(held.on[-1])
    if held.sector & 1:
        base = (*base[2:], *base[:2])
    if held.sector & 2:
        to = (*to[2:], *to[:2])
    s.turn(base, to, value, name)


def _shifted(s: System, name: str, held: Constraint) -> None:
    p, q, a, b = (s.xy(point) for point in held.on)
    k = float(held.times)
    for i in (0, 1):
        s.add("linear", (q[i], p[i], b[i], a[i], "0", "0"), name, 1.0, -1.0, -k, k, 0.0, 0.0, 0.0)


def _turned(s: System, name: str, held: Constraint, value: float) -> None:
    (px, py), (qx, qy), (cx, cy) = (s.xy(point) for point in held.on)
    cos, sin = math.cos(held.times * value), math.sin(held.times * value)
    s.add("linear", (qx, px, py, cx, cy, "0"), name, 1.0, -cos, sin, cos - 1.0, -sin, 0.0, 0.0)
    s.add("linear", (qy, px, py, cx, cy, "0"), name, 1.0, -sin, -cos, sin, cos - 1.0, 0.0, 0.0)


def _reaching(far: bool) -> Callable[[System, str, tuple[str, ...], float], None]:
    """Distance to the near or the far side of a round, from a point, a line or another round."""

    def say(s: System, name: str, on: tuple[str, ...], value: float) -> None:
        centre, r = s.centre(on[1]), f"{on[1]}.r"
        if on[0] in s.drawing.entities and isinstance(s.shape(on[0]), Line):
            side = _side(s, s.place(centre), on[0])
            return s.add("beside", (*s.xy(centre), *s.ends(on[0]), r), name, side, 1.0 if far else -1.0, value)
        point, r0 = (s.centre(on[0]), f"{on[0]}.r") if on[0] in s.drawing.entities else (on[0], "0")
        between = math.dist(s.place(point), s.place(centre))
        if far:
            signs = (1.0, 1.0, 1.0)
        elif between >= max(s.value(r), s.value(r0)):
            signs = (1.0, -1.0, -1.0)
        else:  # one inside the other: from the inner one outwards to the rim
            signs = (-1.0, -1.0, 1.0) if s.value(r) >= s.value(r0) else (-1.0, 1.0, -1.0)
        return s.add("apart", (*s.xy(point), *s.xy(centre), r0, r), name, *signs, value)

    return say


def _across(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    _far(s, name, on, value / 2)


def _long(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    arc = s.shape(on[0])
    assert isinstance(arc, Arc)
    at = (*s.xy(arc.c), *s.xy(arc.a), *s.xy(arc.b), f"{on[0]}.r")
    s.add("arc length", at, name, -1.0 if arc.cw else 1.0, value)


def _square_off(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    s.add("square", (*s.xy(on[1]), *s.xy(on[0]), *s.ends(on[2])), name)


def _in_line(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    s.add("height", (*s.xy(on[0]), *s.xy(on[1]), *s.xy(on[2])), name, 1.0, 0.0)


def _radius_apart(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    first, second = (f"{part}.r" for part in on)
    s.add("sum", (first, second, "0"), name, 1.0, -1.0, 0.0, math.copysign(value, s.value(first) - s.value(second)))


def _parallel(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    u, v = s.direction(on[0]), s.direction(on[1])
    along = u[0] * v[0] + u[1] * v[1]
    s.turn(s.ends(on[0]), s.ends(on[1]), 0.0 if along >= 0 else math.pi, name)


def _perpendicular(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    u, v = s.direction(on[0]), s.direction(on[1])
    s.turn(s.ends(on[0]), s.ends(on[1]), math.copysign(math.pi / 2, u[0] * v[1] - u[1] * v[0]), name)


def _collinear(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    second = s.line(on[1])
    for point in (second.a, second.b):
        s.add("height", (*s.xy(point), *s.ends(on[0])), name, 1.0, 0.0)


def _concentric(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    _coincident(s, name, (s.centre(on[0]), s.centre(on[1])), 0.0)


def _symmetric(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    at = (*s.xy(on[0]), *s.xy(on[1]), *s.ends(on[2]))
    s.add("halfway", at, name)
    s.add("square", at, name)


def _tangent(s: System, name: str, on: tuple[str, ...], value: float) -> None:
    """Of two curves; with a shared end as third, by angle there, else by distance."""
    first, second = (s.shape(part) for part in on[:2])
    if isinstance(first, Spline) or isinstance(second, Spline):
        return _leaving(s, name, on)
    if isinstance(second, Line) and not isinstance(first, Line):
        return _tangent(s, name, (on[1], on[0], *on[2:]), value)
    if isinstance(first, Line) and isinstance(second, Ellipse):
        side = _side(s, s.place(second.c), on[0])
        at = (*s.xy(second.c), *s.xy(second.a), f"{on[1]}.r", *s.ends(on[0]))
        # The line's normal points to its left: the sign says on which side the ellipse lies.
        return s.add("touching ellipse", at, name, side)
    if isinstance(first, Line):
        centre = s.centre(on[1])
        if len(on) == 3:
            out = _minus(s.place(centre), s.place(on[2]))
            direction = s.direction(on[0])
            # The side on which the centre lies is frozen: it tells the round apart from its mirror image.
            side = 1.0 if direction[0] * out[1] - direction[1] * out[0] >= 0 else -1.0
            return s.turn(s.ends(on[0]), (*s.xy(on[2]), *s.xy(centre)), side * math.pi / 2, name)
        at = (*s.xy(centre), *s.ends(on[0]), f"{on[1]}.r")
        return s.add("touching line", at, name, _side(s, s.place(centre), on[0]))
    c1, c2 = s.centre(on[0]), s.centre(on[1])
    if len(on) == 3:
        p = s.place(on[2])
        first_way, second_way = _minus(s.place(c1), p), _minus(s.place(c2), p)
        inward = first_way[0] * second_way[0] + first_way[1] * second_way[1] > 0
        return s.turn((*s.xy(on[2]), *s.xy(c1)), (*s.xy(on[2]), *s.xy(c2)), 0.0 if inward else math.pi, name)
    r1, r2 = s.value(f"{on[0]}.r"), s.value(f"{on[1]}.r")
    apart = math.dist(s.place(c1), s.place(c2))
    signs = min(((1.0, 1.0), (1.0, -1.0), (-1.0, 1.0)), key=lambda k: abs(apart - k[0] * r1 - k[1] * r2))
    return s.add("touching round", (*s.xy(c1), *s.xy(c2), f"{on[0]}.r", f"{on[1]}.r"), name, *signs)


def _leaving(s: System, name: str, on: tuple[str, ...]) -> None:
    """A spline's end runs on from another curve's: their directions there agree, either way round, as they lie."""
    first, second = (_way_at(s, part, on[2]) for part in on[:2])
    turned = [
        math.atan2(*reversed(np.subtract(s._at(direction[2:]), s._at(direction[:2])))) for direction, _ in (first, second)
    ]
    angle = turned[1] - turned[0]
    quarter = first[1] != second[1]  # one is known by its radius, which stands square on it
    step = math.pi
    wished = round((angle - (math.pi / 2 if quarter else 0.0)) / step) * step + (math.pi / 2 if quarter else 0.0)
    s.turn(first[0], second[0], wished, name)


def _way_at(s: System, part: str, point: str) -> tuple[tuple[str, ...], bool]:
    """Scalars of a direction at an end of a curve, and whether it is its radius there."""
    match s.shape(part):
        case Spline(through=through, first=first, last=last):
            return (*s.xy(point), *s.xy(first if through[0] == point else last)), False
        case Line():
            return s.ends(part), False
        case _:
            return (*s.xy(point), *s.xy(s.centre(part))), True


_SAY: dict[str, Callable[[System, str, tuple[str, ...], float], None]] = {
    "coincident": _coincident,
    "horizontal": _levelled(1),
    "vertical": _levelled(0),
    "level": _levelled(1),
    "plumb": _levelled(0),
    "distance x": _levelled(0),
    "distance y": _levelled(1),
    "fix": _fix,
    "midpoint": _midpoint,
    "radius": _radius(1.0),
    "diameter": _radius(0.5),
    "distance": _far,
    "on": _lies_on,
    "equal": _alike,
    "distance near": _reaching(far=False),
    "distance far": _reaching(far=True),
    "across": _across,
    "arc length": _long,
    "square off": _square_off,
    "in line": _in_line,
    "radius apart": _radius_apart,
    "parallel": _parallel,
    "perpendicular": _perpendicular,
    "collinear": _collinear,
    "concentric": _concentric,
    "symmetric": _symmetric,
    "tangent": _tangent,
}


def too_small(system: System, z: Floats) -> SketchError | None:
    """A line that has shrunk to nothing, or a round without a radius, as a refusal."""
    for name, entity in system.drawing.entities.items():
        words = ""
        if isinstance(entity, Line):
            a, b = ([system.scalar(z, scalar) for scalar in system.xy(p)] for p in (entity.a, entity.b))
            words = "shrink to nothing" if math.dist(a, b) < 1e-7 else ""
        elif not isinstance(entity, Spline) and system.scalar(z, f"{name}.r") <= 1e-9:
            words = "have no radius left"
        if words:
            return SketchError(f"{named(system.drawing, name).capitalize()} would {words}.", "Change what squeezes it.")
    return None
