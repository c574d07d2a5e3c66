"""Speed as ratios against bare kernel calls in the same run, and of an edit against the step it changes.

    python -m scripts.bench

Absolute times depend on the machine; the ratios are what must hold:
full rebuild of the demo tool ≤ 1.15 × its bare kernel calls and tagging; tagging ≤ 0.1 × the kernel calls; editing its last
step ≤ 1.3 × that step alone, ≤ 2 × in a document of 1,000 steps; reopening from what is on the shelf ≤ 0.2 × rebuilding.
Twenty picks on a body of 800 faces are found in less than 20 ms. Each step on the back shell takes ≤ 1.3 × its bare kernel
call. Judging, shells, the tool and the drawing sheet keep the limits that `judging`, `shells`, `parting` and `sketching` state.
The test bed of names is run too: no pick silently wrong.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from tests.bed.oracle import run
from tests.bed.parts import BEDS

from scripts import bare, judging, parting, shells, sketching, steps, tagging
from supplecast import kernel, naming
from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document, read_document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.document.step import load_steps
from supplecast.naming import Body, reference_edge, resolve_edges
from supplecast.store import shelf
from supplecast.web import demo

RUNS = 5


def median(run: Callable[[], object]) -> float:
    times = []
    for _ in range(RUNS):
        began = time.perf_counter()
        run()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def alternating(first: Callable[[], object], second: Callable[[], object]) -> tuple[float, float, float]:
    """Median times of two things run in turns, and the median of their ratios: a machine's moods hit both alike."""
    pairs = []
    for _ in range(2 * RUNS):
        began = time.perf_counter()
        first()
        between = time.perf_counter()
        second()
        pairs.append((between - began, time.perf_counter() - between))
    firsts, seconds = zip(*pairs, strict=True)
    ratio = statistics.median(b / a for a, b in pairs)
    return statistics.median(firsts), statistics.median(seconds), ratio


def fresh(document: Document, project: Project) -> Built:
    return rebuild(document, Memory(), outside=project)


def main() -> int:
    load_steps()
    kernel.preload()
    back, tool, *_ = demo.documents()
    project = Project({(d.id, None): d for d in (back, tool)})
    kernel.measure.mass(project.build(back.id).state.bodies["ext"].body.solid)
    failures = 0

    def row(what: str, seconds: float, ratio: float | None = None, limit: float | None = None) -> None:
        nonlocal failures
        told = f"{what:<52} {seconds * 1000:9.1f} ms"
        if ratio is not None:
            told += f"   × {ratio:5.2f}"
        if limit is not None and ratio is not None:
            good = ratio <= limit
            failures += not good
            told += f"   {'within' if good else 'OVER'} {limit:g}"
        print(told, flush=True)

    solid = project.build(back.id).state.bodies["ext"].body.solid
    ours = {e.role: kernel.measure.volume(e.body.solid) for e in fresh(tool, project).state.bodies.values()}
    theirs = [bare.volume(shape) for shape in bare.tool(solid.shape)]
    assert all(
        abs(mine - other) < 1e-3 * mine
        for mine, other in zip([ours["cavity"], ours["core"], ours["shot"]], theirs, strict=True)
    ), "the yardstick makes something else"
    yardstick, whole, ratio = alternating(lambda: bare.tool(solid.shape), lambda: fresh(tool, project))
    row("bare kernel calls of Back shell tool", yardstick)
    row("rebuild Back shell tool from nothing / bare calls", whole, ratio)
    with tagging.measured() as clock:
        for _ in range(RUNS):
            fresh(tool, project)
    tags = clock.seconds / RUNS
    row("tagging / bare calls", tags, tags / yardstick, 0.1)
    row("rebuild from nothing / bare calls and tagging", whole, ratio * yardstick / (yardstick + tags), 1.15)
    row("rebuild Back shell from nothing", median(lambda: fresh(back, project)))

    memory = Memory()
    rebuild(tool, memory, outside=project)
    row("rebuild unchanged", median(lambda: rebuild(tool, memory, outside=project)))
    last = tool.steps[-2]
    sizes = iter(range(30, 30 + 4 * RUNS))

    def edit_last() -> None:
        changed, _ = apply(tool, read_edit({"op": "set", "step": last.id, "field": "outer", "value": f"{next(sizes) / 10} mm"}))
        built = rebuild(changed, memory, outside=project)
        alone.append(sum(o.ms for o in built.outcomes if not o.reused) / 1000)

    alone: list[float] = []
    edited = median(edit_last)
    row("edit of the feed / the steps it changes", edited, edited / statistics.median(alone), 1.3)

    with tempfile.TemporaryDirectory() as folder:
        row("reopen Back shell tool from the shelf / rebuild", *_reopened(Path(folder), (back, tool), whole), 0.2)
    row("edit of the last of 1,000 steps / that step", *_long(), 2.0)
    body = _many_faces()
    picks = [reference_edge(body, e) for e in range(0, body.solid.number_of_edges, body.solid.number_of_edges // 20)][:20]
    seconds = median(lambda: [resolve_edges(body, pick) for pick in picks])
    row(f"20 picks on a body of {body.solid.face_count} faces / 20 ms", seconds, seconds / 0.02, 1.0)

    part = project.build(back.id).state.bodies["ext"]
    row("exact volume of Back shell, nothing remembered", median(lambda: _volume(part.body.solid)))
    row("meshing Back shell for display", median(lambda: kernel.mesh.tessellate(part.body.solid, 0.05, 0.25)))
    with tempfile.TemporaryDirectory() as folder:
        row("number typed → shape in the page (server side)", *_served(Path(folder), back))
    print(f"Steps on the back shell, limit × {steps.LIMIT:g} of the bare kernel call, and {steps.PREVIEW:g} s:")
    failures += steps.main(back)
    print("The check of a shell, limit × 1 of the bare kernel call:")
    failures += shells.main()
    print("Judging the back shell:")
    failures += judging.main(part.body.solid)
    print("A tool from the front shell:")
    documents = {d.id: d for d in demo.documents()}
    failures += parting.main(documents["dusk-front-shell"], documents["dusk-front-shell-tool"])
    print("The drawing sheet, CPU time:")
    failures += sketching.main()
    failures += _names()
    return 1 if failures else 0


def _reopened(folder: Path, documents: tuple[Document, ...], whole: float) -> tuple[float, float]:
    """Median time to have the last document's bodies again in a worker that starts anew, and its ratio to building them."""
    project = Project({(d.id, None): d for d in documents})
    for document in documents:
        shelf.keep(project.build(document.id), document.id, folder)

    def reopen() -> None:
        again = Project({(d.id, None): d for d in documents}, recall=partial(shelf.recall, blobs=folder))
        built = again.build(documents[-1].id)
        assert all(outcome.reused for outcome in built.outcomes)
        for entry in built.state.bodies.values():
            assert entry.body.solid.face_count == len(entry.body.tags)

    seconds = median(reopen)
    return seconds, seconds / whole


def _long() -> tuple[float, float]:
    """Median time of an edit of the last of a thousand steps, reading and all, and its ratio to building that step."""
    steps: list[dict[str, Any]] = []
    for n in range(500):
        figure = {"kind": "circle", "diameter": "3", "x": f"{200 + 5 * (n % 20)}", "y": f"{5 * (n // 20)}"}
        if n == 0:
            figure = {"kind": "rectangle", "width": "100", "height": "60", "radius": "9"}
        steps.append({"id": f"s{n}", "type": "sketch", "draw": [figure]})
        steps.append({"id": f"b{n}", "type": "extrude", "profile": {"sketch": f"s{n}"}})
    steps[-1] = {"id": "last", "type": "shell", "wall": "2", "open": [{"face": "b0.end", "body": "b0"}]}
    document = read_document({"format": "supplecast", "version": 1, "steps": steps})
    memory = Memory()
    assert rebuild(document, memory).ok
    walls = iter(range(210, 900))
    alone: list[float] = []

    def edit() -> None:
        value = f"{next(walls) / 100} mm"
        changed, _ = apply(document, read_edit({"op": "set", "step": "last", "field": "wall", "value": value}))
        built = rebuild(changed, memory)
        alone.append(sum(o.ms for o in built.outcomes if not o.reused) / 1000)

    seconds = median(edit)
    return seconds, seconds / statistics.median(alone)


def _many_faces() -> Body:
    """A shelled plate with many holes."""
    plate = kernel.solid.box((0, 0, 0), (210, 210, 8))
    holes = [kernel.solid.cylinder((5 + 10 * i, 5 + 10 * k, -1), (0, 0, 1), 2, 10) for i in range(21) for k in range(19)]
    tools = [naming.named(hole, f"h{n}") for n, hole in enumerate(holes)]
    cut = kernel.boolean.cut(plate.solid, [hole.solid for hole in holes])[0]
    drilled = naming.named(cut, "d", [naming.named(plate, "p"), *tools])
    top = next(f for f in range(drilled.solid.face_count) if kernel.measure.is_flat(drilled.solid, f)
               and kernel.measure.face_middle(drilled.solid, f)[2] > 7.9)  # fmt: skip
    return naming.named(kernel.walls.shell(drilled.solid, [top], 1), "w", [drilled])


def _names() -> int:
    """Prints how picks fared in the test bed of names; returns 1 if any went wrong without a word."""
    words = ["right", "flagged, right", "flagged, wrong", "lost, rightly", "lost, though there", "SILENT WRONG"]
    print(f"\n{'picks after random edits':<24}{'edits':>6}" + "".join(f"{word:>20}" for word in words))
    whole: Counter[str] = Counter()
    for bed in BEDS:
        tally, _ = run(bed, 40, seed=1)
        whole += tally
        print(f"{bed.name:<24}{tally['edits']:>6}" + "".join(f"{tally[word]:>20}" for word in words))
    print(f"{'all':<24}{whole['edits']:>6}" + "".join(f"{whole[word]:>20}" for word in words))
    return int(whole["SILENT WRONG"] > 0)


def _volume(solid: kernel.shape.Solid) -> float:
    kernel.integrate._shares.clear()
    solid.memos.pop(kernel.measure.MASS, None)
    return kernel.measure.volume(solid)


def _served(folder: Path, document: Document) -> tuple[float]:
    """Median time from an edit handed to the engine to its result, meshes included, with the worker warm."""
    from supplecast.wire.options import Build
    from supplecast.wire.task import Task
    from supplecast.wire.verbs import BUILD
    from supplecast.workers.engine import Engine

    engine = Engine(slots=1)
    try:
        values = iter(range(20, 60))

        def edit() -> None:
            changed, _ = apply(
                document, read_edit({"op": "set", "step": "shl", "field": "wall", "value": f"{next(values) / 10} mm"})
            )
            task = Task(changed.to_json(), {}, str(folder), str(folder))
            job = engine.wait(engine.submit(BUILD, document.id, task, Build()).id, 60)
            assert job.state == "done", job.message

        edit()
        return (median(edit),)
    finally:
        engine.close()


if __name__ == "__main__":
    sys.exit(main())
