"""One worker process and the queue before it: one job at a time, so that a death never takes waiting jobs along.

The process comes from a pool of one. A pool whose idle worker is killed breaks for good; it is then replaced.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from concurrent.futures import CancelledError, wait
from concurrent.futures.process import BrokenProcessPool
from typing import Any, NamedTuple

from pebble import ProcessExpired, ProcessPool

_LOOK = 0.3  # seconds between looks at whether the pool still lives
Work = tuple[Callable[[Any], Any], Any, float]
Ending = Callable[[Any, BaseException | None], None]


class _Row(NamedTuple):
    """Work that waits for its turn."""

    name: str
    work: Work
    ended: Ending
    begun: Callable[[], None]
    later: bool


class Broken(Exception):
    """The worker died under the job."""


class Slot:
    """Hands work to its process in order. `ended` of a piece of work gets its result, or what ended it."""

    def __init__(self, make: Callable[[], ProcessPool]) -> None:
        self._make = make
        self._pool: ProcessPool | None = None
        self._waiting: deque[_Row] = deque()
        self._current: str | None = None
        self._future: Any = None
        self._cancelled: set[str] = set()
        self._changed = threading.Condition()
        self._closed = False
        self._thread = threading.Thread(target=self._loop, daemon=True)
        self._thread.start()

    def put(
        self, name: str, work: Work, ended: Ending, begun: Callable[[], None], *, first: bool = False, later: bool = False
    ) -> None:
        """Queue work under a name: before all other if it is `first`, before what is for `later` unless it is itself; `begun`
        is called when its turn comes.
        """
        row = _Row(name, work, ended, begun, later)
        with self._changed:
            place = 0 if first else len(self._waiting)
            if not first and not later:
                place = next((index for index, other in enumerate(self._waiting) if other.later), place)
            self._waiting.insert(place, row)
            self._changed.notify()

    def cancel(self, name: str) -> None:
        """Take work out of the queue, or kill the process that does it."""
        with self._changed:
            row = next((row for row in self._waiting if row.name == name), None)
            if row is not None:
                self._waiting.remove(row)
            elif self._current == name:
                self._cancelled.add(name)
                if self._future is not None:
                    self._future.cancel()
        if row is not None:
            row.ended(None, CancelledError())

    def close(self) -> None:
        with self._changed:
            self._closed = True
            self._waiting.clear()
            if self._future is not None:
                self._future.cancel()
            self._changed.notify()
        self._thread.join(10)
        self._drop_pool()

    def _drop_pool(self) -> None:
        with self._changed:  # who closes the slot and its own thread may both find the pool of no use
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.stop()
            pool.join()

    def _loop(self) -> None:
        while True:
            with self._changed:
                while not self._waiting and not self._closed:
                    self._changed.wait()
                if self._closed:
                    return
                name, work, ended, begun, _ = self._waiting.popleft()
                self._current = name
            begun()
            result, fault = self._done(name, work)
            with self._changed:
                self._current = self._future = None
                self._cancelled.discard(name)
            ended(result, fault)

    def _done(self, name: str, work: Work) -> tuple[Any, BaseException | None]:
        verb, task, deadline = work
        for _ in range(3):  # a pool can be found broken only on handing it work
            pool = self._pool = self._pool or self._make()
            try:
                future = pool.schedule(verb, args=[task], timeout=deadline)
                break
            except RuntimeError:
                self._drop_pool()
            except OSError as fault:  # no process can be begun: the queue goes on all the same
                self._drop_pool()
                return None, fault
        else:
            return None, Broken()
        with self._changed:
            self._future = future
            if name in self._cancelled:  # before there was anything to cancel
                future.cancel()
        while not future.done():
            wait([future], timeout=_LOOK)
            if not future.done() and not pool.active:
                self._drop_pool()
                return None, CancelledError() if name in self._cancelled else Broken()
        try:
            return future.result(), None
        except (ProcessExpired, BrokenProcessPool):
            self._drop_pool()
            return None, CancelledError() if name in self._cancelled else Broken()
        except Exception as fault:
            return None, fault
