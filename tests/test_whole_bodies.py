"""Everything done to whole bodies, their faces and to surfaces: closed forms, and words for what cannot be."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from supplecast.kernel import boolean, feature, measure, move, solid
from supplecast.tooling.screws import SCREWS
from tests.conftest import STEPS, bodies, built, chain, circle, drawn, extrude, part, rectangle
from tests.referee.bodies import fault, volume
from tests.referee.boxes import BOSS, BOX, SIDES, TOP, bore, step
from tests.referee.meshes import manifold

# --- holes ----------------------------------------------------------------------------------------------------------


def test_the_screw_tables_agree_with_the_threads_they_are_for() -> None:
    """Minor diameter of the nut thread D1 = D − 1.0825 P (ISO 724); a tapping drill lies between it and its largest size, class
    6H of ISO 965-1 (from memory); clearance holes and heads grow with the fit and the size.
    """
    largest = {"M1.6": 1.321, "M2": 1.679, "M2.5": 2.138, "M3": 2.599, "M4": 3.422, "M5": 4.334, "M6": 5.153}
    largest |= {"M8": 6.912, "M10": 8.676, "M12": 10.441, "M16": 14.21, "M20": 17.744}
    for name, screw in SCREWS.items():
        assert float(name[1:]) == screw.nominal
        assert screw.nominal - 1.0825 * screw.pitch - 1e-3 <= screw.tapping <= largest[name]
        assert screw.nominal < screw.clearance[0] < screw.clearance[1] < screw.clearance[2] < screw.head


@pytest.mark.parametrize(
    ("fields", "want"),
    [
        ({"kind": "clearance", "fit": "fine"}, bore((4.3, 4.3, 20))),
        ({"kind": "tapped", "deep": "to a depth", "depth": "9"}, bore((3.3, 3.3, 9))),
        ({"kind": "counterbore"}, bore((8, 8, 4.4), (4.5, 4.5, 15.6))),
        ({"kind": "countersink"}, bore((9.4, 4.5, 2.45), (4.5, 4.5, 17.55))),
    ],
)
def test_a_screw_hole_takes_exactly_its_space(fields: dict[str, Any], want: float) -> None:
    hole = step("screw hole", size="M4", into=TOP, spots=[{**TOP}], **fields)
    assert 24000 - volume([*BOX, hole]) == pytest.approx(want, rel=1e-9)


def test_holes_at_the_points_of_a_sketch_and_at_round_edges() -> None:
    grid = [{"kind": "circle", "diameter": "1", "x": f"{x}", "y": f"{y}"} for x in (-12, 0, 12) for y in (-8, 8)]
    sketch = {"id": "g", "type": "sketch", "draw": grid}
    assert 24000 - volume([*BOX, sketch, step("hole", diameter="3", into=TOP, sketch="g")]) == pytest.approx(
        6 * bore((3, 3, 20))
    )
    rim = {"edge": ["e2.end", "e2.side[f1_C1]"], "at": "centre"}
    drilled = step("hole", diameter="5", into={"face": "e2.end"}, spots=[rim], deep="to a depth", depth="8")
    assert volume([*BOSS, drilled]) == pytest.approx(24000 + bore((12, 12, 8)) - bore((5, 5, 8)), rel=1e-9)
    marks = drawn("m", {"a": (5, 5), "b": (-5, 5)}, {})
    assert 24000 - volume([*BOX, marks, step("hole", diameter="3", into=TOP, sketch="m")]) == pytest.approx(
        2 * bore((3, 3, 20))
    )


def test_what_holes_refuse() -> None:
    assert fault([*BOX, step("hole", into=TOP)])[0] == "spots"
    twice = step("hole", into=TOP, spots=[TOP, TOP])
    assert "same place" in fault([*BOX, twice])[1]
    shallow = step("screw hole", size="M5", kind="counterbore", into=TOP, spots=[TOP], deep="to a depth", depth="3")
    assert fault([*BOX, shallow])[0] == "depth" and "5.4" in fault([*BOX, shallow])[1]
    big = step("screw hole", size="M12", kind="countersink", into=TOP, spots=[TOP])
    assert fault([*BOX, big])[0] == "kind"
    below = step("hole", diameter="3", into={"plane": "top", "offset": "90"}, spots=[TOP])
    assert 24000 - volume([*BOX, below]) == pytest.approx(bore((3, 3, 20)), rel=1e-9)
    miss = step("hole", diameter="3", into=TOP, spots=[TOP], deep="to a depth", body="e1")
    assert "misses" in fault([*BOX, {**miss, "into": {"plane": "top", "offset": "90"}}])[1]


# --- patterns and mirrors -------------------------------------------------------------------------------------------

HOLE: STEPS = [*BOX, circle("s2", "2", x="-15", y="-10"), extrude("e2", "s2", "1", result="cut", extent="through all")]


def test_a_pattern_of_steps_counts_its_copies() -> None:
    one = bore((2, 2, 20))
    rows = step("pattern", of="steps", steps=["e2"], count=6, spacing="5", rows=4, row_spacing="20", sized="apart")
    grid = {**rows, "row_spacing": "5", "leave_out": "2, 3-6"}
    assert 24000 - volume([*HOLE, grid]) == pytest.approx(22 * one, rel=1e-9)
    assert fault([*HOLE, {**grid, "leave_out": ["5-1"]}])[0] == "leave_out"
    assert "the original" in fault([*HOLE, {**grid, "leave_out": [1]}])[1]
    over = step("pattern", of="steps", steps=["e2"], count=4, spacing="30", sized="over")
    made = bodies(part([*HOLE, over]))["e1"].body
    copy = next(f for f, tags in enumerate(made.tags) if tags[0] == "x.copy4{e2.side[f1_C1]}")
    assert measure.face_middle(made.solid, copy)[0] == pytest.approx(15)
    assert fault([*HOLE, {**over, "spacing": "0"}])[0] == "spacing"
    assert "cuts nothing" in fault([*HOLE, {**over, "steps": ["e1"]}])[1]


def test_copies_keep_their_names_when_rows_grow_and_picks_go() -> None:
    """The first of the second row stays what it is called, and a hole does not take over the name of one taken out."""
    rows = step("pattern", of="steps", steps=["e2"], count=4, spacing="5", rows=2, row_spacing="8")
    for count in (4, 6):
        body = bodies(part([*HOLE, {**rows, "count": count}]))["e1"].body
        (face,) = body.faces_by_tag["x.copy2-1{e2.side[f1_C1]}"]
        assert measure.face_middle(body.solid, face)[:2] == pytest.approx((-15, -2))
    corners = [{"edge": ["e1.end", f"e1.side[f1_L{n}]"], "share": "20 %"} for n in (1, 2, 3)]
    drilled = step("hole", diameter="3", into=TOP, spots=corners)
    names = [
        {t[0] for t in bodies(part([*BOX, {**drilled, "spots": held}]))["e1"].body.tags} for held in (corners, corners[1:])
    ]
    assert len([name for name in names[0] if name.startswith("x.side[wall]")]) == 3
    assert names[1] < names[0]


def test_copies_take_the_rounds_and_bevels_of_their_original_along() -> None:
    peg = [*BOX, circle("s2", "4", x="-12", on=TOP), extrude("e2", "s2", "6", result="add")]
    bevel = {"id": "c", "type": "chamfer", "edges": [{"edge": ["e2.end", "e2.side[f1_C1]"]}], "distance": "0.5"}
    root = {"id": "r", "type": "fillet", "edges": [{"edge": ["e1.end", "e2.side[f1_C1]"]}], "radius": "1"}
    row = {**step("pattern", of="steps", steps=["e2", "c", "r"], count=3, spacing="10"), "id": "p1"}
    # Pappus: the bevel's triangle about the axis; the root's square less its quarter round.
    bevelled = 2 * math.pi * (2 - 0.5 / 3) * 0.5**2 / 2
    middle = 2 + (0.5 - math.pi / 4 * (1 - 4 / (3 * math.pi))) / (1 - math.pi / 4)
    one = bore((4, 4, 6)) - bevelled + 2 * math.pi * middle * (1 - math.pi / 4)
    assert volume([*peg, bevel, root, row]) - 24000 == pytest.approx(3 * one, rel=1e-9)
    again = step("mirror", of="steps", steps=["p1"], across={"plane": "front", "offset": "6"})
    assert volume([*peg, bevel, root, row, again]) - 24000 == pytest.approx(6 * one, rel=1e-9)
    sunk = {**bevel, "edges": [{"edge": ["e1.end", "e2.side[f1_C1]"]}]}
    holes = {**row, "steps": ["e2", "c"]}
    less = bore((2, 2, 20)) + 2 * math.pi * (1 + 0.5 / 3) * 0.5**2 / 2
    assert 24000 - volume([*HOLE, sunk, {**holes, "spacing": "5"}]) == pytest.approx(3 * less, rel=1e-9)
    # What stands out and what goes in at once, and both again by a mirror of the row.
    beside = [*BOX, circle("s2", "4", x="-12", y="-9", on=TOP), extrude("e2", "s2", "6", result="add"), bevel]
    beside += [circle("s3", "4", x="-12", y="3"), extrude("e3", "s3", "1", result="cut", extent="through all")]
    beside += [{**bevel, "id": "c3", "edges": [{"edge": ["e1.end", "e3.side[f1_C1]"]}]}]
    both = {**row, "steps": ["e2", "c", "e3", "c3"]}
    more = bore((4, 4, 6)) - bevelled - bore((4, 4, 20)) - 2 * math.pi * (2 + 0.5 / 3) * 0.5**2 / 2
    assert volume([*beside, both]) - 24000 == pytest.approx(3 * more, rel=1e-9)
    assert volume([*beside, both, {**again, "across": {"plane": "front"}}]) - 24000 == pytest.approx(6 * more, rel=1e-9)
    assert "every step that rounds" in fault([*peg, root, bevel, {**row, "steps": ["e2", "r"]}])[2]
    assert "along with what it is on" in fault([*peg, bevel, {**row, "steps": ["c"]}])[1]
    aside = {**bevel, "edges": [{"edge": ["e1.end", "e1.side[f1_L1]"]}]}
    assert "nothing of what is copied" in fault([*peg, aside, {**row, "steps": ["e2", "c"]}])[1]


def test_a_hundred_holes_are_one_cut() -> None:
    sketch = circle("s2", "2", x="-18", y="-13.5")
    steps = [*BOX, sketch, extrude("e2", "s2", "1", result="cut", extent="through all")]
    grid = step("pattern", of="steps", steps=["e2"], count=10, spacing="4", rows=10, row_spacing="3")
    assert 24000 - volume([*steps, grid]) == pytest.approx(100 * bore((2, 2, 20)), rel=1e-9)


def test_a_pattern_follows_and_is_patterned_itself() -> None:
    one = bore((2, 2, 20))
    row = {**step("pattern", of="steps", steps=["e2"], count=3, spacing="5"), "id": "p1"}
    twice = step("mirror", of="steps", steps=["p1"], across={"plane": "front"})
    assert 24000 - volume([*HOLE, row, twice]) == pytest.approx(6 * one, rel=1e-9)
    assert 24000 - volume([*HOLE, {**row, "count": 5}, twice]) == pytest.approx(10 * one, rel=1e-9)


def test_a_ring_of_steps_and_of_faces() -> None:
    one = bore((2, 2, 20))
    ring = step("ring", of="steps", steps=["e2"], count=2)
    assert 24000 - volume([*HOLE, ring]) == pytest.approx(2 * one, rel=1e-9)
    small = [*BOX, circle("s2", "4", x="10", on=TOP), extrude("e2", "s2", "6", result="add")]
    faces = [{"face": "e2.side[f1_C1]"}, {"face": "e2.end"}]
    bosses = step("ring", of="faces", faces=faces, count=6, leave_out="4")
    assert volume([*small, bosses]) == pytest.approx(24000 + 5 * bore((4, 4, 6)), rel=1e-9)
    apart = step("ring", of="steps", steps=["e2"], count=8, sized="apart", angle="60")
    assert fault([*small, apart])[0] == "angle"


def test_patterns_and_mirrors_of_faces_copy_what_goes_in() -> None:
    wall = [{"face": "e2.side[f1_C1]"}]
    row = step("pattern", of="faces", faces=wall, count=3, spacing="6")
    assert 24000 - volume([*HOLE, row]) == pytest.approx(3 * bore((2, 2, 20)), rel=1e-9)
    image = step("mirror", of="faces", faces=wall, across={"plane": "side"})
    assert 24000 - volume([*HOLE, image]) == pytest.approx(2 * bore((2, 2, 20)), rel=1e-9)
    assert "do not meet" in fault([*BOX, {**row, "faces": [TOP]}])[1]


def test_a_pattern_of_bodies_makes_bodies() -> None:
    made = bodies(part([*BOX, step("pattern", of="a body", tool="e1", count=3, spacing="50", result="as new bodies")]))
    assert sorted(made) == ["e1", "x.2", "x.3"]
    assert measure.box(made["x.3"].body.solid).low[0] == pytest.approx(80)


# --- bodies ---------------------------------------------------------------------------------------------------------


def test_thirty_random_pairs_agree_with_an_independent_engine() -> None:
    """Union, difference and intersection of turned boxes and cylinders against manifold3d."""
    dice = np.random.default_rng(11)
    for _ in range(30):
        a = solid.box((-10, -8, -6), (10, 8, 6)).solid
        kind = solid.cylinder((0, 0, -9), (0, 0, 1), 5, 18) if dice.random() < 0.5 else solid.box((-6, -6, -6), (7, 6, 6))
        direction = dice.normal(size=3)
        about = move.Axis((0.0, 0.0, 0.0), tuple(float(c) for c in direction / np.linalg.norm(direction)))
        b = move.moved(kind.solid, move.then(move.turn(about, 2.0), move.shift((*dice.uniform(-6, 6, 3),)))).solid
        fine = [manifold(s, 0.005, 0.05) for s in (a, b)]
        pairs = (
            (boolean.fuse(a, [b]).solid, fine[0] + fine[1]),
            (boolean.cut(a, [b], pieces=None), fine[0] - fine[1]),
            (boolean.common(a, [b]), fine[0] ^ fine[1]),
        )
        for mine, theirs in pairs:
            pieces = [m.solid for m in mine] if isinstance(mine, list) else [mine]
            assert sum(measure.volume(piece) for piece in pieces) == pytest.approx(theirs.volume(), rel=2e-3)


def test_an_octant_of_a_ball() -> None:
    """A ball of radius 12 on the corner of a cube of 20: intersect is an eighth of it."""
    half = {"id": "h", "type": "sketch", "on": {"plane": "front"}, "points": {"a": [0, -12], "b": [0, 12], "c": [0, 0]}}
    half["entities"] = {"A": {"type": "arc", "c": "c", "a": "a", "b": "b"}, "L": {"type": "line", "a": "b", "b": "a"}}
    steps = [rectangle("s1", "20", "20", x="10", y="10"), extrude("e1", "s1", "20"), half]
    steps.append({"id": "r", "type": "revolve", "profile": {"sketch": "h"}})
    eighth = math.pi / 6 * 12**3
    both = {"body": "e1", "tools": ["r"], "keep": "keep"}
    result = built(part([*steps, step("intersect", **both)]))
    assert sorted(result.state.bodies) == ["e1", "r"]
    assert measure.volume(result.state.bodies["e1"].body.solid) == pytest.approx(eighth, rel=1e-9)
    assert volume([*steps, step("union", **both)]) == pytest.approx(8000 + 7 * eighth, rel=1e-9)
    assert volume([*steps, step("subtract", **both)]) == pytest.approx(8000 - eighth, rel=1e-9)
    spent = built(part([*steps, step("intersect", **{**both, "keep": "use up"})]))
    assert list(spent.state.bodies) == ["e1"] and "Used up" in spent.outcome("x").notes[0]


def test_splitting_by_plane_face_line_and_surface() -> None:
    halves = bodies(part([*BOX, step("split body", plane={"plane": "side", "offset": "5"})]))
    assert [measure.volume(halves[n].body.solid) for n in ("e1", "x.back")] == pytest.approx([15 * 600, 25 * 600])
    front = step("split body", plane={"plane": "side", "offset": "5"}, keep="the back")
    assert volume([*BOX, front]) == pytest.approx(25 * 600)
    by = step("split body", body="e1", along="a face", face=[{"face": "e3.end"}], keep="the back")
    assert volume([*BOX, circle("s3", "4", x="60"), extrude("e3", "s3", "6"), by]) == pytest.approx(1200 * 6)
    line = chain("k", (-30, 0), (0, 0), (0, 30))
    cut = step("split body", along="a sketch line", line={"sketch": "k"}, keep="the front")
    assert volume([*BOX, line, cut]) == pytest.approx(20 * 15 * 20)
    sheet = extrude("f", "k", "30", fill="as a surface", direction="both ways", start="10")
    by_sheet = step("split body", body="e1", along="a surface", surface="f")
    made = bodies(part([*BOX, line, sheet, by_sheet]))
    assert made["f"].role == "surface"
    assert sorted(measure.volume(made[n].body.solid) for n in ("e1", "x.back")) == pytest.approx([6000, 18000])
    short = {**sheet, "distance": "4"}
    assert "Extend the surface" in fault([*BOX, line, short, by_sheet])[2]
    inside = chain("k", (-30, 0), (5, 0))
    _, message, hint = fault([*BOX, inside, sheet, by_sheet])
    assert "ends inside it" in message and "Extend the surface" in hint


@pytest.mark.parametrize(("what", "word"), [("nudge", "face"), ("remove face", "face")])
def test_with_two_bodies_and_nothing_picked_the_pick_is_asked_for(what: str, word: str) -> None:
    """Not the body: their sentences have none."""
    two = [*BOX, circle("s2", "4", x="60"), extrude("e2", "s2", "6")]
    field, message, _ = fault([*two, step(what, faces=[])])
    assert field == "faces" and message == f"No {word} is picked."


def test_moving_turning_and_seating() -> None:
    shifted = bodies(part([*BOX, step("move", x="5", y="-2", z="1")]))["e1"].body
    assert measure.mass(shifted.solid).centroid == pytest.approx((5, -2, 11)) and shifted.tags[0][0].startswith("e1.")
    turned = bodies(part([*BOX, step("move", how="turned about", axis={"axis": "x"}, angle="90", copy_it="a copy")]))
    assert measure.mass(turned["x"].body.solid).centroid == pytest.approx((0, -10, 0)) and "e1" in turned
    lid = [rectangle("s2", "10", "10", x="80"), extrude("e2", "s2", "4")]
    seat = step("move", how="seated", face=[{"face": "e2.end"}], onto=[TOP], gap="0.5")
    made = bodies(part([*BOX, *lid, seat]))["e2"].body.solid
    assert measure.mass(made).centroid == pytest.approx((0, 0, 22.5))
    flush = bodies(part([*BOX, *lid, {**seat, "way": "flush", "gap": "0"}]))["e2"].body.solid
    assert measure.mass(flush).centroid == pytest.approx((0, 0, 18))


def test_scaling_about_points_and_per_axis() -> None:
    about = bodies(part([*BOX, step("scale", factor="1.5", about="its centroid")]))["e1"].body.solid
    assert measure.mass(about).centroid == pytest.approx((0, 0, 10)) and measure.volume(about) == pytest.approx(24000 * 1.5**3)
    corner = {"edge": ["e1.end", "e1.side[f1_L1]"], "share": "0 %"}
    uneven = step("scale", how="per axis by", x="2", y="1", z="0.5", about="a point", point=corner)
    made = bodies(part([*BOSS, uneven]))["e1"].body.solid
    assert measure.volume(made) == pytest.approx(24000 + bore((12, 12, 8)), rel=1e-6)
    assert measure.box(made).low[0] == pytest.approx(-20) and measure.box(made).high[2] == pytest.approx(24)
    assert fault([*BOX, step("scale", factor="0")])[0] == "factor"


# --- faces ----------------------------------------------------------------------------------------------------------


def test_removing_faces_closes_the_gap() -> None:
    bevel = [*BOX, {"id": "c", "type": "chamfer", "edges": [{"edge": ["e1.end", "e1.side[f1_L1]"]}], "distance": "3"}]
    name = next(t[0] for t in bodies(part(bevel))["e1"].body.tags if t[0].startswith("c."))
    assert volume([*bevel, step("remove face", faces=[{"face": name}])]) == pytest.approx(24000)
    bare = step("remove face", faces=[{"face": "e2.side[f1_C1]"}, {"face": "e2.end"}])
    assert volume([*BOSS, bare]) == pytest.approx(24000)
    assert fault([*BOX, step("remove face", faces=[TOP])])[0] == "faces"
    # Of a boss only the top: its wall carried on upwards never closes, and a hole downwards is not what is meant.
    field, message, hint = fault([*BOSS, step("remove face", faces=[{"face": "e2.end"}])])
    assert field == "faces" and "do not meet" in message and "all faces of the feature" in hint
    made, out = feature.lifted(bodies(part(BOSS))["e1"].body.solid, boss_faces())
    assert out and measure.volume(made.solid) == pytest.approx(bore((12, 12, 8)), rel=1e-9)


def test_a_plane_takes_the_place_of_a_face() -> None:
    """Higher, lower and leaning: a box cut off by a plane has its base times the height over its middle."""
    up = step("remove face", faces=[TOP], instead="a plane takes its place", plane={"plane": "top", "offset": "26"})
    assert volume([*BOX, up]) == pytest.approx(1200 * 26, rel=1e-9)
    assert volume([*BOX, {**up, "plane": {"plane": "top", "offset": "14"}}]) == pytest.approx(1200 * 14, rel=1e-9)
    leaning = {**up, "plane": {"plane": "top", "offset": "21", "tilt": "15"}}
    made = bodies(part([*BOX, leaning]))["e1"].body
    assert measure.volume(made.solid) == pytest.approx(1200 * 21, rel=1e-9)
    assert any(tags == ("e1.end",) for tags in made.tags)
    drafted = [BOX[0], extrude("e1", "s1", "20", draft="5")]
    longer = volume([BOX[0], extrude("e1", "s1", "26", draft="5")])
    assert volume([*drafted, up]) == pytest.approx(longer, rel=1e-9)
    assert "stands square" in fault([*BOX, {**up, "plane": {"plane": "front"}}])[1]


def test_drafting_along_a_datum_axis() -> None:
    """Leant by 5° against a pull along x, the top of the box rises or falls by tan 5° from the neutral plane."""
    lean = step("draft", faces=[TOP], angle="5", neutral={"plane": "side"}, pull="along an axis", axis={"axis": "x"})
    taken = math.tan(math.radians(5)) * 20 * 20 / 2 * 30
    assert volume([*BOX, lean]) == pytest.approx(24000 - taken + taken, rel=1e-9)
    off = {**lean, "neutral": {"plane": "side", "offset": "-20"}}
    assert volume([*BOX, off]) == pytest.approx(24000 - math.tan(math.radians(5)) * 40 * 40 / 2 * 30, rel=1e-9)


def boss_faces() -> list[int]:
    tags = bodies(part(BOSS))["e1"].body.tags
    return [face for face, row in enumerate(tags) if row[0] in ("e2.side[f1_C1]", "e2.end")]


def test_scoring_marks_a_face_without_changing_the_body() -> None:
    mark = [
        *BOX,
        circle("k", "8", x="5", on={"plane": "top", "offset": "50"}),
        step("score", profile={"sketch": "k"}, face=[TOP]),
    ]
    body = bodies(part(mark))["e1"].body
    inside = [f for f, tags in enumerate(body.tags) if tags[0].startswith("x.scored{e1.end}")]
    assert measure.volume(body.solid) == pytest.approx(24000) and len(inside) == 1
    assert measure.face_area(body.solid, inside[0]) == pytest.approx(16 * math.pi, rel=1e-9)
    rest = [f for f, tags in enumerate(body.tags) if tags[0] == "e1.end"]
    assert measure.face_area(body.solid, rest[0]) == pytest.approx(1200 - 16 * math.pi, rel=1e-9)
    pad = {"id": "n", "type": "fillet", "edges": [{"rule": "uprights", "of": "e1"}], "radius": "2"}
    assert built(part([*mark, pad])).ok
    across = [*BOX, circle("k", "8", x="20"), step("score", profile={"sketch": "k"}, face=[TOP])]
    half = bodies(part(across))["e1"].body
    (piece,) = [f for f, tags in enumerate(half.tags) if tags[0].startswith("x.scored")]
    assert measure.face_area(half.solid, piece) == pytest.approx(8 * math.pi, rel=1e-9)
    aside = [*BOX, circle("k", "8", x="90"), step("score", profile={"sketch": "k"}, face=[TOP])]
    assert "misses" in fault(aside)[1]


# --- surfaces -------------------------------------------------------------------------------------------------------


def test_surfaces_are_offset_extended_thickened_and_sewn() -> None:
    flat = chain("k", (0, 0), (30, 0))
    sheet = extrude("f", "k", "20", fill="as a surface")
    wall = step("thicken", surface="f", wall="2", side="on both sides")
    made = bodies(part([flat, sheet, wall]))
    assert (made["f"].role, made["f"].name) == ("part", "Body") and measure.volume(made["f"].body.solid) == pytest.approx(
        30 * 20 * 2
    )
    assert measure.box(made["f"].body.solid).low[1] == pytest.approx(-1)
    wide = {"id": "w", "type": "extend surface", "surface": "f", "by": "5"}
    assert volume([flat, sheet, wide, wall], "f") == pytest.approx(40 * 30 * 2)
    skin = {"id": "o", "type": "offset surface", "faces": [TOP, SIDES[0]], "distance": "3"}
    parted = bodies(part([*BOX, skin]))["o"]
    area = measure.mass(parted.body.solid).area
    assert parted.role == "surface" and area == pytest.approx(40 * 33 + 40 * 23)
    peeled = [{"id": f"o{n}", "type": "offset surface", "faces": [f], "distance": "0"} for n, f in enumerate([*SIDES, TOP])]
    floor = {"id": "o5", "type": "offset surface", "faces": [{"face": "e1.start"}], "distance": "0"}
    gone = {"id": "d", "type": "delete body", "bodies": ["e1"]}
    names = [f"o{n}" for n in range(6)]
    sewn = bodies(part([*BOX, *peeled, floor, gone, step("sew", surfaces=names)]))
    assert list(sewn) == ["x"] and measure.volume(sewn["x"].body.solid) == pytest.approx(24000)
    assert "do not close" in fault([*BOX, *peeled, step("sew", surfaces=names[:5])])[1]
    assert "is a solid" in fault([*BOX, *peeled, step("thicken", surface="e1")])[1]


def test_a_turned_surface_thickened_is_a_tube() -> None:
    line = chain("k", (10, 0), (10, 15), on={"plane": "front"})
    turned = {"id": "f", "type": "revolve", "profile": {"sketch": "k"}, "fill": "as a surface"}
    for side, ring in (("in front", 12**2 - 10**2), ("behind", 10**2 - 8**2)):
        volumes = volume([line, turned, step("thicken", surface="f", wall="2", side=side)], "f")
        assert volumes == pytest.approx(math.pi * 15 * ring, rel=1e-9)
    assert fault([line, turned, step("thicken", surface="f", wall="11", side="behind")])[0] == "wall"
