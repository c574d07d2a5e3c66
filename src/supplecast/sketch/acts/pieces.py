"""Curves run between other ends: what becomes of their fields, of the constraints that hold them, and of the ends left behind.

A piece of a spline is a spline with the same spans of its parameter, and so the very same curve.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from supplecast.curves import Curve2, Spline2
from supplecast.geometry import Point2
from supplecast.sketch import sizing
from supplecast.sketch.crossings import nearest
from supplecast.sketch.model import ORIGIN, Arc, Circle, Ellipse, Line, Shape, Spline, ends_of
from supplecast.sketch.pen import Pen
from supplecast.sketch.regions import curve as as_curve

_NEAR = 1e-6
ON = 1e-5
TOUCH = 0.02
"""mm along two curves that touch: within it they lie closer to each other than `ON`, and their crossing is found no better."""
Open = Line | Arc | Ellipse | Spline


def laid(pen: Pen, names: Iterable[str] | None = None) -> dict[str, Curve2]:
    """Every entity, or some of them, as a curve where it lies."""
    drawing = pen.drawing
    places, radii = {**drawing.points, ORIGIN: (0.0, 0.0)}, sizing.radii_of(drawing)
    return {name: as_curve(name, drawing, places, radii) for name in (drawing.entities if names is None else names)}


def place_on(curve: Curve2, t: float) -> Point2:
    x, y = curve.at(np.array([t]))[0]
    return (float(x), float(y))


def share_of(curve: Curve2, p: Point2) -> float:
    return float(nearest(curve, np.array([p]))[0])


def distance_to(curve: Curve2, p: Point2) -> float:
    return math.dist(place_on(curve, share_of(curve, p)), p)


def new_end(pen: Pen, name: str, place: Point2, curves: dict[str, Curve2]) -> str:
    """A point where a curve was cut: the end of what cut it, if that ends there, else a new one on what cut it."""
    pen.reshaped = True
    others = [other for other in curves if other != name and other in pen.drawing.entities]
    for other in others:
        for end in ends_of(pen.shape(other)):
            if end not in ends_of(pen.shape(name)) and _ends_there(curves[name], curves[other], pen.at(end), place):
                for k, held in pen.holding(end):
                    if held.type == "on" and held.on == (end, name):
                        del pen.drawing.constraints[k]  # said by the shared end from now on
                _touch_at(pen, name, other, end)
                return end
    point = pen.point(place)
    for other in others:
        if distance_to(curves[other], place) < ON:
            _touch_at(pen, name, other, point)
            if not isinstance(pen.shape(other), Spline):
                pen.hold("on", point, other, inferred=True)
            break
    return point


def _ends_there(cut: Curve2, other: Curve2, end: Point2, place: Point2) -> bool:
    """Whether a curve is cut at the end of another. Where both touch, their crossing is found only roughly."""
    gap = math.dist(end, place)
    return gap < ON or (gap < TOUCH and distance_to(cut, end) < ON and distance_to(other, place) < ON)


def _touch_at(pen: Pen, name: str, other: str, point: str) -> None:
    """Two curves that touch, where one of them ends now: a free touch there would say the same twice, there it is an angle."""
    for k, held in pen.holding(name):
        if held.type == "tangent" and len(held.on) == 2 and other in held.on:
            pen.rehold(k, on=(*held.on, point))


def settle(pen: Pen, name: str, old: str | None, curves: dict[str, Curve2]) -> None:
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
            if distance_to(left, pen.at(point)) > ON:
                pen.lose(k)
        elif held.type == "tangent":
            joint = held.on[2] if len(held.on) == 3 else None
            if joint is not None and joint not in ends_of(entity) and distance_to(left, pen.at(joint)) > ON:
                pen.lose(k)
            elif joint is None:
                contact = _contact(pen, name, others[0])
                if contact is not None and distance_to(left, contact) > ON:
                    pen.lose(k)
    if old is None or pen.users(old) or old == ORIGIN:
        # Others still end there: what held the point goes on holding it, but it is no end of this curve any more.
        if old is not None:
            midpoints(pen, name, old)
        return
    midpoints(pen, name, old)
    for k, _ in pen.holding(old):
        pen.lose(k)
    drawing.points.pop(old, None)


def midpoints(pen: Pen, name: str, old: str) -> None:
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


def piece_of(
    pen: Pen, entity: Open, curve: Curve2, ends: tuple[str, str], shares: tuple[float, float]
) -> dict[str, str | tuple[str, ...] | tuple[float, ...]]:
    """What becomes of a curve's fields when it runs from one point to another only, at shares of its parameter."""
    a, b = ends
    if isinstance(entity, Ellipse):
        return {"start": a, "end": b}
    if not isinstance(entity, Spline):
        return {"a": a, "b": b}
    assert isinstance(curve, Spline2)
    knots = np.cumsum(curve.spans)[:-1] / sum(curve.spans)
    # A cut at a point of the spline is there to the last digit: else a span of next to nothing would be left without a point.
    shares = tuple(next((float(knot) for knot in knots if abs(knot - t) < _NEAR), t) for t in shares)  # type: ignore[assignment]
    part = curve.part(*shares)
    between = [p for p, knot in zip(entity.through[1:-1], knots, strict=True) if shares[0] < knot < shares[1]]
    first, last = (
        handle if share == end and moved(pen, handle, place) else pen.point(place)
        for handle, share, end, place in (
            (entity.first, shares[0], 0.0, part.poles[1]),
            (entity.last, shares[1], 1.0, part.poles[-2]),
        )
    )
    return {"through": (a, *between, b), "first": first, "last": last, "spans": part.spans}


def moved(pen: Pen, handle: str, place: Point2) -> bool:
    """Whether a handle could be moved to where the piece wants it: one that nothing else stands on."""
    if handle == ORIGIN or len(pen.users(handle)) > 1:
        return False
    pen.drawing.points[handle] = place
    return True


def leave_points(pen: Pen, before: Shape) -> None:
    """Drop the points between a spline's ends, and the handles, that its piece has no use for, with what held them."""
    if not isinstance(before, Spline):
        return
    for point in {*before.through[1:-1], before.first, before.last} - {ORIGIN}:
        if not pen.users(point):
            for k, _ in pen.holding(point):
                pen.lose(k)
            pen.drawing.points.pop(point, None)


def parted(pen: Pen, name: str, entity: Open, curve: Curve2, ends: tuple[str, str], shares: tuple[float, float]) -> str:
    """Let a curve end at one point, and a younger piece run from another to its old end; what held there follows the piece."""
    near, far = ends_of(entity)
    (low, high), (t_low, t_high) = ends, shares
    later = piece_of(pen, entity, curve, (high, far), (t_high, 1.0))
    pen.replace(name, **piece_of(pen, entity, curve, (near, low), (0.0, t_low)))
    younger = pen.put(entity.model_copy(update={**later, "came_from": (name, *entity.came_from)}))
    leave_points(pen, entity)
    rest = laid(pen)[younger]
    for k, held in pen.holding(name):
        follows = False
        if held.type == "tangent" and len(held.on) == 3:
            follows = held.on[2] == far or (held.on[2] != near and distance_to(rest, pen.at(held.on[2])) < ON)
        elif held.type == "tangent":
            contact = _contact(pen, name, next(part for part in held.on if part != name))
            follows = contact is not None and distance_to(rest, contact) < ON
        elif held.type == "on" and held.on[1] == name:
            follows = distance_to(rest, pen.at(held.on[0])) < ON
        if follows:
            pen.rehold(k, on=tuple(younger if part == name else part for part in held.on))
    return younger


def opened(entity: Circle | Ellipse, start: str, end: str) -> Arc | Ellipse:
    """A closed curve as the piece of it between two points."""
    if isinstance(entity, Ellipse):
        return entity.model_copy(update={"start": start, "end": end})
    return Arc(c=entity.c, a=start, b=end, construction=entity.construction, came_from=entity.came_from)
