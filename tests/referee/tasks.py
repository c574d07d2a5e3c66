"""Tasks for a worker's verbs, run here."""

from __future__ import annotations

from pathlib import Path

from supplecast.document.model import Document
from supplecast.wire.task import Task


def task(document: Document, folder: Path, *linked: Document) -> Task:
    """A document with those it links; what is written goes to `folder`."""
    others = {(other.id, None): other.to_json() for other in linked}
    return Task(document.to_json(), others, str(folder), str(folder), str(folder / "progress"))
