"""Solids from outlines: every way to raise, turn, sweep and loft them, in closed form or against numeric integration."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.errors import DocumentError
from supplecast.kernel import measure
from tests.conftest import STEPS, bodies, built, chain, circle, drawn, extrude, part, rectangle
from tests.referee.bodies import fault, volume
from tests.referee.meshes import manifold

BOX: STEPS = [rectangle("s1", "40 mm", "30 mm"), extrude("e1", "s1", "20 mm")]
TOP = {"face": "e1.end"}


# --- extrude --------------------------------------------------------------------------------------------------------


def test_two_lengths_and_a_start_off_the_plane() -> None:
    made = bodies(part([BOX[0], extrude("e1", "s1", "12", extent="by two lengths", back="5")]))["e1"]
    box = measure.box(made.body.solid)
    assert (box.low[2], box.high[2]) == pytest.approx((-5, 12))
    off = bodies(part([BOX[0], extrude("e1", "s1", "12", start="-3", draft="5")]))["e1"]
    assert measure.box(off.body.solid).low[2] == pytest.approx(-3)
    k = 2 * 12 * math.tan(math.radians(5))
    middle = (80 - k) / 2 * (60 - k) / 2  # prismatoid: h/6·(A + 4M + B)
    assert measure.volume(off.body.solid) == pytest.approx(2 * (1200 + 4 * middle + (40 - k) * (30 - k)), rel=1e-9)


def test_up_to_the_next_body_ends_on_its_skin() -> None:
    ball = [circle("c1", "30", on={"plane": "front"}, y="50"), circle("c2", "8")]
    halved = {"id": "h", "type": "sketch", "on": {"plane": "front"}, "points": {"a": [0, 35], "b": [0, 65], "c": [0, 50]}}
    halved["entities"] = {"A": {"type": "arc", "c": "c", "a": "a", "b": "b"}, "L": {"type": "line", "a": "b", "b": "a"}}
    turned = {"id": "r", "type": "revolve", "profile": {"sketch": "h"}}
    made = bodies(part([halved, turned, ball[1], extrude("e1", "c2", "1", extent="to the next body")]))
    # A bar of radius 4 up to a ball of radius 15 with its middle at 50: 50·π·4² less what the cap of the ball takes.
    cap = 2 * math.pi / 3 * (15**3 - (15**2 - 4**2) ** 1.5)
    assert measure.volume(made["e1"].body.solid) == pytest.approx(16 * math.pi * 50 - cap, rel=1e-9)
    away = [halved, turned, ball[1], extrude("e1", "c2", "1", extent="to the next body", direction="down")]
    assert "Nothing is met" in fault(away)[1]
    wide = [halved, turned, circle("c3", "40"), extrude("e1", "c3", "1", extent="to the next body")]
    assert "runs past its edge" in fault(wide)[1]


def test_up_to_a_face_carried_on_beyond_its_edges_and_off_it() -> None:
    tilted = [chain("k", (0, 0), (20, 0), (20, 30), (0, 20), (0, 0.0), on={"plane": "front"}), extrude("w", "k", "10")]
    tilted[0]["entities"]["L4"]["b"] = "p0"
    beside = rectangle("s2", "4", "4", x="40", y="-5")
    to = extrude("e1", "s2", "1", extent="to a face", up_to=[{"face": "w.side[L3]"}])
    # The slanted face is z = 20 + x/2; over a square about x = 40 it is 40 high on average.
    assert volume([*tilted, beside, to]) == pytest.approx(16 * 40, rel=1e-9)
    off = {**to, "gap": "-2"}
    assert volume([*tilted, beside, off]) == pytest.approx(16 * (40 - 2 * math.sqrt(1.25)), rel=1e-9)
    # The same way round for a cut: from the foot of a box of 20 up to its top, 3 outside is through, 3 inside leaves a skin.
    for gap, depth in (("3", 20), ("0", 20), ("-3", 17)):
        pit = extrude("e2", "p", "1", extent="to a face", up_to=[TOP], gap=gap, result="cut", body="e1")
        assert volume([*BOX, rectangle("p", "6", "4"), pit], "e1") == pytest.approx(24000 - 24 * depth, rel=1e-9)
    around = [circle("c", "20"), extrude("c1", "c", "30"), rectangle("s3", "4", "4", y="-40", on={"plane": "front"})]
    along = extrude("e1", "s3", "1", extent="to a face", up_to=[{"face": "c1.side[f1_C1]"}], direction="up")
    # A cylinder carried on downwards; the bar from y = 0 begins inside it, and ends where it leaves it at y = −√(100 − x²).
    inside = 4 * (2 * math.sqrt(96) + 100 * math.asin(0.2))
    assert volume([*around, along]) == pytest.approx(inside, rel=1e-6)
    assert "One face is needed" in fault([*BOX, circle("z", "5"), extrude("e2", "z", "1", extent="to a face")])[1]


@pytest.mark.parametrize(("side", "length"), [("left", 48 * 2), ("right", 52 * 2), ("middle", 100)])
def test_an_open_outline_becomes_a_wall(side: str, length: float) -> None:
    bent = chain("s1", (0, 0), (30, 0), (30, 20))
    made = bodies(part([bent, extrude("e1", "s1", "10", fill="as a wall", wall="2", side=side)]))["e1"].body
    assert measure.volume(made.solid) == pytest.approx(10 * length, rel=1e-9)
    names = {tags[0] for tags in made.tags}
    assert names == {"e1.side[L1]", "e1.side[L2]", "e1.far[L1]", "e1.far[L2]", "e1.start", "e1.end", "e1.tip", "e1.tail"}
    down = volume([bent, extrude("e1", "s1", "10", fill="as a wall", wall="2", side=side, direction="down")])
    assert down == pytest.approx(10 * length, rel=1e-9)


def test_a_wall_ends_where_it_meets_a_body_below_its_outline() -> None:
    line = chain("s2", (-10, 0), (10, 0), on={"plane": "top", "offset": "50"})
    wall = extrude("e2", "s2", "1", fill="as a wall", wall="2", direction="down", extent="to the next body")
    made = bodies(part([*BOX, line, wall]))["e2"].body.solid
    assert measure.volume(made) == pytest.approx(20 * 2 * 30, rel=1e-9)
    assert measure.box(made).low == pytest.approx((-10, -1, 20)) and measure.box(made).high == pytest.approx((10, 1, 50))
    off = {**wall, "extent": "to a face", "up_to": [TOP], "gap": "3"}
    assert volume([*BOX, line, off], "e2") == pytest.approx(20 * 2 * 27, rel=1e-9)
    onto = {**wall, "result": "add", "body": "e1"}
    assert volume([*BOX, line, onto]) == pytest.approx(24000 + 20 * 2 * 30, rel=1e-9)
    assert fault([*BOX, line, {**wall, "direction": "both ways"}])[0] == "direction"
    field, message, _ = fault([*BOX, line, {**wall, "fill": "as a surface"}])
    assert field == "extent" and "does not end at what it meets" in message


def test_an_open_outline_that_is_to_be_filled_says_what_else_it_can_be() -> None:
    field, message, hint = fault([chain("s1", (0, 0), (30, 0), (30, 20)), extrude("e1", "s1", "10")])
    assert field == "profile" and "open at" in message and "as a wall" in hint
    field, message, _ = fault([chain("s1", (0, 0), (9, 0)), extrude("e1", "s1", "10", fill="as a wall", wall="0")])
    assert field == "wall"


def test_intersect_and_cuts_through_two_bodies() -> None:
    ring = [*BOX, circle("s2", "10"), extrude("e2", "s2", "50", result="intersect")]
    assert volume(ring) == pytest.approx(25 * math.pi * 20, rel=1e-9)
    two = [*BOX, rectangle("s3", "40", "30", on={"plane": "top", "offset": "30"}), extrude("e3", "s3", "10")]
    cut = extrude("e4", "s4", "1", extent="through all", result="cut", body="e1", also=["e3"])
    made = bodies(part([*two, circle("s4", "10"), cut]))
    assert [measure.volume(made[n].body.solid) for n in ("e1", "e3")] == pytest.approx(
        [24000 - 500 * math.pi, 12000 - 250 * math.pi], rel=1e-9
    )
    bridge = extrude("e4", "s4", "35", result="add", body="e1", also=["e3"])
    joined = bodies(part([*two, circle("s4", "10"), bridge]))
    assert list(joined) == ["e1"]
    assert measure.volume(joined["e1"].body.solid) == pytest.approx(36000 + 250 * math.pi, rel=1e-9)


# --- revolve --------------------------------------------------------------------------------------------------------


def test_revolving_about_lines_edges_and_datum_axes() -> None:
    """Pappus: area times the way of its centroid."""
    square = rectangle("s1", "4", "6", x="20")
    guide = drawn("g", {"a": (5, -9), "b": (5, 9)}, {"G": {"type": "line", "a": "a", "b": "b", "construction": True}})
    about = {"id": "e1", "type": "revolve", "profile": {"sketch": "s1"}, "axis": {"sketch": "g", "line": "G"}, "angle": "90"}
    assert volume([square, guide, about]) == pytest.approx(24 * 15 * math.pi / 2, rel=1e-9)
    axis = {"id": "ax", "type": "axis", "how": "where planes meet", "first": {"plane": "top"}, "second": {"plane": "side"}}
    assert volume([square, axis, {**about, "axis": {"datum": "ax"}}]) == pytest.approx(24 * 20 * math.pi / 2, rel=1e-9)
    edge = {"edge": ["e1.end", "e1.side[f1_L2]"]}
    raised = rectangle("s9", "4", "6", x="30", on={"plane": "top", "offset": "20"})
    lug = {"id": "l", "type": "revolve", "profile": {"sketch": "s9"}, "axis": edge, "angle": "180", "result": "new"}
    assert volume([*BOX, raised, lug], "l") == pytest.approx(24 * 10 * math.pi, rel=1e-9)
    off = {**about, "axis": {"axis": "z"}}
    assert "does not lie in the plane" in fault([square, off])[1]


def test_revolving_both_ways_and_by_two_angles() -> None:
    square = rectangle("s1", "4", "6", x="20", on={"plane": "front"})
    both = {"id": "e1", "type": "revolve", "profile": {"sketch": "s1"}, "turn": "both ways by", "angle": "60"}
    made = bodies(part([square, both]))["e1"].body.solid
    box = measure.box(made)
    assert box.high[1] == pytest.approx(-box.low[1]) and box.high[1] == pytest.approx(22 * math.sin(math.radians(30)))
    two = {**both, "turn": "by two angles", "angle": "20", "back": "40"}
    assert measure.volume(bodies(part([square, two]))["e1"].body.solid) == pytest.approx(measure.volume(made), rel=1e-9)
    field, message, _ = fault([square, {**two, "angle": "300", "back": "90"}])
    assert field == "back" and "more than a full turn" in message


def test_an_open_outline_is_closed_along_the_axis_or_made_a_wall() -> None:
    """A cup: a cone frustum by its formula; as a wall a disc and a tube."""
    slope = chain("s1", (5, 0), (8, 12), on={"plane": "front"})
    turn = {"id": "e1", "type": "revolve", "profile": {"sketch": "s1"}, "axis": "y"}
    assert "closed along the axis" in fault([slope, turn])[2]
    closed = volume([slope, {**turn, "fill": "closed along the axis"}])
    assert closed == pytest.approx(math.pi * 12 / 3 * (25 + 40 + 64), rel=1e-9)
    cup = chain("s1", (0, 0), (20, 0), (20, 15), on={"plane": "front"})
    for side, want in (("left", 18**2 * 2 + (20**2 - 18**2) * 15), ("right", 22**2 * 2 + (22**2 - 20**2) * 15)):
        wall = {**turn, "fill": "as a wall", "wall": "2", "side": side}
        assert volume([cup, wall]) == pytest.approx(math.pi * want, rel=1e-9)
    wall = {**turn, "fill": "as a wall", "wall": "2"}
    assert "crosses its axis" in fault([chain("s1", (-2, 0), (5, 9), on={"plane": "front"}), wall])[1]
    assert "lies on the axis" in fault([chain("s1", (0, 0), (0, 9), (5, 9), on={"plane": "front"}), wall])[1]
    assert "above 0°" in fault([cup, {**wall, "angle": "0"}])[1]
    tight = chain("s1", (1, 0), (1, 15), on={"plane": "front"})
    assert fault([tight, {**turn, "fill": "as a wall", "wall": "3", "side": "left"}])[0] == "wall"


# --- sweep ----------------------------------------------------------------------------------------------------------

BENT = chain("p", (0, 0), (0, 40), (30, 40), on={"plane": "front"})


def test_an_outline_drawn_elsewhere_is_moved_onto_the_path() -> None:
    ring = circle("s1", "6", x="55", y="20", on={"plane": "side"})
    run = {"id": "e1", "type": "sweep", "profile": {"sketch": "s1"}, "path": {"sketch": "p"}}
    assert volume([ring, BENT, run]) == pytest.approx(9 * math.pi * 70, rel=1e-9)
    # By its origin the circle runs 20 mm outside the corner: its mitred way is 2 · 20 mm longer.
    assert volume([ring, BENT, {**run, "place": "by its origin"}]) == pytest.approx(9 * math.pi * 110, rel=1e-9)
    rounded = {**run, "corners": "rounded", "bend": "5"}
    assert volume([ring, BENT, rounded]) == pytest.approx(9 * math.pi * (60 + 5 * math.pi / 2), rel=1e-9)
    field, message, hint = fault([ring, BENT, {**rounded, "bend": "35"}])
    assert field == "bend" and "only 30 mm" in message and "30 mm" in hint
    assert "radius 2" in fault([ring, BENT, {**rounded, "bend": "2"}])[1]


def test_sweeping_along_a_spline_follows_pappus() -> None:
    """Area times the spline's length, found here by fine chords; too tight a spline is refused with its radius."""
    points = {"a": (0, 0), "b": (20, 30), "c": (-5, 60), "h": (0, 12), "k": (-5, 48)}
    wavy = drawn(
        "p", points, {"S": {"type": "spline", "through": ["a", "b", "c"], "first": "h", "last": "k"}}, on={"plane": "front"}
    )
    run = {"id": "e1", "type": "sweep", "profile": {"sketch": "s1"}, "path": {"sketch": "p"}}
    steps = [circle("s1", "4"), wavy, run]
    curve = built(part(steps)).state.sketches["p"].curves[0]
    chords = np.diff(curve.sampled(20000), axis=0)
    assert volume(steps) == pytest.approx(4 * math.pi * float(np.hypot(*chords.T).sum()), rel=1e-6)
    assert "into a bend of radius" in fault([circle("s1", "60"), wavy, run])[1]


def test_sweeping_along_edges_of_a_body() -> None:
    edges = [{"edge": ["e1.end", f"e1.side[f1_L{n}]"]} for n in (1, 2)]
    bead = {"id": "b", "type": "sweep", "profile": {"sketch": "s2"}, "along": "edges", "edges": edges, "place": "by its middle"}
    made = volume([*BOX, circle("s2", "2", x="70"), bead], "b")
    assert made == pytest.approx(math.pi * 70, rel=1e-9)
    closed = {**bead, "edges": [{"rule": "outer loop", "of": "e1.end"}]}
    assert "closes on itself" in fault([*BOX, circle("s2", "2", x="70"), closed])[1]


def test_a_path_through_space_keeps_the_area() -> None:
    """Round bar along three edges that lie in no plane: its volume by manifold3d, an independent engine."""
    edges = [{"edge": ["e1.end", "e1.side[f1_L1]"]}, {"edge": ["e1.side[f1_L1]", "e1.side[f1_L2]"]}]
    edges.append({"edge": ["e1.side[f1_L2]", "e1.start"]})
    bead = {"id": "b", "type": "sweep", "profile": {"sketch": "s2"}, "along": "edges", "edges": edges}
    bead |= {"corners": "rounded", "bend": "6"}
    body = bodies(part([*BOX, circle("s2", "2", x="70"), bead]))["b"].body.solid
    direction = 40 + 20 + 30 - 4 * 6 + 2 * 6 * math.pi / 2
    assert measure.volume(body) == pytest.approx(math.pi * direction, rel=1e-4)
    assert manifold(body, 0.005, 0.05).volume() == pytest.approx(math.pi * direction, rel=5e-3)


# --- loft -----------------------------------------------------------------------------------------------------------


def raised(step: str, offset: str, figure: dict[str, Any]) -> dict[str, Any]:
    return {"id": step, "type": "sketch", "on": {"plane": "top", "offset": offset}, "draw": [figure]}


SQUARE = {"kind": "rectangle", "width": "20", "height": "20"}


def loft(*sketches: str, **more: Any) -> dict[str, Any]:
    return {"id": "e1", "type": "loft", "over": [{"sketch": s} for s in sketches], **more}


def test_a_loft_to_a_point_is_a_pyramid_or_a_cone() -> None:
    tip = {"id": "t", "type": "point", "z": "30"}
    assert volume([raised("a", "0", SQUARE), tip, loft("a", end={"datum": "t"})]) == pytest.approx(4000, rel=1e-9)
    disc = {"kind": "circle", "diameter": "20"}
    cone = volume([raised("a", "0", disc), tip, loft("a", end={"datum": "t"})])
    assert cone == pytest.approx(1000 * math.pi, rel=1e-9)
    flat = {**tip, "z": "0"}
    assert "in the plane" in fault([raised("a", "0", SQUARE), flat, loft("a", end={"datum": "t"})])[1]


def test_an_added_loft_goes_to_the_point_set_after_its_outline() -> None:
    tip = {"id": "t", "type": "point", "z": "30"}
    whole, _ = apply(part([raised("a", "0", SQUARE), tip]), read_edit({"op": "add", "type": "loft"}))
    (body,) = bodies(whole).values()
    assert measure.volume(body.body.solid) == pytest.approx(4000, rel=1e-9)
    with pytest.raises(DocumentError, match="2 sketches on different planes, or a sketch and then a datum point"):
        apply(part([tip, raised("a", "0", SQUARE)]), read_edit({"op": "add", "type": "loft"}))


@pytest.mark.parametrize("sides", [3, 4, 5, 7])
def test_unlike_corners_are_matched_and_every_face_is_known(sides: int) -> None:
    """Straight from a square to a polygon: the volume by Simpson's rule over sections of matched corners."""
    polygon = {"kind": "polygon", "diameter": "12", "sides": sides}
    result = built(part([raised("a", "0", SQUARE), raised("b", "15", polygon), loft("a", "b")]))
    assert result.ok
    body = result.state.bodies["e1"].body
    assert all("?" not in tag for tags in body.tags for tag in tags)
    lines = np.array(result.outcome("e1").lines)
    assert len(lines) == max(4, sides)

    def area(share: float) -> float:
        p = lines[:, 0] * (1 - share) + lines[:, 1] * share
        return abs(float((p[:, 0] * np.roll(p[:, 1], -1) - p[:, 1] * np.roll(p[:, 0], -1)).sum())) / 2

    assert measure.volume(body.solid) == pytest.approx(15 / 6 * (area(0) + 4 * area(0.5) + area(1)), rel=1e-8)


def test_turning_the_matching_twists_the_loft() -> None:
    sketches = [raised("a", "0", SQUARE), raised("b", "15", SQUARE)]
    assert volume([*sketches, loft("a", "b")]) == pytest.approx(6000, rel=1e-9)
    # Each corner goes to the next: sections are squares turned and shrunk to √(1 − 2s + 2s²) of their side; ∫ = 2/3.
    assert volume([*sketches, loft("a", "b", turn=1)]) == pytest.approx(6000 * 2 / 3, rel=1e-6)


def test_a_smooth_loft_through_three_circles() -> None:
    """Radii 10, 6, 10 at z 0, 10, 20: the surface through three sections is a parabola in z, integrated exactly."""
    discs = [
        raised(n, z, {"kind": "circle", "diameter": d}) for n, z, d in (("a", "0", "20"), ("b", "10", "12"), ("c", "20", "20"))
    ]
    radius = np.polynomial.Polynomial.fit([0, 10, 20], [10, 6, 10], 2).convert()
    want = math.pi * float((radius * radius).integ()(20))
    assert volume([*discs, loft("a", "b", "c", shape="smooth")]) == pytest.approx(want, rel=1e-3)
    straight = volume([*discs, loft("a", "b", "c")])
    assert straight == pytest.approx(2 * math.pi * 10 / 3 * (100 + 60 + 36), rel=1e-6)
