"""Assemblies: linked bodies drawn apart, weighed, their gaps and their ways tried."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from supplecast.document.exploding import apart
from supplecast.document.model import Document, read_document
from supplecast.geometry import Box
from supplecast.kernel import measure, step_files
from supplecast.wire.options import Build, Export, Judge
from supplecast.workers.verbs import building, files, judging
from tests.conftest import STEPS, built, extrude, part, rectangle
from tests.referee.desk import Desk
from tests.referee.tasks import task

BASE = part([rectangle("s", "60", "40"), extrude("e", "s", "10")], id="base", name="Base", resin="ABS")
LID = part([rectangle("s", "60", "40"), extrude("e", "s", "4")], id="lid", name="Lid", resin="PP")
HINGED: STEPS = [
    {"id": "b", "type": "link", "part": {"document": "base"}},
    {"id": "l", "type": "link", "part": {"document": "lid"}},
    {"id": "m", "type": "move", "body": "l", "how": "seated", "face": [{"face": "l.of{e.start}", "body": "l"}],
     "onto": [{"face": "b.of{e.end}", "body": "b"}], "gap": "0.2 mm"},
]  # fmt: skip


def _assembly(*steps: dict[str, Any]) -> Document:
    data = {"format": "supplecast", "version": 1, "kind": "assembly", "id": "asm", "name": "Box", "steps": [*HINGED, *steps]}
    return read_document(data)


_boxes = st.tuples(*[st.floats(-50, 50)] * 3, *[st.floats(1, 40)] * 3).map(
    lambda v: Box((v[0], v[1], v[2]), (v[0] + v[3], v[1] + v[4], v[2] + v[5]))
)


@given(st.dictionaries(st.text("abc", min_size=1, max_size=3), _boxes, min_size=2, max_size=7))
def test_drawn_apart_no_box_meets_another_and_each_only_slides(boxes: dict[str, Box]) -> None:
    moved = apart(boxes)
    axes = {k for way in moved.values() for k in range(3) if way[k]}
    assert len(axes) <= 1
    spans = sorted(
        (box.low[k] + moved[name][k], box.high[k] + moved[name][k]) for name, box in boxes.items() for k in axes or {0}
    )
    if axes:
        assert all(low >= high - 1e-9 for (_, high), (low, _) in zip(spans, spans[1:], strict=False))


def test_an_assembly_is_weighed_by_the_resins_of_its_parts_and_told_its_gaps(tmp_path: Path) -> None:
    want = {"id": "w", "type": "wanted gap", "first": "l", "second": "b", "least": "0.1", "most": "0.3"}
    whole = _assembly({"id": "b2", "type": "link", "part": {"document": "base"}},
                      {"id": "m2", "type": "move", "body": "b2", "z": "80"}, want)  # fmt: skip
    judged = judging.judge(task(whole, tmp_path, BASE, LID), Judge())
    weighed, gaps = judged.gauges
    # Densities as the resins' table has them, 1.05 and 0.905 g/cm³: 24 and 9.6 cm³.
    grams = {figure.name: float(figure.words.split()[0]) for figure in weighed.figures}
    assert grams == {"2 × Base": pytest.approx(24 * 1.05, rel=0.01), "1 × Lid": pytest.approx(9.6 * 0.905, rel=0.01)}
    assert (weighed.id, weighed.value, gaps.id, gaps.value, gaps.state) == ("parts", "3", "gaps", "0.2", "good")
    result = building.build(task(whole, tmp_path, BASE, LID), Build())
    assert result.stroke is not None and len(result.stroke.legs) == len(result.bodies) == 3


def test_an_assembly_leaves_as_step_with_its_tree(tmp_path: Path) -> None:
    board = part([rectangle("s", "40", "30"), extrude("board", "s", "2"),
                  rectangle("p", "8", "6"), extrude("plug", "p", "5", result="new")], id="board", name="Board")  # fmt: skip
    whole = _assembly({"id": "k", "type": "link", "part": {"document": "board", "every": True}})
    bodies = built(whole, BASE, LID, board).state.bodies
    assert [entry.group for entry in bodies.values()] == [(), (), ("Board",), ("Board",)]
    written = files.export(task(whole, tmp_path, BASE, LID, board), Export("step"))
    read = step_files.read_step((tmp_path / written.blob).read_bytes())
    assert sorted((filed.name, filed.group) for filed in read) == [
        ("Base", ("Box",)), ("Board, Body", ("Box", "Board")), ("Board, Body 2", ("Box", "Board")), ("Lid", ("Box",)),
    ]  # fmt: skip
    known = {entry.name: entry.body.solid for entry in bodies.values()}
    for filed in read:
        assert measure.volume(filed.solid) == pytest.approx(measure.volume(known[filed.name]), rel=1e-9)
        assert measure.box(filed.solid).low == pytest.approx(measure.box(known[filed.name]).low, abs=1e-6)


def _way(**more: Any) -> tuple[str, float, str]:
    outcome = built(_assembly({"id": "w", "type": "way", "body": "l", **more}), BASE, LID).outcomes[-1]
    assert outcome.status == "ok", outcome
    return outcome.readings[0].words, outcome.figures["free"], outcome.readings[0].state


def test_a_lid_lifts_free_and_is_stopped_by_its_base_after_its_gap() -> None:
    assert _way(distance="50 mm") == ("free all the way of 50 mm", 50.0, "good")
    words, free, state = _way(distance="-5 mm")
    assert state == "over" and words.startswith("meets Base after") and free == pytest.approx(0.2, abs=0.01)


def test_a_lid_turned_about_its_edge_opens_one_way_only() -> None:
    """About the lower back edge of the lid (y = 20, z = 10.2) it turns up freely; down, its front meets the base when it has
    sunk by the gap: asin(0.2 / 40).
    """
    edge = {"edge": ["l.of{e.start}", "l.of{e.side[f1_L3]}"], "body": "l"}
    turns = {"how": "turning about", "axis": edge}
    found = sorted((_way(**turns, angle=angle) for angle in ("60", "-60")), key=lambda row: row[2])
    assert found[0][2] == "good" and found[1][2] == "over"
    assert found[1][1] == pytest.approx(math.asin(0.2 / 40), abs=6e-4)


def test_an_assembly_begins_with_all_parts_of_its_project_and_follows_them(desk: Desk) -> None:
    project = desk.library.create_project("Box").id
    for document in (BASE, LID):
        desk.library.add_document(project, document)
    form = {"token": desk.token, "kind": "assembly"}
    answer = desk.client.post(f"/projects/{project}/documents", data=form)
    name = answer.headers["Location"].rsplit("/", 1)[1]
    page = desk.client.get(f"/documents/{name}").text
    assert "Assembly sheet" in page and "Drawn apart" in page and 'data-add="way"' in page and 'data-add="extrude"' not in page
    document = desk.library.head(name).document
    assert document.kind == "assembly" and [step.held("part").revision for step in document.steps] == [None, None]
    answer = desk.post(f"/api/documents/{name}/build").get_json()
    bodies = desk.done(answer["job"])["result"]["bodies"]
    assert [body["name"] for body in bodies] == ["Base", "Lid"] and sum(b["volume"] for b in bodies) == pytest.approx(33600)
    assert measure.volume(built(_assembly(), BASE, LID).state.bodies["l"].body.solid) == pytest.approx(9600)
