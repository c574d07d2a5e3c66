"""How much of a build goes into names: the time in reading the kernel's history and in making tags."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from supplecast.kernel import blend, boolean, history
from supplecast.naming import body


class Clock:
    """Adds up the time spent inside the functions it is put round; what they call of each other counts once."""

    def __init__(self) -> None:
        self.seconds = 0.0
        self._depth = 0

    def round(self, function: Callable[..., Any]) -> Callable[..., Any]:
        def timed(*args: Any, **kwargs: Any) -> Any:
            if self._depth:
                return function(*args, **kwargs)
            self._depth = 1
            began = time.perf_counter()
            try:
                return function(*args, **kwargs)
            finally:
                self.seconds += time.perf_counter() - began
                self._depth = 0

        return timed


@contextmanager
def measured() -> Iterator[Clock]:
    """Within, every reading of histories and every making of tags is timed."""
    clock = Clock()
    places: list[tuple[Any, str]] = [
        (history.Ledger, "kept"),
        (history.Ledger, "note"),
        (history.Ledger, "made"),
        (blend, "_with_history"),
        (boolean, "_with_history"),
        (body, "named"),
    ]
    kept = [(place, name, getattr(place, name)) for place, name in places]
    # The package hands `named` on under its own name.
    import supplecast.naming as naming

    kept.append((naming, "named", naming.named))
    for place, name, function in kept:
        setattr(place, name, clock.round(function))
    try:
        yield clock
    finally:
        for place, name, function in kept:
            setattr(place, name, function)
