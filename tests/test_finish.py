"""What faces wear: finishes and prints go where faces go, change no shape and no name, and leave the program with bodies."""

from __future__ import annotations

import hashlib
import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from supplecast.document import coat
from supplecast.document.coat import Finish, Lettered, Print
from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory
from supplecast.document.surface_list import surface_list
from supplecast.exchange.formats import Tolerance
from supplecast.exchange.parts_csv import write_surfaces_csv
from supplecast.exchange.wardrobe import Wardrobe
from supplecast.kernel import measure, mesh
from supplecast.naming import FaceRef, reference_face, resolve
from supplecast.store import shelf
from supplecast.wire.options import Build, Judge
from supplecast.workers.verbs import building, judging
from tests.conftest import STEPS, bodies, built, circle, extrude, part, rectangle
from tests.referee.desk import Desk
from tests.referee.papers import BAT, quarters
from tests.referee.tasks import task

BOX: STEPS = [rectangle("s", "40", "30"), extrude("e", "s", "20")]
TOP = {"face": "e.end"}
RED = {"id": "f1", "type": "finish", "what": "only", "on": [TOP], "colour": "#C02020", "gloss": "80 %", "grain": "none"}
WHOLE = {"id": "f2", "type": "finish", "colour": "#2060C0", "grain": "fine", "depth": "0.05", "code": "T-3"}
AWAY = {"across": {"plane": "side", "offset": "-40"}, "result": "as a new body"}
ART = {"id": "a1", "type": "printed art", "on": [TOP], "width": "20", "x": "3", "turn": "90 deg"}


def looks(result: Built, body: str = "e") -> list[str]:
    """The colour of each face, dashes for none."""
    entry = result.state.bodies[body]
    return [one.colour if one else "-" for one in coat.finishes(entry.body, entry.id, result.coats)]


def with_art(folder: Path, *steps: dict[str, Any], content: bytes | None = None, **more: Any) -> tuple[Document, Project]:
    """A document whose first step of printed art prints a picture kept in a folder."""
    content = content or quarters()
    name = hashlib.sha256(content).hexdigest()
    (folder / name).write_bytes(content)
    art = {"file": "four.png", "asset": name}
    document = part([{**step, "art": art} if step["type"] == "printed art" else step for step in steps], **more)
    return document, Project({(document.id, None): document}, folder)


def _middle(points: Any) -> list[float]:
    return list(((points.min(axis=0) + points.max(axis=0)) / 2).round(6))


def test_a_finish_goes_with_its_face_through_later_steps_and_a_new_colour_builds_nothing_anew() -> None:
    steps = [*BOX, RED, {"id": "r", "type": "fillet", "radius": "2", "edges": [{"rule": "edges of", "of": "e.end"}]},
             {"id": "m", "type": "move", "x": "15"}, WHOLE]  # fmt: skip
    memory = Memory()
    first = built(part(steps), memory=memory)
    seen = looks(first)
    assert first.ok and seen.count("#C02020") == 1 and seen.count("#2060C0") == len(seen) - 1
    top = measure.flat_frame(first.state.bodies["e"].body.solid, seen.index("#C02020"))
    assert top.normal == (0.0, 0.0, 1.0)
    steps[2] = {**RED, "colour": "#20C020"}
    again = built(part(steps), memory=memory)
    assert [o.step for o in again.outcomes if not o.reused] == ["f1"] and looks(again).count("#20C020") == 1
    assert again.state.bodies["e"].key == first.state.bodies["e"].key
    holed = [*steps, circle("h", "6", on=TOP), extrude("c", "h", "5", direction="down", result="cut")]
    after = looks(built(part(holed)))
    assert after.count("#20C020") == 1 and after.count("#2060C0") == len(after) - 1  # the hole is of the whole body


def test_what_a_face_wears_is_no_name() -> None:
    """A pick made with and without it is the same, and leads to the same."""
    plain, worn = (bodies(part([*BOX, *more]))["e"].body for more in ((), (RED, ART, WHOLE)))
    for face in range(plain.solid.face_count):
        reference = reference_face(worn, face)
        assert reference == reference_face(plain, face) and resolve(plain, reference).items == (face,)
    assert resolve(worn, FaceRef(face="f1.coat")).status == "lost"
    assert set(worn.coats) == {"f1.coat", "a1.coat", "f2.coat"} and not plain.coats


def test_copies_wear_what_the_first_does_and_prints_are_carried_along(tmp_path: Path) -> None:
    steps = [*BOX, RED, ART, {"id": "m", "type": "move", "x": "5", "z": "7"},
             {"id": "mi", "type": "mirror", "of": "a body", **AWAY}]  # fmt: skip
    document, project = with_art(tmp_path, *steps)
    result = project.build(document.id)
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status != "ok"]
    middles = {}
    wardrobe = Wardrobe(document, result.coats, project.asset)
    for entry in result.state.bodies.values():
        dressed = wardrobe.part(entry, mesh.tessellate(entry.body.solid, 0.1, 0.3))
        (print_,) = dressed.prints
        middles[entry.id] = _middle(print_.cut.points)
        assert "#C02020" in [look.colour for look in dressed.looks]
    own = middles.pop("e")
    assert own == pytest.approx([8.0, 0.0, 27.0])
    (other,) = middles.values()
    assert other == pytest.approx([-80 - 8.0, 0.0, 27.0])


def test_linked_bodies_wear_what_their_document_gave_them(tmp_path: Path) -> None:
    document, _ = with_art(tmp_path, *BOX, RED, ART, id="lid")
    whole = part([{"id": "k1", "type": "link", "part": {"document": "lid"}}, {"id": "m", "type": "move", "z": "50"}],
                 id="all", kind="assembly")  # fmt: skip
    project = Project({(d.id, None): d for d in (whole, document)}, tmp_path)
    result = project.build("all")
    assert result.ok and set(result.coats) == {"k1/f1", "k1/a1"}
    entry = result.state.bodies["k1"]
    dressed = Wardrobe(whole, result.coats, project.asset).part(entry, mesh.tessellate(entry.body.solid, 0.1, 0.3))
    assert [look.colour for look in dressed.looks] == ["#D9C7A3", "#C02020"]
    assert dressed.prints[0].cut.points[:, 2] == pytest.approx([70.0] * len(dressed.prints[0].cut.points))


def test_what_faces_wear_comes_back_from_the_shelf(tmp_path: Path) -> None:
    document = part([*BOX, RED, ART, {"id": "m", "type": "move", "x": "5"},
                     {"id": "le", "type": "lettering", "text": "A", "on": [{"face": "e.start"}], "height": "5"}])  # fmt: skip
    result = built(document)
    assert result.ok
    shelf.keep(result, document.id, tmp_path)
    again = Project({(document.id, None): document}, recall=lambda name: shelf.recall(name, tmp_path)).build(document.id)
    assert all(o.reused for o in again.outcomes) and again.coats == result.coats
    assert again.state.bodies["e"].moved == result.state.bodies["e"].moved != ()
    kinds = [type(one) for one in again.coats.values()]
    assert kinds == [Finish, Print, Lettered]


REFUSED: list[tuple[dict[str, Any], str, str]] = [
    ({**RED, "on": []}, "on", "No face is picked"),
    ({**RED, "gloss": "140 %"}, "gloss", "at most 100 %"),
    ({**WHOLE, "depth": "3"}, "depth", "up to 2 mm deep"),
    ({**ART, "on": []}, "on", "No face is picked"),
    ({**ART, "x": "200"}, "x", "beside the picked faces"),
    ({**ART, "width": "0"}, "width", "greater than zero"),
    ({**ART, "lies": "once round"}, "on", "no axis"),
    ({**ART, "columns": 40, "rows": 40}, "columns", "more than 400"),
    ({**ART, "lies": "cast from", "plane": {"plane": "side"}}, "x", "No picked face looks at the plane"),
]


@pytest.mark.parametrize(("step", "field", "words"), REFUSED)
def test_what_cannot_be_worn_is_refused_at_its_field_with_a_way_out(step: dict[str, Any], field: str, words: str) -> None:
    outcome = built(part([*BOX, step])).outcomes[-1]
    assert outcome.status == "failed" and outcome.field == field and words in outcome.message and outcome.hint


def test_prints_say_how_large_and_how_fine_they_are_and_what_is_cut_off(tmp_path: Path) -> None:
    document, project = with_art(tmp_path, *BOX, {**ART, "width": "60", "turn": "0"})
    outcome = project.build(document.id).outcomes[-1]
    assert "60 × 30 mm, 1.3 dots per mm (34 per inch)." in outcome.notes and "67 % of it" in outcome.notes[1]
    assert [flag.field for flag in outcome.flags] == ["width"] and "coarse" in outcome.flags[0].words
    drawn, project = with_art(tmp_path, *BOX, {**ART, "width": "30"}, content=BAT)
    assert "30 × 15 mm, sharp at any size." in project.build(drawn.id).outcomes[-1].notes


def test_textures_ask_each_face_for_its_own_draft(tmp_path: Path) -> None:
    """1° more for each 0.025 mm (common practice, no source): ABS asks for 1°, etched 0.05 mm deep for 3°."""
    leaning = [rectangle("s", "40", "30"), extrude("e", "s", "20", draft="2 deg")]
    gauge = {}
    for name, more in {"plain": (), "etched": (WHOLE,), "window": (WHOLE, {**RED, "on": [{"rule": "every face"}]})}.items():
        result = judging.judge(task(part([*leaning, *more]), tmp_path), Judge())
        gauge[name] = next(one for one in result.gauges if one.id == "draft")
    assert gauge["plain"].state == "good" and gauge["window"].state == "good"
    assert gauge["etched"].state == "doubt" and len(gauge["etched"].offenders) == 4
    assert "2°, needs 3°" in gauge["etched"].offenders[0].words and gauge["etched"].map == "draft"
    one = {**WHOLE, "what": "only", "on": [{"face": "e.side[f1_L1]"}]}
    single = judging.judge(task(part([*leaning, one]), tmp_path), Judge())
    draft = next(g for g in single.gauges if g.id == "draft")
    assert len(draft.offenders) == 1 and draft.map == "spare" and {"draft", "spare"} <= set(single.skins[0].maps)
    spare = np.frombuffer((tmp_path / single.skins[0].maps["spare"]).read_bytes(), "<f4")
    assert np.isclose(spare, -1, atol=1e-3).any() and np.isclose(spare, 1, atol=1e-3).any()


def test_what_is_not_molded_is_not_judged_as_molded(tmp_path: Path) -> None:
    steel = part(BOX, resin="Steel")
    strip = judging.judge(task(steel, tmp_path), Judge())
    assert strip.short and [gauge.name for gauge in strip.gauges] == ["Size", "Mass, Steel", "Least wall"]
    assert {gauge.state for gauge in strip.gauges} == {"none"} and strip.gauges[1].value == "188"  # 24 cm³ of 7.85 g
    every = judging.judge(task(steel, tmp_path), Judge(every=True))
    assert not every.short and [gauge.id for gauge in every.gauges][:3] == ["wall", "draft", "undercut"]
    nothing = judging.judge(task(part(BOX, resin="Nothing yet"), tmp_path), Judge())
    assert nothing.gauges[1].name == "Volume" and nothing.gauges[1].verdict == "of nothing yet"
    own = part(BOX, resin="Bronze", grade={"name": "Bronze", "density": 8.8, "look": {"kind": "metal", "colour": "#B08040"}})
    assert judging.judge(task(own, tmp_path), Judge()).gauges[1].value == "211"
    shown = building.build(task(own, tmp_path), Build()).bodies[0]
    assert (
        shown.mass == pytest.approx(211.2) and shown.finish and (shown.finish.kind, shown.finish.colour) == ("metal", "#B08040")
    )
    like = part(BOX, resin="My PP", grade={"name": "My PP", "like": "PP", "density": 1.0})
    assert like.material and (like.material.density, like.material.wall, like.material.name) == (1.0, (0.7, 2.0, 4.0), "My PP")


def test_the_toolmaker_is_told_what_to_do_to_which_surface(tmp_path: Path) -> None:
    lettering = {"id": "le", "type": "lettering", "text": "DUSK", "on": [{"face": "e.start"}], "height": "5", "way": "sunk"}
    lid = part([*BOX, WHOLE, RED, ART, lettering], id="part")
    tool = part([{"id": "lnk", "type": "link", "part": {"document": "part"}},
                 {"id": "shr", "type": "shrink", "shrinkage": "0.5 %"},
                 {"id": "blk", "type": "block", "around": "20", "below": "20", "above": "20"},
                 {"id": "cav", "type": "subtract part"},
                 {"id": "spl", "type": "split", "at": {"face": "lnk.of{e.start}", "body": "lnk"}}],
                id="tool", kind="tool")  # fmt: skip
    result = Project({(d.id, None): d for d in (tool, lid)}).build("tool")
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status != "ok"]
    marks = {one.what: one for one in surface_list(result.state.bodies.values(), result.coats)}
    fine = marks["fine texture, 0.05 mm deep"]
    assert (fine.code, fine.part) == ("T-3", "Part") and set(fine.formed_by) <= {"Cavity half", "Core half"} and fine.formed_by
    assert marks["no texture"].area == pytest.approx(40 * 30 * 1.005**2, rel=1e-3)
    assert "“DUSK” sunk by 0.3 mm" in marks and "kept for the print “check card”, 20 × 20 mm" in marks
    rows = write_surfaces_csv(marks.values()).decode("utf-8-sig").splitlines()
    assert rows[0].startswith("What,Code,Area mm2") and any("T-3" in row for row in rows)


def test_a_drawing_is_raised_as_letters_are(tmp_path: Path) -> None:
    ring = (
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><rect width="20" height="20"/>'
        b'<path d="M22 2h16v16h-16z M26 6h8v8h-8z" fill-rule="evenodd"/>'
        b'<path d="M0 0h40" fill="none" stroke="red"/></svg>'
    )
    name = hashlib.sha256(ring).hexdigest()
    (tmp_path / name).write_bytes(ring)
    art = {"file": "ring.svg", "asset": name}
    step = {
        "id": "le",
        "type": "lettering",
        "what": "a drawing",
        "art": art,
        "on": [TOP],
        "height": "10",
        "depth": "0.5",
        "draft": "0",
    }
    document = part([*BOX, step])
    result = Project({(document.id, None): document}, tmp_path).build(document.id)
    assert result.ok, result.outcomes[-1].message
    areas = (20 * 20 + 16 * 16 - 8 * 8) / 4  # half as large as drawn
    assert measure.volume(result.state.bodies["e"].body.solid) == pytest.approx(24_000 + 0.5 * areas, abs=1e-6)
    bare = built(part([*BOX, {**step, "art": None}]))
    assert bare.ok and "An arrow" in bare.outcomes[-1].notes[0]
    (tmp_path / name).write_bytes(quarters())
    photo = part([*BOX, {**step, "art": {"file": "four.png", "asset": hashlib.sha256(quarters()).hexdigest()}}])
    (tmp_path / hashlib.sha256(quarters()).hexdigest()).write_bytes(quarters())
    outcome = Project({(photo.id, None): photo}, tmp_path).build(photo.id).outcomes[-1]
    assert outcome.field == "art" and "photo" in outcome.message


def test_a_new_finish_and_a_new_print_take_what_is_picked_and_where_it_was_clicked() -> None:
    document = part(BOX)
    edit = read_edit({"op": "add", "type": "finish", "picked": [{"face": "e.end"}]})
    assert apply(document, edit)[0].steps[-1].held("what") == "only"
    edit = read_edit({"op": "add", "type": "printed art", "picked": [{"face": "e.end"}], "spot": [5, 4, 20]})
    changed = apply(document, edit)[0]
    assert changed.steps[-1].held("spot") == (5, 4, 20)
    entry = bodies(changed)["e"]
    held = Wardrobe(changed, built(changed).coats).part(entry, mesh.tessellate(entry.body.solid, *vars(Tolerance()).values()))
    assert _middle(held.prints[0].cut.points) == pytest.approx([5, 4, 20], abs=1e-6)


def test_pictures_are_kept_for_a_document_and_bad_ones_told(desk: Desk) -> None:
    project = desk.library.create_project("Prints").id
    document = desk.library.add_document(project, part(BOX)).id

    def upload(name: str, content: bytes) -> Any:
        form = {"file": (io.BytesIO(content), name)}
        return desk.client.post(f"/api/documents/{document}/pictures", data=form, headers={"X-Token": desk.token})

    art = upload("bat.svg", BAT).get_json()["art"]
    assert art == {"file": "bat.svg", "asset": hashlib.sha256(BAT).hexdigest()}
    assert (desk.library.assets / art["asset"]).read_bytes() == BAT
    for name, content, words in (("a.svg", b"<svg viewBox='0 0 1 1'><script/></svg>", "things of its own"),
                                 ("a.png", quarters()[:90], "cut short"), ("a.png", b"none", "no PNG")):  # fmt: skip
        answer = upload(name, content)
        assert answer.status_code == 422 and words in answer.get_json()["title"] + answer.get_json()["detail"]
    assert desk.client.post(f"/api/documents/{document}/pictures", headers={"X-Token": desk.token}).status_code == 422
    made = desk.post(f"/api/documents/{document}/shots", width=160, height=100, film="gif", seconds=1).get_json()
    result = desk.done(made["job"])["result"]
    assert result["name"] == "part-picture.gif"
    film = Image.open(io.BytesIO(desk.client.get(f"/api/blobs/{result['blob']}").data))
    assert film.size == (160, 100) and film.n_frames > 4
    assert desk.post(f"/api/documents/{document}/shots", width=4096, height=4096, film="webp").status_code == 422


def test_what_is_cut_with_something_does_not_look_like_it() -> None:
    other = [rectangle("s9", "10", "10"), extrude("e9", "s9", "30", result="new"), {**WHOLE, "body": "e9"},
             {"id": "su", "type": "subtract", "body": "e", "tools": ["e9"]}]  # fmt: skip
    result = built(part([*BOX, *other]))
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status != "ok"]
    assert set(looks(result)) == {"-"}


def test_faces_of_two_bodies_are_finished_at_once() -> None:
    two = [rectangle("s2", "10", "10", x="60"), extrude("e2", "s2", "5", result="new")]
    result = built(part([*BOX, *two, {**RED, "on": [TOP, {"face": "e2.end"}]}]))
    assert result.ok and looks(result).count("#C02020") == looks(result, "e2").count("#C02020") == 1
    assert result.outcomes[-1].notes == ("1 face of Body.", "1 face of Body 2.")


def test_a_print_whose_picture_is_gone_keeps_no_part_from_being_built() -> None:
    """The check card stands in for it, and the step says so: a tool that links the part goes on."""
    result = built(part([*BOX, {**ART, "art": {"file": "gone.png", "asset": "0" * 64}}]))
    assert result.ok and result.outcomes[-1].flags[0].field == "art" and "not at hand" in result.outcomes[-1].flags[0].words
    (worn,) = result.coats.values()
    assert isinstance(worn, Print) and worn.asset == ""
