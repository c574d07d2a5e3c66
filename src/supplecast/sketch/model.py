"""What a sketch stores: points, the entities drawn on them, the constraints that fix them, and the figures that were typed.

Points have ids of their own; entities refer to points, constraints to points or entities. `o` is the origin of the plane,
always there and fixed. Coordinates are mm in the plane as last solved; sizes are expressions, stored as typed.
"""

from __future__ import annotations

from collections.abc import Collection
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

from supplecast.geometry import Point2
from supplecast.sketch.belongings import Coordinate, Figure, Id, Part, Photo, Series, Taken

ORIGIN = "o"


class _Drawn(Part):
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


class Ellipse(_Drawn):
    """Ellipse about c, one of whose half-axes ends at a; r is the other. A piece of one runs from `start` to `end`,
    counter-clockwise unless `cw`.
    """

    type: Literal["ellipse"] = "ellipse"
    c: Id
    a: Id
    r: Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]
    start: Id | None = None
    end: Id | None = None
    cw: bool = False

    @model_validator(mode="after")
    def _whole_or_piece(self) -> Ellipse:
        if (self.start is None) != (self.end is None):
            raise ValueError("a piece of an ellipse has both a start and an end")
        return self

    @property
    def ends(self) -> tuple[str, ...]:
        return (self.start, self.end) if self.start is not None and self.end is not None else ()


class Spline(_Drawn):
    """Smooth curve through points, leaving the first and reaching the last by way of two handles. `spans` are the lengths of
    its parameter between them, where it is a piece of another; else they are as the points lie apart.
    """

    type: Literal["spline"] = "spline"
    through: Annotated[tuple[Id, ...], Field(min_length=2, max_length=200)]
    first: Id
    last: Id
    spans: tuple[Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)], ...] = ()

    @model_validator(mode="after")
    def _span_for_each(self) -> Spline:
        if self.spans and len(self.spans) != len(self.through) - 1:
            raise ValueError("a spline has one span less than points, or none")
        return self

    def without(self, gone: Collection[str]) -> Spline:
        """The spline through its other points; where it keeps its own spans, those on both sides of a point become one."""
        kept = [k for k, point in enumerate(self.through) if point not in gone]
        spans = tuple(sum(self.spans[a:b]) for a, b in pairwise(kept)) if self.spans else ()
        return self.model_copy(update={"through": tuple(self.through[k] for k in kept), "spans": spans})

    @property
    def a(self) -> str:
        return self.through[0]

    @property
    def b(self) -> str:
        return self.through[-1]


Shape = Line | Arc | Circle | Ellipse | Spline
Entity = Annotated[Shape, Field(discriminator="type")]

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
    "parallel",
    "perpendicular",
    "collinear",
    "concentric",
    "symmetric",
    "fix",
    "distance near",
    "distance far",
    "across",
    "arc length",
    "square off",
    "in line",
    "radius apart",
    "shifted",
    "turned",
]
SIZED = frozenset(
    {
        "distance",
        "distance x",
        "distance y",
        "distance near",
        "distance far",
        "across",
        "radius",
        "diameter",
        "angle",
        "arc length",
        "radius apart",
        "turned",
    }
)
ANGLES = frozenset({"angle", "turned"})


class Constraint(Part):
    """`on` lists the points and entities it holds. A `driven` size is only measured and holds nothing.

    coincident (point, point) · horizontal, vertical (line) · level, plumb (point, point: same height, same abscissa) ·
    tangent (two of line, arc, circle, ellipse and spline, with their shared end point as third if they have one; a spline only
    at its end) · equal (two lines, two of arc and circle, or the shorter
    half-axes of two ellipses) · parallel, perpendicular, collinear (two lines) · concentric (two
    of arc, circle and ellipse) · midpoint (point, point, point: the first is halfway) · symmetric (point, point, line) · on
    (point, and line, arc, circle or ellipse) · fix (point or spline) · distance (point, and point or line) · distance x,
    distance y (from, to: signed) · distance near, distance far (point, line or round, to the near or far side of a round) ·
    across (point,
    line: twice the distance) · radius, diameter (arc or circle; of an ellipse the shorter half-axis) · arc length (arc) · angle
    (line: against the plane's x; or from one line to another, in one of four `sector`s: 1 turns the first line round, 2 the
    second, 3 both).

    What copies and offsets are linked by: square off (point, point, line: the first stands square over the second) · in line
    (three points) · radius apart (two rounds) · shifted (p, q, a, b: q lies `times` the way from a to b away from p) · turned
    (p, q, c: q is p turned about c, `times` the value). Sizes with the same `group` are one size.
    """

    type: ConstraintType
    on: Annotated[tuple[Id, ...], Field(min_length=1, max_length=4)]
    value: Annotated[str, StringConstraints(max_length=400)] | None = None
    driven: bool = False
    sector: Annotated[int, Field(ge=0, le=3)] = 0
    times: Annotated[int, Field(ge=-500, le=500)] = 1
    group: Id | None = None
    label: tuple[Coordinate, Coordinate] | None = Field(default=None, description="where its label was put, mm in the plane")


class Drawing(BaseModel):
    """All that a sketch is made of. Entities that were `taken` from the model lie where the model says."""

    model_config = ConfigDict(extra="forbid")
    points: dict[Id, Annotated[tuple[Coordinate, Coordinate], Field()]] = Field(default_factory=dict, max_length=4000)
    entities: dict[Id, Entity] = Field(default_factory=dict, max_length=2000)
    constraints: dict[Id, Constraint] = Field(default_factory=dict, max_length=6000)
    figures: dict[Id, Figure] = Field(default_factory=dict, max_length=500)
    numbers: dict[Id, Annotated[int, Field(ge=1, le=1_000_000)]] = Field(default_factory=dict, max_length=6000)
    series: dict[Id, Series] = Field(default_factory=dict, max_length=500)
    taken: dict[Id, Taken] = Field(default_factory=dict, max_length=2000)
    photos: dict[Id, Photo] = Field(default_factory=dict, max_length=20)

    def place(self, point: str) -> Point2:
        return (0.0, 0.0) if point == ORIGIN else self.points[point]

    def faults(self) -> str:
        """The first reference to something that is not there, in words; empty when all hold."""
        known = set(self.points) | {ORIGIN}
        if ORIGIN in self.points:
            return "the point id “o” is kept for the origin"
        for name, entity in self.entities.items():
            for point in sorted(stands_on(entity)):
                if point not in known:
                    return f"entity {name} names the point {point}, which is not there"
        for name, constraint in self.constraints.items():
            wrong = _misfit(constraint, known, self.entities)
            if wrong:
                return f"constraint {name} ({constraint.type}) {wrong}"
        for name in self.taken:
            if name not in self.entities:
                return f"{name} is said to be taken from the model, but is not there"
        for name, figure in self.figures.items():
            for label, size in figure.sizes.items():
                held = self.constraints.get(size.constraint)
                if held is None or held.value is None:
                    return f"figure {name} has no constraint for its {label}"
            if any(entity not in self.entities for entity in figure.entities):
                return f"figure {name} names an entity that is not there"
        for name, series in self.series.items():
            known_to_it = {*series.of, *(entity for copy in series.copies for entity in copy)}
            if (
                not known_to_it <= set(self.entities)
                or not set(series.by) <= known
                or len(series.by) != 1 + (series.kind == "row")
            ):
                return f"the {series.kind} {name} names what is not there"
        return ""


def stands_on(entity: Shape) -> set[str]:
    """The points an entity stands on."""
    match entity:
        case Line(a=a, b=b):
            return {a, b}
        case Arc(c=c, a=a, b=b):
            return {c, a, b}
        case Circle(c=c):
            return {c}
        case Ellipse(c=c, a=a):
            return {c, a, *entity.ends}
        case Spline(through=through, first=first, last=last):
            return {*through, first, last}


def ends_of(entity: Shape) -> tuple[str, ...]:
    """The points at which an entity ends; none for a closed one."""
    if isinstance(entity, Ellipse):
        return entity.ends
    return () if isinstance(entity, Circle) else (entity.a, entity.b)


_TAKES: dict[str, tuple[tuple[str, ...], ...]] = {
    "coincident": (("point", "point"),),
    "horizontal": (("line",),),
    "vertical": (("line",),),
    "level": (("point", "point"),),
    "plumb": (("point", "point"),),
    "tangent": (("curve", "curve"), ("curve", "curve", "point")),
    "equal": (("line", "line"), ("round", "round"), ("oval", "oval")),
    "parallel": (("line", "line"),),
    "perpendicular": (("line", "line"),),
    "collinear": (("line", "line"),),
    "concentric": (("centred", "centred"),),
    "midpoint": (("point", "point", "point"),),
    "symmetric": (("point", "point", "line"),),
    "on": (("point", "carrier"),),
    "fix": (("point",), ("spline",)),
    "distance": (("point", "point"), ("point", "line")),
    "distance x": (("point", "point"),),
    "distance y": (("point", "point"),),
    "distance near": (("point", "round"), ("line", "round"), ("round", "round")),
    "distance far": (("point", "round"), ("line", "round"), ("round", "round")),
    "across": (("point", "line"),),
    "radius": (("centred",),),
    "diameter": (("centred",),),
    "arc length": (("arc",),),
    "angle": (("line",), ("line", "line")),
    "square off": (("point", "point", "line"),),
    "in line": (("point", "point", "point"),),
    "radius apart": (("round", "round"),),
    "shifted": (("point", "point", "point", "point"),),
    "turned": (("point", "point", "point"),),
}
_ALLOWED: dict[str, tuple[type, ...]] = {
    "line": (Line,),
    "arc": (Arc,),
    "oval": (Ellipse,),
    "spline": (Spline,),
    "round": (Arc, Circle),
    "centred": (Arc, Circle, Ellipse),
    "carrier": (Line, Arc, Circle, Ellipse),
    "curve": (Line, Arc, Circle, Ellipse, Spline),
}


def _misfit(constraint: Constraint, points: set[str], entities: dict[str, Shape]) -> str:
    """What is wrong with a constraint's picks or value, in words."""
    forms = [takes for takes in _TAKES[constraint.type] if len(takes) == len(constraint.on)]
    if not forms:
        counts = " or ".join(str(len(takes)) for takes in _TAKES[constraint.type])
        return f"takes {counts} picks, not {len(constraint.on)}"
    if (constraint.type in SIZED) != (constraint.value is not None):
        return "needs a value" if constraint.type in SIZED else "takes no value"
    if constraint.driven and constraint.type not in SIZED:
        return "cannot be driven: it has no size"
    wrong = [_wrong_pick(takes, constraint.on, points, entities) for takes in forms]
    if all(wrong):
        return wrong[0]
    if constraint.type == "tangent":
        held = [entities[name] for name in constraint.on[:2]]
        if all(isinstance(entity, Line) for entity in held):
            return "holds two lines: pick a round"
        if any(isinstance(entity, Spline) for entity in held) and len(constraint.on) < 3:
            return "needs the end of the spline that it shares with the other curve"
        if all(isinstance(entity, Ellipse) for entity in held) or (
            any(isinstance(entity, Ellipse) for entity in held) and not any(isinstance(entity, Line) for entity in held)
        ):
            return "holds an ellipse: pick a line along with it"
    if len(set(constraint.on)) < len(constraint.on) and constraint.type != "shifted":
        return "names the same thing twice"
    return ""


def _wrong_pick(takes: tuple[str, ...], on: tuple[str, ...], points: set[str], entities: dict[str, Shape]) -> str:
    for kind, name in zip(takes, on, strict=True):
        if kind == "point" and name not in points:
            return f"names the point {name}, which is not there"
        if kind != "point" and not isinstance(entities.get(name), _ALLOWED[kind]):
            return f"needs a {kind} where it names {name}"
    return ""
