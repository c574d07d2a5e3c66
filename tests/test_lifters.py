"""Lifters: undercuts inside are the core's, their lifters go out of them over the stroke, and the tool opens with them."""

from __future__ import annotations

import math
from itertools import combinations
from typing import Any

import pytest
from scripts import whole_tools

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.molding import opening
from tests.conftest import STEPS, TRAY, part, tool
from tests.stations import clashes
from tests.test_mold_base import BASE, CHECK, PINS, TWO
from tests.test_tools import HALVES, WINDOW
from tests.test_tools import built as remembered

pytestmark = pytest.mark.slow


def hook(id: str, x: str, width: str = "6", height: str = "12") -> STEPS:
    """A catch on the inner wall, 3 mm high, that hangs over what is under it."""
    draw = [{"kind": "rectangle", "width": width, "height": height, "x": x, "y": "0"}]
    return [
        {"id": id, "type": "sketch", "on": {"plane": "top", "offset": "-5 mm"}, "draw": draw},
        {"id": f"{id}x", "type": "extrude", "profile": {"sketch": id}, "distance": "3", "direction": "down", "result": "add"},
    ]


HOOK = [*TRAY, *hook("hk", "57.5")]
GROOVE = [*HOOK[:-1], {**HOOK[-1], "result": "cut"}]  # into the wall, and open to the inside
DEEP = [*TRAY, *hook("hk", "53.5", "13", "20")]
ROOMY: STEPS = [{**step, "around": "40"} if step["type"] == "block" else step for step in HALVES]
LIFTERS: dict[str, Any] = {"id": "lif", "type": "lifters"}
GROWN = 1 / (1 - 0.0055)


def made(*more: dict[str, Any], of: STEPS = HOOK, pull: str = "+z") -> Built:
    steps = [{**step, "pull": pull} if step["type"] in ("parting line", "block") else step for step in ROOMY]
    if pull != "+z":
        steps.insert(1, {"id": "lay", "type": "lay", "by": "an edge or axis", "axis": {"axis": "z"}, "pull": pull})
    return remembered(tool([*steps, *more], resin="ABS"), part(of))


def outcome(result: Built, step: str) -> Any:
    return next(o for o in result.outcomes if o.step == step)


@pytest.mark.parametrize("of, depth, pull", [(GROOVE, 0.91, "+z"), (HOOK, 5.09, "-y")])
def test_a_lifter_goes_out_of_its_undercut_over_the_stroke(of: STEPS, depth: float, pull: str) -> None:
    """By another engine: at no place of the stroke does it share space with the core, nor with its part, which the pins push
    off meanwhile; and at the end the part comes off it along the pull.
    """
    result = made(*TWO, BASE, LIFTERS, PINS, CHECK, of=of, pull=pull)
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status != "ok"]
    lifts = outcome(result, "lif")
    assert f"undercut is {depth * GROWN:.2f} mm deep" in lifts.notes[0] or depth < 1
    assert lifts.figures["lifter_travel"] >= depth * GROWN + 2.0 - 1e-3 and "left to a lifter" in " ".join(
        outcome(result, "pln").notes
    )
    own = [e for e in result.state.bodies.values() if e.is_own and e.role not in ("feed", "shot", "part")]
    meshes = {e.id: opening.meshed(e.body.solid) for e in own}
    for a, b in combinations(own, 2):
        if "lifter" in (a.role, b.role) and opening.near(meshes[a.id], meshes[b.id]):
            assert opening.shared(meshes[a.id], meshes[b.id]) < opening.allowed(meshes[a.id], meshes[b.id]), (a.name, b.name)
    lifter = next(e for e in own if e.role == "lifter")
    part_ = min(
        (e for e in own if e.role == "molded"), key=lambda e: kernel.nearness.boxes_apart(e.body.solid, lifter.body.solid)
    )
    assert lifter.pull is not None and part_.pull is not None
    way, up = lifter.pull, part_.pull
    rise = -sum(a * b for a, b in zip(way, up, strict=True))
    stroke = lifts.figures["lifter_travel"] / math.sqrt(1 - rise**2) * rise
    core = [e for e in own if e.role in ("core", "core insert", "core pin")]
    for station in range(1, 11):
        gone = stroke * station / 10
        moved = _moved(lifter, [c * gone / rise for c in way])
        lifted = _moved(part_, [-c * gone for c in up])
        others = [*(meshes[e.id] for e in core if opening.near(meshes[e.id], moved)), lifted]
        assert all(opening.shared(moved, other) < opening.allowed(moved, other) for other in others), station
    assert not clashes(result, [k / 10 for k in range(11)])
    off = _moved(part_, [-c * (stroke + 40) for c in up])
    swept = [_moved(part_, [-c * (stroke + more) for c in up]) for more in (2, 5, 10, 20)]
    end = _moved(lifter, [c * stroke / rise for c in way])
    assert all(opening.shared(end, one) < opening.allowed(end, one) for one in (*swept, off))


def _moved(entry: Any, by: list[float]) -> opening.Meshed:
    return opening.meshed(kernel.move.moved(entry.body.solid, kernel.move.shift((by[0], by[1], by[2]))).solid)


@pytest.mark.parametrize(
    "of, steps, field, words",
    [
        (HOOK, (LIFTERS,), "angle", "Add a mold base before this step"),
        (TRAY, (*TWO, BASE, LIFTERS), "faces", "has no undercut inside"),
        (WINDOW, (*TWO, BASE, LIFTERS), "faces", "Use side openings"),
        (DEEP, (*TWO, {**BASE, "stroke": "30 mm"}, LIFTERS), "angle", "Give the mold base a stroke of 55 mm"),
        (HOOK, (*TWO, BASE, {**LIFTERS, "angle": "5"}), "angle", "Use 10.5° or more"),
        (HOOK, (*TWO, BASE, {**LIFTERS, "stroke": "60 mm"}), "stroke", "have room to go 43.5 mm"),
        (HOOK, ({"id": "sid", "type": "side opening"},), "faces", "Use lifters, after the mold base"),
    ],
)
def test_what_cannot_be_lifted_is_said(of: STEPS, steps: Any, field: str, words: str) -> None:
    last = made(*steps, of=of).outcomes[-1]
    assert last.field == field and words in f"{last.message} {last.hint}", last.message


def test_the_stroke_that_is_asked_for_is_enough_and_a_blank_one_follows() -> None:
    for stroke in ("55 mm", ""):
        lifts = outcome(made(*TWO, {**BASE, "stroke": stroke}, LIFTERS, of=DEEP), "lif")
        assert lifts.status == "ok", lifts.message


def test_without_lifters_the_core_does_not_leave() -> None:
    result = made(*TWO, BASE, PINS, CHECK)
    assert "would take the part along" in result.outcomes[-1].message and "lifters" in result.outcomes[-1].hint


def test_a_random_tool_of_everything_stays_clear_as_it_opens_and_ejects() -> None:
    """One of those that `make tools` looks at: a slide with its drive, core pins and a lifter, at ten stations each."""
    result, steps = whole_tools.built(23)
    assert {"sd", "cp", "lf"} <= {step["id"] for step in steps} and result.ok
    assert whole_tools.overlaps(result) == []
