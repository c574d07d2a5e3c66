"""What would come of a click, before it is made: curves to show, sizes as they lie, the piece a trim would take."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast.curves import Circle2, Curve2
from supplecast.errors import SuppleError
from supplecast.geometry import Point2
from supplecast.quantities import LENGTH_UNITS, Scope
from supplecast.sketch import regions
from supplecast.sketch.acts.pieces import laid
from supplecast.sketch.acts.trim import span_at
from supplecast.sketch.model import ORIGIN, Drawing
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick
from supplecast.sketch.scene import TrialShape, trial_shape
from supplecast.sketch.sizing import radii_of
from supplecast.sketch.tools import Sizes, Tool
from supplecast.sketch.work import copied
from supplecast.wording import show

_ANGLES = frozenset({"angle", "sweep"})


def laid_trial(
    drawing: Drawing, scope: Scope, tool: Tool, picks: Sequence[Pick], sizes: Sizes
) -> tuple[list[TrialShape], dict[str, str], str]:
    """The curves a tool would draw with these clicks, the sizes it would measure as texts, and what is wrong, in words.

    With fewer clicks than the tool takes, the last one stands for those to come, as far as that makes something.
    """
    picks = list(picks)
    needed = len(tool.clicks)
    short = needed - len(picks)
    if short > 1 or len(picks) < 2 <= needed:
        return _rubber(picks), {}, ""
    trial = Pen(copied(drawing), scope)
    padded = picks + [_aside(picks)] * max(short, 0)
    try:
        measures = tool.lay(trial, padded, {k: v for k, v in sizes.items() if isinstance(v, str) and v.strip()})
    except SuppleError as fault:
        return _rubber(picks), {}, "" if short else fault.message
    places, radii = {**trial.drawing.points, ORIGIN: (0.0, 0.0)}, radii_of(trial.drawing)
    shapes = [
        trial_shape(regions.curve(name, trial.drawing, places, radii), construction=trial.drawing.entities[name].construction)
        for name in trial.made
    ]
    return shapes, {label: _text(label, value, scope) for label, value in measures.items()} if not short else {}, ""


def _text(label: str, value: float, scope: Scope) -> str:
    if label == "sides":
        return f"{value:.0f}"
    return f"{show(math.degrees(value), 1)}°" if label in _ANGLES else show(value / LENGTH_UNITS[scope.unit], 2)


def _rubber(picks: Sequence[Pick]) -> list[TrialShape]:
    """A plain line between the last two clicks, while too little is known."""
    if len(picks) < 2:
        return []
    return [TrialShape(kind="line", a=picks[-2].at, b=picks[-1].at, construction=True)]


def _aside(picks: Sequence[Pick]) -> Pick:
    """A third click that is still to come: a little to the side of the last line."""
    a, b = picks[-2].at, picks[-1].at
    dx, dy = b[0] - a[0], b[1] - a[1]
    return Pick(x=(a[0] + b[0]) / 2 - dy * 0.3, y=(a[1] + b[1]) / 2 + dx * 0.3)


def taken_away(drawing: Drawing, name: str, place: Point2) -> Curve2:
    """The piece of a curve between the crossings nearest to a place: all of it if nothing crosses it."""
    pen = Pen(drawing, Scope())
    pen.shape(name)
    curves = laid(pen)
    span, curve = span_at(curves, name, place), curves[name]
    if span.low is None and span.high is None:
        return curve
    low, high = span.low or 0.0, 1.0 if span.high is None else span.high
    return curve.part(low, high + 1 if isinstance(curve, Circle2) and high <= low else high)
