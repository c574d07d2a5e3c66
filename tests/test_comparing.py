"""Two shapes compared: what is exactly known beforehand comes out."""

from __future__ import annotations

import math
from pathlib import Path

import pytest

from supplecast.document.changes import StepChange
from supplecast.document.comparing import Compared, compare, paired_bodies, sheet_differences
from supplecast.document.model import Document, parse_document
from supplecast.document.state import Entry
from supplecast.kernel import measure
from supplecast.wire.options import Compare
from supplecast.workers.verbs import comparing
from tests.conftest import STEPS, bodies, circle, extrude, part, rectangle, tool
from tests.referee.tasks import task


def tray(floor: str = "2", width: str = "60", renamed: bool = False) -> Document:
    """A rounded tray of 2 mm walls with a floor of its own; its steps bear other ids where it is `renamed`."""
    other = {"others": [{"faces": [{"face": "e.end"}], "wall": floor}]}
    steps: STEPS = [
        rectangle("s", width, "40"),
        extrude("e", "s", "20", direction="down", draft="2"),
        {"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": "6"},
        {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.start"}], **(other if floor != "2" else {})},
    ]
    if renamed:
        text = part(steps).to_json().replace('"e"', '"q"').replace('"e.', '"q.').replace('"h"', '"r"')
        return parse_document(text)
    return part(steps)


def compared(first: Document, second: Document) -> Compared:
    ((a, b),) = paired_bodies(list(bodies(first).values()), list(bodies(second).values()))
    return compare(a, b, (first, second))


@pytest.mark.parametrize("renamed", [False, True])
def test_trays_that_differ_in_their_floor_alone(renamed: bool) -> None:
    """By 0.1 mm: one face has moved, by exactly that, and the floor is as much thicker; nothing is in the first alone."""
    found = compared(tray(), tray("2.1", renamed=renamed))
    moved = [change for change in found.faces if change.kind == "moved"]
    assert len(moved) == 1 and moved[0].by == pytest.approx(0.1, abs=1e-9)
    assert moved[0].walls == pytest.approx((2.0, 2.1), abs=2e-3)
    assert not any(change.kind in ("added", "lost") for change in found.faces)
    assert found.words.startswith("The second is thicker at inside of end face of step 2 by 0.1 mm: 2.1 instead of 2")
    volumes = [measure.volume(bodies(document)[name].body.solid) for document, name in ((tray(), "e"), (tray("2.1"), "e"))]
    assert not found.only_first and found.sound
    assert measure.volume(found.only_second[0]) == pytest.approx(volumes[1] - volumes[0], rel=1e-6)


def test_the_same_are_said_to_be_the_same() -> None:
    found = compared(tray(), tray())
    assert found.words == "The two are the same." and not found.faces and not found.only_first and not found.only_second
    assert sheet_differences(tray(), tray()) == []


def test_a_hole_more_and_a_wider_tray() -> None:
    """A hole is one face added, its material in the first alone; a tray 4 mm wider has its ends moved by 2 mm."""
    hole: STEPS = [circle("c", "8"), extrude("x", "c", "50", direction="both ways", result="cut")]
    plain = tray()
    holed = part([*(step for step in plain.to_dict()["steps"]), *hole])
    found = compared(plain, holed)
    assert [change.kind for change in found.faces if change.kind in ("added", "lost", "moved")] == ["added"]
    assert measure.volume(found.only_first[0]) == pytest.approx(math.pi * 16 * 2, rel=1e-6) and not found.only_second
    assert found.words.startswith("Faces added: 1")
    wider = compared(plain, tray(width="64"))
    ends = [change for change in wider.faces if change.kind == "moved"]
    # Outside faces lean by 2°: 2 mm along the floor are a little less square to them.
    square = 2 * math.cos(math.radians(2))
    assert sorted(round(change.by or 0, 6) for change in ends) == pytest.approx([-square, -square, square, square])


def test_what_differs_in_the_sheets_is_named() -> None:
    rows = sheet_differences(tray(), tray("2.1"))
    assert [(row.step, row.first, row.second) for row in rows] == [("h", "none", "2.1")]
    lower = part(
        [{**step, **({"distance": "18"} if step["id"] == "e" else {})} for step in tray().to_dict()["steps"]], resin="PP"
    )
    rows = sheet_differences(tray(), lower)
    assert {row.what for row in rows} == {"resin", "step 2, Extrude: distance"}
    shorter = part(tray().to_dict()["steps"][:-1])
    assert sheet_differences(tray(), shorter)[-1] == StepChange("h", "step 4, Shell", "is there", None)


def test_bodies_are_paired_by_id_then_by_name_then_as_the_only_ones() -> None:
    def entry(id: str, name: str) -> Entry:
        return Entry(id=id, name=name, role="part", body=None, key=id)  # type: ignore[arg-type]

    a, b, c = entry("a", "Lid"), entry("b", "Base"), entry("c", "Lid")
    assert [(x.id, y.id) for x, y in paired_bodies([a, b], [entry("b", "Foot"), c])] == [("a", "c"), ("b", "b")]
    assert [(x.id, y.id) for x, y in paired_bodies([a], [entry("z", "Other")])] == [("a", "z")]
    assert paired_bodies([a, b], [entry("z", "Other")]) == []


def test_a_tool_is_weighed_as_steel_and_told_body_by_body(tmp_path: Path) -> None:
    """A block cut in halves, once with 4 mm more under the part: steel at 7.85 g/cm³, the resin's mass of the part alone."""
    source = part([rectangle("s", "60", "40"), extrude("e", "s", "20", direction="down", draft="2")])

    def cut(below: str) -> Document:
        steps = [
            {"id": "k", "type": "link", "part": {"document": "part"}},
            {"id": "b", "type": "block", "around": "10", "below": below, "above": "10"},
            {"id": "s", "type": "subtract part"},
            {"id": "sp", "type": "split", "at": {"plane": "top"}},
        ]
        return tool(steps)

    compared = comparing.compare_two(task(cut("10"), tmp_path, source), Compare(task(cut("14"), tmp_path, source)))
    figures = {one.name: one for one in compared.figures}
    assert float(figures["steel"].second) - float(figures["steel"].first) == pytest.approx(
        80 * 60 * 4 * 7.85e-6, rel=1e-3
    )  # the tray is 60 by 40
    assert figures["mass"].first == figures["mass"].second
    assert len(compared.words) < len(compared.pairs) and all(": " in words for words in compared.words)
