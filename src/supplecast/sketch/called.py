"""What the parts and constraints of a drawing are called, as people say it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

from supplecast.sketch.model import ORIGIN, Constraint, Drawing, Line


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
        case "distance" if (line := measured_line(drawing, constraint)) is not None:
            return f"length{size} of {numbers.get(line, line)}"
    return f"{constraint.type}{size} of {' and '.join(on)}"


def measured_line(drawing: Drawing, held: Constraint) -> str | None:
    """The line whose length a distance of two points is."""
    if held.type != "distance" or held.on[1] in drawing.entities:
        return None
    ends = set(held.on)
    return next((name for name, e in drawing.entities.items() if isinstance(e, Line) and {e.a, e.b} == ends), None)


def numbers_of(drawing: Drawing) -> dict[str, int]:
    """The number of every point and entity: the one it was drawn with, of older drawings one in the order of drawing."""
    given = {name: number for name, number in drawing.numbers.items() if name in drawing.points or name in drawing.entities}
    highest: Counter[str] = Counter()
    for name, number in given.items():
        kind = _kind(drawing, name)
        highest[kind] = max(highest[kind], number)
    for name in (*drawing.points, *drawing.entities):
        if name not in given:
            kind = _kind(drawing, name)
            highest[kind] += 1
            given[name] = highest[kind]
    return given


def _kind(drawing: Drawing, name: str) -> str:
    entity = drawing.entities.get(name)
    return "point" if entity is None else entity.type


def numbered(drawing: Drawing) -> dict[str, str]:
    """Every point and entity as people call it: by kind and number. What becomes another kind is counted anew."""
    return {ORIGIN: "the origin", **{n: f"{_kind(drawing, n)} {number}" for n, number in numbers_of(drawing).items()}}


def named(drawing: Drawing, part: str) -> str:
    """A point or an entity as people call it."""
    return numbered(drawing).get(part, part)
