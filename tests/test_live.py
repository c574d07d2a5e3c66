"""A sketch in the hand: drags keep every constraint, sizes typed go the quick way, and the pointer is understood."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.optimize import least_squares
from scripts import sketching

from supplecast.quantities import Scope
from supplecast.sketch.inference import Sights
from supplecast.sketch.live import Live
from supplecast.sketch.model import Constraint, Drawing
from supplecast.sketch.newton import newton
from supplecast.sketch.picks import Pick, Snap
from supplecast.sketch.scene import moved, scene
from supplecast.sketch.sizing import size_of
from supplecast.sketch.solver import solve
from supplecast.sketch.system import System
from tests.referee.sketches import act, drawn, pick

SCOPE = Scope()
SIZE = size_of(SCOPE)


def mirrored(pairs: int) -> Drawing:
    """Pairs of lines mirrored about one free axis of a given length: the axis is a hub that nearly every row reads."""
    drawing = sketching.mirrored(pairs)
    length = Constraint(type="distance", on=("s", "e"), value=str(2 * pairs + 10))
    return drawing.model_copy(update={"constraints": {**drawing.constraints, "length": length}})


def stadium() -> Drawing:
    return drawn("slot", pick(0, 0), pick(20, 0), pick(10, 4), width="8").drawing


def misfit(live: Live) -> float:
    residual, _ = System(live.drawing, SIZE, merged=False).evaluate(System(live.drawing, SIZE, merged=False).z)
    return float(np.abs(residual).max(initial=0.0))


@pytest.mark.parametrize("drawing", [mirrored(3), mirrored(40), stadium()], ids=["few", "hub", "slot"])
def test_drags_hold_every_constraint_and_the_grabbed_point_follows(drawing: Drawing) -> None:
    live = Live(drawing, SIZE)
    name = next(p for p in drawing.points if p in live.solution.loose and p not in ("s", "e"))
    x, y = live.drawing.points[name]
    offsets = live.grabbed(name, (x + 0.5, y))
    rng = np.random.default_rng(4)
    for _ in range(30):
        dx, dy = rng.normal(scale=1.5, size=2)
        x, y = x + dx, y + dy
        points, radii = live.dragged(offsets, (x + 0.5, y))
        there = live.drawing.model_copy(update={"points": {p: points[p] for p in live.drawing.points}})
        residual, _ = live.system.evaluate(live._z)
        assert float(np.abs(residual).max()) < 1e-7
        assert all(radius > 0 for radius in radii.values()) and not there.faults()
    assert math.dist(points[name], (x, y)) < 0.5


def test_what_is_fixed_is_not_dragged_and_says_so() -> None:
    fixed = drawn("rectangle by centre", pick(0, 0, coincident="o"), pick(30, 20), width="60", height="40")
    live = Live(fixed.drawing, SIZE)
    assert live.solution.freedoms == 0 and not any(live.can_move(name) for name in live.drawing.points)
    before = dict(live.drawing.points)
    points, _ = live.dragged(live.grabbed(next(iter(before)), (0.0, 0.0)), (50.0, 50.0))
    assert all(math.dist(points[name], place) < 1e-9 for name, place in before.items())


@pytest.mark.parametrize("pairs", [3, 30])
def test_hubs_are_bordered_without_a_difference(pairs: int) -> None:
    """Newton from a disturbed start ends where scipy's least squares of the same equations has no misfit either."""
    system = System(mirrored(pairs), SIZE)
    start = system.z + np.random.default_rng(1).normal(scale=0.3, size=len(system.z))
    z, left = newton(system, start)
    assert left < 1e-9
    referee = least_squares(lambda x: system.evaluate(x)[0], start, method="trf", xtol=1e-14, ftol=1e-14)
    assert float(np.abs(referee.fun).max()) < 1e-6
    assert float(np.linalg.norm(z - start)) < 1.05 * float(np.linalg.norm(referee.x - start)) + 1e-6
    # Each pair is known by the four numbers of one line; the axis has a place and a direction.
    assert solve(mirrored(pairs), SIZE).freedoms == 4 * pairs + 3


@pytest.mark.parametrize("value", ["9", "12.5 mm", "3"])
def test_a_typed_size_gives_what_compiling_anew_gives(value: str) -> None:
    drawing = stadium()
    (name,) = (k for k, held in drawing.constraints.items() if held.type == "diameter")
    sized = act(drawing, {"do": "size", "on": list(drawing.points)[:2], "label": [5, 9]})
    (length,) = (k for k, held in sized.drawing.constraints.items() if held.type == "distance")
    live = Live(sized.drawing, SIZE)
    assert live.retyped(name, value) is None  # merged away: it goes the long way
    quick = live.retyped(length, value)
    assert quick is not None
    slow = act(sized.drawing, {"do": "retype", "constraint": length, "value": value})
    for point, place in slow.drawing.points.items():
        assert quick.drawing.points[point] == pytest.approx(place, abs=1e-7)
    assert quick.solution.freedoms == slow.solution.freedoms
    again = quick.retyped(length, "20")
    assert again is not None and misfit(again) < 1e-7 and misfit(live) < 1e-7


def test_loose_points_tell_how_they_can_move() -> None:
    """A level line that starts at the origin: its end can only move along x. A free line's ends can move every way."""
    line = drawn("line", pick(0, 0, coincident="o"), pick(20, 0, horizontal=""))
    (direction,) = Live(line.drawing, SIZE).directions()
    assert (
        direction.along is not None and abs(direction.along[0]) == pytest.approx(1) and direction.along[1] == pytest.approx(0)
    )
    free = drawn("line", pick(0, 3), pick(20, 9))
    assert [w.along for w in Live(free.drawing, SIZE).directions()] == [None, None]


# Scenes: a level line from (0, 0) to (40, 0), a slanted one from (0, 20) to (30, 35), a circle of radius 10 about (60, 20).
SCENE = Drawing.model_validate(
    {
        "points": {"a": (0, 0), "b": (40, 0), "c": (0, 20), "d": (30, 35), "m": (60, 20)},
        "entities": {
            "L": {"type": "line", "a": "a", "b": "b"},
            "S": {"type": "line", "a": "c", "b": "d"},
            "C": {"type": "circle", "c": "m", "r": 10},
        },
    }
)
SLANT = math.atan2(15, 30)
GUESSES = [
    # pointer, start of the line drawn, what it must be taken for, and where
    ((40.3, 0.4), None, {"coincident": "b"}, (40, 0)),
    ((20.2, -0.3), None, {"midpoint": "L"}, (20, 0)),
    ((11.0, 0.4), None, {"on": "L"}, (11, 0)),
    ((67.2, 27.3), None, {"on": "C"}, None),
    ((15.2, 27.7), None, {"midpoint": "S"}, (15, 27.5)),
    ((70.2, 50.2), (50, 50), {"horizontal": None}, (70.2, 50)),
    ((50.3, 80.0), (50, 50), {"vertical": None}, (50, 80.0)),
    ((12 + 23 * math.cos(SLANT), 50 + 23 * math.sin(SLANT) + 0.2), (12, 50), {"parallel": "S"}, None),
    ((12 - 20 * math.sin(SLANT) + 0.2, 50 + 20 * math.cos(SLANT)), (12, 50), {"perpendicular": "S"}, None),
    ((90.2, -40.1), (50, -40), {"horizontal": None, "equal": "L"}, (90, -40)),
    ((20.0, 30.2), (20, -20), {"vertical": None, "on": "S"}, (20, 30)),
    ((50.1, 20.3), (50, 0), {"tangent": "C", "vertical": None}, (50, 20)),
    ((100, 100), None, {}, (100, 100)),
]


@pytest.mark.parametrize(("pointer", "start", "meant", "at"), GUESSES)
def test_what_the_pointer_is_taken_for(pointer: Any, start: Any, meant: dict[str, str | None], at: Any) -> None:
    begun = None if start is None else Pick(x=start[0], y=start[1])
    guess = Sights(SCENE).guess(pointer, 0.2, begun)
    assert {snap.type: (snap.on[0] if snap.on else None) for snap in guess.snaps} == meant
    if at is not None:
        assert guess.at == pytest.approx(at, abs=1e-9)
    assert bool(guess.words) == bool(meant)


def test_a_line_that_leaves_an_arc_is_taken_tangent_and_alignment_is_woken() -> None:
    arc = drawn("arc by centre", pick(0, 0), pick(10, 0), pick(0, 10))
    held: Any = arc.drawing.entities[arc.made[0]]
    sights = Sights(arc.drawing)
    start = Pick(x=0, y=10, snaps=(Snap(type="coincident", on=(held.b,)),))
    guess = sights.guess((-12.0, 10.4), 0.2, start)
    assert {snap.type for snap in guess.snaps} >= {"tangent"} and guess.at[1] == pytest.approx(10)
    assert sights.guess((30, 12.3), 0.2).snaps == ()
    (level,) = sights.guess((30, 10.3), 0.2).guides  # with any point: a guide that tells how far it is
    assert (level.a, level.b) == ((0.0, 10.0), (30.0, 10.0))
    aligned = sights.guess((30, 10.3), 0.2, woken=[held.b])
    assert [snap.type for snap in aligned.snaps] == ["level"] and aligned.at[1] == pytest.approx(10)
    over = Sights(SCENE).guess((20.3, 60), 0.2, woken=["L"])
    assert [snap.type for snap in over.snaps] == ["plumb"] and over.at == pytest.approx((20, 60))


def test_the_scene_holds_what_the_sheet_shows_and_a_drag_shows_the_same_parts() -> None:
    done = drawn("rectangle by corners", pick(0, 0), pick(30, 20), width="30")
    live = Live(done.drawing, SIZE)
    resting = scene(live, SCOPE)
    assert resting.freedoms == 3 and resting.area == pytest.approx(600) and len(resting.regions) == 1
    (size,) = resting.sizes
    assert (size.text, size.title) == ("30", "length of line 1") and len(size.arrows) == 2
    for typed, text in (("2,5", "2.5"), ("2.5 mm", "2.5"), ("2 * 1.5", "3 = 2 * 1.5")):
        sized = drawn("rectangle by corners", pick(0, 0), pick(30, 20), width=typed)
        assert scene(Live(sized.drawing, SIZE), SCOPE).sizes[0].text == text
    assert resting.constraints[0].words == "horizontal of line 1"
    shown = moved(live, live.drawing.points, {}, SCOPE)
    assert shown.entities == resting.entities and shown.sizes == resting.sizes
