"""What a sketch stores: points, the entities drawn on them, the constraints that fix them, and the figures that were typed.

Points have ids of their own; entities refer to points, constraints to points or entities. `o` is the origin of the plane,
always there and fixed. Coordinates are mm in the plane as last solved; sizes are expressions, stored as typed.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from supplecast.geometry import Point2

Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_]{1,24}$")]
Coordinate = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]

ORIGIN = "o"


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class _Drawn(_Part):
    """`came_from` lists, nearest first, the entities this one was split or trimmed off: faces made of it bear their names."""

    construction: bool = False
    came_from: tuple[Id, ...] = ()


class Line(_Drawn):
    type: Literal["line"] = "line"
    a: Id
    b: Id


class Arc(_Drawn):
    """Arc about c from a to b, counter-clockwise unless `cw`."""

    type: Literal["arc"] = "arc"
    c: Id
    a: Id
    b: Id
    cw: bool = False


class Circle(_Drawn):
    type: Literal["circle"] = "circle"
    c: Id
    r: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]


Entity = Annotated[Line | Arc | Circle, Field(discriminator="type")]

ConstraintType = Literal[
    "coincident",
    "horizontal",
    "vertical",
    "level",
    "plumb",
    "tangent",
    "equal",
    "midpoint",
    "on",
    "distance",
    "distance x",
    "distance y",
    "radius",
    "diameter",
    "angle",
]
SIZED = frozenset({"distance", "distance x", "distance y", "radius", "diameter", "angle"})


class Constraint(_Part):
    """`on` lists the points and entities it holds.

    coincident (point, point) · horizontal, vertical (line) · level, plumb (point, point: same height, same abscissa) ·
    tangent (line, arc, shared end point) · equal (two lines, or two of arc and circle) · midpoint (point, point, point:
    the first is halfway) · on (point, circle) · distance (point, point) · distance x, distance y (from, to: signed) ·
    radius, diameter (arc or circle) · angle (line: against the plane's x).
    """

    type: ConstraintType
    on: Annotated[tuple[Id, ...], Field(min_length=1, max_length=3)]
    value: Annotated[str, StringConstraints(max_length=400)] | None = None


class Size(_Part):
    """One number of a figure: the constraint that carries it, and whether it may be `free` to be zero or negative."""

    constraint: Id
    free: bool = False


class Figure(_Part):
    """A figure that was typed: its kind and its sizes, by the name the sheet shows."""

    kind: Literal["rectangle", "circle", "polygon", "slot"]
    note: Annotated[str, StringConstraints(max_length=60)] = ""
    sizes: dict[Id, Size]
    entities: tuple[Id, ...]


class Drawing(BaseModel):
    """All that a sketch is made of."""

    model_config = ConfigDict(extra="forbid")
    points: dict[Id, Annotated[tuple[Coordinate, Coordinate], Field()]] = Field(default_factory=dict, max_length=4000)
    entities: dict[Id, Entity] = Field(default_factory=dict, max_length=2000)
    constraints: dict[Id, Constraint] = Field(default_factory=dict, max_length=6000)
    figures: dict[Id, Figure] = Field(default_factory=dict, max_length=500)

    def place(self, point: str) -> Point2:
        return (0.0, 0.0) if point == ORIGIN else self.points[point]

    def faults(self) -> str:
        """The first reference to something that is not there, in words; empty when all hold."""
        known = set(self.points) | {ORIGIN}
        if ORIGIN in self.points:
            return "the point id “o” is kept for the origin"
        for name, entity in self.entities.items():
            ends = [] if isinstance(entity, Circle) else [entity.a, entity.b]
            ends += [] if isinstance(entity, Line) else [entity.c]
            for point in ends:
                if point not in known:
                    return f"entity {name} names the point {point}, which is not there"
        for name, constraint in self.constraints.items():
            wrong = _misfit(constraint, known, self.entities)
            if wrong:
                return f"constraint {name} ({constraint.type}) {wrong}"
        for name, figure in self.figures.items():
            for label, size in figure.sizes.items():
                held = self.constraints.get(size.constraint)
                if held is None or held.value is None:
                    return f"figure {name} has no constraint for its {label}"
            if any(entity not in self.entities for entity in figure.entities):
                return f"figure {name} names an entity that is not there"
        return ""


_TAKES: dict[str, tuple[str, ...]] = {
    "coincident": ("point", "point"),
    "horizontal": ("line",),
    "vertical": ("line",),
    "level": ("point", "point"),
    "plumb": ("point", "point"),
    "tangent": ("line", "arc", "point"),
    "equal": ("curve", "curve"),
    "midpoint": ("point", "point", "point"),
    "on": ("point", "round"),
    "distance": ("point", "point"),
    "distance x": ("point", "point"),
    "distance y": ("point", "point"),
    "radius": ("round",),
    "diameter": ("round",),
    "angle": ("line",),
}


def _misfit(constraint: Constraint, points: set[str], entities: dict[str, Line | Arc | Circle]) -> str:
    takes = _TAKES[constraint.type]
    if len(takes) != len(constraint.on):
        return f"takes {len(takes)} picks, not {len(constraint.on)}"
    if (constraint.type in SIZED) != (constraint.value is not None):
        return "needs a value" if constraint.type in SIZED else "takes no value"
    allowed = {"line": (Line,), "arc": (Arc,), "round": (Arc, Circle), "curve": (Line, Arc, Circle)}
    for kind, name in zip(takes, constraint.on, strict=True):
        if kind == "point":
            if name not in points:
                return f"names the point {name}, which is not there"
        elif not isinstance(entities.get(name), allowed[kind]):
            return f"needs a {kind} where it names {name}"
    if constraint.type == "equal":
        lines = [isinstance(entities[name], Line) for name in constraint.on]
        if lines[0] != lines[1]:
            return "compares a line with a round"
    return ""
