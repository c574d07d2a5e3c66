"""Ribs, bosses, lips and grooves: closed forms on straight runs, how they land, and what they say when they cannot."""

from __future__ import annotations

import math
from typing import Any

import pytest
from scipy.integrate import quad

from supplecast.curves import Line2
from supplecast.kernel import check, measure
from supplecast.sketch.paths import runs
from supplecast.tooling.bosses import boss_for
from tests.conftest import STEPS, built, circle, drawn, extrude, part, rectangle

TRAY: STEPS = [
    rectangle("s", "60", "40"),
    extrude("e", "s", "20"),
    {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.end"}]},
]
EMPTY = 60 * 40 * 20 - 56 * 36 * 18  # mm³ of the tray
Points = dict[str, tuple[float, float]]


def lines(points: Points, *ends: str, **on: Any) -> dict[str, Any]:
    """A sketch of lines `ab`, `cd` … between points."""
    entities = {f"L{n}": {"type": "line", "a": pair[0], "b": pair[1]} for n, pair in enumerate(ends, 1)}
    return drawn("l", points, entities, on=on or {"plane": "top", "offset": "12"})


def rib(**fields: Any) -> dict[str, Any]:
    return {"id": "r", "type": "rib", "line": {"sketch": "l"}, "thickness": "1.2", "draft": "0", **fields}


def gain(*steps: dict[str, Any], resin: str = "ABS", base: STEPS = TRAY) -> float:
    """What steps add to the tray, mm³; the result must be sound."""
    result = built(part([*base, *steps], resin=resin))
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status == "failed"]
    solid = result.state.bodies["e"].body.solid
    assert not check.faults(solid)
    return measure.volume(solid) - EMPTY


def said(*steps: dict[str, Any], resin: str = "ABS", base: STEPS = TRAY) -> Any:
    return built(part([*base, *steps], resin=resin)).outcomes[-1]


# --- ribs -----------------------------------------------------------------------------------------------------------

ONE = lines({"a": (-10, 0), "b": (10, 0)}, "ab")
T = math.tan(math.radians(1))


@pytest.mark.parametrize(
    ("sketch", "fields", "volume"),
    [
        (ONE, {}, 56 * 1.2 * 10),  # its loose ends run on to the walls, its foot down to the floor
        (ONE, {"side": "left"}, 56 * 1.2 * 10),
        (ONE, {"draft": "1"}, 56 * 10 * (1.2 + 10 * T)),
        (ONE, {"top": "below a face", "rim": [{"face": "e.end"}], "below": "3"}, 56 * 1.2 * 15),
        # on a slant: as long between the walls as its middle line
        (lines({"a": (-20, -10), "b": (20, 10)}, "ab"), {}, 56 * math.hypot(2, 1) / 2 * 1.2 * 10),
        # three that cross: what they share is there once
        (
            lines({"a": (-9, 5), "b": (9, 5), "c": (-9, -5), "d": (9, -5), "e": (0, -8), "f": (0, 8)}, "ab", "cd", "ef"),
            {},
            (2 * 56 + 36) * 1.2 * 10 - 2 * 1.2**2 * 10,
        ),
        # an end that meets another rib stops there
        (lines({"a": (-9, 0), "b": (9, 0), "c": (0, 0), "d": (0, 8)}, "ab", "cd"), {}, (56 + 18 - 0.6) * 1.2 * 10),
    ],
)
def test_ribs_from_above(sketch: dict[str, Any], fields: dict[str, Any], volume: float) -> None:
    assert gain(sketch, rib(**fields)) == pytest.approx(volume, rel=1e-9)


def test_a_rib_grows_to_the_side_on_which_the_body_is() -> None:
    """Drawn under the floor of a tray that hangs upside down it grows up."""
    over = [rectangle("s", "60", "40"), extrude("e", "s", "20", direction="down"), {**TRAY[2], "open": [{"face": "e.end"}]}]
    sketch = lines({"a": (-10, 0), "b": (10, 0)}, "ab", plane="top", offset="-12")
    assert gain(sketch, rib(), base=over) == pytest.approx(56 * 1.2 * 10, rel=1e-9)


def test_a_rib_seen_from_the_side_follows_its_outline_and_the_wall() -> None:
    """A roof of two slopes, carried on to the walls: trapezoids to its ridge."""
    roof = lines({"a": (-10, 11), "b": (0, 14), "c": (10, 11)}, "ab", "bc", plane="front")
    end = 14 - 0.3 * 28
    assert gain(roof, rib(seen="from the side")) == pytest.approx(1.2 * 56 * ((14 + end) / 2 - 2), rel=1e-9)
    wider = gain(roof, rib(seen="from the side", draft="1"))
    assert wider > 1.2 * 56 * ((14 + end) / 2 - 2)


def test_a_rib_takes_the_shape_of_what_it_meets() -> None:
    """On a floor with a step and a round post in its way."""
    step = [rectangle("k", "20", "36", x="18", y="0", on={"plane": "top", "offset": "2"}), extrude("b", "k", "4", result="add")]
    assert gain(*step, ONE, rib()) == pytest.approx(20 * 36 * 4 + 1.2 * (36 * 10 + 20 * 6), rel=1e-9)


def test_the_root_is_rounded_all_along() -> None:
    """Each fillet of a straight root in a square corner adds (1 − π/4) r²; mitred where three meet, so nearly."""
    more = gain(ONE, rib(root="0.5")) - gain(ONE, rib())
    run = 2 * (56 + 2 * 10)
    assert more == pytest.approx((1 - math.pi / 4) * 0.25 * run, rel=0.02)


def test_a_rib_that_does_not_land_is_refused_with_its_line() -> None:
    high = lines({"a": (-10, 0), "b": (10, 0)}, "ab", plane="top", offset="22")
    outcome = said(high, rib())
    assert outcome.field == "line" and "along line 1 does not land" in outcome.message and "Lower it" in outcome.hint
    post = [*TRAY, circle("c", "6", on={"plane": "top", "offset": "2"}), extrude("p", "c", "12", result="add")]
    over = lines({"a": (-10, 0), "b": (10, 0)}, "ab", plane="top", offset="17")
    # As wide as the post it runs through, its sides touch that along lines; a little wider, it grows by 840 mm² times that.
    built_ = {t: built(part([*post, over, rib(thickness=t)])).state.bodies.values() for t in ("6", "6.1")}
    volumes = {t: sum(measure.volume(entry.body.solid) for entry in entries) for t, entries in built_.items()}
    assert volumes["6.1"] - volumes["6"] == pytest.approx(840 * 0.1, rel=1e-9)
    assert said(over, rib(thickness="5.9"), base=post).status == "ok"
    outcome = said({"id": "l", "type": "sketch", "points": {"a": (0, 0)}}, rib())
    assert outcome.field == "line" and "no open line" in outcome.message
    outcome = said(ONE, rib(top="below a face", rim=[{"face": "e.side[f1_L1]"}]))
    assert outcome.field == "rim" and "not parallel" in outcome.message


@pytest.mark.parametrize(
    ("thickness", "resin", "state"), [("1.2", "ABS", "good"), ("1.3", "ABS", "near"), ("1.6", "POM", "over")]
)
def test_the_foot_is_held_against_the_wall(thickness: str, resin: str, state: str) -> None:
    (reading,) = said(ONE, rib(thickness=thickness), resin=resin).readings
    assert reading.state == state and f"{float(thickness) / 2:.0%} of the 2 wall" in reading.words


def test_runs_are_broken_where_three_meet_and_loose_where_nothing_is() -> None:
    a, b, c, d = (0.0, 0.0), (10.0, 0.0), (20.0, 0.0), (10.0, 5.0)
    chain = runs([Line2("1", a, b), Line2("2", b, c)])
    assert [len(run.chain) for run in chain] == [2] and chain[0].loose_start and chain[0].loose_end
    star = runs([Line2("1", a, b), Line2("2", b, c), Line2("3", b, d)])
    assert [(run.loose_start, run.loose_end) for run in star] == [(True, False), (False, True), (False, True)]
    tee = runs([Line2("1", a, c), Line2("2", b, d)])
    assert [(run.loose_start, run.loose_end) for run in tee] == [(True, True), (False, True)]


# --- bosses ---------------------------------------------------------------------------------------------------------

SPOTS = {"id": "l", "type": "sketch", "on": {"plane": "top", "offset": "12"}, "points": {"a": (-15, 8), "b": (15, -8)}}


def boss(**fields: Any) -> dict[str, Any]:
    size = {"sized": "by diameters", "outer": "6", "pilot": "2.4", "level": {"plane": "top", "offset": "12"}}
    return {"id": "b", "type": "boss", "sketch": "l", "draft": "0", **size, **fields}


def cone(base: float, end: float, height: float) -> float:
    return math.pi * height / 3 * (base**2 + base * end + end**2)


@pytest.mark.parametrize(
    ("fields", "one"),
    [
        ({"pilot": "0"}, math.pi * 9 * 10),
        ({"floor": "1.5"}, math.pi * (9 * 10 - 1.44 * 10.5)),
        ({"deep": "to a depth", "depth": "7"}, math.pi * (9 * 10 - 1.44 * 7)),
        ({"draft": "1"}, cone(3, 3 + 10 * T, 10) - cone(1.2, 1.2 - 10.5 * T, 10.5)),
    ],
)
def test_bosses_down_to_the_floor(fields: dict[str, Any], one: float) -> None:
    assert gain(SPOTS, boss(**fields)) == pytest.approx(2 * one, rel=1e-9)


def test_bosses_hang_from_what_is_over_them() -> None:
    lid = [rectangle("s", "60", "40"), extrude("e", "s", "20", direction="down"), {**TRAY[2], "open": [{"face": "e.end"}]}]
    spots = {**SPOTS, "on": {"plane": "top", "offset": "-12"}}
    over = boss(level={"plane": "top", "offset": "-12"}, pilot="0")
    assert gain(spots, over, base=lid) == pytest.approx(2 * math.pi * 9 * 10, rel=1e-9)


def test_bosses_end_at_a_curved_face() -> None:
    """Under a roll of radius 20 whose axis lies 32 over the floor's zero: strip by strip over the boss's round plan."""
    roll = [
        drawn("o", {"c": (0, 32)}, {"C": {"type": "circle", "c": "c", "r": 20}}, on={"plane": "front"}),
        extrude("w", "o", "60", result="new", direction="both ways"),
    ]
    fields = {"level": {"plane": "top", "offset": "5"}, "up_to": [{"face": "w.side[C]"}], "body": "e"}
    spots = {**SPOTS, "points": {"a": (-4, 4), "b": (4, -4)}}

    def under(radius: float) -> float:
        def strip(x: float) -> float:
            return 2 * math.sqrt(radius**2 - x * x) * (32 - math.sqrt(400 - (x + 4) ** 2) - 2)

        return float(quad(strip, -radius, radius, epsabs=1e-12)[0])

    assert gain(*roll, spots, boss(**fields, pilot="0")) == pytest.approx(2 * under(3), rel=1e-7)
    assert gain(*roll, spots, boss(**fields)) == pytest.approx(2 * (under(3) - under(1.2) - math.pi * 1.44 * 0.5), rel=1e-7)
    aside = said(*roll, SPOTS | {"points": {"a": (25, 0)}}, boss(**fields))
    assert aside.field == "up_to" and "does not lie over every point" in aside.message
    own = {**fields, "up_to": [{"face": "h.inner{e.side[L1]}"}], "level": {"plane": "top", "offset": "12"}}
    assert said(*roll, spots, boss(**own)).field == "up_to"


def test_gussets_and_the_web_to_the_wall() -> None:
    """A gusset is a right triangle on the floor, less what is in the round post: sampled strip by strip."""
    plain = gain(SPOTS, boss(pilot="0"))
    strips = [(-0.6 + 1.2 * (k + 0.5) / 4000) for k in range(4000)]
    outside = sum(5 / 4 * (7 - math.sqrt(9 - y * y)) ** 2 / 2 for y in strips) * 1.2 / 4000
    for count in (1, 3, 4):  # of an odd number nothing comes out on the other side
        more = gain(SPOTS, boss(pilot="0", gussets=count, gusset_height="5", gusset_length="4", web="1.2"))
        assert (more - plain) / (2 * count) == pytest.approx(outside, rel=1e-6)
    tied = gain(SPOTS, boss(pilot="0", tied="tied to the nearest wall", web="1.2")) - plain
    strip = sum(10 - math.sqrt(9 - y * y) for y in strips) * 1.2 / 4000  # 10 mm from the middle to the long wall
    assert tied / 2 == pytest.approx(strip * 8.5, rel=1e-6)  # 15 % of its height under the boss's top


def test_a_screw_gives_its_boss_by_the_resin() -> None:
    """Hole 0.8 d and outside 2 d in ABS, 0.7 d in PP (common practice, from memory)."""
    assert boss_for("3", "ABS") == pytest.approx((6.0, 2.4)) and boss_for("3", "PP").pilot == pytest.approx(2.1)
    assert boss_for("3", "PC").outer == pytest.approx(7.5)
    assert "6 outside, pilot 2.1" in said(SPOTS, boss(sized="for a screw", screw="3"), resin="PP").notes[0]


def test_a_row_of_bosses_copies_their_pilots_too() -> None:
    one = {**SPOTS, "points": {"a": (-20, 0)}}
    row = {"id": "p", "type": "pattern", "of": "steps", "steps": ["b"], "count": 3, "spacing": "15"}
    assert gain(one, boss(), row) == pytest.approx(3 * math.pi * (9 * 10 - 1.44 * 10.5), rel=1e-9)


@pytest.mark.parametrize(
    ("fields", "field", "words"),
    [
        ({"pilot": "6"}, "pilot", "as wide as the boss"),
        ({"deep": "to a depth", "depth": "12"}, "depth", "only 12 deep"),
        ({"floor": "13"}, "floor", "No pilot is left"),
        ({"gussets": 3, "gusset_height": "11"}, "gusset_height", "higher than the boss"),
        ({"sketch": "far"}, "level", "no body under"),
        ({"sketch": None}, "spots", "No point is picked"),
        ({"root": "40"}, "root", "does not fit"),
    ],
)
def test_bosses_name_what_is_wrong(fields: dict[str, Any], field: str, words: str) -> None:
    outcome = said(SPOTS, SPOTS | {"id": "far", "points": {"a": (80, 0)}}, boss(**fields))
    assert outcome.status == "failed" and outcome.field == field and words in outcome.message


# --- lips and grooves -----------------------------------------------------------------------------------------------


def half(n: int, up: bool, draft: str = "0") -> STEPS:
    direction = {} if up else {"direction": "down"}
    return [
        rectangle(f"s{n}", "60", "40", radius="6"),
        extrude(f"e{n}", f"s{n}", "20", result="new", draft=draft, **direction),
        {"id": f"h{n}", "type": "shell", "wall": "2", "open": [{"face": f"e{n}.start"}]},
    ]


HALVES = [*half(1, up=False), *half(2, up=True)]


def lip(**fields: Any) -> dict[str, Any]:
    rims = {"rim": [{"face": "e1.start"}], "mate": [{"face": "e2.start"}]}
    return {"id": "p", "type": "lip", "make": "both halves", "draft": "0", "height": "1.5", "gap": "0.1", **rims, **fields}


def area(width: float, depth: float, radius: float) -> float:
    return width * depth - (4 - math.pi) * radius**2


INNER = area(56, 36, 4)
OUTER = area(60, 40, 6)


@pytest.mark.parametrize(
    ("where", "lipped", "grooved"),
    [
        ("on the inside", area(58, 38, 5) - INNER, area(58.2, 38.2, 5.1) - INNER),
        ("on the outside", OUTER - area(58, 38, 5), OUTER - area(57.8, 37.8, 4.9)),
        ("in the middle", area(59, 39, 5.5) - area(57, 37, 4.5), area(59.2, 39.2, 5.6) - area(56.8, 36.8, 4.4)),
    ],
)
def test_lip_and_groove_on_both_halves(where: str, lipped: float, grooved: float) -> None:
    """Rings between outlines with round corners, 1.5 mm high, and 0.1 mm more all round; the gap by the kernel's distance."""
    before, after = built(part(HALVES)), built(part([*HALVES, lip(where=where)]))
    change = [
        measure.volume(after.state.bodies[name].body.solid) - measure.volume(before.state.bodies[name].body.solid)
        for name in ("e1", "e2")
    ]
    assert change == pytest.approx([lipped * 1.5, -grooved * 1.6], rel=1e-7)
    assert "Fits: 0.1 between lip and groove" in after.outcomes[-1].notes[0]


@pytest.mark.parametrize(("draft", "gap"), [("2", "0.1"), ("5", "0.25")])
def test_leant_lips_keep_their_gap_on_leant_walls(draft: str, gap: str) -> None:
    leant = [*half(1, up=False, draft="2"), *half(2, up=True, draft="2")]
    result = built(part([*leant, lip(draft=draft, gap=gap)]))
    assert result.ok and f"Fits: {gap} between" in result.outcomes[-1].notes[0]
    assert not any(check.faults(entry.body.solid) for entry in result.state.bodies.values())


def test_a_lip_along_part_of_the_rim_ends_square() -> None:
    edge = {"edge": ["e1.start", "h1.inner{e1.side[f1_L1]}"]}
    before = built(part(HALVES)).state.bodies["e1"].body.solid
    result = built(part([*HALVES, lip(along="some edges", edges=[edge])]))
    lipped = result.state.bodies["e1"].body.solid
    assert measure.volume(lipped) - measure.volume(before) == pytest.approx(48 * 1.5, rel=1e-9)
    assert "Fits: 0.1" in result.outcomes[-1].notes[0]  # the groove is as much longer at its ends


def test_halves_that_stand_wrong_are_told_apart() -> None:
    away = {"id": "m", "type": "move", "body": "e2", "x": "0", "y": "0", "z": "5"}
    (flag,) = built(part([*HALVES, away, lip()])).outcomes[-1].flags
    assert flag.status == "caution" and "apart where the halves stand" in flag.words
    into = {**away, "z": "-0.5"}
    (flag,) = built(part([*HALVES, into, lip()])).outcomes[-1].flags
    assert "overlap" in flag.words


@pytest.mark.parametrize(
    ("fields", "field", "words"),
    [
        ({"rim": []}, "rim", "One face is needed"),
        ({"rim": [{"face": "e1.end"}]}, "rim", "does not run round a hollow"),
        ({"mate": [{"face": "e1.start"}]}, "mate", "same body"),
        ({"share": "95 %"}, "share", "too little"),
        ({"gap": "1.1"}, "gap", "as wide as the wall"),
        ({"along": "some edges"}, "edges", "No edge of the rim"),
        ({"along": "some edges", "edges": [{"edge": ["e1.end", "e1.side[f1_L1]"]}]}, "edges", "not one of the rim"),
        ({"toward": "along an axis", "axis": {"axis": "x"}}, "axis", "runs along the rim"),
    ],
)
def test_lips_name_what_is_wrong(fields: dict[str, Any], field: str, words: str) -> None:
    outcome = built(part([*HALVES, lip(**fields)])).outcomes[-1]
    assert outcome.status == "failed" and outcome.field == field and words in outcome.message
