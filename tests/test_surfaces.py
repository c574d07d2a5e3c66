"""Surfaces that fill, bridge and extend: areas and volumes in closed form, and what is refused."""

from __future__ import annotations

import math

import numpy as np
import pytest

from supplecast.document.step import Before, Step
from supplecast.errors import KernelError
from supplecast.geometry import Frame, unit
from supplecast.kernel import boolean, datums, edges, extend, measure, openings, patch, solid, split, surface
from supplecast.kernel.shapes.history import Made
from supplecast.kernel.shapes.shape import Solid
from supplecast.naming import Body, reference_edge, resolve_edges
from tests.conftest import STEPS, bodies, built, chain, drawn, extrude, part
from tests.referee import known
from tests.referee.bodies import fault, volume
from tests.referee.boxes import BOX, SIDES, step
from tests.referee.solids import block, facing

WAVES = {"p0": (0, 0), "p1": (10, 4), "p2": (20, -4), "p3": (30, 0), "h": (3, 4), "k": (27, 4)}
WAVY: STEPS = [
    drawn("k", WAVES, {"S1": {"type": "spline", "through": [f"p{k}" for k in range(4)], "first": "h", "last": "k"}}),
    extrude("f", "k", "20", fill="as a surface"),
]


def at_height(sheet: Solid, z: float) -> list[int]:
    return [e for e in range(sheet.number_of_edges) if abs(edges.middle(sheet, e)[2] - z) < 1e-6]


def rod(radius: float, low: float, length: float, end: float | None = None) -> Solid:
    """The side of a round or tapered rod."""
    end = radius if end is None else end
    whole = solid.cone((0, 0, low), (0, 0, 1), radius, end, length).solid if end != radius else (
        solid.cylinder((0, 0, low), (0, 0, 1), radius, length).solid)  # fmt: skip
    side = next(face for face in range(whole.face_count) if not measure.is_flat(whole, face))
    return surface.peeled(whole, [side]).solid


@pytest.mark.parametrize("at", [0.0, 1000.0])
def test_a_surface_knows_its_area_and_the_middle_of_it(at: float) -> None:
    """A cone's side: π (r + R) s, its middle at h/3 · (R + 2 r)/(R + r); a spline's side by fine chords."""
    side = measure.mass(rod(10, at, 20, 5))
    assert side.area == pytest.approx(math.pi * 15 * math.hypot(20, 5), rel=1e-9)
    assert side.centroid == pytest.approx((0, 0, at + 20 / 3 * (10 + 2 * 5) / 15), abs=1e-9)
    made = built(part(WAVY)).state
    chords = np.hypot(*np.diff(made.sketches["k"].curves[0].sampled(200_000), axis=0).T).sum()
    assert measure.mass(made.bodies["f"].body.solid).area == pytest.approx(20 * float(chords), rel=1e-9)


# --- filling --------------------------------------------------------------------------------------------------------

OPEN: STEPS = [
    *BOX,
    {"id": "o", "type": "offset surface", "faces": [*SIDES, {"face": "e1.start"}], "distance": "0"},
    {"id": "d", "type": "delete body", "bodies": ["e1"]},
]
RIM = {"edge": ["o.of{e1.side[f1_L1]}", "o.of{e1.side[f1_L1]}"]}


def test_one_edge_of_an_opening_is_enough_to_close_it() -> None:
    for pick in (RIM, {"rule": "opening", "edge": RIM}):
        lid = {"id": "f", "type": "fill hole", "edges": [pick]}
        assert volume([*OPEN, lid, step("sew", surfaces=["o", "f"])], "x") == pytest.approx(24000, rel=1e-12)
    smooth = {"id": "f", "type": "fill hole", "edges": [RIM], "meeting": "smooth"}
    assert "turn by 90°" in fault([*OPEN, smooth])[1]
    assert (
        "do not close" in fault([*BOX, {"id": "f", "type": "fill hole", "edges": [{"edge": ["e1.end", SIDES[0]["face"]]}]}])[1]
    )
    assert fault([*BOX, {"id": "f", "type": "fill hole"}])[0] == "edges"
    sides = [{"id": f"o{n}", "type": "offset surface", "faces": [face], "distance": "0"} for n, face in enumerate(SIDES)]
    assert "Fill hole" in fault([*BOX, *sides, step("sew", surfaces=[f"o{n}" for n in range(4)])])[2]


def test_a_hole_in_a_round_wall_is_filled_smoothly() -> None:
    """The patch keeps to its edge, leaves it along the wall, and comes within 0.2 % of the piece of cylinder that was cut out:
    its area as an integral over the bore's circle, its opening known in closed form.
    """
    tube = solid.cylinder((0, 0, 0), (0, 0, 1), 20, 60).solid
    bored = boolean.cut(tube, [solid.cylinder((0, -30, 30), (0, 1, 0), 6, 30).solid])[0].solid
    wall = max(range(bored.face_count), key=lambda face: measure.face_area(bored, face))
    sheet = surface.peeled(bored, [wall]).solid
    (rim,) = [e for e in openings.open_edges(sheet) if 20 < edges.middle(sheet, e)[2] < 40]
    x = (np.arange(20000) + 0.5) / 20000 * 12 - 6
    want = float((2 * np.sqrt(36 - x**2) / np.sqrt(1 - (x / 20) ** 2)).sum() * 12 / 20000)
    smooth, plain = (patch.filled(sheet, [rim], smooth=how).solid for how in (True, False))
    assert measure.face_area(smooth, 0) == pytest.approx(want, rel=2e-3)
    assert measure.face_area(plain, 0) <= measure.face_area(smooth, 0)
    ends = [patch.filled(sheet, at_height(sheet, z)).solid for z in (0, 60)]
    closed = surface.sewn([sheet, smooth, *ends]).solid
    assert measure.volume(closed) == pytest.approx(math.pi * 400 * 60, rel=1e-4)


# --- bridging -------------------------------------------------------------------------------------------------------


def test_two_rims_are_bridged_by_the_cone_between_them() -> None:
    low, high = rod(10, 0, 15), rod(15, 40, 10)
    between = patch.bridged((low, at_height(low, 15)), (high, at_height(high, 40)))
    assert measure.mass(between.solid).area == pytest.approx(math.pi * 25 * math.hypot(5, 25), rel=1e-9)
    assert measure.surface_word(between.solid, 0) == "conical"
    ends = [patch.filled(low, at_height(low, 0)).solid, patch.filled(high, at_height(high, 50)).solid]
    closed = surface.sewn([low, between.solid, high, *ends]).solid
    cone = math.pi * 25 / 3 * (100 + 150 + 225)
    assert measure.volume(closed) == pytest.approx(math.pi * (100 * 15 + 225 * 10) + cone, rel=1e-9)


def test_a_square_is_bridged_to_a_circle() -> None:
    """Matched by shares of their length from a corner on; between, the area is quadratic in the height, so Simpson is exact."""
    box, pipe = block(20, 20, 5), rod(15, 40, 10)
    (top,) = facing(box, 5)
    around = np.linspace(0, 1, 40000, endpoint=False)
    turned = 2 * math.pi * around
    circle = np.column_stack([15 * np.cos(turned + math.pi / 4), 15 * np.sin(turned + math.pi / 4)])
    corners = np.array([(10, 10), (-10, 10), (-10, -10), (10, -10), (10, 10)], float)
    square = np.column_stack([np.interp(around * 4, range(5), corners[:, k]) for k in (0, 1)])

    def area(loop: np.ndarray) -> float:  # type: ignore[type-arg]
        on = np.roll(loop, -1, axis=0)
        return float((loop[:, 0] * on[:, 1] - loop[:, 1] * on[:, 0]).sum() / 2)

    want = 35 / 6 * (area(square) + 4 * area((square + circle) / 2) + area(circle))
    runs = (box, edges.outer_loop(box, top)), (pipe, at_height(pipe, 40))
    lid = patch.filled(pipe, at_height(pipe, 50)).solid
    tray = surface.peeled(box, [face for face in range(6) if face != top]).solid
    for first, second in (runs, runs[::-1]):
        between = patch.bridged(first, second)
        closed = surface.sewn([tray, between.solid, pipe, lid]).solid
        assert measure.volume(closed) == pytest.approx(2000 + want + math.pi * 225 * 10, rel=1e-6)
        assert between.solid.face_count == 4 and all(row[0].role == "bridge" for row in between.origins)


def test_what_bridges_refuse() -> None:
    box, pipe = block(20, 20, 5), rod(15, 40, 10)
    (top,) = facing(box, 5)
    loop = edges.outer_loop(box, top)
    with pytest.raises(KernelError, match="second edges close and the first do not"):
        patch.bridged((box, loop[:1]), (pipe, at_height(pipe, 40)))
    upright = next(e for e in range(box.number_of_edges) if abs(edges.middle(box, e)[2] - 2.5) < 1e-6)
    apart = [e for e in loop if not set(edges.end_vertices(box, e)) & set(edges.end_vertices(box, upright))]
    with pytest.raises(KernelError, match="first edges do not follow one another: they are 2 runs"):
        patch.bridged((box, [apart[0], upright]), (pipe, at_height(pipe, 40)))
    bridge = {"id": "b", "type": "bridge surface"}
    assert fault([*BOX, bridge])[:2] == ("first", "No edge is picked.")
    for alone in (bridge, {"id": "f", "type": "fill hole"}, {"id": "x", "type": "remove face"}):
        assert "no body yet" in fault([alone])[1]
    assert fault([*BOX, {**bridge, "first": [{"rule": "outer loop", "of": "e1.end"}]}])[0] == "second"
    bridge |= {name: [{"rule": "outer loop", "of": f"e1.{face}"}] for name, face in (("first", "start"), ("second", "end"))}
    made = bodies(part([*BOX, bridge]))["b"]
    assert made.role == "surface" and measure.mass(made.body.solid).area == pytest.approx(2 * (40 + 30) * 20, rel=1e-12)


# --- extending ------------------------------------------------------------------------------------------------------


def grown(sheet: Solid, by: float, some: list[int]) -> float:
    made: Made = extend.extended(sheet, by, some)
    assert made.solid.face_count == 1
    near = measure.point_inside(sheet, 0)
    assert near is not None
    assert datums.normal_at(made.solid, 0, near)[1] == pytest.approx(datums.normal_at(sheet, 0, near)[1], abs=1e-9)
    return measure.face_area(made.solid, 0) - measure.face_area(sheet, 0)


@pytest.mark.parametrize("side", [5, -5])
def test_a_flat_surface_grows_beyond_picked_edges_with_mitred_corners(side: float) -> None:
    box = block(20, 30, 5)
    sheet = surface.peeled(box, facing(box, side)).solid
    long, short = ([e for e in range(4) if math.isclose(edges.length(sheet, e), want)] for want in (30, 20))
    assert grown(sheet, 3, long[:1]) == pytest.approx(90)
    assert grown(sheet, 3, long) == pytest.approx(180)
    assert grown(sheet, 3, [long[0], short[0]]) == pytest.approx(33 * 23 - 600)
    assert grown(sheet, 3, [*long, *short]) == pytest.approx(36 * 26 - 600)


def test_round_and_free_surfaces_grow_beyond_picked_sides() -> None:
    half = boolean.cut(rod_whole(), [solid.box((-20, -20, -1), (20, 0, 21)).solid])[0].solid
    side = next(face for face in range(half.face_count) if measure.surface_word(half, face) == "round")
    sheet = surface.peeled(half, [side]).solid
    for edge in range(4):
        long = edges.length(sheet, edge)
        assert grown(sheet, 3, [edge]) == pytest.approx(3 * (20 if math.isclose(long, 20) else math.pi * 10), rel=1e-9)
    cone = rod(10, 0, 20, 5)
    slope = 5 / math.hypot(20, 5)
    assert grown(cone, 3, at_height(cone, 0)) == pytest.approx(3 * math.pi * (20 + 3 * slope), rel=1e-9)
    assert grown(cone, 3, at_height(cone, 20)) == pytest.approx(3 * math.pi * (10 - 3 * slope), rel=1e-9)
    sheet = bodies(part(WAVY))["f"].body.solid
    (top,) = at_height(sheet, 20)
    assert grown(sheet, 3, [top]) == pytest.approx(3 * edges.length(sheet, top), rel=1e-5)


def rod_whole() -> Solid:
    return solid.cylinder((0, 0, 0), (0, 0, 1), 10, 20).solid


def test_what_extending_refuses() -> None:
    disc = surface.peeled(rod_whole(), facing(rod_whole(), 20)).solid
    with pytest.raises(KernelError, match="straight edges"):
        extend.extended(disc, 3, [0])
    flat: STEPS = [chain("k", (0, 0), (30, 0)), extrude("f", "k", "20", fill="as a surface")]
    grow = {"id": "w", "type": "extend surface", "by": "5", "beyond": "picked edges"}
    assert fault([*flat, grow])[0] == "edges"
    assert "is a solid" in fault([*BOX, {**grow, "edges": [{"edge": ["e1.end", SIDES[0]["face"]]}]}])[1]


def test_a_new_step_takes_the_surfaces_that_are_left() -> None:
    """Those that steps made and none used up; with picked edges a surface grows there."""
    lid = {"id": "f", "type": "fill hole", "edges": [RIM]}
    before = Before(part([*OPEN, lid]).steps)
    assert Step.registry["sew"].fresh(before, []) == {"surfaces": ["o", "f"]}
    assert Step.registry["thicken"].fresh(before, []) == {"surface": "f"}
    assert Step.registry["extend surface"].fresh(before, [RIM]) == {"beyond": "picked edges", "edges": [RIM]}
    sewn = Before(part([*OPEN, lid, step("sew", surfaces=["o", "f"])]).steps)
    assert sewn.surfaces() == [] and Step.registry["thicken"].fresh(sewn, []) == {"surface": None}


@pytest.mark.parametrize("edit", [{}, {"distance": "3"}, {"distance": "70"}])
def test_open_edges_of_one_face_are_told_apart_and_found_again(edit: dict[str, str]) -> None:
    """All four of a flat sheet, long or short, and both rims of a tube, whose seam nobody means."""
    flat = [chain("k", (0, 0), (30, 0)), extrude("f", "k", "20", fill="as a surface")]
    sheet = bodies(part(flat))["f"].body
    picked = [reference_edge(sheet, edge, "f") for edge in range(4)]
    now = bodies(part([flat[0], {**flat[1], **edit}]))["f"].body
    ends = [resolve_edges(now, reference).items for reference in picked]
    assert sorted(ends) == [(0,), (1,), (2,), (3,)]
    for before, (after,) in zip(range(4), ends, strict=True):
        a, b = (edges.middle(body.solid, index) for body, index in ((sheet, before), (now, after)))
        assert [round(c - 15) for c in a[:1]] == [round(c - 15) for c in b[:1]] and (a[2] > 19) == (b[2] > now_high(now))
    line = chain("k", (10, 0), (10, 4), on={"plane": "front"})
    tube = bodies(part([line, {"id": "f", "type": "revolve", "profile": {"sketch": "k"}, "fill": "as a surface"}]))["f"].body
    rims = openings.open_edges(tube.solid)
    assert [resolve_edges(tube, reference_edge(tube, rim)).items for rim in rims] == [(rim,) for rim in rims]


def now_high(body: Body) -> float:
    """Just below the top of a sheet."""
    return measure.box(body.solid).high[2] - 1e-3


def test_the_box_of_a_trimmed_face_is_that_of_its_places() -> None:
    """A patch over three sides of a box lies within its six edges; a ball's cap cut off obliquely reaches as far as its circle
    and its own top say: h = √(r² − d²) across, in closed form.
    """
    three = [*BOX, {"id": "o", "type": "offset surface", "faces": [{"face": "e1.end"}, *SIDES[:2]], "distance": "0"}]
    sheet = bodies(part(three))["o"].body.solid
    lid = patch.filled(sheet, openings.open_edges(sheet)[:1]).solid
    assert measure.box(lid).low == pytest.approx((-20, -15, 0), abs=1e-5)
    assert measure.box(lid).high == pytest.approx((20, 15, 20), abs=1e-5)
    away = 3 / math.hypot(1, 2)  # the plane x + 2 z = 3 cuts the ball of radius 6 that far from its middle
    frame = Frame((3.0, 0.0, 0.0), (0.0, 1.0, 0.0), unit((1.0, 0.0, 2.0)))
    cap = max(split.by_plane(known.a_ball()[0], frame), key=lambda made: measure.rough_centroid(made.solid)[2]).solid
    across = math.sqrt(36 - away**2)
    lean = math.atan2(1, 2)
    middle, radius = (away * math.sin(lean), away * math.cos(lean)), across
    want_low = (middle[0] - radius * math.cos(lean), -across, middle[1] - radius * math.sin(lean))
    want_high = (6.0, across, 6.0)  # the ball's own extremes lie in the cap
    assert measure.box(cap).low == pytest.approx(want_low, abs=1e-6)
    assert measure.box(cap).high == pytest.approx(want_high, abs=1e-6)
