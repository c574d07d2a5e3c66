"""Splines: through as many points as are clicked, with a handle at each end."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.curves import end_handle
from supplecast.errors import SketchError
from supplecast.sketch.model import Spline
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick, stand
from supplecast.sketch.tools import Sizes, Tool


def _spline(pen: Pen, picks: Sequence[Pick], sizes: Sizes) -> dict[str, float]:
    for before, after in zip(picks, picks[1:], strict=False):
        if math.dist(before.at, after.at) < 1e-6:
            raise SketchError("Two points of the spline lie in one place.", "Click them apart.")
    points = [stand(pen, pick) for pick in picks]
    if len(set(points)) < len(points):
        raise SketchError("A spline does not run twice through one point.", "End it beside its start, then join them.")
    at = [pen.at(point) for point in points]
    third = at[2] if len(at) > 2 else None
    last_third = at[-3] if len(at) > 2 else None
    first = pen.point(end_handle(at[0], at[1], third))
    last = pen.point(end_handle(at[-1], at[-2], last_third))
    pen.put(Spline(through=tuple(points), first=first, last=last))
    return {}


TOOLS = [Tool("spline", "Spline", ("its start", "the next point"), (), _spline, more=True, order=50)]
