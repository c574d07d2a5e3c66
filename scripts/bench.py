"""Speed as ratios against bare kernel calls in the same run, and of an edit against the step it changes.

    python -m scripts.bench

Absolute times depend on the machine; the ratios are what must hold:
full rebuild of the demo tool ≤ 1.5 × its bare kernel calls; editing its last step ≤ 1.3 × that step alone.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from scripts import bare
from supplecast import kernel
from supplecast.document.edit import apply, read_edit
from supplecast.document.model import Document
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.document.step import load_steps
from supplecast.exchange.project import Project
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
    back, tool = demo.documents()
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
    row("rebuild Back shell tool from nothing / bare calls", whole, ratio, 1.5)
    row("rebuild Back shell from nothing", median(lambda: fresh(back, project)))

    memory = Memory()
    rebuild(tool, memory, outside=project)
    row("rebuild unchanged", median(lambda: rebuild(tool, memory, outside=project)))
    last = tool.steps[-2]
    sizes = iter(range(30, 30 + 4 * RUNS))

    def edit_last() -> None:
        changed, _ = apply(tool, read_edit({"op": "set", "step": last.id, "field": "outer", "value": f"{next(sizes) / 10} mm"}))
        built = rebuild(changed, memory, outside=project)
        steps.append(sum(o.ms for o in built.outcomes if not o.reused) / 1000)

    steps: list[float] = []
    edited = median(edit_last)
    row("edit of the feed / the steps it changes", edited, edited / statistics.median(steps), 1.3)

    part = project.build(back.id).state.bodies["ext"]
    row("exact volume of Back shell, nothing remembered", median(lambda: _volume(part.body.solid)))
    row("meshing Back shell for display", median(lambda: kernel.mesh.tessellate(part.body.solid, 0.05, 0.25)))
    with tempfile.TemporaryDirectory() as folder:
        row("number typed → shape in the page (server side)", *_served(Path(folder), back))
    return 1 if failures else 0


def _volume(solid: kernel.shape.Solid) -> float:
    kernel.integrate._shares.clear()
    solid.__dict__.pop("_mass", None)
    return kernel.measure.volume(solid)


def _served(folder: Path, document: Document) -> tuple[float]:
    """Median time from an edit handed to the engine to its result, meshes included, with the worker warm."""
    from supplecast.workers.engine import Engine
    from supplecast.workers.jobs import Task

    engine = Engine(slots=1)
    try:
        values = iter(range(20, 60))

        def edit() -> None:
            changed, _ = apply(
                document, read_edit({"op": "set", "step": "shl", "field": "wall", "value": f"{next(values) / 10} mm"})
            )
            task = Task(changed.to_json(), {}, str(folder), str(folder), "")
            job = engine.wait(engine.submit("build", document.id, task).id, 60)
            assert job.state == "done", job.message

        edit()
        return (median(edit),)
    finally:
        engine.close()


if __name__ == "__main__":
    sys.exit(main())
