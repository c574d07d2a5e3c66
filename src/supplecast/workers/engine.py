"""The engine: hands jobs to worker processes, with deadlines, progress and cancel, and outlives their deaths.

A document is pinned to one slot, so that its shapes are found still alive. Newer work on a document takes the place of older
work not yet begun. What is only advice runs aside, in a slot of its own, and gives way to builds; files are read and written
in another, so that no build waits for them. So much may wait and no more: who asks for further work is told so. A worker that
dies is given the same work once more; if it dies again, or takes too long, the step it was at is remembered as stuck, so that
the next build goes round it.
"""

from __future__ import annotations

import json
import multiprocessing
import secrets
import tempfile
import threading
import time
from concurrent.futures import CancelledError, TimeoutError
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Generic, Literal, TypeVar

from pebble import ProcessPool

from supplecast.atomic import is_full, write_atomically
from supplecast.errors import BusyError, StoreError, SuppleError
from supplecast.wire import options
from supplecast.wire.results import OnTheWay
from supplecast.wire.task import Progress, Task
from supplecast.wire.verbs import BUILD, SHELVE, Verb
from supplecast.workers import glimpse, opened, registry
from supplecast.workers.failure_memory import FailureMemory
from supplecast.workers.slot import Broken, Slot

A = TypeVar("A")
R = TypeVar("R")

State = Literal["waiting", "running", "done", "failed", "cancelled", "too long", "died"]
DEADLINE = 60.0
MEMORY_CEILING = 6 * 1024**3
_KEPT = 400
_MOST_WAITING = 40


@dataclass
class Job(Generic[R]):
    """A verb asked of a document. `at` is the step it was at when it ended."""

    id: str
    document: str
    verb: Verb[Any, R]
    slot: Slot
    task: Task
    options: Any
    deadline: float
    state: State = "waiting"
    result: R | None = None
    message: str = ""
    hint: str = ""
    at: Progress | None = None
    tries: int = 0
    brought: Path | None = None
    began: float = field(default_factory=time.monotonic)
    ended: threading.Event = field(default_factory=threading.Event)

    @property
    def running(self) -> bool:
        return self.state in ("waiting", "running")

    @property
    def seconds(self) -> float:
        """How long it has been under way."""
        return round(time.monotonic() - self.began, 2)

    @property
    def progress(self) -> Progress | None:
        """The step it is at, or at which it ended."""
        return read_progress(self.task.progress) if self.running else self.at

    @property
    def seen(self) -> OnTheWay | None:
        """What it has come to so far, while it runs."""
        return glimpse.read(self.task) if self.running and self.verb is BUILD else None


class Engine:
    """Runs jobs in `slots` worker processes, one aside and one for files; no worker may take more than `ceiling` bytes. `more`
    are modules with further verbs.
    """

    def __init__(
        self, slots: int = 2, deadline: float = DEADLINE, ceiling: int = MEMORY_CEILING, more: tuple[str, ...] = ()
    ) -> None:
        self.deadline = deadline
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(["supplecast.workers.warm"])

        def pool() -> ProcessPool:
            return ProcessPool(max_workers=1, context=context, initializer=opened.start_worker, initargs=[ceiling, more])

        self._slots = [Slot(pool) for _ in range(slots)]
        self._rooms = {"aside": Slot(pool), "files": Slot(pool)}
        self._temporary = tempfile.TemporaryDirectory(prefix="supplecast-jobs-")
        self.folder = Path(self._temporary.name)
        self._jobs: dict[str, Job[Any]] = {}
        self._pinned: dict[str, int] = {}
        self._stuck = FailureMemory()
        self._lock = threading.RLock()
        self._closed = False

    def brought(self, content: bytes) -> Path:
        """A file for a worker to read, kept as long as the job that is handed it."""
        path = self.folder / f"{secrets.token_hex(8)}.file"
        write_atomically(path, content)
        return path

    def submit(
        self, verb: Verb[A, R], document: str, task: Task, asked: A, deadline: float | None = None, brought: Path | None = None
    ) -> Job[R]:
        """Queue a job for the document's worker; returns at once. A file that was `brought` along is removed when it has ended.
        BusyError where too much waits already, but for the build of what was kept.
        """
        with self._lock:
            pinned = self._pinned.setdefault(document, len(self._pinned) % len(self._slots))
            slot = self._rooms.get(verb.room, self._slots[pinned])
            if verb not in (BUILD, SHELVE):
                self._refuse_crowd(slot)
            stuck = self._stuck.known(document, task.document)
            task = replace(task, progress=str(self.folder / secrets.token_hex(8)), stuck=stuck)
            limit = deadline or verb.deadline or self.deadline
            job = Job(secrets.token_hex(8), document, verb, slot, task, asked, limit, brought=brought)
            mine = [other for other in self._jobs.values() if verb is BUILD and other.document == document]
            outdated = [other for other in mine if _is_outdated(other)]
            tried = [o for o in mine if o.verb is BUILD and o.state == "running" and o.options.preview]
            self._jobs[job.id] = job
            for old in list(self._jobs)[:-_KEPT]:
                if self._jobs[old].ended.is_set():
                    del self._jobs[old]
        for other in outdated:
            self.cancel(other.id)
        for other in tried:  # its worker is not killed: what it has built so far is of use to this one
            opened.let_go(other.task)
        shelving = self._shelving(document) if verb.room != "own" else None
        if shelving is None:
            self._queue(job)
        else:  # what the build made can then be taken from the shelf
            threading.Thread(target=self._queue_after, args=(job, shelving), daemon=True).start()
        return job

    def _refuse_crowd(self, slot: Slot) -> None:
        waiting = sum(job.slot is slot and job.state == "waiting" for job in self._jobs.values())
        if waiting >= _MOST_WAITING:
            raise BusyError(f"{waiting} tasks wait already; no more are taken.", "Wait until some of them are done.")

    def _shelving(self, document: str) -> Job[Any] | None:
        """The work that is putting a document's shapes on the shelf just now."""
        with self._lock:
            jobs_now = [job for job in self._jobs.values() if job.verb is SHELVE and job.document == document and job.running]
        return jobs_now[-1] if jobs_now else None

    def _queue_after(self, job: Job[Any], first: Job[Any]) -> None:
        first.ended.wait(self.deadline)
        with self._lock:
            if not job.ended.is_set() and not self._closed:
                self._queue(job)

    def _queue(self, job: Job[Any], *, again: bool = False) -> None:
        job.tries += 1

        def begun() -> None:
            job.state = "running"

        work = (registry.work, (job.verb.name, job.task, job.options), job.deadline)
        job.slot.put(
            job.id, work, lambda result, fault: self._finish(job, result, fault), begun, first=again, later=job.verb.later
        )

    def _is_replaced(self, job: Job[Any]) -> bool:
        """Whether a newer build of the same document waits, so that this one need not be done again."""
        with self._lock:
            newest = [other for other in self._jobs.values() if other.document == job.document and other.verb is BUILD]
        return job.verb is BUILD and newest[-1] is not job

    def job(self, job_id: str) -> Job[Any]:
        job = self._jobs.get(job_id)
        if job is None:
            raise StoreError("That job is over and forgotten.", "Make the change again.")
        return job

    def wait(self, job_id: str, seconds: float) -> Job[Any]:
        """The job, once it has ended or the seconds have passed."""
        job = self.job(job_id)
        job.ended.wait(seconds)
        return job

    def cancel(self, job_id: str) -> Job[Any]:
        """Stop a job; if it is running its worker is killed and another takes its place."""
        job = self.job(job_id)
        with self._lock:
            if job.tries == 0:  # it is not even queued
                self._finish(job, None, CancelledError())
        job.slot.cancel(job.id)
        return job

    def close(self) -> None:
        self._closed = True
        for slot in (*self._slots, *self._rooms.values()):
            slot.close()
        self._temporary.cleanup()

    def _finish(self, job: Job[Any], result: Any, fault: BaseException | None) -> None:
        job.at = read_progress(job.task.progress)
        where = ""
        if job.at:
            where = f" It stopped at step {job.at.number}, “{job.at.label}”." if job.at.number else ""
        match fault:
            case None:
                job.state, job.result = "done", result
            case CancelledError() | opened.LetGoError():
                job.state, job.message = "cancelled", "Stopped."
            case TimeoutError():
                job.state, job.message = "too long", f"This took too long and was stopped.{where}"
            case Broken() if self._is_replaced(job):
                job.state, job.message = "cancelled", "Stopped."
            case Broken() if job.tries == 1 and not self._closed:
                self._queue(job, again=True)
                return
            case Broken():
                job.state, job.message = "died", f"The geometry worker broke down and was replaced.{where}"
            case MemoryError():
                job.state, job.message = "died", f"This took more memory than a worker may have.{where}"
            case OSError() if is_full(fault):
                job.state, job.message, job.hint = (
                    "failed",
                    "The disk is full; nothing was written.",
                    "Make room, then try again.",
                )
            case SuppleError():
                job.state, job.message, job.hint = "failed", fault.message, fault.hint
            case _:
                job.state, job.message = "failed", f"Something went wrong inside: {type(fault).__name__}: {fault}.{where}"
                job.hint = "The last good shape stays. Undo the last change."
        if job.state in ("too long", "died"):
            job.hint = "The last good shape stays. Change that step and try again."
            self._stuck.note(job.document, job.task.document, job.at, job.state)
        glimpse.clear(job.task)
        opened.forget(job.task)
        for spent in (Path(job.task.progress), job.brought):
            if spent is not None:
                spent.unlink(missing_ok=True)
        if job.verb is BUILD and job.state == "done" and not job.options.preview and not self._closed:
            self.submit(SHELVE, job.document, job.task, options.Nothing())
        job.ended.set()


def _is_outdated(job: Job[Any]) -> bool:
    """Builds not yet begun, and all advice, are pointless once there is a newer build of the same document."""
    waits = job.verb is BUILD and job.state == "waiting"
    return not job.ended.is_set() and (waits or job.verb.advice)


def read_progress(path: str) -> Progress | None:
    """What a worker told last; None if it has told nothing."""
    try:
        return Progress(**json.loads(Path(path).read_text()))
    except (OSError, ValueError):
        return None
