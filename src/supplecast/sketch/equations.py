"""A drawing's constraints as equations between its numbers: point coordinates and radii.

Signs and branches are frozen from where the drawing lies, so that a round stays on its side. Tangency at a shared end is an
angle equation: its distance form has the same gradient as the end lying on the round, and the system would look as if something
were said twice.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from supplecast.geometry import Point2
from supplecast.sketch.model import ORIGIN, Arc, Circle, Constraint, Drawing, Ellipse, Line, Shape, Spline, stands_on

SizeOf = Callable[[str, Constraint], float]
_SAME = 1e-9


@dataclass(frozen=True)
class Equation:
    """One row: its kind, the scalars it reads, its constants, and the constraint (or arc) it says."""

    kind: str
    at: tuple[str, ...]
    constants: tuple[float, ...]
    owner: str


class Equations:
    """A drawing's constraints, arcs and taken curves said as equations."""

    def __init__(self, drawing: Drawing, size: SizeOf) -> None:
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
        self.still: set[str] = set()
        for name, entity in drawing.entities.items():
            if isinstance(entity, Arc):
                self._on(entity.a, name, f"arc {name}")
                self._on(entity.b, name, f"arc {name}")
            elif isinstance(entity, Ellipse):
                for end in entity.ends:
                    _lies_on(self, f"arc {name}", (end, name), 0.0)
        for name in drawing.taken:
            self._hold_still(name)
        self.doubled: list[str] = []
        self.sizes: dict[str, float] = {}
        for name, constraint in drawing.constraints.items():
            value = size(name, constraint) if constraint.value is not None else 0.0
            self.sizes[name] = value
            if not constraint.driven:
                say(self, name, constraint, value)

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
        held = self.start.get(scalar)
        return held if held is not None else 1.0 if scalar == "1" else 0.0

    def direction(self, line: str) -> Point2:
        held = self.line(line)
        return _minus(self.place(held.b), self.place(held.a))


def say(system: Equations, name: str, constraint: Constraint, value: float) -> None:
    match constraint.type:
        case "angle":
            _angle(system, name, constraint, value)
        case "shifted":
            _shifted(system, name, constraint)
        case "turned":
            _turned(system, name, constraint, value)
        case _:
            _SAY[constraint.type](system, name, constraint.on, value)


def _coincident(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    for a, b in zip(s.xy(on[0]), s.xy(on[1]), strict=True):
        s.same(a, b, name)


def _levelled(axis: int) -> Callable[[Equations, str, tuple[str, ...], float], None]:
    def say(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
        a, b = (s.line(on[0]).a, s.line(on[0]).b) if len(on) == 1 else on
        s.same(s.xy(a)[axis], s.xy(b)[axis], name, value)

    return say


def _fix(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    entity = s.drawing.entities.get(on[0])
    if entity is not None:  # an end that two fixed splines share is said once
        on = tuple(sorted(stands_on(entity) - {ORIGIN} - s.still))
        s.still.update(on)
    for point in on:
        for scalar, place in zip(s.xy(point), s.place(point), strict=True):
            s.add("sum", (scalar, "0", "0"), name, 1.0, 0.0, 0.0, float(place))


def _midpoint(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    half, a, b = (s.xy(point) for point in on)
    for i in (0, 1):
        s.add("sum", (half[i], a[i], b[i]), name, 1.0, -0.5, -0.5, 0.0)


def _radius(share: float) -> Callable[[Equations, str, tuple[str, ...], float], None]:
    def say(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
        s.add("sum", (f"{on[0]}.r", "0", "0"), name, 1.0, 0.0, 0.0, value * share)

    return say


def _minus(a: Point2, b: Point2) -> Point2:
    return (a[0] - b[0], a[1] - b[1])


def _side(s: Equations, point: Point2, line: str) -> float:
    """On which side of a line a point lies, as a sign."""
    away, direction = _minus(point, s.place(s.line(line).a)), s.direction(line)
    return 1.0 if direction[0] * away[1] - direction[1] * away[0] >= 0 else -1.0


def _far(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    if on[1] in s.drawing.entities:
        s.add("height", (*s.xy(on[0]), *s.ends(on[1])), name, _side(s, s.place(on[0]), on[1]), value)
    else:
        s.add("distance", (*s.xy(on[0]), *s.xy(on[1])), name, value)


def _lies_on(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    match s.shape(on[1]):
        case Line():
            s.add("height", (*s.xy(on[0]), *s.ends(on[1])), name, 1.0, 0.0)
        case Ellipse(c=c, a=a):
            s.add("on ellipse", (*s.xy(on[0]), *s.xy(c), *s.xy(a), f"{on[1]}.r"), name)
        case _:
            s._on(on[0], on[1], name)


def _alike(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    if isinstance(s.drawing.entities[on[0]], Line):
        s.add("equal", (*s.ends(on[0]), *s.ends(on[1])), name)
    else:
        s.same(f"{on[0]}.r", f"{on[1]}.r", name)


def _angle(s: Equations, name: str, held: Constraint, value: float) -> None:
    base = ("0", "0", "1", "0") if len(held.on) == 1 else s.ends(held.on[0])
    to = s.ends(held.on[-1])
    if held.sector & 1:
        base = (*base[2:], *base[:2])
    if held.sector & 2:
        to = (*to[2:], *to[:2])
    s.turn(base, to, value, name)


def _shifted(s: Equations, name: str, held: Constraint) -> None:
    p, q, a, b = (s.xy(point) for point in held.on)
    k = float(held.times)
    for i in (0, 1):
        s.add("linear", (q[i], p[i], b[i], a[i], "0", "0"), name, 1.0, -1.0, -k, k, 0.0, 0.0, 0.0)


def _turned(s: Equations, name: str, held: Constraint, value: float) -> None:
    (px, py), (qx, qy), (cx, cy) = (s.xy(point) for point in held.on)
    cos, sin = math.cos(held.times * value), math.sin(held.times * value)
    s.add("linear", (qx, px, py, cx, cy, "0"), name, 1.0, -cos, sin, cos - 1.0, -sin, 0.0, 0.0)
    s.add("linear", (qy, px, py, cx, cy, "0"), name, 1.0, -sin, -cos, sin, cos - 1.0, 0.0, 0.0)


def _reaching(far: bool) -> Callable[[Equations, str, tuple[str, ...], float], None]:
    """Distance to the near or the far side of a round, from a point, a line or another round."""

    def say(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
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


def _across(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    _far(s, name, on, value / 2)


def _long(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    arc = s.shape(on[0])
    assert isinstance(arc, Arc)
    at = (*s.xy(arc.c), *s.xy(arc.a), *s.xy(arc.b), f"{on[0]}.r")
    s.add("arc length", at, name, -1.0 if arc.cw else 1.0, value)


def _square_off(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    s.add("square", (*s.xy(on[1]), *s.xy(on[0]), *s.ends(on[2])), name)


def _in_line(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    s.add("height", (*s.xy(on[0]), *s.xy(on[1]), *s.xy(on[2])), name, 1.0, 0.0)


def _radius_apart(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    first, second = (f"{part}.r" for part in on)
    s.add("sum", (first, second, "0"), name, 1.0, -1.0, 0.0, math.copysign(value, s.value(first) - s.value(second)))


def _parallel(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    u, v = s.direction(on[0]), s.direction(on[1])
    along = u[0] * v[0] + u[1] * v[1]
    s.turn(s.ends(on[0]), s.ends(on[1]), 0.0 if along >= 0 else math.pi, name)


def _perpendicular(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    u, v = s.direction(on[0]), s.direction(on[1])
    s.turn(s.ends(on[0]), s.ends(on[1]), math.copysign(math.pi / 2, u[0] * v[1] - u[1] * v[0]), name)


def _collinear(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    second = s.line(on[1])
    for point in (second.a, second.b):
        s.add("height", (*s.xy(point), *s.ends(on[0])), name, 1.0, 0.0)


def _concentric(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    _coincident(s, name, (s.centre(on[0]), s.centre(on[1])), 0.0)


def _symmetric(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
    at = (*s.xy(on[0]), *s.xy(on[1]), *s.ends(on[2]))
    s.add("halfway", at, name)
    s.add("square", at, name)


def _tangent(s: Equations, name: str, on: tuple[str, ...], value: float) -> None:
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


def _leaving(s: Equations, name: str, on: tuple[str, ...]) -> None:
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


def _way_at(s: Equations, part: str, point: str) -> tuple[tuple[str, ...], bool]:
    """Scalars of a direction at an end of a curve, and whether it is its radius there."""
    match s.shape(part):
        case Spline(through=through, first=first, last=last):
            return (*s.xy(point), *s.xy(first if through[0] == point else last)), False
        case Line():
            return s.ends(part), False
        case _:
            return (*s.xy(point), *s.xy(s.centre(part))), True


_SAY: dict[str, Callable[[Equations, str, tuple[str, ...], float], None]] = {
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
