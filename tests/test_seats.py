"""Seats by several pairs: in closed form, and 30 at random against a least-squares solution by scipy."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.optimize import least_squares
from scipy.spatial.transform import Rotation

from supplecast.geometry import Axis, unit, vec
from supplecast.kernel import measure, seating
from supplecast.kernel.verbs.seating import Pair
from tests.conftest import STEPS, bodies, built, circle, extrude, part, rectangle

Step = dict[str, Any]
PLATE: STEPS = [
    rectangle("s", "60", "40"), extrude("e", "s", "10"),
    circle("h", "8", x="15", y="5", on={"face": "e.end"}), extrude("hx", "h", "30", result="cut", direction="both ways"),
]  # fmt: skip
PIN: STEPS = [
    circle("c", "8"), extrude("p", "c", "20", result="new"),
    circle("k", "14", on={"face": "p.end"}), extrude("kx", "k", "4", result="add", body="p"),
    {"id": "away", "type": "move", "body": "p", "x": "80", "z": "7"},
    {"id": "lean", "type": "move", "body": "p", "how": "turned about", "axis": {"axis": "x"}, "angle": "35"},
]  # fmt: skip


def _side(step: str) -> str:
    """The round side of an extruded circle as its tag."""
    made = bodies(part([*PLATE, *PIN]))
    return next(tag for entry in made.values() for tags in entry.body.tags for tag in tags if tag.startswith(f"{step}.side"))


def _seat(**more: Any) -> Step:
    return {"id": "mv", "type": "move", "body": "p", "how": "seated", **more}


def _row() -> Step:
    return {"mine": {"face": _side("p"), "body": "p"}, "onto": {"face": _side("hx"), "body": "e"}}


def _placed(*steps: Step) -> Any:
    result = built(part([*PLATE, *PIN, *steps]))
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.message]
    return measure.box(result.state.bodies["p"].body.solid), result.outcomes[-1]


def test_a_pin_goes_into_its_hole_by_an_axis_and_a_face() -> None:
    head = {"mine": [{"face": "p.end"}], "onto": [{"face": "e.end"}]}
    under = next(t for tags in bodies(part([*PLATE, *PIN]))["p"].body.tags for t in tags if t.startswith("kx.start"))
    box, outcome = _placed(_seat(axes=[_row()], further=[{**head, "mine": [{"face": under, "body": "p"}], "gap": "0.5"}]))
    assert box.centre[:2] == pytest.approx((15, 5), abs=1e-6)
    assert box.high[2] == pytest.approx(14.5, abs=1e-6)  # the head of 4 stands 0.5 over the plate of 10
    assert outcome.notes == ("Free still: 1 axis to turn about.",)
    assert {handle.field for handle in outcome.handles} == {"turned"}


def test_by_an_axis_alone_it_can_be_slid_and_turned() -> None:
    box, outcome = _placed(_seat(axes=[_row()]))
    assert box.centre[:2] == pytest.approx((15, 5), abs=1e-6)
    assert outcome.notes == ("Free still: 1 direction and 1 axis to turn about.",)
    slid, _ = _placed(_seat(axes=[_row()], along="3 mm"))
    assert math.dist(slid.centre, box.centre) == pytest.approx(3, abs=1e-6)


FLAT = {"face": [{"face": "p.start"}], "onto": [{"face": "e.end"}]}


def test_faces_leave_two_directions_and_a_turn_and_what_is_not_free_is_refused() -> None:
    still, outcome = _placed(_seat(**FLAT))
    assert outcome.notes == ("Free still: 2 directions and 1 axis to turn about.",)
    moved, _ = _placed(_seat(**FLAT, along="4", across="-2", turned="90"))
    assert np.subtract(moved.centre, still.centre) == pytest.approx((4, -2, 0), abs=1e-6)
    for step, field in [
        (_seat(axes=[_row()], across="2"), "across"),
        (_seat(**FLAT, axes=[_row()], along="2"), "along"),
        (_seat(face=[{"face": "e.end"}], onto=[{"face": "p.end"}]), "face"),
        (_seat(axes=[{"mine": {"axis": "z"}, "onto": {"axis": "z"}}]), "axes.0.mine"),
        (_seat(), "face"),
    ]:
        outcome = built(part([*PLATE, *PIN, step])).outcomes[-1]
        assert (outcome.status, outcome.field) == ("failed", field), outcome


def test_a_pair_that_clashes_is_named_with_how_far_off_it_is() -> None:
    top = {"mine": [{"face": "p.start"}], "onto": [{"face": "e.end"}]}
    step = _seat(face=[{"face": "kx.end"}], onto=[{"face": "e.end"}], further=[top])
    outcome = built(part([*PLATE, *PIN, step])).outcomes[-1]
    assert outcome.status == "failed" and outcome.field == "further.0.mine"
    assert "° off" in outcome.message or "mm off" in outcome.message


def test_seats_follow_when_either_part_changes() -> None:
    moved = [dict(step) for step in PLATE]
    moved[2] = circle("h", "8", x="-9", y="5", on={"face": "e.end"})
    result = built(part([*moved, *PIN, _seat(axes=[_row()])]))
    assert measure.box(result.state.bodies["p"].body.solid).centre[:2] == pytest.approx((-9, 5), abs=1e-6)


# --- against another solver -----------------------------------------------------------------------------------------------


def _random(seed: int) -> tuple[list[Pair], Rotation]:
    """Three pairs that some motion satisfies, the moved body turned away from it by up to 60°."""
    draw = np.random.default_rng(seed)
    turn = Rotation.from_rotvec(draw.uniform(-0.6, 0.6, 3))
    shift = draw.uniform(-20, 20, 3)
    pairs = []
    for _ in range(3):
        at, way = draw.uniform(-15, 15, 3), draw.normal(size=3)
        way /= np.linalg.norm(way)
        kind = draw.choice(["facing", "flush", "axis", "point"], p=[0.35, 0.25, 0.2, 0.2])
        gap = float(draw.uniform(0, 3)) if kind in ("facing", "flush") else 0.0
        onto_way = turn.apply(way) * (-1.0 if kind == "facing" else 1.0)
        onto_at = turn.apply(at) + shift - gap * onto_way
        pairs.append(Pair(str(kind), Axis(vec(at), vec(way)), Axis(vec(onto_at), vec(onto_way)), gap))  # type: ignore[arg-type]
    return pairs, turn


@pytest.mark.parametrize("seed", range(30))
def test_random_seats_hold_as_another_solver_finds(seed: int) -> None:
    pairs, _ = _random(seed)
    seat = seating.seated(pairs, 40.0)
    assert seating.off(pairs, seat) < 1e-7
    assert np.linalg.det(seat.turn) == pytest.approx(1, abs=1e-12)

    def misses(x: np.ndarray) -> np.ndarray:
        turn, shift = Rotation.from_rotvec(x[:3]), x[3:]
        rows: list[np.ndarray] = []
        for pair in pairs:
            way, goal = turn.apply(pair.mine.direction), np.array(pair.onto.direction)
            apart = turn.apply(pair.mine.point) + shift - np.array(pair.onto.point)
            if pair.kind == "point":
                rows.append(apart)
            elif pair.kind == "axis":
                rows += [np.cross(way, goal), np.cross(apart, goal)]
            else:
                rows += [way + goal if pair.kind == "facing" else way - goal, [apart @ goal - pair.gap]]  # type: ignore[list-item]
        return np.concatenate(rows)

    begin = np.concatenate([Rotation.from_matrix(seat.turn).as_rotvec(), seat.shift])
    assert np.abs(misses(begin)).max() < 1e-6  # the other's own equations hold at our seat
    found = least_squares(misses, begin + np.random.default_rng(seed).normal(0, 0.02, 6), xtol=1e-15, ftol=1e-15, gtol=1e-15)
    rank = np.linalg.matrix_rank(found.jac, tol=1e-5)
    assert 6 - rank == len(seat.slides) + seat.turns  # and leave as much free
    if rank == 6:
        assert found.x == pytest.approx(begin, abs=1e-5)


def test_what_is_free_stays_free_moved_on() -> None:
    plane = Pair("facing", Axis((1, 2, 3), unit((1.0, 1.0, 0.0))), Axis((0, 0, 5), (0.0, 0.0, 1.0)), 0.25)
    seat = seating.seated([plane], 30.0, [(0.0, 1.0, 0.0)])
    assert seat.slides[0] == pytest.approx((0, 1, 0), abs=1e-12) and len(seat.slides) == 2 and seat.turns == 1
    assert seating.off([plane], seat.moved((7, -3), 1.1)) < 1e-9
