"""What would come of a click, before it is made: curves to show, sizes as they lie, the piece a trim would take."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from supplecast.curves import Circle2, Curve2
from supplecast.errors import SuppleError
from supplecast.expressions import LENGTH_UNITS
from supplecast.geometry import Point2
from supplecast.quantities import Scope
from supplecast.sketch.acts.pieces import distance_to, laid
from supplecast.sketch.acts.trim import span_at
from supplecast.sketch.model import Drawing, Line, stands_on
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick, Snap
from supplecast.sketch.scene import TrialShape, trial_shape
from supplecast.sketch.tools import Sizes, Tool
from supplecast.sketch.work import copied
from supplecast.wording import show

_KEPT = 1e-6  # mm
_ANGLES = frozenset({"angle", "sweep"})


@dataclass(frozen=True)
class Trial:
    """The curves a tool would draw, the sizes it would measure as texts, what is wrong, in words, and what would hold of that
    to which the last click is snapped.
    """

    shapes: list[TrialShape]
    snaps: tuple[Snap, ...]
    measures: dict[str, str] = field(default_factory=dict)
    refusal: str = ""


def laid_trial(drawing: Drawing, scope: Scope, tool: Tool, picks: Sequence[Pick], sizes: Sizes) -> Trial:
    """What a tool would draw with these clicks.

    With fewer clicks than the tool takes, the last one stands for those to come, as far as that makes something.
    """
    try:
        picks = [pick.placed(scope) for pick in picks]
    except SuppleError as fault:
        return Trial([], (), refusal=fault.message)
    if tool.too_many(picks):
        return Trial(_rubber(picks), picks[-1].snaps, refusal=tool.miscounted().message)
    needed = len(tool.clicks)
    short = needed - len(picks)
    if short > 1 or len(picks) < 2 <= needed:
        return Trial(_rubber(picks), picks[-1].snaps)
    trial = Pen(copied(drawing), scope)
    padded = [*picks, _aside(picks)] if short > 0 else picks
    try:
        measures = tool.lay(trial, padded, {k: v for k, v in sizes.items() if isinstance(v, str) and v.strip()})
    except SuppleError as fault:
        return Trial(_rubber(picks), picks[-1].snaps, refusal="" if short else fault.message)
    drawn = laid(trial, trial.made)
    shapes = [trial_shape(curve, construction=trial.drawing.entities[name].construction) for name, curve in drawn.items()]
    if short:
        return Trial(shapes, picks[-1].snaps)
    return Trial(shapes, _kept(trial, picks), {label: _text(label, value, scope) for label, value in measures.items()})


def _kept(pen: Pen, picks: Sequence[Pick]) -> tuple[Snap, ...]:
    """What the last click was snapped to and what was drawn keeps: a tool, or a typed size, may take it elsewhere."""
    drawing, pick = pen.drawing, picks[-1]
    curves = laid(pen, {*pen.made, *(snap.on[0] for snap in pick.snaps if snap.type == "on")})
    points = [pen.at(p) for name in pen.made for p in stands_on(drawing.entities[name])] or [pick.at]

    def reached(place: Point2) -> bool:
        near = min(math.dist(point, place) for point in points)
        return near < _KEPT or any(distance_to(curves[name], place) < _KEPT for name in pen.made)

    def is_line() -> bool:
        lines = [entity for name in pen.made if isinstance(entity := drawing.entities[name], Line)]
        ends = {frozenset((_at(pen.at(line.a)), _at(pen.at(line.b)))) for line in lines}
        return len(picks) > 1 and frozenset((_at(picks[-2].at), _at(pick.at))) in ends

    def holds(snap: Snap) -> bool:
        match snap.type:
            case "coincident":
                return reached(pen.at(snap.on[0]))
            case "on":
                return reached(pick.at) or any(distance_to(curves[snap.on[0]], point) < _KEPT for point in points)
            case "midpoint" | "level" | "plumb":
                return reached(pick.at)
            case _:
                return is_line()

    return tuple(snap for snap in pick.snaps if holds(snap))


def _at(place: Point2) -> Point2:
    return (round(place[0], 6), round(place[1], 6))


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
