"""A glimpse of a build that is under way, beside its progress: written by the worker, read by the page."""

from __future__ import annotations

import contextlib
from functools import cache
from pathlib import Path

from pydantic import TypeAdapter

from supplecast.atomic import write_atomically
from supplecast.wire.results import OnTheWay
from supplecast.wire.task import Task


def show(task: Task, glimpse: OnTheWay) -> None:
    """Let it be seen."""
    with contextlib.suppress(OSError):  # no build fails because it cannot be watched
        write_atomically(_place(task), _adapter().dump_json(glimpse))


def read(task: Task) -> OnTheWay | None:
    """What is there to be seen now; None if nothing is."""
    try:
        return _adapter().validate_json(_place(task).read_bytes())
    except (OSError, ValueError):
        return None


def clear(task: Task) -> None:
    """Nothing is to be seen any more."""
    _place(task).unlink(missing_ok=True)


def _place(task: Task) -> Path:
    return Path(f"{task.progress}.seen")


@cache
def _adapter() -> TypeAdapter[OnTheWay]:
    return TypeAdapter(OnTheWay)
