"""What a click on the sheet says: a place, and what it was snapped to."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from supplecast.geometry import Point2
from supplecast.sketch.belongings import Coordinate, Id
from supplecast.sketch.model import Line

if TYPE_CHECKING:
    from supplecast.sketch.pen import Pen

SnapType = Literal[
    "coincident", "midpoint", "on", "horizontal", "vertical", "parallel", "perpendicular", "tangent", "equal", "level", "plumb"
]


class Snap(BaseModel):
    """One thing that holds at a click.

    coincident (point), midpoint (line) and on (curve) speak of the place; horizontal, vertical, parallel, perpendicular, equal
    (line) and tangent (round) of the line that ends there; level and plumb (point) only guide.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    type: SnapType
    on: Annotated[tuple[Id, ...], Field(max_length=3)] = ()


class Pick(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)
    x: Coordinate
    y: Coordinate
    snaps: Annotated[tuple[Snap, ...], Field(max_length=8)] = ()

    @property
    def at(self) -> Point2:
        return (self.x, self.y)

    @property
    def point(self) -> str | None:
        """The point it was snapped to."""
        return next((snap.on[0] for snap in self.snaps if snap.type == "coincident" and snap.on), None)


def stand(pen: Pen, pick: Pick, at: Point2 | None = None) -> str:
    """The point a pick means: the one it was snapped to, else a new one, held as it was snapped."""
    if pick.point is not None and at is None:
        pen.at(pick.point)
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
    return name


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
