"""What the tag at the pointer says holds afterwards: for every tool, whatever its last click is snapped to."""

from __future__ import annotations

import math
from collections import Counter

import numpy as np
import pytest

from supplecast.curves import Curve2
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch import regions
from supplecast.sketch.inference import Sights
from supplecast.sketch.model import Drawing, Line, stands_on
from supplecast.sketch.picks import Pick, Snap
from supplecast.sketch.sizing import radii_of
from supplecast.sketch.tools import tools
from supplecast.sketch.trial import laid_trial
from tests.referee.sketches import SCOPE, act, chain, drawn, pick

_UNIT = 0.1  # mm to a pixel


def scenery(rng: np.random.Generator) -> Drawing:
    drawing, _, _ = chain(*[(float(x), float(y)) for x, y in rng.uniform(-20, 20, (3, 2))])
    x, y, r = (float(v) for v in rng.uniform((-15, -15, 3), (15, 15, 9)))
    drawing = drawn("circle by centre", pick(x, y), pick(x + r, y), on=drawing).drawing
    places = [(x + 12 * math.cos(t), y + 12 * math.sin(t)) for t in (0.3, 1.9)]
    return drawn("arc by centre", pick(x, y), *(pick(*p) for p in places), on=drawing).drawing


def near_something(rng: np.random.Generator, drawing: Drawing) -> Point2:
    points = [drawing.place(p) for p in drawing.points]
    lines = [e for e in drawing.entities.values() if isinstance(e, Line)]
    middles = [tuple((np.array(drawing.place(e.a)) + drawing.place(e.b)) / 2) for e in lines]
    on = [tuple(curve.at(np.array([rng.uniform()]))[0]) for curve in laid(drawing).values()]
    places = [*points, *middles, *on, tuple(rng.uniform(-20, 20, 2))]
    x, y = places[rng.integers(len(places))]
    dx, dy = rng.uniform(-0.3, 0.3, 2)
    return (float(x + dx), float(y + dy))


def laid(drawing: Drawing) -> dict[str, Curve2]:
    places, radii = {**drawing.points, "o": (0.0, 0.0)}, radii_of(drawing)
    return {name: regions.curve(name, drawing, places, radii) for name in drawing.entities}


def gap(curve: Curve2, place: Point2) -> float:
    """Least distance from a place to a curve, sought by halving among samples."""
    low, high = 0.0, 1.0
    for _ in range(12):
        t = np.linspace(low, high, 201)
        off = np.hypot(*(curve.at(t) - place).T)
        best, step = t[int(off.argmin())], (high - low) / 200
        low, high = max(best - step, 0.0), min(best + step, 1.0)
    return float(off.min())


def holds(snap: Snap, at: Point2, start: Point2 | None, drawing: Drawing, made: list[str]) -> bool:
    curves = laid(drawing)
    points = [drawing.place(p) for name in made for p in stands_on(drawing.entities[name])] or [
        drawing.place([*drawing.points][-1])
    ]

    def reaches(place: Point2) -> bool:
        return any(math.dist(p, place) < 1e-5 for p in points) or any(gap(curves[name], place) < 1e-5 for name in made)

    match snap.type:
        case "coincident":
            return reaches(drawing.place(snap.on[0]))
        case "on":
            other = curves[snap.on[0]]
            return any(gap(other, p) < 1e-5 for p in points) or (gap(other, at) < 1e-5 and reaches(at))
        case "midpoint":
            line = drawing.entities[snap.on[0]]
            assert isinstance(line, Line)
            a, b = drawing.place(line.a), drawing.place(line.b)
            return reaches(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2))
        case "level" | "plumb":
            axis = 1 if snap.type == "level" else 0
            seen = _seen(snap, drawing) if snap.on else start
            return seen is not None and reaches(at) and abs(at[axis] - seen[axis]) < 1e-5
        case _:
            lines = [e for name in made if isinstance(e := drawing.entities[name], Line)]
            return any(_goes(snap, line, drawing) for line in lines)


def _seen(snap: Snap, drawing: Drawing) -> Point2:
    line = drawing.entities.get(snap.on[0])
    if isinstance(line, Line):
        a, b = drawing.place(line.a), drawing.place(line.b)
        return ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    return drawing.place(snap.on[0])


def _goes(snap: Snap, line: Line, drawing: Drawing) -> bool:
    u = np.subtract(drawing.place(line.b), drawing.place(line.a))
    if snap.type in ("horizontal", "vertical"):
        return abs(u[1] if snap.type == "horizontal" else u[0]) < 1e-5
    other = drawing.entities[snap.on[0]]
    if isinstance(other, Line):
        v = np.subtract(drawing.place(other.b), drawing.place(other.a))
        lengths = math.hypot(*u), math.hypot(*v)
        turn = {"parallel": u[0] * v[1] - u[1] * v[0], "perpendicular": float(u @ v)}.get(snap.type, 0.0) / math.prod(lengths)
        return abs(turn) < 1e-6 and (snap.type != "equal" or abs(lengths[0] - lengths[1]) < 1e-5)
    centre = np.array(drawing.place(other.c))  # type: ignore[union-attr]
    off = abs(u[0] * (centre - drawing.place(line.a))[1] - u[1] * (centre - drawing.place(line.a))[0]) / math.hypot(*u)
    radii = radii_of(drawing)
    return abs(off - radii[snap.on[0]]) < 1e-5


@pytest.mark.parametrize("tool", tools())
def test_what_the_tag_says_holds_afterwards(tool: str) -> None:
    hand, told, drawn_at_all = tools()[tool], Counter[str](), 0
    for seed in range(40):
        rng = np.random.default_rng(seed)
        drawing = scenery(rng)
        sights, picks, lined = Sights(drawing), list[Pick](), hand.family in ("Line", "Spline", "Rectangle", "Slot")
        begun = lined or hand.family == "Arc"
        for _ in hand.clicks:
            start = picks[-1] if picks and begun else None
            picks.append(
                sights.guess(near_something(rng, drawing), _UNIT, start, woken=list(drawing.points)[:3], lined=lined).pick
            )
        sizes = {hand.sizes[0]: "7"} if hand.sizes and seed % 4 == 3 and hand.sizes[0] != "sides" else {}
        promised = laid_trial(drawing, SCOPE, hand, picks, sizes)
        try:
            done = act(drawing, {"do": "draw", "tool": tool, "picks": [p.model_dump() for p in picks], "sizes": sizes})
        except SketchError:
            continue
        drawn_at_all += 1
        for snap in promised.snaps:
            told[snap.type] += 1
            start_at = picks[-2].at if len(picks) > 1 else None
            assert holds(snap, picks[-1].at, start_at, done.drawing, list(done.made)), (seed, snap)
    assert drawn_at_all > 5 and sum(told.values()) > 0, "nothing was promised: the test tells nothing"


def test_an_arc_about_a_centre_ends_where_its_circle_meets_what_was_clicked() -> None:
    """Radius √2084 about (−30, −10): it meets the line x = 0 at y = −10 + √1184, and misses its end (0, 10) by 14.4."""
    done = drawn("line", pick(0, -20), pick(0, 40))
    (line,) = done.made
    end, top = pick(0, 23, on=line), done.drawing.entities[line].b  # type: ignore[union-attr]
    done = drawn("arc by centre", pick(-30, -10), pick(-8, 30), end, on=done.drawing)
    arc = done.drawing.entities[done.made[0]]
    assert done.drawing.place(arc.b) == (pytest.approx(0), pytest.approx(-10 + math.sqrt(1184)))  # type: ignore[union-attr]
    missed = [Pick(x=-30, y=-10), Pick(x=-8, y=30), Pick(x=0, y=40, snaps=(Snap(type="coincident", on=(top,)),))]
    assert laid_trial(done.drawing, SCOPE, tools()["arc by centre"], missed, {}).snaps == ()


def test_a_guess_with_a_click_too_many_is_refused_as_the_act_is() -> None:
    """The pointer asks on while what was clicked is being drawn."""
    for name, tool in tools().items():
        picks = [Pick(x=10.0 * k, y=float(k * k)) for k in range(len(tool.clicks) + 1)]
        refused = laid_trial(Drawing(), SCOPE, tool, picks, {}).refusal
        assert tool.more or refused == f"{name.capitalize()} takes {len(tool.clicks)} clicks.", name
