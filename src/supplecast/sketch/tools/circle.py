"""Circles: by centre, by the two ends of a diameter, by three points; and ellipses."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.model import Circle, Ellipse
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick, stand
from supplecast.sketch.tools import Sizes, Tool


def _radius(pen: Pen, sizes: Sizes, drawn: float) -> float:
    radius = pen.mm(sizes["diameter"], "diameter") / 2 if "diameter" in sizes else drawn
    if radius < 1e-6:
        raise SketchError("The circle has no size.", "Click farther away, or type its diameter.")
    return radius


def _finished(pen: Pen, centre: str, radius: float, rim: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    circle = pen.put(Circle(c=centre, r=radius))
    for pick in rim if "diameter" not in sizes else ():
        if pick.point is not None:
            pen.hold("on", pick.point, circle, inferred=True)
        for snap in pick.snaps:
            if snap.type == "tangent" and snap.on and "diameter" not in sizes:
                pen.hold("tangent", snap.on[0], circle, inferred=True)
    if "diameter" in sizes:
        pen.hold("diameter", circle, value=sizes["diameter"])
    return {"diameter": 2 * radius}


def _by_centre(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    centre = stand(pen, picks[0])
    radius = _radius(pen, sizes, math.dist(pen.at(centre), picks[1].at))
    return _finished(pen, centre, radius, picks[1:], sizes)


def _by_two(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    a, b = picks[0].at, picks[1].at
    span = math.dist(a, b)
    radius = _radius(pen, sizes, span / 2)
    share = radius / span if span > 1e-9 else 0.0
    centre = pen.point((a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share))
    ends = [pick.point for pick in picks]
    if ends[0] and ends[1] and "diameter" not in sizes:
        pen.hold("midpoint", centre, ends[0], ends[1], inferred=True)
        return _finished(pen, centre, radius, picks[:1], sizes)
    return _finished(pen, centre, radius, picks, sizes)


def through(a: Point2, b: Point2, c: Point2) -> tuple[Point2, float]:
    """Centre and radius of the circle through three points. SketchError if they lie in a line."""
    d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]))
    size = max(math.dist(a, b), math.dist(b, c), math.dist(a, c))
    if abs(d) < 1e-7 * size * size or size < 1e-6:
        raise SketchError("The three points lie in a line.", "Click the last one off to a side.")
    sa, sb, sc = (p[0] ** 2 + p[1] ** 2 for p in (a, b, c))
    x = (sa * (b[1] - c[1]) + sb * (c[1] - a[1]) + sc * (a[1] - b[1])) / d
    y = (sa * (c[0] - b[0]) + sb * (a[0] - c[0]) + sc * (b[0] - a[0])) / d
    return (x, y), math.dist((x, y), a)


def _by_three(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    centre, radius = through(*(pick.at for pick in picks))
    return _finished(pen, pen.point(centre), radius, picks, sizes)


def _ellipse(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    centre = stand(pen, picks[0])
    at, end = pen.at(centre), picks[1].at
    long = math.dist(at, end)
    if "long half" in sizes:
        typed = pen.mm(sizes["long half"], "long half")
        if long > 1e-9:
            end = (at[0] + (end[0] - at[0]) * typed / long, at[1] + (end[1] - at[1]) * typed / long)
        else:
            end = (at[0] + typed, at[1])
        long = typed
    if long < 1e-6:
        raise SketchError("The ellipse has no size.", "Click the end of its long axis farther away.")
    away = (picks[2].x - at[0], picks[2].y - at[1])
    across = abs((end[0] - at[0]) * away[1] - (end[1] - at[1]) * away[0]) / long
    short = pen.mm(sizes["short half"], "short half") if "short half" in sizes else across
    if short < 1e-6:
        raise SketchError("The ellipse is flat.", "Click off its long axis, or type its short half.")
    tip = stand(pen, picks[1], end if "long half" in sizes else None)
    ellipse = pen.put(Ellipse(c=centre, a=tip, r=short))
    if "long half" in sizes:
        pen.hold("distance", centre, tip, value=sizes["long half"])
    if "short half" in sizes:
        pen.hold("radius", ellipse, value=sizes["short half"])
    return {"long half": long, "short half": short}


TOOLS = [
    Tool("circle by centre", "Circle", ("the centre", "the rim"), ("diameter",), _by_centre, order=30),
    Tool("circle by two points", "Circle", ("one end of a diameter", "the other end"), ("diameter",), _by_two, order=31),
    Tool("circle by three points", "Circle", ("a point on it", "another", "a third"), (), _by_three, order=32),
    Tool(
        "ellipse",
        "Ellipse",
        ("the centre", "the end of the long axis", "how wide it is"),
        ("long half", "short half"),
        _ellipse,
        order=72,
        asked=(1, 2),
    ),
]
