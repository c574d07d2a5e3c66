"""Curves that follow others: offsets, bands, mirror images, rows and rings, against closed forms."""

from __future__ import annotations

import math

import pytest

from tests.referee.sketches import act, areas, chain, drawn, pick

OFFSETS = [("in", 30.0 * 20.0 - 26.0 * 16.0), ("out", 34.0 * 24.0 - 30 * 20)]


@pytest.mark.parametrize(("side", "between"), OFFSETS)
def test_an_offset_follows_its_source_and_its_one_size(side: str, between: float) -> None:
    done = drawn("rectangle by corners", pick(0, 0), pick(30, 20), width="30", height="20")
    names = list(done.drawing.entities)
    off = act(done.drawing, {"do": "offset", "names": names, "distance": "wall", "side": side})
    assert off.solution.freedoms == done.solution.freedoms and not off.solution.doubled
    assert min(areas(off.drawing)) == pytest.approx(between)
    one = next(k for k, held in off.drawing.constraints.items() if held.group)
    grown = act(off.drawing, {"do": "retype", "constraint": one, "value": "3"})
    sign = 1 if side == "out" else -1
    assert abs((30 + sign * 6) * (20 + sign * 6) - 600) == pytest.approx(min(areas(grown.drawing)))


@pytest.mark.parametrize(("ends", "extra"), [("flat", 0.0), ("round", math.pi * 9)])
def test_an_open_chain_offset_on_both_sides_is_a_band(ends: str, extra: float) -> None:
    """A line of 20 that runs into a quarter arc of radius 10: the band is 2·3 wide along the middle line."""
    first = drawn("line", pick(0, 0), pick(20, 0, horizontal=""))
    end = first.drawing.entities[first.made[0]].b
    both = drawn("tangent arc", pick(20, 0, coincident=end), pick(30, 10), on=first.drawing)
    names = list(both.drawing.entities)
    band = act(both.drawing, {"do": "offset", "names": names, "distance": "3", "side": "both", "ends": ends})
    assert band.solution.freedoms == both.solution.freedoms and not band.solution.doubled
    assert sum(areas(band.drawing)) == pytest.approx(6 * (20 + 5 * math.pi) + extra)


def test_an_element_too_short_for_the_offset_vanishes_and_that_is_said() -> None:
    drawing, _, lines = chain((0, 0), (30, 0), (30, 20), (28, 22), (0, 22), closed=True)
    done = act(drawing, {"do": "offset", "names": lines, "distance": "6", "side": "in"})
    assert "Line 3 vanished" in done.words
    assert sorted(areas(done.drawing))[0] == pytest.approx(18 * 10)


def test_mirrored_curves_follow_their_source() -> None:
    drawing, _, lines = chain((0, 0), (0, 30))
    axis = lines[0]
    drawing = act(drawing, {"do": "construction", "names": [axis]}).drawing
    half = drawn("line", pick(0, 5, on=axis), pick(10, 5), on=drawing)
    tip = half.drawing.entities[half.made[0]].b
    half = drawn("line", pick(10, 5, coincident=tip), pick(0, 20, on=axis), on=half.drawing)
    names = [name for name in half.drawing.entities if name != axis]
    done = act(half.drawing, {"do": "mirror", "names": names, "axis": axis})
    assert done.solution.freedoms == half.solution.freedoms and not done.solution.doubled
    assert areas(done.drawing) == [pytest.approx(150.0)]
    moved = act(done.drawing, {"do": "dropped", "points": {tip: [14.0, 5.0]}})
    assert areas(moved.drawing)[0] == pytest.approx(210.0, rel=0.2) and moved.solution.misfit < 1e-9


def test_rows_and_rings_stay_linked_and_lose_only_what_is_erased() -> None:
    drawing = drawn("rectangle by corners", pick(0, 0), pick(4, 3)).drawing
    row = act(drawing, {"do": "row", "names": list(drawing.entities), "count": 4, "dx": "10", "dy": "2"})
    assert row.solution.freedoms == 4 and areas(row.drawing) == pytest.approx([12.0] * 4)
    second = list(row.drawing.entities)[4:8]
    rest = act(row.drawing, {"do": "erase", "names": second})
    assert areas(rest.drawing) == pytest.approx([12.0] * 3)
    circle = drawn("circle by centre", pick(20, 0), pick(23, 0), diameter="6").drawing
    ring = act(circle, {"do": "ring", "names": list(circle.entities), "count": 6})
    assert ring.solution.freedoms == 2 and areas(ring.drawing) == pytest.approx([9 * math.pi] * 6)
