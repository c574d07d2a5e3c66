"""Sizes of a sketch: their values from the document's expressions, what they measure, and which kind suits some picks."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from supplecast.errors import QuantityError, SketchError
from supplecast.expressions import LENGTH_UNITS
from supplecast.geometry import Floats, Point2
from supplecast.quantities import Kind, Scope
from supplecast.sketch.diagnosis import measured
from supplecast.sketch.equations import SizeOf
from supplecast.sketch.model import ANGLES, ORIGIN, Arc, Circle, Constraint, ConstraintType, Drawing, Ellipse, Line
from supplecast.wording import show

_POSITIVE = frozenset({"radius", "diameter", "distance", "across", "arc length"})
_KINDS = frozenset({"aligned", "across", "up", "centre", "near", "far", "radius", "diameter", "arc length", "axis", "length"})


def size_of(scope: Scope) -> SizeOf:
    """Values in mm or rad. SketchError names the size that cannot be read or is out of range."""

    def size(name: str, constraint: Constraint) -> float:
        kind: Kind = "angle" if constraint.type in ANGLES else "length"
        if constraint.driven:
            return 0.0
        try:
            value = scope.evaluate(constraint.value or "", kind)
        except QuantityError as fault:
            raise SketchError(f"{constraint.type.capitalize()} {constraint.value}: {fault.message}", fault.hint) from fault
        if constraint.type in _POSITIVE and value <= 0:
            raise SketchError(f"The {constraint.type} must be greater than zero.", "Type a larger number.")
        if kind == "length" and abs(value) > 1e5:
            raise SketchError(f"The {constraint.type} is over 100 m.", "Check its unit.")
        return value

    return size


def shown(value: float, kind: str, unit: str = "mm") -> str:
    """A measured size as it would be typed, in degrees or a unit of length."""
    if kind in ANGLES:
        return f"{show(math.degrees(value), 6)} deg"
    return f"{show(value / LENGTH_UNITS[unit], 6 if unit == 'mm' else 8)} {unit}"


def radii_of(drawing: Drawing) -> dict[str, float]:
    radii = {}
    for name, entity in drawing.entities.items():
        if isinstance(entity, (Circle, Ellipse)):
            radii[name] = entity.r
        elif isinstance(entity, Arc):
            radii[name] = math.dist(drawing.place(entity.c), drawing.place(entity.a))
    return radii


def measure(drawing: Drawing, kind: str, on: Sequence[str], sector: int = 0) -> float:
    """What a size would come to as things lie, mm or rad."""
    try:
        trial = Constraint(type=kind, on=tuple(on), value="0", sector=sector)
        return measured(trial, {**drawing.points, ORIGIN: (0.0, 0.0)}, radii_of(drawing), drawing)
    except (KeyError, AssertionError, AttributeError, ValueError) as fault:
        raise SketchError("That cannot be measured.", "Pick points, lines or rounds.") from fault


def suited(
    drawing: Drawing, names: Sequence[str], label: Point2, kind: str = ""
) -> tuple[ConstraintType, tuple[str, ...], int]:
    """Which size suits some picks and the place of its label: its type, what it holds, and the sector of an angle."""
    if kind and kind not in _KINDS:
        raise SketchError(f"There is no size “{kind}”.", f"Known: {', '.join(sorted(_KINDS))}.")
    for name in names:
        if name != ORIGIN and name not in drawing.points and name not in drawing.entities:
            raise SketchError(f"“{name}” is no longer in the sketch.", "Pick again.")
    if len(names) == 1:
        return _single(drawing, names[0], kind)
    points = [name for name in names if name not in drawing.entities]
    lines = [name for name in names if isinstance(drawing.entities.get(name), Line)]
    rounds = [name for name in names if isinstance(drawing.entities.get(name), (Arc, Circle))]
    if len(rounds) == 2 or (rounds and kind in ("near", "far")):
        if len(rounds) == 2 and kind in ("", "centre"):
            return suited(drawing, [_centre(drawing, name) for name in rounds], label)
        other = next(name for name in names if name != rounds[-1])
        return ("distance far" if kind == "far" else "distance near"), (other, rounds[-1]), 0
    if rounds:
        other = next(name for name in names if name != rounds[0])
        return suited(drawing, [_centre(drawing, rounds[0]), other], label, kind if kind != "centre" else "")
    if len(points) == 2:
        return _between(drawing, points, label, kind)
    if len(points) == 1 and lines:
        return ("across" if kind == "axis" else "distance"), (points[0], lines[0]), 0
    if len(lines) == 2:
        return _two_lines(drawing, lines, label)
    raise SketchError("No size goes with what is picked.", "Pick points, lines or rounds.")


def _centre(drawing: Drawing, name: str) -> str:
    return str(drawing.entities[name].c)  # type: ignore[union-attr]


def _single(drawing: Drawing, name: str, kind: str) -> tuple[ConstraintType, tuple[str, ...], int]:
    match drawing.entities.get(name):
        case Line(a=a, b=b):
            if kind in ("across", "up"):
                return _between(drawing, [a, b], (0.0, 0.0), kind)
            return "distance", (a, b), 0
        case Arc():
            if kind == "arc length":
                return "arc length", (name,), 0
            return ("diameter" if kind == "diameter" else "radius"), (name,), 0
        case Circle():
            return ("radius" if kind == "radius" else "diameter"), (name,), 0
        case Ellipse():
            return "radius", (name,), 0
    raise SketchError("One point has no size.", "Pick a second point, or a line.")


def _between(drawing: Drawing, points: Sequence[str], label: Point2, kind: str) -> tuple[ConstraintType, tuple[str, ...], int]:
    (ax, ay), (bx, by) = (drawing.place(name) for name in points)
    if not kind:
        inside_x = min(ax, bx) <= label[0] <= max(ax, bx)
        inside_y = min(ay, by) <= label[1] <= max(ay, by)
        flat = abs(bx - ax) < 1e-9 or abs(by - ay) < 1e-9
        kind = "aligned" if flat or inside_x == inside_y else "across" if inside_x else "up"
    if kind == "aligned":
        return "distance", tuple(points), 0
    index = 0 if kind == "across" else 1
    forward = (bx - ax, by - ay)[index] >= 0
    ordered = tuple(points) if forward else tuple(reversed(points))
    return ("distance x" if kind == "across" else "distance y"), ordered, 0


def _two_lines(drawing: Drawing, lines: Sequence[str], label: Point2) -> tuple[ConstraintType, tuple[str, ...], int]:
    held = [line for line in (drawing.entities[name] for name in lines) if isinstance(line, Line)]
    starts: list[Floats] = [np.array(drawing.place(line.a), dtype=float) for line in held]
    directions = [np.array(drawing.place(line.b), dtype=float) - start for line, start in zip(held, starts, strict=True)]
    u, v = (direction / max(math.hypot(*direction), 1e-12) for direction in directions)
    cross = _cross(u, v)
    if abs(cross) < 1e-6:
        return "distance", (held[1].a, lines[0]), 0
    corner = starts[0] + u * _cross(starts[1] - starts[0], v) / cross
    away = np.array(label) - corner
    # The label lies in the sector between ±u and ±v whose shares of its direction are positive.
    share_u, share_v = _cross(away, v) / cross, _cross(u, away) / cross
    flip_u, flip_v = share_u < 0, share_v < 0
    if _cross(-u if flip_u else u, -v if flip_v else v) >= 0:
        return "angle", (lines[0], lines[1]), flip_u + 2 * flip_v
    return "angle", (lines[1], lines[0]), flip_v + 2 * flip_u


def _cross(a: Floats, b: Floats) -> float:
    return float(a[0] * b[1] - a[1] * b[0])
