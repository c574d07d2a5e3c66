"""What pages and API share: the library, the engine, and the making of tasks for workers."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator

from flask import current_app

from supplecast.document.fields import LinkPick
from supplecast.document.model import Document
from supplecast.errors import BusyError, StoreError, SuppleError
from supplecast.store.library import Library
from supplecast.web import habits
from supplecast.web.answers import KeptArt
from supplecast.web.sheet import Around
from supplecast.web.spoken import spoken
from supplecast.wire import options
from supplecast.wire.results import BuildResult
from supplecast.wire.task import Task
from supplecast.wire.verbs import CHECK_FILE, CHECK_PICTURE
from supplecast.workers.engine import Engine, Job


def library() -> Library:
    held = current_app.config["LIBRARY"]
    assert isinstance(held, Library)
    return held


def engine() -> Engine:
    held = current_app.config["ENGINE"]
    assert isinstance(held, Engine)
    return held


_WAITING = threading.BoundedSemaphore(8)
"""How many threads may wait for workers at once: the others go on answering."""


@contextlib.contextmanager
def waiting() -> Iterator[bool]:
    """A place among those who wait for a worker; False if all are taken."""
    may = _WAITING.acquire(blocking=False)
    try:
        yield may
    finally:
        if may:
            _WAITING.release()


def task(document: Document, *, upto: str | None = None, before: str | None = None) -> Task:
    """A worker's task on a document of the library."""
    return task_in(library(), document, upto=upto, before=before)


def task_in(kept: Library, document: Document, *, upto: str | None = None, before: str | None = None) -> Task:
    """A worker's task on a document, with every document it links, as far down as links go."""
    linked: dict[tuple[str, int | None], str] = {}
    waiting = [document]
    while waiting:
        for pick in waiting.pop().links:
            key = (pick.document, pick.revision)
            if key in linked or pick.document == document.id:
                continue
            try:
                other = (
                    kept.head(pick.document).document if pick.revision is None else kept.revision(pick.document, pick.revision)
                )
            except StoreError:
                continue  # the link step itself says that its document is not at hand
            linked[key] = other.to_json()
            waiting.append(other)
    return Task(document.to_json(), linked, str(kept.assets), str(kept.blobs), upto=upto, before=before)


def parts_beside(document: Document) -> list[LinkPick]:
    """The other parts of a document's project, each at its newest revision."""
    card = library().document(document.id)
    beside = library().project(card.project).documents
    return [LinkPick(document=d.id, revision=d.head) for d in beside if d.kind == "part" and d.id != document.id]


def keep_bodies_file(name: str, content: bytes) -> dict[str, str]:
    """Keep a file of bodies and give the values of the step that imports it. A worker reads it first, to refuse broken ones."""
    with waiting() as may:
        if not may:
            raise BusyError("Too many files are being read just now.", "Wait a little, then bring the file in again.")
        path = engine().brought(content)
        job = engine().submit(CHECK_FILE, path.name, task(Document()), options.ReadFile(str(path)), brought=path)
        job = engine().wait(job.id, 90)
    if job.state != "done":
        raise SuppleError(job.message or "Reading this file takes too long.", job.hint or "Try a smaller file.")
    taken = job.result.taken if job.result else "as filed"
    return {"type": "import", "file": name[:200], "asset": library().add_asset(name, content), "taken": taken}


def keep_picture(name: str, content: bytes) -> KeptArt:
    """Keep a picture to be printed. A worker reads it first, to refuse broken ones."""
    with waiting() as may:
        if not may:
            raise BusyError("Too many files are being read just now.", "Wait a little, then choose the picture again.")
        path = engine().brought(content)
        job = engine().submit(CHECK_PICTURE, path.name, task(Document()), options.ReadFile(str(path)), brought=path)
        job = engine().wait(job.id, 60)
    if job.state != "done":
        raise SuppleError(job.message or "Reading this picture takes too long.", job.hint or "Save it smaller.")
    return KeptArt(name[:200], library().add_asset(name, content))


def unit_of(document_id: str) -> str:
    """The unit of a document; mm of what is none."""
    try:
        return library().head(document_id).document.unit
    except StoreError:
        return "mm"


def around(document: Document, job: Job[BuildResult] | None = None) -> Around:
    """What the sheet knows of the world, with the outcome of a build if there is one."""
    card = library().document(document.id)
    siblings = library().project(card.project).documents
    result = spoken(job.result, habits.voice(document.unit)) if job is not None else None
    if result is None:
        return Around(documents=siblings)
    return Around(
        bodies=tuple((body.id, body.name) for body in result.bodies),
        called=result.called,
        renamed=tuple(result.renamed),
        documents=siblings,
        outcomes={step.id: step for step in result.steps},
    )
