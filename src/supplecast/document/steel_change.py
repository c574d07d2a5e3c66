"""What a change means in steel: which bodies of a tool stay as they are, which can be cut on, and which must be made anew."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from supplecast import kernel
from supplecast.document.state import STEEL, Entry
from supplecast.errors import KernelError, MissedError
from supplecast.geometry import subtract

if TYPE_CHECKING:
    from supplecast.document.comparing import Compared
    from supplecast.kernel.shapes.shape import Solid

_LEAST = 0.05  # mm³: less is nothing that a cutter would take
_SAME = 1e-4  # mm

Verdict = Literal["unchanged", "steel-safe", "to be made anew", "new", "no longer there"]


@dataclass(frozen=True)
class SteelChange:
    """What becomes of a body of the tool: `steel-safe` if metal has only to be taken off, in mm³, and `to be made anew` if some
    would have to be added.
    """

    body: str
    name: str
    verdict: Verdict
    off: float
    on: float


def steel_changes(compared: Sequence[Compared], first: Sequence[Entry], second: Sequence[Entry]) -> Iterator[SteelChange]:
    """Of two states of a tool, each body of steel of either; what has only been moved, by plates that grew, is unchanged."""
    for one in compared:
        if one.second.role in STEEL:
            off, on = _differs(one)
            verdict: Verdict = "to be made anew" if on > _LEAST else "steel-safe" if off > _LEAST else "unchanged"
            yield SteelChange(one.second.id, one.second.name, verdict, off, on)
    known = {entry.id for one in compared for entry in (one.first, one.second)}
    for entry in second:
        if entry.role in STEEL and entry.id not in known:
            yield SteelChange(entry.id, entry.name, "new", 0.0, kernel.measure.volume(entry.body.solid))
    for entry in first:
        if entry.role in STEEL and entry.id not in known:
            yield SteelChange(entry.id, entry.name, "no longer there", kernel.measure.volume(entry.body.solid), 0.0)


def _differs(one: Compared) -> tuple[float, float]:
    """How much metal has to be taken off the first body, and how much added to it, to make it the second, mm³."""
    if one.first.key == one.second.key:
        return 0.0, 0.0
    a, b = one.first.body.solid, one.second.body.solid
    boxes = [kernel.measure.corner_box(solid) for solid in (a, b)]
    shift = subtract(boxes[0].centre, boxes[1].centre)
    if math.dist(boxes[0].size, boxes[1].size) < _SAME < math.hypot(*shift):
        b = kernel.move.moved(b, kernel.move.shift(shift)).solid
        return _left(a, b), _left(b, a)
    return _volume(one.only_first), _volume(one.only_second)


def _left(a: Solid, b: Solid) -> float:
    """What one body has that another has not, mm³."""
    try:
        return _volume([made.solid for made in kernel.boolean.cut(a, [b], pieces=None)])
    except MissedError:
        return kernel.measure.volume(a)
    except KernelError:  # nothing of it is left
        return 0.0


def _volume(pieces: Sequence[Solid]) -> float:
    return sum(kernel.measure.volume(piece) for piece in pieces)
