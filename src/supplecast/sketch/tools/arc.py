"""Arcs: by centre, by three points, and running on tangent from the end of another curve."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.carriers import Round, carrier, meeting
from supplecast.sketch.model import Arc, Ellipse, Line, Spline
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick, stand
from supplecast.sketch.sizing import shown
from supplecast.sketch.tools import Sizes, Tool
from supplecast.sketch.tools.circle import through

_NEAR = 0.25  # of the radius


def _turned(centre: Point2, radius: float, angle: float) -> Point2:
    return (centre[0] + radius * math.cos(angle), centre[1] + radius * math.sin(angle))


def _angle(centre: Point2, p: Point2) -> float:
    return math.atan2(p[1] - centre[1], p[0] - centre[0])


def _by_centre(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    centre = stand(pen, picks[0])
    at = pen.at(centre)
    radius = pen.mm(sizes["radius"], "radius") if "radius" in sizes else math.dist(at, picks[1].at)
    if radius < 1e-6:
        raise SketchError("The arc has no radius.", "Click its start farther away, or type its radius.")
    begin = _angle(at, picks[1].at)
    if "sweep" in sizes:
        sweep = pen.radians(sizes["sweep"])
        if not 1e-4 < abs(sweep) < 2 * math.pi:
            raise SketchError("An arc sweeps between 0° and 360°.", "Type an angle such as 90; a negative one runs clockwise.")
    else:
        sweep = math.remainder(_angle(at, picks[2].at) - begin, 2 * math.pi)
    if abs(sweep) < 1e-6:
        raise SketchError("The arc has no length.", "Click its end farther round.")
    start = stand(pen, picks[1], _turned(at, radius, begin) if "radius" in sizes else None)
    # The end lies on the circle: what the click was snapped to holds only if it does too.
    place = _turned(at, radius, begin + sweep)
    if math.dist(place, picks[2].at) < 1e-6:
        end = stand(pen, picks[2])
    elif "sweep" in sizes:
        end = pen.point(place)
    else:
        end = _on_rim(pen, picks[2], Round(at, radius), place)
        sweep = math.remainder(_angle(at, pen.at(end)) - begin, 2 * math.pi)
    arc = pen.put(Arc(c=centre, a=start, b=end, cw=sweep < 0))
    if "radius" in sizes:
        pen.hold("radius", arc, value=sizes["radius"])
    if "sweep" in sizes:
        pen.hold("arc length", arc, value=shown(radius * abs(sweep), "arc length", pen.scope.unit))
    return {"radius": radius, "sweep": sweep}


def _on_rim(pen: Pen, pick: Pick, rim: Round, place: Point2) -> str:
    """The end of an arc whose circle is given: where that meets the curve which was clicked, if it does near there."""
    for snap in pick.snaps:
        if snap.type == "on" and not isinstance(pen.shape(snap.on[0]), Ellipse):
            near = [p for p in meeting(rim, carrier(pen, snap.on[0])) if math.dist(p, place) < _NEAR * rim.radius]
            if near:
                end = pen.point(min(near, key=lambda p: math.dist(p, place)))
                pen.hold("on", end, snap.on[0], inferred=True)
                return end
    return pen.point(place)


def _by_three(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    start, end = stand(pen, picks[0]), stand(pen, picks[1])
    a, b, middle = pen.at(start), pen.at(end), picks[2].at
    if math.dist(a, b) < 1e-6:
        raise SketchError("The arc would end where it begins.", "Click its end elsewhere, or draw a circle.")
    if "radius" in sizes:
        radius = pen.mm(sizes["radius"], "radius")
        half = math.dist(a, b) / 2
        if radius < half:
            raise SketchError(f"A radius of {radius:g} mm does not reach both ends.", f"It must be at least {half:.4g} mm.")
        u = ((b[0] - a[0]) / (2 * half), (b[1] - a[1]) / (2 * half))
        side = math.copysign(1.0, u[0] * (middle[1] - a[1]) - u[1] * (middle[0] - a[0]))
        away = math.sqrt(radius**2 - half**2) * -side
        centre = ((a[0] + b[0]) / 2 - u[1] * away, (a[1] + b[1]) / 2 + u[0] * away)
    else:
        centre, radius = through(a, b, middle)
    for snap in picks[1].snaps:
        if snap.type in ("level", "plumb") and not snap.on:
            pen.hold(snap.type, start, end, inferred=True)
    left = (b[0] - a[0]) * (middle[1] - a[1]) - (b[1] - a[1]) * (middle[0] - a[0]) > 0
    arc = pen.put(Arc(c=pen.point(centre), a=start, b=end, cw=left))
    if "radius" in sizes:
        pen.hold("radius", arc, value=sizes["radius"])
    elif picks[2].point is not None:
        pen.hold("on", picks[2].point, arc, inferred=True)
    return {"radius": radius}


def leaving(pen: Pen, entity: str, point: str) -> Point2:
    """The direction in which a curve runs out over one of its ends."""
    held = pen.shape(entity)
    match held:
        case Line(a=a, b=b):
            far = pen.at(a if b == point else b)
        case Spline(first=first, last=last):
            far = pen.at(first if held.a == point else last)
        case Arc(c=c, cw=cw):
            spoke, at = pen.at(c), pen.at(point)
            out = (at[0] - spoke[0], at[1] - spoke[1])
            ahead = (point == held.b) != cw
            direction = (-out[1], out[0]) if ahead else (out[1], -out[0])
            length = math.hypot(*direction)
            return (direction[0] / length, direction[1] / length)
        case _:
            raise SketchError("That curve has no end.", "Start at the end of a line, an arc or a spline.")
    at = pen.at(point)
    length = max(math.dist(far, at), 1e-12)
    return ((at[0] - far[0]) / length, (at[1] - far[1]) / length)


def _tangent(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    start = picks[0].point
    ends = pen.ending(start) if start else []
    if start is None or not ends:
        raise SketchError("A tangent arc runs on from the end of a curve.", "Click such an end first.")
    before = ends[-1]
    direction, p, q = leaving(pen, before, start), pen.at(start), picks[1].at
    normal = (-direction[1], direction[0])
    off = (q[0] - p[0]) * normal[0] + (q[1] - p[1]) * normal[1]
    if abs(off) < 1e-6 * max(math.dist(p, q), 1e-3):
        raise SketchError("Its end lies straight ahead.", "Click off to a side, or draw a line.")
    signed = ((q[0] - p[0]) ** 2 + (q[1] - p[1]) ** 2) / (2 * off)
    typed = "radius" in sizes
    if typed:
        radius = pen.mm(sizes["radius"], "radius")
        centre = (p[0] + normal[0] * math.copysign(radius, off), p[1] + normal[1] * math.copysign(radius, off))
        q = _turned(centre, radius, _angle(centre, q))
        signed = math.copysign(radius, off)
    centre = (p[0] + normal[0] * signed, p[1] + normal[1] * signed)
    end = stand(pen, picks[1], q if typed else None)
    arc = pen.put(Arc(c=pen.point(centre), a=start, b=end, cw=signed < 0))
    pen.hold("tangent", before, arc, start)
    for snap in picks[1].snaps:
        if snap.type in ("level", "plumb") and not snap.on and not typed:
            pen.hold(snap.type, start, end, inferred=True)
    if typed:
        pen.hold("radius", arc, value=sizes["radius"])
    return {"radius": abs(signed)}


TOOLS = [
    Tool(
        "arc by centre", "Arc", ("the centre", "the start", "the end"), ("radius", "sweep"), _by_centre, order=40, asked=(1, 2)
    ),
    Tool("arc by three points", "Arc", ("the start", "the end", "a point between"), ("radius",), _by_three, order=41),
    Tool("tangent arc", "Arc", ("the end of a curve", "where it ends"), ("radius",), _tangent, order=42),
]
