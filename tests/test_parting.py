"""Parting lines, surfaces, shut-offs and halves: twelve parts and two dozen random plans through the gates, and what is
refused.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import pytest
from manifold3d import Manifold, Mesh
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeFilling
from OCP.GeomAbs import GeomAbs_Shape

from supplecast.errors import KernelError
from supplecast.geometry import Vec
from supplecast.kernel import check, edges, facing, halves, measure, mesh, parting, parting_surface, shutoff, silhouette, solid
from supplecast.kernel.molds.halves import Halves
from supplecast.kernel.molds.parting import Loop, Sides
from supplecast.kernel.shapes.shape import Solid, Surface
from supplecast.molding import opening
from tests.bed.castings import CASTINGS, c_plan, cut, notched, random_plan, rectangle, shelled, tray, window

UP: Vec = (0.0, 0.0, 1.0)
DOWN: Vec = (0.0, 0.0, -1.0)
SLOPE = math.radians(10)


@dataclass
class Mold:
    part: Solid
    sides: Sides
    loops: list[Loop]
    surface: parting_surface.PartingSurface
    patches: list[shutoff.ShutOff]
    halves: Halves
    block: Solid


def mold(body: Solid, width: float = 8.0, margin: float = 25.0, given: dict[int, parting.Side] | None = None) -> Mold:
    part = silhouette.split(body, UP).solid
    sides = parting.sides(part, facing.drafts(part, UP), given=given)
    loops = parting.loops(part, sides.of, UP)
    box = measure.box(part)
    low, high = (tuple(c + s * margin for c in corner) for s, corner in ((-1, box.low), (1, box.high)))
    block = solid.box(low, high).solid  # type: ignore[arg-type]
    surface = parting_surface.surface(part, loops[0], block, UP, width, SLOPE)
    patches = [shutoff.shut_off(part, loop, UP) for loop in loops[1:]]
    skins = [surface.made.solid, *(patch.made.solid for patch in patches)]
    return Mold(part, sides, loops, surface, patches, halves.sewn(part, sides.of, block, skins, UP, surface.level), block)


def forming(made: object) -> list[int]:
    """Faces of a half that are not the block's walls."""
    return [face for face, row in enumerate(made.origins) if row[0].sources[0].body != 1]  # type: ignore[attr-defined]


def through_the_gates(found: Mold) -> None:
    """One sound solid each; part and halves add up; every face that forms looks against its opening; nothing shares space."""
    core, cavity = found.halves.core.solid, found.halves.cavity.solid
    assert check.faults(core) == [] and check.faults(cavity) == []
    whole = measure.volume(found.block)
    assert abs(measure.volume(core) + measure.volume(cavity) + measure.volume(found.part) - whole) < 1e-9 * whole
    assert opening.facing_wrong(core, forming(found.halves.core), UP) == ()
    assert opening.facing_wrong(cavity, forming(found.halves.cavity), DOWN) == ()
    bodies = [opening.meshed(s) for s in (core, cavity, found.part)]
    for number, first in enumerate(bodies):
        for second in bodies[number + 1 :]:
            assert opening.shared(first, second) < 1.0  # mm³, of facets that do not meet point by point
    assert opening.trapped(bodies[0], UP, opening.standing(bodies[1:])).area == 0
    assert opening.trapped(bodies[1], DOWN, opening.standing([bodies[0], bodies[2]])).area == 0


@pytest.mark.parametrize("name", CASTINGS)
def test_castings_pass_the_gates(name: str) -> None:
    found = mold(CASTINGS[name]())
    through_the_gates(found)
    openings = {"ring": 1, "cover with holes": 2}.get(name, 0)
    assert [loop.outer for loop in found.loops] == [True] + [False] * openings


@pytest.mark.parametrize("seed", range(9))
@pytest.mark.slow
def test_random_plans_pass_the_gates(seed: int) -> None:
    try:
        found = mold(random_plan(seed))
    except KernelError as fault:  # a hollow corner may leave too little room; then what it says must do
        assert fault.sized and "mm would do" in fault.hint, fault
        found = mold(random_plan(seed), width=float(fault.hint.split()[0]))
    through_the_gates(found)


@pytest.mark.parametrize("name", ["wavy rim", "cover with holes", "ring"])
def test_halves_against_an_independent_engine(name: str) -> None:
    """What manifold3d leaves of the block when the part is taken out weighs what both halves do, as near as facets allow."""
    found = mold(CASTINGS[name]())

    def body(one: Solid) -> Manifold:
        points, triangles = mesh.tessellate(one, 0.01, 0.1, edges=False).welded()
        return Manifold(Mesh(points.astype(np.float32), triangles.astype(np.uint32)))

    left = body(found.block) - body(found.part)
    both = measure.volume(found.halves.core.solid) + measure.volume(found.halves.cavity.solid)
    assert left.volume() == pytest.approx(both, abs=0.01 * measure.mass(found.part).area)
    halves_of = body(found.halves.core.solid) + body(found.halves.cavity.solid)
    assert (left - halves_of).volume() == pytest.approx(0, abs=2.0)


def test_a_level_line_needs_no_land_and_a_stepped_one_keeps_its_angle() -> None:
    assert mold(tray()).surface.width == 0
    stepped = mold(CASTINGS["stepped rim"]())
    assert stepped.surface.width == 8 and math.degrees(stepped.surface.least) > 5
    assert stepped.surface.level == pytest.approx(17)
    steep = mold(notched())
    assert len(parting.steep(steep.part, steep.loops[0], UP, math.radians(5))) == 2 and math.degrees(steep.surface.least) < 1


def test_shut_offs_lie_flat_or_on_the_neighbours_surface() -> None:
    """Flat holes in closed form; the wavy one of the ring lies on the cone round it."""
    patches = mold(CASTINGS["cover with holes"]()).patches
    hole = 5 + 0.3 * 1 / 5  # radius where the round hole meets the outside of the floor, and where it meets the inside
    inside = 5 + 0.3 * 3 / 5
    areas = sorted(patch.area for patch in patches)
    assert areas[1] == pytest.approx(120, rel=1e-9)
    assert any(areas[0] == pytest.approx(math.pi * r * r, rel=1e-6) for r in (hole, inside))
    assert all(patch.angle == pytest.approx(math.pi / 2) for patch in patches)
    (wavy,) = mold(CASTINGS["ring"]()).patches
    assert wavy.direction == "on its neighbour's surface" and math.degrees(wavy.angle) > 60


def test_upright_faces_go_where_the_line_is_shorter() -> None:
    """Walls without draft could be formed by either half; the line keeps to the rim. Given and wanted ones are heeded."""
    box = shelled(rectangle(40, 30))
    upright = cut(solid.box((-20, -15, 0), (20, 15, 20)).solid, solid.box((-18, -13, 2), (18, 13, 30)).solid)
    sides = parting.sides(upright, facing.drafts(upright, UP))
    (loop,) = parting.loops(upright, sides.of, UP)
    assert parting.heights(upright, loop, UP) == pytest.approx([20] * len(parting.heights(upright, loop, UP)))
    assert len(sides.either) == 1 and len(sides.either[0]) == 4
    outside = dict.fromkeys(sides.either[0], "core")
    (low,) = parting.loops(upright, parting.sides(upright, facing.drafts(upright, UP), given=outside).of, UP)  # type: ignore[arg-type]
    assert parting.heights(upright, low, UP).max() == pytest.approx(0)
    assert parting.sides(box, facing.drafts(box, UP)).either == ()
    bottom = [e for e in range(upright.number_of_edges) if abs(edges.middle(upright, e)[2]) < 1e-9]
    (wanted,) = parting.loops(upright, parting.sides(upright, facing.drafts(upright, UP), wanted=bottom).of, UP)
    assert sorted(edge for edge, _ in wanted.edges) == sorted(bottom)


# --- what is refused ------------------------------------------------------------------------------------------------


def test_narrow_gaps_are_refused_with_the_land_that_would_do() -> None:
    with pytest.raises(KernelError, match="crosses itself") as fault:
        mold(c_plan(gap=7))
    assert fault.value.sized and fault.value.edges
    fits = float(fault.value.hint.split()[0])
    assert 0.5 < fits < 8
    through_the_gates(mold(c_plan(gap=7), width=fits))


def test_a_block_too_small_says_by_how_much() -> None:
    with pytest.raises(KernelError, match=r"reaches past the block by \d") as fault:
        mold(CASTINGS["wavy rim"](), margin=5)
    assert "margins" in fault.value.hint


def test_an_opening_that_cannot_be_shut_off_is_refused() -> None:
    with pytest.raises(KernelError, match="cannot be shut off along the pull") as fault:
        mold(window())
    assert fault.value.edges and "slide" in fault.value.hint


def test_the_window_without_a_slide_is_valid_and_still_caught() -> None:
    """The silent case: both halves closed and valid, the volumes add up, and yet cavity and core share space. Faces tell."""
    part = window()
    drafts = facing.drafts(part, UP)
    sides = parting.sides(part, drafts)
    loops = parting.loops(part, sides.of, UP)
    box = measure.box(part)
    block = solid.box(tuple(c - 25 for c in box.low), tuple(c + 25 for c in box.high)).solid  # type: ignore[arg-type]
    surface = parting_surface.surface(part, loops[0], block, UP, 8.0, SLOPE)
    skins = [surface.made.solid]
    for loop in loops[1:]:  # close every opening by any surface through its rim, seen from ahead or not
        maker = BRepOffsetAPI_MakeFilling()
        for edge, _ in loop.edges:
            maker.Add(part.nth_edge(edge), GeomAbs_Shape.GeomAbs_C0)
        maker.Build()
        skins.append(Surface(maker.Shape()))
    made = halves.sewn(part, sides.of, block, skins, UP, surface.level)
    core, cavity = made.core.solid, made.cavity.solid
    whole = measure.volume(block)
    assert abs(measure.volume(core) + measure.volume(cavity) + measure.volume(part) - whole) < 1e-6 * whole
    wrong = [*opening.facing_wrong(core, forming(made.core), UP), *opening.facing_wrong(cavity, forming(made.cavity), DOWN)]
    assert wrong
    meshes = [opening.meshed(s) for s in (core, cavity, part)]
    up, down = (opening.standing(others) for others in (meshes[1:], [meshes[0], meshes[2]]))
    assert opening.trapped(meshes[0], UP, up).area + opening.trapped(meshes[1], DOWN, down).area > 50


def test_lines_that_branch_or_are_missing_are_named() -> None:
    block = solid.box((0, 0, 0), (10, 10, 10)).solid
    sides: list[parting.Side] = ["core"] * 6
    with pytest.raises(KernelError, match="no parting line"):
        parting.loops(block, sides, UP)
    top = next(f for f in range(6) if measure.flat_frame(block, f).normal[2] > 0.9)
    beside = next(f for f in range(6) if f not in block.neighbours[top] and f != top)
    flanks = [f for f in range(6) if f not in (top, beside)]
    sides[flanks[0]] = sides[next(f for f in flanks if f not in block.neighbours[flanks[0]] and f != flanks[0])] = "cavity"
    assert len(parting.loops(block, sides, UP)) == 2
    corner = cut(solid.box((0, 0, 0), (20, 20, 10)).solid, solid.box((10, 10, -1), (30, 30, 30)).solid)
    drafts = facing.drafts(corner, UP)
    given: dict[int, parting.Side] = {}
    uprights = [f for f in range(corner.face_count) if abs(drafts[f, 0]) < 1e-9]
    for number, face in enumerate(uprights):
        given[face] = "core" if number % 2 else "cavity"
    try:
        parting.loops(corner, parting.sides(corner, drafts, given=given).of, UP)
    except KernelError as fault:
        assert "branches at" in fault.message and fault.edges


def test_faces_that_stay_crossing_are_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(silhouette, "lines", lambda *_args, **_more: [])
    with pytest.raises(KernelError, match="turn over could not be found") as fault:
        silhouette.split(CASTINGS["tilted cone"](), UP)
    assert fault.value.faces
