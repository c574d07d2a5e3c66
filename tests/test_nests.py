"""Nests: room for other bodies with a gap, a way in and a wall, in closed form and by triangles of another engine."""

from __future__ import annotations

import math
import re
import subprocess
import sys
from typing import Any

import manifold3d
import numpy as np
import pytest

from supplecast import kernel
from supplecast.errors import KernelError
from supplecast.geometry import Vec, unit
from supplecast.kernel import edges, measure, outside, passage
from supplecast.kernel.shapes.shape import Solid
from tests.conftest import STEPS, bodies, built, circle, extrude, part, rectangle
from tests.referee.meshes import manifold

Step = dict[str, Any]


def _solid(*steps: Step) -> Solid:
    return next(iter(bodies(part(list(steps))).values())).body.solid


def _hole(sketch: str, on: Any, width: str = "6", **more: Any) -> list[Step]:
    return [circle(sketch, width, on=on, **more), extrude(f"{sketch}x", sketch, "500", result="cut", direction="both ways")]


BOX: STEPS = [rectangle("s", "30", "20"), extrude("e", "s", "10")]
ROD: STEPS = [circle("s", "20"), extrude("e", "s", "30")]
ROUND_ROD: STEPS = [*ROD, {"id": "f", "type": "fillet", "edges": [{"rule": "every"}], "radius": "3"}]
RING: STEPS = [{"id": "b", "type": "basic shape", "shape": "ring"}]
COVER: STEPS = [
    rectangle("s", "100", "60"), extrude("e", "s", "40"),
    {"id": "sh", "type": "shell", "open": [{"face": "e.start"}], "wall": "2 mm"},
]  # fmt: skip
TANK: STEPS = [circle("c", "20"), extrude("t", "c", "70", result="new"), {"id": "m", "type": "move", "body": "t", "z": "-10"}]
ACROSS: STEPS = [
    {"id": "m1", "type": "move", "body": "t", "how": "turned about", "axis": {"axis": "x"}, "angle": "90"},
    {"id": "m2", "type": "move", "body": "t", "y": "30", "z": "18"},
]  # fmt: skip


# --- the outside ----------------------------------------------------------------------------------------------------------


def test_the_outside_of_a_shell_with_windows_is_the_block_it_was() -> None:
    window = _hole("w", {"face": "e.end"})
    pierced = [*COVER, *window, *_hole("v", {"plane": "front"}, "8", y="20")]
    made = outside.filled(_solid(*pierced))
    assert measure.volume(made.solid) == pytest.approx(100 * 60 * 40, rel=1e-12)
    assert made.solid.face_count == 6 and all(o.role is None for row in made.origins for o in row)


def test_holes_in_round_faces_are_filled_and_what_stands_out_stays() -> None:
    pierced = _solid(*ROD, *_hole("w", {"plane": "front"}, "4", y="15"))
    assert measure.volume(outside.filled(pierced).solid) == pytest.approx(math.pi * 100 * 30, rel=1e-12)
    boss = [circle("b", "5", on={"face": "e.end"}), extrude("bx", "b", "7", result="add")]
    with_boss = _solid(*COVER, *boss)
    assert measure.volume(outside.filled(with_boss).solid) == pytest.approx(240000 + math.pi * 6.25 * 7, rel=1e-12)
    plain = _solid(*BOX)
    assert outside.filled(plain).solid is plain


def test_a_slot_that_opens_across_faces_has_no_outside_to_find() -> None:
    """A hollow that comes out at an edge of the body: no face runs on over its mouth."""
    bore = [circle("h", "10", x="50", y="20", on={"plane": "front", "offset": "30"}),
            extrude("hx", "h", "10", result="cut", direction="both ways")]  # fmt: skip
    steps = [*COVER, *bore]
    with pytest.raises(KernelError, match="opens across several faces"):
        outside.filled(_solid(*steps))


# --- the way in -----------------------------------------------------------------------------------------------------------


def _by_hulls(solid: Solid, by: Vec) -> float:
    """What triangles sweep, each with itself moved on as a hull, and all of them joined."""
    skin = kernel.mesh.tessellate(solid, 0.05, 0.2, edges=False)
    corners = skin.points[skin.triangles]
    step = np.array(by)
    hulls = [manifold3d.Manifold.hull_points(np.concatenate([c, c + step]).astype(np.float64)) for c in corners]
    return float(manifold3d.Manifold.batch_boolean([manifold(solid, 0.05, 0.2), *hulls], manifold3d.OpType.Add).volume())


SWEPT = [
    (BOX, (0.0, 0.0, 1.0), 6000 + 600 * 40),
    (BOX, unit((1.0, 1.0, 1.0)), 6000 + 40 * (600 + 300 + 200) / math.sqrt(3)),
    (ROD, (1.0, 0.0, 0.0), math.pi * 100 * 30 + 20 * 30 * 40),
    (ROD, (0.0, 0.0, 1.0), math.pi * 100 * 70),
]


@pytest.mark.parametrize(("steps", "way", "volume"), SWEPT)
def test_what_a_body_goes_through_is_itself_and_its_shadow(steps: STEPS, way: Vec, volume: float) -> None:
    body = _solid(*steps)
    made = passage.swept(body, way, 40)
    assert measure.volume(made.solid) == pytest.approx(volume, rel=1e-9)
    assert passage.undercut(body, made, way, 40) == pytest.approx(0, abs=0.2)


@pytest.mark.parametrize(
    ("steps", "way"), [(RING, (1.0, 0.0, 0.0)), (ROUND_ROD, (0.0, 1.0, 0.0)), (ROUND_ROD, (0.0, 0.0, 1.0))]
)
def test_round_bodies_go_through_what_their_triangles_do(steps: STEPS, way: Vec) -> None:
    body = _solid(*steps)
    made = passage.swept(body, way, 40)
    by_hulls = _by_hulls(body, tuple(40 * w for w in way))  # type: ignore[arg-type]
    assert by_hulls <= measure.volume(made.solid) == pytest.approx(by_hulls, rel=4e-3)


def test_a_ring_leaves_a_tube_along_its_axis_and_fills_its_hole_across() -> None:
    body = _solid(*RING)
    box = measure.box(body)
    small = box.size[2] / 2
    large = box.size[0] / 2 - small
    along = passage.swept(body, (0.0, 0.0, 1.0), 40)
    tube = math.pi * ((large + small) ** 2 - (large - small) ** 2) * 40
    assert measure.volume(along.solid) == pytest.approx(2 * math.pi**2 * large * small**2 + tube, rel=1e-9)
    across = passage.swept(body, (1.0, 0.0, 0.0), 40)
    assert passage.undercut(body, across, (1.0, 0.0, 0.0), 40) > 0.1 * measure.volume(body)


# --- the nest -------------------------------------------------------------------------------------------------------------


def _nest(**more: Any) -> Step:
    return {"id": "n", "type": "nest", "body": "e", "tools": ["t"], "gap": "0.5 mm", **more}


def _left(steps: STEPS) -> tuple[float, Solid]:
    result = built(part(steps))
    assert result.ok, [o.message for o in result.outcomes]
    solid = result.state.bodies["e"].body.solid
    return measure.volume(solid), solid


HOLLOW = 100 * 60 * 40 - 96 * 56 * 38


def test_a_tank_through_a_cover_gets_its_hole_and_a_wall_inside_only() -> None:
    bore, ring = math.pi * 10.5**2, math.pi * (12**2 - 10.5**2)
    assert _left([*COVER, *TANK, _nest()])[0] == pytest.approx(HOLLOW - bore * 2, rel=1e-9)
    assert _left([*COVER, *TANK, _nest(wall="1.5 mm")])[0] == pytest.approx(HOLLOW - bore * 2 + ring * 38, rel=1e-9)
    across, solid = _left([*COVER, *TANK, *ACROSS, _nest(wall="1.5 mm")])
    assert across == pytest.approx(HOLLOW - 2 * bore * 2 + ring * 56, rel=1e-9)
    tank = built(part([*COVER, *TANK, *ACROSS])).state.bodies["t"].body.solid
    assert kernel.nearness.between(solid, tank) == pytest.approx(0.5, abs=1e-6)


def test_its_wall_is_rounded_at_its_root() -> None:
    """By Pappus: the fillet's section is r² (1 - π/4), its centroid r (1 - 1/(6 - 3π/2))... off the tube, r = 1."""
    plain, rounded = (_left([*COVER, *TANK, _nest(wall="1.5 mm", root=root)])[0] for root in ("0", "1 mm"))
    section = 1 - math.pi / 4
    off = (1 / 2 - (math.pi / 4 - 1 / 3)) / section  # of what is left of a unit square without a quarter of a disc
    assert rounded - plain == pytest.approx(2 * math.pi * (12 + off) * section, rel=1e-9)


def test_it_is_open_along_the_way_in() -> None:
    trough = _left([*BLOCK, *BAR, _nest(corners="sharp", opening="open along")])[0]
    assert trough == pytest.approx(60 * 60 * 20 - 31 * 21 * 15.5, rel=1e-9)
    below = _left([*BLOCK, *BAR, _nest(corners="sharp", opening="open along", facing="back")])[0]
    assert below == pytest.approx(60 * 60 * 20 - 31 * 21 * 10.5, rel=1e-9)
    closed = _left([*BLOCK, *BAR, _nest(corners="sharp")])[0]
    assert closed == pytest.approx(60 * 60 * 20 - 31 * 21 * 6, rel=1e-9)


BLOCK: STEPS = [rectangle("s", "60", "60"), extrude("e", "s", "20")]
BAR: STEPS = [
    rectangle("i", "30", "20"),
    extrude("t", "i", "5", result="new"),
    {"id": "m", "type": "move", "body": "t", "z": "5"},
]


def test_holes_of_what_it_holds_are_left_out_by_rule_or_by_picking() -> None:
    pierced = [*BLOCK, *BAR, circle("h", "4"), extrude("hx", "h", "30", result="cut", body="t")]
    bored = 60 * 60 * 20 - 31 * 21 * 6
    pin = math.pi * 1.5**2 * 6
    hole = {"rule": "faces made by", "of": "hx"}
    assert _left([*pierced, _nest(corners="sharp")])[0] == pytest.approx(bored + pin, rel=1e-9)
    assert _left([*pierced, _nest(corners="sharp", taken="only their outside")])[0] == pytest.approx(bored, rel=1e-9)
    whole = built(part([*BLOCK, *BAR, _nest(corners="sharp", taken="only their outside")])).outcomes[-1]
    assert any("all of it is held" in note for note in whole.notes)
    without = _nest(corners="sharp", taken="without some faces", without=[hole])
    assert _left([*pierced, without])[0] == pytest.approx(bored, rel=1e-9)


def test_its_faces_have_names_that_a_fillet_holds_when_the_held_body_changes() -> None:
    for width in ("30", "24"):
        bar = [rectangle("i", width, "20"), *BAR[1:]]
        round_it = {"id": "f", "type": "fillet", "edges": [{"rule": "edges of", "of": "n.clear{t.start}"}], "radius": "0.5 mm"}
        result = built(part([*BLOCK, *bar, _nest(corners="sharp", opening="open along"), round_it]))
        assert result.ok, [o.message for o in result.outcomes]
        assert not any(outcome.flags for outcome in result.outcomes)


def _fault(steps: STEPS, number: int = -1) -> tuple[str, str, str]:
    outcome = built(part(steps)).outcomes[number]
    assert outcome.status == "failed", outcome
    return outcome.field, outcome.message, outcome.hint


def test_refusals_name_the_field_and_a_way_out() -> None:
    beside = {"id": "aside", "type": "move", "body": "t", "x": "500"}
    field, words, _ = _fault([*BLOCK, *BAR, beside, _nest()])
    assert field == "tools" and "misses" in words
    field, words, hint = _fault([*COVER, *TANK, beside, _nest(wall="1 mm")])
    assert field == "tools" and "No wall" in words and "within" in hint
    field, words, _ = _fault([*BLOCK, *BAR, _nest(taken="without some faces")])
    assert field == "without"
    field, words, _ = _fault([*COVER, *TANK, _nest(wall="1.5 mm", root="60 mm")])
    assert field == "root" and "does not fit" in words


def test_edges_at_a_root_are_the_only_ones_rounded() -> None:
    _, solid = _left([*COVER, *TANK, _nest(wall="1.5 mm", root="1 mm")])
    rounds = [face for face in range(solid.face_count) if measure.surface_word(solid, face) == "ring"]
    (only,) = rounds
    rims = [index for index in solid.face_edges[only] if len(set(solid.faces_at_edges[index])) == 2]
    assert rims and all(edges.bend(solid, index) == "smooth" for index in rims)


_ORDER = """
from supplecast.kernel import clearance, edges, measure
from tests.referee.solids import block
solid = clearance.grown(block(30, 20, 10), 0.5).solid
print([measure.face_middle(solid, face) for face in range(solid.face_count)],
      [edges.middle(solid, index) for index in range(solid.number_of_edges)])
"""


def test_the_faces_of_a_gap_are_numbered_alike_in_every_process() -> None:
    """The kernel's own offset leaves their order to where things lie in memory: three processes would tell three orders."""
    trials = [subprocess.Popen([sys.executable, "-c", _ORDER], stdout=subprocess.PIPE, text=True) for _ in range(3)]
    orders = {re.sub(r"(\.\d{6})\d+|e-\d+", r"\1", trial.communicate()[0]) for trial in trials}
    assert len(orders) == 1 and "(" in orders.pop()
