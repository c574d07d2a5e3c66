"""What a click on the sheet says: a place, and what it was snapped to."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from supplecast.errors import QuantityError, SketchError
from supplecast.geometry import Point2
from supplecast.quantities import Scope
from supplecast.sketch.belongings import Coordinate, Id
from supplecast.sketch.model import ORIGIN, Line

if TYPE_CHECKING:
    from supplecast.sketch.pen import Pen

Text = Annotated[str, StringConstraints(min_length=1, max_length=200)]
SnapType = Literal[
    "coincident", "midpoint", "on", "horizontal", "vertical", "parallel", "perpendicular", "tangent", "equal", "level", "plumb"
]


class Snap(BaseModel):
    """One thing that holds at a click.

    coincident (point), midpoint (line) and on (curve) speak of the place; horizontal, vertical, parallel, perpendicular, equal
    (line) and tangent (round) of the line that ends there; level and plumb (point) only guide, those of no point hold with
    where the curve begins.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    type: SnapType
    on: Annotated[tuple[Id, ...], Field(max_length=3)] = ()


class Pick(BaseModel):
    """A place of the sheet, mm. Its coordinates may have been `typed`, as expressions: then these say where it is."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    x: Coordinate
    y: Coordinate
    typed: tuple[Text, Text] | None = None
    snaps: Annotated[tuple[Snap, ...], Field(max_length=8)] = ()

    @property
    def at(self) -> Point2:
        return (self.x, self.y)

    def placed(self, scope: Scope) -> Pick:
        """Where it was typed to lie. SketchError for what is no coordinate."""
        if self.typed is None:
            return self
        try:
            x, y = (scope.evaluate(text, "length") for text in self.typed)
        except QuantityError as fault:
            raise SketchError(f"The place cannot be read: {fault.message}", "Type two numbers, such as 10, 5.") from fault
        if max(abs(x), abs(y)) > 1e6:
            raise SketchError("That place lies too far away.", "Stay within a kilometre of the origin.")
        return self.model_copy(update={"x": x, "y": y})

    @property
    def point(self) -> str | None:
        """The point it was snapped to."""
        return next((snap.on[0] for snap in self.snaps if snap.type == "coincident" and snap.on), None)


def stand(pen: Pen, pick: Pick, at: Point2 | None = None) -> str:
    """The point a pick means: the one it was snapped to, else a new one, held as it was snapped."""
    if pick.point is not None and at is None:
        pen.at(pick.point)
        _typed(pen, pick, pick.point)
        return pick.point
    name = pen.point(at or pick.at)
    if at is not None and math.dist(at, pick.at) > 1e-9:
        return name  # typed numbers have moved it off what it was snapped to
    for snap in pick.snaps:
        if snap.type == "on" and snap.on:
            pen.shape(snap.on[0])
            pen.hold("on", name, snap.on[0], inferred=True)
        elif snap.type == "midpoint" and snap.on:
            line = pen.line(snap.on[0])
            pen.hold("midpoint", name, line.a, line.b, inferred=True)
    _typed(pen, pick, name)
    return name


def _typed(pen: Pen, pick: Pick, point: str) -> None:
    """Typed coordinates are kept as sizes from the origin: what was typed whole is fully fixed."""
    if pick.typed is None or point == ORIGIN:
        return
    for text, value, size, none in zip(pick.typed, pick.at, ("distance x", "distance y"), ("plumb", "level"), strict=True):
        if abs(value) < 1e-9:
            pen.hold(none, ORIGIN, point, inferred=True)  # type: ignore[arg-type]
        else:
            pen.hold(size, ORIGIN, point, value=text, inferred=True)  # type: ignore[arg-type]


def direct(pen: Pen, line: str, pick: Pick) -> None:
    """Hold a new line as its end was snapped: level, upright, along, across, as long as, or touching another."""
    held = pen.line(line)
    for snap in pick.snaps:
        match snap.type:
            case "horizontal" | "vertical":
                pen.hold(snap.type, line, inferred=True)
            case "parallel" | "perpendicular" | "equal" if snap.on and isinstance(pen.shape(snap.on[0]), Line):
                pen.hold(snap.type, snap.on[0], line, inferred=True)
            case "tangent" if snap.on:
                pen.shape(snap.on[0])
                touching = pen.ending(held.a)
                if snap.on[0] in touching:
                    pen.hold("tangent", snap.on[0], line, held.a, inferred=True)
                else:
                    pen.hold("tangent", snap.on[0], line, held.b, inferred=True)
                    pen.hold("on", held.b, snap.on[0], inferred=True)
