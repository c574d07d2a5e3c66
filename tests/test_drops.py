"""Feeds that come down through the cavity side: hot drops and three-plate feeds, in closed form, and what they cannot do."""

from __future__ import annotations

import math
from typing import Any

import pytest
from scripts.whole_tools import overlaps

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry
from supplecast.steps.tool import opening_check
from supplecast.steps.tool.stroke import stroke_of
from supplecast.tooling import hot
from tests.conftest import STEPS
from tests.stations import clashes
from tests.test_mold_base import BASE, CHECK, PINS
from tests.test_stripper import S, made, volume

pytestmark = pytest.mark.slow

UP = (0.0, 0.0, 1.0)
HOT: dict[str, Any] = {"id": "hot", "type": "hot drops", "gate": "1.2 mm"}
THIRD: dict[str, Any] = {"id": "thi", "type": "three-plate feed"}


def places(columns: int, rows: int = 1, between: str = "30") -> dict[str, Any]:
    return {"id": "ins", "type": "inserts", "columns": columns, "rows": rows, "second": "as the first", "between": between}


def one(result: Built, kind: str) -> Entry:
    return next(e for e in result.state.bodies.values() if e.stock and e.stock.kind == kind)


def span(entry: Entry) -> tuple[float, float]:
    return kernel.measure.span(entry.body.solid, UP)


def cone(a: float, b: float, long: float) -> float:
    return math.pi * long / 3 * (a * a + a * b + b * b)


@pytest.fixture(scope="module")
def four() -> Built:
    result = made(places(2, 2), HOT, BASE, PINS, CHECK)
    assert result.ok, [(o.step, o.field, o.message, o.hint) for o in result.outcomes if o.status != "ok"]
    return result


def test_a_single_nozzle_stands_over_the_part_as_turned() -> None:
    """Head 30 × 6, shank 16, seal 12 × 5, tip of 45° to 0.5 round the gate; 5 mm of bore narrowing by half as much, and a
    seat of 6 × 5 for the press's nozzle. Around it 0.25 of air at the head and 2 at the shank.
    """
    result, bare = made(HOT, BASE, CHECK), made()
    assert result.ok, result.outcomes[-1]
    back, skin = span(next(e for e in bare.state.bodies.values() if e.role == "cavity"))[0], -30 * S
    tip = skin - 0.5
    shank = tip - 4.9 - 5 - (back + 6)
    front = math.pi * 36 * 5 + cone(6, 1.1, 4.9)
    bore = math.pi * 2.5**2 * (tip - 3.8 - back) + cone(2.5, 0.6, 3.8) + math.pi * (3**2 - 2.5**2) * 5
    nozzle = one(result, "Hot nozzle")
    whole = math.pi * (15**2 * 6 + 8**2 * shank) + front - bore
    assert kernel.measure.volume(nozzle.body.solid) == pytest.approx(whole, rel=1e-9)
    gate = math.pi * 0.6**2 * 0.5
    assert volume(result, "feed") == pytest.approx(gate, rel=1e-6)
    taken = math.pi * (15.25**2 * 6 + 10**2 * shank) + front + gate
    assert volume(bare, "cavity") - volume(made(HOT), "cavity") == pytest.approx(taken, rel=1e-9)
    bush = one(result, "Heated bush")
    assert span(bush)[1] == pytest.approx(back) and not overlaps(result)


def test_gates_shear_no_harder_than_is_usual() -> None:
    """32 Q / (π d³) of a round bore (Hagen-Poiseuille, Newtonian): 10 cm³/s through 1.5 mm are 30,180 1/s by hand."""
    assert hot.shear_rate(10_000, 1.5) == pytest.approx(30_180, rel=1e-4)
    assert hot.gate(10_000) == 1.4 and hot.shear_rate(10_000, 1.3) > 40_000 and hot.gate(1.0) == 0.8


def test_a_beam_grows_as_steel_does() -> None:
    """200 mm of steel from 60 to 240 °C: 12e-6 × 200 × 180 = 0.432 mm."""
    assert hot.grown(200, 240, 60) == pytest.approx(0.432)


def test_a_manifold_feeds_four_nozzles_evenly(four: Built) -> None:
    """An H of beams with its channels, held between nozzles and clamping plate, fed through a heated bush."""
    assert not overlaps(four)
    back = span(one(four, "Manifold plate"))[1]
    low, high = span(one(four, "Manifold"))
    plate = span(one(four, "Manifold plate"))
    assert high == pytest.approx(back - hot.GAP) and plate[0] == pytest.approx(span(one(four, "Fixed clamping plate"))[1])
    pads = [e for e in four.state.bodies.values() if e.stock and e.stock.kind == "Support pad"]
    assert len(pads) == 4 and all(span(pad) == pytest.approx((plate[0], low)) for pad in pads)
    assert span(one(four, "Heated bush"))[1] == pytest.approx(low)
    # Channels, drops and inlet are what is missing in the beams, beside the middle pad's pin; nozzles hold the rest.
    x, y = sorted(kernel.measure.box(one(four, "Manifold").body.solid).size[:2])
    wide, bar = hot.NOZZLES[0].head + 6, high - low
    h = 2 * y * wide + (x - 2 * wide) * wide
    figures = next(o.figures for o in four.outcomes if o.step == "hot")
    nozzles = 4 * math.pi / 4 * 25 * (-30 * S - 0.5 - back)
    missing = h * bar - kernel.measure.volume(one(four, "Manifold").body.solid)
    assert missing == pytest.approx(figures["kept_hot"] - nozzles + math.pi * 25 * 5, rel=1e-6)
    notes = " ".join(next(o.notes for o in four.outcomes if o.step == "hot"))
    assert "balanced" in notes and "shots" in notes


def test_every_place_is_fed_at_the_same_spot() -> None:
    """Typed off the middle, turned round with the second row."""
    second = {**places(1, 2), "second": "turned round"}
    result = made(second, {**HOT, "x": "8 mm", "y": "-70 mm"})
    assert result.ok, result.outcomes[-1]
    middles = [kernel.measure.mass(e.body.solid).centroid for e in result.state.bodies.values() if e.role == "feed"]
    parts = [kernel.measure.mass(e.body.solid).centroid for e in result.state.bodies.values() if e.role == "molded"]
    offs = [[a - b for a, b in zip(m[:2], p[:2], strict=True)] for m, p in zip(middles, parts, strict=True)]
    assert offs[0] == pytest.approx([-c for c in offs[1]], abs=1e-6) and abs(offs[0][0] - 8) < 1e-6


@pytest.mark.parametrize(
    "steps, words",
    [
        ([{"id": "fee", "type": "feed"}, HOT], "filled by “Feed” already"),
        ([{**HOT, "plate": "60 mm"}], "single nozzle has no manifold"),
        ([places(2), {**THIRD, "gate": "4 mm"}], "up to 2.5 mm is usual"),
        ([places(2), {**THIRD, "gate": "0.6 mm"}], "1.4 mm or more"),
    ],
)
def test_what_should_be_looked_at_is_said(steps: STEPS, words: str) -> None:
    outcome = made(*steps).outcomes[-1]
    assert outcome.status == "ok" and any(words in flag.words for flag in outcome.flags), outcome


def test_a_third_plate_opens_stops_and_strips(monkeypatch: pytest.MonkeyPatch) -> None:
    """Runners as long as their places are apart, out of the cavity plate alone; bolts stop the plates where they should."""
    near, far = (made(places(2, between=b), {**THIRD, "width": "6 mm"}) for b in ("30", "40"))
    section = 6 * 6 - 6 * 6 * math.tan(math.radians(10))
    assert volume(far, "feed") - volume(near, "feed") == pytest.approx(10 * section, rel=1e-6)
    bare = made(places(2))
    lost = volume(bare, "cavity", "cavity insert") - volume(near, "cavity", "cavity insert")
    plate = span(one(near, "Runner plate"))
    thick = plate[1] - plate[0]
    sprue = cone(3.5, 3.5 - thick * math.tan(math.radians(1)), thick)
    assert lost == pytest.approx(volume(near, "feed") - sprue, rel=1e-6)
    steps = (places(2), THIRD, BASE, PINS, CHECK)
    result = made(*steps)
    assert result.ok and not overlaps(result), result.outcomes[-1]
    assert "off the runners, runner plate" in " ".join(result.outcomes[-1].notes)
    kinds = [e.stock.kind for e in result.state.bodies.values() if e.stock]
    assert [kinds.count(k) for k in ("Sucker pin", "Carrying pillar", "Puller bolt", "Distance bolt")] == [2, 4, 4, 4]
    assert "Screw, fixed side" not in {e.name for e in result.state.bodies.values()}
    assert not clashes(result, [k / 12 for k in range(13)])
    left = list(result.state.bodies.values())  # steps may delete what they like: the view plays what is left
    for gone in ("feed", "Support plate", "Retainer plate", "Puller bolt"):
        assert stroke_of([e for e in left if gone not in (e.role, e.stock.kind if e.stock else "")]) is not None
    opens = opening_check.opens_for
    for name, value in (("STRIPS", 8.6), ("opens_for", lambda long: opens(long) + 2.0)):
        with monkeypatch.context() as patch:
            patch.setattr(opening_check, name, value)
            outcome = made(*steps[:-1], {**CHECK, "id": f"op{name[:2]}"}).outcomes[-1]
        assert outcome.status == "failed" and "caught" in outcome.message, name


@pytest.mark.parametrize(
    "steps, field, words",
    [
        ([{**HOT, "x": "5 mm"}], "y", "Type both"),
        ([{**HOT, "x": "50 mm", "y": "0 mm"}], "x", "x from -30.166 to 30.166"),
        ([{**HOT, "nozzle": "17 mm"}], "nozzle", "16, 22, 28, 36, 45"),
        ([{**HOT, "nozzle": "45 mm"}], "nozzle", "thicker on the cavity side"),
        ([{**HOT, "gate": "6 mm"}], "gate", "Use 5 or less"),
        ([{**HOT, "x": "29 mm", "y": "0 mm"}], "x", "over an edge"),
        ([HOT, {**HOT, "id": "hox"}], "x", "fed from behind the cavity plate already"),
        ([BASE, HOT], "x", "Move this step above the mold base"),
        ([places(2), {**HOT, "plate": "30 mm"}], "plate", "Use 41"),
        ([places(2), {**HOT, "inlet_x": "185 mm", "inlet_y": "0 mm"}], "inlet_x", "more margin"),
        ([THIRD], "sprue_x", "over the drop"),
        ([places(2), {**THIRD, "width": "4 mm"}], "width", "Use 5"),
        ([places(2), THIRD, {**BASE, "clamp": "20 mm"}], "clamp", "Use a thicker one"),
        ([{**THIRD, "x": "15 mm", "y": "0 mm"}, BASE], "ring", "keep sprue and drops"),
    ],
)
def test_what_they_cannot_do_is_told(steps: STEPS, field: str, words: str) -> None:
    outcome = made(*steps).outcomes[-1]
    assert (outcome.status, outcome.field) == ("failed", field) and words in f"{outcome.message} {outcome.hint}", outcome
