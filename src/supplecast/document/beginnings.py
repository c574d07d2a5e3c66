"""Beginnings of an empty part: a box with a wall, or a copy of another part."""

from __future__ import annotations

from typing import Any

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.errors import DocumentError


def _must_be_empty(document: Document) -> None:
    if document.steps or document.kind != "part":
        raise DocumentError("This sheet has steps already.", "Begin a new part, or add a step at its end.")


def box(document: Document) -> Document:
    """A drafted box with round uprights and a wall, open above: each number of it can be typed over."""
    _must_be_empty(document)
    document = _added(document, "sketch", draw=[{"kind": "rectangle", "width": "80 mm", "height": "50 mm"}])
    document = _added(document, "extrude", distance="25 mm", direction="down", draft="1.5")
    solid = document.steps[-1].id
    document = _added(document, "fillet", radius="8 mm", edges=[{"rule": "uprights", "of": solid}])
    return _added(document, "shell", wall="2 mm", open=[{"face": f"{solid}.start"}])


def _added(document: Document, kind: str, **values: Any) -> Document:
    changed, _ = apply(document, read_edit({"op": "add", "type": kind, "values": values}))
    return changed


def copied(document: Document, source: Document) -> Document:
    """The steps, values and looks of another part."""
    _must_be_empty(document)
    taken = ("unit", "resin", "grade", "values", "looks", "pull", "texture", "gate", "cuts", "steps")
    return document.altered(**{name: getattr(source, name) for name in taken})
