"""How much work one request may cost in the process that answers everybody.

What that process works out itself (expressions, sketches) says by `spend` what it costs, before it does it. Where nobody has
set a limit, as in workers, which have deadlines of their own, spending costs nothing.
"""

from __future__ import annotations

from contextvars import ContextVar
from dataclasses import dataclass

from supplecast.errors import SuppleError


class TooMuchWork(SuppleError):
    """What was asked for costs more than one request may."""


@dataclass
class _Purse:
    left: float


_purse: ContextVar[_Purse | None] = ContextVar("purse", default=None)


def begin(units: float) -> None:
    """From here on, in this context, no more than so many units of work; a unit is about a microsecond on a small machine."""
    _purse.set(_Purse(units))


def end() -> None:
    """From here on, in this context, work costs nothing again."""
    _purse.set(None)


def spend(units: float) -> None:
    """Say that work is about to be done. TooMuchWork if it is more than what is left."""
    purse = _purse.get()
    if purse is None:
        return
    if units > purse.left:
        raise TooMuchWork(
            "This takes more work than the page may wait for.",
            "Undo, then split the sketch into several, draw with fewer curves that cross, or shorten the named values.",
        )
    purse.left -= units
