"""Trim, extend and cut: curves shortened, lengthened and parted, keeping every constraint that still makes sense.

The surviving end keeps its point, and a new end gets a new one, so that what was attached to the old end stays there by
itself. The piece that keeps its name is the elder; the younger remembers it in `came_from`.
Weak case: ellipses and splines are not trimmed, since what is left of them is no ellipse and no spline of this kind.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from supplecast.curves import Arc2, Circle2, Curve2, Line2
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch import sizing
from supplecast.sketch.acts import Act
from supplecast.sketch.acts.draw import Place
from supplecast.sketch.crossings import cuts, nearest
from supplecast.sketch.model import ORIGIN, Arc, Circle, Ellipse, Id, Line, Shape, Spline, ends_of
from supplecast.sketch.pen import Pen
from supplecast.sketch.regions import curve as as_curve

_NEAR = 1e-6
_ON = 1e-5


def laid(pen: Pen) -> dict[str, Curve2]:
    """Every entity as a curve where it lies."""
    drawing = pen.drawing
    places, radii = {**drawing.points, ORIGIN: (0.0, 0.0)}, sizing.radii_of(drawing)
    return {name: as_curve(name, drawing, places, radii) for name in drawing.entities}


@dataclass(frozen=True)
class Span:
    """The piece of a curve between two cuts (or ends) that holds a place: parameters, None at an end of the curve."""

    low: float | None
    high: float | None


def span_at(curves: dict[str, Curve2], name: str, place: Point2) -> Span:
    """The piece of a curve that trimming at a place takes away."""
    names = list(curves)
    mine = curves[name]
    crossings = cuts(list(curves.values()), only=names.index(name)).at
    closed = isinstance(mine, Circle2)
    slack = 1e-6
    at = float(nearest(mine, np.array([place]))[0])
    if closed:
        marks = np.unique(np.round(np.mod(crossings, 1.0), 9))
        if len(marks) > 1 and marks[0] + 1 - marks[-1] < slack:
            marks = marks[:-1]
        if len(marks) < 2:
            return Span(None, None)
        below, above = marks[marks <= at], marks[marks > at]
        return Span(float(below[-1] if len(below) else marks[-1]), float(above[0] if len(above) else marks[0]))
    marks = np.sort(crossings[(crossings > slack) & (crossings < 1 - slack)])
    below, above = marks[marks <= at], marks[marks > at]
    return Span(float(below[-1]) if len(below) else None, float(above[0]) if len(above) else None)


def _place(curve: Curve2, t: float) -> Point2:
    x, y = curve.at(np.array([t]))[0]
    return (float(x), float(y))


def _share(curve: Curve2, p: Point2) -> float:
    return float(nearest(curve, np.array([p]))[0])


def _distance(curve: Curve2, p: Point2) -> float:
    return math.dist(_place(curve, _share(curve, p)), p)


class Trim(Act):
    """Take away the piece of a curve that lies between the nearest crossings, at each of some places."""

    words = "Trim"
    do: Literal["trim"] = "trim"
    cuts: Annotated[tuple[tuple[Id, Place], ...], Field(min_length=1, max_length=200)]

    def on(self, pen: Pen) -> None:
        for name, _ in self.cuts:
            pen.shape(name)
        for name, place in self.cuts:
            if name in pen.drawing.entities:
                trim(pen, name, place)
            else:
                self._younger(pen, name, place)

    def _younger(self, pen: Pen, name: str, place: Point2) -> None:
        """Dragged across, a curve may be cut again where a younger piece of it lies by now."""
        curves = laid(pen)
        heirs = [k for k, entity in pen.drawing.entities.items() if name in entity.came_from]
        near = [k for k in heirs if _distance(curves[k], place) < _ON]
        if near:
            trim(pen, near[0], place)


def trim(pen: Pen, name: str, place: Point2) -> None:
    entity = pen.shape(name)
    curves = laid(pen)
    span = span_at(curves, name, place)
    if span.low is None and span.high is None:
        for k, _ in pen.holding(name):
            pen.lose(k)
        pen.report.notes.append(f"{pen.name(name).capitalize()} was not crossed and is gone")
        pen.erase([name])
        return
    if isinstance(entity, (Ellipse, Spline)):
        word = "An ellipse" if isinstance(entity, Ellipse) else "A spline"
        raise SketchError(f"{word} cannot be trimmed.", "Trim the curves that cross it, or remove points of the spline.")
    curve = curves[name]
    if isinstance(entity, Circle):
        assert span.low is not None and span.high is not None
        _open_circle(pen, name, entity, curve, curves, span)
    elif span.low is not None and span.high is not None:
        _take_middle(pen, name, entity, curve, curves, (span.low, span.high))
    else:
        _take_end(pen, name, entity, curve, curves, span)


def _new_end(pen: Pen, name: str, place: Point2, curves: dict[str, Curve2]) -> str:
    """A point where a curve was cut: the end of what cut it, if that ends there, else a new one on what cut it."""
    pen.reshaped = True
    for other in curves:
        if other == name or other not in pen.drawing.entities:
            continue
        for end in ends_of(pen.shape(other)):
            if math.dist(pen.at(end), place) < _ON and end not in ends_of(pen.shape(name)):
                for k, held in pen.holding(end):
                    if held.type == "on" and held.on == (end, name):
                        del pen.drawing.constraints[k]  # said by the shared end from now on
                return end
    point = pen.point(place)
    for other, curve in curves.items():
        if other != name and other in pen.drawing.entities and _distance(curve, place) < _ON:
            touching = [k for k, held in pen.holding(name) if held.type == "tangent" and len(held.on) == 2 and other in held.on]
            for k in touching:
                # A free touch with its contact at the new end would say the same twice: there it is an angle.
                pen.rehold(k, on=(*pen.drawing.constraints[k].on, point))
            if not isinstance(pen.shape(other), Spline):
                pen.hold("on", point, other, inferred=True)
            break
    return point


def _settle(pen: Pen, name: str, old: str | None, curves: dict[str, Curve2]) -> None:
    """Look at every constraint of a shortened curve, and of the end it has left behind."""
    drawing = pen.drawing
    left = laid(pen)[name]
    entity = pen.shape(name)
    for k, held in pen.holding(name):
        others = [part for part in held.on if part != name]
        if (held.type == "equal" and isinstance(entity, Line)) or held.type == "arc length":
            pen.lose(k)
        elif held.type == "on" and held.on[1] == name:
            point = held.on[0]
            if _distance(left, pen.at(point)) > _ON:
                pen.lose(k)
        elif held.type == "tangent":
            joint = held.on[2] if len(held.on) == 3 else None
            if joint is not None and joint not in ends_of(entity):
                pen.lose(k)
            elif joint is None:
                contact = _contact(pen, name, others[0])
                if contact is not None and _distance(left, contact) > _ON:
                    pen.lose(k)
    if old is None or pen.users(old) or old == ORIGIN:
        # Others still end there: what held the point goes on holding it, but it is no end of this curve any more.
        if old is not None:
            _midpoints(pen, name, old)
        return
    _midpoints(pen, name, old)
    for k, _ in pen.holding(old):
        pen.lose(k)
    drawing.points.pop(old, None)


def _midpoints(pen: Pen, name: str, old: str) -> None:
    entity = pen.shape(name)
    for k, held in pen.holding(old):
        is_its = bool(set(held.on[1:]) & set(ends_of(entity)))
        if held.type == "midpoint" and old in held.on[1:] and is_its and isinstance(entity, Line):
            middle = held.on[0]
            if middle not in ends_of(entity):
                pen.weaken(k, f"a point on {pen.name(name)}", type="on", on=(middle, name))


def _contact(pen: Pen, name: str, other: str) -> Point2 | None:
    """Where two curves that touch without a shared point touch."""
    shapes: list[tuple[str, Shape]] = [(name, pen.shape(name)), (other, pen.shape(other))]
    lines = [shape for _, shape in shapes if isinstance(shape, Line)]
    rounds = [(key, shape) for key, shape in shapes if isinstance(shape, (Arc, Circle))]
    if lines and rounds:
        a, b, c = pen.at(lines[0].a), pen.at(lines[0].b), pen.at(rounds[0][1].c)
        direction = (b[0] - a[0], b[1] - a[1])
        t = ((c[0] - a[0]) * direction[0] + (c[1] - a[1]) * direction[1]) / max(direction[0] ** 2 + direction[1] ** 2, 1e-18)
        return (a[0] + t * direction[0], a[1] + t * direction[1])
    if len(rounds) == 2:
        c1, c2 = (pen.at(shape.c) for _, shape in rounds)
        d, r = math.dist(c1, c2), pen.radius(rounds[0][0])
        if d < 1e-9:
            return None
        inside = d < max(r, pen.radius(rounds[1][0]))
        sign = -1.0 if inside and r < pen.radius(rounds[1][0]) else 1.0
        return (c1[0] + (c2[0] - c1[0]) * sign * r / d, c1[1] + (c2[1] - c1[1]) * sign * r / d)
    return None


def _take_end(pen: Pen, name: str, entity: Line | Arc, curve: Curve2, curves: dict[str, Curve2], span: Span) -> None:
    first = span.low is None
    t = span.high if first else span.low
    assert t is not None
    old = entity.a if first else entity.b
    point = _new_end(pen, name, _place(curve, t), curves)
    pen.replace(name, **{"a" if first else "b": point})
    _settle(pen, name, old, curves)


def _take_middle(
    pen: Pen, name: str, entity: Line | Arc, curve: Curve2, curves: dict[str, Curve2], at: tuple[float, float]
) -> None:
    low, high = (_new_end(pen, name, _place(curve, t), curves) for t in at)
    younger = _parted(pen, name, entity, low, high)
    if isinstance(entity, Line):
        pen.hold("collinear", name, younger, inferred=True)
    else:
        pen.hold("equal", name, younger, inferred=True)  # the centre is shared: what is left to say is the radius
    _settle(pen, name, None, curves)


def _parted(pen: Pen, name: str, entity: Line | Arc, low: str, high: str) -> str:
    """Let a curve end at `low`, and a younger piece run from `high` to its old end; what held there follows the piece."""
    far = entity.b
    pen.replace(name, b=low)
    younger = pen.put(entity.model_copy(update={"a": high, "came_from": (name, *entity.came_from)}))
    rest = laid(pen)[younger]
    for k, held in pen.holding(name):
        follows = False
        if held.type == "tangent" and len(held.on) == 3:
            follows = held.on[2] == far
        elif held.type == "tangent":
            contact = _contact(pen, name, next(part for part in held.on if part != name))
            follows = contact is not None and _distance(rest, contact) < _ON
        elif held.type == "on" and held.on[1] == name:
            follows = _distance(rest, pen.at(held.on[0])) < _ON
        if follows:
            pen.rehold(k, on=tuple(younger if part == name else part for part in held.on))
    return younger


def _open_circle(pen: Pen, name: str, entity: Circle, curve: Curve2, curves: dict[str, Curve2], span: Span) -> None:
    assert span.low is not None and span.high is not None
    places = _place(curve, span.high), _place(curve, span.low)
    start, end = (_new_end(pen, name, place, curves) for place in places)
    if start == end:
        raise SketchError("What is left of the circle would have no length.", "Trim elsewhere.")
    arc = Arc(c=entity.c, a=start, b=end, construction=entity.construction, came_from=entity.came_from)
    pen.drawing.entities[name] = arc
    _settle(pen, name, None, curves)


class Extend(Act):
    """Lengthen a line or an arc from the end nearest to a place to the next curve in its way."""

    words = "Extend"
    do: Literal["extend"] = "extend"
    entity: Id
    at: Place

    def on(self, pen: Pen) -> None:
        entity = pen.shape(self.entity)
        if not isinstance(entity, (Line, Arc)):
            raise SketchError("Only lines and arcs can be extended.", "Pick a line or an arc near the end that is to grow.")
        first = math.dist(pen.at(entity.a), self.at) < math.dist(pen.at(entity.b), self.at)
        old = entity.a if first else entity.b
        curves = laid(pen)
        place = _ahead(curves, self.entity, entity, pen, first)
        if place is None:
            raise SketchError("Nothing lies in the way of that end.", "Draw what it is to reach first.")
        point = _new_end(pen, self.entity, place, curves)
        pen.replace(self.entity, **{"a" if first else "b": point})
        ends = set(ends_of(pen.shape(self.entity)))
        twin = next((k for k, e in pen.drawing.entities.items() if k != self.entity and set(ends_of(e)) == ends), None)
        if twin is not None and type(pen.shape(twin)) is type(entity):
            raise SketchError(f"It would come to lie on {pen.name(twin)}.", "Erase one of the two, or extend another end.")
        if pen.users(old):
            pen.hold("on", old, self.entity, inferred=True)  # others end there still, on this curve now
            for k, held in pen.holding(self.entity):
                if (held.type == "tangent" and len(held.on) == 3 and held.on[2] == old) or (
                    held.type == "equal" and isinstance(entity, Line)
                ):
                    pen.lose(k)
            _midpoints(pen, self.entity, old)
        else:
            _settle(pen, self.entity, old, curves)


def _ahead(curves: dict[str, Curve2], name: str, entity: Line | Arc, pen: Pen, first: bool) -> Point2 | None:
    """The first crossing beyond an end."""
    mine = curves[name]
    others = [curve for key, curve in curves.items() if key != name]
    if isinstance(mine, Line2):
        start, end = (mine.b, mine.a) if first else (mine.a, mine.b)
        length = math.dist(start, end)
        reach = 1e4 + 10 * length
        ray = Line2(name, end, (end[0] + (end[0] - start[0]) / length * reach, end[1] + (end[1] - start[1]) / length * reach))
        crossings = cuts([ray, *others], only=0).at
        crossings = crossings[crossings * reach > 1e-5]
        return _place(ray, float(crossings.min())) if len(crossings) else None
    assert isinstance(mine, Arc2)
    rest = Arc2(name, mine.centre, mine.a if first else mine.b, mine.b if first else mine.a, mine.ccw != first)
    crossings = cuts([rest, *others], only=0).at
    crossings = crossings[(crossings > 1e-6) & (crossings < 1 - 1e-6)]
    return _place(rest, float(crossings.min())) if len(crossings) else None


class Cut(Act):
    """Part a line, an arc or a circle in two at a place; the pieces stay joined."""

    words = "Cut"
    do: Literal["cut"] = "cut"
    entity: Id
    at: Place

    def on(self, pen: Pen) -> None:
        cut(pen, self.entity, self.at)


def cut(pen: Pen, name: str, place: Point2) -> None:
    """Part a curve in two at the place of it that is nearest."""
    entity = pen.shape(name)
    curve = laid(pen)[name]
    t = _share(curve, place)
    if isinstance(entity, Circle):
        _part_circle(pen, name, entity, curve, t)
        return
    if not isinstance(entity, (Line, Arc)):
        raise SketchError("Only lines, arcs and circles can be cut in two.", "Pick one of these.")
    if not _NEAR < t < 1 - _NEAR:
        raise SketchError("The cut lies at an end of the line.", "Pick a place between its ends.")
    middle = pen.point(_place(curve, t))
    younger = _parted(pen, name, entity, middle, middle)
    for k, held in pen.holding(name):
        if (held.type == "equal" and isinstance(entity, Line)) or held.type == "arc length":
            pen.lose(k)
    if isinstance(entity, Line):
        pen.hold("parallel", name, younger, inferred=True)  # with the shared point: in one line


def _part_circle(pen: Pen, name: str, entity: Circle, curve: Curve2, t: float) -> None:
    a, b = (pen.point(_place(curve, share)) for share in (t, t + 0.5))
    half = {"construction": entity.construction}
    pen.drawing.entities[name] = Arc(c=entity.c, a=a, b=b, came_from=entity.came_from, **half)
    pen.put(Arc(c=entity.c, a=b, b=a, came_from=(name, *entity.came_from), **half))
