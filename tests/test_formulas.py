"""The formulas that cost money when they are wrong, each against a figure worked out elsewhere. Fast: `make mutate` runs it."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from shapely import LineString, unary_union

from supplecast.geometry import Point2
from supplecast.molding import estimates
from supplecast.tooling import fits, runners, vents
from supplecast.tooling.resins import Injection, required_draft

# --- estimates ------------------------------------------------------------------------------------------------------


def test_cooling_ends_where_the_full_series_says() -> None:
    """Put back into the series for a plate (Carslaw, Jaeger) the middle is at the ejection temperature, to 0.1 K."""
    resin = Injection(melt=(220, 240), mold=(40, 60), eject=90, diffusivity=0.09, pressure=(30, 50), flow=150)
    seconds = estimates.cooling_time(3.0, resin)
    assert seconds == pytest.approx(17.68, abs=0.01)
    terms = np.arange(0, 60)
    decay = np.exp(-((2 * terms + 1) ** 2) * math.pi**2 * 0.09 * seconds / 9.0)
    middle = 50 + 180 * 4 / math.pi * ((-1.0) ** terms / (2 * terms + 1) * decay).sum()
    assert middle == pytest.approx(90, abs=0.1)


def test_shadows_that_overlap_count_once() -> None:
    """Boxes of 10 × 20 × 30, the second 4 mm aside: 14 × 20 from above, 14 × 30 from the front, 20 × 30 from the side."""
    box = trimesh.creation.box((10, 20, 30))
    parts = [(box.vertices + np.array([shift, 0, 0]), box.faces) for shift in (0, 4)]
    for pull, area in (((0, 0, 1), 280), ((0, -1, 0), 420), ((1, 0, 0), 600)):
        assert estimates.projected_area(parts, pull) == pytest.approx(area)
    level = math.sqrt(0.5)
    assert estimates.projected_area(parts[:1], (level, level, 0.0)) == pytest.approx((10 + 20) * level * 30, rel=1e-6)


def test_clamp_force_of_a_worked_example() -> None:
    """40 MPa on 4175 mm² hold with 167 kN, which presses are sold as 17 t (common practice)."""
    assert estimates.clamp_force(4175, 40) == pytest.approx(167.0)
    assert estimates.tonnes(167.0) == pytest.approx(17.029, abs=0.001)


def test_draft_for_a_texture() -> None:
    """1° more for each 0.025 mm of depth (common practice, no source)."""
    assert required_draft(1.0, 0.05) == pytest.approx(3.0)
    assert required_draft(0.5, 0.0) == 0.5


def test_a_steel_wall_bends_as_a_clamped_plate() -> None:
    """By Timoshenko's table for a clamped square plate under q: w = 0.00126 q a⁴ / D, with D from E and ν in turn."""
    thick = estimates.wall_for_deflection(40, 50, 0.02)
    assert thick == pytest.approx(9.4, abs=0.05)
    stiffness = 205_000.0 * thick**3 / (12 * (1 - 0.3**2))
    assert 0.00126 * 40 * 50**4 / stiffness == pytest.approx(0.02, rel=5e-3)


@pytest.mark.parametrize(("wall", "radius", "area"), [(2.0, 30.0, 1000.0), (1.2, 80.0, 6500.0)])
def test_a_part_sits_on_its_core_as_a_shrunk_ring(wall: float, radius: float, area: float) -> None:
    """Against Lamé's thick ring, which knows nothing of the thin one's shortcut: the pressure in the bore of a ring of inner
    radius a and outer b whose bore is widened by ε is p = E ε / ((b² + a²) / (b² − a²) + ν) (Timoshenko, Strength of Materials
    II). 1000 MPa and a friction of 0.4 are from memory.
    """
    inner, outer = radius - wall / 2, radius + wall / 2
    pressure = 1000 * 0.005 / ((outer**2 + inner**2) / (outer**2 - inner**2) + 0.4)
    force = 0.4 * pressure * area / 1000
    assert estimates.release_force(area, 0.005, wall, radius) == pytest.approx(force, rel=0.04)
    # By hand: a hoop of 5 MPa, 2 mm thick at a radius of 30, presses with 1/3 MPa; 1000 mm² of it rub with 133.3 N.
    assert estimates.release_force(1000.0, 0.005, 2.0, 30.0) == pytest.approx(0.133333, rel=1e-5)


def test_what_a_press_and_a_piece_cost() -> None:
    """Worked with pen and paper: 20 an hour and 15 more for every 100 t (common practice, from memory). A shot of 0.40 on a
    press of 36 an hour every 20 s makes 4 pieces: (0.40 + 36/180) / 4.
    """
    assert [estimates.machine_rate(t) for t in (0, 100, 250)] == pytest.approx([20.0, 35.0, 57.5])
    assert estimates.piece_price(0.40, 36.0, 20.0, 4) == pytest.approx(0.15)
    assert estimates.cycle_time(7.9) == pytest.approx(14.4)  # 1.5 s to fill, 5 s to open, eject and close (from memory)


# --- runners and gates ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("grams", "length", "wide"),
    [(40, 100, 5.5), (100, 200, 10.5), (36, 256, 6.5), (140, 81, 10.0), (25, 16, 3.0), (0, 0, 3.0), (400, 1, 5.5)],
)
def test_how_wide_a_runner_is(grams: float, length: float, wide: float) -> None:
    """√40 · ⁴√100 / 3.7 = 6.325 · 3.162 / 3.7 = 5.41, so 5.5; worked with tables of roots (the rule is common practice)."""
    assert runners.runner_width(grams, length) == wide


def test_a_runner_is_no_thinner_than_its_resin_asks_for() -> None:
    """Lower ends of the usual table of runner diameters (common practice, from memory): ABS 4.8, POM 3.2, PC/ABS 6.4 mm."""
    assert [runners.runner_width(1, 50, resin) for resin in ("ABS", "POM", "PC/ABS", "PA66")] == [5.0, 3.5, 6.5, 3.0]
    assert runners.runner_width(100, 200, "ABS") == 10.5  # what the part asks for is more


def test_melt_shears_in_a_gate_as_between_plates() -> None:
    """15 cm³/s through 4 × 1.2 mm: 15,625 1/s. Between plates the profile is a parabola, whose slope at the wall is six times
    the flow over w h²: taken here from the parabola itself.
    """
    assert runners.shear_rate(15_000, 4, 1.2) == pytest.approx(15_625)
    across = np.linspace(-0.6, 0.6, 2001)
    speed = 1 - (across / 0.6) ** 2
    speed *= 15_000 / (4 * np.trapezoid(speed, across))
    assert abs(np.gradient(speed, across, edge_order=2)[0]) == pytest.approx(runners.shear_rate(15_000, 4, 1.2), rel=1e-3)
    assert runners.gate_width(20_000, 0.8) == pytest.approx(4.6875)  # 120,000 / (40,000 · 0.64)
    assert pytest.approx((1.5, 4.5, 1.25)) == (runners.GATE_DEPTH * 2.5, runners.GATE_WIDTH * 1.5, runners.SUB_GATE * 2.5)


def walked(net: runners.Net, sprue: Point2, gate: Point2) -> float:
    """Length of the way from the sprue to a gate along the runs as they lie, whatever the net says of it."""
    near = {_rounded(sprue): 0.0}
    for _ in net.runs:
        for a, b in [(_rounded(a), _rounded(b)) for run in net.runs for a, b in (run, run[::-1])]:
            if a in near:
                near[b] = min(near.get(b, math.inf), near[a] + math.dist(a, b))
    return near[_rounded(gate)]


def _rounded(point: Point2) -> Point2:
    return (round(point[0], 6), round(point[1], 6))


def grid(columns: int, rows: int, aside: Point2) -> list[Point2]:
    return [(aside[0] + (c - (columns - 1) / 2) * 150.0,
             aside[1] + (r - (rows - 1) / 2) * 100.0 + (20.0 if r % 2 == 0 else -20.0) * (rows > 1))
            for r in range(rows) for c in range(columns)]  # fmt: skip


@pytest.mark.parametrize(("columns", "rows"), [(2, 1), (1, 2), (2, 2), (4, 2), (4, 4), (8, 2)])
def test_every_way_of_a_balanced_net_is_equally_long(columns: int, rows: int) -> None:
    """2, 4, 8 and 16 gates in pairs of rows, anywhere on the plane: the lengths are equal, and are those of the runs laid."""
    for aside in ((0.0, 0.0), (7.5, -312.25)):
        gates = grid(columns, rows, aside)
        net = runners.net(aside, gates, 0 if rows == 1 and columns == 2 else 1)
        assert max(net.lengths) - min(net.lengths) < 1e-9 * max(net.lengths)
        assert net.balance == pytest.approx(1)
        assert net.lengths == pytest.approx([walked(net, aside, gate) for gate in gates])
        assert all(min(abs(a[0] - b[0]), abs(a[1] - b[1])) < 1e-9 for a, b in net.runs), "along the axes"
        laid = unary_union([LineString(run) for run in net.runs])
        assert laid.length == pytest.approx(net.total), "no run lies on another"


@pytest.mark.parametrize(("approach", "turned"), [(1, False), (0, True)])
def test_a_row_beside_its_sprue_is_served_by_a_comb(approach: int, turned: bool) -> None:
    """Five gates in a row, unevenly, 80 mm before the sprue: each way is the step aside and 80; one run with five teeth."""
    row = (-100.0, -30.4, 0.0, 45.3, 110.0)
    gates = [(80.0, 7.0 + x) if turned else (7.0 + x, 80.0) for x in row]
    sprue = (0.0, 7.0) if turned else (7.0, 0.0)
    comb = runners.net(sprue, gates, approach)
    assert comb.lengths == pytest.approx([abs(x) + 80 for x in row])
    assert comb.lengths == pytest.approx([walked(comb, sprue, gate) for gate in gates])
    assert comb.total == pytest.approx(210 + 5 * 80) and comb.turns == ()
    assert comb.balance == pytest.approx(80 / 190)


def test_four_in_a_grid_by_hand() -> None:
    """Gates at (±60, ±40), approached along y: 60 out to each side, then 40 up and down. H-shaped, 280 mm in all."""
    net = runners.net((0.0, 0.0), [(-60.0, -40.0), (60.0, -40.0), (-60.0, 40.0), (60.0, 40.0)], 1)
    assert net.lengths == pytest.approx((100, 100, 100, 100)) and net.total == pytest.approx(280)
    assert net.turns[0] == ((0.0, 0.0), 0) and sorted(net.turns[1:]) == [((-60.0, 0.0), 1), ((60.0, 0.0), 1)]


def test_one_gate_round_a_corner_and_none_at_all() -> None:
    straight = runners.net((0.0, 0.0), [(30.0, 20.0)], 1)
    assert straight.lengths == pytest.approx((50,)) and straight.runs[-1] == ((30.0, 0.0), (30.0, 20.0))
    there = runners.net((5.0, 5.0), [(5.0, 5.0)], 1)
    assert there.lengths == (0.0,) and there.balance == 1.0 and there.runs == ()


# --- fits and vents -------------------------------------------------------------------------------------------------

_RANGES = ((3, 6), (6, 10), (10, 18), (18, 30), (30, 50), (50, 80), (80, 120))


@pytest.mark.parametrize(("over", "upto"), _RANGES)
def test_fits_follow_the_formulas_behind_their_table(over: float, upto: float) -> None:
    """ISO 286-1: i = 0.45 ∛D + 0.001 D µm for D the geometric mean of a range; IT6 = 10 i, IT7 = 16 i; g = −2.5 D^0.34."""
    size = math.sqrt(over * upto)
    unit = 0.45 * size ** (1 / 3) + 0.001 * size
    play = 2.5 * size**0.34
    for diameter in (over + 0.01, upto):
        fit = fits.h7_g6(diameter)
        assert fit
        assert 1000 * fit.least == pytest.approx(play, abs=0.5)
        assert 1000 * fit.greatest == pytest.approx(play + 26 * unit, abs=1.0)
        assert 4 * fit.side == pytest.approx(fit.least + fit.greatest)


def test_fits_by_the_standard() -> None:
    """H7/g6 at 3 mm: 2 to 18 µm; at 6 mm 4 to 24; at 8 mm 5 to 29; at 25 mm 7 to 41 (ISO 286-2)."""
    for diameter, least, greatest in ((3, 2, 18), (6, 4, 24), (8, 5, 29), (25, 7, 41)):
        fit = fits.fit("steel", diameter)
        assert fit and (1000 * fit.least, 1000 * fit.greatest) == pytest.approx((least, greatest))
    assert fits.h7_g6(120) is not None and fits.h7_g6(120.01) is None
    for making in ("printed", "cast"):
        loose = fits.fit(making, 130)
        assert loose and (loose.least, loose.greatest, loose.side) == (0.3, 0.3, 0.15)  # 0.1 to 0.2 a side: common practice


@pytest.mark.parametrize(
    ("resins", "low", "high"),
    [
        (("PA6", "PA66", "PA66-GF30", "PBT", "PET"), 0.0125, 0.0175),
        (("POM", "PP", "HDPE", "LDPE", "TPU", "TPE"), 0.0175, 0.0225),
        (("ABS", "PS", "PMMA", "PC", "PC/ABS"), 0.035, 0.045),
        (("a resin nobody has heard of",), 0.0175, 0.0225),
    ],
)
def test_vents_are_as_deep_as_the_resin_bears(resins: tuple[str, ...], low: float, high: float) -> None:
    """Thin melts 0.015, tough ones 0.02, stiff ones 0.04 mm, all common practice from memory."""
    for resin in resins:
        assert low < vents.vent_depth(resin) < high, resin
    assert (vents.LAND, vents.RELIEF) == (1.5, 0.4)
