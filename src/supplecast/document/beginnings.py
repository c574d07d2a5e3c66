"""Beginnings of an empty part: a box with a wall, or a copy of another part."""

from __future__ import annotations

from typing import Any

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.errors import DocumentError

_BOX: tuple[dict[str, Any], ...] = (
    {"type": "sketch", "values": {"draw": [{"kind": "rectangle", "width": "80 mm", "height": "50 mm"}]}},
    {"type": "extrude", "values": {"distance": "25 mm", "direction": "down", "draft": "1.5"}},
    {"type": "fillet", "values": {"radius": "8 mm"}},
    {"type": "shell", "values": {"wall": "2 mm"}},
)


def _must_be_empty(document: Document) -> None:
    if document.steps or document.kind != "part":
        raise DocumentError("This sheet has steps already.", "Begin a new part, or add a step at its end.")


def box(document: Document) -> Document:
    """A drafted box with round uprights and a wall, open above: each number of it can be typed over."""
    _must_be_empty(document)
    for step in _BOX:
        values = dict(step["values"])
        solid = next((s.id for s in document.steps if s.type == "extrude"), "")
        if step["type"] == "fillet":
            values["edges"] = [{"rule": "uprights", "of": solid}]
        if step["type"] == "shell":
            values["open"] = [{"face": f"{solid}.start"}]
        document, _ = apply(document, read_edit({"op": "add", "type": step["type"], "values": values}))
    return document


def copied(document: Document, source: Document) -> Document:
    """The steps, values and looks of another part."""
    _must_be_empty(document)
    taken = ("unit", "resin", "grade", "values", "looks", "pull", "texture", "gate", "cuts", "steps")
    return document.altered(**{name: getattr(source, name) for name in taken})
