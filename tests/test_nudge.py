"""Faces moved along their normals, with what hangs on them: closed forms, names, and words for what cannot be."""

from __future__ import annotations

import math

import pytest

from supplecast.kernel import check, measure
from supplecast.naming import Body
from tests.conftest import STEPS, bodies, built, circle, extrude, part, rectangle
from tests.referee.bodies import fault, volume
from tests.referee.boxes import BOSS, BOX, SIDES, TOP, bore, step


def test_nudging_lengths_bosses_holes_and_drafted_walls() -> None:
    assert volume([*BOX, step("nudge", faces=[SIDES[1]], distance="1.5")]) == pytest.approx(41.5 * 600)
    assert volume([*BOX, step("nudge", faces=SIDES, distance="-1")]) == pytest.approx(38 * 28 * 20)
    grown = step("nudge", faces=[{"face": "e2.side[f1_C1]"}], distance="1.5")
    assert volume([*BOSS, grown]) == pytest.approx(24000 + bore((15, 15, 8)), rel=1e-9)
    drafted = [BOX[0], extrude("e1", "s1", "20", draft="5")]
    longer = volume([BOX[0], extrude("e1", "s1", "23", draft="5")])
    assert volume([*drafted, step("nudge", faces=[TOP], distance="3")]) == pytest.approx(longer, rel=1e-9)
    field, message, _ = fault([*BOX, step("nudge", faces=[TOP], distance="-25")])
    assert field == "distance" and "too far" in message
    slot = {"id": "s1", "type": "sketch", "on": {"plane": "top"}, "draw": [{"kind": "slot", "length": "30", "width": "10"}]}
    side = [{"face": "e1.side[f1_L1]"}]
    assert "runs on smoothly" in fault([slot, BOX[1], step("nudge", faces=side, distance="1")])[1]


@pytest.mark.parametrize("distance", ["1.5", "-2"])
def test_nudging_a_face_of_many_takes_its_holes_along(distance: str) -> None:
    """Forty holes in the face: more faces than are set up anew at once; volume in closed form."""
    points = {f"p{n}": (-18 + 4.0 * (n % 10), -12 + 8.0 * (n // 10)) for n in range(40)}
    row = {"id": "h", "type": "sketch", "on": {"plane": "top"}, "points": points}
    drilled = [*BOX, row, step("hole", diameter="2", sketch="h")]
    tall = 20 + float(distance)
    assert volume([*drilled, {"id": "n", "type": "nudge", "faces": [TOP], "distance": distance}]) == pytest.approx(
        tall * (1200 - 40 * math.pi), rel=1e-9
    )


@pytest.mark.parametrize("distance", [1.5, -2.0])
@pytest.mark.parametrize(
    ("rounds", "face", "by"),
    [
        ([("u", [{"rule": "uprights", "of": "e1"}], 6)], SIDES[1], "x"),
        ([("t", [{"rule": "outer loop", "of": "e1.end"}], 3)], TOP, "z"),
        ([("u", [{"rule": "uprights", "of": "e1"}], 6), ("t", [{"rule": "outer loop", "of": "e1.end"}], 3)], TOP, "z"),
        ([("a", [{"rule": "every"}], 4)], SIDES[1], "x"),
    ],
    ids=["uprights", "top", "uprights and top", "all over"],
)
def test_a_face_takes_its_rounds_along(
    rounds: list[tuple[str, STEPS, int]], face: dict[str, str], by: str, distance: float
) -> None:
    """The same as a box made that much longer or higher and rounded then; every face keeps its name."""

    def made(more: STEPS, width: float, height: float) -> Body:
        box = [rectangle("s1", f"{width}", "30", x=f"{(width - 40) / 2}"), extrude("e1", "s1", f"{height}")]
        soft: STEPS = [{"id": n, "type": "fillet", "edges": edges, "radius": f"{r}", "body": "e1"} for n, edges, r in rounds]
        return bodies(part([*box, *soft, *more]))["e1"].body

    nudged = made([step("nudge", faces=[face], distance=f"{distance}")], 40, 20)
    want = made([], 40 + distance * (by == "x"), 20 + distance * (by == "z"))
    assert measure.volume(nudged.solid) == pytest.approx(measure.volume(want.solid), rel=1e-7) and not check.faults(
        nudged.solid
    )
    assert {tags[0] for tags in nudged.tags} == {tags[0] for tags in want.tags}


def test_without_a_body_that_is_what_is_missing() -> None:
    assert "no body yet" in fault([step("nudge", faces=[])])[1]


def test_rounds_that_no_longer_fit_hold_their_face_back() -> None:
    soft = {"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e1"}], "radius": "6"}
    field, message, hint = fault([*BOX, soft, step("nudge", faces=[SIDES[1]], distance="-29")])
    assert field == "distance" and "does not fit" in message and "less far" in hint
    outcome = built(part([*BOX, soft, step("nudge", faces=[SIDES[1]], distance="-29")])).outcomes[-1]
    assert [pick["face"] for pick in outcome.culprits] == [SIDES[1]["face"]] and outcome.sized


@pytest.mark.parametrize(("face", "more"), [("b.side[f1_C1]", (2, 0)), ("b.end", (0, 3))])
def test_a_post_rounded_at_both_ends_is_moved_with_its_rounds(face: str, more: tuple[int, int]) -> None:
    """Thicker or higher: the same as drawn so."""

    def post(wide: int, high: int) -> STEPS:
        rim = {"id": "g", "type": "fillet", "edges": [{"rule": "edges of", "of": "b.end"}], "radius": "2"}
        foot = {"id": "h", "type": "fillet", "edges": [{"edge": ["b.side[f1_C1]", "e1.end"]}], "radius": "1.5"}
        return [*BOX, circle("c", f"{wide}", on=TOP), extrude("b", "c", f"{high}", result="add"), rim, foot]

    moved = volume([*post(12, 8), step("nudge", faces=[{"face": face}], distance=f"{max(more) / (2 if more[0] else 1)}")])
    assert moved == pytest.approx(volume(post(12 + more[0], 8 + more[1])), rel=1e-9)
