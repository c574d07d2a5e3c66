"""Workers that hang, crash and are killed: nothing is lost, the step is named, the rest is shown, shapes come back."""

from __future__ import annotations

import contextlib
import json
import math
import os
import random
import signal
import sys
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar

import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.document.rebuild import Memory, rebuild
from supplecast.kernel import measure
from supplecast.store import shelf
from supplecast.store.library import Library
from supplecast.wire.options import AtStep, Build, Nothing
from supplecast.wire.results import BuildResult
from supplecast.wire.task import Progress, Task
from supplecast.wire.verbs import ADVISE, BUILD, SHELVE
from supplecast.workers import glimpse, opened
from supplecast.workers.engine import Engine, Job
from supplecast.workers.failure_memory import FailureMemory
from supplecast.workers.verbs import building
from tests.conftest import CRASHING, TRAY, bodies, built, chain, circle, extrude, part, rectangle
from tests.referee.processes import grandchildren

R = TypeVar("R")


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = Engine(slots=1, more=("tests.worker_steps",))
    yield made
    made.close()


def task(document: Document, folder: Path, **more: Any) -> Task:
    return Task(document.to_json(), {}, str(folder), str(folder), str(folder / "progress"), **more)


def ended(engine: Engine, job: Job[R], seconds: float = 300) -> Job[R]:
    done = engine.wait(job.id, seconds)
    assert not done.running, "the job never ended"
    return done


def result_of(job: Job[BuildResult]) -> BuildResult:
    assert job.state == "done" and job.result is not None, (job.state, job.message)
    return job.result


def test_a_step_that_brings_the_kernel_down_is_named_and_the_rest_is_built(engine: Engine, tmp_path: Path) -> None:
    document = part(CRASHING, id="crash")
    first = ended(engine, engine.submit(BUILD, document.id, task(document, tmp_path), Build()))
    assert first.state == "died" and first.tries == 2 and "step 3, “Shell”" in first.message
    second = ended(engine, engine.submit(BUILD, document.id, task(document, tmp_path), Build()))
    steps = result_of(second).steps
    assert [step.status for step in steps] == ["ok", "ok", "failed", "ok", "ok"] and "broke down" in steps[2].message
    # Another size is tried again.
    other, _ = apply(document, read_edit({"op": "skip", "step": "h1"}))
    assert result_of(ended(engine, engine.submit(BUILD, document.id, task(other, tmp_path), Build()))).ok


def test_a_step_that_takes_too_long_is_stopped_and_gone_round(engine: Engine, tmp_path: Path) -> None:
    quick = part([rectangle("s1", "90", "90"), extrude("e1", "s1", "20")], id="slow")
    content = quick.to_dict()
    content["steps"] = [*content["steps"], {"id": "w", "type": "dawdle"}]
    slow = replace(task(quick, tmp_path), document=json.dumps(content))
    assert ended(engine, engine.submit(BUILD, quick.id, task(quick, tmp_path), Build())).state == "done"  # all is loaded
    first = ended(engine, engine.submit(BUILD, quick.id, slow, Build(), deadline=4))
    assert first.state == "too long" and first.at == Progress(3, 3, "Dawdle", "w") and "step 3" in first.message
    second = result_of(ended(engine, engine.submit(BUILD, quick.id, slow, Build())))
    assert [step.status for step in second.steps] == ["ok", "ok", "failed"] and "too long" in second.steps[2].message


def test_shapes_come_back_from_the_shelf(engine: Engine, tmp_path: Path) -> None:
    document = part(TRAY, id="shelved")
    ended(engine, engine.submit(BUILD, document.id, task(document, tmp_path), Build()))
    ended(engine, engine.submit(SHELVE, document.id, task(document, tmp_path), Nothing()))
    for pid in grandchildren(os.getpid()):
        os.kill(pid, signal.SIGKILL)
    again = ended(engine, engine.submit(BUILD, document.id, task(document, tmp_path), Build()))
    assert all(step.reused for step in result_of(again).steps)


def test_a_damaged_shelf_is_built_anew(tmp_path: Path) -> None:
    document = part(TRAY)
    made = built(document)
    assert shelf.keep(made, document.id, tmp_path) == 4  # one shape for each step but the sketch
    whole = shelf.recall(document.id, tmp_path)
    again = rebuild(document, whole, outside=Project({}))
    assert all(outcome.reused for outcome in again.outcomes)
    for name, entry in again.state.bodies.items():
        twin = made.state.bodies[name].body
        assert entry.body.tags == twin.tags and measure.volume(entry.body.solid) == pytest.approx(measure.volume(twin.solid))
    rng = random.Random(4)
    for path in sorted(tmp_path.iterdir()):
        content = bytearray(path.read_bytes())
        content[rng.randrange(len(content))] ^= 0x40
        path.write_bytes(bytes(content) if rng.random() < 0.5 else bytes(content[: len(content) // 2]))
    assert shelf.recall(document.id, tmp_path).traces == {}


def test_an_edit_after_reopening_costs_only_itself(tmp_path: Path) -> None:
    document = part(TRAY)
    shelf.keep(built(document), document.id, tmp_path)
    memory = shelf.recall(document.id, tmp_path)
    changed, _ = apply(document, read_edit({"op": "set", "step": "shl", "field": "wall", "value": "3 mm"}))
    after = rebuild(changed, memory, outside=Project({}))
    assert [outcome.step for outcome in after.outcomes if not outcome.reused] == ["shl"]
    straight = measure.volume(bodies(changed)["ext"].body.solid)
    assert measure.volume(after.state.bodies["ext"].body.solid) == pytest.approx(straight, rel=1e-9)


def test_datums_surfaces_and_what_steps_did_come_back_from_the_shelf(tmp_path: Path) -> None:
    plane = {"id": "dp", "type": "plane", "base": {"plane": "top", "offset": "10"}}
    hole = {"id": "h", "type": "hole", "into": {"datum": "dp"}, "sketch": "at", "diameter": "2", "body": "e1"}
    row = {"id": "r", "type": "pattern", "of": "steps", "steps": ["h"], "count": "3", "spacing": "6", "body": "e1"}
    line = chain("k", (-30, 30), (30, 30))
    document = part(
        [
            *(rectangle("s1", "60", "20"), extrude("e1", "s1", "10"), plane, circle("at", "2", x="-20"), hole, row),
            *(line, extrude("sf", "k", "5", fill="as a surface")),
        ]
    )
    made = built(document)
    assert made.ok, [o.message for o in made.outcomes]
    shelf.keep(made, document.id, tmp_path)
    again = rebuild(document, shelf.recall(document.id, tmp_path), outside=Project({}))
    assert all(outcome.reused for outcome in again.outcomes)
    assert again.state.datums == made.state.datums
    sheet = again.state.bodies["sf"]
    assert sheet.role == "surface" and not sheet.body.solid.closed
    assert measure.mass(sheet.body.solid).area == pytest.approx(300)
    wider, _ = apply(document, read_edit({"op": "set", "step": "r", "field": "count", "value": "5"}))
    after = rebuild(wider, shelf.recall(document.id, tmp_path), outside=Project({}))
    assert [outcome.step for outcome in after.outcomes if not outcome.reused] == ["r"]
    assert measure.volume(after.state.bodies["e1"].body.solid) == pytest.approx(12000 - 5 * math.pi * 10, rel=1e-9)


def test_advice_runs_aside_and_gives_way(engine: Engine, tmp_path: Path) -> None:
    document = part([*TRAY[:4], {**TRAY[4], "wall": "40 mm"}], id="advised")
    ended(engine, engine.submit(BUILD, document.id, task(document, tmp_path), Build()))
    asked = engine.submit(ADVISE, document.id, task(document, tmp_path), AtStep("shl"))
    told = ended(engine, asked).result
    assert told is not None and told.advice is not None
    advice = told.advice
    fits = float(advice.value.split()[0])
    assert f"{fits:g} mm" in advice.words
    good, _ = apply(document, read_edit({"op": "set", "step": "shl", "field": "wall", "value": advice.value}))
    assert built(good).ok
    if advice.words.startswith("The largest"):  # else the time was up before the limit was found
        over, _ = apply(document, read_edit({"op": "set", "step": "shl", "field": "wall", "value": f"{fits + 0.05} mm"}))
        assert not built(over).ok
    late = engine.submit(ADVISE, document.id, task(document, tmp_path), AtStep("shl"))
    ended(engine, engine.submit(BUILD, document.id, task(document, tmp_path), Build()))
    assert ended(engine, late).state == "cancelled"


def test_a_worker_may_not_take_more_memory_than_the_ceiling(engine: Engine, tmp_path: Path) -> None:
    """Where memory ends the kernel dies, or Python says so first; either is told, and the engine lives on."""
    document = part(TRAY, id="little")
    small = Engine(slots=1, ceiling=600 * 2**20)
    try:
        job = ended(small, small.submit(BUILD, document.id, task(document, tmp_path), Build()))
        assert job.state == "died" and ("broke down" in job.message or "more memory" in job.message)
    finally:
        small.close()
    assert ended(engine, engine.submit(BUILD, document.id, task(document, tmp_path), Build())).state == "done"


EDITS = 50  # `make chaos` has more of them


@pytest.mark.slow
def test_edits_survive_workers_killed_at_random(engine: Engine, tmp_path: Path) -> None:
    library = Library(tmp_path)
    card = library.add_document(library.create_project("Chaos").id, part(TRAY))
    rng, head, begun = random.Random(11), 1, []
    for number in range(EDITS):
        step, field, low, high = rng.choice(
            [("shl", "wall", 1.0, 4.0), ("upr", "radius", 6.0, 12.0), ("ext", "distance", 20.0, 30.0)]
        )
        edit = read_edit({"op": "set", "step": step, "field": field, "value": f"{rng.uniform(low, high):.2f} mm"})
        changed, words = apply(library.head(card.id).document, edit)
        head = library.commit(card.id, head, changed, words).number
        assert head == number + 2
        begun.append(engine.submit(BUILD, card.id, replace(task(changed, tmp_path), blobs=str(library.blobs)), Build()))
        if rng.random() < 0.2:
            time.sleep(rng.uniform(0, 0.15))
            for pid in grandchildren(os.getpid()):
                if rng.random() < 0.7:
                    with contextlib.suppress(ProcessLookupError):  # it may have ended by itself meanwhile
                        os.kill(pid, signal.SIGKILL)
        elif rng.random() < 0.3:
            engine.wait(begun[-1].id, 5)
    last = ended(engine, begun[-1])
    if last.state == "died":  # killed twice over the same build: the page builds once more
        last = ended(engine, engine.submit(BUILD, card.id, replace(begun[-1].task, stuck={}), Build()))
    assert len(library.history(card.id, 300)) == EDITS + 1
    final = library.head(card.id).document
    assert result_of(last).bodies[0].volume == pytest.approx(measure.volume(bodies(final)["ext"].body.solid), rel=1e-9)
    assert {job.state for job in begun} <= {"done", "cancelled", "died"}
    library.close()


def test_a_body_that_cannot_be_drawn_is_left_out_and_the_rest_is_shown(engine: Engine, tmp_path: Path) -> None:
    document = part([*TRAY, rectangle("s2", "9", "9", x="90"), extrude("e2", "s2", "5")], id="drawn")
    stuck = FailureMemory()
    stuck.note("drawn", document.to_json(), Progress(0, 0, "", "draw ext"), "too long")
    known = stuck.known("drawn", document.to_json())
    job = ended(engine, engine.submit(BUILD, "other", task(document, tmp_path), Build()))
    assert all(body.mesh for body in result_of(job).bodies)
    shown = building.build(task(document, tmp_path, stuck=known), Build(preview=True))
    assert [body.mesh is None for body in shown.bodies] == [True, False]
    changed, _ = apply(document, read_edit({"op": "set", "step": "shl", "field": "wall", "value": "3 mm"}))
    assert stuck.known("drawn", changed.to_json()) == {}


def test_memory_without_a_shelf_is_empty(tmp_path: Path) -> None:
    assert shelf.recall("nothing", tmp_path) == Memory()


def test_what_a_build_has_come_to_is_seen_on_the_way(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The first that is seen is the part as it stands after the step that was changed; of the last step, nothing."""
    monkeypatch.setattr(opened, "_MOST_RESIDENT", sys.maxsize)  # what other tests hold in this process must not count
    edit = {"op": "set", "step": "upr", "field": "radius", "value": "9 mm"}
    changed, _ = apply(part(TRAY, id="way"), read_edit(edit))
    asked = task(changed, tmp_path)
    building.build(task(part(TRAY, id="way"), tmp_path), Build())
    glimpse.clear(asked)
    whole = building.build(asked, Build(preview=True))
    seen = glimpse.read(asked)
    assert seen is not None and seen.number == 1 + changed.position("upr")
    there = building.build(replace(asked, upto="upr"), Build(preview=True))
    assert [b.volume for b in seen.bodies] == [b.volume for b in there.bodies] != [b.volume for b in whole.bodies]
    assert (tmp_path / (seen.bodies[0].mesh or "")).is_file()
    glimpse.clear(asked)
    last, _ = apply(changed, read_edit({"op": "set", "step": "shl", "field": "wall", "value": "3 mm"}))
    building.build(task(last, tmp_path), Build(preview=True))
    assert glimpse.read(asked) is None


def test_a_trial_that_a_newer_build_outdates_ends_at_its_next_step(engine: Engine, tmp_path: Path) -> None:
    """Its worker lives on, with all it remembers: the newer build has the steps that the older one had done."""
    tray = part(TRAY, id="typed")

    def lingering(count: int) -> Task:
        content = tray.to_dict()
        content["steps"] = [*content["steps"], *({"id": f"w{k}", "type": "linger"} for k in range(count))]
        return replace(task(tray, tmp_path), document=json.dumps(content))

    ended(engine, engine.submit(BUILD, tray.id, task(tray, tmp_path), Build()))
    workers = set(grandchildren(os.getpid()))
    older = engine.submit(BUILD, tray.id, lingering(40), Build(preview=True))
    while (at := older.progress) is None or at.number < len(TRAY) + 2:
        time.sleep(0.02)
    newer = engine.submit(BUILD, tray.id, lingering(1), Build())
    assert result_of(ended(engine, newer)).ok and ended(engine, older).state == "cancelled"
    assert workers <= set(grandchildren(os.getpid())) and not list(engine.folder.glob("*.end"))
