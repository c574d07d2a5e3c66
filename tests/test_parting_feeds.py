"""Funnels and vents in the parting plane of a mold cast by hand: in closed form, half in each half."""

from __future__ import annotations

import math
from typing import Any

import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.document.rebuild import Built
from supplecast.kernel import measure, nearness
from supplecast.molding import opening
from tests.conftest import STEPS, built, circle, extrude, part, tool

# A round slab of 30 mm, 10 high, its rim parted in the middle.
SLAB = part([circle("c", "30"), extrude("e", "c", "10")], id="slab", name="Slab")
MOLD: STEPS = [
    {"id": "lnk", "type": "link", "part": {"document": "slab"}},
    {"id": "blk", "type": "block", "around": "15 mm", "below": "12 mm", "above": "12 mm"},
    {"id": "cav", "type": "subtract part"},
    {"id": "spl", "type": "split", "at": {"plane": "top", "offset": "5 mm"}},
]


def _feed(**more: Any) -> dict[str, Any]:
    return {"id": "pf", "type": "parting feed", **more}


def _mold(*steps: dict[str, Any]) -> Built:
    return built(tool([*MOLD, *steps]), SLAB)


def _frustum(a: float, b: float, height: float) -> float:
    return math.pi * height * (a * a + a * b + b * b) / 3


def _volumes(result: Built) -> dict[str, float]:
    assert result.ok, [(o.step, o.field, o.message, o.hint) for o in result.outcomes if o.status != "ok"]
    return {entry.name: measure.volume(entry.body.solid) for entry in result.state.bodies.values()}


def test_a_straight_sprue_is_half_in_each_half_and_ends_on_the_round_rim() -> None:
    before, after = _volumes(_mold()), _volumes(_mold(_feed(kind="sprue", outer="6", inner="6")))
    lost = [before[name] - after[name] for name in before if name in after and before[name] - after[name] > 1]
    # Against the rim, R 15, a bar of radius 3 ends in a saddle: ∫ over its disc of 30 - sqrt(15² - x²).
    end = sum(
        2 * math.sqrt(9 - x * x) * (30 - math.sqrt(225 - x * x)) * 6 / 20_000
        for x in (-3 + 6 * (k + 0.5) / 20_000 for k in range(20_000))
    )
    assert after["Feed"] == pytest.approx(end, rel=1e-6)
    assert lost == pytest.approx([end / 2, end / 2], rel=1e-6)


def test_a_funnels_mouth_left_blank_is_as_large_as_there_is_room_for() -> None:
    result = _mold(_feed(outer="6", inner="6"))
    made = _volumes(result)["Feed"]
    # 17 mm beside the plane on either side: a mouth of 24, 12 deep would take most of the 15 mm there are, 9 are taken.
    plain = _volumes(_mold(_feed(kind="sprue", outer="6", inner="6")))["Feed"]
    assert made == pytest.approx(plain - _frustum(3, 3, 9) + _frustum(12, 3, 9), rel=1e-9)
    feed = next(e.body.solid for e in result.state.bodies.values() if e.role == "feed")
    halves = [e.body.solid for e in result.state.bodies.values() if e.role in ("cavity", "core")]
    for half in halves:
        shared = opening.shared(opening.meshed(half), opening.meshed(feed))
        assert shared < opening.allowed(opening.meshed(half), opening.meshed(feed)) and nearness.between(half, feed) == 0


def test_a_vent_beside_it_is_cast_too_and_all_follow_the_part() -> None:
    steps = [_feed(), {"id": "pv", "type": "parting feed", "kind": "vent", "side": "+x", "outer": "3", "inner": "2"},
             {"id": "sho", "type": "trial shot"}]  # fmt: skip
    shot = _volumes(_mold(*steps))
    assert shot["Trial shot"] == pytest.approx(shot["Slab"] + shot["Feed"] + shot["Vent"], rel=1e-9)
    larger = part([circle("c", "34"), extrude("e", "c", "10")], id="slab", name="Slab")
    grown = _volumes(built(tool([*MOLD, *steps]), larger))
    assert grown["Trial shot"] == pytest.approx(grown["Slab"] + grown["Feed"] + grown["Vent"], rel=1e-9)
    second, _ = apply(tool([*MOLD, steps[0]]), read_edit({"op": "add", "type": "parting feed"}))
    assert second.steps[-1].held("kind") == "vent" and built(second, SLAB).ok


def test_a_place_left_blank_is_found_beside_what_is_there() -> None:
    """A vent in the middle of the side: a funnel left to find its place lies beside it, as if it were typed there."""
    vent = {**_feed(kind="vent", outer="3", inner="3", along="0"), "id": "pv"}
    first = _mold(_feed(along=""))
    assert any("in the middle of its side" in note for note in first.outcomes[-1].notes)
    found = _mold(vent, _feed(along="", outer="4", inner="4", kind="sprue"))
    note = next(note for note in found.outcomes[-1].notes if "off the middle" in note)
    off = float(note.split()[2])
    typed = _mold(vent, _feed(along=f"{-off:g}", outer="4", inner="4", kind="sprue"))
    assert 2 <= off <= 6 and _volumes(found)["Feed"] == pytest.approx(_volumes(typed)["Feed"], rel=1e-9)
    second, _ = apply(tool([*MOLD]), read_edit({"op": "add", "type": "parting feed"}))
    assert second.steps[-1].held("along") == "" and built(second, SLAB).ok
    crowded = [{**_feed(kind="vent", outer="3", inner="3", along=f"{u}"), "id": f"v{u + 12}"} for u in range(-12, 13, 4)]
    none = _mold(*crowded, _feed(along="", outer="4", inner="4", kind="sprue")).outcomes[-1]
    assert (none.status, none.field) == ("failed", "along") and "Nowhere along this side" in none.message, none
    aside = _mold(_feed(along="", side="+z")).outcomes[-1]
    assert (aside.status, aside.field) == ("failed", "side") and "Choose +x or -y" in aside.hint


def test_what_does_not_fit_is_told_with_what_does() -> None:
    for step, field, words in [
        (_feed(side="+z"), "side", "Choose +x or -y"),
        (_feed(along="25"), "along", "spans from -15 to 15"),
        (_feed(mouth="40"), "mouth", "Under 34"),
        (_feed(mouth="5"), "mouth", "wider than 8"),
        (_feed(depth="15"), "depth", "stay under 15"),
        (_feed(outer="40"), "outer", "Under 34"),
    ]:
        outcome = _mold(step).outcomes[-1]
        assert (outcome.status, outcome.field) == ("failed", field), outcome
        assert words in f"{outcome.message} {outcome.hint}"
    twice = _mold(_feed(), {**_feed(kind="vent", along="1"), "id": "pv"}).outcomes[-1]
    assert (twice.status, twice.field) == ("failed", "along") and "another feed" in twice.message


def test_a_feed_goes_on_through_the_insert_behind_its_plate() -> None:
    """One place in plates: what plate and insert lose is the feed, from the outside to the part's skin."""
    steps = [*MOLD, {"id": "ins", "type": "inserts", "columns": 1, "rows": 1}]
    before, after = (_volumes(built(tool([*steps, *more]), SLAB)) for more in ([], [{"id": "fe", "type": "feed"}]))
    lost = {name: before[name] - after[name] for name in ("Cavity plate", "Cavity insert")}
    assert min(lost.values()) > 1 and sum(lost.values()) == pytest.approx(after["Feed"], rel=1e-9)
    assert after["Feed"] == pytest.approx(_frustum(2, 3, 12 + 20), rel=1e-9)  # through the block and the plate behind it
    heeled = [*MOLD, {**steps[-1], "holding": "by heels", "corner": "6"}]
    through = [_volumes(built(tool([*heeled, *more]), SLAB)) for more in ([], [{"id": "fe", "type": "feed"}])]
    assert through[0]["Cavity insert"] - through[1]["Cavity insert"] == pytest.approx(through[1]["Feed"], rel=1e-9)
    assert through[1]["Cavity plate"] == pytest.approx(through[0]["Cavity plate"], rel=1e-9)
    assert through[1]["Feed"] == pytest.approx(_frustum(2, 3, 12), rel=1e-9)  # the insert is as thick as its plate
