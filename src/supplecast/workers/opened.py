"""Documents opened in a worker: built with all it remembers, its progress told."""

from __future__ import annotations

import contextlib
import gc
import json
import resource
import signal
from collections.abc import Callable
from dataclasses import asdict
from functools import partial
from pathlib import Path

from supplecast import kernel
from supplecast.atomic import write_atomically
from supplecast.document.model import Document, known_document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, Seen
from supplecast.document.step import load_steps
from supplecast.parent import end_with_parent
from supplecast.store import shelf
from supplecast.wire.task import Progress, Task
from supplecast.workers.registry import load

_MOST_RESIDENT = 1.5 * 1024**3
MEMORIES: dict[str, Memory] = {}
"""What is remembered of the documents built here, by their ids."""
LAST: dict[str, Built] = {}
"""What the last whole build of each document came to."""


def start_worker(ceiling: int, more: tuple[str, ...]) -> None:
    """Run once in each new worker; `ceiling` is the most memory it may ask for, in bytes, `more` further modules with verbs."""
    load_steps()
    for module in more:
        load(module)
    resource.setrlimit(resource.RLIMIT_AS, (ceiling, ceiling))
    # A handler in Python would never run while the kernel hangs: the worker would outlive its deadline by seconds.
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    end_with_parent()


def opened(task: Task) -> tuple[Document, Project]:
    """The document of a task as far as it asks for, and the project it belongs to."""
    document = known_document(task.document)
    if task.before is not None:
        document = document.model_copy(update={"steps": document.steps[: document.position(task.before)]})
    elif task.upto is not None:
        document = document.model_copy(update={"steps": document.steps[: document.position(task.upto) + 1]})
    revisions: dict[tuple[str, int | None], Document] = {key: known_document(text) for key, text in task.linked.items()}
    revisions[(document.id, None)] = document
    _tidy()
    recall = partial(shelf.recall, blobs=Path(task.blobs))
    return document, Project(revisions, Path(task.assets), MEMORIES, recall, task.stuck)


def built_of(task: Task, seen: Callable[[Document], Seen] | None = None) -> tuple[Document, Built]:
    """The document of a task, built; `seen` makes what is told of each step that has been built."""
    document, project = opened(task)
    on_the_way = seen(document) if seen else None
    return document, project.build(document.id, progress=partial(tell, task), seen=on_the_way)


class LetGoError(Exception):
    """Nobody wants any more what was asked for; what has been built stays remembered."""


def let_go(task: Task) -> None:
    """Ask the worker to end a task at its next step."""
    with contextlib.suppress(OSError):
        _ending(task).touch()


def forget(task: Task) -> None:
    """Clear away what `let_go` has left."""
    _ending(task).unlink(missing_ok=True)


def _ending(task: Task) -> Path:
    return Path(f"{task.progress}.end")


def tell(task: Task, number: int, of: int, label: str, step: str) -> None:
    """Let the engine know which step the work is at. LetGoError where it wants no more of it."""
    if _ending(task).exists():
        raise LetGoError
    with contextlib.suppress(OSError):  # no build fails because its progress cannot be told
        write_atomically(Path(task.progress), json.dumps(asdict(Progress(number, of, label, step))).encode())


def _tidy() -> None:
    """Forget live shapes once they take too much room: they come back from the shelf when they are wanted."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    if pages * resource.getpagesize() > _MOST_RESIDENT:
        MEMORIES.clear()
        LAST.clear()
        for module in (kernel.integrate, kernel.soundness, kernel.facing):
            module.forget()
        gc.collect()
