"""Baffles: bores up from the coolant into deep cores, each parted by a blade, or with a tube inside, so that the water goes up
and comes down again.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Factor, Length
from supplecast.document.state import SLIDES, Entry
from supplecast.document.step import Step
from supplecast.geometry import Bar, Frame, Vec, along, dot, unit, vec
from supplecast.naming import Body
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.pieces import coolant_bores, pieces
from supplecast.steps.tool.places import places
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.steel import bored
from supplecast.tooling import coolant
from supplecast.tooling.stock import Stock, at_least
from supplecast.wording import brief, plural

_BLADE, _AIR = 1.5, 0.1  # mm thick, and of air a side (common practice, no source)
_TURN = 0.5  # diameters under the bore's end where the blade ends, so that the water finds as much room there as beside it
_PLUG, _PAST = 8.0, 1.0  # mm of plug in the back, and that a bore begins outside of it
_WORTH, _APART = 1.5, 3.0  # diameters that a baffle goes up at least, and from one to the next (common practice, no source)
_WALL = 3.0  # mm of steel to pins and slides (common practice, no source)
_TUBE, _COLLAR, _LEVELS = (
    1.0,
    4.0,
    6.0,
)  # mm: wall of a tube, height of its collar, steel between both coolant bores (no source)
_TURNS = 4.0  # times the dynamic pressure lost on the way up and down: in, about, out (common practice, no source)
_CELSIUS = 40.0  # °C of the water when nothing is told


@dataclass(frozen=True)
class _Baffle:
    """A place in the plane, the level where its bore ends under the part and that of the coolant bore it stands on, mm from the
    parting plane, and the way that bore runs.
    """

    foot: Vec
    tip: float
    row: float
    along: Vec
    steel: tuple[Entry, ...]


class Baffles(Step):
    """Bores from the back of the core side through its coolant bores and up into the cores, as far as they stay `clear` of the
    part, where they go up far enough to be of use. A plug closes each, with a blade that parts it nearly to its end; or a tube
    stands in it, which brings the water up from a second row of bores behind the first. `flow` is in l/min, for the pressure.
    Example: {"id": "bf13", "type": "baffles", "diameter": "10", "clear": "8"}
    """

    type: Literal["baffles"] = "baffles"
    word = "Baffles"
    purpose = "coolant up into deep cores"
    search = "baffle bubbler cascade fountain deep core water"
    follows = "cooling"
    picture = ("M4 14h24v7H4zM10 4h12v10H10z", "M13 21V7h6v14M16 21V10M4 17h24")
    document_kinds = ("tool",)

    diameter: Length = "10 mm"
    clear: Length = "8 mm"
    apart: AnyLength = ""
    by: Literal["blades", "tubes"] = "blades"
    flow: Factor = ""

    def sentence(self) -> str:
        return "Baffles {diameter} wide up into the cores, parted by {by}, {clear} from the part, {apart} apart"

    def more(self) -> str:
        return "{flow} l/min through each"

    def build(self, at: Builder) -> None:
        pair = both(at)
        plane = pair.plane
        rows = coolant_bores(at, pair)
        if not rows:
            at.fail("diameter", "No coolant bore runs through the core side.", "Add cooling of the core side before this step.")
        narrow = 2 * min(row.radius for row in rows)
        if at.mm("diameter") < narrow - 1e-6:
            words = f"A baffle {at.in_unit(at.mm('diameter'))} wide parts no bore of {at.in_unit(narrow)}."
            at.fail("diameter", words, f"Use {at.no_less(narrow)} {at.scope.unit} or more.")
        found = list(self._found(at, pair, plane, rows))
        if not found:
            up = at.in_unit(round(_WORTH * at.mm("diameter"), 1))
            words = f"No core is deep or wide enough for a baffle that goes up {up} {at.scope.unit}"
            at.fail("diameter", f"{words}.", "Use narrower ones, or less distance to the part; or take this step out.")
        holes: dict[str, tuple[Entry, list[Body]]] = {}
        fed = self._second_row(at, pair, rows, found, holes) if self.by == "tubes" else 0.0
        for number, baffle in enumerate(found, 1):
            self._one(at, pair, baffle, number, holes, fed)
        for entry, bores in holes.values():
            bored(at, "diameter", [entry], bores)
        unit_ = at.scope.unit
        rises = [baffle.row - baffle.tip for baffle in found]
        what = "baffle" if self.by == "blades" else "tube"
        words = f"{plural(len(found), what)}, up to {at.in_unit(round(max(rises), 1))} {unit_} above their coolant bores"
        at.note(f"{words}; at least {at.in_unit(round(self._least(at, pair, found), 2))} {unit_} from the part.")
        at.figure("baffles", len(found))
        at.figure("baffle_rise", max(rises))
        if fed:
            at.note(f"Water comes in {at.in_unit(round(fed, 1))} {unit_} behind the coolant bores, and leaves by those.")
        self._pressure(at, rows, max(rises))

    def _pressure(self, at: Builder, rows: Sequence[Bar], rise: float) -> None:
        """What the deepest takes of the pressure that drives the water."""
        wide, bore = at.mm("diameter"), 2 * rows[0].radius
        flow = at.plain("flow") if self.flow else math.ceil(coolant.flow_for(coolant.GOOD, bore, _CELSIUS))
        if self.by == "blades":
            half = (math.pi * wide**2 / 4 - wide * _BLADE) / 2
            lost = coolant.lost_in_channel(flow, half, math.pi * wide / 2 + wide, 2 * rise, _TURNS, _CELSIUS)
        else:
            inside = _inside(wide)
            outside = inside + 2 * _TUBE
            up = coolant.lost_in_channel(flow, math.pi * inside**2 / 4, math.pi * inside, rise, _TURNS / 2, _CELSIUS)
            ring = math.pi * (wide**2 - outside**2) / 4
            lost = up + coolant.lost_in_channel(flow, ring, math.pi * (wide + outside), rise, _TURNS / 2, _CELSIUS)
        at.note(f"At {brief(flow)} l/min the deepest takes {brief(lost, 2)} bar more.")
        at.figure("baffle_bar", lost)

    def _second_row(
        self, at: Builder, pair: Pair, rows: Sequence[Bar], found: Sequence[_Baffle], holes: dict[str, tuple[Entry, list[Body]]]
    ) -> float:
        """The bores behind the coolant bores from which tubes are fed; how far behind, mm."""
        wide = 2 * max(row.radius for row in rows)
        behind = wide + _LEVELS
        others = [kernel.nearness.skin(e.body.solid) for e in pieces(at)]
        levels = {round(one.row, 6) for one in found}
        fed = [row for row in rows if round(dot(row.start, pair.pull) - pair.parting, 6) in levels]
        for number, row in enumerate(fed, 1):
            back = Bar(along(row.start, pair.pull, behind), along(row.end, pair.pull, behind), row.radius)
            steel = found[0].steel[-1]
            end = kernel.measure.span(steel.body.solid, pair.pull)[1]
            need = dot(back.start, pair.pull) + row.radius + _PLUG + 2.0
            if need > end + 1e-6:
                words = f"Tubes are fed {at.in_unit(round(behind, 1))} {at.scope.unit} behind the coolant bores"
                short = at.no_less(need - end)
                at.fail("by", f"{words}, where the core side ends.", f"{short} more of it behind would do; or use blades.")
            if kernel.nearness.bars_to([back], others) < _WALL:
                words = "The bores that feed the tubes would run into a pin or a screw behind the coolant bores"
                at.fail("by", f"{words}.", "Use blades, or another depth of the cooling.")
            way = unit(vec(np.array(row.end) - np.array(row.start)))
            bore = kernel.solid.cylinder(back.start, way, row.radius, math.dist(back.start, back.end))
            for entry in dict.fromkeys(entry for one in found for entry in one.steel):
                if kernel.nearness.boxes_apart(entry.body.solid, bore.solid) <= 0:
                    holes.setdefault(entry.id, (entry, []))[1].append(at.named(bore).labelled(f"feed {number}"))
        return behind

    # --- where ----------------------------------------------------------------------------------------------------------

    def _found(self, at: Builder, pair: Pair, plane: Frame, rows: Sequence[Bar]) -> Iterator[_Baffle]:
        cavities = places(at, plane)
        first = cavities[0]
        wide, clear = at.mm("diameter"), at.mm("clear")
        pitch = at.length("apart", self.apart, "positive") if self.apart else _APART * wide
        seen = molding.sticking.raster(molding.judge.skin_of(first.part.body.solid).places, pair.pull)
        beside = [*pieces(at), *(e for e in at.bodies() if e.role in ("feed", *SLIDES))]
        others = [kernel.nearness.skin(e.body.solid) for e in beside]
        for place in cavities:
            box = kernel.measure.box(place.part.body.solid)
            part = [kernel.nearness.skin(place.part.body.solid)]
            for row in rows:
                for spot in _along(row, box.low, box.high, pitch):
                    foot, level = plane.flat(spot), dot(spot, pair.pull)
                    tip = seen.highest(place.on(first, foot), wide / 2 + clear, pair.parting) + clear
                    if self._is_worth(pair, tip, level, wide):
                        tip += max(clear - kernel.nearness.bars_to([_bar(spot, pair.pull, tip - level, wide)], part), 0.0)
                    up = _bar(spot, pair.pull, tip - level, wide)
                    if self._is_worth(pair, tip, level, wide) and kernel.nearness.bars_to([up], others) >= _WALL:
                        way = unit(vec(np.array(row.end) - np.array(row.start)))
                        yield _Baffle(plane.point(foot), tip - pair.parting, level - pair.parting, way, place.core)

    def _is_worth(self, pair: Pair, tip: float, level: float, wide: float) -> bool:
        """Whether a bore goes up far enough over its coolant bore, and into a core."""
        return tip <= pair.parting - wide and level - tip >= _WORTH * wide

    def _least(self, at: Builder, pair: Pair, found: Sequence[_Baffle]) -> float:
        parts = [kernel.nearness.skin(e.body.solid) for e in at.bodies() if e.role in ("molded", "linked", "part")]
        bars = [Bar(along(b.foot, pair.pull, b.tip), along(b.foot, pair.pull, b.row), at.mm("diameter") / 2) for b in found]
        return kernel.nearness.bars_to(bars, parts)

    # --- one of them ----------------------------------------------------------------------------------------------------

    def _one(
        self, at: Builder, pair: Pair, one: _Baffle, number: int, holes: dict[str, tuple[Entry, list[Body]]], fed: float
    ) -> None:
        up, wide = pair.pull, at.mm("diameter")
        back = max(kernel.measure.span(e.body.solid, up)[1] for e in one.steel) - pair.parting
        start = along(one.foot, up, one.tip)
        bore = at.named(kernel.solid.cylinder(start, up, wide / 2, back + _PAST - one.tip)).labelled(f"{number} bore")
        for entry in one.steel:
            holes.setdefault(entry.id, (entry, []))[1].append(bore)
        closing = kernel.solid.cylinder(along(one.foot, up, back - _PLUG), up, wide / 2, _PLUG)
        plug = at.named(closing).labelled(f"{number} plug")
        if fed:
            self._tube(at, pair, one, number, fed, plug)
            return
        side = kernel.solid.across(one.along, up)
        middle, across = dot(one.foot, one.along), dot(one.foot, side)
        level = dot(one.foot, up)
        spans = (
            (middle - _BLADE / 2, middle + _BLADE / 2),
            (across - wide / 2 + _AIR, across + wide / 2 - _AIR),
            (level + one.tip + _TURN * wide, level + back - _PLUG / 2),
        )
        blade = at.named(kernel.solid.bar(one.along, up, *spans)).labelled(f"{number} blade")
        whole = at.kernel("diameter", kernel.boolean.fuse, plug.solid, [blade.solid])
        long = back - one.tip - _TURN * wide
        stock = Stock("Baffle", "round", (wide, at_least(long)), "CuZn39Pb3", "", round(long, 2))
        at.new(at.named(whole, plug, blade), ROLES["moving"], "Baffle", f"baffle{number}", up, (GROUPS["moving"],), stock)

    def _tube(self, at: Builder, pair: Pair, one: _Baffle, number: int, fed: float, plug: Body) -> None:
        """A tube from the second row up, with a collar between both rows; and the plug behind it."""
        up, wide = pair.pull, at.mm("diameter")
        inside = _inside(wide)
        outside, tip = inside + 2 * _TUBE, one.tip + _TURN * wide
        middle = one.row + fed / 2
        end = one.row + fed - inside / 2  # the water finds its way in under it
        tube = at.named(kernel.solid.cylinder(along(one.foot, up, tip), up, outside / 2, end - tip)).labelled(f"{number} tube")
        ring = kernel.solid.cylinder(along(one.foot, up, middle - _COLLAR / 2), up, wide / 2, _COLLAR)
        collar = at.named(ring).labelled(f"{number} collar")
        whole = at.kernel("diameter", kernel.boolean.fuse, tube.solid, [collar.solid])
        hollow = kernel.solid.cylinder(along(one.foot, up, tip - _PAST), up, inside / 2, end - tip + 2 * _PAST)
        hole = at.named(hollow).labelled(f"{number} hole")
        made = at.named(whole, tube, collar)
        (open_,) = at.kernel("diameter", kernel.boolean.cut, made.solid, [hole.solid])
        stock = Stock("Bubbler tube", "ring", (wide, inside, at_least(end - tip)), "CuZn39Pb3", "", round(end - tip, 2))
        role, group = ROLES["moving"], (GROUPS["moving"],)
        at.new(at.named(open_, made, hole), role, "Bubbler tube", f"tube{number}", up, group, stock)
        at.new(plug, role, "Plug", f"plug{number}", up, group, Stock("Plug", "round", (wide, _PLUG), "CuZn39Pb3"))


def _inside(wide: float) -> float:
    """The inner diameter of a tube that leaves as much room round it as it has inside, in half millimetres."""
    return math.floor(2 * (math.sqrt(wide**2 / 2 - _TUBE**2) - _TUBE)) / 2


def _bar(spot: Vec, up: Vec, rise: float, wide: float) -> Bar:
    """From a place on a coolant bore to where a baffle ends."""
    return Bar(along(spot, up, rise), spot, wide / 2)


def _along(row: Bar, low: Vec, high: Vec, pitch: float) -> Iterator[Vec]:
    """Places on a bore under a part, evenly and no nearer to each other than the pitch."""
    run = max(range(3), key=lambda k: abs(row.end[k] - row.start[k]))
    start, end = max(low[run], min(row.start[run], row.end[run])), min(high[run], max(row.start[run], row.end[run]))
    count = int((end - start) // pitch)
    for k in range(count):
        spot = list(row.start)
        spot[run] = start + (end - start) * (k + 0.5) / count
        yield vec(spot)
