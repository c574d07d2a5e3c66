"""Acts on sketches: what they draw, what they keep, and the freedoms they give back."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from supplecast.errors import SketchError
from supplecast.quantities import Scope
from supplecast.sketch import regions
from supplecast.sketch.model import Arc, Drawing, Line, ends_of
from supplecast.sketch.sizing import size_of
from supplecast.sketch.solver import solve
from supplecast.sketch.work import Clash
from tests.referee.sketches import act, areas, chain, drawn, pick

SCOPE = Scope({"wall": "2 mm"})


# Freedoms counted by hand: unknowns less equations. Sized and snapped, what is typed takes one each.
TOOLS: list[tuple[str, list[dict[str, Any]], dict[str, str], int, float | None]] = [
    # two ends: 4
    ("line", [pick(0, 0), pick(9, 4)], {}, 4, None),
    # 4, level −1, length −1
    ("line", [pick(0, 0), pick(9, 0, horizontal="")], {"length": "20"}, 2, None),
    # 4, length −1, angle −1
    ("line", [pick(0, 0), pick(9, 4)], {"length": "20", "angle": "30"}, 2, None),
    # x and y
    ("point", [pick(3, 4)], {}, 2, None),
    # 4 corners 8, four sides level or upright −4
    ("rectangle by corners", [pick(0, 0), pick(30, 20)], {}, 4, 600.0),
    # 4, width −1, height −1
    ("rectangle by corners", [pick(0, 0), pick(30, -20)], {"width": "40", "height": "10 mm"}, 2, 400.0),
    # 4 corners and the centre 10, −4, midpoint −2
    ("rectangle by centre", [pick(5, 5), pick(20, 15)], {}, 4, 600.0),
    # 8, square −1, parallel twice −2
    ("tilted rectangle", [pick(0, 0), pick(30, 40), pick(-8, 6)], {}, 5, 500.0),
    # centre 2, radius 1
    ("circle by centre", [pick(1, 2), pick(1, 7)], {}, 3, 25 * math.pi),
    # 3, diameter −1
    ("circle by centre", [pick(1, 2), pick(1, 7)], {"diameter": "wall * 3"}, 2, 9 * math.pi),
    # as any circle: its clicks were no points
    ("circle by two points", [pick(0, 0), pick(10, 0)], {}, 3, 25 * math.pi),
    # the same
    ("circle by three points", [pick(5, 0), pick(-5, 0), pick(0, 5)], {}, 3, 25 * math.pi),
    # 3 points 6, radius 1, both ends on it −2
    ("arc by centre", [pick(0, 0), pick(5, 0), pick(0, 5)], {}, 5, None),
    # 5, radius −1, length −1
    ("arc by centre", [pick(0, 0), pick(5, 0), pick(0, 5)], {"radius": "8", "sweep": "200"}, 3, None),
    # as any arc
    ("arc by three points", [pick(-5, 0), pick(5, 0), pick(0, 3)], {}, 5, None),
    # 6 points 12, radii 2, ends on arcs −4, tangent −4, equal −1
    ("slot", [pick(0, 0), pick(20, 0), pick(10, 4)], {}, 5, 160 + 16 * math.pi),
    # 5, length −1, width −1
    ("slot", [pick(0, 0), pick(20, 0), pick(10, 4)], {"length": "30", "width": "6"}, 3, 180 + 9 * math.pi),
    # 8 corners 16, circle 3, on it −8, equal −7
    ("polygon", [pick(0, 0), pick(10, 0)], {"sides": "8"}, 4, 200 * math.sqrt(2)),
    # centre 2, tip 2, short half 1
    ("ellipse", [pick(0, 0), pick(10, 0), pick(0, 4)], {}, 5, 40 * math.pi),
    # 5, both halves −2
    ("ellipse", [pick(0, 0), pick(10, 0), pick(0, 4)], {"long half": "6", "short half": "5"}, 3, 30 * math.pi),
    # 4 points and 2 handles
    ("spline", [pick(0, 0), pick(10, 5), pick(20, 0), pick(30, 9)], {}, 12, None),
]


@pytest.mark.parametrize(("tool", "picks", "sizes", "freedoms", "area"), TOOLS)
def test_tools_draw_what_was_clicked_with_the_freedoms_counted_by_hand(
    tool: str, picks: list[dict[str, Any]], sizes: dict[str, str], freedoms: int, area: float | None
) -> None:
    done = drawn(tool, *picks, **sizes)
    assert done.solution.freedoms == freedoms and not done.solution.doubled
    assert areas(done.drawing) == ([] if area is None else [pytest.approx(area, rel=1e-9)])


def test_a_tangent_arc_runs_on_from_a_line_and_a_line_from_it() -> None:
    """Stadium end: a line of 10, a half circle of radius 4, a line back: 3 lines' ends less what ties them."""
    first = drawn("line", pick(0, 0), pick(10, 0, horizontal=""))
    end = first.drawing.entities[first.made[0]].b
    arc = drawn("tangent arc", pick(10, 0, coincident=end), pick(10, 8), on=first.drawing)
    held = arc.drawing.entities[arc.made[0]]
    assert isinstance(held, Arc) and not held.cw
    assert arc.drawing.points[held.c] == pytest.approx((10, 4))
    # 4 + 5 for line and arc, less 2 shared, 1 horizontal, 1 tangent.
    assert arc.solution.freedoms == 5
    back = drawn("line", pick(10, 8, coincident=held.b), pick(0, 8, tangent=arc.made[0]), on=arc.drawing)
    assert back.solution.freedoms == 6  # two more for its end, one less for the tangency


def test_inferred_constraints_that_say_nothing_new_are_dropped() -> None:
    """Both ends of a level line are joined by a line that is inferred level as well."""
    drawing, points, _ = chain((0, 0), (10, 0))
    level = act(drawing, {"do": "hold", "type": "level", "on": points})
    ends = [pick(*level.drawing.points[p], coincident=p) for p in points]
    ends[1]["snaps"].append({"type": "horizontal", "on": []})
    again = drawn("line", *ends, on=level.drawing)
    assert [held.type for held in again.drawing.constraints.values()] == ["level"]


def test_a_size_that_doubles_others_is_refused_with_what_it_doubles_and_may_be_driven() -> None:
    done = drawn("rectangle by corners", pick(0, 0), pick(30, 20), width="30", height="20")
    points = list(done.drawing.points)
    with pytest.raises(Clash, match=r"said already by .*length 30") as clash:
        act(done.drawing, {"do": "size", "on": [points[3], points[2]], "label": [15, 30], "value": "30"})
    assert clash.value.drive and len(clash.value.lit) > 1
    with pytest.raises(Clash, match="contradicts") as clash:
        act(done.drawing, {"do": "size", "on": [points[3], points[2]], "label": [15, 30], "value": "31"})
    assert clash.value.drive and clash.value.lit
    kept = act(done.drawing, {"do": "size", "on": [points[3], points[2]], "label": [15, 30], "driven": True})
    assert list(kept.solution.driven.values()) == [pytest.approx(30.0)]


SIZES = [
    # what is picked, where the label is put, the kind asked for, the type and value it must come to
    (["a", "b"], (1.5, 3), "", "distance", 5.0),
    (["a", "b"], (2, 9), "", "distance x", 3.0),
    (["a", "b"], (9, 2), "", "distance y", 4.0),
    (["a", "L"], (0, 0), "", "distance", 10.0),
    (["a", "L"], (0, 0), "axis", "across", 20.0),
    (["C"], (0, 0), "", "diameter", 8.0),
    (["C"], (0, 0), "radius", "radius", 4.0),
    (["C", "L"], (0, 0), "near", "distance near", 6.0),
    (["C", "L"], (0, 0), "far", "distance far", 14.0),
    (["C", "L"], (0, 0), "", "distance", 10.0),
    (["C", "D"], (0, 0), "near", "distance near", 14.0),
    (["C", "D"], (0, 0), "far", "distance far", 26.0),
    (["b", "D"], (0, 0), "near", "distance near", math.hypot(17, 4) - 2),
    (["L", "M"], (14, -8), "", "angle", math.pi / 4),
    (["L", "M"], (8, -8), "", "angle", 3 * math.pi / 4),
    (["L", "M"], (6, -12), "", "angle", math.pi / 4),
    (["L", "M"], (12, -12), "", "angle", 3 * math.pi / 4),
    (["B"], (0, 0), "arc length", "arc length", 2 * math.pi),
]


@pytest.mark.parametrize(("names", "label", "kind", "type_", "value"), SIZES)
def test_the_size_that_suits_picks_and_label(
    names: list[str], label: tuple[float, float], kind: str, type_: str, value: float
) -> None:
    """Taken as it measures, it changes nothing; one and a half times as large, the solver reaches it."""
    points = {"a": (0, 0), "b": (3, 4), "c": (0, -10), "d": (20, -10), "e": (20, 0), "f": (0, -20), "g": (20, 0)}
    points |= {"u": (4.0, 0.0), "v": (0.0, 4.0), "w": (0.0, 0.0)}
    entities: dict[str, Any] = {
        "L": {"type": "line", "a": "c", "b": "d"},
        "M": {"type": "line", "a": "f", "b": "g"},
        "C": {"type": "circle", "c": "a", "r": 4},
        "D": {"type": "circle", "c": "e", "r": 2},
        "B": {"type": "arc", "c": "w", "a": "u", "b": "v"},
    }
    drawing = Drawing.model_validate({"points": points, "entities": entities})
    done = act(drawing, {"do": "size", "on": names, "label": label, "kind": kind})
    (held,) = done.drawing.constraints.items()
    assert held[1].type == type_
    for name, place in drawing.points.items():
        assert done.drawing.points[name] == pytest.approx(place, abs=1e-6)
    scope = Scope()
    measured = scope.evaluate(held[1].value or "", "angle" if type_ == "angle" else "length")
    assert measured == pytest.approx(value, abs=1e-6)
    grown = act(done.drawing, {"do": "retype", "constraint": held[0], "value": f"({held[1].value}) * 1.2"})
    assert grown.solution.misfit < 1e-9


def crossing(seed: int) -> Drawing:
    """A loose sketch with crossings: a chain, a circle, an arc, lines across, and constraints as they happen to measure."""
    rng = np.random.default_rng(seed)
    drawing, points, _ = chain(*[(float(x), float(y)) for x, y in rng.uniform(-20, 20, (4, 2))], closed=bool(seed % 2))
    for _ in range(2):
        (a, b), (c, d) = rng.uniform(-25, 25, (2, 2))
        drawing = drawn("line", pick(a, b), pick(c, d), on=drawing).drawing
    x, y, r = rng.uniform(-8, 8), rng.uniform(-8, 8), rng.uniform(4, 12)
    drawing = drawn("circle by centre", pick(x, y), pick(x + r, y), on=drawing).drawing
    t = rng.uniform(0, 6, 2)
    places = [(10 * math.cos(v), 10 * math.sin(v)) for v in (t[0], t[0] + 1 + t[1] / 2)]
    drawing = drawn("arc by centre", pick(0, 0), *(pick(*p) for p in places), on=drawing).drawing
    if seed % 4 > 1:
        drawing = drawn("ellipse", pick(x / 2, y), pick(x / 2 + 14, y + 4), pick(x / 2, y + 7), on=drawing).drawing
        drawing = drawn("spline", *(pick(*p) for p in rng.uniform(-20, 20, (4, 2))), on=drawing).drawing
    drawing = act(drawing, {"do": "size", "on": [points[0], points[1]], "label": [0, 0], "kind": "aligned"}).drawing
    return act(drawing, {"do": "size", "on": [points[1], points[2]], "label": [0, 0], "kind": "across"}).drawing


def length(drawing: Drawing) -> float:
    curves = regions.curves(drawing, solve(drawing, size_of(SCOPE)))
    return float(sum(np.hypot(*np.diff(curve.at(np.linspace(0, 1, 2001)), axis=0).T).sum() for curve in curves))


@pytest.mark.parametrize("seed", range(40))
def test_random_edits_move_nothing_that_stays_and_say_nothing_twice(seed: int) -> None:
    """Every surviving point stays within 1e-5 mm, every act leaves the sketch solved, and freedoms are as the rank says."""
    rng = np.random.default_rng(1000 + seed)
    drawing = crossing(seed)
    for _ in range(6):
        names = list(drawing.entities)
        name = names[rng.integers(len(names))]
        curve = regions.curve(name, drawing, {**drawing.points, "o": (0.0, 0.0)}, _radii(drawing))
        place = [float(v) for v in curve.at(np.array([rng.uniform(0.05, 0.95)]))[0]]
        corners = [p for p in drawing.points if sum(p in ends_of(e) for e in drawing.entities.values()) == 2]
        kinds: list[dict[str, Any]] = [
            {"do": "trim", "cuts": [[name, place]]},
            {"do": "extend", "entity": name, "at": place},
            {"do": "cut", "entity": name, "at": place},
        ]
        if corners:
            corner = corners[rng.integers(len(corners))]
            kinds += [
                {"do": "fillet", "corner": corner, "radius": "0.7"},
                {"do": "chamfer", "corner": corner, "setback": "0.6"},
            ]
        chosen = kinds[rng.integers(len(kinds))]
        before = length(drawing)
        try:
            done = act(drawing, chosen)
        except Clash:
            raise
        except SketchError as refusal:
            assert refusal.hint
            continue
        assert done.solution.misfit < 1e-8 and not done.solution.doubled, chosen
        handles = {p for e in done.drawing.entities.values() for p in (getattr(e, "first", ""), getattr(e, "last", ""))}
        for point in set(drawing.points) & set(done.drawing.points) - handles:  # those of a piece are not those of the whole
            assert math.dist(drawing.points[point], done.drawing.points[point]) < 1e-5, chosen
        assert not done.drawing.faults()
        after = length(done.drawing)
        if chosen["do"] == "cut":
            assert after == pytest.approx(before, abs=1e-4)
        if chosen["do"] == "trim":
            assert after < before
        drawing = done.drawing


def _radii(drawing: Drawing) -> dict[str, float]:
    from supplecast.sketch.sizing import radii_of

    return radii_of(drawing)


# Change of freedoms by closed form: −1 − c + R for an end trimmed, with c ends joined by coincidence and R rows lost.
def test_trimming_an_end_turns_its_length_and_midpoint_into_less_and_says_so() -> None:
    drawing, _, (line,) = chain((0, 0), (20, 0))
    drawing = drawn("line", pick(12, -5), pick(12, 5), on=drawing).drawing
    sized = act(drawing, {"do": "size", "on": [line], "label": [10, -4]}).drawing
    middle = drawn("point", pick(10, 0, midpoint=line), on=sized)
    before = middle.solution.freedoms
    done = act(middle.drawing, {"do": "trim", "cuts": [[line, [18, 0]]]})
    assert "Lost: distance 20 mm" in done.words and "became a point on" in done.words
    # Two freedoms go with the lost end, two come with the new one, less one on the cutter; the length gives one back, and the
    # midpoint, now only on the line, another.
    assert done.solution.freedoms == before - 1 + 1 + 1
    assert f"Freedoms {before} → {done.solution.freedoms}" in done.words


def test_a_corner_rounded_keeps_its_sizes_on_the_point_where_the_sides_would_meet() -> None:
    done = drawn("rectangle by corners", pick(0, 0), pick(30, 20), width="30", height="20")
    corner = list(done.drawing.points)[1]
    round_ = act(done.drawing, {"do": "fillet", "corner": corner, "radius": "4"})
    assert not round_.words and round_.solution.freedoms == done.solution.freedoms
    assert areas(round_.drawing) == [pytest.approx(600 - (4 - math.pi) * 4)]
    wide = next(k for k, held in round_.drawing.constraints.items() if held.value == "30")
    wider = act(round_.drawing, {"do": "retype", "constraint": wide, "value": "36"})
    assert areas(wider.drawing) == [pytest.approx(720 - (4 - math.pi) * 4)]
    bevel = act(done.drawing, {"do": "chamfer", "corner": corner, "setback": "5"})
    assert areas(bevel.drawing) == [pytest.approx(600 - 12.5)] and bevel.solution.freedoms == done.solution.freedoms
    with pytest.raises(SketchError, match=r"A radius of 25 mm does not fit"):
        act(done.drawing, {"do": "fillet", "corner": corner, "radius": "25"})


def test_a_circle_trimmed_is_an_arc_that_keeps_its_name_centre_and_size() -> None:
    drawing = drawn("circle by centre", pick(0, 0), pick(5, 0), diameter="10").drawing
    (circle,) = drawing.entities
    drawing = drawn("line", pick(0, -9), pick(0, 9), on=drawing).drawing
    done = act(drawing, {"do": "trim", "cuts": [[circle, [5, 0]]]})
    arc = done.drawing.entities[circle]
    assert isinstance(arc, Arc) and {held.type for held in done.drawing.constraints.values()} == {"diameter", "on"}
    assert done.solution.freedoms == 2 + 4  # the centre, and the line; the arc's ends lie where both cross


def test_moving_turning_and_scaling_keep_what_still_holds() -> None:
    drawing = drawn("rectangle by corners", pick(0, 0), pick(30, 20), width="30", height="20").drawing
    names = list(drawing.entities)
    assert not act(drawing, {"do": "move", "names": names, "dx": "5", "dy": "-3"}).words
    turned = act(drawing, {"do": "turn", "names": names, "angle": "30", "about": [0, 0]})
    assert turned.words.count("horizontal") == 2 and turned.words.count("vertical") == 2
    assert areas(turned.drawing) == [pytest.approx(600)]
    assert areas(act(drawing, {"do": "turn", "names": names, "angle": "90"}).drawing) == [pytest.approx(600)]
    scaled = act(drawing, {"do": "scale", "names": names, "factor": "1.5"})
    assert not scaled.words and areas(scaled.drawing) == [pytest.approx(1350)]
    twin = act(drawing, {"do": "scale", "names": names, "factor": "0.5", "about": [100, 0], "copy": True})
    assert areas(twin.drawing) == pytest.approx([150, 600])
    assert twin.solution.freedoms == 4


def test_splines_gain_and_lose_points_and_run_on_smoothly() -> None:
    line = drawn("line", pick(-10, 0), pick(0, 0, horizontal=""))
    end = line.drawing.entities[line.made[0]].b
    spline = drawn("spline", pick(0, 0, coincident=end), pick(10, 6), pick(20, 0), on=line.drawing)
    held = act(spline.drawing, {"do": "hold", "type": "tangent", "on": [line.made[0], spline.made[0]]})
    curve = held.drawing.entities[spline.made[0]]
    assert held.solution.freedoms == spline.solution.freedoms - 1
    assert held.drawing.points[curve.first][1] == pytest.approx(held.drawing.points[curve.through[0]][1])
    more = act(held.drawing, {"do": "insert point", "entity": spline.made[0], "at": [15, 4]})
    inserted = more.drawing.entities[spline.made[0]]
    assert len(inserted.through) == 4 and more.solution.freedoms == held.solution.freedoms + 2
    less = act(more.drawing, {"do": "drop point", "entity": spline.made[0], "point": inserted.through[2]})
    assert less.solution.freedoms == held.solution.freedoms
    erased = act(more.drawing, {"do": "erase", "names": [inserted.through[1]]})
    assert len(erased.drawing.entities[spline.made[0]].through) == 3
    assert not act(more.drawing, {"do": "erase", "names": [inserted.first]}).drawing.entities.keys() & {spline.made[0]}


def test_gaps_close_and_bad_acts_are_refused_in_words() -> None:
    drawing, points, lines = chain((0, 0), (10, 0), (10, 8), (0.2, 0))
    closed = act(drawing, {"do": "close gap", "a": [0, 0], "b": [0.2, 0]})
    assert len(areas(closed.drawing)) == 1
    for bad in (
        {"do": "trim", "cuts": [["L9999", [0, 0]]]},
        {"do": "fillet", "corner": points[0], "radius": "2"},
        {"do": "hold", "type": "tangent", "on": [lines[0], lines[1]]},
        {"do": "hold", "type": "radius", "on": [lines[0]], "value": "3"},
        {"do": "draw", "tool": "line", "picks": [pick(1, 1), pick(1, 1)]},
        {"do": "draw", "tool": "circle by three points", "picks": [pick(0, 0), pick(1, 1), pick(2, 2)]},
        {"do": "offset", "names": lines, "distance": "-1"},
        {"do": "row", "names": lines, "count": 3},
        {"do": "scale", "names": lines, "factor": "0"},
        {"do": "mirror", "names": [lines[0]], "axis": lines[0]},
        {"do": "fly"},
    ):
        with pytest.raises(SketchError) as fault:
            act(drawing, bad)
        assert fault.value.message and fault.value.hint
    assert isinstance(drawing.entities[lines[0]], Line)
