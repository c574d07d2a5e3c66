"""The stripper: rings and plates round the cores, in closed form, and what they cannot do."""

from __future__ import annotations

import math
from typing import Any

import pytest
from scripts.whole_tools import overlaps

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry
from tests.conftest import STEPS, TRAY, circle, extrude, part, tool
from tests.test_mold_base import BASE, CHECK, PINS
from tests.test_tools import HALVES, built

pytestmark = pytest.mark.slow

S = 1 / (1 - 0.0055)
CUP: STEPS = [
    circle("out", "60 mm"),
    extrude("ext", "out", "30 mm", direction="down", draft="1.5 deg"),
    {"id": "shl", "type": "shell", "wall": "2 mm", "open": [{"face": "ext.start"}]},
]
FEED: dict[str, Any] = {"id": "fee", "type": "feed"}
STRIPPER: dict[str, Any] = {"id": "str", "type": "stripper"}
TWO: STEPS = [
    {"id": "ins", "type": "inserts", "columns": 2, "rows": 1, "second": "as the first"},
    {"id": "run", "type": "runners"},
]


def made(*more: dict[str, Any], of: STEPS = CUP, around: str = "45") -> Built:
    halves = [{**step, "around": around} if step["type"] == "block" else step for step in HALVES]
    return built(tool([*halves, *more], resin="ABS"), part(of))


def strippers(result: Built) -> list[Entry]:
    return [e for e in result.state.bodies.values() if e.role == "stripper"]


def volume(result: Built, *roles: str) -> float:
    return sum(kernel.measure.volume(e.body.solid) for e in result.state.bodies.values() if e.role in roles)


@pytest.fixture(scope="module")
def cup() -> Built:
    result = made(FEED, BASE, STRIPPER, PINS, CHECK)
    assert result.ok, [(o.step, o.field, o.message, o.hint) for o in result.outcomes if o.status != "ok"]
    return result


def test_a_ring_round_a_round_core_is_a_ring_with_a_cone_in_it(cup: Built) -> None:
    """The rim's inner edge: 30 less a wall of 2 measured square to the lean, larger by the shrinkage; the ring begins 0.2
    outside it, leans 5° over its 12 mm, and ends 14 outside the rim. Four threads of M6 go 6 mm in.
    """
    inner, outer = (30 - 2 / math.cos(math.radians(1.5))) * S + 0.2, 30 * S + 14
    end = inner + 12 * math.tan(math.radians(5))
    ring = math.pi * outer**2 * 12 - math.pi * 12 / 3 * (inner**2 + inner * end + end**2) - 4 * math.pi * 9 * 6
    (one,) = strippers(cup)
    assert kernel.measure.volume(one.body.solid) == pytest.approx(ring, rel=1e-9)
    before = made(FEED, BASE)
    pocket = math.pi * ((outer + 0.02) ** 2 - outer**2) * 12
    back = kernel.measure.span(next(e for e in before.state.bodies.values() if e.role == "core").body.solid, (0, 0, 1))[1]
    bore = math.pi * (4.02**2 * min(16.0, back - 12) + 4.52**2 * max(back - 28, 0.0))
    lost = volume(before, "core") - volume(made(FEED, BASE, STRIPPER), "core")
    assert lost == pytest.approx(ring + 4 * math.pi * 9 * 6 + pocket + 4 * bore, rel=1e-9)


def test_it_goes_with_the_ejection_and_pins_share_with_it(cup: Built) -> None:
    """It bears the part's rim, meets nothing at ten stations, and pins beside it stand elsewhere and bear less."""
    molded = next(e for e in cup.state.bodies.values() if e.role == "linked")
    assert kernel.nearness.between(strippers(cup)[0].body.solid, molded.body.solid) < 1e-6
    assert not overlaps(cup)
    notes = {o.step: " ".join(o.notes) for o in cup.outcomes}
    assert "what pushes beside them" in notes["eje"] and "ejectors" in notes["opn"]
    rim = math.pi * ((30 * S) ** 2 - ((30 - 2 / math.cos(math.radians(1.5))) * S + 0.2) ** 2)
    assert f"pushes on {rim:.0f} mm²" in notes["str"]


@pytest.mark.parametrize("shape", ["a ring for each part", "one plate for all"])
def test_two_places_get_a_ring_each_or_one_plate(shape: str) -> None:
    """On a core with corners of free shape, in inserts; the plate closes the gaps between these and their pockets."""
    result = made(*TWO, BASE, {**STRIPPER, "shape": shape}, CHECK, of=TRAY, around="36")
    assert result.ok, [(o.step, o.field, o.message, o.hint) for o in result.outcomes if o.status != "ok"]
    found = strippers(result)
    assert len(found) == (2 if shape == "a ring for each part" else 1) and not overlaps(result)
    molded = [e for e in result.state.bodies.values() if e.role == "molded"]
    assert all(min(kernel.nearness.between(e.body.solid, p.body.solid) for e in found) < 1e-6 for p in molded)
    volumes = [kernel.measure.volume(e.body.solid) for e in found]
    assert max(volumes) - min(volumes) < 1e-6 * volumes[0]
    assert all(e.body.solid.closed and kernel.measure.span(e.body.solid, (0, 0, 1)) == pytest.approx((0, 12)) for e in found)


@pytest.mark.parametrize(
    "steps, fields, field, words",
    [
        ([FEED], {}, "shape", "Add a mold base"),
        ([FEED, BASE], {"wide": "9 mm"}, "wide", "Use 12 or more"),
        ([FEED, BASE], {"wide": "50 mm"}, "wide", "past Core half. Use 42"),
        ([FEED, BASE], {"thick": "40 mm"}, "thick", "Use 23"),
        ([FEED, BASE], {"thick": "8 mm"}, "thick", "Use 9 or more"),
        ([FEED, BASE], {"rods": "10 mm"}, "rods", "Use thinner rods, 8 or less, or 16 or more"),
        ([FEED, BASE], {"thick": "20 mm", "lean": "15"}, "wide", "the lean takes 3.55"),
        ([*TWO, BASE], {"wide": "62 mm"}, "wide", "one plate for all"),
        ([FEED, BASE], {"aside": "1.6 mm"}, "aside", "Use 1"),
        ([FEED, BASE], {"lean": "30"}, "lean", "15"),
        ([FEED, BASE], {"rims": [{"face": "lnk.of{ext.end}", "body": "lnk"}]}, "rims", "not a flat rim"),
        ([FEED, {"id": "coo", "type": "cooling", "depth": "9 mm"}, BASE], {"thick": "20 mm"}, "wide", "Move cooling below"),
    ],
)
def test_what_it_cannot_do_is_told(steps: STEPS, fields: dict[str, Any], field: str, words: str) -> None:
    outcome = made(*steps, {**STRIPPER, **fields}).outcomes[-1]
    assert (outcome.status, outcome.field) == ("failed", field) and words in f"{outcome.message} {outcome.hint}", outcome
