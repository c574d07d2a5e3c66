"""What a new step takes for meant, so that nobody has to say what the sheet tells already; and the basic shapes."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.kernel import measure
from supplecast.store.library import Library
from tests.conftest import MOLD, bodies, built, circle, extrude, part, rectangle, tool

# Two boxes side by side, the second with its sketch on the top plane too: 40 × 30 × 20, and 20 × 20 × 10 beside it.
BACK = [rectangle("s1", "40", "30"), extrude("back", "s1", "20")]
TWO = [*BACK, rectangle("s2", "20", "20", x="50"), extrude("side", "s2", "10")]


def edited(document: Document, **edit: Any) -> Document:
    return apply(document, read_edit(edit))[0]


def added(document: Document, kind: str, **edit: Any) -> Document:
    return edited(document, op="add", type=kind, **edit)


def volumes(document: Document) -> dict[str, float]:
    made = built(document)
    assert made.ok, [outcome.message for outcome in made.outcomes]
    return {name: measure.volume(entry.body.solid) for name, entry in made.state.bodies.items()}


def test_what_is_drawn_on_a_body_is_added_to_it_and_cut_from_it_inwards() -> None:
    drawn = part([*TWO, circle("c", "4", on={"face": "back.end"})])
    grown = added(drawn, "extrude")
    assert volumes(grown) == pytest.approx({"back": 24000 + 40 * math.pi, "side": 4000}, rel=1e-9)
    new = grown.steps[-1].id
    cut = edited(grown, op="set", step=new, field="result", value="cut")
    assert volumes(cut) == pytest.approx({"back": 24000 - 40 * math.pi, "side": 4000}, rel=1e-9)
    again = edited(cut, op="set", step=new, field="result", value="add")
    assert volumes(again) == pytest.approx(volumes(grown), rel=1e-12)


@pytest.mark.parametrize(("x", "met"), [("50", "side"), ("10", "back"), ("200", "side")])
def test_otherwise_the_newest_that_is_met_is_meant(x: str, met: str) -> None:
    drawn = part([*TWO, circle("c", "4", x=x), extrude("e", "c", "25", result="add")])
    made = built(drawn)
    assert made.traces["e"].targets == (met,)
    if x != "200":  # there it meets none, and does not join
        assert f"{made.state.bodies[met].name} is meant, the newest it meets" in made.outcome("e").notes


def test_beside_a_linked_part_a_body_of_its_own_begins() -> None:
    document = tool([{"id": "k", "type": "link", "part": {"document": "other"}}, circle("c", "4")])
    assert added(document, "extrude").steps[-1].held("result") == "new"
    assert added(part(BACK), "extrude").steps[-1].held("result") == "add"


def test_a_rib_is_seen_as_it_lands() -> None:
    # A plate with a wall along its left, and the slope of a gusset from the wall's 15 mm down to the plate.
    wall = [rectangle("w", "2", "30", x="-19"), extrude("wx", "w", "20", result="add")]
    angle = [rectangle("s1", "40", "30"), extrude("back", "s1", "2"), *wall]
    line = {"type": "line", "a": "p", "b": "q"}
    drawn = {
        "id": "l",
        "type": "sketch",
        "on": {"plane": "front"},
        "points": {"p": [-18, 15], "q": [10, 2]},
        "entities": {"L": line},
    }
    ribbed = added(part([*angle, drawn]), "rib", values={"thickness": "1 mm", "draft": "0"})
    assert "seen from the side: from above it does not land" in built(ribbed).outcome(ribbed.steps[-1].id).notes
    assert volumes(ribbed)["back"] - volumes(part(angle))["back"] == pytest.approx(28 * 13 / 2, rel=1e-9)


def test_a_split_takes_the_plane_or_the_line_just_made_and_a_tools_one_stands_square_to_the_pull() -> None:
    plane = {"id": "pl", "type": "plane", "base": {"plane": "side", "offset": "5 mm"}}
    cut = added(part([*BACK, plane]), "split body", bodies=["back"])
    assert sorted(volumes(cut).values()) == pytest.approx([15 * 600, 25 * 600])
    line = {"type": "line", "a": "p", "b": "q"}
    drawn = {"id": "l", "type": "sketch", "points": {"p": [-99, 0], "q": [99, 0]}, "entities": {"L": line}}
    halved = added(part([*TWO, drawn]), "split body", bodies=["back", "side"])
    assert (halved.steps[-1].held("along"), halved.steps[-1].held("body")) == ("a sketch line", "side")
    assert sorted(volumes(halved).values()) == pytest.approx([2000, 2000, 24000])
    sideways = tool(MOLD[:-1], pull=(1.0, 0.0, 0.0))
    assert added(sideways, "split").steps[-1].held("at").plane == "side"


def test_two_bodies_need_no_pick_and_can_change_places() -> None:
    crossing = part([*BACK, circle("c", "10"), extrude("pin", "c", "30")])
    cut = added(crossing, "subtract", bodies=["back", "pin"])
    assert volumes(cut) == pytest.approx({"back": 24000 - 500 * math.pi}, rel=1e-9)
    swapped = edited(cut, op="swap", step=cut.steps[-1].id)
    assert volumes(swapped) == pytest.approx({"pin": 250 * math.pi}, rel=1e-9)
    assert volumes(added(crossing, "union", bodies=["back", "pin"])) == pytest.approx({"back": 24000 + 250 * math.pi}, rel=1e-9)


def test_several_bodies_are_moved_mirrored_and_copied_at_once() -> None:
    both = {"body": "back", "also": ["side"]}
    moved = bodies(part([*TWO, {"id": "m", "type": "move", "z": "7", **both}]))
    assert [measure.box(entry.body.solid).low[2] for entry in moved.values()] == pytest.approx([7, 7])
    copied = bodies(part([*TWO, {"id": "m", "type": "move", "z": "50", "copy_it": "a copy", **both}]))
    assert sorted(copied) == ["back", "m", "m.side", "side"]
    images = bodies(part([*TWO, {"id": "i", "type": "mirror", "result": "as a new body", "across": {"plane": "side"}, **both}]))
    assert measure.box(images["i.side"].body.solid).low[0] == pytest.approx(-60)
    row = {
        "id": "r",
        "type": "pattern",
        "of": "a body",
        "tool": "back",
        "also": ["side"],
        "result": "as new bodies",
        "count": 3,
    }
    spread = bodies(part([*TWO, {**row, "spacing": "100", "direction": "y"}]))
    assert sorted(spread) == ["back", "r.2", "r.2.side", "r.3", "r.3.side", "side"]
    assert measure.box(spread["r.3.side"].body.solid).low == pytest.approx((40, 190, 0))


@pytest.mark.parametrize("kind", ["fillet", "chamfer", "nudge", "shell", "draft", "remove face", "offset surface"])
def test_in_an_empty_part_no_pick_is_asked_for(kind: str) -> None:
    (outcome,) = built(added(part([]), kind)).outcomes
    assert (outcome.status, outcome.message) == ("failed", "There is no body yet.")


def test_a_body_that_no_outline_meets_is_not_said_to_be_met() -> None:
    made = built(part([*TWO, circle("c", "4", x="200"), extrude("e", "c", "25", result="cut")]))
    assert made.outcome("e").status == "failed" and made.traces["e"].targets == ("side",)
    one = built(part([*BACK, circle("c", "4", x="200"), extrude("e", "c", "25")]))
    assert one.ok and not one.outcome("e").notes


SHAPES = [
    ({"shape": "box", "width": "20", "depth": "30", "height": "5"}, 3000),
    ({"shape": "cylinder", "diameter": "20", "height": "5"}, 500 * math.pi),
    ({"shape": "cone", "diameter": "20", "height": "6"}, 200 * math.pi),
    ({"shape": "cone", "diameter": "20", "top": "10", "height": "6", "direction": "down"}, 350 * math.pi),
    ({"shape": "ball", "diameter": "20"}, 4000 / 3 * math.pi),
    ({"shape": "ring", "diameter": "30", "tube": "8"}, 480 * math.pi**2),  # Pappus: a disc of radius 4, its middle 15 out
]


@pytest.mark.parametrize("plane", ["top", "front", "side"])
@pytest.mark.parametrize(("sizes", "volume"), SHAPES, ids=[f"{sizes['shape']}{n}" for n, (sizes, _) in enumerate(SHAPES)])
def test_basic_shapes_have_the_volume_of_the_textbook(sizes: dict[str, Any], volume: float, plane: str) -> None:
    entry = bodies(part([{"id": "b", "type": "basic shape", "on": {"plane": plane}, "x": "3", **sizes}]))["b"]
    assert measure.volume(entry.body.solid) == pytest.approx(volume, rel=1e-12)
    assert all("?" not in tag for tags in entry.body.tags for tag in tags)


def test_a_basic_shape_is_cut_into_the_face_it_stands_on() -> None:
    pad = added(
        part(BACK), "basic shape", picked=[{"face": "back.end"}], values={"shape": "cylinder", "diameter": "10", "height": "4"}
    )
    assert volumes(pad) == pytest.approx({"back": 24000 + 100 * math.pi}, rel=1e-9)
    cut = edited(pad, op="set", step=pad.steps[-1].id, field="result", value="cut")
    assert volumes(cut) == pytest.approx({"back": 24000 - 100 * math.pi}, rel=1e-9)
    (closed,) = built(part([{"id": "b", "type": "basic shape", "shape": "ring", "tube": "20"}])).outcomes
    assert (closed.status, closed.field) == ("failed", "tube")


@pytest.mark.parametrize(
    ("unit", "height", "raised"), [("in", "0.4 in", "0.4 in"), ("cm", "1 cm", "1 cm"), ("mm", "10 mm", "10 mm")]
)
def test_a_new_step_suggests_round_lengths_of_the_documents_unit(unit: str, height: str, raised: str) -> None:
    document = part([rectangle("s", "2", "1")], unit=unit)
    assert added(document, "extrude").steps[-1].held("distance") == height
    assert added(document, "plane").steps[-1].held("base").offset == raised
    assert added(document, "extrude", values={"distance": "3 mm"}).steps[-1].held("distance") == "3 mm"


def test_unnamed_sketches_are_called_by_what_they_hold() -> None:
    document = added(added(part(BACK), "sketch"), "sketch", values={"draw": []})
    assert [step.label for step in document.steps[2:]] == ["Sketch 2, circle", "Sketch 3"]


def test_a_number_typed_again_after_a_refusal_is_one_step_back_with_it(tmp_path: Path) -> None:
    library = Library(tmp_path)
    first = part(BACK, id="untitled")
    card = library.add_document(library.create_project("Trial").id, first)
    good = library.head(card.id)
    bad = library.commit(card.id, good.number, edited(good.document, op="set", step="back", field="distance", value="0"), "0")
    better = edited(bad.document, op="set", step="back", field="distance", value="25")
    kept = library.commit(card.id, bad.number, better, "25", instead=True)
    assert kept.undo == bad.undo and library.undo(card.id).document == good.document
    library.redo(card.id)
    assert library.head(card.id).number == kept.number
    worse = edited(kept.document, op="set", step="back", field="distance", value="-1")
    refused = library.commit(card.id, kept.number, worse, "-1")
    back = library.commit(card.id, refused.number, kept.document, "25", instead=True)
    assert (back.number, back.redo, back.undo) == (kept.number, False, kept.undo)
