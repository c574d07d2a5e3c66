"""Blades: flat ejectors on narrow walls, their slots and bores in closed form, and what they cannot stand on."""

from __future__ import annotations

import math
from typing import Any

import pytest
from scripts.whole_tools import overlaps

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.tooling.base.blades import BLADES, buckling_force, usual
from tests.conftest import STEPS, TRAY, part, tool
from tests.test_mold_base import BASE, CHECK, PINS
from tests.test_tools import HALVES, built

pytestmark = pytest.mark.slow

ROOMY: STEPS = [{**step, "around": "34"} if step["type"] == "block" else step for step in HALVES]
ONE: STEPS = [{"id": "ins", "type": "inserts", "columns": 1, "rows": 1}, {"id": "fee", "type": "feed"}, BASE]
BLADES_: dict[str, Any] = {"id": "bld", "type": "blades"}


def made(*more: dict[str, Any]) -> Built:
    return built(tool([*ROOMY, *more], resin="ABS"), part(TRAY))


@pytest.fixture(scope="module")
def bladed() -> Built:
    result = made(*ONE, BLADES_, PINS, CHECK)
    assert result.ok, [(o.step, o.field, o.message, o.hint) for o in result.outcomes if o.status != "ok"]
    return result


def test_blades_fill_their_slots_on_the_rim_and_leave_with_the_ejectors(bladed: Built) -> None:
    """A rim 2.2 mm wide, 2.3 where it leans: blades of 2 × 7.5. What the core side loses are slots of 2.04 × 7.54, from the rim
    on, and behind them bores of 9 mm; pins keep off them; nothing overlaps at ten stations.
    """
    blades = [e for e in bladed.state.bodies.values() if e.name.startswith("Ejector blade")]
    assert len(blades) == 4 and {e.stock.kind for e in blades if e.stock} == {"Ejector blade 2 × 7.5"}
    part_ = next(e for e in bladed.state.bodies.values() if e.role == "molded")
    assert all(kernel.nearness.between(e.body.solid, part_.body.solid) < 1e-6 for e in blades)  # flush with the rim
    without = made(*ONE, BLADES_)
    before = made(*ONE)
    lost = _core(before) - _core(without)
    back = kernel.measure.span(next(e for e in before.state.bodies.values() if e.role == "core").body.solid, (0, 0, 1))[1]
    one = 2.04 * 7.54 * 15.0 + math.pi * 4.5**2 * (back - 15.0)
    assert lost == pytest.approx(4 * one, rel=1e-9)
    assert not overlaps(bladed)
    pins = next(o for o in bladed.outcomes if o.step == "eje")
    assert any("what pushes beside them" in note for note in pins.notes)


def _core(result: Built) -> float:
    return sum(kernel.measure.volume(e.body.solid) for e in result.state.bodies.values() if e.role in ("core", "core insert"))


def test_the_blade_is_as_thick_as_the_wall_allows_and_buckles_as_euler_says() -> None:
    """0.1 mm a side thinner than the wall. Euler's third case by hand: 2 × 7.5, 50 long: I = 7.5 · 8 / 12 = 5 mm⁴, F = π² ·
    205000 · 5 / 35² = 8,258 N.
    """
    assert [usual(wall, 40.0, 7.5) and usual(wall, 40.0, 7.5).thick for wall in (0.9, 1.0, 1.5, 2.2, 2.9)] == [
        None,
        0.8,
        1.2,
        2.0,
        2.0,
    ]  # type: ignore[union-attr]
    assert usual(2.9, 40.0, 12.0) == BLADES[12] and usual(2.2, 5.0, 7.5) == BLADES[5]
    assert buckling_force(BLADES[9], 50.0) == pytest.approx(8258, rel=1e-3)


@pytest.mark.parametrize(
    "steps, fields, field, words",
    [
        ([], {}, "count", "Add a mold base"),
        (ONE, {"width": "2 mm"}, "width", "Use 3.8"),
        (ONE, {"clear": "120 mm"}, "clear", "stand in the way"),
        (ONE, {"faces": [{"face": "lnk.of{ext.end}[1]", "body": "ins.lnk1"}]}, "faces", "not flat, straight and turned"),
    ],
)
def test_what_blades_cannot_stand_on_is_told(steps: STEPS, fields: dict[str, Any], field: str, words: str) -> None:
    outcome = made(*steps, {**BLADES_, **fields}).outcomes[-1]
    assert (outcome.status, outcome.field) == ("failed", field) and words in f"{outcome.message} {outcome.hint}", outcome
