"""The engine: hands jobs to worker processes, with deadlines, progress and cancel, and outlives their deaths.

Each slot is a pool of one process, so that a document pinned to it finds its shapes still alive. Newer work on a document
takes the place of older work not yet begun.
"""

from __future__ import annotations

import json
import multiprocessing
import secrets
import tempfile
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, TimeoutError
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Literal

from pebble import ProcessExpired, ProcessPool

from supplecast.errors import StoreError, SuppleError
from supplecast.workers import jobs
from supplecast.workers.jobs import Task

State = Literal["waiting", "running", "done", "failed", "cancelled", "too long", "died"]
DEADLINE = 60.0
_KEPT = 400


@dataclass
class Job:
    id: str
    document: str
    kind: str
    slot: int
    progress: Path
    future: Any = None
    state: State = "waiting"
    result: dict[str, Any] | None = None
    message: str = ""
    hint: str = ""
    began: float = field(default_factory=time.monotonic)
    ended: threading.Event = field(default_factory=threading.Event)

    def told(self) -> dict[str, Any]:
        """The job as the page sees it."""
        running = self.state in ("waiting", "running")
        return {
            "id": self.id,
            "kind": self.kind,
            "state": self.state,
            "message": self.message,
            "hint": self.hint,
            "seconds": round(time.monotonic() - self.began, 2),
            "progress": _read_progress(self.progress) if running else None,
            "result": self.result,
        }


class Engine:
    """Runs jobs in `slots` worker processes."""

    def __init__(self, slots: int = 2, deadline: float = DEADLINE) -> None:
        self.deadline = deadline
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(["supplecast.workers.warm"])
        self._pools = [ProcessPool(max_workers=1, context=self._context, initializer=jobs.start_worker) for _ in range(slots)]
        self._folder = tempfile.TemporaryDirectory(prefix="supplecast-")
        self._jobs: dict[str, Job] = {}
        self._pinned: dict[str, int] = {}
        self._lock = threading.Lock()

    def submit(self, kind: str, document: str, task: Task, deadline: float | None = None) -> Job:
        """Queue a job for the document's worker; returns at once."""
        verb: Callable[[Task], dict[str, Any]] = getattr(jobs, kind)
        with self._lock:
            slot = self._pinned.setdefault(document, len(self._pinned) % len(self._pools))
            job = Job(secrets.token_hex(8), document, kind, slot, Path(self._folder.name) / secrets.token_hex(8))
            for other in self._jobs.values():
                stale = other.document == document and other.kind == kind == "build" and other.state == "waiting"
                if stale and not other.future.running():
                    other.future.cancel()
            self._jobs[job.id] = job
            for old in list(self._jobs)[:-_KEPT]:
                if self._jobs[old].ended.is_set():
                    del self._jobs[old]
            task = replace(task, progress=str(job.progress))
            job.future = self._pools[slot].schedule(verb, args=[task], timeout=deadline or self.deadline)
        job.future.add_done_callback(lambda future: self._finish(job, future))
        return job

    def job(self, job_id: str) -> Job:
        found = self._jobs.get(job_id)
        if found is None:
            raise StoreError("That job is over and forgotten.", "Make the change again.")
        if found.state == "waiting" and found.future is not None and found.future.running():
            found.state = "running"
        return found

    def wait(self, job_id: str, seconds: float) -> Job:
        """The job, once it has ended or the seconds have passed."""
        job = self.job(job_id)
        job.ended.wait(seconds)
        return self.job(job_id)

    def cancel(self, job_id: str) -> Job:
        """Stop a job; if it is running its worker is killed and another takes its place."""
        job = self.job(job_id)
        if not job.ended.is_set():
            job.future.cancel()
        return job

    def close(self) -> None:
        for pool in self._pools:
            pool.stop()
        for pool in self._pools:
            pool.join(10)
        self._folder.cleanup()

    def _finish(self, job: Job, future: Any) -> None:
        at = _read_progress(job.progress)
        where = f" It stopped at step {at['number']}, “{at['label']}”." if at else ""
        try:
            job.result = future.result()
            job.state = "done"
        except CancelledError:
            job.state, job.message = "cancelled", "Stopped."
        except TimeoutError:
            job.state, job.message = "too long", f"This took too long and was stopped.{where}"
            job.hint = "The last good shape stays. Change the step and try again."
        except ProcessExpired:
            job.state, job.message = "died", f"The geometry worker broke down and was replaced.{where}"
            job.hint = "The last good shape stays. Change the step and try again."
        except SuppleError as fault:
            job.state, job.message, job.hint = "failed", fault.message, fault.hint
        except Exception as fault:
            job.state, job.message = "failed", f"Something went wrong inside: {type(fault).__name__}: {fault}.{where}"
            job.hint = "The last good shape stays. Undo the last change."
        finally:
            job.ended.set()
            job.progress.unlink(missing_ok=True)


def _read_progress(path: Path) -> dict[str, Any] | None:
    try:
        found = json.loads(path.read_text())
    except (OSError, ValueError):
        return None
    return dict(found)
