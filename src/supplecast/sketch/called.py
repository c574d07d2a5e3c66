"""What the parts and constraints of a drawing are called, as people say it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

from supplecast.sketch.model import ORIGIN, Drawing


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
    names = {ORIGIN: "the origin", **{name: f"point {number}" for number, name in enumerate(drawing.points, 1)}}
    counts: Counter[str] = Counter()
    for name, entity in drawing.entities.items():
        counts[entity.type] += 1
        names[name] = f"{entity.type} {counts[entity.type]}"
    return names


def named(drawing: Drawing, part: str) -> str:
    """A point or an entity as people call it."""
    return numbered(drawing).get(part, part)
