"""Copies that stay linked: mirrored about a line, in a row, round a centre. Every copy refers to its source, not to the one
before it, so that one can be erased without losing those after it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Annotated, Literal

from pydantic import Field

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act, Text
from supplecast.sketch.acts.draw import Names
from supplecast.sketch.model import ORIGIN, Arc, Circle, Ellipse, Id, Line, stands_on
from supplecast.sketch.pen import Pen, restood

_ON_AXIS = 1e-6


def copy(pen: Pen, names: Sequence[str], place: Callable[[Point2], Point2], *, turned_over: bool = False) -> dict[str, str]:
    """Copies of entities at other places: the copy of each point by its name. A point that does not move is its own copy."""
    points: dict[str, str] = {}

    def stand(point: str) -> str:
        if point not in points:
            at = pen.at(point)
            there = place(at)
            points[point] = point if math.dist(at, there) < _ON_AXIS else pen.point(there)
        return points[point]

    for name in names:
        entity = pen.shape(name)
        for point in sorted(stands_on(entity)):
            stand(point)
        twin = restood(entity, stand)
        if stands_on(twin) == stands_on(entity) and len(stands_on(entity)) > 1 and isinstance(entity, Line):
            continue  # it lies on the axis: its copy is itself
        if turned_over and isinstance(twin, (Arc, Ellipse)):
            twin = twin.model_copy(update={"cw": not twin.cw})
        made = pen.put(twin.model_copy(update={"came_from": ()}))
        if isinstance(entity, (Circle, Ellipse)):
            pen.hold("equal", name, made)
    return points


class Mirror(Act):
    """Copy curves to the other side of a line; the copies follow."""

    words = "Mirror"
    do: Literal["mirror"] = "mirror"
    names: Names
    axis: Id

    def on(self, pen: Pen) -> None:
        axis = pen.line(self.axis)
        a, b = pen.at(axis.a), pen.at(axis.b)
        length = math.dist(a, b)
        if length < 1e-9:
            raise SketchError("The mirror line has no length.", "Pick another line.")
        u = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)

        def place(p: Point2) -> Point2:
            t = (p[0] - a[0]) * u[0] + (p[1] - a[1]) * u[1]
            foot = (a[0] + t * u[0], a[1] + t * u[1])
            return (2 * foot[0] - p[0], 2 * foot[1] - p[1])

        names = [name for name in self.names if name != self.axis]
        if not names:
            raise SketchError("Nothing to mirror is picked.", "Pick curves besides the mirror line.")
        for point, twin in copy(pen, names, place, turned_over=True).items():
            if twin != point:
                pen.hold("symmetric", point, twin, self.axis, inferred=True)
            elif point not in (axis.a, axis.b, ORIGIN):
                pen.hold("on", point, self.axis, inferred=True)


class Row(Act):
    """Copy curves in a row: `count` in all, each a step of (dx, dy) mm farther; the copies follow."""

    words = "Row"
    do: Literal["row"] = "row"
    names: Names
    count: Annotated[int, Field(ge=2, le=200)]
    dx: Text = "0"
    dy: Text = "0"

    def on(self, pen: Pen) -> None:
        dx, dy = pen.mm(self.dx, "step", least=None), pen.mm(self.dy, "step", least=None)
        if math.hypot(dx, dy) < 1e-6:
            raise SketchError("The copies would lie on each other.", "Type a step along x or y.")
        seed, first = "", ""
        for k in range(1, self.count):
            twins = copy(pen, self.names, lambda p, k=k: (p[0] + k * dx, p[1] + k * dy))  # type: ignore[misc]
            if not seed:
                seed, first = next(iter(twins.items()))
                pen.hold("distance x", seed, first, value=self.dx)
                pen.hold("distance y", seed, first, value=self.dy)
            for point, twin in twins.items():
                if (point, twin) != (seed, first):
                    pen.hold("shifted", point, twin, seed, first, times=k)


class Ring(Act):
    """Copy curves round a centre: `count` in all, `step` apart (by default spread evenly over a full turn)."""

    words = "Ring"
    do: Literal["ring"] = "ring"
    names: Names
    count: Annotated[int, Field(ge=2, le=200)]
    centre: Id = ORIGIN
    step: Text = ""

    def on(self, pen: Pen) -> None:
        text = self.step.strip() or f"360 deg / {self.count}"
        angle = pen.radians(text)
        if abs(angle) < 1e-6:
            raise SketchError("The copies would lie on each other.", "Type an angle such as 30.")
        c = pen.at(self.centre)
        group = pen.group()
        for k in range(1, self.count):
            cos, sin = math.cos(k * angle), math.sin(k * angle)

            def place(p: Point2, cos: float = cos, sin: float = sin) -> Point2:
                x, y = p[0] - c[0], p[1] - c[1]
                return (c[0] + cos * x - sin * y, c[1] + sin * x + cos * y)

            for point, twin in copy(pen, self.names, place).items():
                if twin != point:
                    pen.hold("turned", point, twin, self.centre, value=text, times=k, group=group)
                elif point != self.centre:
                    pen.hold("coincident", point, self.centre)
