"""Documents: their JSON, hostile JSON, edits, and rebuilds that remember."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document, parse_document, read_document, schema
from supplecast.document.order import places
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.errors import DocumentError, SuppleError
from supplecast.kernel import measure
from tests.conftest import MOLD, TRAY, built, circle, extrude, part, rectangle, tool


def facts(result: Built) -> Any:
    """What two builds must agree in: outcomes, and bodies by volume, faces and tags; the kernel's face order may differ."""
    return (
        [(o.step, o.status, o.field, o.message) for o in result.outcomes],
        {
            k: (round(measure.volume(e.body.solid), 6), e.role, sorted(e.body.tags), e.key)
            for k, e in result.state.bodies.items()
        },
    )


def test_json_reads_back_the_same() -> None:
    for document in (part(TRAY, values={"wall": "2 mm"}), tool(MOLD, unit="in")):
        assert parse_document(document.to_json()) == document


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"format": "other"}, "format"),
        ({"version": 99}, "version"),
        ({"extra": 1}, "extra: "),
        ({"unit": "furlong"}, "unit"),
        ({"values": {"2x": "1"}}, "values"),
        ({"steps": "none"}, "steps"),
        ({"steps": [3]}, "steps[0]"),
        ({"steps": [{"id": "a", "type": "melt"}]}, "steps[0].type"),
        ({"steps": [{"id": "a", "type": "shell", "wal": "2"}]}, "steps[0].wal"),
        ({"steps": [{"id": "a b", "type": "shell"}]}, "steps[0].id"),
        ({"steps": [{"id": "a", "type": "shell"}, {"id": "a", "type": "shell"}]}, "two steps"),
        ({"steps": [{"id": "a", "type": "shell", "wall": True}]}, "steps[0].wall"),
        ({"steps": [{"id": "a", "type": "sketch", "on": {}}]}, "steps[0].on"),
        ({"steps": [{"id": "a", "type": "sketch", "draw": [{"kind": "circle", "diameter": "-1"}]}]}, "diameter"),
        ({"steps": [{"id": "a", "type": "sketch", "points": {"p": [float("nan"), 0]}}]}, "steps[0].points"),
    ],
)
def test_damaged_documents_lead_to_the_fault(change: dict[str, Any], words: str) -> None:
    data = {"format": "supplecast", "version": 1, "steps": []}
    with pytest.raises(DocumentError) as fault:
        read_document({**data, **change})
    assert words in str(fault.value)


@pytest.mark.parametrize("text", ["", "{", "[]", "null", "[" * 100000, '"x"', b"\xff\xfe"])
def test_what_is_no_document_is_told(text: Any) -> None:
    with pytest.raises(DocumentError):
        parse_document(text)


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_random_damage_never_escapes(data: Any) -> None:
    """Change one random place of a good document to random JSON: it reads, or is refused with words."""
    whole = json.loads(part(TRAY).to_json())
    place: Any = whole
    while isinstance(place, (dict, list)) and place:
        keys = list(place) if isinstance(place, dict) else list(range(len(place)))
        key = data.draw(st.sampled_from(keys))
        if not isinstance(place[key], (dict, list)) or data.draw(st.booleans()):
            place[key] = data.draw(
                st.one_of(st.none(), st.booleans(), st.integers(), st.text(max_size=9), st.just([]), st.just({}))
            )
            break
        place = place[key]
    try:
        document = read_document(json.loads(json.dumps(whole)))
    except SuppleError as fault:
        assert fault.message
    else:
        assert parse_document(document.to_json()) == document


def test_schema_knows_every_step() -> None:
    text = json.dumps(schema())
    for name in (
        "sketch",
        "extrude",
        "fillet",
        "shell",
        "union",
        "subtract",
        "import",
        "link",
        "shrink",
        "block",
        "split",
        "feed",
    ):
        assert f'"const": "{name}"' in text


# --- rebuild -----------------------------------------------------------------------------------------------------


def test_an_edit_costs_only_what_depends_on_it() -> None:
    memory = Memory()
    second = [rectangle("s2", "9", "9"), extrude("e2", "s2", "50")]
    document = part([*TRAY, *second])
    rebuild(document, memory)
    again = rebuild(document, memory)
    assert all(outcome.reused for outcome in again.outcomes)
    changed, _ = apply(document, read_edit({"op": "set", "step": "shl", "field": "wall", "value": "2"}))
    assert [o.step for o in rebuild(changed, memory).outcomes if not o.reused] == ["shl"]
    undone = rebuild(document, memory)
    assert all(outcome.reused for outcome in undone.outcomes) and facts(undone) == facts(again)


def test_a_value_changes_only_its_readers() -> None:
    memory = Memory()
    document = part([*TRAY[:-1], {**TRAY[-1], "wall": "wall"}], values={"wall": "2.2 mm", "other": "5"})
    rebuild(document, memory)
    same, _ = apply(document, read_edit({"op": "value", "name": "other", "text": "6"}))
    assert all(o.reused for o in rebuild(same, memory).outcomes)
    respelt, _ = apply(document, read_edit({"op": "value", "name": "wall", "text": "0.22 cm"}))
    assert all(o.reused for o in rebuild(respelt, memory).outcomes)
    changed, _ = apply(document, read_edit({"op": "value", "name": "wall", "text": "2 mm"}))
    assert [o.step for o in rebuild(changed, memory).outcomes if not o.reused] == ["shl"]


SIZES = {
    ("out", "figures.f1.width"): ["100", "124 mm", "0", "x"],
    ("ext", "draft"): ["0", "1.5", "60"],
    ("upr", "radius"): ["11", "r", "90"],
    ("flo", "radius"): ["2", "5"],
    ("shl", "wall"): ["2.2", "r/3", "40"],
    ("e2", "result"): ["new", "add", "cut"],
}
SET = st.sampled_from(sorted(SIZES)).flatmap(
    lambda key: st.sampled_from(SIZES[key]).map(lambda v: {"op": "set", "step": key[0], "field": key[1], "value": v})
)
NAMES = ["out", "ext", "upr", "flo", "shl", "s2", "e2"]
OTHER = st.one_of(
    st.builds(lambda op, step: {"op": op, "step": step}, st.sampled_from(["skip", "use again"]), st.sampled_from(NAMES)),
    st.builds(lambda a, b: {"op": "move", "step": a, "after": b}, st.sampled_from(NAMES), st.sampled_from([None, *NAMES])),
    st.builds(lambda v: {"op": "value", "name": "r", "text": v}, st.sampled_from(["6", "3 mm", "99", ""])),
    st.just({"op": "document", "unit": "cm"}),
    st.just({"op": "sketch", "step": "out", "acts": [{"do": "cut", "entity": "f1_L1", "at": [9, -36]}]}),
)


@pytest.mark.slow
@settings(max_examples=5, deadline=None)
@example(
    [
        {"op": "value", "name": "r", "text": ""},
        {"op": "set", "step": "shl", "field": "wall", "value": "r/3"},
        {"op": "value", "name": "r", "text": "6"},
    ],
    False,
)
@given(st.lists(st.one_of(SET, SET, OTHER), min_size=3, max_size=6), st.booleans())
def test_any_order_of_edits_gives_what_a_fresh_build_gives(edits: list[dict[str, Any]], back: bool) -> None:
    memory = Memory()
    steps = [*TRAY, rectangle("s2", "9", "9"), extrude("e2", "s2", "50", result="new")]
    document = part(steps, values={"r": "6 mm"})
    steps_back = []
    for edit in edits:
        try:
            changed, _ = apply(document, read_edit(edit))
        except SuppleError:
            continue  # some moves are refused
        steps_back.append(document)
        document = changed
        assert facts(rebuild(document, memory)) == facts(rebuild(document, Memory())), edit
    for earlier in reversed(steps_back[-2:]) if back else ():
        assert facts(rebuild(earlier, memory)) == facts(rebuild(earlier, Memory()))


def test_a_failed_step_holds_only_what_depends_on_it_and_keeps_the_last_good_shape() -> None:
    memory = Memory()
    document = part([*TRAY, rectangle("s2", "9", "9"), extrude("e2", "s2", "50")])
    good = rebuild(document, memory)
    bad, _ = apply(document, read_edit({"op": "set", "step": "flo", "field": "radius", "value": "60"}))
    result = rebuild(bad, memory)
    assert {o.step: o.status for o in result.outcomes} == {
        "out": "ok", "ext": "ok", "upr": "ok", "flo": "failed", "shl": "held", "s2": "ok", "e2": "ok",
    }  # fmt: skip
    assert result.state.shown()["ext"] is good.state.bodies["ext"]
    assert result.state.bodies["ext"] is not good.state.bodies["ext"]


def test_standing_at_a_step_stops_there() -> None:
    assert [o.step for o in rebuild(part(TRAY), upto="ext").outcomes] == ["out", "ext"]


def test_links_in_a_circle_are_refused() -> None:
    a = part([{"id": "k", "type": "link", "part": {"document": "tool"}}])
    b = tool([{"id": "k", "type": "link", "part": {"document": "part"}}])
    outcome = built(a, b).outcomes[0]
    assert outcome.status == "failed" and outcome.field == "part"
    assert outcome.message == f"Documents link each other in a circle: “{b.name}” → “{a.name}” → “{b.name}”."


# --- edits -------------------------------------------------------------------------------------------------------


def test_steps_move_only_where_what_they_need_stands_before_them() -> None:
    document = part(TRAY)
    with pytest.raises(DocumentError, match="cannot stand before"):
        apply(document, read_edit({"op": "move", "step": "ext", "after": None}))
    moved, _ = apply(document, read_edit({"op": "move", "step": "upr", "after": "flo"}))
    assert [s.id for s in moved.steps] == ["out", "ext", "flo", "upr", "shl"]


def test_a_step_is_offered_only_places_where_every_pick_still_resolves() -> None:
    hole = [circle("hs", "6", x="20"), extrude("hc", "hs", "5", result="cut", extent="through all", direction="down")]
    memory = Memory()
    found = {place.after: place.why for place in places(part([*TRAY, *hole]), "shl", memory, Project({}))}
    assert set(found) == {None, "out", "ext", "upr", "hs", "hc"} and found["hs"] == ""
    assert "cannot stand before" in found[None] and "cannot stand before" in found["out"]
    assert found["ext"].startswith("Step") and "upr" not in found["ext"]
    assert memory.traces == {}  # trials leave the document's own memory alone
    edge = {"edge": ["ext.side[f1_L1]", "ext.side[f1_L2]"]}
    bevel = {"id": "chm", "type": "chamfer", "edges": [edge], "distance": "1"}
    found = {p.after: p.why for p in places(part([*TRAY[:2], bevel, *TRAY[2:]]), "chm", Memory(), Project({}))}
    assert "no longer exists" in found["upr"]  # it is rounded away by then


def test_added_steps_take_what_is_picked() -> None:
    document = part(TRAY[:2])
    added, words = apply(document, read_edit({"op": "add", "type": "shell", "picked": [{"face": "ext.start"}]}))
    assert words == "Add Shell" and built(added).ok


def test_figures_are_added_and_removed() -> None:
    document = part(TRAY[:2])
    more, _ = apply(document, read_edit({"op": "add figure", "step": "out", "figure": {"kind": "circle", "diameter": "9"}}))
    assert measure.volume(built(more).state.bodies["ext"].body.solid) < measure.volume(
        built(document).state.bodies["ext"].body.solid
    )
    less, _ = apply(more, read_edit({"op": "remove figure", "step": "out", "figure": "f2"}))
    assert less == document


@pytest.mark.parametrize(
    "edit",
    [
        {},
        {"op": "melt"},
        {"op": "set", "step": "zz", "field": "wall", "value": "2"},
        {"op": "set", "step": "shl", "field": "id", "value": "x"},
        {"op": "set", "step": "shl", "field": "wall.x", "value": "2"},
        {"op": "set", "step": "shl", "field": "open", "value": [{"face": 3}]},
        {"op": "set", "step": "out", "field": "figures.f9.width", "value": "2"},
        {"op": "set", "step": "ext", "field": "direction", "value": "sideways"},
        {"op": "add", "type": "block"},
        {"op": "add", "type": "shell", "values": {"id": "shl"}},
        {"op": "value", "name": "mm", "text": "3"},
        {"op": "document", "unit": "furlong"},
        {"op": "rename", "step": "shl", "name": "x" * 500},
        {"op": "add figure", "step": "shl", "figure": {"kind": "circle", "diameter": "2"}},
        {"op": "remove figure", "step": "out", "figure": "f9"},
    ],
)
def test_edits_that_make_no_sense_are_told(edit: dict[str, Any]) -> None:
    with pytest.raises(DocumentError) as fault:
        apply(part(TRAY), read_edit(edit))
    assert fault.value.message


def test_document_is_untouched_by_a_refused_edit() -> None:
    document: Document = part(TRAY)
    before = document.to_json()
    with pytest.raises(DocumentError):
        apply(document, read_edit({"op": "set", "step": "ext", "field": "direction", "value": "sideways"}))
    assert document.to_json() == before
