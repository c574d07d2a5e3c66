"""Lines, one after another in a chain, and single points."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.errors import SketchError
from supplecast.sketch.model import Line
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick, direct, stand
from supplecast.sketch.tools import Sizes, Tool


def _line(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    first, second = picks
    start = stand(pen, first)
    origin, end = pen.at(start), second.at
    length, angle = math.dist(origin, end), math.atan2(end[1] - origin[1], end[0] - origin[0])
    if "length" in sizes:
        length = pen.mm(sizes["length"], "length")
    if "angle" in sizes:
        angle = pen.radians(sizes["angle"])
    if length < 1e-6:
        raise SketchError("The line has no length.", "Click farther away, or type a length.")
    place = (origin[0] + length * math.cos(angle), origin[1] + length * math.sin(angle)) if sizes else None
    finish = stand(pen, second, place)
    if finish == start:
        raise SketchError("The line would end where it begins.", "Click another place.")
    line = pen.put(Line(a=start, b=finish))
    if "angle" not in sizes:
        direct(pen, line, second)
    else:
        pen.hold("angle", line, value=sizes["angle"])
    if "length" in sizes:
        pen.hold("distance", start, finish, value=sizes["length"])
    return {"length": length, "angle": angle}


def _point(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    (pick,) = picks
    if pick.point is not None:
        raise SketchError("There is a point already.", "Click another place.")
    stand(pen, pick)
    return {}


TOOLS = [
    Tool("line", "Line", ("the start", "the end"), ("length", "angle"), _line, order=10, aimed=("angle",)),
    Tool("point", "Point", ("the place",), (), _point, order=70),
]
