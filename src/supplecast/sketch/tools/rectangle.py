"""Rectangles: by two corners, by centre and corner, and tilted by three points."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.model import Line
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick, stand
from supplecast.sketch.tools import Sizes, Tool


def _extent(pen: Pen, label: str, sizes: Sizes, across: float) -> float:
    """The signed extent: as typed, towards the side of the click."""
    if label in sizes:
        return math.copysign(pen.mm(sizes[label], label), across if across else 1.0)
    if abs(across) < 1e-6:
        raise SketchError(f"The rectangle has no {label}.", "Click farther away, or type its sizes.")
    return across


def _sides(pen: Pen, corners: Sequence[str]) -> list[str]:
    return [pen.put(Line(a=a, b=b)) for a, b in zip(corners, [*corners[1:], corners[0]], strict=True)]


def _square_to_axes(pen: Pen, sides: Sequence[str]) -> None:
    for index, side in enumerate(sides):
        pen.hold("vertical" if index % 2 else "horizontal", side)


def _sized(pen: Pen, corners: Sequence[str], sizes: Sizes) -> None:
    if "width" in sizes:
        pen.hold("distance", corners[0], corners[1], value=sizes["width"])
    if "height" in sizes:
        pen.hold("distance", corners[1], corners[2], value=sizes["height"])


def _corners(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    first = stand(pen, picks[0])
    x, y = pen.at(first)
    width = _extent(pen, "width", sizes, picks[1].x - x)
    height = _extent(pen, "height", sizes, picks[1].y - y)
    corners = [
        first,
        pen.point((x + width, y)),
        stand(pen, picks[1], (x + width, y + height) if sizes else None),
        pen.point((x, y + height)),
    ]
    _square_to_axes(pen, _sides(pen, corners))
    _sized(pen, corners, sizes)
    return {"width": abs(width), "height": abs(height)}


def _centre(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    centre = stand(pen, picks[0])
    x, y = pen.at(centre)
    width = _extent(pen, "width", sizes, 2 * (picks[1].x - x))
    height = _extent(pen, "height", sizes, 2 * (picks[1].y - y))
    w, h = width / 2, height / 2
    corners = [
        pen.point((x - w, y - h)),
        pen.point((x + w, y - h)),
        stand(pen, picks[1], (x + w, y + h) if sizes else None),
        pen.point((x - w, y + h)),
    ]
    _square_to_axes(pen, _sides(pen, corners))
    pen.hold("midpoint", centre, corners[0], corners[2])
    _sized(pen, corners, sizes)
    return {"width": abs(width), "height": abs(height)}


def _tilted(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    first = stand(pen, picks[0])
    a, b = pen.at(first), picks[1].at
    if math.dist(a, b) < 1e-6:
        raise SketchError("The rectangle has no width.", "Click its second corner farther away.")
    u = ((b[0] - a[0]) / math.dist(a, b), (b[1] - a[1]) / math.dist(a, b))
    width = _extent(pen, "width", sizes, math.dist(a, b))
    n = (-u[1], u[0])
    height = _extent(pen, "height", sizes, (picks[2].x - a[0]) * n[0] + (picks[2].y - a[1]) * n[1])

    def place(along: float, up: float) -> Point2:
        return (a[0] + along * u[0] + up * n[0], a[1] + along * u[1] + up * n[1])

    second = stand(pen, picks[1], place(width, 0) if "width" in sizes else None)
    corners = [first, second, pen.point(place(width, height)), pen.point(place(0, height))]
    sides = _sides(pen, corners)
    pen.hold("perpendicular", sides[0], sides[1])
    pen.hold("parallel", sides[0], sides[2])
    pen.hold("parallel", sides[1], sides[3])
    _sized(pen, corners, sizes)
    return {"width": width, "height": abs(height)}


TOOLS = [
    Tool("rectangle by corners", "Rectangle", ("a corner", "the opposite corner"), ("width", "height"), _corners, order=20),
    Tool("rectangle by centre", "Rectangle", ("the centre", "a corner"), ("width", "height"), _centre, order=21),
    Tool(
        "tilted rectangle",
        "Rectangle",
        ("a corner", "the next corner", "the far side"),
        ("width", "height"),
        _tilted,
        order=22,
        asked=(1, 2),
    ),
]
