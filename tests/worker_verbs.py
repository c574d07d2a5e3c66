"""Verbs that only tests need, for an engine made with `more=("tests.worker_verbs",)`."""

from __future__ import annotations

import errno
import os
import time
from collections.abc import Sequence
from dataclasses import dataclass

from supplecast import kernel
from supplecast.wire.options import Nothing
from supplecast.wire.task import Task
from supplecast.wire.verbs import Verb
from supplecast.workers.opened import built_of
from supplecast.workers.registry import does


@dataclass(frozen=True)
class Seconds:
    seconds: float


@dataclass(frozen=True)
class Verified:
    """What is wrong that the build did not say, and the type and status of each step."""

    wrong: Sequence[str]
    steps: Sequence[tuple[str, str]]


DIE = Verb("die", Nothing, Nothing)
SLEEP = Verb("sleep", Seconds, Nothing)
FILL = Verb("fill", Nothing, Nothing)
VERIFY = Verb("verify", Nothing, Verified)


@does(DIE)
def die(task: Task, asked: Nothing) -> Nothing:
    """Crash as a kernel fault would."""
    os.abort()


@does(SLEEP)
def sleep(task: Task, asked: Seconds) -> Nothing:
    """Hold the worker for a while."""
    time.sleep(asked.seconds)
    return Nothing()


@does(FILL)
def fill(task: Task, asked: Nothing) -> Nothing:
    """Find the disk full."""
    raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC), str(task.blobs))


@does(VERIFY)
def verify(task: Task, asked: Nothing) -> Verified:
    """Build, and look at every body again by other means."""
    document, built = built_of(task)
    wrong = [f"{o.step}: {o.message}" for o in built.outcomes if "kernel gave up" in o.message]
    for entry in built.state.bodies.values():
        if entry.role != "surface":
            wrong += [f"{entry.id}: {words}" for words in kernel.check.faults(entry.body.solid)]
        if any("?" in tag for tags in entry.body.tags for tag in tags):
            wrong.append(f"{entry.id}: a face without history")
    return Verified(wrong, [(document.step(o.step).type, o.status) for o in built.outcomes])
