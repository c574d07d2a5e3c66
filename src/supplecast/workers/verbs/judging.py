"""Judging a part or tool: its gauges, and the maps behind them as blobs of float32.

Skins, walls and what lies to a pull are remembered by the body's key, so that a change of resin costs next to nothing and a
change of pull only what depends on it.
"""

from __future__ import annotations

import math
import os
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace
from itertools import combinations
from pathlib import Path
from typing import TypeVar

import numpy as np

from supplecast import kernel
from supplecast.atomic import write_atomically
from supplecast.document.coat import depths
from supplecast.document.keys import digest
from supplecast.document.model import Document, parse_document
from supplecast.document.parts_list import parts_list
from supplecast.document.rebuild import Built
from supplecast.document.state import BESIDE, PARTS, SLIDES, Entry
from supplecast.document.steel_holes import holes_by
from supplecast.document.surface_list import surface_list
from supplecast.errors import SuppleError
from supplecast.exchange.picture import draw
from supplecast.exchange.triangles import Part as Drawn
from supplecast.exchange.wardrobe import Wardrobe, prints_on
from supplecast.geometry import Floats, Vec, times, vec
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.molding import gauges
from supplecast.molding.deviation import alike
from supplecast.molding.gauge import Gauge
from supplecast.molding.gauges import Asked, Judged, tool
from supplecast.molding.gauges.compared import compared
from supplecast.molding.gauges.gaps import Wanted, gaps
from supplecast.molding.gauges.heat import Chilled, heat
from supplecast.molding.gauges.inputs import Typed
from supplecast.molding.gauges.parts import Part, parts
from supplecast.molding.gauges.unmolded import unmolded
from supplecast.molding.judge import Pulled, Skin, skin_of
from supplecast.molding.sampled import Sampled
from supplecast.molding.undercut import suggested_pull
from supplecast.naming.tag import maker
from supplecast.steps.part.wanted_gap import WantedGap
from supplecast.steps.tool.marks import forms_part
from supplecast.steps.tool.sides import sideways
from supplecast.store import looks, shelf
from supplecast.wire import options
from supplecast.wire.results import CaptionedPicture, Gauges, JudgedSkin, Pull, Pulls, ReportResult
from supplecast.wire.task import Task
from supplecast.wire.verbs import GAUGES, PULLS, REPORT
from supplecast.workers.dressed import wardrobe_of
from supplecast.workers.opened import built_of, tell
from supplecast.workers.registry import does
from supplecast.workers.shown import mesh_name
from supplecast.workers.tool_section import stack_of

_KEPT, _KEPT_MAPS = 8, 400
_COOLING = ("cooling", "baffles")  # steps whose bores coolant runs in
_skins: OrderedDict[str, Skin] = OrderedDict()
_pulled: OrderedDict[tuple[str, Vec], Pulled] = OrderedDict()
_heats: OrderedDict[str, tuple[Gauge, dict[str, Floats]]] = OrderedDict()
K = TypeVar("K")
V = TypeVar("V")


@does(GAUGES)
def judge(task: Task, asked: options.Judge) -> Gauges:
    """The gauges of a document's bodies, and the blobs that paint them."""
    judged = _judge(task, every=asked.every)
    if not asked.every:
        looks.keep(task, judged)
    return judged


def _judge(task: Task, *, every: bool = False) -> Gauges:
    document, built = built_of(task)
    if document.kind == "tool":
        return _judge_tool(task, document, built)
    if document.kind == "assembly":
        return _judge_assembly(task, document, built)
    # While a step fails, what is judged is what is seen: the last good shape.
    entries = [entry for entry in built.state.shown().values() if entry.role == "part" and entry.body.solid.closed]
    if not entries:
        sheets = any(entry.role == "surface" for entry in built.state.bodies.values())
        why = "only surfaces, which enclose nothing" if sheets else "no body yet"
        return Gauges(why=why)
    by = Asked(document.material, document.pull, document.texture_depth, document.gate, document.made_of.source)
    judged, skins = [], []
    beside = {e.id: e for e in built.state.shown().values() if e.role in (*PARTS, *BESIDE) and e.body.solid.encloses}
    meshes = [e for e in built.state.shown().values() if isinstance(e.body.solid, MeshBody)]
    pairs: list[tuple[Judged, str, MeshBody]] = []
    same: set[tuple[str, str]] = set()
    for entry in entries:
        tell(task, 0, 0, f"judging {entry.name}", "")
        shelf.recall_mass(entry, Path(task.blobs))
        pulled = _held(entry, by.pull)
        flow = pulled.flow(by.gate) if by.gate and entry is _nearest(entries, by.gate) else None
        etched = tuple(depths(entry.body, entry.id, built.coats, by.texture)) if built.coats else ()
        one = Judged(entry.id, entry.name, pulled, flow, etched)
        judged.append(one)
        twins = [(e, mesh) for e in meshes if isinstance(mesh := e.body.solid, MeshBody) and alike(entry.body.solid, mesh)]
        pairs += [(one, e.name, mesh) for e, mesh in twins]
        same |= {(entry.id, e.id) for e, _ in twins}
        others = [e for e in beside.values() if e is not entry and (entry.id, e.id) not in same]
        skins.append(_judged_skin(entry, one, by, others, [e for e, _ in twins], Path(task.blobs)))
    _sweep(Path(task.blobs))
    short = not document.made_of.is_molded and not every
    strip = unmolded(judged, by, document.resin, document.made_of.density) if short else gauges.gauges(judged, by)
    if any((a, b) not in same and (b, a) not in same for a, b in combinations(beside, 2)):
        tell(task, 0, 0, "measuring the gaps", "")
        strip.append(gaps({key: (e.name, e.body.solid) for key, e in beside.items()}, _wanted(document, built), same))
    if pairs:
        tell(task, 0, 0, "comparing with the mesh", "")
        strip.append(compared(pairs))
    return Gauges(strip, skins, by.gate, short=short)


def _wanted(document: Document, built: Built) -> list[Wanted]:
    """The gaps that steps of the sheet ask for, whatever became of their bodies after them."""
    outcomes = {outcome.step: outcome for outcome in built.outcomes if outcome.status == "ok"}
    return [
        Wanted(step.first, step.second, outcomes[step.id].figures["least"], outcomes[step.id].figures["most"], step.label)
        for step in document.steps
        if isinstance(step, WantedGap) and step.id in outcomes and step.first and step.second
    ]


def _judge_assembly(task: Task, document: Document, built: Built) -> Gauges:
    """What an assembly is made of, and how its bodies lie to each other; nothing is painted."""
    bodies = {e.id: e for e in built.state.shown().values() if e.body.solid.encloses}
    if not bodies:
        return Gauges(why="no part linked yet")
    picks = {step.id: pick for step in document.steps for pick in step.links}
    known: dict[tuple[str, int | None], Document] = {}
    rows = []
    for entry in bodies.values():
        shelf.recall_mass(entry, Path(task.blobs))
        link = next((one for tags in entry.body.tags for tag in tags if (one := maker(tag)) in picks), "")
        pick = picks.get(link)
        key = (pick.document, pick.revision) if pick else ("", None)
        if key not in known and key in task.linked:
            known[key] = parse_document(task.linked[key])
        part = known.get(key)
        volume = kernel.measure.volume(entry.body.solid)
        of = (*key, round(volume, 6), entry.body.solid.face_count)
        rows.append(Part(entry.name, of, volume, part.made_of.density if part else None, part.resin if part else "no resin"))
    strip = [parts(rows)]
    if len(bodies) > 1:
        tell(task, 0, 0, "measuring the gaps", "")
        gauge = gaps({key: (e.name, e.body.solid) for key, e in bodies.items()}, _wanted(document, built))
        strip.append(replace(gauge, map="", bands=()))
    return Gauges(strip)


def _judge_tool(task: Task, document: Document, built: Built) -> Gauges:
    """The gauges of a tool; that of its cooling paints the parts."""
    bodies = list(built.state.bodies.values())
    parts = [e for e in bodies if e.role in PARTS]
    if not parts:
        return Gauges(why="no part linked yet")
    tell(task, 0, 0, "judging the tool", "")
    pull = next((e.pull for e in bodies if e.pull and e.role in ("core", "block", "linked")), (0.0, 0.0, 1.0))
    for entry in bodies:
        shelf.recall_mass(entry, Path(task.blobs))
    forming = ("core", "cavity", "core insert", "cavity insert", "core pin", "lifter", "stripper", *SLIDES)
    steel = [_steel(e, pull) for e in bodies if e.role in forming]
    outer = [e.body.solid for e in bodies if e.role in ("core", "cavity", "block")]
    figures = {name: value for o in built.outcomes if o.status == "ok" for name, value in o.figures.items()}
    checked = bool(figures.get("opens"))
    asked = tool.ToolAsked([e.body.solid for e in parts], [e.body.solid for e in bodies if e.role == "feed"], steel, outer,
                           pull, document.material, document.made_of.source, checked, Typed.of(figures))  # fmt: skip
    strip = tool.gauges(asked)
    cooled = _cooled(task, document, bodies, figures)
    return Gauges([*strip, cooled[0]], cooled[1]) if cooled else Gauges(strip)


def _cooled(
    task: Task, document: Document, bodies: list[Entry], figures: dict[str, float]
) -> tuple[Gauge, list[JudgedSkin]] | None:
    """The gauge of what coolant bores do, and the parts' skins painted by it; None without any, or if none is injected."""
    makers = {step.id for step in document.steps if step.type in _COOLING and not step.skip}
    steel = [e for e in bodies if makers and e.role in ("core", "cavity", "core insert", "cavity insert")]
    bores = [hole.bar for entry in steel for hole in holes_by(entry, makers)]
    if not bores or not figures.get("coolant_power"):
        return None
    tell(task, 0, 0, "judging the cooling", "")
    parts = [e for e in bodies if e.role in PARTS]
    skins = {entry.id: (entry.name, skin_of(entry.body.solid)) for entry in parts}
    asked = Chilled(skins, bores, figures["coolant_power"], figures["coolant_film"])
    key = digest(*(repr(one) for one in (*bores, *(e.key for e in parts), asked.power, asked.film)))
    gauge, off = _remembered(_heats, key, lambda: heat(asked))
    folder = Path(task.blobs)
    painted: list[JudgedSkin] = []
    for entry in parts:
        places, shape = skins[entry.id][1].places, mesh_name(entry)
        maps = {"heat": _kept(folder, off[entry.id], shape, "heat", key)}
        lines = [] if painted else [[bore.start, bore.end] for bore in bores]
        skin = _kept(folder, _rows(places), shape, "skin")
        painted.append(JudgedSkin(entry.id, shape, skin, maps, len(places.corners), lines))
    return gauge, painted


def _rows(places: Sampled) -> Floats:
    """A skin as the page takes it: nine coordinates and a normal a triangle."""
    return np.concatenate([places.corners.reshape(-1, 9), places.normals], axis=1)


def _steel(entry: Entry, pull: Vec) -> tool.Steel:
    """A body of the tool with the way it leaves."""
    forming = tuple(face for face, tags in enumerate(entry.body.tags) if forms_part(tags))
    direction = pull if entry.role.startswith(("core", "stripper")) else times(pull, -1.0)
    if entry.role in SLIDES:
        direction = entry.pull or pull
    elif entry.role == "lifter" and entry.pull:
        direction = sideways(entry.pull, pull)
    return tool.Steel(entry.id, entry.name, entry.body.solid, forming, direction)


@does(PULLS)
def suggest_pull(task: Task, asked: options.Nothing) -> Pulls:
    """The axes by how much of the part they would leave hidden, the best first."""
    _, built = built_of(task)
    entries = [entry for entry in built.state.bodies.values() if entry.role == "part"]
    if not entries:
        raise SuppleError("There is no body yet.", "Build one first.")
    largest = max(entries, key=lambda entry: kernel.measure.rough_volume(entry.body.solid))
    return Pulls([Pull(direction, share) for direction, share in suggested_pull(_skin(largest).places)])


def _nearest(entries: list[Entry], gate: Vec) -> Entry:
    """The body that a gate is on."""
    if len(entries) == 1:
        return entries[0]
    return min(entries, key=lambda entry: float(_skin(entry).places.whole.nearest(np.array([gate])).away[0]))


def _skin(entry: Entry) -> Skin:
    return _remembered(_skins, entry.key, lambda: skin_of(entry.body.solid))


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


def _judged_skin(entry: Entry, one: Judged, asked: Asked, beside: list[Entry], twins: list[Entry], folder: Path) -> JudgedSkin:
    """A body's skin beside other bodies and meshes of the same thing, where it turns over, and the names of its triangles and
    of the values of its maps.

    All are named by the mesh, which tells the order of the faces: another process may number them otherwise.
    """
    places, shape = one.pulled.skin.places, mesh_name(entry)
    skin = _kept(folder, _rows(places), shape, "skin")
    names = ["wall", "rays", "draft", "undercut", *(["flow"] if one.flow else []), *(["gap"] if beside else [])]
    names += ["spare"] if len(set(one.etched)) > 1 else []
    names += ["mesh"] if twins else []
    depends: dict[str, tuple[object, ...]] = {
        "wall": (),
        "rays": (),
        "draft": (asked.pull,),
        "spare": (asked.pull, one.etched, asked.resin.draft if asked.resin else 0.0),
        "undercut": (asked.pull,),
        "flow": (asked.gate,),
        "gap": tuple(other.key for other in beside),
        "mesh": tuple(other.key for other in twins),
    }
    others = {"gap": [other.body.solid for other in beside], "mesh": [other.body.solid for other in twins]}
    maps = {
        name: _kept(folder, gauges.values(one, name, asked, others.get(name, ())), shape, name, *depends[name])
        for name in names
    }
    traces = [[vec(p) for p in line.round(4)] for line in one.pulled.silhouettes]
    return JudgedSkin(entry.id, shape, skin, maps, len(places.corners), traces)


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


@does(REPORT)
def sheet_report(task: Task, asked: options.Report) -> ReportResult:
    """What the report of a part says of its shape: the gauges, its size, and pictures from four sides."""
    judged = _judge(task)
    document, built = built_of(task)
    entries = [entry for entry in built.state.bodies.values() if entry.is_own]
    if not entries:
        raise SuppleError("There is no body yet to report on.", "Build one first.")
    boxes = [kernel.measure.box(entry.body.solid) for entry in entries]
    size = [max(b.high[i] for b in boxes) - min(b.low[i] for b in boxes) for i in range(3)]
    pictures = _pictures(task, document, built, entries)
    failed = [outcome.message for outcome in built.outcomes if outcome.status == "failed"]
    cautions = [
        f"{document.step(outcome.step).label}: {flag.words}"
        for outcome in built.outcomes
        for flag in outcome.flags
        if flag.status == "caution"
    ]
    surfaces = surface_list(built.state.bodies.values(), built.coats)
    found = ReportResult(judged.gauges, size, pictures, failed, cautions, surfaces=surfaces)
    return replace(found, items=parts_list(entries), stack=stack_of(entries)) if document.kind == "tool" else found


def _pictures(task: Task, document: Document, built: Built, entries: list[Entry]) -> list[CaptionedPicture]:
    """The part from every side: words, and the blob of each picture. Drawn only if one is not there yet."""
    wardrobe = wardrobe_of(task, document, built.coats)
    worn = [repr((wardrobe.looks(entry), prints_on(entry, built.coats))) for entry in entries]
    parts: list[Drawn] = []
    pictures = []
    for words, yaw, pitch in _VIEWS:
        name = f"{digest('report 2', words, *(entry.key for entry in entries), *worn)}.png"
        target = Path(task.blobs) / name
        if not target.exists():
            tell(task, 0, 0, f"drawing the {words}", "")
            parts = parts or [_drawn(entry, wardrobe) for entry in entries]
            write_atomically(target, draw(parts, 480, 336, yaw, pitch))
        pictures.append(CaptionedPicture(words, name))
    return pictures


def _drawn(entry: Entry, wardrobe: Wardrobe) -> Drawn:
    fine = kernel.measure.loose_box(entry.body.solid).diagonal / 700
    return wardrobe.part(entry, kernel.mesh.tessellate(entry.body.solid, fine, 0.5))
