"""The recycling triangle over a resin's symbol: three arrows that chase each other, of our own drawing, and a number."""

from __future__ import annotations

import math

from supplecast.curves import Line2, Region
from supplecast.geometry import Point2
from supplecast.sketch.letters import Font, Letter, words

_SIZE = 3.2  # the triangle's height over that of the letters under it
_ROOM = 0.6  # between the letters and the triangle
_BAND, _GAP, _HEAD = 0.10, 0.09, 0.15  # an arrow's width, the room behind it and its point, over the triangle's side
_ARROWS = 1000  # numbers of the arrows and the number in them, past those of any letter


def resin_mark(symbol: str, number: int, font: Font, height: float, *, mirrored: bool = False) -> list[Letter]:
    """The areas of a mark that stands on the x axis, its middle over the origin; the symbol's capitals are `height` mm high."""
    size, foot = _SIZE * height, (1 + _ROOM) * height
    inside = words(f"{number}", font, 1.1 * height, mirrored=mirrored)
    letters = [*words(symbol, font, height, mirrored=mirrored)]
    letters += [Letter(_ARROWS + one.number, _moved(one.region, (0.0, foot + 0.19 * size))) for one in inside]
    arrows = _arrows(size, mirrored=mirrored)
    return letters + [Letter(_ARROWS + 10 + n, _moved(arrow, (0.0, foot))) for n, arrow in enumerate(arrows, 1)]


def _arrows(size: float, *, mirrored: bool) -> list[Region]:
    """Along each side of a triangle that stands on the x axis, `size` mm high, a band with a point at its end."""
    side = size / math.sin(math.radians(60))
    centre = (0.0, size / 3)
    band, low = _BAND * side, -size / 3
    a, b = -side / 2 + _GAP * side, side / 2 - (_GAP + _HEAD + 0.1) * side
    high, wing = low + band, 0.45 * band
    corners = [(a, low), (b, low), (b, low - wing), (b + _HEAD * side, (low + high) / 2), (b, high + wing), (b, high)]
    corners.append((a + band / math.sqrt(3), high))
    arrows = []
    for number in range(3):
        there = [_turned(p, 2 * math.pi * number / 3, centre) for p in corners]
        if mirrored:
            there = [(-x, y) for x, y in reversed(there)]
        pairs = zip(there, [*there[1:], there[0]], strict=True)
        arrows.append(Region(tuple(Line2(f"arrow{number}s{n}", p, q) for n, (p, q) in enumerate(pairs))))
    return arrows


def _turned(p: Point2, angle: float, centre: Point2) -> Point2:
    c, s = math.cos(angle), math.sin(angle)
    return (centre[0] + c * p[0] - s * p[1], centre[1] + s * p[0] + c * p[1])


def _moved(region: Region, by: Point2) -> Region:
    def loop(curves: tuple[Line2, ...]) -> tuple[Line2, ...]:
        return tuple(Line2(c.entity, (c.a[0] + by[0], c.a[1] + by[1]), (c.b[0] + by[0], c.b[1] + by[1])) for c in curves)

    return Region(loop(region.outer), tuple(loop(hole) for hole in region.holes))  # type: ignore[arg-type]
