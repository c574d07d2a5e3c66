"""Typed figures: rectangle, circle, polygon and slot, turned into points, entities and constraints of a drawing.

A figure is only a way to type an outline: once placed it is ordinary geometry, and its numbers are ordinary constraints
whose values the sheet shows under their names.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from supplecast.errors import SketchError
from supplecast.quantities import Scope
from supplecast.sketch.belongings import Figure, Size
from supplecast.sketch.model import ORIGIN, Arc, Circle, Constraint, ConstraintType, Drawing, Entity, Line, stands_on

Text = Annotated[str, Field(max_length=400, coerce_numbers_to_str=True)]


class _Request(BaseModel):
    model_config = ConfigDict(extra="forbid", coerce_numbers_to_str=True)
    x: Text = "0"
    y: Text = "0"


class RectangleRequest(_Request):
    """Placed by its lower left corner or its centre; `radius` rounds all four corners."""

    kind: Literal["rectangle"]
    by: Literal["centre", "corner"] = "centre"
    width: Text
    height: Text
    radius: Text = "0"


class CircleRequest(_Request):
    kind: Literal["circle"]
    diameter: Text


class PolygonRequest(_Request):
    """Regular polygon by the circle through its corners; its first corner lies to the right of the centre."""

    kind: Literal["polygon"]
    sides: Annotated[int, Field(ge=3, le=60)] = 6
    diameter: Text


class SlotRequest(_Request):
    """Slot by the length between the centres of its ends, its width and the direction of its middle line."""

    kind: Literal["slot"]
    length: Text
    width: Text
    angle: Text = "0"


FigureRequest = Annotated[RectangleRequest | CircleRequest | PolygonRequest | SlotRequest, Field(discriminator="kind")]


def place(drawing: Drawing, request: FigureRequest, scope: Scope) -> str:
    """Add a figure to a drawing and return its id.

    Named values are looked up in `scope` only to find a first position for the points. Raises SketchError or
    QuantityError for sizes that make no figure.
    """
    name = _free("f", drawing.figures)
    pen = _Pen(drawing, name, scope)
    match request:
        case RectangleRequest():
            _rectangle(pen, request)
        case CircleRequest():
            _circle(pen, request)
        case PolygonRequest():
            _polygon(pen, request)
        case SlotRequest():
            _slot(pen, request)
    drawing.figures[name] = Figure(kind=request.kind, note=pen.note, sizes=dict(pen.sizes), entities=tuple(pen.entities))
    return name


def remove(drawing: Drawing, name: str) -> None:
    """Take a figure out, with its points and every constraint on them."""
    figure = drawing.figures.pop(name)
    gone = set(figure.entities)
    points: set[str] = set()
    for entity in gone:
        points |= stands_on(drawing.entities.pop(entity))
    for entity_left in drawing.entities.values():
        points -= stands_on(entity_left)
    prefix = f"{name}_"
    gone |= points | {p for p in drawing.points if p.startswith(prefix)}
    for point in gone & set(drawing.points):
        del drawing.points[point]
    for constraint in [c for c, held in drawing.constraints.items() if gone & set(held.on)]:
        del drawing.constraints[constraint]


def _free(prefix: str, taken: object) -> str:
    number = 1
    while f"{prefix}{number}" in taken:  # type: ignore[operator]
        number += 1
    return f"{prefix}{number}"


class _Pen:
    """Adds geometry under ids that start with the figure's own."""

    def __init__(self, drawing: Drawing, name: str, scope: Scope) -> None:
        self.drawing = drawing
        self.name = name
        self.scope = scope
        self.entities: list[str] = []
        self.sizes: dict[str, Size] = {}
        self.note = ""
        self.held = 0

    def mm(self, text: str, label: str, *, positive: bool = True) -> float:
        value = self.scope.evaluate(text, "length")
        if positive and value <= 0:
            raise SketchError(f"The {label} must be greater than zero.", f"Type a {label} such as 20.", field=label)
        return value

    def point(self, label: str, x: float, y: float) -> str:
        name = f"{self.name}_{label}"
        self.drawing.points[name] = (x, y)
        return name

    def entity(self, label: str, entity: Entity) -> str:
        name = f"{self.name}_{label}"
        self.drawing.entities[name] = entity
        self.entities.append(name)
        return name

    def hold(self, kind: ConstraintType, *on: str, value: str | None = None) -> str:
        self.held += 1
        name = f"{self.name}_k{self.held}"
        self.drawing.constraints[name] = Constraint(type=kind, on=on, value=value)
        return name

    def size(self, label: str, kind: ConstraintType, *on: str, value: str, positive: bool = True) -> None:
        self.sizes[label] = Size(constraint=self.hold(kind, *on, value=value), free=not positive)

    def position(self, point: str, request: _Request) -> None:
        self.size("x", "distance x", ORIGIN, point, value=request.x, positive=False)
        self.size("y", "distance y", ORIGIN, point, value=request.y, positive=False)


def _rectangle(pen: _Pen, request: RectangleRequest) -> None:
    width, height = pen.mm(request.width, "width"), pen.mm(request.height, "height")
    radius = pen.mm(request.radius, "corner radius", positive=False)
    if radius < 0 or 2 * radius >= min(width, height):
        raise SketchError(
            f"A corner radius of {radius:g} mm does not fit a rectangle of {width:g} × {height:g} mm.",
            f"It must stay under {min(width, height) / 2:g} mm.",
        )
    x, y = pen.mm(request.x, "x", positive=False), pen.mm(request.y, "y", positive=False)
    left, bottom = (x - width / 2, y - height / 2) if request.by == "centre" else (x, y)
    right, top = left + width, bottom + height
    pen.note = request.by
    corners = [(left, bottom, 1, 1), (right, bottom, -1, 1), (right, top, -1, -1), (left, top, 1, -1)]
    if radius == 0:
        ends = [pen.point(f"p{i}", cx, cy) for i, (cx, cy, _, _) in enumerate(corners, 1)]
        starts, finishes, centres = ends, [*ends[1:], ends[0]], ends
    else:
        # At each corner: where the side before it ends, where the side after it starts, and the round's centre.
        before, after, centres = [], [], []
        for i, (cx, cy, dx, dy) in enumerate(corners, 1):
            on_x, on_y = (cx + dx * radius, cy), (cx, cy + dy * radius)
            first, second = (on_y, on_x) if i % 2 else (on_x, on_y)
            before.append(pen.point(f"a{i}", *first))
            after.append(pen.point(f"b{i}", *second))
            centres.append(pen.point(f"c{i}", cx + dx * radius, cy + dy * radius))
        starts, finishes = after, [*before[1:], before[0]]
    sides = [pen.entity(f"L{i}", Line(a=a, b=b)) for i, (a, b) in enumerate(zip(starts, finishes, strict=True), 1)]
    for i, side in enumerate(sides):
        pen.hold("vertical" if i % 2 else "horizontal", side)
    if radius > 0:
        rounds = [
            pen.entity(f"A{i}", Arc(c=c, a=a, b=b)) for i, (c, a, b) in enumerate(zip(centres, before, after, strict=True), 1)
        ]
        for i, arc in enumerate(rounds):
            pen.hold("tangent", sides[i - 1], arc, before[i])
            pen.hold("tangent", sides[i], arc, after[i])
            if i:
                pen.hold("equal", rounds[0], arc)
    line = pen.drawing.entities
    ends_of = {i: line[side] for i, side in enumerate(sides)}
    bottom_line, right_line, top_line, left_line = (ends_of[i] for i in range(4))
    assert isinstance(left_line, Line) and isinstance(right_line, Line)
    assert isinstance(bottom_line, Line) and isinstance(top_line, Line)
    pen.size("width", "distance x", left_line.a, right_line.a, value=request.width)
    pen.size("height", "distance y", bottom_line.a, top_line.a, value=request.height)
    if request.by == "centre":
        middle = pen.point("m", x, y)
        pen.hold("midpoint", middle, centres[0], centres[2])
        pen.position(middle, request)
    else:
        pen.size("x", "distance x", ORIGIN, left_line.a, value=request.x, positive=False)
        pen.size("y", "distance y", ORIGIN, bottom_line.a, value=request.y, positive=False)
    if radius > 0:
        pen.size("radius", "radius", f"{pen.name}_A1", value=request.radius)


def _circle(pen: _Pen, request: CircleRequest) -> None:
    diameter = pen.mm(request.diameter, "diameter")
    centre = pen.point("c", pen.mm(request.x, "x", positive=False), pen.mm(request.y, "y", positive=False))
    circle = pen.entity("C1", Circle(c=centre, r=diameter / 2))
    pen.size("diameter", "diameter", circle, value=request.diameter)
    pen.position(centre, request)


def _polygon(pen: _Pen, request: PolygonRequest) -> None:
    diameter = pen.mm(request.diameter, "diameter")
    x, y = pen.mm(request.x, "x", positive=False), pen.mm(request.y, "y", positive=False)
    centre = pen.point("c", x, y)
    guide = pen.entity("C1", Circle(c=centre, r=diameter / 2, construction=True))
    turn = 2 * math.pi / request.sides
    corners = [
        pen.point(f"p{i + 1}", x + diameter / 2 * math.cos(i * turn), y + diameter / 2 * math.sin(i * turn))
        for i in range(request.sides)
    ]
    sides = [pen.entity(f"L{i + 1}", Line(a=corner, b=corners[(i + 1) % len(corners)])) for i, corner in enumerate(corners)]
    for corner in corners:
        pen.hold("on", corner, guide)
    for side in sides[1:]:
        pen.hold("equal", sides[0], side)
    pen.hold("level", centre, corners[0])
    pen.note = f"{request.sides} sides"
    pen.size("diameter", "diameter", guide, value=request.diameter)
    pen.position(centre, request)


def _slot(pen: _Pen, request: SlotRequest) -> None:
    length, width = pen.mm(request.length, "length"), pen.mm(request.width, "width")
    x, y = pen.mm(request.x, "x", positive=False), pen.mm(request.y, "y", positive=False)
    angle = pen.scope.evaluate(request.angle, "angle")
    ux, uy = math.cos(angle), math.sin(angle)
    half, r = length / 2, width / 2

    def at(label: str, along: float, across: float) -> str:
        return pen.point(label, x + ux * along - uy * across, y + uy * along + ux * across)

    c1, c2 = at("c1", half, 0), at("c2", -half, 0)
    p1, p2, p3, p4 = at("p1", -half, -r), at("p2", half, -r), at("p3", half, r), at("p4", -half, r)
    below, above = pen.entity("L1", Line(a=p1, b=p2)), pen.entity("L2", Line(a=p3, b=p4))
    first, second = pen.entity("A1", Arc(c=c1, a=p2, b=p3)), pen.entity("A2", Arc(c=c2, a=p4, b=p1))
    middle_line = pen.entity("L3", Line(a=c2, b=c1, construction=True))
    for line, arc, end in ((below, first, p2), (above, first, p3), (above, second, p4), (below, second, p1)):
        pen.hold("tangent", line, arc, end)
    pen.hold("equal", first, second)
    middle = at("m", 0, 0)
    pen.hold("midpoint", middle, c1, c2)
    pen.size("length", "distance", c1, c2, value=request.length)
    pen.size("width", "diameter", first, value=request.width)
    pen.size("angle", "angle", middle_line, value=request.angle, positive=False)
    pen.position(middle, request)
