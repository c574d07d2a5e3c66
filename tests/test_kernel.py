"""Kernel verbs against closed forms and independent engines, and the guards on what the kernel calls done but is not."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from supplecast.curves import Arc2, Circle2, Line2, Region
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Point2
from supplecast.kernel import blend, boolean, edges, measure, mesh, move, shape, solid, split, step_files, walls
from supplecast.kernel.shapes.shape import Solid
from tests.referee.meshes import manifold
from tests.referee.moves import shifted
from tests.referee.solids import EXACT, block, facing, outline, uprights
from tests.referee.walls import mismatches

# --- closed forms (geometry; see each) ---------------------------------------------------------------------------


@pytest.mark.parametrize("degrees", [-20.0, -1.5, 0.5, 1.5, 30.0])
def test_drafted_prism_is_a_frustum(degrees: float) -> None:
    """Prismatoid formula: V = h/6 (A0 + 4 Am + A1)."""
    height, t = 12.0, math.tan(math.radians(degrees))
    made = solid.extrude(outline(40, 30), Frame(), height, draft=math.radians(degrees))
    ends = [(40 - 2 * z * t) * (30 - 2 * z * t) for z in (0, height / 2, height)]
    assert measure.volume(made.solid) == pytest.approx(height / 6 * (ends[0] + 4 * ends[1] + ends[2]), rel=EXACT)


def test_drafted_hole_opens_as_the_outside_closes() -> None:
    """Cone frustum V = πh/3 (r² + rR + R²), taken from the outer prismatoid."""
    t = math.tan(math.radians(2))
    region = Region(outline(40, 30).outer, ((Circle2("C", (0, 0), 6, ccw=False),),))
    made = solid.extrude(region, Frame(), 10, draft=math.radians(2))
    ends = [(40 - 2 * z * t) * (30 - 2 * z * t) for z in (0, 5, 10)]
    outer = 10 / 6 * (ends[0] + 4 * ends[1] + ends[2])
    wide = 6 + 10 * t
    assert measure.volume(made.solid) == pytest.approx(outer - math.pi * 10 / 3 * (36 + 6 * wide + wide**2), rel=EXACT)


def test_too_much_draft_is_refused() -> None:
    with pytest.raises(KernelError, match="closes the outline"):
        solid.extrude(outline(40, 30), Frame(), 30, draft=math.radians(30))


def test_extruding_both_ways_is_widest_in_the_middle() -> None:
    t = math.tan(math.radians(3))
    made = solid.extrude_both(outline(20, 20), Frame(), 5, 5, draft=math.radians(3))
    ends = [(20 - 2 * z * t) ** 2 for z in (0, 2.5, 5)]
    assert measure.volume(made.solid) == pytest.approx(2 * 5 / 6 * (ends[0] + 4 * ends[1] + ends[2]), rel=EXACT)
    assert measure.box(made.solid).low[2] == pytest.approx(-5)


def test_fillet_takes_the_corner_away() -> None:
    """Each filleted upright loses (1 − π/4) r² of its section."""
    body = block(40, 30, 20)
    made = blend.fillet(body, uprights(body), 5)
    assert measure.volume(made.solid) == pytest.approx(24000 - 4 * (1 - math.pi / 4) * 25 * 20, rel=EXACT)


def test_ball_cornered_block() -> None:
    """A block with every edge rounded is a Steiner body: V + area·r + edges·πr²/4 + 4/3 πr³ of the inner block."""
    body = block(40, 30, 20)
    made = blend.fillet(body, range(body.number_of_edges), 4)
    a, b, c = 32, 22, 12
    steiner = a * b * c + 2 * (a * b + b * c + c * a) * 4 + math.pi * 16 * (a + b + c) + 4 / 3 * math.pi * 64
    assert measure.volume(made.solid) == pytest.approx(steiner, rel=EXACT)


@pytest.mark.parametrize(("open_faces", "inside"), [((1,), (36, 26, 18)), ((1, -1), (36, 26, 20)), ((), (36, 26, 16))])
def test_shell_of_a_box(open_faces: tuple[int, ...], inside: tuple[int, int, int]) -> None:
    body = block(40, 30, 20)
    faces = [f for side in open_faces for f in facing(body, side)]
    assert measure.volume(walls.shell(body, faces, 2).solid) == pytest.approx(24000 - math.prod(inside), rel=EXACT)


def test_cylinder_sphere_corner() -> None:
    """Pappus: V = 2π r̄ A for the cone frustum turned about its axis."""
    made = solid.cone((1, 2, 3), (0, 0, 1), 5, 3, 7)
    assert measure.volume(made.solid) == pytest.approx(math.pi * 7 / 3 * (25 + 15 + 9), rel=1e-12)
    assert measure.mass(made.solid).area == pytest.approx(math.pi * (25 + 9 + 8 * math.hypot(7, 2)), rel=1e-12)


@settings(max_examples=20, deadline=None)
@given(st.floats(0.2, 5), st.tuples(*[st.floats(-50, 50)] * 3))
def test_scaling_is_exact(factor: float, about: tuple[float, float, float]) -> None:
    body = blend.fillet(block(40, 30, 20), [0], 3).solid
    grown = move.scale(body, factor, about).solid
    assert measure.volume(grown) == pytest.approx(measure.volume(body) * factor**3, rel=1e-11)
    assert measure.mass(grown).area == pytest.approx(measure.mass(body).area * factor**2, rel=1e-11)


@settings(max_examples=15, deadline=None)
@given(st.tuples(*[st.floats(-14, 14)] * 3))
def test_union_and_common_add_up(offset: tuple[float, float, float]) -> None:
    a, b = block(20, 20, 20), shifted(solid.cylinder((0, 0, 0), (0, 0, 1), 7.03, 20.07).solid, offset).solid
    shared = sum(measure.volume(m.solid) for m in boolean.common(a, [b]))
    if shared > 1e-3:
        total = measure.volume(boolean.fuse(a, [b]).solid)
        assert total + shared == pytest.approx(measure.volume(a) + measure.volume(b), rel=1e-8)
        assert measure.volume(a) - sum(measure.volume(m.solid) for m in boolean.cut(a, [b], pieces=None)) == pytest.approx(
            shared, rel=1e-6
        )


# --- measures ----------------------------------------------------------------------------------------------------


def drafted_tray() -> tuple[Solid, list[int]]:
    body = solid.extrude(outline(60, 40), Frame(), 20, draft=math.radians(-2)).solid
    body = blend.fillet(body, uprights(body), 6).solid
    body = blend.fillet(body, edges.outer_loop(body, facing(body, -1)[0]), 3).solid
    return body, facing(body, 1)


def test_volume_of_blended_faces_agrees_with_fine_triangles() -> None:
    """manifold3d's volume converges on ours."""
    body, open_faces = drafted_tray()
    tray = walls.shell(body, open_faces, 1.6).solid
    exact = measure.volume(tray)
    errors = [abs(manifold(tray, d, a).volume() - exact) / exact for d, a in ((0.05, 0.3), (0.01, 0.1), (1.0, 0.02))]
    assert errors[0] > errors[1] > errors[2]
    assert errors[2] < 2e-6


def test_box_is_exact_for_round_bodies() -> None:
    body = shifted(blend.fillet(block(40, 30, 20), range(12), 4).solid, (1, 2, 3)).solid
    box = measure.box(body)
    assert np.allclose(box.low, (-19, -13, 3), atol=1e-9) and np.allclose(box.high, (21, 17, 23), atol=1e-9)


def test_memory_shortcut_for_triangles_reads_what_the_slow_way_reads() -> None:
    assert mesh._memory_can_be_read()


# --- silent failures of the kernel: each test fails without its guard ---------------------------------------------


def test_fillet_too_big_names_the_culprits() -> None:
    body = block(40, 30, 20)
    with pytest.raises(KernelError, match="does not fit") as fault:
        blend.fillet(body, [*uprights(body)], 16)
    assert len(fault.value.edges) == 2 and fault.value.sized
    # 12 edges at r > half the height: the kernel says done and returns an unsound solid larger than the block.
    with pytest.raises(KernelError):
        blend.fillet(body, range(12), 11)


def test_shell_thicker_than_the_body_is_refused() -> None:
    """The kernel returns the untouched block and calls it done."""
    body = block(40, 40, 20)
    with pytest.raises(KernelError, match="does not fit"):
        walls.shell(body, facing(body, 1), 25)


def test_an_open_face_tangent_to_its_neighbours_is_cut_square() -> None:
    """The kernel makes a self-crossing wall of it, valid by its own check. The hollow is a box rounded by 1, and the mouth."""

    def soft(width: float, depth: float, height: float, radius: float) -> Solid:
        body = block(width, depth, height)
        return blend.fillet(body, edges.outer_loop(body, facing(body, 1)[0]), radius).solid

    body = soft(40, 30, 20, 2)
    made = walls.shell(body, facing(body, 1), 1)
    hollow = measure.volume(soft(38, 28, 18, 1)) + 36 * 26 * 1
    assert measure.volume(made.solid) == pytest.approx(measure.volume(body) - hollow, rel=1e-9)


def test_shell_thicker_than_its_rounds_is_right_or_refused() -> None:
    """Inverted blends come back valid; the right volume is that of the body with sharp inner corners."""
    body = blend.fillet(block(40, 30, 20), uprights(block(40, 30, 20)), 4).solid
    made = walls.shell(body, facing(body, 1), 4.5)
    assert measure.volume(made.solid) == pytest.approx(measure.volume(body) - 31 * 21 * 15.5, rel=1e-7)


def test_shell_of_a_drafted_tray_against_point_sampling() -> None:
    body, open_faces = drafted_tray()
    made = walls.shell(body, open_faces, 1.6)
    wrong, judged = mismatches(body, made.solid, open_faces, 1.6, 400)
    assert judged == 400 and wrong == 0


def test_the_sampling_referee_sees_a_wrong_wall() -> None:
    body, open_faces = drafted_tray()
    wrong, _ = mismatches(body, walls.shell(body, open_faces, 1.7).solid, open_faces, 1.6, 400)
    assert wrong > 4


def test_cut_that_misses_and_union_that_does_not_join() -> None:
    body, far = block(10, 10, 10), shifted(block(10, 10, 10), (30, 0, 0)).solid
    with pytest.raises(KernelError, match="misses"):
        boolean.cut(body, [far])
    with pytest.raises(KernelError, match="do not join"):
        boolean.fuse(body, [far])
    with pytest.raises(KernelError, match="leaves nothing"):
        boolean.cut(body, [move.scale(body, 2, (0, 0, 5)).solid])


def test_bodies_that_meet_along_an_edge_only_are_refused() -> None:
    body, beside = block(10, 10, 10), shifted(block(10, 10, 10), (10, 10, 0)).solid
    with pytest.raises(KernelError):
        boolean.fuse(body, [beside])


def test_split_plane_that_misses() -> None:
    with pytest.raises(KernelError, match="misses"):
        split.by_plane(block(10, 10, 10), Frame(origin=(0, 0, 30)))


def test_crossing_outline_is_refused() -> None:
    bowtie: list[Point2] = [(0, 0), (10, 10), (10, 0), (0, 10)]
    region = Region(tuple(Line2(f"L{i}", bowtie[i], bowtie[(i + 1) % 4]) for i in range(4)))
    with pytest.raises(KernelError):
        solid.extrude(region, Frame(), 5)


def test_half_disc_from_an_arc() -> None:
    region = Region((Line2("L", (-5, 0), (5, 0)), Arc2("A", (0, 0), (5, 0), (-5, 0), True)))
    assert measure.volume(solid.extrude(region, Frame(), 2).solid) == pytest.approx(25 * math.pi, rel=EXACT)


# --- history: every face of every result has an origin ------------------------------------------------------------


def test_every_face_knows_where_it_came_from() -> None:
    body, open_faces = drafted_tray()
    made = [
        solid.extrude_both(outline(9, 9), Frame(), 2, 2, draft=0.02),
        walls.shell(body, open_faces, 1.6),
        walls.shell(body, [], 1),
    ]
    made += [blend.fillet(body, edges.outer_loop(body, facing(body, 1)[0]), 1)]
    made += boolean.cut(body, [solid.cylinder((0, 0, -1), (0, 0, 1), 4, 30).solid])
    made += split.by_plane(body, Frame(origin=(0, 0, 7)))
    made += [move.scale(body, 1.1, (0, 0, 0)), boolean.fuse(body, [shifted(body, (20, 0, 0)).solid])]
    for result in made:
        assert len(result.origins) == result.solid.face_count
        assert all(result.origins)


# --- files -------------------------------------------------------------------------------------------------------


def test_step_keeps_volume_names_and_count() -> None:
    body = blend.fillet(block(40, 30, 20), range(12), 4).solid
    tray = walls.shell(block(40, 30, 20), facing(block(40, 30, 20), 1), 2).solid
    found = step_files.read_step(step_files.write_step([("Käse <&> 1", body), ("Tray", tray)]))
    assert [one.name for one in found] == ["Käse <&> 1", "Tray"]
    for one, made in zip(found, (body, tray), strict=True):
        assert measure.volume(one.solid) == pytest.approx(measure.volume(made), rel=1e-6)


@pytest.mark.parametrize("content", [b"", b"garbage", b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n"])
def test_broken_step_is_told(content: bytes) -> None:
    with pytest.raises(KernelError, match="STEP"):
        step_files.read_step(content)


def test_zero_sizes_never_reach_the_kernel() -> None:
    with pytest.raises(KernelError):
        solid.extrude(outline(10, 10), Frame(), 0)
    with pytest.raises(KernelError):
        move.scale(block(1, 1, 1), 0, (0, 0, 0))
    assert shape.solids_in(None) == []
