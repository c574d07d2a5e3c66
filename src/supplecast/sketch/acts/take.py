"""Taking curves from the model: laid in the plane by the kernel, put into the sketch here, linked to where they came from."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from supplecast.curves import Arc2, Circle2, Curve2, Line2, Spline2
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act
from supplecast.sketch.acts.draw import Names, Place
from supplecast.sketch.model import Arc, Circle, Coordinate, Drawing, Line, Shape, Spline, Taken
from supplecast.sketch.pen import Pen

_SAME = 1e-6


class TakenCurve(BaseModel):
    """A curve as it lies in the plane, and where it came from."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    kind: Literal["line", "arc", "circle", "spline"]
    places: Annotated[tuple[Place, ...], Field(min_length=1, max_length=200)]
    r: Coordinate = 0.0
    ccw: bool = True
    source: Taken


class Take(Act):
    """Put curves taken from the model into the sketch, as construction unless `real`."""

    words = "Take from the model"
    do: Literal["take"] = "take"
    curves: Annotated[tuple[TakenCurve, ...], Field(min_length=1, max_length=1000)]
    real: bool = False

    def on(self, pen: Pen) -> None:
        there = {name: pen.at(name) for taken in pen.drawing.taken for name in _points(pen.shape(taken))}

        def stand(place: Point2) -> str:
            for name, at in there.items():
                if math.dist(at, place) < _SAME:
                    return name
            name = pen.point(place)
            there[name] = place
            return name

        for curve in self.curves:
            shape = _shape(curve, stand)
            name = pen.put(shape.model_copy(update={"construction": not self.real}))
            pen.drawing.taken[name] = curve.source


class Unlink(Act):
    """Let curves taken from the model be free of it."""

    words = "Unlink from the model"
    do: Literal["unlink"] = "unlink"
    names: Names

    def on(self, pen: Pen) -> None:
        for name in self.names:
            if pen.drawing.taken.pop(name, None) is None:
                raise SketchError("That curve was not taken from the model.", "Choose one that was.")


def _points(shape: Shape) -> tuple[str, ...]:
    match shape:
        case Line(a=a, b=b):
            return a, b
        case Arc(c=c, a=a, b=b):
            return c, a, b
        case Spline(through=through, first=first, last=last):
            return (*through, first, last)
        case _:
            return (shape.c,)


def _shape(curve: TakenCurve, stand: Any) -> Shape:
    points = [stand(place) for place in curve.places]
    match curve.kind:
        case "line":
            return Line(a=points[0], b=points[1])
        case "arc":
            return Arc(c=points[0], a=points[1], b=points[2], cw=not curve.ccw)
        case "circle":
            return Circle(c=points[0], r=curve.r)
    return Spline(through=tuple(points[:-2]), first=points[-2], last=points[-1])


def told(curve: Curve2) -> dict[str, Any]:
    """A curve as the act wants it."""
    match curve:
        case Line2(a=a, b=b):
            return {"kind": "line", "places": [a, b]}
        case Arc2(centre=c, a=a, b=b, ccw=ccw):
            return {"kind": "arc", "places": [c, a, b], "ccw": ccw}
        case Circle2(centre=c, radius=r):
            return {"kind": "circle", "places": [c], "r": r}
        case Spline2(poles=poles):
            return {"kind": "spline", "places": [*poles[::3], poles[1], poles[-2]]}
    raise TypeError(curve)


def moved_to(drawing: Drawing, name: str, curve: Curve2) -> bool:
    """Lay an entity where the model now says, in place; False if what is there now is of another kind."""
    data = TakenCurve.model_validate({**told(curve), "source": Taken()})
    entity = drawing.entities[name]
    points = _points(entity)
    if entity.type != data.kind or len(points) != len(data.places):
        return False
    for point, place in zip(points, data.places, strict=True):
        if point in drawing.points:
            drawing.points[point] = place
    if isinstance(entity, Circle):
        drawing.entities[name] = entity.model_copy(update={"r": data.r})
    elif isinstance(entity, Arc):
        drawing.entities[name] = entity.model_copy(update={"cw": not data.ccw})
    return True
