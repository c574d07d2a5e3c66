"""Tags of what is held: which constraints have one, and where it stands."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from supplecast.curves import Arc2, Circle2, Curve2, Line2
from supplecast.geometry import Point2
from supplecast.sketch.model import Constraint, Drawing, Line

SILENT = frozenset({"shifted", "turned", "square off", "in line", "radius apart"})


@dataclass(frozen=True)
class Mark:
    """A small tag beside what is held; `direction` is where it may step aside to."""

    id: str
    type: str
    at: Point2
    direction: Point2


def of_copies(drawing: Drawing) -> dict[frozenset[str], str]:
    """Each source with each of its copies, and whether these are a row or a ring: that they are equal goes without saying."""
    return {
        frozenset((source, made)): series.kind
        for series in drawing.series.values()
        for copy in series.copies
        for source in series.of
        for made in copy
    }


def marks_of(drawing: Drawing, curves: Mapping[str, Curve2]) -> list[Mark]:
    """Small tags beside what is held."""
    marks = []
    copied = of_copies(drawing)
    for name, held in drawing.constraints.items():
        if held.value is not None or held.type in SILENT or (held.type == "equal" and frozenset(held.on) in copied):
            continue
        for at, direction in _anchors(held, drawing, curves):
            marks.append(Mark(name, held.type, at, direction))
    return marks


def _anchors(held: Constraint, drawing: Drawing, curves: Mapping[str, Curve2]) -> list[tuple[Point2, Point2]]:
    def middle(part: str) -> tuple[Point2, Point2]:
        curve = curves[part]
        if isinstance(curve, Line2):
            (ax, ay), (bx, by) = curve.a, curve.b
            length = max(math.hypot(bx - ax, by - ay), 1e-12)
            return ((ax + bx) / 2, (ay + by) / 2), ((ay - by) / length, (bx - ax) / length)
        if isinstance(curve, (Arc2, Circle2)):
            turn = (curve.start if isinstance(curve, Arc2) else 0.0) + curve.sweep / 2
            out = (math.cos(turn), math.sin(turn))
            c, r = curve.centre, curve.radius
            return (c[0] + out[0] * r, c[1] + out[1] * r), out
        (x, y), (ahead_x, ahead_y) = curve.at(np.array([0.5, 0.501]))
        dx, dy = ahead_x - x, ahead_y - y
        length = max(math.hypot(dx, dy), 1e-12)
        return (float(x), float(y)), (float(-dy / length), float(dx / length))

    points = [part for part in held.on if part not in drawing.entities]
    up = (0.0, 1.0)
    if held.type == "tangent" and len(held.on) == 3:
        return [(drawing.place(held.on[2]), up)]
    if held.type == "symmetric":
        return [(drawing.place(part), up) for part in held.on[:2]]
    if held.type in ("midpoint", "on", "fix", "level", "plumb") and points:
        return [(drawing.place(points[0]), up)]
    if held.type == "tangent":
        rounds = [part for part in held.on if not isinstance(drawing.entities[part], Line)]
        return [middle(rounds[0])]
    return [middle(part) for part in held.on if part in drawing.entities]
