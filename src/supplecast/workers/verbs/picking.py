"""What was picked in the view by number: lasting references to it, and what it measures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from supplecast import kernel
from supplecast.document.model import Document
from supplecast.document.placing import left_face
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry
from supplecast.document.words import pick_words, rule_words
from supplecast.errors import SuppleError
from supplecast.naming import EdgeRef, FaceRef, Rule, offered, offered_faces, reference_edge, reference_face
from supplecast.steps.part.measure import value_words
from supplecast.wire import options
from supplecast.wire.options import PickedThing
from supplecast.wire.results import Measured, MeasuredFigure, OfferedRule, Reference, References
from supplecast.wire.task import Task
from supplecast.wire.verbs import MEASURE, REFER
from supplecast.workers.opened import built_of
from supplecast.workers.registry import does
from supplecast.workers.shown import mesh_name


@does(REFER)
def refer(task: Task, asked: options.Refer) -> References:
    """Lasting references for faces and edges picked by number in the view, with words and rules that would catch them."""
    document, built = built_of(task)
    return References([_reference(document, built, picked, asked) for picked in asked.picked])


def _reference(document: Document, built: Built, picked: PickedThing, asked: options.Refer) -> Reference:
    entry, reference, index = find(built, built.state.shown(), picked)
    solid = entry.body.solid
    if isinstance(reference, FaceRef):
        if asked.loops:
            return _loop(entry, index, reference)
        word, flat = kernel.measure.surface_word(solid, index), kernel.measure.is_flat(solid, index)
        rules = offered_faces(entry.body, index, reference) if asked.rules else []
        area = kernel.measure.face_area(solid, index)
        words = pick_words(reference, document.steps)
        return Reference(plain(reference), word, flat, area, _said(rules, document), words=words)
    place = _place_on(entry, index, reference, picked) if asked.spots else {}
    rules = offered(entry.body, index, reference) if asked.rules else []
    words = pick_words(reference, document.steps)
    return Reference(plain(reference) | place, "edge", rules=_said(rules, document), words=words)


def _said(rules: Sequence[tuple[Rule, Sequence[int]]], document: Document) -> list[OfferedRule]:
    """Rules in words, with what they catch."""
    return [OfferedRule(plain(rule), rule_words(rule, document.steps), items) for rule, items in rules]


def _loop(entry: Entry, face: int, reference: FaceRef) -> Reference:
    """The edges round a face: by rule where the face has a name of its own, else one by one."""
    if entry.body.faces_by_tag[reference.face] == (face,):
        rule = Rule(rule="outer loop", of=reference.face, body=reference.body)
        return Reference(plain(rule), "edge")
    loop = kernel.edges.outer_loop(entry.body.solid, face)
    first, *further = [plain(reference_edge(entry.body, edge, reference.body)) for edge in loop]
    return Reference(first, "edge", further=further)


@does(MEASURE)
def measure(task: Task, asked: options.Measure) -> Measured:
    """What one or two picked things measure, in words, and references to keep them by."""
    document, built = built_of(task)
    things, picks = [], []
    for picked in asked.picked:
        thing, pick = _thing(built, picked)
        things.append(thing)
        picks.append(pick)
    line = None
    if len(things) == 1:
        figures = kernel.gauge.single(things[0])
    else:
        figures, line = kernel.gauge.between(things[0], things[1])
    return Measured(picks, line, [MeasuredFigure(f.name, value_words(f, document.unit), f.value) for f in figures])


def _thing(built: Built, picked: PickedThing) -> tuple[kernel.gauge.Thing, dict[str, Any]]:
    """What was picked as a thing to measure, and its reference; an end of an edge is a corner."""
    entry, reference, index = find(built, built.state.bodies, picked)
    solid = entry.body.solid
    if isinstance(reference, FaceRef):
        return kernel.gauge.Thing(solid, face=index), plain(reference)
    place = _place_on(entry, index, reference, picked)
    if place.get("share") not in ("0 %", "100 %"):
        return kernel.gauge.Thing(edge=index, solid=solid), plain(reference)
    share, left = float(place["share"] == "100 %"), left_face(entry.body, index, reference)
    spot, _ = kernel.datums.along_edge(solid, index, share, left)
    return kernel.gauge.Thing(point=spot), plain(reference) | place


def find(built: Built, among: Mapping[str, Entry], picked: PickedThing) -> tuple[Entry, FaceRef | EdgeRef, int]:
    """A face or edge picked by number in the view: the body, a lasting reference, and the number."""
    entry = among.get(picked.body)
    if entry is None:
        raise SuppleError("The picked body is no longer there.", "Pick another.")
    if picked.mesh not in (None, mesh_name(entry)):
        raise SuppleError("The model was built anew meanwhile.", "Pick again.")
    narrow = entry.id if len(built.state.bodies) > 1 else None
    if picked.face is not None and 0 <= picked.face < entry.body.solid.face_count:
        return entry, reference_face(entry.body, picked.face, narrow), picked.face
    if picked.edge is not None and 0 <= picked.edge < entry.body.solid.number_of_edges:
        return entry, reference_edge(entry.body, picked.edge, narrow), picked.edge
    raise SuppleError("The picked face or edge is no longer there.", "Pick again.")


def plain(reference: BaseModel) -> dict[str, Any]:
    """A reference as JSON without what says nothing."""
    return reference.model_dump(mode="json", exclude_none=True, exclude_defaults=True)


def _place_on(entry: Entry, index: int, reference: EdgeRef, picked: PickedThing) -> dict[str, Any]:
    """Which point of an edge a click near a point means."""
    solid = entry.body.solid
    near = picked.point or kernel.edges.middle(solid, index)
    centre, share = kernel.datums.nearest_place(solid, index, near, left_face(entry.body, index, reference))
    return {"at": "centre"} if centre else {"share": f"{share * 100:g} %"}
