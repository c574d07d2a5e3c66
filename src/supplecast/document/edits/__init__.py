"""Edits of a document: each is a model with the fields that say what, and `on`, which gives the edited document and the words
that history keeps.

A new edit is one class in one module here; the union of all of them is made from the classes themselves.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterator, Sequence
from functools import cache
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from supplecast.document.fields import LinkPick
from supplecast.document.model import Document, unreadable


class Edit(BaseModel):
    """An edit; a subclass sets `op` to the Literal of its name."""

    model_config = ConfigDict(extra="forbid")

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        """The edited document and what changed, in words; `parts` are those of the project that it may link.

        DocumentError if it cannot be done.
        """
        raise NotImplementedError


@cache
def adapter() -> TypeAdapter[Edit]:
    """Reads any edit, told apart by its `op`."""
    for module in pkgutil.iter_modules(__path__):
        importlib.import_module(f"{__name__}.{module.name}")
    union: Any = None
    for kind in _kinds(Edit):
        if "op" in kind.model_fields:
            union = kind if union is None else union | kind
    return TypeAdapter(Annotated[union, Field(discriminator="op")])


def _kinds(kind: type[Edit]) -> Iterator[type[Edit]]:
    for inner in kind.__subclasses__():
        yield inner
        yield from _kinds(inner)


def read_edit(data: Any) -> Edit:
    """An edit from its JSON. DocumentError with the path to the fault."""
    try:
        return adapter().validate_python(data)
    except ValidationError as fault:
        raise unreadable(fault, "edit") from fault


def apply(document: Document, edit: Edit, parts: Sequence[LinkPick] = ()) -> tuple[Document, str]:
    """The edited document and what changed, in words. DocumentError if it cannot be done."""
    return edit.on(document, parts)
