"""Bodies of other documents: several at once, however deep, and taken up in order when what they build on moves on."""

from __future__ import annotations

from typing import Any

import pytest

from supplecast.document.model import Document
from supplecast.errors import SuppleError
from supplecast.kernel import measure
from tests.conftest import STEPS, built, circle, extrude, part, rectangle
from tests.referee.desk import Desk

BOARD: STEPS = [
    rectangle("s", "40", "30"), extrude("board", "s", "1.6"),
    circle("c", "9", x="10"), extrude("cell", "c", "12", result="new"),
    rectangle("p", "8", "6", x="-10"), extrude("plug", "p", "5", result="new"),
]  # fmt: skip


def _linked(**more: Any) -> Document:
    return part([{"id": "k", "type": "link", "part": {"document": "board", **more}}], id="case")


def test_one_body_further_ones_or_all_come_in_by_their_own_names() -> None:
    board = part(BOARD, id="board", name="Board")
    cases: list[tuple[dict[str, Any], list[str]]] = [
        ({}, ["k"]),
        ({"body": "cell"}, ["k"]),
        ({"body": "cell", "also": ["plug"]}, ["k", "k.plug"]),
        ({"every": True}, ["k", "k.cell", "k.plug"]),
    ]
    for more, ids in cases:
        result = built(_linked(**more), board)
        assert result.ok and list(result.state.bodies) == ids
    names = [entry.name for entry in built(_linked(every=True), board).state.bodies.values()]
    assert len(set(names)) == 3 and all(name.startswith("Board, ") for name in names)
    used = [{"id": "m", "type": "move", "body": "k.cell", "z": "30"}]
    moved = built(part([*_linked(every=True).to_dict()["steps"], *used], id="case"), board)
    assert moved.ok and measure.box(moved.state.bodies["k.cell"].body.solid).low[2] == pytest.approx(30, abs=1e-6)


def test_a_body_that_is_no_longer_there_is_told_by_its_name() -> None:
    gone = built(_linked(body="cell", also=["lid"]), part(BOARD, id="board")).outcomes[0]
    assert (gone.status, gone.field) == ("failed", "part") and "“lid”" in gone.message
    joined = [*BOARD, {"id": "u", "type": "union", "body": "board", "tools": ["cell"]}]
    used = built(_linked(body="cell"), part(joined, id="board")).outcomes[0]
    assert used.status == "failed" and "“cell”" not in used.message and "no body" in used.message


def _chain(desk: Desk) -> list[str]:
    """Four documents, each machined from the one before it: a blank, and three that cut a hole each."""
    project = desk.library.create_project("Chain").id
    blank = part([rectangle("s", "40", "30"), extrude("e", "s", "10")], id="d0", name="Blank")
    names = [desk.library.add_document(project, blank).id]
    for k in (1, 2, 3):
        steps: STEPS = [
            {"id": "k", "type": "link", "part": {"document": names[-1], "revision": 1}},
            circle("c", "4", x=str(8 * k - 16)), extrude("cx", "c", "30", result="cut", direction="both ways", body="k"),
        ]  # fmt: skip
        names.append(desk.library.add_document(project, part(steps, id=f"d{k}", name=f"Machined {k}")).id)
    return names


def test_a_chain_of_four_is_taken_up_in_order_from_its_head_and_no_more(desk: Desk) -> None:
    names = _chain(desk)
    page = desk.client.get(f"/documents/{names[3]}").text
    assert "has moved on" not in page and "Update all" not in page
    edit = {"op": "set", "step": "e", "field": "distance", "value": "12 mm"}
    desk.done(desk.post(f"/api/documents/{names[0]}/edits", base=1, edit=edit).get_json()["job"])
    page = desk.client.get(f"/documents/{names[3]}").text
    assert "has not taken up the newest" in page and "Machined 1" in page and "Update all, in order" in page
    assert "<bdi>Machined 2</bdi>, which" not in page  # it is the newest of what it builds on, until that is updated
    answer = desk.post(f"/api/documents/{names[3]}/catch-up").get_json()
    (body,) = desk.done(answer["job"])["result"]["bodies"]
    assert body["volume"] == pytest.approx(40 * 30 * 12 - 3 * 12 * 3.141592653589793 * 4, rel=1e-9)
    assert [desk.library.head_number(name) for name in names] == [2, 2, 2, 2]
    page = desk.client.get(f"/documents/{names[3]}").text
    assert "has moved on" not in page and "Update all" not in page
    again = desk.post(f"/api/documents/{names[3]}/catch-up").get_json()  # nothing to do: no new revisions
    assert again["revision"] == 2 and [desk.library.head_number(name) for name in names] == [2, 2, 2, 2]
    with pytest.raises(SuppleError):
        desk.library.head("none")
