"""Trim: curves shortened to their crossings, keeping every constraint that still makes sense.

The surviving end keeps its point, and a new end gets a new one, so that what was attached to the old end stays there by
itself. The piece that keeps its name is the elder; the younger remembers it in `came_from`.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from supplecast.curves import Circle2, Curve2, Ellipse2
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act
from supplecast.sketch.acts.draw import Place
from supplecast.sketch.acts.pieces import (
    ON,
    TOUCH,
    Open,
    distance_to,
    laid,
    leave_points,
    new_end,
    opened,
    parted,
    piece_of,
    place_on,
    settle,
)
from supplecast.sketch.belongings import Id
from supplecast.sketch.crossings import cuts, nearest
from supplecast.sketch.model import Circle, Ellipse, Line, Spline, ends_of
from supplecast.sketch.pen import Pen


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
    closed = isinstance(mine, Circle2) or (isinstance(mine, Ellipse2) and mine.closed)
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
    for t in (0.0, 1.0):  # where it only touches what it ends on, the crossing is found a little off its end
        end = place_on(mine, t)
        if any(distance_to(curve, end) < ON for other, curve in curves.items() if other != name):
            marks = np.array([mark for mark in marks if math.dist(place_on(mine, float(mark)), end) > TOUCH])
    below, above = marks[marks <= at], marks[marks > at]
    return Span(float(below[-1]) if len(below) else None, float(above[0]) if len(above) else None)


class Trim(Act):
    """Take away the piece of a curve that lies between the nearest crossings, at each of some places."""

    words = "Trim"
    do: Literal["trim"] = "trim"
    reshapes = True
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
        near = [k for k in heirs if distance_to(curves[k], place) < ON]
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
    curve = curves[name]
    if isinstance(entity, Circle) or (isinstance(entity, Ellipse) and not entity.ends):
        _open_loop(pen, name, entity, curve, curves, span)
    elif span.low is not None and span.high is not None:
        _take_middle(pen, name, entity, curve, curves, (span.low, span.high))
    else:
        _take_end(pen, name, entity, curve, curves, span)


def _take_end(pen: Pen, name: str, entity: Open, curve: Curve2, curves: dict[str, Curve2], span: Span) -> None:
    first = span.low is None
    t = span.high if first else span.low
    assert t is not None
    a, b = ends_of(entity)
    point = new_end(pen, name, place_on(curve, t), curves)
    ends, shares = ((point, b), (t, 1.0)) if first else ((a, point), (0.0, t))
    pen.replace(name, **piece_of(pen, entity, curve, ends, shares))
    leave_points(pen, entity)
    settle(pen, name, a if first else b, curves)


def _take_middle(pen: Pen, name: str, entity: Open, curve: Curve2, curves: dict[str, Curve2], at: tuple[float, float]) -> None:
    low, high = (new_end(pen, name, place_on(curve, t), curves) for t in at)
    younger = parted(pen, name, entity, curve, (low, high), at)
    if isinstance(entity, Line):
        pen.hold("collinear", name, younger, inferred=True)
    elif not isinstance(entity, Spline):
        pen.hold("equal", name, younger, inferred=True)  # the centre is shared: what is left to say is the radius
    settle(pen, name, None, curves)


def _open_loop(pen: Pen, name: str, entity: Circle | Ellipse, curve: Curve2, curves: dict[str, Curve2], span: Span) -> None:
    assert span.low is not None and span.high is not None
    places = place_on(curve, span.high), place_on(curve, span.low)
    start, end = (new_end(pen, name, place, curves) for place in places)
    if start == end:
        raise SketchError(f"What is left of {pen.name(name)} would have no length.", "Trim elsewhere.")
    pen.drawing.entities[name] = opened(entity, start, end)
    settle(pen, name, None, curves)
