"""Outlines stay joined: after any act ends that meet are one point, and freedoms won or lost are told."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.spatial import cKDTree

from supplecast.errors import SketchError, SuppleError
from supplecast.sketch import regions
from supplecast.sketch.model import Arc, Drawing, ends_of
from supplecast.sketch.sizing import radii_of, size_of
from supplecast.sketch.solver import solve
from supplecast.sketch.work import Clash
from tests.referee.sketches import SCOPE, act, areas, chain, drawn, pick

Act = dict[str, Any]


def apart(drawing: Drawing) -> set[tuple[str, str]]:
    """Ends that lie within a third of a micron of each other and are not one point."""
    ends = sorted({p for entity in drawing.entities.values() for p in ends_of(entity)})
    if len(ends) < 2:
        return set()
    pairs = cKDTree(np.array([drawing.place(p) for p in ends])).query_pairs(3e-4)
    return {(ends[i], ends[j]) for i, j in pairs}


def hold(type_: str, *on: str, value: str | None = None) -> Act:
    return {"do": "hold", "type": type_, "on": list(on), "value": value}


def upright(drawing: Drawing | None = None) -> tuple[Drawing, str]:
    """An upright construction line through the origin, fixed."""
    done = drawn("line", pick(0, -60), pick(0, 60, vertical=""), on=drawing)
    (axis,) = done.made
    line = done.drawing.entities[axis]
    ends = [hold("distance y", "o", getattr(line, end), value=at) for end, at in (("a", "-60"), ("b", "60"))]
    fixed = act(done.drawing, hold("plumb", line.a, "o"), *ends, {"do": "construction", "names": [axis]})  # type: ignore[union-attr]
    return fixed.drawing, axis


def test_a_clip_of_touching_arcs_stays_joined_and_fixed_through_mirror_trim_and_offset() -> None:
    """A circle of 20, an arc of 6 that touches it from outside and ends on it at −30°, mirrored, the circle's lower part taken.

    By Steiner's formula the band of 1 to each side along a smooth line of length L, with round ends, has the area 2L + π.
    """
    drawing, axis = upright()
    done = drawn("circle by centre", pick(0, 0, coincident="o"), pick(20, 0), on=drawing, diameter="40")
    (ring,) = done.made
    t, u = math.radians(-30), math.radians(250)
    centre = (26 * math.cos(t), 26 * math.sin(t))
    start, end = (20 * math.cos(t), 20 * math.sin(t)), (centre[0] + 6 * math.cos(u), centre[1] + 6 * math.sin(u))
    done = drawn("arc by centre", pick(*centre), pick(*start, on=ring), pick(*end), on=done.drawing, radius="6")
    (foot,) = done.made
    arc = done.drawing.entities[foot]
    assert isinstance(arc, Arc)
    done = act(done.drawing, hold("tangent", ring, foot))
    assert done.solution.freedoms == 2  # from 3: that it touches where it ends is one thing more
    for held in (
        hold("distance x", "o", arc.c, value=f"{centre[0]:.6f}"),
        hold("distance y", "o", arc.b, value=f"{end[1]:.6f}"),
    ):
        done = act(done.drawing, held)
    assert done.solution.freedoms == 0
    for step in (
        {"do": "mirror", "names": [foot], "axis": axis},
        {"do": "trim", "cuts": [[ring, [-3, -19.7]], [ring, [3, -19.7]]]},
    ):
        done = act(done.drawing, step)
        assert done.solution.freedoms == 0 and not done.words and not apart(done.drawing)
    line = [name for name in done.drawing.entities if name != axis]
    gone = 2 * math.pi - math.radians(120)  # of the circle, from −30° to −150°, 120° are taken
    length = 20 * gone + 2 * 6 * math.radians(100)
    band = act(done.drawing, {"do": "offset", "names": line, "distance": "1", "side": "both", "ends": "round"})
    assert band.solution.freedoms == 0 and not band.solution.doubled
    assert areas(band.drawing) == [pytest.approx(2 * length + math.pi, rel=1e-6)]


def test_a_mirrored_end_on_the_base_line_is_its_end() -> None:
    drawing, axis = upright()
    done = drawn("line", pick(-25, -10), pick(25, -10, horizontal=""), on=drawing)
    base = done.drawing.entities[done.made[0]]
    done = act(done.drawing, {"do": "hold", "type": "symmetric", "on": [base.a, base.b, axis]})  # type: ignore[union-attr]
    arm = drawn("line", pick(25, -10, coincident=base.b), pick(10, 20), on=done.drawing)  # type: ignore[union-attr]
    both = act(arm.drawing, {"do": "mirror", "names": list(arm.made), "axis": axis})
    twin = both.drawing.entities[both.made[0]]
    assert base.a in ends_of(twin) and both.solution.freedoms == arm.solution.freedoms  # type: ignore[union-attr]
    with pytest.raises(SketchError, match="lies there already"):
        act(both.drawing, {"do": "mirror", "names": list(arm.made), "axis": axis})


def test_offsets_of_arcs_that_touch_are_not_in_their_own_way() -> None:
    done = drawn("arc by three points", pick(40, 0), pick(60, 0), pick(50, 10))
    first = done.drawing.entities[done.made[0]]
    done = drawn("tangent arc", pick(60, 0, coincident=first.b), pick(80, -3), on=done.drawing)  # type: ignore[union-attr]
    before, sources = done.solution.freedoms, list(done.drawing.entities)
    done = act(done.drawing, {"do": "offset", "names": sources, "distance": "2", "side": "both"})
    assert len(done.made) == 4 and done.solution.freedoms == before and not done.solution.doubled
    size = next(k for k, held in done.drawing.constraints.items() if held.type == "radius apart")
    radii = radii_of(act(done.drawing, {"do": "retype", "constraint": size, "value": "3"}).drawing)
    apart_now = [abs(radii[made] - radii[source]) for made, source in zip(done.made, [*sources, *sources], strict=True)]
    assert sorted(apart_now) == pytest.approx([2, 2, 3, 3])  # one side follows its size, the other keeps its own


def test_a_touch_at_an_extreme_is_not_said_already() -> None:
    """A line of 10 from a point 20 under a circle of 10: it just reaches. That it touches there says something of its own: the
    length alone leaves the line free to swing, its end off the circle.
    """
    done = drawn("circle by centre", pick(0, 0, coincident="o"), pick(10, 0), diameter="20")
    (ring,) = done.made
    done = drawn("line", pick(0, -20), pick(0.4, -10), on=done.drawing)
    (line,) = done.made
    held = done.drawing.entities[line]
    a, b = held.a, held.b  # type: ignore[union-attr]
    done = act(done.drawing, hold("distance x", "o", a, value="0"), hold("distance y", "o", a, value="-20"))
    done = act(done.drawing, hold("distance", a, b, value="10"))
    assert done.solution.freedoms == 1
    done = act(done.drawing, hold("on", b, ring))
    assert done.solution.freedoms == 0 and not done.solution.doubled
    assert done.drawing.points[b] == (pytest.approx(0, abs=1e-3), pytest.approx(-10, abs=1e-6))


@pytest.mark.parametrize("kind", ["row", "ring"])
def test_copies_keep_their_count_as_a_size(kind: str) -> None:
    done = drawn("circle by centre", pick(20, 0), pick(22, 0), diameter="4")
    spaced = {"dx": "8"} if kind == "row" else {"centre": "o"}
    row = act(done.drawing, {"do": kind, "names": list(done.made), "count": 10, **spaced})
    (name,) = row.drawing.series
    assert len(areas(row.drawing)) == 10
    freedoms = row.solution.freedoms
    for count in (9, 12, 2):
        row = act(row.drawing, {"do": "retype", "constraint": name, "value": str(count)})
        assert len(areas(row.drawing)) == count and row.solution.freedoms == freedoms and row.solution.misfit < 1e-9
        centres = np.array([row.drawing.place(entity.c) for entity in row.drawing.entities.values()])  # type: ignore[union-attr]
        if kind == "row":
            assert np.diff(np.sort(centres[:, 0])) == pytest.approx(np.full(count - 1, 8.0))
        else:
            angles = np.sort(np.degrees(np.arctan2(centres[:, 1], centres[:, 0])) % 360 + 1e-7)
            assert np.diff(angles) == pytest.approx(np.full(count - 1, 360 / count), abs=1e-5)
    for wrong in ("1", "2.5", "900", "x"):
        with pytest.raises(SuppleError):
            act(row.drawing, {"do": "retype", "constraint": name, "value": wrong})
    assert not act(row.drawing, {"do": "erase", "names": list(done.made)}).drawing.series


def test_a_ring_of_sides_closes() -> None:
    drawing, _, (side,) = chain((10, 0), (10 * math.cos(math.pi / 3), 10 * math.sin(math.pi / 3)))
    done = act(drawing, {"do": "ring", "names": [side], "count": 6})
    assert areas(done.drawing) == [pytest.approx(150 * math.sqrt(3), rel=1e-9)] and not apart(done.drawing)


# --- any acts, in any order ------------------------------------------------------------------------------------------


def ground(rng: np.random.Generator) -> tuple[Drawing, str]:
    """A circle, a base line across an axis, an arc that touches the circle and ends on it, a line from there to the base."""
    drawing, axis = upright()
    r, outside = float(rng.uniform(8, 20)), rng.random() < 0.6
    done = drawn("circle by centre", pick(0, 0, coincident="o"), pick(r, 0), on=drawing, diameter=f"{2 * r:.3f}")
    (ring,) = done.made
    h, w = -float(rng.uniform(0.3, 1.3)) * r, float(rng.uniform(1.2, 2.5)) * r
    done = drawn("line", pick(-w, h), pick(w, h, horizontal=""), on=done.drawing)
    (base,) = done.made
    t, small = float(rng.uniform(-1.2, 1.2)), float(rng.uniform(3, 9)) if outside else float(rng.uniform(0.3, 0.7)) * r
    away = r + small if outside else r - small
    centre = (away * math.cos(t), away * math.sin(t))
    u = t + (math.pi if outside else 0) + float(rng.uniform(0.6, 2.4))
    start = (centre[0] + small * math.cos(u), centre[1] + small * math.sin(u))
    end = (r * math.cos(t), r * math.sin(t))
    done = drawn("arc by centre", pick(*centre), pick(*start), pick(*end, on=ring), on=done.drawing)
    (arc,) = done.made
    done = act(done.drawing, hold("tangent", ring, arc))
    free = done.drawing.entities[arc].a  # type: ignore[union-attr]
    onward = pick(float(rng.uniform(-w, w)), h, on=base)
    return drawn("line", pick(*done.drawing.points[free], coincident=free), onward, on=done.drawing).drawing, axis


def something(rng: np.random.Generator, drawing: Drawing, axis: str) -> Act:
    names = [name for name in drawing.entities if name != axis]
    name = names[rng.integers(len(names))]
    curve = regions.curve(name, drawing, {**drawing.points, "o": (0.0, 0.0)}, radii_of(drawing))
    place = [float(v) for v in curve.at(np.array([rng.uniform(0.03, 0.97)]))[0]]
    some = list(dict.fromkeys(names[i] for i in rng.integers(0, len(names), rng.integers(1, 4))))
    linked = [name]
    for other in names:
        if other not in linked and set(ends_of(drawing.entities[other])) & {
            p for m in linked for p in ends_of(drawing.entities[m])
        }:
            linked.append(other)
    side = ("left", "right", "both", "in", "out")[rng.integers(5)]
    kinds: list[Act] = [
        *[{"do": "trim", "cuts": [[name, place]]}] * 4,
        *[{"do": "mirror", "names": some, "axis": axis}] * 2,
        *[{"do": "offset", "names": linked, "distance": f"{rng.uniform(0.3, 2):.2f}", "side": side}] * 2,
        {"do": "extend", "entity": name, "at": place},
        {"do": "cut", "entity": name, "at": place},
        {"do": "row", "names": some, "count": 2, "dx": "50"},
        {"do": "ring", "names": some, "count": int(rng.integers(2, 5))},
        {"do": "move", "names": some, "dx": "0.5", "dy": "0.3"},
        {"do": "move", "names": some, "dx": "60", "dy": "0", "copy": True},
    ]
    corners = [p for p in drawing.points if sum(p in ends_of(e) for e in drawing.entities.values()) == 2]
    if corners:
        kinds.append({"do": "fillet", "corner": corners[rng.integers(len(corners))], "radius": f"{rng.uniform(0.3, 1.5):.2f}"})
    return kinds[rng.integers(len(kinds))]


@pytest.mark.parametrize("seed", range(60))
def test_any_acts_leave_no_end_unjoined_and_no_freedom_untold(seed: int) -> None:
    rng = np.random.default_rng(seed)
    drawing, axis = ground(rng)
    for _ in range(6):
        one = something(rng, drawing, axis)
        before = solve(drawing, size_of(SCOPE)).freedoms
        try:
            done = act(drawing, one)
        except Clash as clash:
            raise AssertionError(f"{one}: {clash}") from clash
        except SketchError as refusal:
            assert refusal.hint
            continue
        assert not apart(done.drawing), one
        assert done.solution.freedoms == before or f"Freedoms {before} → {done.solution.freedoms}" in done.words, one
        assert before or not done.solution.freedoms or "No longer fully fixed" in done.words
        drawing = done.drawing
