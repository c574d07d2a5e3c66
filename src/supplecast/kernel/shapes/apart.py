"""Work in a process of its own, that may be ended: calls of the kernel that never return, or bring their process down."""

from __future__ import annotations

import os
import pickle
import select
import signal
import time
from collections.abc import Callable
from typing import TypeVar

from supplecast.errors import KernelError
from supplecast.kernel.shapes.blob import packed, unpacked
from supplecast.kernel.shapes.history import Made, Row
from supplecast.kernel.shapes.shape import Solid
from supplecast.parent import end_with_parent

T = TypeVar("T")
_alone = False


def alone() -> bool:
    """Whether this process was forked for one call: the threads that the kernel shares work among are not there then."""
    return _alone


def made(call: Callable[[], Made], seconds: float, doing: str) -> Made:
    """What a verb makes, tried for so many seconds. KernelError of its own, or one that says that it did not end."""
    shape, origins = answer(lambda: _plain(call()), seconds, doing)
    return Made(Solid(unpacked(shape)), origins)


def _plain(result: Made) -> tuple[bytes, tuple[Row, ...]]:
    return packed(result.solid), result.origins


def answer(call: Callable[[], T], seconds: float, doing: str) -> T:
    """What a call answers, which must be plain data, within so many seconds.

    KernelError of the call, or one that says that `doing` took too long or brought the kernel down. In a process that was
    forked itself the call is simply made.
    """
    if _alone:
        return call()
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(reading)
        _answer(call, writing)
    os.close(writing)
    try:
        content = _read(reading, time.monotonic() + seconds)
    finally:
        os.close(reading)
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
    if content is None:
        raise KernelError(f"{doing.capitalize()} took longer than {seconds:g} s and was given up.", "Try other sizes or faces.")
    if not content:
        raise KernelError(f"The geometry kernel broke down at {doing}.", "Try other sizes or faces.")
    good, result = pickle.loads(content)
    if not good:
        raise result
    return result  # type: ignore[no-any-return]


def _answer(call: Callable[[], object], writing: int) -> None:
    """The child's whole life."""
    global _alone
    _alone = True
    end_with_parent()
    try:
        try:
            content = pickle.dumps((True, call()))
        except KernelError as fault:
            content = pickle.dumps((False, fault))
        with os.fdopen(writing, "wb") as stream:
            stream.write(content)
    finally:
        os._exit(0)


def _read(reading: int, deadline: float) -> bytes | None:
    """All that comes through a pipe; None if it does not end in time."""
    parts: list[bytes] = []
    while (left := deadline - time.monotonic()) > 0:
        if not select.select([reading], [], [], left)[0]:
            break
        part = os.read(reading, 1 << 20)
        if not part:
            return b"".join(parts)
        parts.append(part)
    return None
