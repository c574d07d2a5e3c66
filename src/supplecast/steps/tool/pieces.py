"""Pieces that stand in the plates of a tool, and the bores that coolant runs in: what a new one must keep clear of."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry, Role
from supplecast.document.steel_holes import holes_by
from supplecast.geometry import Bar, Vec, along, dot
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import Pair
from supplecast.steps.tool.sides import ROLES
from supplecast.tooling.base.places import Round

_MADE: tuple[Role, ...] = ("lifter", "stripper")  # for this tool, of plates
_ROLES: tuple[Role, ...] = ("ejector", "core pin", *_MADE, *ROLES.values())
_SAME = 1e-3  # mm
_UNDER = 0.05  # mm behind a rim, where what it lies on is looked for
_TOUCHES = 1e-6  # mm that two may be into each other


def pieces(at: Builder) -> list[Entry]:
    """Pins, sleeves, lifters, strippers, pillars, bushes, screws and drives, which run through plates and halves."""
    return [e for e in at.bodies() if e.role in _ROLES and (e.role in _MADE or e.stock is None or e.stock.form != "plate")]


def turned_pieces(at: Builder, lying: Lying) -> list[tuple[Entry, tuple[Round, ...]]]:
    """Those of the moving side and the ejection that are turned about axes along the pull, with the rounds they take."""
    wanted = (ROLES["moving"], ROLES["ejection"], "ejector", "core pin")
    return [(e, rounds_of(e, lying)) for e in pieces(at) if e.role in wanted and e.stock is not None]


def rounds_of(entry: Entry, lying: Lying) -> tuple[Round, ...]:
    """What a turned component takes, by the boxes of its faces."""
    solid = entry.body.solid
    boxes = [kernel.measure.face_box(solid, face) for face in range(solid.face_count)]
    rows = [(box, lying.levels(box)) for box in boxes]
    return tuple(
        Round(lying.flat(box.centre), box.size[lying.long] / 2, *ends) for box, ends in rows if ends[1] - ends[0] > 1e-6
    )


def meet(ones: Sequence[Round], others: Sequence[Round]) -> bool:
    """Whether any rounds of two pieces run into each other."""
    return any(one.away(other) < -_TOUCHES for one in ones for other in others)


def is_sleeve(entry: Entry) -> bool:
    """Whether it is a sleeve round a core pin, which pushes as ejector pins do."""
    return entry.stock is not None and entry.stock.kind == "Ejector sleeve"


def is_blade(entry: Entry) -> bool:
    """Whether it is a flat ejector."""
    return entry.stock is not None and entry.stock.kind.startswith("Ejector blade")


def is_heeled(insert: Entry) -> bool:
    """Whether the plate behind an insert holds it by its heels."""
    return any("[heel" in tag for tags in insert.body.tags for tag in tags)


def stripped(at: Builder, part: Entry, pull: Vec) -> list[int]:
    """The rims of a part that lie on a stripper."""
    strippers = [e.body.solid for e in at.bodies() if e.role == "stripper"]
    found = []
    for seat in kernel.stripping.seats(part.body.solid, pull) if strippers else []:
        place = kernel.measure.point_inside(part.body.solid, seat.face)
        if place and any(kernel.probing.covers(one, along(place, pull, _UNDER)) for one in strippers):
            found.append(seat.face)
    return found


def coolant_bores(at: Builder, pair: Pair) -> list[Bar]:
    """Those of the core side across the pull, by the holes that a cooling step left there."""
    cooled = {step for step, kind in at.order if kind == "cooling"}
    steel = (e for e in at.bodies() if cooled and e.role in ("core", "core insert"))
    found = (hole for entry in steel for hole in holes_by(entry, cooled))
    return list(_joined([hole.bar for hole in found if abs(dot(hole.axis.direction, pair.pull)) < _SAME]))


def _joined(bars: Sequence[Bar]) -> Iterator[Bar]:
    """Stretches of one bore, in plate and inserts, as one."""
    left = list(bars)
    while left:
        line = [bar for bar in left if _on_line(bar, left[0])]
        left = [bar for bar in left if bar not in line]
        ends = sorted(end for bar in line for end in (bar.start, bar.end))
        yield Bar(ends[0], ends[-1], line[0].radius)


def _on_line(one: Bar, other: Bar) -> bool:
    line = np.array(other.end) - np.array(other.start)
    off = np.cross(line / np.linalg.norm(line), np.array(one.start) - np.array(other.start))
    return bool(np.linalg.norm(off) < _SAME) and abs(one.radius - other.radius) < _SAME
