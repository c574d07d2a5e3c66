"""Corners rounded or bevelled.

What spoke of the corner goes on speaking of it: it stays as a point where the sides would meet.
"""

from __future__ import annotations

import math
from typing import Literal

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act, Text
from supplecast.sketch.belongings import Id
from supplecast.sketch.carriers import Carrier, Straight, carrier, meeting
from supplecast.sketch.model import ORIGIN, Arc, Line, ends_of
from supplecast.sketch.pen import Pen
from supplecast.sketch.tools.arc import leaving

_SLIVER = 1e-5  # mm: no shorter piece of a side is left


class Fillet(Act):
    """Round the corner where two lines or arcs meet, by a radius."""

    words = "Round a corner"
    do: Literal["fillet"] = "fillet"
    reshapes = True
    corner: Id
    radius: Text

    def on(self, pen: Pen) -> None:
        radius = pen.mm(self.radius, "radius")
        sides = _sides(pen, self.corner)
        at = pen.at(self.corner)
        feet, centre = _rounded(pen, sides, self.corner, at, radius)
        turn = _cross(_minus(feet[0], centre), _minus(feet[1], centre))
        ends = _shorten(pen, sides, self.corner, feet, keep=False)
        arc = pen.put(Arc(c=pen.point(centre), a=ends[0], b=ends[1], cw=turn < 0))
        for side, end in zip(sides, ends, strict=True):
            pen.hold("tangent", side, arc, end)
        pen.reshaped = True
        pen.hold("radius", arc, value=self.radius)


class Chamfer(Act):
    """Bevel the corner where two lines meet, by a setback along each."""

    words = "Bevel a corner"
    do: Literal["chamfer"] = "chamfer"
    reshapes = True
    corner: Id
    setback: Text

    def on(self, pen: Pen) -> None:
        setback = pen.mm(self.setback, "setback")
        sides = _sides(pen, self.corner)
        if not all(isinstance(pen.shape(side), Line) for side in sides):
            raise SketchError("Only corners between lines can be bevelled.", "Round it instead, or pick another corner.")
        at = pen.at(self.corner)
        feet = []
        for side in sides:
            out = leaving(pen, side, self.corner)
            feet.append((at[0] - out[0] * setback, at[1] - out[1] * setback))
            _refuse_long(pen, side, self.corner, at, feet[-1], f"A setback of {setback:g} mm")
        ends = _shorten(pen, sides, self.corner, feet, keep=True)
        pen.put(Line(a=ends[0], b=ends[1]))
        group = pen.group()
        for end in ends:
            pen.hold("distance", self.corner, end, value=self.setback, group=group)


def _sides(pen: Pen, corner: str) -> list[str]:
    """The two curves that end at a corner."""
    pen.at(corner)
    sides = [name for name in pen.ending(corner) if not pen.shape(name).construction] or pen.ending(corner)
    if len(sides) != 2:
        raise SketchError(f"{len(sides)} curves end at that point.", "Pick a corner where exactly two meet.")
    return sides


def _rounded(pen: Pen, sides: list[str], corner: str, at: Point2, radius: float) -> tuple[list[Point2], Point2]:
    """Where the round touches the sides, and its centre: the touch that lies on both sides and nearest to the corner."""
    carriers = [carrier(pen, side) for side in sides]
    fits: list[tuple[float, list[Point2], Point2]] = []
    for first in (radius, -radius):
        for second in (radius, -radius):
            for centre in meeting(carriers[0].moved(first), carriers[1].moved(second)):
                feet = [c.foot(centre) for c in carriers]
                if all(_within(pen, side, corner, c, foot) for side, c, foot in zip(sides, carriers, feet, strict=True)):
                    fits.append((math.dist(centre, at), feet, centre))
    if not fits:
        raise SketchError(
            f"A radius of {radius:g} mm does not fit between {pen.name(sides[0])} and {pen.name(sides[1])}.",
            "Type a smaller one.",
        )
    _, feet, centre = min(fits)
    return feet, centre


def _within(pen: Pen, side: str, corner: str, held: Carrier, foot: Point2) -> bool:
    """Whether a place on a side's carrier lies on the side, short of both its ends."""
    entity = pen.shape(side)
    a, b = ends_of(entity)
    if isinstance(held, Straight):
        far = pen.at(b if a == corner else a)
        at = pen.at(corner)
        length = math.dist(at, far)
        t = ((foot[0] - at[0]) * (far[0] - at[0]) + (foot[1] - at[1]) * (far[1] - at[1])) / length**2
        return _SLIVER < t * length < length - _SLIVER
    start = _turn(held.centre, pen.at(a))
    sweep, turned = (((_turn(held.centre, p) - start) * (1 if held.ccw else -1)) % (2 * math.pi) for p in (pen.at(b), foot))
    return _SLIVER < turned * held.radius < sweep * held.radius - _SLIVER


def _refuse_long(pen: Pen, side: str, corner: str, at: Point2, foot: Point2, what: str) -> None:
    if not _within(pen, side, corner, carrier(pen, side), foot):
        a, b = ends_of(pen.shape(side))
        length = math.dist(pen.at(a), pen.at(b))
        raise SketchError(f"{what} does not fit on {pen.name(side)}, which is {length:.4g} mm long.", "Type a smaller one.")


def _shorten(pen: Pen, sides: list[str], corner: str, feet: list[Point2], *, keep: bool) -> list[str]:
    """Let the sides end at the feet; the corner stays where both would meet, if anything speaks of it or it is to be kept."""
    ends = []
    for side, foot in zip(sides, feet, strict=True):
        point = pen.point(foot)
        a, _ = ends_of(pen.shape(side))
        pen.replace(side, **{"a" if a == corner else "b": point})
        ends.append(point)
    for name, held in pen.holding(*sides):
        is_length = held.type == "equal" and any(isinstance(pen.shape(part), Line) for part in held.on)
        at_corner = held.type == "tangent" and corner in held.on
        if is_length or at_corner or held.type == "arc length":
            pen.lose(name)
    spoken = [name for name, _ in pen.holding(corner)]
    if spoken or keep or pen.users(corner) or corner == ORIGIN:
        for side in sides:
            pen.link("on", corner, side)
    else:
        pen.drop_unused_points([corner])
    return ends


def _turn(centre: Point2, p: Point2) -> float:
    return math.atan2(p[1] - centre[1], p[0] - centre[0])


def _minus(a: Point2, b: Point2) -> Point2:
    return (a[0] - b[0], a[1] - b[1])


def _cross(a: Point2, b: Point2) -> float:
    return a[0] * b[1] - a[1] * b[0]
