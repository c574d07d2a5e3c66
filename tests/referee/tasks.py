"""Tasks for a worker's verbs, run here."""

from __future__ import annotations

from pathlib import Path

from supplecast.document.model import Document
from supplecast.wire.task import Task


def task(document: Document, folder: Path) -> Task:
    """A document that links to no other; what is written goes to `folder`."""
    return Task(document.to_json(), {}, str(folder), str(folder), str(folder / "progress"))
