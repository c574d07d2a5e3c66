"""Speed of making a tool from the demo's front shell: seconds on one core, against the limits that working on it leaves.

Parting line and halves ≤ 3 s, the sewing in them ≤ 0.3 s, the gates ≤ 2 s; four places ≤ 1 s over one; a changed pin size
builds only what follows it.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from statistics import median
from typing import Any

from supplecast import kernel
from supplecast.document.model import Document, read_document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.geometry import times
from supplecast.molding import opening
from supplecast.steps.tool.marks import parted_as

LIMITS = {"line and halves": 3.0, "sewing": 0.3, "gates": 2.0, "four places over one": 1.0}
_RUNS = 3


def main(front: Document, tool: Document) -> int:
    """Prints the table; returns how many limits were missed."""
    project = Project({(d.id, None): d for d in (front, tool)})
    project.build(front.id)
    upto = tool.position("hlv") + 1
    short = read_document({**tool.to_dict(), "steps": tool.to_dict()["steps"][:upto]})
    runs = [rebuild(short, Memory(), outside=project) for _ in range(_RUNS)]
    found = {
        "line and halves": median(sum(o.ms for o in run.outcomes if o.step in ("pln", "sur", "hlv")) / 1000 for run in runs)
    }
    found |= _sewing(tool, project)
    found["four places over one"] = _places(tool, project)
    over = 0
    for name, seconds in found.items():
        good = seconds <= LIMITS[name]
        over += not good
        print(f"  {name:<26} {seconds:8.2f} s   {'within' if good else 'OVER'} {LIMITS[name]:g} s", flush=True)
    memory = Memory()
    rebuild(tool, memory, outside=project)
    steps = [{**s, "diameter": "14 mm"} if s["id"] == "pin" else s for s in tool.to_dict()["steps"]]
    again = rebuild(read_document({**tool.to_dict(), "steps": steps}), memory, outside=project)
    fresh = [o.step for o in again.outcomes if not o.reused]
    good = fresh[:1] == ["pin"]
    print(f"  a changed pin size builds    {', '.join(fresh)}   {'within' if good else 'OVER'}")
    return over + (not good)


def _sewing(tool: Document, project: Project) -> dict[str, float]:
    """The sewing of both halves, and the gates they pass, on the bodies as they stand before the halves."""
    before: Built = rebuild(tool, Memory(), outside=project, upto="sur")
    entry = next(e for e in before.state.bodies.values() if e.role == "linked")
    block = next(e for e in before.state.bodies.values() if e.role == "block")
    skins = [e.body.solid for e in before.state.bodies.values() if e.role == "surface"]
    at: Any = None
    part = parted_as(at, entry, "part")
    level = before.outcome("sur").figures["parting_level"]
    sew = _timed(lambda: kernel.halves.sewn(part.solid, part.of, block.body.solid, skins, part.pull, level))
    made = kernel.halves.sewn(part.solid, part.of, block.body.solid, skins, part.pull, level)

    def gates() -> None:
        for half, direction in ((made.core, part.pull), (made.cavity, times(part.pull, -1.0))):
            opening.facing_wrong(half.solid, range(half.solid.face_count), direction)
        meshes = [opening.Meshed(s) for s in (made.core.solid, made.cavity.solid, part.solid)]
        for number, first in enumerate(meshes):
            for second in meshes[number + 1 :]:
                opening.shared(first, second)

    return {"sewing": sew, "gates": _timed(gates)}


def _places(tool: Document, project: Project) -> float:
    upto = tool.position("ins") + 1
    times_: list[float] = []
    for count in (1, 2):
        steps = [{**s, "columns": count, "rows": count} if s["id"] == "ins" else s for s in tool.to_dict()["steps"][:upto]]
        document, memory = read_document({**tool.to_dict(), "steps": steps}), Memory()
        times_.append(median(_insert(document, memory, project) for _ in range(_RUNS)))
    return times_[1] - times_[0]


def _insert(document: Document, memory: Memory, project: Project) -> float:
    memory.traces.pop("ins", None)
    return rebuild(document, memory, outside=project).outcomes[-1].ms / 1000


def _timed(act: Callable[[], object]) -> float:
    found = []
    for _ in range(_RUNS):
        began = time.perf_counter()
        act()
        found.append(time.perf_counter() - began)
    return median(found)


if __name__ == "__main__":
    from supplecast.document.step import load_steps
    from supplecast.web import demo

    load_steps()
    kernel.preload()
    documents = {d.id: d for d in demo.documents()}
    print("A tool from the front shell:")
    raise SystemExit(main(documents["dusk-front-shell"], documents["dusk-front-shell-tool"]))
