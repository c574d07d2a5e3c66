"""Lettering, contour recesses and pads, snap hooks: closed forms, sampling, published examples, and what they refuse."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from fontTools.pens.areaPen import AreaPen
from scipy.integrate import quad
from shapely.geometry import Polygon

from supplecast.curves import Region
from supplecast.kernel import boolean, check, measure, probing
from supplecast.kernel.meshing.face_samples import FaceSamples
from supplecast.kernel.shapes.shape import Solid
from supplecast.sketch import letters
from supplecast.sketch.triangle import resin_mark
from supplecast.tooling import snaps
from tests.conftest import STEPS, bodies, built, circle, drawn, extrude, part, rectangle

PLATE: STEPS = [rectangle("s", "80", "40"), extrude("e", "s", "5")]


def polygon(region: Region) -> Polygon:
    return Polygon([c.a for c in region.outer], [[c.a for c in hole] for hole in region.holes])


# --- letters --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("font", ["regular", "bold", "narrow"])
def test_letters_have_the_areas_of_their_glyphs(font: letters.Font) -> None:
    """fontTools' own area of the curves, 60 mm high, to 2 %; counters are holes; nothing crosses itself."""
    text = "BDO8k&@i"
    held = letters._font(font)
    glyphs, names, scale = held.getGlyphSet(), held.getBestCmap(), (60 / held["OS/2"].sCapHeight) ** 2
    found = letters.words(text, font, 60.0)
    for number, letter in enumerate(text, 1):
        pen = AreaPen(glyphs)
        glyphs[names[ord(letter)]].draw(pen)
        areas = [polygon(one.region) for one in found if one.number == number]
        assert all(area.is_valid for area in areas)
        assert sum(area.area for area in areas) == pytest.approx(abs(pen.value) * scale, rel=0.02)
    assert [len(one.region.holes) for one in letters.words("B8Oi", font, 5.0)] == [2, 2, 1, 0, 0]


def test_lines_are_aligned_and_mirrored() -> None:
    for align, places in (("left", (0.0, 1.0)), ("right", (-1.0, 0.0)), ("centre", (-0.5, 0.5))):
        xs = [c.a[0] for one in letters.words("HOLD", "regular", 10.0, align) for c in one.region.outer]
        width = max(xs) - min(xs)
        assert min(xs) / width == pytest.approx(places[0], abs=0.06) and max(xs) / width == pytest.approx(places[1], abs=0.06)
    plain, mirrored = (letters.words("F", "regular", 10.0, "left", mirrored=m)[0].region for m in (False, True))
    assert polygon(plain).area == pytest.approx(polygon(mirrored).area)
    assert polygon(plain).centroid.x == pytest.approx(-polygon(mirrored).centroid.x)


def test_the_mark_of_a_resin_keeps_its_pieces_apart() -> None:
    for mirrored in (False, True):
        areas = [polygon(one.region) for one in resin_mark(">PE-HD<", 2, "regular", 3.0, mirrored=mirrored)]
        assert all(area.is_valid and area.exterior.is_ccw for area in areas)
        assert all(a.distance(b) > 0.05 for k, a in enumerate(areas) for b in areas[:k])
        triangle = Polygon([(-5.6, 4.8), (5.6, 4.8), (0, 14.5)])
        assert sum(triangle.buffer(0.5).contains(area) for area in areas) == 4  # three arrows and the number


def lettering(**fields: Any) -> dict[str, Any]:
    return {"id": "t", "type": "lettering", "on": [{"face": "e.end"}], "text": "Bo8", "draft": "0", "depth": "0.4", **fields}


@pytest.mark.parametrize("direction", ["raised", "sunk"])
@pytest.mark.parametrize("draft", ["0", "5"])
def test_letters_are_prisms_or_frusta_on_the_face(direction: str, draft: str) -> None:
    """Area times depth; leant sides take the mean of their sections, by shapely's offset (mitred)."""
    body = bodies(part([*PLATE, lettering(way=direction, draft=draft)]))["e"].body
    assert not check.faults(body.solid)
    shapes = [polygon(one.region) for one in letters.words("Bo8", "regular", 4.0)]
    lean = math.tan(math.radians(float(draft)))
    sections = [sum(s.buffer(-z * lean, join_style="mitre", mitre_limit=50).area for s in shapes) for z in (0, 0.2, 0.4)]
    volume = 0.4 / 6 * (sections[0] + 4 * sections[1] + sections[2])
    change = measure.volume(body.solid) - 16000
    assert change == pytest.approx(volume if direction == "raised" else -volume, rel=1e-5)
    # The face keeps its name; what is left inside letters has another, so that the next text finds one face.
    assert len(body.faces_by_tag["e.end"]) == 1 and len(body.faces_by_tag["t.island{e.end}"]) == 5


def test_several_texts_and_the_mark_share_a_face() -> None:
    mark = lettering(what="the resin's mark", height="3", y="-14", way="sunk") | {"id": "m"}
    result = built(part([*PLATE, lettering(y="8"), mark], resin="PP"))
    assert result.ok and not check.faults(result.state.bodies["e"].body.solid)


@pytest.mark.parametrize("direction", ["raised", "sunk"])
@pytest.mark.parametrize("lean", [0.0, 6.0])
def test_letters_wrap_round_cylinders_and_cones(direction: str, lean: float) -> None:
    """A layer h over an area of a surface of revolution holds A h + h² / 2 · A cos(lean) / R, R being the radius at the middle;
    on a cone a letter's width goes with the radius at its height (closed form).
    """
    turned = [circle("s", "40"), extrude("e", "s", "30", draft=f"{lean}")]
    text = lettering(way=direction, on=[{"face": "e.side[f1_C1]"}], height="5", text="Bo8")
    before, after = (bodies(part(steps))["e"].body.solid for steps in (turned, [*turned, text]))
    assert not check.faults(after)
    tan, sense = math.tan(math.radians(lean)), 1 if direction == "raised" else -1
    radius, cos = 20 - 15 * tan, math.cos(math.radians(lean))
    shapes = [polygon(one.region) for one in letters.words("Bo8", "regular", 5.0)]
    area = sum(s.area for s in shapes)
    wide = sum(s.area * (1 - math.sin(math.radians(lean)) * s.centroid.y / radius) for s in shapes)
    expected = sense * 0.4 * wide + 0.08 * area * cos / radius
    assert measure.volume(after) - measure.volume(before) == pytest.approx(expected, rel=1e-6)


@pytest.mark.parametrize(("diameter", "direction", "left"), [("40", "raised", 1), ("24", "sunk", -1)])
def test_wrapped_letters_are_read_from_where_the_face_is_seen(diameter: str, direction: str, left: int) -> None:
    """The stem of an L stands at its left: outside, seen from x below 0; in the bore, from the axis."""
    tube = [circle("s", "40"), circle("h", "24"), extrude("e", "s", "30"), extrude("b", "h", "30", result="cut")]
    face = "e.side[f1_C1]" if diameter == "40" else "b.side[f1_C1]"
    text = lettering(way=direction, on=[{"face": face}], height="8", text="L")
    plain, written = (measure.mass(bodies(part(steps))["e"].body.solid) for steps in (tube, [*tube, text]))
    moment = [written.volume * a - plain.volume * b for a, b in zip(written.centroid, plain.centroid, strict=True)]
    middle = [m / (written.volume - plain.volume) for m in moment]
    assert middle[0] < 0 and middle[1] * left > 0.5 and middle[2] < 15 + 8 / 2 - 1


def test_letters_over_the_edge_are_cut_or_refused() -> None:
    over = lettering(text="O", x="39.5", way="sunk")
    cut = 16000 - measure.volume(bodies(part([*PLATE, over]))["e"].body.solid)
    whole = polygon(letters.words("O", "regular", 4.0)[0].region)
    inside = whole.intersection(Polygon([(-80, -50), (0.5, -50), (0.5, 50), (-80, 50)]))
    assert cut == pytest.approx(inside.area * 0.4, rel=1e-6)
    turned = [circle("s", "40"), extrude("e", "s", "30")]
    outcome = built(part([*turned, lettering(on=[{"face": "e.side[f1_C1]"}], text="round and on", height="20")])).outcome("t")
    assert outcome.field == "height" and "all the way round" in outcome.message
    outcome = built(part([*PLATE, lettering(text="far away", x="60")])).outcome("t")
    assert outcome.field == "height" and outcome.sized and "run over the edge" in outcome.message


@pytest.mark.parametrize(
    ("fields", "field", "words"),
    [
        ({"text": "漢字"}, "text", "has no 字 漢"),
        ({"text": "   "}, "text", "nothing to write"),
        ({"on": []}, "on", "One face"),
        ({"what": "the resin's mark"}, "what", "no mark"),
        ({"draft": "44", "depth": "3"}, "draft", "closes the outline"),
    ],
)
def test_lettering_names_what_is_wrong(fields: dict[str, Any], field: str, words: str) -> None:
    outcome = built(part([*PLATE, lettering(**fields)], resin="")).outcome("t")
    assert outcome.status == "failed" and outcome.field == field and words in outcome.message


# --- contours -------------------------------------------------------------------------------------------------------

ROD: STEPS = [circle("s", "60"), extrude("e", "s", "40")]
FRAME = rectangle("k", "16", "10", on={"plane": "front", "offset": "40"}, y="20")


def contour(**fields: Any) -> dict[str, Any]:
    face = [{"face": "e.side[f1_C1]"}]
    return {"id": "c", "type": "contour", "profile": {"sketch": "k"}, "face": face, "depth": "0.6", **fields}


def change(base: STEPS, *steps: dict[str, Any]) -> tuple[float, Solid]:
    before, after = (bodies(part([*base, *more]))["e"].body.solid for more in ((), steps))
    assert not check.faults(after)
    return measure.volume(after) - measure.volume(before), after


def between(outer: float, inner: float) -> float:
    """Volume between two cylinders over a strip 16 mm wide and 10 mm long, mm³."""
    area, _ = quad(lambda x: math.sqrt(outer**2 - x * x) - math.sqrt(inner**2 - x * x), -8, 8)
    return area * 10


def test_a_contour_on_a_cylinder_follows_it() -> None:
    assert change(ROD, FRAME, contour())[0] == pytest.approx(-between(30, 29.4), rel=1e-9)
    assert change(ROD, FRAME, contour(make="a pad"))[0] == pytest.approx(between(30.6, 30), rel=1e-9)
    flat, _ = quad(lambda x: math.sqrt(900 - x * x) - 27, -8, 8)
    level = contour(floor="in a plane", plane={"plane": "front", "offset": "27"})
    assert change(ROD, FRAME, level)[0] == pytest.approx(-flat * 10, rel=1e-9)


@pytest.mark.parametrize("depth", [0.6, -0.8])
def test_the_floor_is_one_depth_off_a_free_face(depth: float) -> None:
    """A wave raised on a spline: distances of points of the floor to the face before, by the kernel, to 1 % of the depth."""
    points = {"a": (-40, 0), "b": (0, 12), "c": (40, 2), "d": (40, -20), "e": (-40, -20), "h": (-25, 10), "k": (25, 8)}
    curves: dict[str, Any] = {"S": {"type": "spline", "through": ["a", "b", "c"], "first": "h", "last": "k"}}
    for n, pair in enumerate(("cd", "de", "ea"), 1):
        curves[f"L{n}"] = {"type": "line", "a": pair[0], "b": pair[1]}
    wave: STEPS = [drawn("s", points, curves, on={"plane": "front"}), extrude("e", "s", "60", direction="both ways")]
    mark = circle("k", "18", on={"plane": "top", "offset": "40"})
    make = "a recess" if depth > 0 else "a pad"
    more = contour(face=[{"face": "e.side[S]"}], depth=f"{abs(depth)}", make=make)
    before = bodies(part(wave))["e"].body
    after = bodies(part([*wave, mark, more]))["e"].body
    assert not check.faults(after.solid)
    floor = after.faces_by_tag["c.floor"]
    spots = FaceSamples(after.solid, floor, 0.001).strewn(60).points
    face = before.faces_by_tag["e.side[S]"]
    away = [probing.distance_to_faces(before.solid, face, (x, y, z)) for x, y, z in spots]
    assert np.abs(np.array(away) - abs(depth)).max() < 0.01 * abs(depth)
    assert measure.volume(after.solid) * depth < measure.volume(before.solid) * depth


def test_leant_sides_and_a_round_at_the_floor_take_less_out() -> None:
    square, leant, round_ = (change(ROD, FRAME, contour(**more))[0] for more in ({}, {"draft": "5"}, {"round": "0.3"}))
    assert square < leant < 0
    # A round in a corner of angle θ fills r² (cot θ/2 − (π − θ)/2): square along the bent edges, sharper at the straight ones.
    slope = math.asin(8 / 29.4)
    bent, sharp = (1 / math.tan(t / 2) - (math.pi - t) / 2 for t in (math.pi / 2, math.pi / 2 - slope))
    assert round_ - square == pytest.approx(0.09 * (2 * bent * 2 * 29.4 * slope + 2 * sharp * 10), rel=0.05)


def test_contours_say_when_they_miss() -> None:
    outcome = built(part([*ROD, FRAME, contour(face=[{"face": "e.end"}])])).outcome("c")
    assert outcome.field == "depth" and "does not run through" in outcome.message
    for make, words in (("a recess", "radius of 30 mm: 31 mm under it lies beyond its middle"), ("a pad", "")):
        outcome = built(part([*ROD, FRAME, contour(make=make, depth="31")])).outcome("c")
        assert words in outcome.message and outcome.sized == bool(words)
    pipe = [*ROD, circle("h", "40"), extrude("x", "h", "40", result="cut"), FRAME]
    within = contour(make="a pad", face=[{"face": "x.side[f1_C1]"}], depth="21")
    outcome = built(part([*pipe, within])).outcome("c")
    assert "radius of 20 mm: 21 mm over it" in outcome.message
    outcome = built(part([*ROD, FRAME, contour(face=[])])).outcome("c")
    assert outcome.field == "face"


# --- snap hooks -----------------------------------------------------------------------------------------------------

WALL = rectangle("w", "3", "30", x="13.6", y="0", on={"plane": "top", "offset": "3.5"})
SNAPPED: STEPS = [
    rectangle("s", "40", "30"),
    extrude("e", "s", "3"),
    WALL,
    extrude("m", "w", "25", result="new"),
    {"id": "q", "type": "sketch", "on": {"plane": "top", "offset": "3"}, "points": {"a": (12, 5), "b": (12, -7)}},
]


def snap(**fields: Any) -> dict[str, Any]:
    level = {"plane": "top", "offset": "3"}
    return {"id": "h", "type": "snap", "sketch": "q", "level": level, "body": "e", "root": "0", **fields}


def test_strain_against_a_handbook_example() -> None:
    """Worked example of a maker's snap-joint guide (from memory): a polycarbonate hook, 19 mm long, undercut 2.4 mm, tapered to
    half, 2 % allowed: 3.28 mm thick at its root. And against beam theory: a beam of one thickness bent at its end has
    ε = 3 y h / (2 l²).
    """
    assert snaps.largest_thickness(19, 2.4, 0.02, tapered=True) == pytest.approx(3.28, abs=0.005)
    assert snaps.strain(19, 3.28, 2.4, tapered=True) == pytest.approx(0.02, rel=2e-3)
    assert snaps.strain(10, 1.5, 1, tapered=False) == pytest.approx(1.5 * 1 * 1.5 / 100, rel=6e-3)


@pytest.mark.parametrize(("taper", "end"), [("of one thickness", 1.5), ("tapered to half", 0.75)])
def test_a_hook_is_its_outline_times_its_width(taper: str, end: float) -> None:
    lead = 1 / math.tan(math.radians(30))
    top = 10 + 0.3 + lead
    side = (1.5 + end) / 2 * top + 0.3 * 1 + lead / 2
    result = bodies(part([*SNAPPED, snap(taper=taper)]))
    assert measure.volume(result["e"].body.solid) - 3600 == pytest.approx(2 * 5 * side, rel=1e-9)


def test_hook_and_slot_fit_with_their_room() -> None:
    """Nothing shared; the slot as deep as it must be; the hook caught by its undercut when the halves are pulled apart."""
    result = bodies(part([*SNAPPED, snap(mate="m", room="0.2", depth="1.5")]))
    hook, wall = result["e"].body.solid, result["m"].body.solid
    assert not boolean.common(hook, [wall]) and not check.faults(hook) and not check.faults(wall)
    high = 0.3 + 1 / math.tan(math.radians(30)) + 0.2
    assert measure.volume(wall) - 3 * 30 * 25 == pytest.approx(-2 * 5.4 * high * (1.5 - 0.1), rel=1e-9)
    pulled = bodies(part([*SNAPPED, snap(mate="m"), {"id": "z", "type": "move", "body": "e", "z": "-0.1"}]))
    caught = boolean.common(pulled["e"].body.solid, [pulled["m"].body.solid])
    assert sum(measure.volume(piece.solid) for piece in caught) == pytest.approx(2 * 5 * 0.1 * (1 - 0.1), rel=1e-6)


@pytest.mark.parametrize(("resin", "thickness", "state"), [("ABS", "2.5", "good"), ("ABS", "3", "near"), ("PS", "3", "over")])
def test_strain_is_held_against_the_resin(resin: str, thickness: str, state: str) -> None:
    outcome = built(part([*SNAPPED, snap(thickness=thickness)], resin=resin)).outcome("h")
    assert outcome.readings[0].state == state and bool(outcome.notes) == (state != "good")


@pytest.mark.parametrize(
    ("fields", "field", "words"),
    [
        ({"length": "2"}, "length", "shorter than twice"),
        ({"toward": {"axis": "z"}}, "toward", "square on the plane"),
        ({"mate": "e"}, "mate", "in another body"),
        ({"level": {"plane": "top", "offset": "-60"}}, "level", "does not land"),
        ({"catch": "5"}, "catch", "out of range"),
    ],
)
def test_hooks_name_what_is_wrong(fields: dict[str, Any], field: str, words: str) -> None:
    outcome = built(part([*SNAPPED, snap(**fields)])).outcome("h")
    assert outcome.status == "failed" and outcome.field == field and words in outcome.message
