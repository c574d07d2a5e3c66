"""Extend: open curves lengthened to the next curve in their way."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

import numpy as np

from supplecast.curves import Arc2, Curve2, Ellipse2, Line2, Spline2, bezier_part
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act
from supplecast.sketch.acts.draw import Place
from supplecast.sketch.acts.pieces import (
    laid,
    midpoints,
    moved,
    new_end,
    piece_of,
    place_on,
    settle,
)
from supplecast.sketch.belongings import Id
from supplecast.sketch.crossings import cuts
from supplecast.sketch.model import Circle, Line, Spline, ends_of
from supplecast.sketch.pen import Pen

_FURTHER = 4.0  # of its last piece's parameter to where a spline may be carried on


class Extend(Act):
    """Lengthen an open curve from the end nearest to a place to the next curve in its way."""

    words = "Extend"
    do: Literal["extend"] = "extend"
    reshapes = True
    entity: Id
    at: Place

    def on(self, pen: Pen) -> None:
        entity = pen.shape(self.entity)
        if isinstance(entity, Circle) or not ends_of(entity):
            raise SketchError(f"{pen.name(self.entity).capitalize()} has no end.", "Pick an open curve near the end to grow.")
        a, b = ends_of(entity)
        first = math.dist(pen.at(a), self.at) < math.dist(pen.at(b), self.at)
        old = a if first else b
        curves = laid(pen)
        found = _ahead(curves, self.entity, first)
        if found is None:
            raise SketchError("Nothing lies in the way of that end.", "Draw what it is to reach first.")
        place, longer, along = found
        point = new_end(pen, self.entity, place, {**curves, self.entity: along})
        if isinstance(entity, Spline):
            _grow(pen, self.entity, entity, longer, point, first)
        else:
            pen.replace(self.entity, **piece_of(pen, entity, longer, (point, b) if first else (a, point), (0.0, 1.0)))
        ends = set(ends_of(pen.shape(self.entity)))
        twin = next((k for k, e in pen.drawing.entities.items() if k != self.entity and set(ends_of(e)) == ends), None)
        if twin is not None and type(pen.shape(twin)) is type(entity):
            raise SketchError(f"It would come to lie on {pen.name(twin)}.", "Erase one of the two, or extend another end.")
        if isinstance(entity, Spline):
            settle(pen, self.entity, None, curves)
        elif pen.users(old):
            pen.hold("on", old, self.entity, inferred=True)  # others end there still, on this curve now
            for k, held in pen.holding(self.entity):
                if (held.type == "tangent" and len(held.on) == 3 and held.on[2] == old) or (
                    held.type == "equal" and isinstance(entity, Line)
                ):
                    pen.lose(k)
            midpoints(pen, self.entity, old)
        else:
            settle(pen, self.entity, old, curves)


def _grow(pen: Pen, name: str, entity: Spline, longer: Curve2, point: str, first: bool) -> None:
    """Let a spline run on to a point along its last piece's own polynomial; its old end stays a point of it."""
    assert isinstance(longer, Spline2)
    handle, pole = (entity.first, longer.poles[1]) if first else (entity.last, longer.poles[-2])
    if not moved(pen, handle, pole):
        handle = pen.point(pole)
    through = (point, *entity.through) if first else (*entity.through, point)
    pen.replace(name, through=through, spans=longer.spans, **{"first" if first else "last": handle})


def _ahead(curves: dict[str, Curve2], name: str, first: bool) -> tuple[Point2, Curve2, Curve2] | None:
    """The first crossing beyond an end, the curve carried on to it, and what it is carried on along."""
    mine = curves[name]
    others = [curve for key, curve in curves.items() if key != name]
    if isinstance(mine, Line2):
        start, end = (mine.b, mine.a) if first else (mine.a, mine.b)
        length = math.dist(start, end)
        reach = 1e4 + 10 * length
        ray = Line2(name, end, (end[0] + (end[0] - start[0]) / length * reach, end[1] + (end[1] - start[1]) / length * reach))
        crossings = cuts([ray, *others], only=0).at
        crossings = crossings[crossings * reach > 1e-5]
        return (place_on(ray, float(crossings.min())), mine, ray) if len(crossings) else None
    rest = _rest(mine.reversed() if first else mine)
    crossings = cuts([rest, *others], only=0).at
    crossings = crossings[(crossings > 1e-6) & (crossings < 1 - 1e-6)]
    if not len(crossings):
        return None
    at = float(crossings.min())
    if not isinstance(mine, Spline2):
        return place_on(rest, at), mine, rest
    whole = mine.reversed() if first else mine
    assert isinstance(rest, Spline2)
    onward = rest.part(0.0, at)
    longer = Spline2(name, (*whole.poles, *onward.poles[1:]), (*whole.spans, *onward.spans))
    return place_on(rest, at), longer.reversed() if first else longer, rest


def _rest(curve: Curve2) -> Curve2:
    """What a curve runs on along beyond its end: the rest of its circle or ellipse, or a spline's last polynomial."""
    match curve:
        case Arc2():
            return Arc2(curve.entity, curve.centre, curve.b, curve.a, curve.ccw)
        case Ellipse2():
            turn = math.copysign(2 * math.pi, curve.sweep)
            return replace(curve, start=curve.start + curve.sweep, sweep=turn - curve.sweep)
        case Spline2():
            poles = bezier_part(np.array(curve.poles[-4:]), 1.0, _FURTHER)
            places = tuple((float(x), float(y)) for x, y in poles)
            return Spline2(curve.entity, places, (curve.spans[-1] * (_FURTHER - 1.0),))
    raise TypeError(curve)
