"""What a tool is reckoned with: stiffness, buckling, coolant, costs, and what a change means in steel."""

from __future__ import annotations

import math
from typing import Any

import pytest

from supplecast import kernel
from supplecast.document.comparing import compare, paired_bodies
from supplecast.document.rebuild import Built
from supplecast.document.steel_change import steel_changes
from supplecast.document.steel_holes import hole_changes, holes
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import release
from supplecast.molding.gauges import inputs
from supplecast.molding.gauges import tool as gauges
from supplecast.tooling import coolant, machining, stiffness
from supplecast.tooling.resins import RESINS
from supplecast.tooling.stock import THICK, WIDE, at_least
from tests.conftest import part, tool
from tests.test_mold_base import TWO, whole_tool
from tests.test_tools import HALVES, TRAY, built

# --- rules ----------------------------------------------------------------------------------------------------------


def test_a_plate_on_two_rails_bends_as_handbooks_say() -> None:
    """Roark's Formulas for Stress and Strain, beam on two supports under an even load, by hand: 300 kN over 160 mm, a plate 300
    wide and 50 thick: I = 300 · 50³ / 12 = 3.125e6 mm⁴, w = 5 · 3e5 · 160³ / (384 · 205000 · 3.125e6) = 0.024976 mm.
    """
    given_way = 5 * 3e5 * 160**3 / (384 * 205_000 * 3.125e6)
    assert given_way == pytest.approx(0.024976, rel=1e-4)
    assert stiffness.thickness_between(3e5, 160.0, 300.0, given_way) == pytest.approx(50.0, rel=1e-12)


def test_a_pin_buckles_as_euler_says() -> None:
    """Third case of Euler (Dubbel): a steel pin of 4 mm, 160 long: I = π 4⁴ / 64 = 12.566 mm⁴, 0.7 · 160 = 112 mm, so that
    F = π² · 205000 · 12.566 / 112² = 2027 N.
    """
    assert stiffness.buckling_force(4.0, 160.0) == pytest.approx(2027.0, rel=1e-3)
    bears = release.pushed(1.0, 4, 4.0, 160.0)
    assert bears.each == 250.0 and bears.pressure == pytest.approx(250 / (math.pi * 4))
    assert bears.buckling == pytest.approx(2027.0 / 250, rel=1e-3)


def test_water_flows_and_takes_heat_as_textbooks_say() -> None:
    """Viscosity of water 1.002, 0.653, 0.467 and 0.355 mPa s at 20, 40, 60 and 80 °C (steam tables, from memory). Friction at
    Re 100,000: Moody's chart reads 0.018 for smooth pipes. By hand, 6 l/min of water of 20 °C through a metre of 8 mm bore: v
    = 1.989 m/s, Re 15,850, f 0.0282, Δp = 0.0282 · 125 · 997 · 1.989² / 2 = 6,950 Pa. One bore far from others is a cylinder
    under a plane, S = 2 π L / ln(4 z / d) (Incropera and DeWitt, shape factors).
    """
    for celsius, expected in ((20, 1.002), (40, 0.653), (60, 0.467), (80, 0.355)):
        assert coolant.viscosity(celsius) * 1000 == pytest.approx(expected, rel=0.015)
    assert coolant.friction(1e5) == pytest.approx(0.018, rel=0.02) and coolant.friction(2000.0) == 0.032
    one = coolant.cooled(coolant.Circuit(1, 8.0, 1000.0, 30.0, 1e6, 6.0, 20.0), 500.0)
    assert one.reynolds == pytest.approx(15_850, rel=2e-3) and one.pressure * 1e5 == pytest.approx(6950, rel=3e-3)
    assert one.rise == pytest.approx(500 / (997.2 * 1e-4 * 4180), rel=1e-3)
    through_steel = 500 * math.log(4 * 30 / 8) / (2 * math.pi * 1.0 * 36)
    film = 500 / (0.023 * one.reynolds**0.8 * (0.0010017 * 4180 / 0.6) ** 0.4 * 0.6 / 0.008 * math.pi * 0.008)
    assert one.over == pytest.approx(through_steel + film, rel=1e-3)
    assert coolant.flow_for_rise(500.0, one.rise, 20.0) == pytest.approx(6.0, rel=1e-9)
    assert coolant.flow_for(one.reynolds, 8.0, 20.0) == pytest.approx(6.0, rel=1e-9)
    four = coolant.cooled(coolant.Circuit(4, 8.0, 1000.0, 30.0, 24.0, 6.0, 20.0), 500.0)
    assert four.pressure > 4 * one.pressure and four.over < one.over


def test_cooling_says_what_its_water_does() -> None:
    """Blank, the water brings the wall to the middle of the resin's range; what is typed against that is told."""

    def outcome(**fields: Any) -> Any:
        steps = [*HALVES, TWO[0], {"id": "coo", "type": "cooling", **fields}]
        return built(tool(steps), part(TRAY)).outcomes[-1]

    by_rule = outcome()
    assert by_rule.status == "ok" and not by_rule.flags
    assert all(by_rule.figures[f"wall_celsius_{side}"] == pytest.approx(60.0, abs=0.6) for side in ("core", "cavity"))
    assert all(by_rule.figures[f"reynolds_{side}"] > coolant.GOOD for side in ("core", "cavity"))
    quiet, hot = outcome(flow="0.5"), outcome(water="90")
    assert any("too quietly" in flag.words for flag in quiet.flags)
    assert any("°C; ABS wants 40 to 80" in flag.words for flag in hot.flags)


def test_stock_sizes_are_those_of_the_preferred_numbers() -> None:
    """ISO 3, R10 and R20, rounded (the standard's own table, from memory)."""
    assert [size for size in THICK if 10 <= size <= 100] == [10, 12.5, 16, 20, 25, 32, 40, 50, 63, 80, 100]
    assert [size for size in WIDE if 100 <= size <= 200] == [100, 110, 125, 140, 160, 180, 200]
    assert at_least(25.0) == 25 and at_least(25.1) == 32


# --- what a change means --------------------------------------------------------------------------------------------


def test_a_thicker_wall_takes_metal_off_and_a_thinner_one_wants_it_anew() -> None:
    """The floor of the tray 0.5 mm thicker or thinner on its inside: all the core loses, or would have to gain, is its front
    times 0.5 mm, grown by the shrinkage; the cavity stays. Plates that only moved apart are unchanged.
    """
    wall = 2.2

    def made(floor: float) -> Built:
        other = {} if floor == wall else {"others": [{"faces": [{"face": "ext.end"}], "wall": f"{floor:g}"}]}
        whole = built(tool(HALVES), part([*TRAY[:3], {**TRAY[-1], **other}]))
        assert whole.ok, [(o.step, o.message) for o in whole.outcomes if o.message]
        return whole

    sides = {floor: list(made(floor).state.bodies.values()) for floor in (wall, wall + 0.5, wall - 0.5)}
    documents = tool(HALVES), tool(HALVES)

    def told(floor: float) -> dict[str, Any]:
        pairs = [compare(a, b, documents) for a, b in paired_bodies(sides[wall], sides[floor])]
        return {change.body: change for change in steel_changes(pairs, sides[wall], sides[floor])}

    thick, thin = told(wall + 0.5), told(wall - 0.5)
    assert thick["hlv.cavity"].verdict == thin["hlv.cavity"].verdict == "unchanged"
    assert thick["hlv.core"].verdict == "steel-safe" and thin["hlv.core"].verdict == "to be made anew"
    parts = {floor: next(e for e in bodies if e.role == "linked").body.solid for floor, bodies in sides.items()}
    volumes = {floor: kernel.measure.volume(solid) for floor, solid in parts.items()}
    assert thick["hlv.core"].off == pytest.approx(volumes[wall + 0.5] - volumes[wall], rel=1e-6) and thick["hlv.core"].on < 1e-3
    assert thin["hlv.core"].on == pytest.approx(volumes[wall] - volumes[wall - 0.5], rel=1e-6)
    apart = [built(tool([*HALVES, {**TWO[0], "between": f"{gap}"}]), part(TRAY)) for gap in (30, 44)]
    bodies = [list(one.state.bodies.values()) for one in apart]
    pairs = [compare(a, b, documents) for a, b in paired_bodies(*bodies)]
    inserts = [c for c in steel_changes(pairs, *bodies) if "insert" in c.name]
    assert len(inserts) == 4 and all(c.verdict == "unchanged" for c in inserts), inserts


def test_holes_are_told_apart_by_what_the_shop_must_do() -> None:
    """A plate of 80 × 60 × 20 that lies 5 mm further along x in its newer state: Ø8 stays, Ø6 becomes Ø7, Ø10 goes, as deep as
    it was or half, Ø5 comes, and a Ø4 is swallowed by a pocket. Rounded corners of the pocket are no holes.
    """
    cylinder = kernel.solid.cylinder

    def plate(off: float, holes: list[tuple[float, float, float, float]], *more: Solid) -> Solid:
        bores = [cylinder((x + off, y, 20 - deep), (0, 0, 1), wide / 2, deep).solid for x, y, wide, deep in holes]
        block = kernel.solid.box((off, 0, 0), (80 + off, 60, 20)).solid
        return kernel.boolean.cut(block, [*bores, *more])[0].solid

    pocket = kernel.solid.rounded_box((65, 35, -1), (84, 55, 21), 2, 3.0).solid
    older = plate(0, [(10, 10, 8, 20), (25, 10, 6, 20), (40, 10, 10, 20), (10, 40, 10, 16), (70, 45, 4, 20), (60, 50, 4, 20)])
    newer = plate(5, [(10, 10, 8, 20), (25, 10, 7, 20), (10, 40, 10, 8), (40, 40, 5, 12), (60, 50, 4, 20)], pocket)
    shift = (-5.0, 0.0, 0.0)
    told = {(c.verdict, round(c.diameter, 6), tuple(round(x, 6) for x in c.place)) for c in hole_changes(older, newer, shift)}
    assert told == {
        ("opened up", 7.0, (30.0, 10.0, 10.0)),
        ("drilled", 5.0, (45.0, 40.0, 14.0)),
        ("closed", 10.0, (40.0, 10.0, 10.0)),
        ("closed", 10.0, (10.0, 40.0, 12.0)),
    }
    assert not list(hole_changes(older, older, (0.0, 0.0, 0.0)))
    # A leaning bore, square ended inside the block: as long as it was made.
    lean = (0.6, 0.0, 0.8)
    block, drill = kernel.solid.box((0, 0, 0), (80, 60, 60)).solid, cylinder((20, 30, 10), lean, 4, 30).solid
    (hole,) = holes(kernel.boolean.cut(block, [drill])[0].solid)
    assert hole.length == pytest.approx(30, abs=1e-6) and hole.radius == pytest.approx(4)
    assert hole.axis.point == pytest.approx((20 + 9, 30, 10 + 12), abs=1e-6)


def test_a_submarine_gate_bends_out_of_its_tunnel_or_is_told() -> None:
    """Runner of 5, gate of 1.1, 4 mm of land: the cone sinks at 45°, 2.25 to 0.55 in radius over 4 √2 + 0.5 = 6.157. Drawn up,
    its tip must clear the lip, where the upper flank meets the plane: flank from (2.25 s, 2.25 s) to (6.157 s + 0.55 s,
    0.55 s − 6.157 s), s = sin 45°, that is 3.152 ahead and 5.556 down from where it began, 1.591 over the plane.
    """
    size, gate = kernel.runner.Size(5.0, "full round"), kernel.runner.GateSize("submarine", 1.1, 1.1, 4.0)
    s = math.sqrt(0.5)
    start, tip = (2.25 * s, 2.25 * s), (6.157 * s + 0.55 * s, 0.55 * s - 6.157 * s)
    lip = start[0] + (tip[0] - start[0]) * start[1] / (start[1] - tip[1])
    assert kernel.runner.tucked(gate, size) == pytest.approx(tip[0] - lip, rel=1e-4)

    def told(x: str) -> Any:
        steps = [*HALVES, {"id": "run", "type": "runners", "x": x, "width": "5", "gate": "submarine"}]
        return built(tool(steps), part(TRAY)).outcomes[-1]

    near, far = told("75"), told("110")
    for outcome in (near, far):
        assert outcome.status in ("ok", "flagged"), (outcome.message, outcome.hint)
    assert near.figures["gate_strain"] > 0.025 > far.figures["gate_strain"] > 0  # ABS, as the table has it
    flags = " ".join(flag.words for flag in near.flags)
    assert "breaks before its gate is out" in flags and "straight run" in flags
    assert not [flag for flag in far.flags if flag.field == "gate"]


def test_a_tool_costs_by_its_steel_and_hours_and_a_piece_shares_it() -> None:
    """One piece by hand: 2,000 cm³ of stock, 600 milled off, 80 cm² forming twice as deep as wide, five bores: 1.5 + 0.4 +
    1.25 · 2 + 0.5 = 4.9 h, 15.7 kg. Then a whole tool: its share of a piece is told, and what is typed replaces rules.
    """
    work = machining.Work(2000.0, 600.0, 80.0, 2.0, 5)
    assert work.hours == pytest.approx(4.9)
    found = machining.cost([work], ["Guide pillar", "Socket screw"], 60.0, 4.0)
    assert found.machining == pytest.approx(294.0) and found.steel == pytest.approx(62.8) and found.bought == 25.5
    assert found.whole == pytest.approx(1.3 * (294.0 + 62.8) + 25.5) and found.ends[1] == pytest.approx(1.3 * found.whole)

    def judged(*steps: dict[str, Any]) -> dict[str, Any]:
        made = whole_tool([*HALVES, *steps])
        by_role = {role: [e.body.solid for e in made.state.bodies.values() if e.role == role] for role in ("linked", "core")}
        figures = {name: value for o in made.outcomes for name, value in o.figures.items()}
        asked = gauges.ToolAsked(
            by_role["linked"], [], [], by_role["core"], (0, 0, 1), RESINS["ABS"], typed=inputs.Typed.of(figures)
        )
        return {gauge.name: gauge for gauge in gauges.gauges(asked)} | {"figures": figures}

    bare = judged()
    costing = {"id": "cst", "type": "costing", "pieces": 1000, "press": "90", "margin": "0 %", "idle": "20", "wall": "4 mm"}
    told = judged(costing)
    assert float(told["Clamp"].value) == pytest.approx(float(bare["Clamp"].value) / 1.1, rel=0.01)
    assert float(told["Cycle"].value) > float(bare["Cycle"].value) + 13
    share = told["figures"]["tool_cost"] / 1000
    rows = {figure.name: figure.words for figure in told["A piece"].figures}
    assert float(rows["of the tool"].strip("¤")) == pytest.approx(share, rel=1e-3)
    assert rows["press"] == "¤90.0 an hour" and told["A piece"].verdict == "with press and tool"
