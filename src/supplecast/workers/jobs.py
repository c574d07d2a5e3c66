"""What a worker does: build documents into meshes and measures, make references of picks, write files.

These functions run in a worker process. They take and give plain data; bodies live on in the worker's memories, meshes
and files go to the blob directory under names made from their content.
"""

from __future__ import annotations

import gc
import json
import os
import resource
import secrets
import time
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import BaseModel

from supplecast import hints, kernel
from supplecast.atomic import write_atomically
from supplecast.document.advise import largest
from supplecast.document.keys import digest
from supplecast.document.mentions import mentions
from supplecast.document.model import Document, Look, parse_document
from supplecast.document.order import places
from supplecast.document.placing import left_face
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.document.state import Datum, Entry, SketchEntry
from supplecast.document.step import load_steps
from supplecast.document.units import relabelled, renumbered
from supplecast.document.words import rule_words
from supplecast.errors import SuppleError
from supplecast.exchange import handoff, outlines, report
from supplecast.exchange.picture import draw
from supplecast.exchange.triangles import Part, write_glb
from supplecast.geometry import along, vec
from supplecast.molding.mass import grams
from supplecast.molding.plausible import size_warning
from supplecast.naming import (
    STOPPING,
    EdgeRef,
    FaceRef,
    Rule,
    offered,
    reference_edge,
    reference_face,
    resolve_edges,
    resolve_faces,
)
from supplecast.quantities import LENGTH_UNITS, Scope, show
from supplecast.sketch.acts.take import told
from supplecast.steps.part.measure import value_words
from supplecast.store import shelf

_STEEL = ("cavity", "core", "cavity insert", "core insert", "slide", "insert", "ejector", "block")
_MOST_RESIDENT = 1.5 * 1024**3
_memories: dict[str, Memory] = {}
_last: dict[str, Built] = {}
_touching: dict[tuple[str, str], kernel.contact.Contact | None] = {}


@dataclass(frozen=True)
class Task:
    """Work on one document: its JSON, the JSON of what it links by id and revision, and where files lie."""

    document: str
    linked: dict[tuple[str, int | None], str]
    assets: str
    blobs: str
    progress: str
    upto: str | None = None
    before: str | None = None
    options: dict[str, Any] = field(default_factory=dict)
    stuck: dict[str, str] = field(default_factory=dict)


def start_worker(ceiling: int) -> None:
    """Run once in each new worker; `ceiling` is the most memory it may ask for, in bytes."""
    load_steps()
    resource.setrlimit(resource.RLIMIT_AS, (ceiling, ceiling))


def _tidy() -> None:
    """Forget live shapes once they take too much room: they come back from the shelf when they are wanted."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    if pages * resource.getpagesize() > _MOST_RESIDENT:
        _memories.clear()
        _last.clear()
        kernel.integrate.forget()
        gc.collect()


def _opened(task: Task) -> tuple[Document, Project]:
    document = parse_document(task.document)
    if task.before is not None:
        document = document.model_copy(update={"steps": document.steps[: document.position(task.before)]})
    elif task.upto is not None:
        document = document.model_copy(update={"steps": document.steps[: document.position(task.upto) + 1]})
    revisions: dict[tuple[str, int | None], Document] = {key: parse_document(text) for key, text in task.linked.items()}
    revisions[(document.id, None)] = document
    _tidy()
    recall = partial(shelf.recall, blobs=Path(task.blobs))
    return document, Project(revisions, Path(task.assets), _memories, recall, task.stuck)


def built_of(task: Task) -> tuple[Document, Built]:
    document, project = _opened(task)
    return document, project.build(document.id, progress=partial(tell, task))


def tell(task: Task, number: int, of: int, label: str, step: str) -> None:
    words = json.dumps({"number": number, "of": of, "label": label, "id": step})
    write_atomically(Path(task.progress), words.encode())


def build(task: Task) -> dict[str, Any]:
    """Build the document; returns its steps' outcomes, its bodies with measures and mesh names, and its sketches."""
    began = time.perf_counter()
    document, built = built_of(task)
    steps = {step.id: step for step in document.steps}
    true = built.state.bodies
    if not task.options.get("preview") and task.upto is None and task.before is None:
        _last[document.id] = built
    told: dict[str, list[dict[str, Any]]] = {}
    for hint in () if task.options.get("preview") else hints.heard(document, built):
        told.setdefault(hint.step, []).append(asdict(hint))
    bodies = [shown(entry, task, document, stale=true.get(name) is not entry) for name, entry in built.state.shown().items()]
    return {
        "document": document.id,
        "ok": built.ok,
        "steps": [
            {
                **report.step_report(o, steps[o.step].type),
                "hint": o.hint,
                "hints": told.get(o.step, []),
                "words": o.message,
                "reused": o.reused,
            }
            for o in built.outcomes
        ],
        "bodies": bodies,
        "called": built.state.called,
        "sketches": [_outline(entry) for entry in _loose_sketches(document, built)],
        "datums": [_drawn_datum(datum, built) for datum in built.state.datums.values()],
        "lines": {o.step: o.lines for o in built.outcomes if o.lines},
        "contacts": [] if task.options.get("preview") else _contacts(document, built),
        "taken": {name: dict(entry.taken) for name, entry in built.state.sketches.items() if entry.taken},
        "frames": {name: {**asdict(entry.frame), "y": entry.frame.y} for name, entry in built.state.sketches.items()},
        "ms": round((time.perf_counter() - began) * 1000, 1),
        "picks": _resolved(task, built),
    }


def shown(entry: Entry, task: Task, document: Document, *, stale: bool = False) -> dict[str, Any]:
    solid = entry.body.solid
    box, mass = _measured(entry, task)
    material = document.material
    return {
        "id": entry.id,
        "name": entry.name,
        "role": entry.role,
        "mesh": _mesh(entry, task),
        "volume": mass.volume,
        "area": mass.area,
        "mass": grams(mass.volume, material) if material else None,
        "low": box.low,
        "high": box.high,
        "faces": solid.face_count,
        "pull": document.pull if document.kind == "part" else entry.pull,
        "stale": stale,
        "look": document.looks.get(entry.id, Look()).model_dump(),
    }


def _contacts(document: Document, built: Built) -> list[dict[str, Any]]:
    """Pairs of part bodies that share space, or touch along no more than an edge or a point."""
    entries = [e for e in built.state.bodies.values() if e.role == "part"] if document.kind == "part" else []
    found = []
    for number, first in enumerate(entries):
        for second in entries[number + 1 :]:
            key = (first.key, second.key)
            if key not in _touching:
                if len(_touching) > 5000:
                    _touching.clear()
                try:
                    _touching[key] = kernel.contact.between(first.body.solid, second.body.solid)
                except SuppleError:
                    _touching[key] = None  # a pair the kernel cannot compare is not reported as wrong
            contact = _touching[key]
            if contact is not None:
                found.append({"bodies": [first.id, second.id], "names": [first.name, second.name], **asdict(contact)})
    return found


def _drawn_datum(datum: Datum, built: Built) -> dict[str, Any]:
    """A datum as lines in space, as large as the model."""
    boxes = [kernel.measure.loose_box(entry.body.solid) for entry in built.state.bodies.values()]
    reach = max([0.42 * box.diagonal for box in boxes], default=30.0)
    frame, (u, v) = datum.frame, (reach, 0.7 * reach)
    if datum.kind == "plane":
        corners = [(-u, -v), (u, -v), (u, v), (-u, v), (-u, -v)]
        lines = [[frame.point(corner) for corner in corners]]
    elif datum.kind == "axis":
        lines = [[along(frame.origin, frame.normal, -reach), along(frame.origin, frame.normal, reach)]]
    else:
        size = 0.04 * reach
        directions = (frame.x, frame.y, frame.normal)
        lines = [[along(frame.origin, direction, -size), along(frame.origin, direction, size)] for direction in directions]
    return {"id": datum.id, "name": datum.name, "kind": datum.kind, "lines": lines}


def _measured(entry: Entry, task: Task) -> tuple[kernel.measure.Box, kernel.measure.Mass]:
    """Box and mass, exact unless finding them is known to take too long.

    While a number is being typed the shape counts; the last digits follow when it is kept, of steel when it is handed off.
    """
    solid = entry.body.solid
    if f"measure {entry.id}" in task.stuck:
        return kernel.measure.loose_box(solid), kernel.measure.rough_mass(solid)
    if "_mass" not in solid.__dict__ or "_box" not in solid.__dict__:
        tell(task, 0, 0, f"measuring {entry.name}", f"measure {entry.id}")
    if task.options.get("preview"):
        return kernel.measure.box(solid), kernel.measure.rough_mass(solid)
    if entry.role in _STEEL and not task.options.get("exact"):  # nobody weighs it before it is handed off
        return kernel.measure.corner_box(solid), kernel.measure.rough_mass(solid)
    mass = kernel.measure.mass(solid)
    shelf.keep_mass(entry, Path(task.blobs))
    return kernel.measure.box(solid), mass


def _mesh(entry: Entry, task: Task) -> str | None:
    """Name of the body's GLB in the blob directory, made now unless it is there; None if drawing it is known to hang."""
    if f"draw {entry.id}" in task.stuck:
        return None
    deflection = _deflection(entry)
    name = mesh_name(entry)
    target = Path(task.blobs) / name
    if not target.exists():
        tell(task, 0, 0, f"drawing {entry.name}", f"draw {entry.id}")
        mesh = kernel.mesh.tessellate(entry.body.solid, deflection, 0.25)
        write_atomically(target, write_glb([Part(entry.name, entry.role, mesh)]))
    return name


def _deflection(entry: Entry) -> float:
    return min(max(kernel.measure.box(entry.body.solid).diagonal / 3000, 0.01), 0.2)


def mesh_name(entry: Entry) -> str:
    """Names the body, the fineness and the order of its faces: the kernel may number them otherwise in another process."""
    order = "\x1e".join("\x1f".join(tags) for tags in entry.body.tags)
    return f"{digest(entry.key, entry.role, f'{_deflection(entry):.6f}', order, 'mesh 1')}.glb"


def _loose_sketches(document: Document, built: Built) -> list[SketchEntry]:
    """Sketches worth showing: all while there is no body, afterwards those that no step uses yet."""
    sketches = list(built.state.sketches.values())
    if not built.state.bodies:
        return sketches
    used = {name for step in document.steps if not step.skip for name in mentions(step, [entry.id for entry in sketches])}
    return [entry for entry in sketches if entry.id not in used]


def _outline(entry: SketchEntry) -> dict[str, Any]:
    lines = [[list(entry.frame.point((float(x), float(y)))) for x, y in curve.sampled(24)] for curve in entry.curves]
    loose = [curve.entity in entry.loose for curve in entry.curves]
    return {"id": entry.id, "name": entry.name, "lines": lines, "loose": loose, "freedoms": entry.freedoms}


def _resolved(task: Task, built: Built) -> list[dict[str, Any]]:
    """Where the picks handed along lie now, so that the view can light them."""
    found = []
    for pick in task.options.get("picks", ()):
        if not {"face", "edge", "rule"} & pick.keys():
            continue
        for entry in built.state.bodies.values():
            if pick.get("body") not in (None, entry.id):
                continue
            if "face" in pick:
                chosen = FaceRef.model_validate({k: pick[k] for k in FaceRef.model_fields if pick.get(k) is not None})
                resolution = resolve_faces(entry.body, chosen)
                kind = "faces"
            else:
                model = EdgeRef if "edge" in pick else Rule
                edge = model.model_validate({k: pick[k] for k in model.model_fields if pick.get(k) is not None})
                resolution = resolve_edges(entry.body, edge)
                kind = "edges"
            if resolution.status not in STOPPING:
                where = _spot_of(entry, pick, resolution.items[0]) if kind == "edges" else None
                items = {kind: [] if where else list(resolution.items), "point": where}
                found.append({"body": entry.id, **items, "pick": pick, "status": resolution.status})
                break
    return found


def _spot_of(entry: Entry, pick: dict[str, Any], index: int) -> tuple[float, float, float] | None:
    """The point that a pick on an edge stands for, where it stands for one."""
    solid = entry.body.solid
    try:
        if pick.get("at") == "centre":
            return kernel.datums.centre(solid, index)
        if "share" in pick:
            share = Scope().evaluate(pick["share"], "factor")
            left = left_face(entry.body, index, EdgeRef.model_validate({"edge": pick["edge"]}))
            return kernel.datums.along_edge(solid, index, share, left)[0]
    except SuppleError:
        return None
    return None


def refer(task: Task) -> dict[str, Any]:
    """Lasting references for faces and edges picked by number in the view, with words and rules that would catch them."""
    document, built = built_of(task)
    picks = []
    for picked in task.options["picked"]:
        entry, reference, index = _picked(built, built.state.shown(), picked)
        told = _plain(reference)
        if isinstance(reference, FaceRef):
            solid = entry.body.solid
            extra: dict[str, Any] = {
                "word": kernel.measure.surface_word(solid, index),
                "flat": kernel.measure.is_flat(solid, index),
                "area": kernel.measure.face_area(solid, index),
            }
        else:
            extra = {"word": "edge", "rules": _rules(document, index, reference, entry)}
            if task.options.get("spots"):
                told |= _place_on(entry, index, reference, picked.get("point"))
        picks.append({"pick": told, **extra})
    return {"picks": picks}


def _picked(built: Built, among: Mapping[str, Entry], picked: Mapping[str, Any]) -> tuple[Entry, FaceRef | EdgeRef, int]:
    """A face or edge picked by number in the view: the body, a lasting reference, and the number."""
    entry = among.get(picked["body"])
    if entry is None:
        raise SuppleError("The picked body is no longer there.", "Pick another.")
    if picked.get("mesh") not in (None, mesh_name(entry)):
        raise SuppleError("The model was built anew meanwhile.", "Pick again.")
    narrow = entry.id if len(built.state.bodies) > 1 else None
    face, edge = picked.get("face"), picked.get("edge")
    if isinstance(face, int) and 0 <= face < entry.body.solid.face_count:
        return entry, reference_face(entry.body, face, narrow), face
    if isinstance(edge, int) and 0 <= edge < entry.body.solid.number_of_edges:
        return entry, reference_edge(entry.body, edge, narrow), edge
    raise SuppleError("The picked face or edge is no longer there.", "Pick again.")


def _plain(reference: BaseModel) -> dict[str, Any]:
    return reference.model_dump(mode="json", exclude_none=True, exclude_defaults=True)


def _place_on(entry: Entry, index: int, reference: EdgeRef, point: list[float] | None) -> dict[str, Any]:
    """Which point of an edge a click near `point` means."""
    solid = entry.body.solid
    left = left_face(entry.body, index, reference)
    near = vec(point) if point else kernel.edges.middle(solid, index)
    centre, share = kernel.datums.nearest_place(solid, index, near, left)
    return {"at": "centre"} if centre else {"share": f"{share * 100:g} %"}


def gauge(task: Task) -> dict[str, Any]:
    """What one or two picked things measure, in words, and references to keep them by."""
    document, built = built_of(task)
    things, picks = [], []
    for picked in task.options["picked"]:
        entry, reference, index = _picked(built, built.state.bodies, picked)
        solid = entry.body.solid
        if isinstance(reference, FaceRef):
            things.append(kernel.gauge.Thing(solid, face=index))
            picks.append(_plain(reference))
            continue
        place = _place_on(entry, index, reference, picked.get("point"))
        if place.get("share") in ("0 %", "100 %"):  # an end of the edge is meant: a corner
            spot, _ = kernel.datums.along_edge(
                solid, index, float(place["share"] == "100 %"), left_face(entry.body, index, reference)
            )
            things.append(kernel.gauge.Thing(point=spot))
            picks.append(_plain(reference) | place)
        else:
            things.append(kernel.gauge.Thing(edge=index, solid=solid))
            picks.append(_plain(reference))
    line = None
    if len(things) == 1:
        figures = kernel.gauge.single(things[0])
    else:
        figures, line = kernel.gauge.between(things[0], things[1])
    return {
        "picks": picks,
        "line": line,
        "figures": [{"name": f.name, "words": value_words(f, document.unit), "value": f.value} for f in figures],
    }


def units(task: Task) -> dict[str, Any]:
    """What both ways of changing the unit would make of the model: its box, and a warning where that looks wrong."""
    document, project = _opened(task)
    unit = str(task.options["unit"])
    found = {}
    for keeps, change in (("size", relabelled), ("numbers", renumbered)):
        changed = change(document, unit)
        built = rebuild(changed, outside=project)
        boxes = [kernel.measure.box(entry.body.solid) for entry in built.state.bodies.values()]
        size = [max(b.high[i] for b in boxes) - min(b.low[i] for b in boxes) for i in range(3)] if boxes else []
        found[keeps] = {
            "size": [show(s / LENGTH_UNITS[unit], 4) for s in size],
            "warning": size_warning(max(size), document.material) if size else "",
            "ok": built.ok,
        }
    return found


def take(task: Task) -> dict[str, Any]:
    """What was picked in the view, laid into the plane of a sketch: edges, all edges of a face, a section, a silhouette."""
    _, built = built_of(task)
    sketch = built.state.sketches.get(str(task.options["sketch"]))
    if sketch is None:
        raise SuppleError("The sketch's own plane could not be found.", "Mend the sketch first.")
    how, picked = task.options["how"], task.options["picked"]
    if picked["body"] not in built.state.bodies:
        raise SuppleError("The picked body is not there before this sketch.", "Pick another.")
    if how in ("section", "silhouette"):
        lay = kernel.flatten.section if how == "section" else kernel.flatten.silhouette
        source: dict[str, Any] = {"how": how, "body": picked["body"]}
        solid = built.state.bodies[picked["body"]].body.solid
        return {"curves": [{**told(curve), "source": source} for curve in lay(solid, sketch.frame)]}
    entry, reference, number = _picked(built, built.state.bodies, picked)
    solid, edges = entry.body.solid, [number]
    if isinstance(reference, FaceRef):
        edges = [e for e in solid.face_edges[number] if not solid.degenerate_edges[e]]
    found = []
    for index in dict.fromkeys(edges):
        try:
            curve = kernel.flatten.flattened(solid, index, sketch.frame)
        except SuppleError:
            if len(edges) == 1:
                raise
            continue  # of a whole face, what stands square on the plane is left out
        edge = _plain(reference_edge(entry.body, index, reference.body))
        found.append({**told(curve), "source": {"how": "edge", "edge": edge}})
    if not found:
        raise SuppleError("Seen from there that face has no outline.", "Pick another face.")
    return {"curves": found}


def _rules(document: Document, edge: int, reference: EdgeRef, entry: Entry) -> list[dict[str, Any]]:
    """Rules that catch the picked edge and more, in words."""
    return [
        {
            "rule": _plain(rule),
            "count": count,
            "words": rule_words(rule, document.steps),
        }
        for rule, count in offered(entry.body, edge, reference)
    ]


def export(task: Task) -> dict[str, Any]:
    """Write the chosen bodies to one file in the blob directory; returns its name there and the one to offer."""
    document, built = built_of(task)
    wanted = task.options.get("bodies")
    format = task.options["format"]
    bodies = built.state.bodies.values()
    entries = [entry for entry in bodies if wanted is None or entry.id in wanted]
    tolerance = handoff.Tolerance(float(task.options.get("tolerance", 0.02)))
    if not built.ok:
        bad = next(o for o in built.outcomes if o.status not in ("ok", "skipped"))
        raise SuppleError(f"The document does not build yet: {bad.message}", "Mend that step, then hand off.")
    content = handoff.write(entries, format, tolerance, document.colours)
    entries = handoff.writable(entries, format)
    whole = len(entries) == len(handoff.writable(bodies, format))
    label = entries[0].name if len(entries) == 1 else "all bodies" if whole else f"{len(entries)} bodies"
    name = f"{secrets.token_hex(12)}.{format}"
    Path(task.blobs, name).write_bytes(content)
    return {"blob": name, "name": handoff.file_name(document.name, label, extension=format), "bytes": len(content)}


def picture(task: Task) -> dict[str, Any]:
    """A small picture of the document's bodies in the blob directory; a tool is drawn half open, without its part."""
    document, built = built_of(task)
    entries = [e for e in built.state.bodies.values() if e.role not in ("linked", "molded", "feed")]
    entries = entries or list(built.state.bodies.values())
    if not entries:
        return {"blob": None}
    name = str(task.options["name"])
    target = Path(task.blobs) / name
    if not target.exists():
        lift = 1.1 * max(kernel.measure.corner_box(entry.body.solid).diagonal for entry in entries) / 2
        shares = {"core": 1.0, "core insert": 1.0, "ejector": 1.0, "shot": 0.45}
        parts = []
        for entry in entries:
            fine = min(0.15, kernel.measure.loose_box(entry.body.solid).diagonal / 800)
            mesh = kernel.mesh.tessellate(entry.body.solid, fine, 0.25)
            pull = np.array(entry.pull or (0.0, 0.0, 1.0)) * lift * shares.get(entry.role, 0.0)
            moved = replace(mesh, points=mesh.points + pull)
            parts.append(Part(entry.name, entry.role, moved, document.colours.get(entry.id, "")))
        write_atomically(target, draw(parts))
    return {"blob": name}


def check_file(task: Task) -> dict[str, Any]:
    """Read an imported file, to refuse it before it enters the document."""
    bodies = kernel.step_files.read_bodies(Path(task.options["path"]).read_bytes())
    return {"bodies": [name for name, _ in bodies]}


def read_outline(task: Task) -> dict[str, Any]:
    """The curves of a DXF or SVG file."""
    curves, notes = outlines.read_outline(Path(task.options["path"]).read_bytes())
    return {"curves": curves, "notes": notes}


def advise(task: Task) -> dict[str, Any]:
    """What would fit where a step failed for a size."""
    document, project = _opened(task)
    built = project.build(document.id)
    advice = largest(document, built.outcome(task.options["step"]), _memories[document.id], project)
    return {"advice": asdict(advice) if advice else None}


def verify(task: Task) -> dict[str, Any]:
    """Build, and look at every body again by other means: what is wrong that the build did not say."""
    document, built = built_of(task)
    wrong = [f"{o.step}: {o.message}" for o in built.outcomes if "kernel gave up" in o.message]
    for entry in built.state.bodies.values():
        if entry.role != "surface":
            wrong += [f"{entry.id}: {words}" for words in kernel.check.faults(entry.body.solid)]
        if any("?" in tag for tags in entry.body.tags for tag in tags):
            wrong.append(f"{entry.id}: a face without history")
    return {"wrong": wrong, "steps": [(document.step(o.step).type, o.status) for o in built.outcomes]}


def shelve(task: Task) -> dict[str, Any]:
    """Put what the last build of the document made on the shelf, for workers that start anew."""
    document = json.loads(task.document)["id"]
    built = _last.get(document)
    return {"written": shelf.keep(built, document, Path(task.blobs)) if built else 0}


def find_places(task: Task) -> dict[str, Any]:
    """Where in the sheet a step may stand, and why not elsewhere."""
    document, project = _opened(task)
    project.build(document.id)
    found = places(document, task.options["step"], _memories[document.id], project)
    return {"places": [asdict(place) for place in found]}


def die(task: Task) -> dict[str, Any]:
    """Crash as a kernel fault would; used by tests of the engine."""
    os.abort()


def sleep(task: Task) -> dict[str, Any]:
    """Hold the worker for a while; used by tests of the engine."""
    time.sleep(float(task.options["seconds"]))
    return {}
