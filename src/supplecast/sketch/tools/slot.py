"""Slots, and regular polygons on a construction circle."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.errors import SketchError
from supplecast.sketch.model import Arc, Circle, Line
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick, stand
from supplecast.sketch.tools import Sizes, Tool


def _slot(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    first = stand(pen, picks[0])
    a, b = pen.at(first), picks[1].at
    length = math.dist(a, b)
    if length < 1e-6:
        raise SketchError("The slot has no length.", "Click the second centre farther away.")
    u = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)
    n = (-u[1], u[0])
    if "length" in sizes:
        length = pen.mm(sizes["length"], "length")
        b = (a[0] + u[0] * length, a[1] + u[1] * length)
    off = abs((picks[2].x - a[0]) * n[0] + (picks[2].y - a[1]) * n[1])
    radius = pen.mm(sizes["width"], "width") / 2 if "width" in sizes else off
    if radius < 1e-6:
        raise SketchError("The slot has no width.", "Click off its middle line, or type its width.")
    second = stand(pen, picks[1], b if "length" in sizes else None)
    b = pen.at(second)
    left = [pen.point((p[0] + n[0] * radius, p[1] + n[1] * radius)) for p in (a, b)]
    right = [pen.point((p[0] - n[0] * radius, p[1] - n[1] * radius)) for p in (a, b)]
    low, high = pen.put(Line(a=right[0], b=right[1])), pen.put(Line(a=left[1], b=left[0]))
    near, far = pen.put(Arc(c=first, a=left[0], b=right[0])), pen.put(Arc(c=second, a=right[1], b=left[1]))
    for line, arc, joint in ((low, far, right[1]), (high, far, left[1]), (high, near, left[0]), (low, near, right[0])):
        pen.hold("tangent", line, arc, joint)
    pen.hold("equal", near, far)
    if "length" in sizes:
        pen.hold("distance", first, second, value=sizes["length"])
    if "width" in sizes:
        pen.hold("diameter", near, value=sizes["width"])
    return {"length": length, "width": 2 * radius}


def _polygon(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    sides = pen.scope.evaluate(sizes.get("sides", "6"), "count")
    if not 3 <= sides <= 60:
        raise SketchError("A polygon has 3 to 60 sides.", "Type a number such as 6.")
    count = int(sides)
    centre = stand(pen, picks[0])
    at, corner = pen.at(centre), picks[1].at
    radius = pen.mm(sizes["diameter"], "diameter") / 2 if "diameter" in sizes else math.dist(at, corner)
    if radius < 1e-6:
        raise SketchError("The polygon has no size.", "Click farther away, or type the diameter over its corners.")
    begin = math.atan2(corner[1] - at[1], corner[0] - at[0])
    turns = [begin + 2 * math.pi * k / count for k in range(count)]
    places = [(at[0] + radius * math.cos(t), at[1] + radius * math.sin(t)) for t in turns]
    points = [stand(pen, picks[1], places[0] if "diameter" in sizes else None), *(pen.point(p) for p in places[1:])]
    circle = pen.put(Circle(c=centre, r=radius, construction=True))
    lines = [pen.put(Line(a=a, b=b)) for a, b in zip(points, [*points[1:], points[0]], strict=True)]
    for point in points:
        pen.hold("on", point, circle)
    for line in lines[1:]:
        pen.hold("equal", lines[0], line)
    if "diameter" in sizes:
        pen.hold("diameter", circle, value=sizes["diameter"])
    return {"sides": sides, "diameter": 2 * radius}


TOOLS = [
    Tool(
        "slot",
        "Slot",
        ("the first centre", "the second centre", "how wide it is"),
        ("length", "width"),
        _slot,
        order=60,
        asked=(1, 2),
    ),
    Tool("polygon", "Polygon", ("the centre", "a corner"), ("sides", "diameter"), _polygon, order=71, aimed=("sides",)),
]
