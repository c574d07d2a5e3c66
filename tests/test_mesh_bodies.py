"""Mesh bodies: triangles of other programs read, mended, told as faces, explained, moved, cut by planes, and used as tools."""

from __future__ import annotations

import hashlib
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from supplecast.document.project import Project
from supplecast.document.rebuild import Built
from supplecast.errors import ExchangeError, KernelError
from supplecast.exchange import handoff
from supplecast.exchange.triangles import Part, write_stl
from supplecast.geometry import Frame
from supplecast.kernel import blob, coarse, explained, facets, flatten, measure, mending, mesh, regions
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import clearances
from supplecast.molding.deviation import alike, deviation, signed
from supplecast.molding.judge import Skin
from tests.conftest import STEPS, built, circle, extrude, part, rectangle

PLATE: STEPS = [
    rectangle("s", "30", "20"), extrude("e", "s", "10"),
    circle("c", "6", x="-5"), extrude("bore", "c", "30", result="cut", direction="both ways"),
]  # fmt: skip
BORED = 30 * 20 * 10 - math.pi * 9 * 10


def _solid(steps: STEPS) -> Solid:
    return built(part(steps)).state.bodies["e"].body.solid


def _stl(solid: Solid, deflection: float = 0.02) -> bytes:
    return write_stl([Part("Body", "part", mesh.tessellate(solid, deflection, 0.3))])


def _as_mesh(solid: Solid, deflection: float = 0.02) -> MeshBody:
    (read,) = facets.read_meshes(_stl(solid, deflection))
    found = mending.mended(read.points, read.triangles)
    assert found.tight and not found.left
    return regions.as_body(found.points, found.triangles, True)


def _referee(body: MeshBody) -> trimesh.Trimesh:
    return trimesh.Trimesh(body.points, body.triangles, process=False)


def test_faces_are_found_in_triangles_and_weigh_what_the_referee_says() -> None:
    body = _as_mesh(_solid(PLATE))
    kinds = sorted(form.kind for form in body.forms)
    assert kinds == ["flat"] * 6 + ["round"]
    (bore,) = (form for form in body.forms if form.kind == "round")
    assert bore.radius == pytest.approx(3, abs=1e-5) and not bore.outward and abs(bore.direction[2]) == pytest.approx(1)
    assert bore.point[:2] == pytest.approx((-5, 0), abs=1e-5)
    referee = _referee(body)
    mass = measure.mass(body)
    assert (mass.volume, mass.area) == (pytest.approx(referee.volume, rel=1e-9), pytest.approx(referee.area, rel=1e-9))
    assert mass.centroid == pytest.approx(referee.center_mass, abs=1e-9)
    assert len(body.lines) == body.number_of_edges == 14  # twelve of the box and two rings
    again = blob.stored(blob.packed(body))
    assert isinstance(again, MeshBody) and again.forms == body.forms and (again.corners == body.corners).all()


def test_rings_and_balls_are_not_told_as_slices_of_rounds() -> None:
    rings: STEPS = [{"id": "e", "type": "basic shape", "shape": "ring", "diameter": "30", "tube": "8"}]
    ball = trimesh.creation.icosphere(3, 10)
    bodies = [_as_mesh(_solid(rings))]
    bodies.append(regions.as_body(np.asarray(ball.vertices), np.asarray(ball.faces, dtype=np.int32), True))
    for body in bodies:
        assert {form.kind for form in body.forms} == {"free"}
        with pytest.raises(KernelError, match="lies on no flat and no round"):
            explained.as_solid(body)


def test_what_is_nearly_sound_is_mended_and_told() -> None:
    whole = _referee(_as_mesh(_solid(PLATE)))
    points, triangles = np.asarray(whole.vertices), np.asarray(whole.faces, dtype=np.int32)
    drawn = np.random.default_rng(4)
    loose = points[triangles].reshape(-1, 3) + drawn.uniform(-1e-6, 1e-6, (3 * len(triangles), 3))  # each corner by itself
    own = np.arange(len(loose), dtype=np.int32).reshape(-1, 3)
    own[::3] = own[::3, ::-1]  # a third of them turned over
    small = int(np.argmin(whole.area_faces))
    broken = np.concatenate([np.delete(own, small, axis=0), own[5:6], own[7:8, [0, 0, 1]]])
    found = mending.mended(loose, broken)
    assert found.tight and not found.left
    said = " ".join(found.done)
    for word in ("joined", "without area", "told twice", "turned over", "1 gap closed"):
        assert word in said, said
    referee = trimesh.Trimesh(found.points, found.triangles)
    assert referee.is_watertight and referee.volume == pytest.approx(whole.volume, rel=1e-5)


def test_what_cannot_be_mended_without_guessing_is_left_and_said() -> None:
    box = trimesh.creation.box((10, 10, 10))
    lid = np.abs(box.face_normals[:, 2] - 1) < 1e-9
    opened = mending.mended(np.asarray(box.vertices), np.asarray(box.faces[~lid], dtype=np.int32))
    assert not opened.tight and "open along 4 sides" in opened.left[0]
    spare = np.array([[30, 0, 0], [31, 0, 0], [30, 1, 0]], dtype=float)  # a triangle by itself is no gap in anything
    debris = mending.mended(np.vstack([box.vertices, spare]), np.vstack([box.faces, [[8, 9, 10]]]).astype(np.int32))
    assert not debris.tight and "open along 3 sides" in debris.left[0] and not any("closed" in word for word in debris.done)
    crossed = trimesh.util.concatenate([box, trimesh.creation.box((4, 4, 30))])
    found = mending.mended(np.asarray(crossed.vertices), np.asarray(crossed.faces, dtype=np.int32))
    assert not found.tight and "crosses itself" in found.left[0]
    with pytest.raises(KernelError, match="gaps or crosses itself"):
        coarse.grown(regions.as_body(found.points, found.triangles, found.tight), 1.0)


def test_flats_and_rounds_explain_a_mesh_to_the_digits() -> None:
    more = [
        *PLATE,
        {"id": "r", "type": "fillet", "radius": "3", "edges": [{"rule": "uprights", "of": "e"}]},
        circle("c2", "4", y="5", on={"plane": "front"}), extrude("cross", "c2", "50", result="cut", direction="both ways"),
    ]  # fmt: skip
    for steps in (PLATE, more):
        exact = _solid(steps)
        made = explained.as_solid(_as_mesh(exact))
        assert measure.volume(made.solid) == pytest.approx(measure.volume(exact), rel=1e-6)
        assert made.solid.face_count == exact.face_count and made.off < 0.02
    assert "2 rounds" not in made.words and "rounds" in made.words


def test_a_body_grown_in_flats_stands_off_as_much_as_it_says() -> None:
    body = _as_mesh(_solid([rectangle("s", "30", "20"), extrude("e", "s", "10")]))
    for gap in (0.3, 1.0):
        made = coarse.grown(body, gap)
        assert gap <= made.least <= made.most < 1.3 * gap
        solid = mesh.tessellate(made.made.solid, 0.1, 0.5)
        skin = trimesh.Trimesh(*solid.welded())
        assert skin.is_watertight
        places = skin.sample(2000, seed=1) - (0, 0, 5)
        near = np.linalg.norm(np.maximum(np.abs(places) - (15, 10, 5), 0), axis=1)  # how far off a box a place is
        assert near.min() >= gap - 1e-4 and near.max() <= made.most + 1e-4

        def steiner(g: float) -> float:  # Steiner 1840: V + A g + M g² + 4/3 pi g³
            return 6000 + 2200 * g + math.pi * 60 * g * g + 4 / 3 * math.pi * g**3

        assert steiner(made.least) <= measure.volume(made.made.solid) <= steiner(made.most)
        assert {o.sources[0].face for row in made.made.origins for o in row} == set(range(6))  # type: ignore[union-attr]


def test_a_body_is_held_against_a_mesh_of_the_same_thing() -> None:
    """A plate 0.2 mm thicker than its mesh, its bore 0.4 mm wider: signed by which side of the mesh its skin lies on."""
    mesh_of_it = _as_mesh(_solid(PLATE), 0.002)
    own = [
        rectangle("s", "30", "20"), extrude("e", "s", "10.2"),
        circle("c", "6.4", x="-5"), extrude("bore", "c", "30", result="cut", direction="both ways"),
    ]  # fmt: skip
    solid = _solid(own)
    assert alike(solid, mesh_of_it) and not alike(_solid([rectangle("s", "4", "4"), extrude("e", "s", "40")]), mesh_of_it)
    places = Skin(solid).places
    found = deviation(places, mesh_of_it, 0.1)
    assert (found.beyond, found.behind) == (pytest.approx(0.2, abs=2e-3), pytest.approx(0.2, abs=5e-3))
    bore = 2 * math.pi * 3.2 * 10.2
    near = 2 * (30 * 20 - math.pi * 3.2**2) + 100 * 10.2 + bore
    assert found.share == pytest.approx((near - 600 + math.pi * 3.2**2 - bore) / near, abs=0.02)
    referee = _referee(mesh_of_it)
    drawn = np.random.default_rng(2).uniform((-16, -11, -1), (16, 11, 11), (500, 3))
    inside = signed(drawn, [mesh_of_it]) < 0
    x, y, z = drawn.T
    assert (inside == ((abs(x) < 15) & (abs(y) < 10) & (z > 0) & (z < 10) & (np.hypot(x + 5, y) > 3))).mean() > 0.998
    assert referee.is_watertight


def test_slivers_that_rounding_leaves_make_no_faces() -> None:
    """A holder with rounded uprights, two rounds through it and a gap of a hundredth of an inch: the sum with the ball leaves
    triangles flatter than any face can be.
    """
    steps = [
        rectangle("s", "54", "32"), extrude("e", "s", "12"),
        {"id": "f", "type": "fillet", "radius": "4", "edges": [{"rule": "uprights", "of": "e"}]},
        circle("c", "14", x="-9", y="13", on={"plane": "front"}), extrude("b", "c", "44", result="cut", direction="both ways"),
        circle("d", "6", x="20"), extrude("h", "d", "40", result="cut", direction="both ways"),
    ]  # fmt: skip
    for gap in (0.254, 0.3):
        made = coarse.grown(_as_mesh(_solid(steps)), gap)
        assert gap <= made.least <= made.most < 1.2 * gap
    drawn = np.array([[0, 0, 0], [4, 0, 0], [4, 4, 0], [2, 1e-7, 0], [0, 4, 0]], dtype=float)
    fan = np.array([[0, 1, 3], [3, 1, 2], [0, 3, 2], [0, 2, 4], [0, 4, 1], [4, 2, 1]], dtype=np.int32)
    points, triangles = mending.without_slivers(drawn, fan, 1e-3)
    assert not len(mending.slivers(points, triangles, 1e-3)) and trimesh.Trimesh(points, triangles).is_watertight


OBJ = b"""# a wedge, in inches, with a face told by its last points
o Wedge
v 0 0 0
v 2 0 0
v 2 1 0
v 0 1 0
v 0 0 1
v 0 1 1
f 4/1 3/2 2/3 1/4
f 1 2 5
f 3 4 6
f -1//1 -2//1 -5//1 -4//1
f 1 5 6 4
"""


def test_obj_files_are_read_with_their_unit() -> None:
    (wedge,) = facets.read_meshes(OBJ, 25.4)
    assert wedge.name == "Wedge"
    found = mending.mended(wedge.points, wedge.triangles)
    assert found.tight and trimesh.Trimesh(found.points, found.triangles).volume == pytest.approx(25.4**3)
    for wrong in (b"v 0 0 0\nf 1 2 3\n", b"v 0 0 x\nf 1 1 1\n", b"o A\nv 0 0 0\nf 1 -9 1\n"):
        with pytest.raises(KernelError, match="broken"):
            facets.read_meshes(wrong)


def _imported(folder: Path, content: bytes, file: str, more: STEPS, **fields: Any) -> Built:
    digest = hashlib.sha256(content).hexdigest()
    (folder / digest).write_bytes(content)
    document = part([{"id": "m", "type": "import", "file": file, "asset": digest, **fields}, *more])
    return Project({(document.id, None): document}, assets=folder).build(document.id)


SHELL: STEPS = [rectangle("b", "50", "40"), extrude("block", "b", "24", result="new")]


def test_a_mesh_is_moved_seated_and_makes_room_for_itself(tmp_path: Path) -> None:
    content = _stl(_solid(PLATE))
    alone = _imported(tmp_path, content, "plate.stl", [], taken="as mesh")
    entry = alone.state.bodies["m"]
    top = next(tags[0] for face, tags in enumerate(entry.body.tags) if measure.face_middle(entry.body.solid, face)[2] > 9.99)
    seat = {"id": "mv", "type": "move", "body": "m", "how": "seated", "face": [{"face": top, "body": "m"}],
            "onto": [{"face": "block.end", "body": "block"}], "way": "flush", "gap": "-6 mm"}  # fmt: skip
    cut = {"id": "cut", "type": "subtract", "body": "block", "tools": ["m"], "gap": "1 mm", "keep": "keep"}
    result = _imported(tmp_path, content, "plate.stl", [*SHELL, seat, cut], taken="as mesh")
    assert result.ok, [(o.step, o.message) for o in result.outcomes]
    told = next(o for o in result.outcomes if o.step == "cut")
    assert any("Of flats about" in note and "1.0" in note for note in told.notes)
    block, tool = (result.state.bodies[name].body for name in ("block", "m"))
    assert measure.box(tool.solid).high[2] == pytest.approx(18, abs=1e-4)
    room = 50 * 40 * 24 - measure.volume(block.solid)
    assert measure.volume(tool.solid) + measure.mass(tool.solid).area < room < 1.35 * (measure.volume(tool.solid) + 2400)
    near = clearances.meeting(block.solid, tool.solid)
    assert near is not None and not near.exact and 1.0 <= near.away < 1.2
    assert any(tag.startswith("cut.clear{m.face[") for tags in block.tags for tag in tags)
    sharp = _imported(tmp_path, content, "plate.stl", [*SHELL, seat, {**cut, "corners": "sharp"}], taken="as mesh").outcomes[-1]
    assert any("not kept sharp" in note for note in sharp.notes)


def test_a_way_meets_meshes_and_neighbours_too(tmp_path: Path) -> None:
    """A block let down on a mesh 10 mm high from 20 mm meets it after 10."""
    lifted = {"id": "up", "type": "move", "body": "block", "z": "20"}
    way = {"id": "w", "type": "way", "body": "block", "distance": "-18"}
    result = _imported(tmp_path, _stl(_solid(PLATE)), "plate.stl", [*SHELL, lifted, way], taken="as mesh")
    assert result.ok and result.outcomes[-1].readings[0].words.startswith("meets plate after")
    assert result.outcomes[-1].figures["free"] == pytest.approx(10, abs=5e-3)


def test_a_mesh_is_cut_by_planes_and_handed_off_as_triangles_only(tmp_path: Path) -> None:
    result = _imported(tmp_path, _stl(_solid(PLATE)), "plate.stl", [], taken="as mesh")
    entry = result.state.bodies["m"]
    lines = flatten.section(entry.body.solid, Frame.lying((0.0, 0.0, 4.0), (0.0, 0.0, 1.0)))
    length = sum(float(np.linalg.norm(np.subtract(*line.at(np.array([0.0, 1.0]))))) for line in lines)
    assert length == pytest.approx(100 + 2 * math.pi * 3, rel=2e-3)
    read = trimesh.load_mesh(trimesh.util.wrap_as_stream(handoff.write([entry], "stl")), "stl")
    assert read.volume == pytest.approx(measure.mass(entry.body.solid).volume, rel=1e-6)
    with pytest.raises(ExchangeError, match="Meshes can only be written as STL or 3MF"):
        handoff.write([entry], "step")


def test_what_a_mesh_cannot_do_is_said_at_its_step(tmp_path: Path) -> None:
    content = _stl(_solid(PLATE))
    wrong: list[tuple[dict[str, Any], str, str]] = [
        ({"id": "x", "type": "union", "body": "block", "tools": ["m"]}, "tools", "This is a mesh"),
        ({"id": "x", "type": "shell", "body": "m", "wall": "1", "open": []}, "body", "mesh"),
        ({"id": "x", "type": "nest", "body": "block", "tools": ["m"], "taken": "only their outside"}, "taken", "as it is"),
    ]
    for step, field, words in wrong:
        outcome = _imported(tmp_path, content, "plate.stl", [*SHELL, step], taken="as mesh").outcomes[-1]
        assert outcome.status == "failed" and words in outcome.message, outcome
        assert outcome.field == field, outcome
    healed = _imported(tmp_path, content, "plate.stl", [], taken="healed")
    assert healed.ok and "6 flats and 1 round" in " ".join(healed.outcomes[0].notes)
    assert measure.volume(healed.state.bodies["m"].body.solid) == pytest.approx(BORED, rel=1e-6)


def test_a_nest_for_a_mesh_is_open_along_its_way(tmp_path: Path) -> None:
    flat = {"id": "mv", "type": "move", "body": "m", "z": "8"}
    nest = {"id": "n", "type": "nest", "body": "block", "tools": ["m"], "gap": "0.5 mm", "opening": "open along"}
    result = _imported(tmp_path, _stl(_solid(PLATE)), "plate.stl", [*SHELL, flat, nest], taken="as mesh")
    assert result.ok, [o.message for o in result.outcomes]
    block = result.state.bodies["block"].body.solid
    # Let down from above, the plate leaves what is over it, grown by the gap; in its bore a pin of the block is left.
    pin = math.pi * 2.5**2 * 16.5
    least = 50 * 40 * 24 - (31 * 21 * 16.5 - 4 * (1 - math.pi / 4) * 0.25 * 16.5) + pin
    assert 0.98 * least < measure.volume(block) < least
