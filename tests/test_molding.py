"""Whether a part can be molded: against closed forms, brute force and other engines."""

from __future__ import annotations

import functools
import math
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import union_all
from shapely.geometry import Polygon

from supplecast.geometry import Axis, Frame, Vec, unit
from supplecast.kernel import boolean, check, facing, measure, mesh, move, silhouette
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs.solid import box, cone, cylinder
from supplecast.molding import estimates, flow, gauges, undercut, wall
from supplecast.molding.gauges import Asked, Judged
from supplecast.molding.judge import Pulled, Skin, skin_of
from supplecast.molding.sampled import sampled
from supplecast.tooling.resins import RESINS
from tests.conftest import STEPS, bodies, chain, circle, extrude, part, rectangle

UP = (0.0, 0.0, 1.0)


def solid_of(steps: STEPS, body: str = "e") -> Solid:
    return bodies(part(steps))[body].body.solid


def rounded(edges: dict[str, Any], radius: str = "3") -> dict[str, Any]:
    return {"id": "f", "type": "fillet", "radius": radius, "edges": [edges]}


def judged(solid: Solid, pull: Vec = UP) -> Pulled:
    return Pulled(Skin(solid), pull)


# --- draft ----------------------------------------------------------------------------------------------------------


def leaning(angle: float) -> Vec:
    return (0.0, math.sin(math.radians(angle)), math.cos(math.radians(angle)))


@pytest.mark.parametrize("tilt", [0.0, 3.0, 20.0, 75.0])
def test_draft_of_tilted_cylinders_and_cones(tilt: float) -> None:
    """A cylinder leans as far as its axis, either way; a cone by its half angle more and less (closed form)."""
    half = math.degrees(math.atan(3 / 20))
    for shape, lean in ((cylinder((0, 0, 0), UP, 5, 20), 0.0), (cone((0, 0, 0), UP, 8, 5, 20), half)):
        side = next(face for face, row in enumerate(shape.origins) if row[0].role == "side")
        degrees = np.degrees(facing.drafts(shape.solid, leaning(tilt)))[side]
        assert degrees == pytest.approx([lean - tilt, lean + tilt], abs=1e-9)


def test_draft_of_balls_and_rings() -> None:
    """A fillet round a lid turns from its wall to its top, an eighth of a ball as far as its corners (closed form)."""
    lid = [circle("s", "40"), extrude("e", "s", "10"), rounded({"rule": "outer loop", "of": "e.end"})]
    solid = solid_of(lid)
    ring = next(face for face in range(solid.face_count) if measure.surface_word(solid, face) == "ring")
    assert np.degrees(facing.drafts(solid, UP)[ring]) == pytest.approx([0, 90], abs=1e-5)
    # Tilted by 20°: from 20° under to square on, which lies on the ring.
    assert np.degrees(facing.drafts(solid, leaning(20))[ring]) == pytest.approx([-20, 90], abs=1e-4)
    whole = [rectangle("s", "10", "10"), extrude("e", "s", "10"), rounded({"rule": "every"})]
    corners = solid_of(whole)
    balls = [face for face in range(corners.face_count) if measure.surface_word(corners, face) == "ball"]
    assert len(balls) == 8
    for low, high in np.degrees(facing.drafts(corners, (1.0, 1.0, 1.0)))[balls]:
        # An eighth of a ball about ±(1, 1, 1) reaches from 35.26° to 90°; its neighbours from −19.47° up to 54.74° or less.
        assert any((low, high) == pytest.approx(pair, abs=1e-4) for pair in _EIGHTHS)


_DIAGONAL, _EDGE = math.degrees(math.asin(1 / math.sqrt(3))), math.degrees(math.asin(math.sqrt(2 / 3)))
_EIGHTHS = [(_DIAGONAL, 90), (-90, -_DIAGONAL), (-_DIAGONAL, _EDGE), (-_EDGE, _DIAGONAL)]


LOFT: STEPS = [
    circle("a", "30"),
    rectangle("b", "34", "22", on={"plane": "top", "offset": "25"}),
    {"id": "e", "type": "loft", "over": [{"sketch": "a"}, {"sketch": "b"}]},
]


@functools.cache
def _finely_meshed() -> list[tuple[Solid, mesh.Mesh]]:
    steps = [rectangle("s", "40", "30"), extrude("e", "s", "20", draft="4"), rounded({"rule": "every"}, "5")]
    return [(solid, mesh.tessellate(solid, 0.01, 0.03)) for solid in (solid_of(steps), solid_of(LOFT))]


@pytest.mark.slow
@settings(max_examples=12, deadline=None)
@given(st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: math.hypot(*v) > 0.1))
def test_draft_is_no_narrower_than_any_place_of_the_face(pull: tuple[float, float, float]) -> None:
    """Against thousands of normals on every face of parts with rounds, cones and free faces; and reached to 0.05°."""
    for solid, fine in _finely_meshed():
        found = np.degrees(facing.drafts(solid, unit(pull)))
        start = 0
        for face, end in enumerate(fine.face_ends):
            nodes = np.unique(fine.triangles[start:end])
            start = end
            normals = fine.normals[nodes] / np.linalg.norm(fine.normals[nodes], axis=1)[:, None]
            seen = np.degrees(np.arcsin(np.clip(normals @ np.array(unit(pull)), -1, 1)))
            assert found[face, 0] <= seen.min() + 0.01 and found[face, 1] >= seen.max() - 0.01
            assert seen.min() - found[face, 0] < 2.0 and found[face, 1] - seen.max() < 2.0  # nodes lie 0.03 rad apart


def test_faces_in_order_of_need() -> None:
    """A wall drawn straight comes before one that leans too little; what turns over is told apart."""
    steps = [rectangle("s", "40", "30"), extrude("e", "s", "20"),
             {"id": "d", "type": "draft", "faces": [{"face": "e.side[f1_L1]"}], "angle": "0.5"},
             {"id": "d2", "type": "draft", "faces": [{"face": "e.side[f1_L3]"}], "angle": "3"}]  # fmt: skip
    body = bodies(part(steps))["e"].body
    pulled = judged(body.solid)
    tags = [body.tags[face][0] for face in pulled.short(math.radians(1.0))]
    assert set(tags[:2]) == {"e.side[f1_L2]", "e.side[f1_L4]"} and tags[2:] == ["e.side[f1_L1]"] and not pulled.turning
    lying = judged(cylinder((0, 0, 0), (1, 0, 0), 5, 20).solid)
    assert len(lying.turning) == 1


TILTED = [UP, unit((0.3, 0.2, 1.0)), unit((1.0, 0.2, 0.5))]


@pytest.mark.parametrize("pull", TILTED)
@pytest.mark.parametrize(
    "solid",
    [
        cylinder((0, 0, 0), (1, 0, 0.2), 5, 20).solid,
        cone((0, 0, 0), (1, 0, 0.2), 8, 5, 20).solid,
        [circle("s", "40"), extrude("e", "s", "10"), rounded({"rule": "outer loop", "of": "e.end"})],
        [rectangle("s", "40", "30"), extrude("e", "s", "20"), rounded({"rule": "every"}, "5")],
        LOFT,
    ],
    ids=["cylinder", "cone", "ring", "balls", "free"],
)
def test_faces_split_where_they_turn_over_are_seen_from_one_side(solid: Any, pull: Vec) -> None:
    """No face is left that turns over; the volume stays, and the lines lie where n·d = 0, to 2 µm on the way across."""
    body = solid if isinstance(solid, Solid) else solid_of(solid)
    made = silhouette.split(body, pull)
    degrees = np.degrees(facing.drafts(made.solid, pull))
    assert not ((degrees[:, 0] < -0.05) & (degrees[:, 1] > 0.05)).any() and not check.faults(made.solid)
    assert measure.volume(made.solid) == pytest.approx(measure.volume(body), rel=2e-8)
    assert all(made.origins)  # every piece keeps the name of its face
    turning = silhouette.turning(facing.drafts(body, pull))
    assert bool(turning) == (made.solid.face_count > body.face_count)


def test_a_silhouette_is_the_line_it_must_be() -> None:
    """On a lying cylinder two lines at its widest (closed form)."""
    lying = cylinder((0, 0, 0), (1, 0, 0), 5, 20).solid
    pulled = judged(lying)
    spots = np.concatenate(pulled.silhouettes)
    assert (
        np.allclose(np.abs(spots[:, 1]), 5)
        and np.allclose(spots[:, 2], 0, atol=1e-9)
        and np.ptp(spots[:, 0]) == pytest.approx(20)
    )


# --- undercuts ------------------------------------------------------------------------------------------------------

TRAY: STEPS = [
    rectangle("s", "60", "40"),
    extrude("e", "s", "20", direction="down", draft="2"),
    {"id": "sh", "type": "shell", "wall": "2", "open": [{"face": "e.start"}]},
]


def test_a_tray_opens_freely_and_a_window_needs_a_slide() -> None:
    """Through a wall that leans by 2° (by hand, ±3 %)."""
    assert not judged(solid_of(TRAY)).undercuts
    window = [
        rectangle("w", "12", "6", y="-10", on={"plane": "front"}),
        extrude("c", "w", "60", direction="down", result="cut"),
    ]
    (found,) = judged(solid_of([*TRAY, *window])).undercuts
    assert found.slide is not None and abs(found.slide[1]) == pytest.approx(1)
    # Sill and lintel look into each other but for the shade by which the wall leans past; so do the jambs, above and below.
    wide, shade = 2 / math.cos(math.radians(2)), 6 * math.tan(math.radians(2))
    assert found.area == pytest.approx(2 * 12 * (wide - shade) + 2 * 6 * (wide - shade), rel=0.03)


def test_a_hook_hides_what_lies_under_it() -> None:
    """Under a ledge of 3 mm on a block, 20 mm long, over a foot as wide: ledge and foot hide each other (±3 %)."""
    outline = chain(
        "s", (0, 0), (13, 0), (13, 4), (10, 4), (10, 12), (13, 12), (13, 15), (0, 15), (0, 0), on={"plane": "front"}
    )
    (found,) = judged(solid_of([outline, extrude("e", "s", "20")])).undercuts
    assert found.area == pytest.approx(20 * (3 + 8 + 3), rel=0.03)
    assert found.slide == pytest.approx((1, 0, 0)) and found.share == pytest.approx(1, abs=0.01)


def test_a_closed_hollow_cannot_be_freed() -> None:
    hollow = [rectangle("s", "30", "30"), extrude("e", "s", "20"), {"id": "sh", "type": "shell", "wall": "3", "open": []}]
    (found,) = judged(solid_of(hollow)).undercuts
    assert found.slide is None and found.share == 0 and found.closed
    assert "closed hollow" in strip(solid_of(hollow))["undercut"].offenders[0].words
    assert found.area == pytest.approx(2 * (24 * 24 + 2 * 24 * 14), rel=1e-6)


def test_the_pull_that_hides_least_is_suggested_first() -> None:
    skin = Skin(solid_of(TRAY)).places
    (best, least), *others = undercut.suggested_pull(skin)
    assert best == (0, 0, 1) and least == 0 and all(share > 0.3 for _, share in others)


# --- walls ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("rib", "round_"), [(1.2, 0.0), (1.2, 0.5), (1.6, 0.5), (1.2, 1.0)])
def test_the_ball_at_a_ribs_root(rib: float, round_: float) -> None:
    """D = ((t/2 + R)² + (s + R)² − R²) / (s + 2R) (closed form), found to ±0.5 % on a plate with a rib."""
    foot = rectangle("r", f"{rib}", "30", on={"plane": "top", "offset": "2"})
    plate = [rectangle("s", "40", "30"), extrude("e", "s", "2"), foot, extrude("x", "r", "10", result="add")]
    if round_:
        plate.append(rounded({"rule": "concave"}, f"{round_}"))
    walls = Skin(solid_of(plate)).walls
    expected = wall.root_ball(rib, 2.0, round_)
    assert expected == pytest.approx(
        {(1.2, 0.0): 2.18, (1.2, 0.5): 2.4033, (1.6, 0.5): 2.5633, (1.2, 1.0): 2.64}[rib, round_], abs=1e-4
    )
    thickest = max((spot.wall for spot in walls.thick()), default=walls._climbed(np.flatnonzero(~walls.rim))[0])
    assert thickest == pytest.approx(expected, rel=5e-3)
    assert walls.usual == pytest.approx(2.0, rel=1e-3)


def test_a_thin_spot_is_found_with_its_place_and_size() -> None:
    """A pocket of 10 mm leaves 1 mm of a floor of 2 mm: a disc of 78.5 mm², seen from both of its sides."""
    pocket = [circle("p", "10", on={"plane": "top", "offset": "2"}), extrude("c", "p", "1", direction="down", result="cut")]
    walls = Skin(solid_of([rectangle("s", "40", "30"), extrude("e", "s", "2"), *pocket])).walls
    spots = walls.thin(1.1)
    assert sum(spot.area for spot in spots) == pytest.approx(2 * math.pi * 25, rel=0.06)
    assert all(spot.wall == pytest.approx(1.0, rel=1e-3) and math.hypot(*spot.place[:2]) < 5.1 for spot in spots)
    assert walls.usual == pytest.approx(2.0, rel=1e-3) and not walls.thick()


# --- flow -----------------------------------------------------------------------------------------------------------


def test_flow_round_a_hole_in_a_plate() -> None:
    """The taut string round a hole of radius 15: two tangents and an arc (closed form); a corner by Pythagoras (±3 %)."""
    hole = [circle("h", "30"), extrude("c", "h", "5", direction="both ways", result="cut")]
    plate = [rectangle("s", "100", "60"), extrude("e", "s", "2"), *hole]
    walls = Skin(solid_of(plate)).walls
    found = flow.flow(walls, (-45.0, 0.0, 2.0))
    places = walls.skin.middles
    straight = int(np.linalg.norm(places - (45, 0, 2), axis=1).argmin())
    x = abs(places[straight, 0])
    taut = math.sqrt(45**2 - 15**2) + math.sqrt(x**2 - 15**2) + 15 * (math.pi - math.acos(15 / 45) - math.acos(15 / x))
    assert found.lengths[straight] == pytest.approx(taut, rel=0.03)
    corner = int(np.linalg.norm(places - (-49, 29, 2), axis=1).argmin())
    assert found.lengths[corner] == pytest.approx(math.dist(places[corner, :2], (-45, 0)), rel=0.05)
    assert found.ratios[straight] == pytest.approx(found.lengths[straight] / 2.0, rel=0.02)


def test_melt_does_not_jump_a_slit() -> None:
    """A ring slit through, gap 0.4 mm: to the other side of the slit the melt goes all the way round."""
    ring = [circle("o", "60"), circle("i", "52"), extrude("e", "o", "4"), extrude("c", "i", "4", result="cut")]
    slit = [rectangle("q", "20", "0.4", x="28", on={"plane": "top"}), extrude("d", "q", "4", result="cut")]
    walls = Skin(solid_of([*ring, *slit])).walls
    found = flow.flow(walls, (28.0, 0.3, 4.0))
    across = int(np.linalg.norm(walls.skin.middles - (28, -0.6, 2), axis=1).argmin())
    assert found.lengths[across] > 0.95 * 2 * math.pi * 26


# --- estimates ------------------------------------------------------------------------------------------------------


def test_the_shadow_is_that_of_shapely() -> None:
    solid = solid_of([*TRAY, circle("h", "8"), extrude("c", "h", "50", direction="both ways", result="cut")])
    fine = mesh.tessellate(solid, 0.02, 0.2)
    for pull in (UP, (0.0, 1.0, 0.0), unit((1.0, 2.0, 3.0))):
        points, triangles = fine.welded()
        n = np.array(pull)
        x = np.cross(n, (0.3, 0.9, 0.1))
        x /= np.linalg.norm(x)
        flat = points @ np.stack([x, np.cross(n, x)], axis=1)
        outlines = [Polygon(flat[t]) for t in triangles]
        shadow = union_all([p for p in outlines if p.area > 1e-9]).area
        assert estimates.projected_area([fine.welded()], pull) == pytest.approx(shadow, rel=1e-5)


# --- gauges ---------------------------------------------------------------------------------------------------------


def strip(solid: Solid, **asked: Any) -> dict[str, gauges.Gauge]:
    ask = Asked(asked.pop("resin", RESINS["ABS"]), asked.pop("pull", UP), **asked)
    pulled = judged(solid, ask.pull)
    body = Judged("e", "Tray", pulled, pulled.flow(ask.gate) if ask.gate else None)
    return {gauge.id: gauge for gauge in gauges.gauges([body], ask)}


def test_the_sharp_rim_of_a_leaning_wall_is_no_thin_spot() -> None:
    """A funnel's rim is cut level, so that its walls, 20° off the pull, end in acute edges: the wall is 1.6 mm all the same."""
    funnel = [circle("s", "40"), extrude("e", "s", "30", direction="down", draft="20"),
              {"id": "sh", "type": "shell", "wall": "1.6", "open": [{"face": "e.start"}, {"face": "e.end"}]}]  # fmt: skip
    walls = Skin(solid_of(funnel)).walls
    assert walls.usual == pytest.approx(1.6, rel=5e-3) and walls.thin(1.0) == []


def test_the_corner_of_three_walls_is_thick() -> None:
    """Where three walls s meet sharply the largest ball has D = 2 s √3 / (1 + √3) (closed form)."""
    shell = {"id": "sh", "type": "shell", "wall": "2", "open": [{"face": "e.end"}]}
    walls = Skin(solid_of([rectangle("s", "60", "40"), extrude("e", "s", "20"), shell])).walls
    assert walls.thick()[0].wall == pytest.approx(4 * math.sqrt(3) / (1 + math.sqrt(3)), rel=5e-3)


ROUNDS: STEPS = [{"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": "6"},
                 {"id": "f", "type": "fillet", "edges": [{"rule": "outer loop", "of": "e.end"}], "radius": "4"}]  # fmt: skip


def test_a_slot_through_a_wall_makes_no_thick_spot() -> None:
    """Along the wall, from its cut on, a ball would be larger than the wall is thick: skin enters all of them."""
    slot = {"id": "l", "type": "sketch", "on": {"plane": "front"},
            "draw": [{"kind": "slot", "length": "14", "width": "3", "y": "-14"}]}  # fmt: skip
    cut = {"id": "x", "type": "extrude", "result": "cut", "profile": {"sketch": "l"}, "distance": "60"}
    assert Skin(solid_of([*TRAY[:2], *ROUNDS, TRAY[2], slot, cut])).walls.thick() == []


def test_a_sound_tray_is_good_all_round() -> None:
    found = strip(solid_of([*TRAY[:2], *ROUNDS, TRAY[2]]), gate=(0.0, 0.0, 0.0))
    assert {found[name].state for name in ("wall", "draft", "undercut", "sink", "flow")} == {"good"}
    assert found["wall"].value == "2" and found["draft"].value == "2"
    top = 60 * 40 - (4 - math.pi) * 36
    assert float(found["clamp"].figures[0].words.split()[0]) == pytest.approx(top / 100, rel=1e-3)
    # 1.05 g/cm³, 1000 mm³ to the cm³
    assert strip(box((0, 0, 0), (50, 40, 20)).solid)["mass"].value == "42"


@pytest.mark.parametrize(
    ("asked", "gauge", "words"),
    [
        ({"texture": 0.05}, "draft", "short"),  # asks for 3°
        ({"resin": None}, "mass", "no resin chosen"),
        ({"resin": None}, "clamp", "no resin chosen"),
        ({"resin": RESINS["Silicone"]}, "clamp", "cast by hand"),
        ({}, "flow", "no gate chosen"),
        ({"pull": (1.0, 0.0, 0.0)}, "undercut", "slide"),
        ({"resin": RESINS["Plaster"]}, "wall", "thin"),
    ],
)
def test_gauges_say_what_is_missing_or_wrong(asked: dict[str, Any], gauge: str, words: str) -> None:
    assert words in strip(solid_of(TRAY), **asked)[gauge].verdict


def test_maps_fall_in_the_bands_they_are_painted_by() -> None:
    pulled = judged(solid_of(TRAY))
    body = Judged("e", "Tray", pulled)
    asked = Asked(RESINS["ABS"], UP)
    for gauge in gauges.gauges([body], asked):
        if gauge.map:
            values = gauges.values(body, gauge.map, asked)
            assert len(values) == len(pulled.skin.places.corners) and np.isfinite(values).all()
            ends = [band.upto for band in gauge.bands]
            assert ends[-1] is None and ends[:-1] == sorted(ends[:-1])
    with pytest.raises(ValueError, match="flow"):
        gauges.values(body, "flow", asked)


def test_small_triangles_cover_the_skin_they_were_cut_from() -> None:
    fine = mesh.tessellate(box((0, 0, 0), (60, 40, 2)).solid, 0.05, 0.3)
    skin = sampled(fine, fine, 0.05, places=4000)
    assert skin.area == pytest.approx(2 * (60 * 40 + 60 * 2 + 40 * 2), rel=1e-12)
    assert 2000 < len(skin.corners) < 9000
    edges = np.linalg.norm(skin.corners - np.roll(skin.corners, -1, axis=1), axis=2)
    assert np.percentile(edges.max(axis=1), 99) < 5 * skin.spacing
    assert np.allclose(np.abs(skin.normals).max(axis=1), 1.0, atol=1e-6)
    assert trimesh.Trimesh(
        skin.corners.reshape(-1, 3), np.arange(3 * len(skin.corners)).reshape(-1, 3)
    ).volume == pytest.approx(4800)


@pytest.mark.parametrize("is_mirrored", [False, True])
def test_the_skin_of_a_carried_body_is_that_of_its_source_carried(is_mirrored: bool) -> None:
    """Area, walls, and the volume by the theorem of Gauss, twice, so that normals and corners turn as they should."""
    source = boolean.cut(box((0, 0, 0), (30, 20, 10)).solid, [box((2, 3, 2), (28, 18, 11)).solid])[0].solid
    motion = move.then(move.turn(Axis((0, 0, 0), (0.0, 0.6, 0.8)), 0.7), move.shift((50.0, -20.0, 5.0)))
    if is_mirrored:
        motion = move.then(move.reflection(Frame.lying((1.0, 2.0, 3.0), unit((1.0, 1.0, 0.0)))), motion)
    carried = move.moved(source, motion).solid
    taken, own = skin_of(carried).places, Skin(source).places
    assert taken.area == pytest.approx(own.area) and len(taken.corners) == len(own.corners)
    whole, volume = taken.whole, pytest.approx(measure.volume(source), rel=1e-6)
    assert (taken.middles * taken.normals).sum(axis=1) @ taken.areas / 3 == volume
    assert (whole.corners.mean(axis=1) * whole.normals).sum(axis=1) @ whole.areas / 3 == volume
    assert np.abs(taken.whole.nearest(taken.middles).away).max() < 0.02
    assert skin_of(carried).walls.usual == pytest.approx(Skin(source).walls.usual)
    low = taken.corners.reshape(-1, 3).min(axis=0)
    assert low == pytest.approx(measure.corners(carried).min(axis=0), abs=1e-6)
