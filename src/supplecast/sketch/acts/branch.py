"""Which way of two: the same sizes and constraints often hold for two shapes. The nearer is taken, the other is an act away."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act
from supplecast.sketch.belongings import Id
from supplecast.sketch.model import ORIGIN, Arc, Spline, ends_of
from supplecast.sketch.pen import Pen
from supplecast.sketch.tools.arc import leaving

_HALF = 1e-3  # rad: an arc so near to a half turn is as good as one


class OtherWay(Act):
    """The other shape: of an arc the large one for the small, of the same radius and ends; of a spline the one that leaves its
    tangent end to the other side.
    """

    words = "The other way"
    do: Literal["other way"] = "other way"
    entity: Id

    def on(self, pen: Pen) -> None:
        entity = pen.shape(self.entity)
        if isinstance(entity, Arc):
            _mirrored(pen, entity)
        elif isinstance(entity, Spline):
            _turned_back(pen, self.entity, entity)
        else:
            raise SketchError(f"{pen.name(self.entity).capitalize()} goes one way only.", "Pick an arc or a spline.")


def _mirrored(pen: Pen, arc: Arc) -> None:
    if arc.c == ORIGIN:
        raise SketchError("The arc's centre is the origin, which stays.", "Draw the arc about a point of its own.")
    a, b, c = pen.at(arc.a), pen.at(arc.b), pen.at(arc.c)
    pen.drawing.points[arc.c] = (a[0] + b[0] - c[0], a[1] + b[1] - c[1])


def _turned_back(pen: Pen, name: str, spline: Spline) -> None:
    held = {k.on[2] for _, k in pen.holding(name) if k.type == "tangent" and len(k.on) == 3}
    ends = [end for end in ends_of(spline) if end in held]
    if not ends:
        raise SketchError("No end of the spline is held tangent.", "Fix it tangent first, or drag its handle.")
    for end in ends:
        _handle(pen, spline, end, lambda p, h: (2 * p[0] - h[0], 2 * p[1] - h[1]))


def _handle(pen: Pen, spline: Spline, end: str, place: Callable[[Point2, Point2], Point2]) -> None:
    handle = spline.first if end == spline.a else spline.last
    if handle != ORIGIN and len(pen.users(handle)) == 1:
        pen.drawing.points[handle] = place(pen.at(end), pen.at(handle))


def run_on(pen: Pen, one: str, other: str, end: str) -> None:
    """Let a spline that is to be tangent leave the other curve's end onwards, and not fold back over it."""
    for name, before in ((one, other), (other, one)):
        spline = pen.shape(name)
        if isinstance(spline, Spline) and end in ends_of(spline) and end in ends_of(pen.shape(before)):
            u = leaving(pen, before, end)

            def ahead(p: Point2, h: Point2, u: Point2 = u) -> Point2:
                reach = math.dist(p, h)
                return (p[0] + u[0] * reach, p[1] + u[1] * reach)

            _handle(pen, spline, end, ahead)
            return


def settle_radius(pen: Pen, name: str, radius: float) -> None:
    """Lay the centre of an arc where a new radius takes it while its ends stay: on the side it lies on, and of a half turn the
    smaller arc. From there the solver finds the nearer of the two.
    """
    arc = pen.shape(name)
    if not isinstance(arc, Arc) or arc.c == ORIGIN or len(pen.users(arc.c)) > 1:
        return
    a, b, c = pen.at(arc.a), pen.at(arc.b), pen.at(arc.c)
    half = math.dist(a, b) / 2
    if half < 1e-9 or radius < half:
        return
    turn = math.atan2(b[1] - c[1], b[0] - c[0]) - math.atan2(a[1] - c[1], a[0] - c[0])
    sweep = (-turn if arc.cw else turn) % (2 * math.pi)
    # Counter-clockwise from a to b, the centre of a small arc lies to the left of the way from a to b.
    left = (sweep <= math.pi + _HALF) != arc.cw
    u = ((b[0] - a[0]) / (2 * half), (b[1] - a[1]) / (2 * half))
    away = math.sqrt(radius**2 - half**2) * (1 if left else -1)
    pen.drawing.points[arc.c] = ((a[0] + b[0]) / 2 - u[1] * away, (a[1] + b[1]) / 2 + u[0] * away)
