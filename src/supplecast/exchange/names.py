"""What can be said of a body in a document: its faces and edges by their lasting references, with kind, size and place."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from supplecast import kernel
from supplecast.document.model import Document
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry
from supplecast.document.words import pick_words
from supplecast.geometry import Vec
from supplecast.naming import EdgeRef, FaceRef
from supplecast.naming.reference import reference_edge, reference_face


@dataclass(frozen=True)
class NamedPlace:
    """A face or an edge: the reference to it as it stands in a document, what the sheet calls it, its kind, its area in mm² or
    length in mm, and its middle.
    """

    reference: dict[str, Any]
    words: str
    kind: str
    size: float
    middle: Vec


@dataclass(frozen=True)
class NamedBody:
    id: str
    name: str
    role: str
    low: Vec
    high: Vec
    faces: list[NamedPlace]
    edges: list[NamedPlace]


def names(document: Document, built: Built) -> list[dict[str, Any]]:
    """Every body of a built document, as JSON."""
    return [asdict(_body(entry, document)) for entry in built.state.bodies.values()]


def _body(entry: Entry, document: Document) -> NamedBody:
    body, solid = entry.body, entry.body.solid
    box = kernel.measure.box(solid)
    measure, lines = kernel.measure, kernel.edges
    faces = [
        _place(
            reference_face(body, index, entry.id),
            document,
            measure.surface_word(solid, index),
            measure.face_area(solid, index),
            measure.face_middle(solid, index),
        )
        for index in range(solid.face_count)
    ]
    edges = [
        _place(
            reference_edge(body, index, entry.id),
            document,
            _edge_word(solid, index),
            lines.length(solid, index),
            lines.middle(solid, index),
        )
        for index in range(solid.number_of_edges)
        if not solid.degenerate_edges[index]
    ]
    return NamedBody(entry.id, entry.name, entry.role, box.low, box.high, faces, edges)


def _place(reference: FaceRef | EdgeRef, document: Document, kind: str, size: float, middle: Vec) -> NamedPlace:
    data = reference.model_dump(mode="json", exclude_none=True, exclude_defaults=True)
    x, y, z = (round(c, 6) + 0.0 for c in middle)
    return NamedPlace(data, pick_words(reference, document.steps), kind, round(size, 6), (x, y, z))


def _edge_word(solid: kernel.shape.Solid, index: int) -> str:
    if kernel.edges.line(solid, index) is not None:
        return "straight"
    return "free" if kernel.edges.radius(solid, index) is None else "round"
