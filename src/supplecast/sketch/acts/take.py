"""Taking curves from the model: laid in the plane by the kernel, put into the sketch here, linked to where they came from."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from supplecast.curves import Arc2, Circle2, Curve2, Line2, Spline2
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act
from supplecast.sketch.acts.draw import Names, Place
from supplecast.sketch.belongings import Coordinate, Taken
from supplecast.sketch.model import Arc, Circle, Drawing, Line, Shape, Spline, stands_on
from supplecast.sketch.pen import Pen
from supplecast.sketch.tools.arc import leaving

_SAME = 1e-6
_LEVEL, _SMOOTH = 0.02, 0.3  # what a traced line may lean, and a traced joint may turn (sines), to be held straight


class PlacedCurve(BaseModel):
    """A curve by places: ends; centre, start and end; centre; or the points of a spline, then its two handles."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    kind: Literal["line", "arc", "circle", "spline"]
    places: Annotated[tuple[Place, ...], Field(min_length=1, max_length=200)]
    r: Coordinate = 0.0
    ccw: bool = True

    @model_validator(mode="after")
    def _enough(self) -> Self:
        least, most = {"line": (2, 2), "arc": (3, 3), "circle": (1, 1), "spline": (4, 200)}[self.kind]
        if not least <= len(self.places) <= most or (self.kind == "circle" and self.r <= 0):
            raise ValueError(f"a {self.kind} needs {least} places, and a circle a radius")
        return self


class TakenCurve(PlacedCurve):
    """A curve as it lies in the plane, and where it came from."""

    source: Taken


class Take(Act):
    """Put curves taken from the model into the sketch, as construction unless `real`."""

    words = "Take from the model"
    do: Literal["take"] = "take"
    curves: Annotated[tuple[TakenCurve, ...], Field(min_length=1, max_length=1000)]
    real: bool = False

    def on(self, pen: Pen) -> None:
        places = _Places(pen, [name for taken in pen.drawing.taken for name in _points(pen.shape(taken))])
        there = {_key(pen.shape(name)) for name in pen.drawing.taken}
        before, made = set(pen.drawing.points), len(pen.made)
        for curve in self.curves:
            shape = _shape(curve, places.stand)
            if _key(shape) in there:
                continue
            there.add(_key(shape))
            name = pen.put(shape.model_copy(update={"construction": not self.real}))
            pen.drawing.taken[name] = curve.source
        pen.drop_unused_points(set(pen.drawing.points) - before)
        if len(pen.made) == made:
            raise SketchError("That is taken already.", "Click another edge, or use the curve that lies there.")


def _key(shape: Shape) -> tuple[str, frozenset[str], float]:
    """What tells curves of one kind on the same points apart."""
    return (shape.type, frozenset(stands_on(shape)), round(getattr(shape, "r", 0.0), 6))


class BringIn(Act):
    """Put outlines read from a file into the sketch, joined where their ends meet."""

    words = "Bring in outlines"
    do: Literal["bring in"] = "bring in"
    curves: Annotated[tuple[PlacedCurve, ...], Field(min_length=1, max_length=2000)]

    def on(self, pen: Pen) -> None:
        places = _Places(pen, [])
        twice = 0
        seen = set()
        for curve in self.curves:
            shape = _shape(curve, places.stand)
            key = _key(shape)
            if curve.kind in ("line", "circle") and key in seen:
                twice += 1
                continue
            seen.add(key)
            pen.put(shape)
        if twice:
            pen.report.notes.append(f"{twice} drawn twice left out")


class Trace(BringIn):
    """Put the guess of an outline, which may be `off` so many mm, into the sketch: what is nearly level, upright or smooth is
    held so.
    """

    words = "Trace a photo"
    do: Literal["trace"] = "trace"  # type: ignore[assignment]
    off: Annotated[Coordinate, Field(ge=0)] = 0.0

    def on(self, pen: Pen) -> None:
        super().on(pen)
        lines = [name for name in pen.made if isinstance(pen.shape(name), Line)]
        for name in lines:
            held = pen.line(name)
            dx, dy = (abs(b - a) for a, b in zip(pen.at(held.a), pen.at(held.b), strict=True))
            if min(dx, dy) < max(_LEVEL * max(dx, dy), min(3 * self.off, 0.1 * max(dx, dy))):
                pen.hold("horizontal" if dy < dx else "vertical", name, inferred=True)
        for name in pen.made:
            arc = pen.shape(name)
            for end in (arc.a, arc.b) if isinstance(arc, Arc) else ():
                for other in pen.ending(end):
                    if other in lines:
                        u, v = leaving(pen, other, end), leaving(pen, name, end)
                        if abs(u[0] * v[1] - u[1] * v[0]) < _SMOOTH and u[0] * v[0] + u[1] * v[1] < 0:
                            pen.hold("tangent", other, name, end, inferred=True)


class _Places:
    """Points by where they lie: a place within a micrometre of one that is there is that one."""

    def __init__(self, pen: Pen, there: list[str]) -> None:
        self.pen = pen
        self.cells: dict[tuple[int, int], list[str]] = {}
        for name in there:
            self._keep(name)

    def _cell(self, place: Point2) -> tuple[int, int]:
        return (math.floor(place[0] / (4 * _SAME)), math.floor(place[1] / (4 * _SAME)))

    def _keep(self, name: str) -> None:
        self.cells.setdefault(self._cell(self.pen.at(name)), []).append(name)

    def stand(self, place: Point2) -> str:
        x, y = self._cell(place)
        for dx in (0, -1, 1):
            for dy in (0, -1, 1):
                for name in self.cells.get((x + dx, y + dy), ()):
                    if math.dist(self.pen.at(name), place) < _SAME:
                        return name
        name = self.pen.point(place)
        self._keep(name)
        return name


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


def _shape(curve: PlacedCurve, stand: Callable[[Point2], str]) -> Shape:
    points = [stand(place) for place in curve.places]
    if curve.kind != "circle" and points[0 if curve.kind != "arc" else 1] == points[1 if curve.kind != "arc" else 2]:
        raise SketchError(f"A {curve.kind} ends where it begins.", "Leave it out.")
    match curve.kind:
        case "line":
            return Line(a=points[0], b=points[1])
        case "arc":
            return Arc(c=points[0], a=points[1], b=points[2], cw=not curve.ccw)
        case "circle":
            return Circle(c=points[0], r=curve.r)
    return Spline(through=tuple(points[:-2]), first=points[-2], last=points[-1])


def as_taken(curve: Curve2) -> dict[str, Any]:
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
    data = TakenCurve.model_validate({**as_taken(curve), "source": Taken()})
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
