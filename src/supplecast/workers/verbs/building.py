"""Building a document into what the screen shows of it, and putting what was built on the shelf."""

from __future__ import annotations

import json
import time
from collections.abc import Sequence
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path

from supplecast import hints, kernel
from supplecast.document.exploding import drawn_apart
from supplecast.document.mentions import mentions
from supplecast.document.model import Document, Look
from supplecast.document.placing import left_face
from supplecast.document.rebuild import Built
from supplecast.document.state import Datum, Entry, SketchEntry
from supplecast.document.step import Step
from supplecast.document.stroke import Stroke
from supplecast.document.words import pick_words
from supplecast.errors import SuppleError
from supplecast.geometry import Box, Frame, Vec, along
from supplecast.hints import Hint
from supplecast.naming import STOPPING, EdgeRef, FaceRef, Rule, read_pick, resolve
from supplecast.quantities import Scope
from supplecast.steps.tool.stroke import stroke_of
from supplecast.store import looks, shelf
from supplecast.wire import options
from supplecast.wire.bodies import ShownBody
from supplecast.wire.reports import BuiltStep
from supplecast.wire.results import (
    BodyContact,
    BuildResult,
    DrawnDatum,
    DrawnSketch,
    LitPick,
    Pick,
    Shelved,
    SketchFrame,
)
from supplecast.wire.task import Task
from supplecast.wire.verbs import BUILD, SHELVE
from supplecast.workers.on_the_way import on_the_way
from supplecast.workers.opened import LAST, built_of
from supplecast.workers.registry import does
from supplecast.workers.shown import shown

_COLOURS = ("#D8C7A3", "#8FA9B5", "#C79A7B", "#9DAF87", "#A79BB8", "#C8B25E", "#7F9C93", "#B5837E")
_touching: dict[tuple[str, str], kernel.contact.Contact | None] = {}


@does(BUILD)
def build(task: Task, asked: options.Build) -> BuildResult:
    """Build the document: its steps' outcomes, its bodies with measures and mesh names, and its sketches."""
    began = time.perf_counter()
    document, built = built_of(task, partial(on_the_way, task))
    steps = {step.id: step for step in document.steps}
    true = built.state.bodies
    if not asked.preview and task.upto is None and task.before is None:
        LAST[document.id] = built
    spoken: dict[str, list[Hint]] = {}
    for hint in () if asked.preview else hints.heard(document, built):
        spoken.setdefault(hint.step, []).append(hint)
    used = _used_sketches(document, built)
    bodies = [
        shown(entry, task, document, asked, built.coats, stale=true.get(name) is not entry)
        for name, entry in built.state.shown().items()
    ]
    if document.kind == "assembly":
        bodies = [replace(body, look=_told_apart(body, k)) for k, body in enumerate(bodies)]
    result = BuildResult(
        document=document.id,
        ok=built.ok,
        steps=[BuiltStep.with_hints(o, steps[o.step].type, spoken.get(o.step, [])) for o in built.outcomes],
        bodies=bodies,
        called=built.state.called,
        renamed=built.state.renamed,
        sketches=[_outline(entry, name in used) for name, entry in built.state.sketches.items()],
        datums=[_drawn_datum(datum, built) for datum in built.state.datums.values()],
        lines={o.step: o.lines for o in built.outcomes if o.lines},
        contacts=[] if asked.preview else _contacts(document, built),
        taken={name: dict(entry.taken) for name, entry in built.state.sketches.items() if entry.taken},
        frames={name: _frame(entry.frame) for name, entry in built.state.sketches.items()},
        stroke=_stroke(document, built, bodies),
        picks=[lit for pick in asked.picks if (lit := _lit(pick, built, document.steps)) is not None],
        ms=round((time.perf_counter() - began) * 1000, 1),
    )
    if not asked.preview and not asked.picks:
        looks.keep(task, result)
    return result


def _stroke(document: Document, built: Built, bodies: Sequence[ShownBody]) -> Stroke | None:
    if document.kind == "assembly":
        return drawn_apart({body.id: Box(body.low, body.high) for body in bodies})
    return stroke_of(list(built.state.bodies.values())) if document.kind == "tool" else None


def _told_apart(body: ShownBody, number: int) -> Look:
    """How a body of an assembly looks: in a colour of its own, unless it was given one."""
    return body.look if body.look.colour else body.look.model_copy(update={"colour": _COLOURS[number % len(_COLOURS)]})


@does(SHELVE)
def shelve(task: Task, asked: options.Nothing) -> Shelved:
    """Put what the last build of the document made on the shelf, for workers that start anew."""
    document = json.loads(task.document)["id"]
    built = LAST.get(document)
    return Shelved(shelf.keep(built, document, Path(task.blobs)) if built else 0)


def _frame(frame: Frame) -> SketchFrame:
    return SketchFrame(frame.origin, frame.x, frame.y, frame.normal)


def _contacts(document: Document, built: Built) -> list[BodyContact]:
    """Pairs of a part's bodies, its own and linked ones, that share space, or touch along no more than an edge or a point."""
    if document.kind != "part":
        return []
    entries = [e for e in built.state.bodies.values() if e.role in ("part", "linked")]
    contacts = []
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
                contacts.append(BodyContact((first.id, second.id), (first.name, second.name), **asdict(contact)))
    return contacts


def _drawn_datum(datum: Datum, built: Built) -> DrawnDatum:
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
    return DrawnDatum(datum.id, datum.name, datum.kind, lines)


def _used_sketches(document: Document, built: Built) -> set[str]:
    """The sketches that steps build on."""
    sketches = list(built.state.sketches)
    return {name for step in document.steps if not step.skip for name in mentions(step, sketches)}


def _outline(entry: SketchEntry, used: bool) -> DrawnSketch:
    lines = [[entry.frame.point((float(x), float(y))) for x, y in curve.sampled(24)] for curve in entry.curves]
    loose = [curve.entity in entry.loose for curve in entry.curves]
    return DrawnSketch(entry.id, entry.name, lines, loose, entry.freedoms, used)


def _lit(pick: Pick, built: Built, steps: Sequence[Step]) -> LitPick | None:
    """Where a pick lies now, so that the view can light it; None where it is lost."""
    meant = read_pick(pick)
    if meant is None:
        return None
    for entry in built.state.bodies.values():
        if pick.get("body") not in (None, entry.id):
            continue
        resolution = resolve(entry.body, meant)
        if resolution.status in STOPPING:
            continue
        words = pick_words(meant, steps)
        if isinstance(meant, FaceRef) or (isinstance(meant, Rule) and meant.catches == "faces"):
            return LitPick(entry.id, pick, resolution.status, words, faces=resolution.items)
        point = _spot_of(entry, pick, resolution.items[0])
        return LitPick(entry.id, pick, resolution.status, words, edges=() if point else resolution.items, point=point)
    return None


def _spot_of(entry: Entry, pick: Pick, index: int) -> Vec | None:
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
