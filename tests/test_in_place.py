"""A part opened in place from an assembly: its neighbours stand around it, can be picked, and are no bodies of it."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document, read_document
from supplecast.errors import DocumentError
from supplecast.kernel import measure, move
from supplecast.wire.options import InPlace, Judge, Report
from supplecast.workers.verbs import judging
from supplecast.workers.verbs.in_place import in_place
from tests.conftest import STEPS, built, circle, extrude, part, rectangle
from tests.referee.tasks import task

BASE = part([rectangle("s", "60", "40"), extrude("e", "s", "10")], id="base", name="Base")
PIN = part([circle("s", "8"), extrude("e", "s", "30")], id="pin", name="Pin")


def _assembly(*more: dict[str, Any]) -> Document:
    steps: STEPS = [
        {"id": "b", "type": "link", "part": {"document": "base"}},
        {"id": "m", "type": "move", "body": "b", "x": "100", "y": "5"},
        {"id": "t", "type": "move", "body": "b", "how": "turned about", "axis": {"axis": "z"}, "angle": "90"},
        {"id": "p", "type": "link", "part": {"document": "pin"}},
        {"id": "u", "type": "move", "body": "p", "x": "-5", "y": "100", "z": "10.1"},
        *more,
    ]
    return read_document(
        {"format": "supplecast", "version": 1, "kind": "assembly", "id": "asm", "name": "Post", "steps": steps}
    )


def _opened(body: str, of: Document, folder: Path, *more: dict[str, Any]) -> Document:
    """The part with the neighbours that it has in the assembly."""
    found = in_place(task(_assembly(*more), folder, BASE, PIN), InPlace(body))
    assert found.document == of.id
    bodies = [{"part": one.part.model_dump(exclude_none=True), "placed": list(one.placed)} for one in found.around]
    edit = {"op": "stand beside", "assembly": "asm", "called": "Post", "bodies": bodies, "left": list(found.left)}
    return apply(of, read_edit(edit))[0]


def test_neighbours_stand_where_they_do_in_the_assembly(tmp_path: Path) -> None:
    """The base was moved by (100, 5) and turned a quarter about z: the pin at (-5, 100) stands over its middle."""
    opened = _opened("b", BASE, tmp_path)
    result = built(opened, PIN)
    assert result.ok
    own, pin = result.state.bodies.values()
    assert (own.role, pin.role, pin.name) == ("part", "neighbour", "Pin")
    assert measure.mass(pin.body.solid).centroid == pytest.approx((0, 0, 25.1), abs=1e-9)
    assert measure.volume(pin.body.solid) == pytest.approx(math.pi * 16 * 30, rel=1e-12)
    other = built(_opened("p", PIN, tmp_path), BASE).state.bodies
    (plate,) = (entry for entry in other.values() if entry.role == "neighbour")
    assert measure.mass(plate.body.solid).centroid == pytest.approx((0, 0, -5.1), abs=1e-9)


def test_a_step_ends_at_a_neighbour_and_follows_it(tmp_path: Path) -> None:
    opened = _opened("b", BASE, tmp_path)
    nb = opened.steps[-1].id
    face = {"face": f"{nb}.of{{e.start}}", "body": f"{nb}.0"}
    more = [circle("c", "12"),
            extrude("post", "c", "1", extent="to a face", up_to=[face], result="add")]  # fmt: skip
    steps = [*opened.to_dict()["steps"], *more]
    raised = built(part(steps, id="base"), PIN)
    assert raised.ok, [o.message for o in raised.outcomes]
    assert measure.box(raised.state.bodies["e"].body.solid).high[2] == pytest.approx(10.1, abs=1e-9)
    # The pin's own foot is raised in its document: what ends at it goes along.
    higher = part([circle("s", "8", on={"plane": "top"}), extrude("e", "s", "30", start="3")], id="pin", name="Pin")
    followed = built(part(steps, id="base"), higher)
    assert followed.ok, [o.message for o in followed.outcomes]
    assert measure.box(followed.state.bodies["e"].body.solid).high[2] == pytest.approx(13.1, abs=1e-9)


def test_neighbours_are_no_bodies_of_the_part_but_are_told_of_where_they_overlap(tmp_path: Path) -> None:
    opened = _opened("b", BASE, tmp_path, {"id": "d", "type": "move", "body": "p", "z": "-4"})
    rounded = {"id": "f", "type": "fillet", "radius": "2", "edges": [{"rule": "uprights", "of": "e"}]}
    more = [rounded, {"id": "sc", "type": "scale", "factor": "2"}]  # neither names the body: it is the only one
    result = built(part([*opened.to_dict()["steps"], *more], id="base"), PIN)
    assert result.ok, [o.message for o in result.outcomes]
    judged = judging.judge(task(opened, tmp_path, PIN), Judge())
    gauge = next(one for one in judged.gauges if one.id == "gaps")
    assert gauge.state == "fault" and "Body and Pin overlap" in gauge.offenders[0].words
    assert float(next(g for g in judged.gauges if g.id == "mass").figures[0].words.split()[0]) == pytest.approx(24.0)


def test_what_cannot_stand_beside_is_said(tmp_path: Path) -> None:
    loop = part([*PIN.to_dict()["steps"], {"id": "k", "type": "link", "part": {"document": "base"}}], id="pin", name="Pin")
    opened = _opened("b", BASE, tmp_path)
    outcome = built(opened, loop).outcomes[-1]
    assert outcome.status == "ok" and "circle" in outcome.flags[0].words
    with pytest.raises(DocumentError, match="come from an assembly"):
        apply(BASE, read_edit({"op": "add", "type": "neighbours"}))


@settings(max_examples=25, deadline=None)
@given(st.tuples(*[st.floats(-3, 3)] * 3), st.tuples(*[st.floats(-500, 500)] * 3))
def test_where_a_body_was_carried_is_told_from_its_corners(turn: tuple[float, ...], shift: tuple[float, ...]) -> None:
    solid = built(PIN).state.bodies["e"].body.solid
    rows = np.hstack([Rotation.from_rotvec(turn).as_matrix(), np.array(shift)[:, None]])
    there = move.moved(solid, move.by_rows(rows.reshape(-1).tolist())).solid
    found = move.between(solid, there)
    assert found is not None and found == pytest.approx(rows, abs=1e-8)
    assert move.between(solid, move.scale(solid, 1.01, (0.0, 0.0, 0.0)).solid) is None


def test_the_report_says_what_steps_ask_to_look_at(tmp_path: Path) -> None:
    twice = rectangle("s", "40", "30")
    opened = part([twice, extrude("e", "s", "10"), {"id": "nb", "type": "neighbours", "assembly": "gone", "called": "Gone",
                   "bodies": [{"part": {"document": "nowhere"}, "placed": [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]}]}])  # fmt: skip
    report = judging.sheet_report(task(opened, tmp_path), Report(1))
    assert report.cautions and report.cautions[0].startswith("Neighbours: One is left out")
