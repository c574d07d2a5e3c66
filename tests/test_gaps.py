"""How bodies lie to each other: overlaps and gaps in closed form and by another engine, and the gauge that goes red."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from supplecast import kernel
from supplecast.geometry import Axis, Vec, unit
from supplecast.kernel.meshing import nearness
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import clearances
from supplecast.molding.gauges.gaps import Wanted, gaps
from supplecast.wire.options import Judge
from supplecast.workers.verbs import judging
from tests.conftest import STEPS, TRAY, bodies, built, extrude, part, rectangle
from tests.referee.meshes import manifold
from tests.referee.moves import shifted
from tests.referee.solids import block
from tests.referee.tasks import task

BALL: STEPS = [{"id": "b", "type": "basic shape", "shape": "ball"}]
LID: STEPS = [
    rectangle("s", "30", "20"), extrude("base", "s", "10"),
    rectangle("t", "30", "20", on={"plane": "top", "offset": "10.2"}), extrude("lid", "t", "4", result="new"),
]  # fmt: skip


def _ball() -> tuple[Solid, float]:
    solid = bodies(part(BALL))["b"].body.solid
    return solid, kernel.measure.box(solid).size[0] / 2


def test_two_balls_overlap_in_a_lens_and_part_by_their_middles() -> None:
    ball, r = _ball()
    for far in (1.2 * r, 1.9 * r):
        met = clearances.meeting(ball, shifted(ball, (far, 0, 0)).solid)
        assert met is not None and met.exact and met.away == 0
        # Lens of two equal balls, π (4r + d) (2r - d)² / 12 (from memory; a handbook of solids has it).
        assert met.volume == pytest.approx(math.pi * (4 * r + far) * (2 * r - far) ** 2 / 12, rel=1e-6)
        assert met.places[0] == pytest.approx(np.add(kernel.measure.mass(ball).centroid, (far / 2, 0, 0)), abs=0.05)
    along = unit((1.0, 2.0, -1.0))
    beside = shifted(ball, tuple((2 * r + 0.37) * c for c in along)).solid  # type: ignore[arg-type]
    met = clearances.meeting(ball, beside)
    assert met is not None and met.away == pytest.approx(0.37, abs=1e-6) and not met.volume
    assert clearances.meeting(ball, shifted(ball, (2 * r + 9, 0, 0)).solid) is None


@settings(max_examples=12, deadline=None)
@given(st.tuples(*[st.floats(-1, 1)] * 3), st.floats(0.2, 3.0), st.floats(0, 3.1))
def test_least_distances_are_what_another_engine_finds(way: Vec, gap: float, turn: float) -> None:
    tray = list(bodies(part(TRAY)).values())[-1].body.solid
    box = kernel.move.moved(block(20, 14, 9), kernel.move.turn(Axis((0.0, 0.0, 0.0), unit((1.0, 1.0, way[0]))), turn)).solid
    down = kernel.measure.box(tray).low[2] - kernel.measure.box(box).high[2] - gap
    other = shifted(box, (20 * way[0], 10 * way[1], down)).solid
    met = clearances.meeting(tray, other, 6.0)
    assert met is not None
    assert met.away == pytest.approx(manifold(tray, 0.005, 0.05).min_gap(manifold(other), 20.0), abs=0.02)
    assert math.dist(*met.places) == pytest.approx(met.away, abs=1e-6)


def test_only_pairs_with_what_has_changed_are_worked_out_again(monkeypatch: pytest.MonkeyPatch) -> None:
    rows = {f"b{k}": shifted(block(10, 10, 10), (10.4 * k, 0, 0)).solid for k in range(6)}
    first = clearances.meetings(rows)
    assert list(first) == [(f"b{k}", f"b{k + 1}") for k in range(5)]
    assert all(met.away == pytest.approx(0.4, abs=1e-9) for met in first.values())
    worked: list[Any] = []
    whole = clearances._met

    def counted(*pair: Any) -> Any:
        worked.append(pair)
        return whole(*pair)

    monkeypatch.setattr(clearances, "_met", counted)
    again = clearances.meetings({**rows, "b2": shifted(block(10, 10, 10), (21.0, 0, 0)).solid})
    assert len(worked) == 5 and again["b1", "b2"].away == pytest.approx(0.6, abs=1e-9)


def _gauge(steps: STEPS, folder: Path) -> Any:
    judged = judging.judge(task(part(steps), folder), Judge())
    return judged, next((gauge for gauge in judged.gauges if gauge.id == "gaps"), None)


def _want(least: str, most: str) -> dict[str, Any]:
    return {"id": "wg", "type": "wanted gap", "first": "lid", "second": "base", "least": least, "most": most}


def test_a_wanted_gap_is_a_gauge_that_goes_red_by_what_the_bodies_are_in_the_end(tmp_path: Path) -> None:
    judged, gauge = _gauge([*LID, _want("0.1 mm", "0.2 mm")], tmp_path)
    assert (gauge.value, gauge.state, gauge.verdict) == ("0.2", "good", "as wanted")
    base = judged.skins[0]
    assert {"gap"} <= set(base.maps) and np.frombuffer((tmp_path / base.maps["gap"]).read_bytes(), "<f4").max() <= 1.0
    lifted = {"id": "m", "type": "move", "body": "lid", "z": "0.1 mm"}
    _, gauge = _gauge([*LID, _want("0.1 mm", "0.2 mm"), lifted], tmp_path)
    assert gauge.state == "fault" and "0.3 mm apart" in gauge.offenders[0].words
    assert {gauge.offenders[0].body, gauge.offenders[0].other} == {"base", "lid"}
    _, gauge = _gauge([*LID, {**lifted, "z": "-1 mm"}], tmp_path)
    assert (gauge.value, gauge.unit, gauge.state) == ("1", "overlap", "fault")
    assert "overlap by 480 mm³" in gauge.offenders[0].words  # 30 by 20 by 0.8
    assert _gauge(LID[:2], tmp_path)[1] is None


def test_the_step_says_what_the_gap_is_where_it_stands() -> None:
    for least, most, words, state in (("0.1", "0.3", "0.2 mm here", "good"), ("0.3", "0.5", "0.2 mm here", "over")):
        (outcome,) = [o for o in built(part([*LID, _want(least, most)])).outcomes if o.step == "wg"]
        assert [(reading.words, reading.state) for reading in outcome.readings] == [(words, state)]
    faults = [(_want("0.4", "0.2"), "most"), ({**_want("0", "1"), "second": "lid"}, "second")]
    for step, field in faults:
        outcome = built(part([*LID, step])).outcomes[-1]
        assert (outcome.status, outcome.field) == ("failed", field)


def test_a_body_far_off_is_told_as_such_and_a_gap_to_it_is_not_as_wanted() -> None:
    far = {"a": ("Lid", block(10, 10, 10)), "b": ("Base", shifted(block(10, 10, 10), (40, 0, 0)).solid)}
    gauge = gaps(far, [Wanted("a", "b", 0.1, 0.2, "Wanted gap")])
    assert (gauge.value, gauge.state) == ("over 5", "fault") and "over 5 mm apart" in gauge.figures[0].words
    assert gaps(far, []).verdict == "no overlap"


def test_faces_that_triangles_leave_out_are_no_nearer(monkeypatch: pytest.MonkeyPatch) -> None:
    """Cones and bars beside, in and far from a rounded tray: the distance is what asking every pair of faces gives."""
    tray, rng = bodies(part(TRAY))["ext"].body.solid, np.random.default_rng(3)
    box, left_out = kernel.measure.loose_box(tray), 0
    for _ in range(10):
        way = unit(tuple(rng.normal(size=3)))
        at = tuple(rng.uniform(np.array(box.low) - 25, np.array(box.high) + 25))
        body = kernel.solid.cone(at, way, 4.0, 1.0, 10.0).solid
        with monkeypatch.context() as patch:
            patch.setattr(nearness, "_MANY", 0)
            near = nearness.between(body, tray)
            left_out += sum(int((~row).sum()) for row in nearness._faces_near(body, tray) or ())
            patch.setattr(nearness, "_MANY", 10**6)
            assert near == pytest.approx(nearness.between(body, tray), abs=1e-9)
    assert left_out > 100
