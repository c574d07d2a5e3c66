"""Baffles: up from a coolant bore into deep cores, clear of the part, their bores half filled by a blade."""

from __future__ import annotations

import math
from typing import Any

import pytest

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.tooling import coolant
from tests.conftest import STEPS, TRAY, part, tool
from tests.test_mold_base import BASE, CHECK, PINS, TWO, entries
from tests.test_tools import HALVES
from tests.test_tools import built as remembered

pytestmark = pytest.mark.slow

DEEP: STEPS = [{**step, "distance": "60 mm"} if step["id"] == "ext" else step for step in TRAY]
ROOMY: STEPS = [{**step, "around": "34"} if step["type"] == "block" else step for step in HALVES]
COOLED = [*TWO, BASE, PINS, {"id": "coo", "type": "cooling"}]
BAFFLES: dict[str, Any] = {"id": "bfl", "type": "baffles"}


def made(*more: dict[str, Any], of: STEPS = DEEP) -> Built:
    return remembered(tool([*ROOMY, *more], resin="ABS"), part(of))


def test_baffles_stand_in_the_cores_and_keep_off_the_part() -> None:
    before, result = made(*COOLED), made(*COOLED, BAFFLES, CHECK)
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status != "ok"]
    baffles, parts = entries(result, "Baffle"), [e for e in result.state.bodies.values() if e.role == "molded"]
    figures = next(o.figures for o in result.outcomes if o.step == "bfl")
    assert len(baffles) == figures["baffles"] >= 4 and len(baffles) % len(parts) == 0  # alike in both places
    for baffle in baffles:
        assert kernel.measure.box(baffle.body.solid).low[2] < -30  # deep in the core, which reaches 58 mm down
        assert min(kernel.nearness.between(baffle.body.solid, p.body.solid) for p in parts) >= 8.0
    # What plate and inserts lose are bores of 10 mm, less what was open before: the coolant bores of 8 mm that they cross.
    lost = sum(
        _volume(before, role) - _volume(result, role) for role in ("core", "core insert")
    )  # fmt: skip
    longest = sum(kernel.measure.box(e.body.solid).size[2] + 5.0 for e in baffles)  # each blade ends 5 mm under its bore's end
    bores = math.pi * 25.0 * longest
    crossed = _crossing(8.0, 10.0) * len(baffles)
    assert lost == pytest.approx(bores - crossed, rel=1e-6)


def test_tubes_bring_the_water_up_from_a_second_row() -> None:
    """A tube of 6 mm inside and 8 outside leaves as much room round it in a bore of 10 as it has inside; a collar as wide as
    the bore parts both rows of coolant bores.
    """
    result = made(*COOLED, {**BAFFLES, "by": "tubes"}, CHECK)
    assert result.ok, [(o.step, o.message, o.hint) for o in result.outcomes if o.status != "ok"]
    tubes, plugs = entries(result, "Bubbler tube"), entries(result, "Plug")
    figures = next(o.figures for o in result.outcomes if o.step == "bfl")
    assert len(tubes) == len(plugs) == figures["baffles"] >= 4
    box = kernel.measure.box(tubes[0].body.solid)
    assert box.size[0] == pytest.approx(10) and math.pi * (10**2 - 8**2) / 4 == pytest.approx(math.pi * 6**2 / 4)
    for tube in tubes:  # a ring of 6 to 8 and the collar of 8 to 10, 4 high
        high = kernel.measure.box(tube.body.solid).size[2]
        ring, collar = math.pi * (16 - 9) * high, math.pi * (25 - 16) * 4
        assert kernel.measure.volume(tube.body.solid) == pytest.approx(ring + collar, rel=1e-9)
    thin = [{**step, "above": "1", "plates": "as they come"} if step["type"] == "inserts" else step for step in COOLED]
    shallow = made(*thin, {**BAFFLES, "by": "tubes"}).outcomes[-1]
    assert shallow.field == "by" and "where the core side ends" in shallow.message


def test_pressure_is_lost_in_a_baffle_as_textbooks_say() -> None:
    """A half of a bore of 10 mm, 39.27 mm² and 25.71 mm round: 6.110 mm of hydraulic diameter. 6 l/min of water of 20 °C: 2.546
    m/s, Re 15,530, f = 0.3164 / Re^0.25 = 0.02834; over 60 mm and with four times the dynamic pressure, 3,236 Pa: (0.2783 +
    4) · 3,236 = 13,840 Pa.
    """
    half, wetted = math.pi * 25 / 2, math.pi * 5 + 10
    assert coolant.lost_in_channel(6.0, half, wetted, 60.0, 4.0, 20.0) * 1e5 == pytest.approx(13_840, rel=2e-3)


def _volume(result: Built, role: str) -> float:
    return sum(kernel.measure.volume(e.body.solid) for e in result.state.bodies.values() if e.role == role)


def _crossing(narrow: float, wide: float) -> float:
    """What two cylinders whose axes cross at right angles share, mm³: ∫ of the product of their chords."""
    r, s, count = narrow / 2, wide / 2, 200_000
    ys = [(-r + 2 * r * (k + 0.5) / count) for k in range(count)]
    return sum(2 * math.sqrt(r * r - y * y) * 2 * math.sqrt(s * s - y * y) for y in ys) * 2 * r / count


@pytest.mark.parametrize(
    "steps, fields, words",
    [
        ([*TWO, BASE, PINS], {}, "Add cooling of the core side"),
        (COOLED, {"diameter": "6 mm"}, "Use 8 mm or more"),
        (COOLED, {"diameter": "40 mm"}, "No core is deep or wide enough"),
    ],
)
def test_what_does_not_fit_is_said(steps: STEPS, fields: dict[str, Any], words: str) -> None:
    outcome = made(*steps, {**BAFFLES, **fields}).outcomes[-1]
    assert outcome.field == "diameter" and words in f"{outcome.message} {outcome.hint}"
