"""The sheet: every sentence names real fields, every control can be typed into, chips say what is picked."""

from __future__ import annotations

import json
import re
from datetime import UTC, datetime
from typing import Any

import pytest

from supplecast.document import words
from supplecast.document.edits import apply, read_edit
from supplecast.document.fields import row_model
from supplecast.document.mentions import mentions
from supplecast.document.model import Document, read_document, read_step, step_dict
from supplecast.document.state import Outcome
from supplecast.document.step import Step
from supplecast.errors import SuppleError
from supplecast.naming import EdgeRef, FaceRef, Rule
from supplecast.store.library import DocumentCard
from supplecast.web import sheet
from supplecast.web.demo import documents
from supplecast.wire.reports import BuiltStep
from tests.conftest import MOLD, TRAY, built, circle, extrude, part, rectangle, tool


def examples() -> list[Step]:
    found = []
    for kind in Step.registry.values():
        text = re.search(r"Example: (\{.*\})", kind.__doc__ or "", re.DOTALL)
        assert text
        found.append(read_step(json.loads(" ".join(text.group(1).split()).replace("9f86d0…", "9" * 64))))
    return found


def everything(document: Document) -> list[sheet.Token]:
    lines = sheet.lines(document, sheet.Around())
    return [token for line in lines for token in (*line.tokens, *(t for _, tokens in line.details for t in tokens))]


def braced(step: Step) -> list[str]:
    templates = [step.sentence(), step.more(), *(text for _, text in step.details())]
    paths = [path for template in templates for path in re.findall(r"\{([^}]+)\}", template)]
    return [path for path in paths if not path.endswith((".add", ".near"))]


@pytest.mark.parametrize("step", examples(), ids=lambda s: s.type)
def test_every_braced_field_is_one_the_step_has(step: Step) -> None:
    """As the step is written, and with each of its choices made in every way."""
    directions = [step]
    for path in braced(step):
        if step.spec_of(path).kind == "choice" and "." not in path:
            directions += [read_step({**step_dict(step), path: word}) for word in step.choices(path)]
    for direction in directions:
        for path in braced(direction):
            direction.typed(path)
            assert direction.spec_of(path).kind


def _with_rows(step: Step, path: str) -> tuple[Document, sheet.Line, list[sheet.Token]]:
    """A step with two rows, in that of its ways in which it shows them, with its buttons that add and take out rows."""
    ways = [{}, *({name: word} for name in type(step).model_fields if step.spec(name).kind == "choice" and step.choices(name)
                  for word in step.choices(name))]  # fmt: skip
    for way in ways:
        data = {**step_dict(step), path: [{}, {}], **way}
        document = read_document({"format": "supplecast", "version": 1, "steps": [data]})
        line = sheet.lines(document, sheet.Around())[0]
        shown = [token for token in (*line.tokens, *line.more) if token.kind == "set" and token.path == path]
        if shown:
            return document, line, shown
    raise AssertionError(f"{step.type} never shows its {path}")


@pytest.mark.parametrize("step", examples(), ids=lambda s: s.type)
def test_rows_are_added_typed_into_and_taken_out(step: Step) -> None:
    for path in (name for name in type(step).model_fields if step.spec(name).kind == "rows"):
        document, line, shown = _with_rows(step, path)
        inner = row_model(type(step), path)
        assert set(re.findall(r"\{([^}]+)\}", inner.sentence)) == set(inner.model_fields)
        assert sorted(len(json.loads(token.value)) for token in shown) == [1, 1, 3]
        number = next((t for t in line.tokens if t.kind == "number" and t.path.startswith(f"{path}.1.")), None)
        if number is None:
            continue
        value = "7" if number.text == "count" else "7.5"
        changed, _ = apply(document, read_edit({"op": "set", "step": step.id, "field": number.path, "value": value}))
        held = getattr(changed.step(step.id), path)
        assert str(getattr(held[1], number.path.split(".")[-1])) == value and held[0] == inner()
        with pytest.raises(SuppleError, match="no field"):
            apply(document, read_edit({"op": "set", "step": step.id, "field": f"{path}.9.x", "value": "1"}))


@pytest.mark.parametrize("document", documents(), ids=lambda d: d.id)
def test_every_number_of_the_demo_can_be_retyped(document: Document) -> None:
    for line in sheet.lines(document, sheet.Around()):
        for token in (*line.tokens, *line.more, *(t for _, tokens in line.details for t in tokens)):
            if token.kind == "number":
                value = "7" if token.text in ("count", "list") else "7.25"
                edit = {"op": "set", "step": line.id, "field": token.path, "value": value}
                changed, _ = apply(document, read_edit(edit))
                assert changed.step(line.id).typed(token.path) == value
                assert [s for s in changed.steps if s.id != line.id] == [s for s in document.steps if s.id != line.id]


@pytest.mark.parametrize("document", documents(), ids=lambda d: d.id)
def test_every_choice_of_the_demo_can_be_made(document: Document) -> None:
    for line in sheet.lines(document, sheet.Around()):
        for token in line.tokens:
            if token.kind == "choice":
                assert token.value in dict(token.options)
                for value, label in token.options:
                    changed, _ = apply(document, read_edit({"op": "set", "step": line.id, "field": token.path, "value": value}))
                    assert changed.step(line.id).typed(token.path) == value and label


def test_idle_fields_stay_out_of_sight() -> None:
    def paths(**change: Any) -> set[str]:
        return {t.path for t in everything(part([TRAY[0], {**TRAY[1], **change}])) if t.path}

    assert "distance" in paths() and "distance" not in paths(extent="through all", result="cut")
    assert "body" not in paths() and "body" in paths(result="cut")
    feed = {t.path for t in everything(tool([{**MOLD[6], "kind": "funnel"}]))}
    assert {"mouth", "depth"} <= feed and not {"mouth", "depth"} & {t.path for t in everything(tool([MOLD[6]]))}


def test_a_link_says_whether_it_follows_and_which_body_it_takes() -> None:
    card = DocumentCard("other", "p", "part", "Shell", 7, datetime(2026, 1, 1, tzinfo=UTC))
    document = tool([{"id": "k", "type": "link", "part": {"document": "other", "revision": 5}}])
    outcome = BuiltStep.with_hints(Outcome("k", "ok", offers=(("a", "Lid"), ("b", "Cup"))), "link", [])
    around = sheet.Around(documents=(card,), outcomes={"k": outcome})
    (line,) = sheet.lines(document, around)
    assert sheet.spoken(line) == "Link Shell, Lid at revision 5"
    way = next(token for token in line.tokens if token.path == "part.revision")
    changed = edited(document, "k", "part.revision", way.settings["following"])
    assert sheet.spoken(sheet.lines(changed, around)[0]) == "Link Shell, Lid following it, now at revision 7"
    taken = edited(changed, "k", "part.body", "b").step("k").held("part")
    assert (taken.body, taken.revision, taken.document) == ("b", None, "other")


def edited(document: Document, step: str, field: str, value: Any) -> Document:
    return apply(document, read_edit({"op": "set", "step": step, "field": field, "value": value}))[0]


def test_chips_say_what_is_picked() -> None:
    document = part(TRAY)
    assert words.face_words("ext.end", document.steps) == "end face of step 2"
    assert words.face_words("shl.inner{ext.end}", document.steps) == "inside of end face of step 2"
    assert words.face_words("upr.blend{ext.side[f1_L1]|ext.side[f1_L2]}", document.steps) == "round of step 3"
    assert words.face_words("gone.end", document.steps) == "end face of a step no longer there"
    assert words.face_words("shl.of{ext.start}", document.steps) == "start face of step 2"
    assert words.face_words("lnk.of{ext.start}", document.steps) == "start face of the linked part"
    edge = EdgeRef(edge=("ext.end", "ext.side[f1_L1]"))
    rule = Rule(rule="uprights", of="ext")
    assert words.picks_words([], document.steps) == "nothing picked"
    assert words.picks_words([edge, edge, rule], document.steps) == "2 edges and uprights of step 2"
    assert words.picks_words([FaceRef(face="ext.end"), FaceRef(face="ext.start")], document.steps) == "2 faces"
    assert words.rule_words(Rule(rule="outer loop", of="ext.end"), document.steps) == "outer loop of end face of step 2"
    assert words.rule_words(Rule(rule="parallel", of="zz", to="z"), document.steps) == "edges along z of a step no longer there"


def test_bodies_are_offered_only_below_their_making() -> None:
    document = documents()[0]
    around = sheet.Around(bodies=(("ext", "Back shell"), ("cax", "Cable post")))
    lines = {line.id: line for line in sheet.lines(document, around)}
    union = next(t for t in lines["uni"].tokens if t.kind == "bodies")
    assert dict(union.options) == {"cax": "Cable post"} and union.chosen == ("cax",)
    boss = next(t for t in lines["bor"].tokens if t.kind == "body")
    assert set(dict(boss.options)) == {"", "ext"}
    used_up = sheet.lines(document, sheet.Around(bodies=(("ext", "Back shell"),)))
    union = next(t for line in used_up if line.id == "uni" for t in line.tokens if t.kind == "bodies")
    assert dict(union.options) == {"cax": "Cable post"}


def test_outlines_have_areas_and_paths_have_none() -> None:
    steps = [
        *(rectangle("s1", "40", "30"), extrude("e1", "s1", "20"), circle("s2", "8", on={"plane": "front"})),
        {"id": "w", "type": "sweep", "profile": {"sketch": "s2"}, "path": {"sketch": "s1"}},
        {"id": "m", "type": "score", "profile": {"sketch": "s1", "regions": ["r1"]}, "face": [{"face": "e1.end"}]},
    ]
    tokens = {(token.path, line.id): token for line in sheet.lines(part(steps), sheet.Around()) for token in line.tokens}
    assert tokens["profile", "w"].text == "all areas" and tokens["path", "w"].text == ""
    assert tokens["profile", "m"].text == "1 area" and tokens["profile", "m"].chosen == ("r1",)


def test_only_steps_above_that_add_or_cut_can_be_copied() -> None:
    cut = extrude("e2", "s2", "5", result="cut")
    row = {"id": "r", "type": "pattern", "of": "steps", "steps": ["e2"], "count": "3", "spacing": "9"}
    steps = [
        rectangle("s1", "40", "30"),
        extrude("e1", "s1", "20"),
        circle("s2", "4"),
        cut,
        row,
        {**cut, "id": "e3"},
        {**row, "id": "q"},
    ]
    by_line = {line.id: [t for t in line.tokens if t.kind == "toggles"] for line in sheet.lines(part(steps), sheet.Around())}
    assert [word for word, _ in by_line["r"][0].options] == ['"e2"'] and by_line["r"][0].chosen == ('"e2"',)
    assert [word for word, _ in by_line["q"][0].options] == ['"e2"', '"r"', '"e3"']


def test_an_axis_can_be_the_documents_a_datum_or_a_line_of_a_sketch() -> None:
    guide = {"id": "g", "type": "sketch", "points": {"a": [5, -9], "b": [5, 9]}}
    guide["entities"] = {"G": {"type": "line", "a": "a", "b": "b", "construction": True}}
    steps = [
        *(guide, {"id": "ax", "type": "axis", "name": "Hinge"}, rectangle("s1", "4", "6", x="20")),
        {"id": "r", "type": "revolve", "profile": {"sketch": "s1"}, "axis": {"edge": ["r.side[a]", "r.side[b]"]}},
    ]
    (line,) = [line for line in sheet.lines(part(steps), sheet.Around()) if line.id == "r"]
    (token,) = [token for token in line.tokens if token.kind == "axis"]
    held = {json.loads(value).get(key) for value, _ in token.options for key in ("axis", "datum", "line")}
    assert {"x", "y", "z", "ax", "G"} <= held
    assert dict(token.options)[token.value].startswith("edge between") and token.picks == [json.loads(token.value)]
    for value, _ in token.options:
        changed, _ = apply(part(steps), read_edit({"op": "set", "step": "r", "field": "axis", "value": json.loads(value)}))
        assert json.loads(value).items() <= step_dict(changed.step("r"))["axis"].items()


def test_a_body_used_up_keeps_its_name_in_the_chip() -> None:
    steps = [*TRAY[:2], {**TRAY[1], "id": "lid"}, {"id": "j", "type": "union", "body": "ext", "tools": ["lid"]}]
    document = part(steps, looks={"lid": {"name": "Cover"}})
    called = built(document).state.called
    chips = {}
    for known in (sheet.Around(), sheet.Around(bodies=(("ext", "Body"),), called=called)):
        (token,) = [t for line in sheet.lines(document, known) for t in line.tokens if t.kind == "bodies" and line.id == "j"]
        chips[len(known.bodies)] = dict(token.options)["lid"]
    assert chips == {0: "Extrude", 1: "Cover"}


def test_standing_and_outcomes_reach_the_lines() -> None:
    failed = BuiltStep.with_hints(Outcome("shl", "failed", field="wall", message="no"), "shell", [])
    lines = sheet.lines(part(TRAY), sheet.Around(outcomes={"shl": failed}), standing="upr")
    assert [line.after_standing for line in lines] == [False, False, False, True, True]
    assert lines[4].status == "failed" and lines[4].outcome == failed
    assert lines[0].status == "waiting" and lines[0].outcome is None


def test_steps_offered_fit_the_sheet() -> None:
    for document in (part([]), tool([])):
        offered = sheet.addable(document)
        assert all(document.kind in Step.registry[kind.type].document_kinds for kind in offered)
        assert all(kind.word and kind.about and all(kind.picture) for kind in offered)
    assert sheet.addable(part([]))[0].type == "sketch" and sheet.addable(tool([]))[0].type == "link"


def test_a_step_mentions_what_it_is_built_on() -> None:
    ids = [step["id"] for step in TRAY]
    assert [mentions(step, ids) for step in part(TRAY).steps] == [set(), {"out"}, {"ext"}, {"ext"}, {"ext"}]


def test_constraints_that_belong_to_no_figure_are_lines_of_the_sheet() -> None:
    """They can be read, their sizes typed, and each taken out; faults name their field."""
    loose = {
        "id": "s", "type": "sketch", "points": {"a": [0, 0], "b": [40, 2], "c": [9, 30]},
        "entities": {"L1": {"type": "line", "a": "a", "b": "b"}, "L2": {"type": "line", "a": "b", "b": "c"},
                     "L3": {"type": "line", "a": "c", "b": "a"}},
        "constraints": {"k1": {"type": "horizontal", "on": ["L1"]},
                        "k2": {"type": "distance", "on": ["a", "b"], "value": "40 mm"}},
    }  # fmt: skip
    document = part([loose])
    tokens = everything(document)
    assert any(token.text == " of point 1 and point 2" for token in tokens)
    assert [token.path for token in tokens if token.path.startswith("constraints")] == ["constraints.k2.value"]
    edit = {"op": "set", "step": "s", "field": "constraints.k2.value", "value": "50 mm"}
    longer, _ = apply(document, read_edit(edit))
    sketch = built(longer).state.sketches["s"]
    assert max(curve.b[0] - curve.a[0] for curve in sketch.curves) == pytest.approx(50)  # type: ignore[union-attr]
    assert sketch.loose == {"L1", "L2", "L3"}
    without, words = apply(document, read_edit({"op": "remove figure", "step": "s", "figure": "k1"}))
    assert words == "Remove horizontal from Sketch" and built(without).state.sketches["s"].freedoms == 5
    bad, _ = apply(document, read_edit({**edit, "value": "-5"}))
    assert built(bad).outcome("s").field == "constraints.k2.value"


def test_a_sketch_that_says_something_twice_is_pointed_out() -> None:
    twice = {"id": "s", "type": "sketch", "draw": [{"kind": "rectangle", "width": "40", "height": "30"}],
             "constraints": {}}  # fmt: skip
    document = part([twice])
    data = json.loads(document.to_json())
    data["steps"][0]["constraints"]["more"] = {"type": "parallel", "on": ["f1_L1", "f1_L3"]}
    outcome = built(read_document(data)).outcome("s")
    assert outcome.status == "ok" and "Said twice: parallel of line 1 and line 3" in outcome.flags[0].words


def test_sizes_of_one_group_are_one_line_and_are_typed_as_one() -> None:
    """A rectangle of 40 × 30 and its offset outwards by 2: one line for the offset, whose number moves every side."""
    document = part([{"id": "s", "type": "sketch", "draw": [{"kind": "rectangle", "width": "40", "height": "30"}]}])
    act = {"do": "offset", "names": ["f1_L1", "f1_L2", "f1_L3", "f1_L4"], "distance": "2", "side": "out"}
    document, _ = apply(document, read_edit({"op": "sketch", "step": "s", "acts": [act]}))
    paths = [token.path for token in everything(document) if token.path.startswith("constraints")]
    assert len(paths) == 1
    wider, _ = apply(document, read_edit({"op": "set", "step": "s", "field": paths[0], "value": "5 mm"}))
    regions = built(wider).state.sketches["s"].regions
    assert sorted(region.area for region in regions) == pytest.approx([50 * 40 - 1200, 1200])


def test_a_figure_that_loses_a_size_is_plain_geometry_from_then_on() -> None:
    document = part([{"id": "s", "type": "sketch", "draw": [{"kind": "rectangle", "width": "40", "height": "30"}]}])
    acts = [
        {"do": "draw", "tool": "line", "picks": [{"x": 10, "y": -30}, {"x": 10, "y": 30}]},
        {"do": "trim", "cuts": [["f1_L1", [15, -15]], ["f1_L2", [20, 0]]]},
    ]
    changed, words = apply(document, read_edit({"op": "sketch", "step": "s", "acts": acts}))
    sketch: Any = changed.step("s")
    assert "f1_L2" not in sketch.entities and "freedoms" in words.lower()
    assert built(changed).outcome("s").status == "ok"


def test_a_piece_named_by_hand_leaves_the_whole_its_name() -> None:
    cut = {"id": "sb", "type": "split body", "plane": {"plane": "side"}}
    rounded = {"id": "mv", "type": "move", "body": "e1", "x": "3"}
    document = part([rectangle("s1", "40", "30"), extrude("e1", "s1", "9"), {**cut, "body": "e1"}, rounded])
    named, _ = apply(document, read_edit({"op": "look", "body": "e1", "name": "Lid"}))
    assert named.looks["e1"].since == "sb"
    state = built(named).state
    assert [entry.name for entry in state.bodies.values()] == ["Lid", "Body (back)"]
    around = sheet.Around(tuple((e.id, e.name) for e in state.bodies.values()), state.called, tuple(state.renamed))
    spoken = [sheet.spoken(line) for line in sheet.lines(named, around)]
    assert spoken[2].startswith("Split body Body along") and "Lid" in spoken[3] and "Lid" not in "".join(spoken[:3])
    whole = named.altered(steps=named.steps[:2])
    assert [entry.name for entry in built(whole).state.bodies.values()] == ["Lid"]
    assert apply(named, read_edit({"op": "look", "body": "e1", "name": ""}))[0] == document
