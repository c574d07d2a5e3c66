"""Judging a part in a worker: its gauges as plain data, and the maps behind them as blobs of float32.

Skins, walls and what lies to a pull are remembered by the body's key, so that a change of resin costs next to nothing and a
change of pull only what depends on it.
"""

from __future__ import annotations

import math
import os
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any, TypeVar

import numpy as np

from supplecast import kernel
from supplecast.atomic import write_atomically
from supplecast.document.keys import digest
from supplecast.document.model import Document
from supplecast.document.rebuild import Built
from supplecast.document.state import PARTS, Entry
from supplecast.errors import QuantityError, SuppleError
from supplecast.exchange.picture import draw
from supplecast.exchange.triangles import Part
from supplecast.geometry import Floats, Vec, times
from supplecast.molding import gauges
from supplecast.molding.gauges import Asked, Judged, tool
from supplecast.molding.judge import Pulled, Skin
from supplecast.molding.undercut import suggested_pull
from supplecast.steps.tool.marks import forms_part
from supplecast.store import shelf
from supplecast.workers import jobs
from supplecast.workers.jobs import Task

_KEPT, _KEPT_MAPS = 8, 400
_skins: OrderedDict[str, Skin] = OrderedDict()
_pulled: OrderedDict[tuple[str, Vec], Pulled] = OrderedDict()
K = TypeVar("K")
V = TypeVar("V")


def judge(task: Task) -> dict[str, Any]:
    """The gauges of a part's bodies, and the blobs that paint them."""
    document, built = jobs.built_of(task)
    if document.kind == "tool":
        return _judge_tool(task, document, built)
    entries = [entry for entry in built.state.bodies.values() if entry.role == "part" and entry.body.solid.closed]
    if not entries:
        sheets = any(entry.role == "surface" for entry in built.state.bodies.values())
        why = "only surfaces, which enclose nothing" if sheets else "no body yet"
        return {"gauges": [], "skins": [], "gate": None, "why": why}
    asked = Asked(document.material, document.pull, _texture(document), document.gate, document.material_source)
    judged, skins = [], []
    for entry in entries:
        jobs.tell(task, 0, 0, f"judging {entry.name}", "")
        shelf.recall_mass(entry, Path(task.blobs))
        pulled = _held(entry, asked.pull)
        flow = pulled.flow(asked.gate) if asked.gate and entry is _nearest(entries, asked.gate) else None
        one = Judged(entry.id, entry.name, pulled, flow)
        judged.append(one)
        traces = [line.round(4).tolist() for line in pulled.silhouettes]
        blobs = _blobs(entry, one, asked, Path(task.blobs))
        skins.append({"body": entry.id, "mesh": jobs.mesh_name(entry), "traces": traces, **blobs})
    _sweep(Path(task.blobs))
    told = [asdict(gauge) for gauge in gauges.gauges(judged, asked)]
    return {"gauges": told, "skins": skins, "gate": asked.gate, "why": ""}


def _judge_tool(task: Task, document: Document, built: Built) -> dict[str, Any]:
    """The gauges of a tool; they paint no maps."""
    bodies = list(built.state.bodies.values())
    parts = [e for e in bodies if e.role in PARTS]
    if not parts:
        return {"gauges": [], "skins": [], "gate": None, "why": "no part linked yet"}
    jobs.tell(task, 0, 0, "judging the tool", "")
    pull = next((e.pull for e in bodies if e.pull and e.role in ("core", "block", "linked")), (0.0, 0.0, 1.0))
    for entry in bodies:
        shelf.recall_mass(entry, Path(task.blobs))
    steel = [_steel(e, pull) for e in bodies if e.role in ("core", "cavity", "core insert", "cavity insert", "slide")]
    outer = [e.body.solid for e in bodies if e.role in ("core", "cavity", "block")]
    checked = any(o.figures.get("opens") for o in built.outcomes if o.status == "ok")
    asked = tool.ToolAsked([e.body.solid for e in parts], [e.body.solid for e in bodies if e.role == "feed"], steel, outer,
                           pull, document.material, document.material_source, checked)  # fmt: skip
    return {"gauges": [asdict(gauge) for gauge in tool.gauges(asked)], "skins": [], "gate": None, "why": ""}


def _steel(entry: Entry, pull: Vec) -> tool.Steel:
    """A body of the tool with the way it leaves."""
    forming = tuple(face for face, tags in enumerate(entry.body.tags) if forms_part(tags))
    direction = entry.pull or pull if entry.role == "slide" else pull if entry.role.startswith("core") else times(pull, -1.0)
    return tool.Steel(entry.id, entry.name, entry.body.solid, forming, direction)


def suggest_pull(task: Task) -> dict[str, Any]:
    """The axes by how much of the part they would leave hidden, the best first."""
    _, built = jobs.built_of(task)
    entries = [entry for entry in built.state.bodies.values() if entry.role == "part"]
    if not entries:
        raise SuppleError("There is no body yet.", "Build one first.")
    largest = max(entries, key=lambda entry: kernel.measure.rough_volume(entry.body.solid))
    return {"pulls": [{"direction": direction, "hidden": share} for direction, share in suggested_pull(_skin(largest).places)]}


def _texture(document: Document) -> float:
    try:
        return document.scope.evaluate(document.texture, "length")
    except QuantityError:
        return 0.0


def _nearest(entries: list[Entry], gate: Vec) -> Entry:
    """The body that a gate is on."""
    if len(entries) == 1:
        return entries[0]
    return min(entries, key=lambda entry: float(_skin(entry).places.whole.nearest(np.array([gate])).away[0]))


def _skin(entry: Entry) -> Skin:
    return _remembered(_skins, entry.key, lambda: Skin(entry.body.solid))


def _held(entry: Entry, pull: Vec) -> Pulled:
    return _remembered(_pulled, (entry.key, pull), lambda: Pulled(_skin(entry), pull))


def _remembered(memory: OrderedDict[K, V], key: K, make: Callable[[], V]) -> V:
    """What is remembered under a key, made if need be; the one not asked for longest is forgotten."""
    if key not in memory:
        memory[key] = make()
    memory.move_to_end(key)
    while len(memory) > _KEPT:
        memory.popitem(last=False)
    return memory[key]


def _blobs(entry: Entry, one: Judged, asked: Asked, folder: Path) -> dict[str, Any]:
    """Names of the skin's triangles (nine coordinates and a normal each) and of the values of its maps (one a triangle).

    All are named by the mesh, which tells the order of the faces: another process may number them otherwise.
    """
    places, shape = one.pulled.skin.places, jobs.mesh_name(entry)
    skin = _kept(folder, np.concatenate([places.corners.reshape(-1, 9), places.normals], axis=1), shape, "skin")
    names = ["wall", "rays", "draft", "undercut", *(["flow"] if one.flow else [])]
    depends: dict[str, tuple[object, ...]] = {
        "wall": (),
        "rays": (),
        "draft": (asked.pull,),
        "undercut": (asked.pull,),
        "flow": (asked.gate,),
    }
    maps = {name: _kept(folder, gauges.values(one, name), shape, name, *depends[name]) for name in names}
    return {"skin": skin, "maps": maps, "triangles": len(places.corners)}


def _kept(folder: Path, rows: Floats, *named: object) -> str:
    name = f"{digest('judged 2', *(repr(part) for part in named))}.f32"
    target = folder / name
    if target.exists():
        os.utime(target, ns=(time.time_ns(), target.stat().st_mtime_ns))
    else:
        write_atomically(target, np.ascontiguousarray(rows, dtype="<f4").tobytes())
    return name


def _sweep(folder: Path) -> None:
    """Throw away the maps not asked for longest: every edit makes new ones, and those of old shapes are soon made again."""
    used = sorted(folder.glob("*.f32"), key=lambda path: path.stat().st_atime_ns)
    for path in used[:-_KEPT_MAPS]:
        path.unlink(missing_ok=True)


_VIEWS = (("oblique", -0.62, 0.62), ("core side", 0.0, math.pi / 2), ("cavity side", 0.0, -math.pi / 2), ("front", 0.0, 0.0))


def sheet_report(task: Task) -> dict[str, Any]:
    """What the report of a part says of its shape: the gauges, its size, and pictures from four sides."""
    judged = judge(task)
    document, built = jobs.built_of(task)
    entries = [entry for entry in built.state.bodies.values() if entry.role != "surface"]
    if not entries:
        raise SuppleError("There is no body yet to report on.", "Build one first.")
    boxes = [kernel.measure.box(entry.body.solid) for entry in entries]
    size = [max(b.high[i] for b in boxes) - min(b.low[i] for b in boxes) for i in range(3)]
    pictures = _pictures(task, document, entries)
    failed = [outcome.message for outcome in built.outcomes if outcome.status == "failed"]
    return {"gauges": judged["gauges"], "size": size, "pictures": pictures, "failed": failed}


def _pictures(task: Task, document: Document, entries: list[Entry]) -> list[dict[str, str]]:
    """The part from every side: words, and the blob of each picture. Drawn only if one is not there yet."""
    looks = [document.colours.get(entry.id, "") for entry in entries]
    parts: list[Part] = []
    found = []
    for words, yaw, pitch in _VIEWS:
        name = f"{digest('report 1', words, *(entry.key for entry in entries), *looks)}.png"
        target = Path(task.blobs) / name
        if not target.exists():
            jobs.tell(task, 0, 0, f"drawing the {words}", "")
            parts = parts or [_drawn(entry, look) for entry, look in zip(entries, looks, strict=True)]
            write_atomically(target, draw(parts, 480, 336, yaw, pitch))
        found.append({"words": words, "blob": name})
    return found


def _drawn(entry: Entry, look: str) -> Part:
    fine = kernel.measure.loose_box(entry.body.solid).diagonal / 700
    return Part(entry.name, entry.role, kernel.mesh.tessellate(entry.body.solid, fine, 0.5), look)
