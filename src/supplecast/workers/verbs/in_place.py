"""What stands around a part in an assembly, told as the part itself would tell it."""

from __future__ import annotations

from functools import partial

import numpy as np

from supplecast import kernel
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.document.state import Entry
from supplecast.errors import SuppleError
from supplecast.geometry import Floats
from supplecast.wire import options
from supplecast.wire.results import Placed, PlacedBody
from supplecast.wire.task import Task
from supplecast.wire.verbs import IN_PLACE
from supplecast.workers.opened import opened, tell
from supplecast.workers.registry import does

_DIGITS = 12


@does(IN_PLACE)
def in_place(task: Task, asked: options.InPlace) -> Placed:
    """The part that a body of an assembly is, and where the other bodies stand around it, in the part's own coordinates."""
    document, project = opened(task)
    built = project.build(document.id, progress=partial(tell, task))
    entry = built.state.bodies.get(asked.body)
    if entry is None:
        raise SuppleError("The body is no longer there.", "Reload the page.")
    here = _placed(document, project, entry)
    if here is None:
        words = f"{entry.name} was changed in the assembly, or mirrored: it is no longer the part as it was linked."
        raise SuppleError(words, "Open the part's own document.")
    pick, matrix = here
    home = np.linalg.inv(_square(matrix))
    around, left = [], []
    for other in built.state.bodies.values():
        if other.id == entry.id:
            continue
        there = _placed(document, project, other)
        rows = None if there is None else (home @ _square(there[1]))[:3]
        if there is None or rows is None or (there[0].document == pick.document and not _stays(rows)):
            left.append(other.name)
        elif there[0].document != pick.document:  # what lies where it does in the part itself is there already
            around.append(PlacedBody(there[0], (rows.reshape(-1).round(_DIGITS) + 0.0).tolist()))
    return Placed(pick.document, around, left)


def _stays(rows: Floats) -> bool:
    return bool(np.abs(rows - np.eye(4)[:3]).max() < 1e-9)


def _square(matrix: Floats) -> Floats:
    return np.vstack([matrix, [0.0, 0.0, 0.0, 1.0]])


def _placed(document: Document, project: Project, entry: Entry) -> tuple[LinkPick, Floats] | None:
    """The body of another document that one of an assembly is, and how it was carried to its place; None if it is none."""
    for step in document.steps:
        mark = f"{step.id}.of{{"
        for pick in step.links:
            if step.skip or not all(any(mark in tag for tag in tags) for tags in entry.body.tags):
                continue
            for source in project.linked(pick):
                if source.body.solid.face_count != entry.body.solid.face_count:
                    continue
                matrix = kernel.move.between(source.body.solid, entry.body.solid)
                if matrix is not None:
                    return LinkPick(document=pick.document, body=source.id), matrix
    return None
