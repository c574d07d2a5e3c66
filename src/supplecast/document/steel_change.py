"""What a change means in steel: which bodies of a tool stay as they are, which can be cut on, and which must be made anew."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from supplecast import kernel
from supplecast.document.state import STEEL, Entry
from supplecast.document.steel_holes import HoleChange, hole_changes
from supplecast.errors import KernelError
from supplecast.geometry import subtract

if TYPE_CHECKING:
    from supplecast.document.comparing import Compared

_LEAST = 0.05  # mm³: less is nothing that a cutter would take
_SAME = 1e-4  # mm

Verdict = Literal["unchanged", "steel-safe", "to be made anew", "new", "no longer there", "could not be compared"]


@dataclass(frozen=True)
class SteelChange:
    """What becomes of a body of the tool: `steel-safe` if metal has only to be taken off, in mm³, and `to be made anew` if some
    would have to be added; and of its holes, those that stay left out.
    """

    body: str
    name: str
    verdict: Verdict
    off: float
    on: float
    holes: tuple[HoleChange, ...] = ()


def steel_changes(compared: Sequence[Compared], first: Sequence[Entry], second: Sequence[Entry]) -> Iterator[SteelChange]:
    """Of two states of a tool, each body of steel of either; what has only been moved, by plates that grew, is unchanged."""
    for one in compared:
        if one.second.role in STEEL:
            yield _told(one)
    known = {entry.id for one in compared for entry in (one.first, one.second)}
    for entry in second:
        if entry.role in STEEL and entry.id not in known:
            yield SteelChange(entry.id, entry.name, "new", 0.0, kernel.measure.volume(entry.body.solid))
    for entry in first:
        if entry.role in STEEL and entry.id not in known:
            yield SteelChange(entry.id, entry.name, "no longer there", kernel.measure.volume(entry.body.solid), 0.0)


def _told(one: Compared) -> SteelChange:
    """By what the two have in common: what either has beyond that is taken off, or would have to be added."""
    named = one.second.id, one.second.name
    if not one.faces:
        return SteelChange(*named, "unchanged", 0.0, 0.0)
    a, b = one.first.body.solid, one.second.body.solid
    boxes = [kernel.measure.corner_box(solid) for solid in (a, b)]
    shift = subtract(boxes[0].centre, boxes[1].centre)
    is_moved = math.dist(boxes[0].size, boxes[1].size) < _SAME < math.hypot(*shift)
    told = tuple(hole_changes(a, b, shift if is_moved else (0.0, 0.0, 0.0)))
    if one.sound and not is_moved:
        off, on = (sum(kernel.measure.volume(s) for s in pieces) for pieces in (one.only_first, one.only_second))
        return SteelChange(*named, _verdict(off, on), off, on, told)
    if is_moved:
        b = kernel.move.moved(b, kernel.move.shift(shift)).solid
    try:
        common = sum(kernel.measure.volume(made.solid) for made in kernel.boolean.common(a, [b]))
    except KernelError:
        return SteelChange(*named, "could not be compared", 0.0, 0.0, told)
    off, on = (max(kernel.measure.volume(solid) - common, 0.0) for solid in (a, b))
    return SteelChange(*named, _verdict(off, on), off, on, told)


def _verdict(off: float, on: float) -> Verdict:
    return "to be made anew" if on > _LEAST else "steel-safe" if off > _LEAST else "unchanged"
