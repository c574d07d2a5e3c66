"""What is shown while a part is being built: its bodies as soon as the first step that changed is there, and now and then."""

from __future__ import annotations

import time

from supplecast.document.model import Document
from supplecast.document.rebuild import Seen
from supplecast.document.state import State
from supplecast.wire.options import Build
from supplecast.wire.results import OnTheWay
from supplecast.wire.task import Task
from supplecast.workers import glimpse
from supplecast.workers.shown import shown

_BETWEEN = 1.5  # s: meshes on the way make what follows slower, by a third when shown twice as often


def on_the_way(task: Task, document: Document) -> Seen:
    """What is told of each step that has been built. Of tools nothing: they are many bodies, and few numbers are tried."""
    last = -_BETWEEN
    preview = Build(preview=True)

    def seen(number: int, of: int, state: State) -> None:
        nonlocal last
        if document.kind != "part" or number == of or not state.bodies or time.perf_counter() - last < _BETWEEN:
            return
        bodies = [shown(entry, task, document, preview, state.coats) for entry in state.bodies.values()]
        glimpse.show(task, OnTheWay(number, bodies))
        last = time.perf_counter()

    return seen
