"""Changes to drawn geometry that keep what is built on it: pieces remember the entity they came from."""

from __future__ import annotations

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.model import Drawing, Line

_DIRECTED = frozenset({"horizontal", "vertical", "angle"})
_NEAR = 1e-6


def cut_line(drawing: Drawing, name: str, share: float) -> list[str]:
    """Cut a line in two at a share (0 to 1) of its length; returns what could not be kept, in words.

    The first piece keeps the id; the second is named after it and remembers it in `came_from`, so that picks of its faces
    are found on both. Its direction, and what was tangent at its far end, are kept; equalities of its length are not.
    """
    line = drawing.entities.get(name)
    if not isinstance(line, Line):
        raise SketchError(f"“{name}” is not a line of this sketch.", "Pick a line.")
    if not _NEAR < share < 1 - _NEAR:
        raise SketchError("The cut lies at an end of the line.", "Pick a place between its ends.")
    middle = _free(f"{name}_p", set(drawing.points))
    rest = _free(f"{name}_2", set(drawing.entities))
    drawing.points[middle] = _between(drawing.place(line.a), drawing.place(line.b), share)
    drawing.entities[name] = line.model_copy(update={"b": middle})
    drawing.entities[rest] = line.model_copy(update={"a": middle, "came_from": (name, *line.came_from)})
    lost = []
    for held, constraint in list(drawing.constraints.items()):
        if name not in constraint.on:
            continue
        if constraint.type in _DIRECTED:
            twin = _free(f"{held}_2", set(drawing.constraints))
            drawing.constraints[twin] = constraint.model_copy(update={"on": (rest,)})
        elif constraint.type == "tangent" and constraint.on[2] == line.b:
            moved = tuple(rest if part == name else part for part in constraint.on)
            drawing.constraints[held] = constraint.model_copy(update={"on": moved})
        elif constraint.type == "equal":
            del drawing.constraints[held]
            lost.append(f"equal length with {next((part for part in constraint.on if part != name), name)}")
    return lost


def _between(a: Point2, b: Point2, share: float) -> Point2:
    return (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)


def _free(wish: str, taken: set[str]) -> str:
    name, number = wish[-24:], 2
    while name in taken:
        number += 1
        name = f"{wish[-21:]}_{number}"
    return name
