"""Shells: closed forms, the checks that stand behind them, and walls measured by an independent engine."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import pytest

from supplecast.curves import Circle2, Region
from supplecast.errors import KernelError
from supplecast.geometry import Frame, dot, vec
from supplecast.kernel import (
    analytic_surfaces,
    blend,
    boolean,
    datums,
    draft,
    edges,
    measure,
    move,
    probing,
    solid,
    triangulation_flat,
    triangulation_turned,
    wall_check,
    walls,
)
from supplecast.kernel.meshing.face_samples import FaceSamples
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs.wall_check import Corners, Room, Wanted
from tests.conftest import STEPS, built, extrude, part, rectangle
from tests.referee import thickness
from tests.referee.solids import EXACT, block, facing, uprights
from tests.referee.walls import mismatches


def rounded(upright: float, floor: float, size: tuple[float, float, float] = (40, 60, 20)) -> Solid:
    body = block(*size)
    body = blend.fillet(body, uprights(body), upright).solid
    return blend.fillet(body, edges.outer_loop(body, facing(body, -1)[0]), floor).solid if floor else body


# --- closed forms ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("side", "opened", "volume"),
    [
        ("outwards", True, 44 * 34 * 22 - 40 * 30 * 20),
        ("outwards", False, 44 * 34 * 24 - 40 * 30 * 20),
        ("to both sides", True, 42 * 32 * 21 - 38 * 28 * 19),
        ("to both sides", False, 42 * 32 * 22 - 38 * 28 * 18),
    ],
)
def test_walls_put_outside_and_to_both_sides(side: walls.Side, opened: bool, volume: float) -> None:
    body = block(40, 30, 20)
    made = walls.shell(body, facing(body, 1) if opened else [], 2, side=side)
    assert measure.volume(made.solid) == pytest.approx(volume, rel=EXACT)
    assert all(made.origins)


def stepped() -> tuple[Solid, int, int]:
    """A block of 60 × 30 × 12 with one of 30 × 30 × 30 on its end, the top of its lower step, and its foot."""
    body = boolean.fuse(solid.box((0, 0, 0), (60, 30, 12)).solid, [solid.box((0, 0, 0), (30, 30, 30)).solid]).solid
    step = next(f for f in facing(body, 1) if measure.face_middle(body, f)[2] == pytest.approx(12))
    return body, step, facing(body, -1)[0]


@pytest.mark.parametrize("wall", [1.0, 3.0, 4.0])
def test_a_step_has_a_wall_of_its_own_to_its_very_edge(wall: float) -> None:
    """Hollow of 2 mm walls, the lower step's top another: two boxes, sharp where they meet (closed form)."""
    body, step, foot = stepped()
    made = walls.shell(body, [foot], 2.0, others={step: wall})
    assert measure.volume(body) - measure.volume(made.solid) == pytest.approx(26 * 26 * 28 + 30 * 26 * (12 - wall), rel=EXACT)


def test_a_lesser_wall_is_enough_at_its_own_rim_only() -> None:
    """Asked for 3 mm under the lower step, a shell of 2 mm all round is found out, though its other walls are right."""
    body, step, foot = stepped()
    made = walls.shell(body, [foot], 2.0, corners="sharp")
    skin = [face for face, row in enumerate(made.origins) if any(origin.role == "inner" for origin in row)]
    right = dict.fromkeys((face for face in range(body.face_count) if face != foot), 2.0)
    assert wall_check.fault(Room(Wanted(body, right, (foot,))), made.solid, skin) == ""
    assert "would be" in wall_check.fault(Room(Wanted(body, {**right, step: 3.0}, (foot,))), made.solid, skin)


@pytest.mark.parametrize("corners", ["either", "rounded", "sharp"])
def test_inner_edges_are_of_one_rule(corners: Corners) -> None:
    """Sharp, the hollow is two boxes; rounded by the wall about the re-entrant edge it has (1 − π/4) 2² more all along."""
    body, step, foot = stepped()
    hollow = measure.volume(body) - measure.volume(walls.shell(body, [foot], 2.0, corners=corners).solid)
    sharp = 26 * 26 * 28 + 30 * 26 * 10
    assert hollow == pytest.approx(sharp + (0 if corners == "sharp" else (1 - math.pi / 4) * 4 * 26), rel=EXACT)
    if corners == "rounded":
        with pytest.raises(KernelError, match=r"cannot be rounded.*\(30, 15, 12\)") as fault:
            walls.shell(body, [foot], 2.0, others={step: 3.0}, corners=corners)
        assert fault.value.field == "corners" and "sharp" in fault.value.hint and len(fault.value.edges) == 1


def soft_rod(radius: float, height: float, round_: float) -> float:
    """mm³ of a cylinder with one rim rounded: less what Pappus takes off at its corner."""
    area = (1 - math.pi / 4) * round_**2
    return math.pi * radius**2 * height - 2 * math.pi * (radius - round_ + round_**3 / 6 / area) * area


@pytest.mark.parametrize("side", ["inwards", "outwards", "to both sides"])
def test_a_cup_open_at_a_face_bounded_by_a_round(side: walls.Side) -> None:
    """3.5 in across, 4.5 in high, its rim rounded by 0.375 in, walls of 0.25 in: the wall ends square to the open top."""
    r, h, soft, wall = (25.4 * inches for inches in (1.75, 4.5, 0.375, 0.25))
    rod = solid.extrude(Region((Circle2("C", (0, 0), r),)), Frame(), h).solid
    (top,) = facing(rod, 1)
    body = blend.fillet(rod, edges.outer_loop(rod, top), soft).solid
    cup = walls.shell(body, facing(body, 1), wall, side=side)
    out = {"inwards": 0.0, "outwards": wall, "to both sides": wall / 2}[side]
    big = soft_rod(r + out, h + 2 * out, soft + out)
    small = soft_rod(r + out - wall, h + 2 * (out - wall), soft + out - wall)
    mouth = math.pi * (r - soft) ** 2 * wall
    assert measure.volume(cup.solid) == pytest.approx(big - small - mouth, rel=1e-9) and all(cup.origins)
    assert sum(o.role == "rim" for row in cup.origins for o in row) == 1


def test_a_shell_blames_what_is_at_fault() -> None:
    """A block that fits closed and with its top open, with a post's end picked as well: not the wall."""
    body = solid.box((0, 0, 0), (40, 30, 20)).solid
    with pytest.raises(KernelError, match="With 2 mm all round") as fault:
        walls.shell(body, facing(body, 1), 2.0, others={facing(body, -1)[0]: 21.0})
    assert fault.value.field == "others" and not fault.value.sized
    soft = rounded(6, 4)
    bent = next(f for f in range(soft.face_count) if measure.surface_word(soft, f) == "ring")
    with pytest.raises(KernelError, match="runs on smoothly") as fault:
        walls.shell(soft, [bent], 2.0)
    assert fault.value.field == "open"
    with pytest.raises(KernelError, match="does not fit this body") as fault:
        walls.shell(body, facing(body, 1), 16.0)
    assert fault.value.field == "" and fault.value.sized


def test_a_floor_with_a_wall_of_its_own_under_rounded_uprights() -> None:
    body = rounded(5, 0)
    made = walls.shell(body, facing(body, 1), 2, others={facing(body, -1)[0]: 4})

    def area(width: float, depth: float, radius: float) -> float:
        return width * depth - (4 - math.pi) * radius**2

    assert measure.volume(made.solid) == pytest.approx(area(40, 60, 5) * 20 - area(36, 56, 3) * 16, rel=EXACT)
    closed = walls.shell(block(40, 30, 20), [], 2, others={0: 3, 1: 1})
    sides = [measure.flat_frame(block(40, 30, 20), f).normal for f in (0, 1)]
    less = [sum(w - 2 for n, w in zip(sides, (3, 1), strict=True) if abs(n[axis]) > 0.5) for axis in range(3)]
    inside = math.prod(size - 4 - change for size, change in zip((40, 30, 20), less, strict=True))
    assert measure.volume(closed.solid) == pytest.approx(24000 - inside, rel=EXACT)


def test_faces_that_run_into_each_other_share_a_wall() -> None:
    """The kernel spreads one of two walls over the whole chain, and says nothing."""
    body = rounded(5, 4)
    floor = facing(body, -1)[0]
    with pytest.raises(KernelError, match="smoothly cannot have different walls") as fault:
        walls.shell(body, facing(body, 1), 2, others={floor: 4})
    assert floor in fault.value.faces and len(fault.value.faces) == 9  # the floor and the eight rounds about it


def test_a_hollow_free_of_a_thin_handle() -> None:
    """A wall thicker than half a handle leaves it solid: the cup's own hollow is cut out (the kernel alone gets this wrong,
    calling it done); so with thin posts and pads.
    """
    cup = solid.cylinder((0, 0, 0), (0, 0, 1), 30, 60).solid
    bars = [solid.cylinder((-40 if n else 26, 0, 20 + 10 * n), (1, 0, 0), 3, 14).solid for n in (0, 1)]
    body = boolean.fuse(cup, bars).solid
    made = walls.shell(body, facing(body, 1), 5)
    assert measure.volume(made.solid) == pytest.approx(measure.volume(body) - math.pi * 25**2 * 55, rel=1e-7)
    assert {o.role for row in made.origins for o in row} == {None, "inner", "rim"}
    pads = [solid.cylinder((17, -20 + 8 * n, 10), (1, 0, 0), 1.5, 5).solid for n in range(6)]
    body = boolean.fuse(rounded(5, 4), pads).solid
    made = walls.shell(body, facing(body, 1), 2)
    wrong, judged = mismatches(body, made.solid, facing(body, 1), 2, 300)
    assert judged == 300 and wrong == 0


# --- the check itself -----------------------------------------------------------------------------------------------


def judged(body: Solid, made: Solid, wall: float, wanted: float, shift: float = 0.0) -> str:
    """What the check says of a tray whose hollow is a block `wall` inside, moved by `shift`, when `wanted` was asked for."""
    opened = facing(body, 1)
    kept = {face: wanted for face in range(body.face_count) if face not in opened}
    skin = [f for f in range(made.face_count) if max(abs(c) for c in measure.face_middle(made, f)[:2]) < 20 - wall / 2
            and 0.5 < measure.face_middle(made, f)[2] < 19.5]  # fmt: skip
    return wall_check.fault(Room(Wanted(body, kept, tuple(opened))), made, skin)


@pytest.mark.parametrize(
    ("wall", "shift", "words"),
    [(2.0, 0.0, ""), (2.05, 0.0, "material"), (1.95, 0.0, "1.95 mm"), (2.0, 0.12, "1.88 mm"), (0.0, 0.0, "no cavity")],
)
def test_the_check_tells_a_wrong_wall_from_a_right_one(wall: float, shift: float, words: str) -> None:
    body = block(40, 40, 20)
    low, high = (-20 + wall + shift, -20 + wall, wall), (20 - wall + shift, 20 - wall, 30)
    made = boolean.cut(body, [solid.box(low, high).solid])[0].solid if wall else body
    said = judged(body, made, wall, 2.0, shift) if wall else wall_check.fault(
        Room(Wanted(body, dict.fromkeys(range(5), 2.0), (5,))), made, [])  # fmt: skip
    assert words in said and bool(said) == bool(words)


def test_the_check_sees_what_was_left_inside() -> None:
    body = block(40, 40, 20)
    hollow = boolean.cut(solid.box((-18, -18, 2), (18, 18, 30)).solid, [solid.box((3, 3, 1), (6, 6, 40)).solid])[0].solid
    made = boolean.cut(body, [hollow])[0].solid
    assert "material would be left" in judged(body, made, 2.0, 2.0)
    part_only = boolean.cut(body, [solid.box((-18, -18, 2), (18, 5, 30)).solid])[0].solid
    assert judged(body, part_only, 2.0, 2.0)


def test_the_check_sees_a_wall_turned_inside_out_or_on_the_wrong_side() -> None:
    body = block(40, 40, 20)
    opened = facing(body, 1)
    made = walls.shell(body, opened, 2)
    inner = [face for face, row in enumerate(made.origins) if row[0].role == "inner"]
    room = Room(Wanted(body, {face: 2.0 for face in range(6) if face not in opened}, tuple(opened)))
    assert not wall_check.fault(room, made.solid, inner)
    assert "no cavity" in wall_check.fault(room, Solid(made.solid.shape.Reversed()), inner)
    outward = walls.shell(body, opened, 2, side="outwards")
    outer = [face for face, row in enumerate(outward.origins) if row[0].role == "outer"]
    assert "no cavity" in wall_check.fault(room, outward.solid, outer)


def test_flat_and_turned_faces_are_laid_out_as_the_kernel_meshes_them() -> None:
    """Plates with slanting holes, cylinder, cone, ring and ball, both ways round and from frames of either hand: on the face,
    facing out, as large.
    """
    post = boolean.fuse(rounded(6, 0), [solid.cone((0, 0, 19), (0, 0, 1), 8, 6, 12).solid]).solid
    post = blend.fillet(
        post, [e for e in range(post.number_of_edges) if edges.radius(post, e) and edges.middle(post, e)[2] > 19], 2
    ).solid
    made = walls.shell(post, facing(post, -1), 1).solid
    plate = boolean.cut(block(40, 30, 6), [solid.cylinder((x, 4, -1), (0.3, 0, 1), 3, 12).solid for x in (-12, 2)])[0].solid
    bodies = [made, move.mirror(made, Frame()).solid, solid.cone((0, 0, 0), (0, 0, 1), 5, 0, 9).solid, plate]
    found = 0
    for body in bodies:
        shapes = [body.face(face) for face in range(body.face_count)]
        table = analytic_surfaces.surfaces(shapes)
        for laid in (
            triangulation_flat.triangulate(shapes, table, 0.01, 1.0),
            triangulation_turned.triangulate(shapes, table, 0.01, 1.0),
        ):
            for face in np.unique(laid.rows).tolist():
                corners, directions = laid.corners[laid.rows == face], laid.normals[laid.rows == face]
                a, b, c = (corners[:, k] for k in range(3))
                across = np.cross(b - a, c - a)
                assert np.linalg.norm(across, axis=1).sum() / 2 == pytest.approx(measure.face_area(body, face), rel=3e-3)
                assert (np.einsum("ij,ij->i", across, directions[:, 0]) >= -1e-9).all()
                for row in range(0, len(a), max(len(a) // 7, 1)):
                    spot, direction = vec(a[row]), vec(directions[row, 0])
                    assert probing.distance_to_faces(body, (face,), spot) < 1e-7
                    assert dot(datums.normal_at(body, face, spot)[1], direction) == pytest.approx(1, abs=1e-6)
                found += 1
    assert found >= 28


def test_distances_of_many_points_agree_with_the_kernel() -> None:
    """All kinds of plain surfaces at once, their rims and places far off; the free ones to within the chord error."""
    body = blend.fillet(solid.cone((0, 0, 0), (0, 0, 1), 12, 7, 15).solid, [0], 2).solid
    body = boolean.fuse(body, [solid.cylinder((0, 0, 5), (1, 0, 0), 3, 20).solid]).solid
    skin = FaceSamples(body, range(body.face_count), 0.02)
    places = np.random.default_rng(5).uniform((-20, -20, -5), (25, 20, 22), (150, 3))
    near = skin.nearest(places)
    exact = [probing.distance_to_faces(body, tuple(range(body.face_count)), (x, y, z)) for x, y, z in places]
    assert np.abs(near.away - exact).max() < 0.03
    assert np.mean(np.abs(near.away - exact) < 1e-9) > 0.6  # places off a round rim are measured to its chords
    assert np.linalg.norm(places - near.feet, axis=1) == pytest.approx(near.away)
    assert not skin.nearest(np.array([[0.0, 0.0, 5.0]])).outside[0] and skin.nearest(np.array([[0.0, 0.0, 40.0]])).outside[0]


# --- measured by rays and balls -------------------------------------------------------------------------------------


def _cup() -> Solid:
    cup = solid.cylinder((0, 0, 0), (0, 0, 1), 20, 35).solid
    return blend.fillet(cup, edges.outer_loop(cup, facing(cup, -1)[0]), 3).solid


def _drafted(degrees: float) -> Solid:
    body = block(50, 40, 18)
    sides = [f for f in range(6) if abs(measure.flat_frame(body, f).normal[2]) < 0.1]
    body = draft.taper(body, sides, Frame(), math.radians(degrees)).solid
    return blend.fillet(body, uprights(body), 6).solid


def _with_holes() -> Solid:
    holes = [solid.cylinder((-10 + 10 * i, 15 * k, -5), (0, 0, 1), 2, 40).solid for i in range(3) for k in (-1, 1)]
    return boolean.cut(rounded(5, 4), holes)[0].solid


def _bottle() -> Solid:
    return boolean.fuse(
        solid.cylinder((0, 0, 0), (0, 0, 1), 18, 30).solid, [solid.cylinder((0, 0, 29), (0, 0, 1), 9, 12).solid]
    ).solid


def _ell() -> Solid:
    body = boolean.fuse(block(40, 20, 15), [solid.box((-20, -10, 0), (0, 40, 15)).solid]).solid
    return blend.fillet(body, uprights(body), 3.5).solid


PARTS: dict[str, tuple[Callable[[], Solid], float]] = {
    "block": (lambda: block(40, 30, 20), 2.0),
    "rounds": (lambda: rounded(5, 4), 2.0),
    "rounds thinner than the wall": (lambda: rounded(2, 1), 2.5),
    "rounds as the wall": (lambda: rounded(5, 3), 3.0),
    "cup": (_cup, 1.8),
    "cup with a wall over its round": (_cup, 4.0),
    "drafted": (lambda: _drafted(-2), 1.6),
    "drafted inwards": (lambda: _drafted(3), 1.6),
    "holes": (_with_holes, 2.0),
    "bottle": (_bottle, 2.0),
    "ell": (_ell, 2.0),
}


@pytest.mark.parametrize("name", PARTS)
def test_walls_measured_by_rays_and_by_balls(name: str) -> None:
    """Away from edges at least 99 % of the skin stands within 2 % of the wall."""
    make, wall = PARTS[name]
    body = make()
    opened = facing(body, 1)
    opened = [max(opened, key=lambda f: measure.face_middle(body, f)[2])]
    made = walls.shell(body, opened, wall)
    for measured in thickness.walls(body, made, opened, wall):
        assert len(measured) > 60
        assert np.mean(np.abs(measured / wall - 1) < 0.02) >= 0.99


# --- the step -------------------------------------------------------------------------------------------------------

BOX: STEPS = [rectangle("s", "40", "30"), extrude("e", "s", "20")]


def shell(**fields: object) -> dict[str, object]:
    return {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.end"}], **fields}


def test_other_walls_are_picked_in_rows() -> None:
    result = built(
        part(
            [
                *BOX,
                shell(
                    others=[{"wall": "4", "faces": [{"face": "e.start"}]}, {"wall": "1", "faces": [{"face": "e.side[f1_L1]"}]}]
                ),
            ]
        )
    )
    assert result.ok
    assert measure.volume(result.state.bodies["e"].body.solid) == pytest.approx(24000 - 36 * 27 * 16)
    assert "h.inner{e.start}" in result.state.bodies["e"].body.faces_by_tag


@pytest.mark.parametrize(
    ("rows", "field", "words"),
    [
        ([{"wall": "4"}], "others.0.faces", "No face is picked"),
        ([{"wall": "4", "faces": [{"face": "e.end"}]}], "others.0.faces", "open face"),
        ([{"wall": "4", "faces": [{"face": "e.start"}]}] * 2, "others.1.faces", "two walls"),
        ([{"wall": "0", "faces": [{"face": "e.start"}]}], "others.0.wall", "greater than zero"),
        ([{"wall": "4", "faces": [{"face": "nowhere.end"}]}], "others.0.faces", "no longer exists"),
    ],
)
def test_rows_name_their_faults(rows: STEPS, field: str, words: str) -> None:
    outcome = built(part([*BOX, shell(others=rows)])).outcome("h")
    assert outcome.status == "failed" and outcome.field == field and words in outcome.message


def test_a_closed_hollow_is_announced() -> None:
    outcome = built(part([*BOX, shell(open=[])])).outcome("h")
    assert outcome.status == "ok" and "15 cm³" in outcome.notes[0] and "cannot" not in outcome.notes[0]
