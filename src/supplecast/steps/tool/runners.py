"""Runners: the feed of a mold with several places, from one sprue along the parting plane to a gate at every part."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Length, LengthFromZero
from supplecast.document.state import PARTS, SLIDES, Entry
from supplecast.document.step import Step
from supplecast.geometry import Frame, Point2, along, subtract
from supplecast.molding.mass import grams
from supplecast.naming import Body
from supplecast.steps.tool.drops import ways
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.steel import BOTH_SIDES, bored
from supplecast.tooling import runners, snaps

if TYPE_CHECKING:
    from supplecast.kernel.molds.runner import GateSize, Size
    from supplecast.kernel.shapes.history import Made

_UNDER = 0.3  # mm behind the parting plane: where the wall is looked for that a gate breaks into
_WELL = 1.2  # widths that a run goes on where it turns off, for the cold slug (common practice, from memory)


@dataclass(frozen=True)
class _Gated:
    """A part with the place on its wall where it is gated, the way inwards, and the wall there, mm."""

    entry: Entry
    wall_at: Point2
    inwards: Point2
    wall: float


class Runners(Step):
    """A sprue in the middle, runners along the parting plane and a gate into every part: equally long ways for 2, 4, 8 and 16.

    Sizes left blank follow the part: the runner from its mass and the way to it, the gate from the wall it breaks into and,
    where the melt would be sheared too hard, from the shot.
    Example: {"id": "ru9", "type": "runners", "section": "full round", "gate": "edge"}
    """

    type: Literal["runners"] = "runners"
    word = "Runners"
    purpose = "sprue, runners and gates for several places"
    search = "channels feed balance gate"
    follows = "feed"
    picture = ("M3 4h8v7H3zM21 4h8v7h-8z", "M16 2v14M7 11v5h18v-5")
    document_kinds = ("tool",)

    section: Literal["full round", "trapezoid"] = "full round"
    width: AnyLength = ""
    gate: Literal["edge", "fan", "submarine"] = "edge"
    gate_width: AnyLength = ""
    gate_depth: AnyLength = ""
    land: Length = "1 mm"
    side: Literal["cavity", "core"] = "cavity"
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"
    outer: Length = "4 mm"
    taper: LengthFromZero = "2 mm"
    wells: Literal["with cold-slug wells", "without wells"] = "with cold-slug wells"

    def sentence(self) -> str:
        width = " {width} wide" if self.width else ", width {width}"
        size = " {gate_width} × {gate_depth}" if self.gate_width or self.gate_depth else ""
        sprue = "sprue through {side} at {x}, {y}, {wells}"
        return f"Runners {{section}}{width}, {{gate}} gates{size}, land {{land}}, {sprue}"

    def more(self) -> str:
        size = "" if self.gate_width or self.gate_depth else "; gates {gate_width} wide, {gate_depth} deep"
        return f"sprue {{outer}} wide outside, {{taper}} wider at the runner{size}"

    def build(self, at: Builder) -> None:
        pair = both(at)
        frame = pair.plane
        sprue = frame.flat(pair.on_parting(at.mm("x"), at.mm("y")))
        parts, approach = self._gated(at, frame, sprue)
        wall = min(part.wall for part in parts)
        flow = max(kernel.measure.volume(part.entry.body.solid) for part in parts) / molding.estimates.FILL
        to_walls = runners.net(sprue, [part.wall_at for part in parts], approach)
        size = kernel.runner.Size(self._width(at, parts, to_walls), self.section)
        gate = self._gate_size(at, wall, flow, size.width)
        ends = [_on2(part.wall_at, part.inwards, -kernel.runner.stand_off(gate, size)) for part in parts]
        net = runners.net(sprue, ends, approach)
        runs = [*net.runs, *self._wells(net, size.width)]
        if not net.runs:
            at.fail("x", "The sprue stands where the gate is: there is nothing to run.", "Move the sprue, or use a feed.")
        gates = [at.kernel("gate", kernel.runner.gate, frame, end, part.inwards, gate, size)
                 for end, part in zip(ends, parts, strict=True)]  # fmt: skip
        self._check_break_in(at, parts, gates)
        made = [at.kernel("width", kernel.runner.net, runs, frame, size), *gates, *self._sprue(at, pair, frame, sprue, size)]
        named = [at.named(one).labelled(str(number)) if number else at.named(one) for number, one in enumerate(made)]
        whole = at.kernel("width", kernel.boolean.fuse, made[0].solid, [one.solid for one in made[1:]], simplify=False)
        bar = at.named(whole, *named)
        self._cut(at, bar)
        solids = [part.entry.body.solid for part in parts]
        pieces = at.kernel("gate", kernel.boolean.cut, bar.solid, solids, pieces=None)
        if len(pieces) != 1:
            at.fail("x", "The runners run through a part.", "Move the sprue, or leave more between the places.")
        (left,) = pieces
        feed = at.named(left, bar, *(part.entry.body for part in parts))
        at.new(feed, "feed", "Runners", pull=pair.pull)
        self._tell(at, net, size, gate, feed, flow)

    def _gated(self, at: Builder, frame: Frame, sprue: Point2) -> tuple[list[_Gated], int]:
        """Every part with its gate, and the axis of the parting plane along which gates are reached."""
        entries = [e for e in at.bodies() if e.role in PARTS]
        if not entries:
            at.fail("gate", "There is no part to fill.", "Link a part first.")
        boxes = {e.id: kernel.measure.loose_box(e.body.solid) for e in entries}
        middles = {e.id: frame.flat(boxes[e.id].centre) for e in entries}
        for entry in entries:
            box = boxes[entry.id]
            corners = [frame.flat(corner) for corner in (box.low, box.high)]
            if all(min(c[k] for c in corners) < sprue[k] < max(c[k] for c in corners) for k in (0, 1)):
                at.fail(
                    "x", f"The sprue stands in {entry.name}.", "Move it beside the part, or fill the part straight by a feed."
                )
        levels = [sorted({round(middle[axis], 2) for middle in middles.values()}) for axis in (0, 1)]
        approach = 0 if len(levels[1]) == 1 and len(levels[0]) <= 2 else 1
        if len(levels[approach]) > 1 and len(levels[approach]) % 2:
            at.fail("gate", f"{len(levels[approach])} rows cannot be fed in pairs.", "Use one row, or an even number of rows.")
        gates = []
        for entry in entries:
            middle = middles[entry.id]
            row = levels[approach].index(round(middle[approach], 2))
            if len(levels[approach]) == 1:
                sense = 1.0 if sprue[approach] > middle[approach] else -1.0
            else:
                sense = 1.0 if row % 2 == 0 else -1.0
            gates.append(self._wall(at, entry, frame, middle, approach, sense))
        return gates, approach

    def _wall(self, at: Builder, entry: Entry, frame: Frame, middle: Point2, approach: int, sense: float) -> _Gated:
        """Where a part's wall is met, coming in level with the parting plane."""
        inwards: Point2 = (-sense, 0.0) if approach == 0 else (0.0, -sense)
        far = kernel.measure.beyond(entry.body.solid, frame.origin)
        outside = (middle[0] - inwards[0] * far, middle[1] - inwards[1] * far)
        under = frame.shifted(-_UNDER)
        heading = subtract(under.point(inwards), under.origin)
        start = under.point(outside)
        hit = kernel.probing.first_hit(entry.body.solid, start, heading)
        if hit is None:
            at.fail(
                "gate",
                f"{entry.name} does not reach the parting plane where it would be gated.",
                "Use a feed from above instead.",
            )
        inside = kernel.probing.first_hit(entry.body.solid, along(start, heading, hit + 0.01), heading)
        return _Gated(entry, _on2(outside, inwards, hit), inwards, inside or 2.0)

    def _gate_size(self, at: Builder, wall: float, flow: float, runner: float) -> GateSize:
        land = at.mm("land")
        if self.gate == "submarine":
            width = at.length("gate_width", self.gate_width, "positive") if self.gate_width else runners.SUB_GATE * wall
            return kernel.runner.GateSize("submarine", width, width, max(land, 3.0))
        depth = at.length("gate_depth", self.gate_depth, "positive") if self.gate_depth else round(runners.GATE_DEPTH * wall, 2)
        by_wall, by_shot = runners.GATE_WIDTH * depth, runners.gate_width(flow, depth)
        # Only a fan is wider than the runner it comes from.
        usual = max(3 * by_wall, by_shot) if self.gate == "fan" else min(max(by_wall, by_shot), runner)
        width = at.length("gate_width", self.gate_width, "positive") if self.gate_width else round(usual, 1)
        if self.gate == "edge" and width > runner + 1e-9:
            words = f"The gate is wider than its runner of {at.in_unit(runner)} {at.scope.unit}: only a fan spreads so."
            at.caution("gate_width", f"{words} Use less, or a fan.")
        return kernel.runner.GateSize(self.gate, width, depth, land)

    def _width(self, at: Builder, parts: list[_Gated], net: runners.Net) -> float:
        if self.width:
            width, least = at.length("width", self.width, "positive"), runners.least_width(at.resin)
            if width < least:
                usual = f"for {at.resin} at least {at.in_unit(least)} {at.scope.unit} is usual (common practice)"
                at.caution("width", f"So thin a runner freezes before the parts are full: {usual}.")
            return width
        heaviest = max(grams(kernel.measure.volume(part.entry.body.solid), at.material) or 0.0 for part in parts)
        return runners.runner_width(heaviest, max(net.lengths), at.resin)

    def _wells(self, net: runners.Net, width: float) -> list[tuple[Point2, Point2]]:
        """Runs that go on a little where the ways turn off sideways."""
        if self.wells == "without wells":
            return []
        wells = []
        for turn, axis in net.turns:
            for a, b in net.runs:
                if math.dist(b, turn) < 1e-6 and abs(a[axis] - b[axis]) < 1e-6:
                    length = math.dist(a, b)
                    step = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)
                    wells.append((b, _on2(b, step, _WELL * width)))
        return wells

    def _sprue(self, at: Builder, pair: Pair, frame: Frame, sprue: Point2, size: Size) -> list[Made]:
        """The sprue out through one half, and its well in the other."""
        half, other = (pair.cavity, pair.core) if self.side == "cavity" else (pair.core, pair.cavity)
        sense = -1.0 if self.side == "cavity" else 1.0
        length = self._deep(half, pair)
        outer = at.mm("outer")
        inner = max(outer + at.mm("taper"), size.width + 1.0)
        made = [at.kernel("outer", kernel.runner.sprue, frame, sprue, outer, inner, length, sense)]
        if self.wells == "with cold-slug wells":
            depth = 1.2 * inner
            if depth >= self._deep(other, pair):
                at.fail(
                    "wells",
                    f"A well {at.in_unit(depth)} deep goes through the {other.name.lower()}.",
                    "Make that half thicker.",
                )
            made.append(at.kernel("outer", kernel.runner.well, frame, sprue, inner, depth, -sense))
        return made

    def _deep(self, half: Entry, pair: Pair) -> float:
        """How far a half goes on from the parting plane, mm."""
        return max(abs(end - pair.parting) for end in kernel.measure.span(half.body.solid, pair.pull))

    def _check_break_in(self, at: Builder, parts: list[_Gated], gates: list[Made]) -> None:
        for part, gate in zip(parts, gates, strict=True):
            shared = at.kernel("gate", kernel.boolean.common, part.entry.body.solid, [gate.solid])
            if not shared:
                at.fail("gate", f"The gate does not reach {part.entry.name}.", "Make its land shorter, or use an edge gate.")

    def _cut(self, at: Builder, bar: Body) -> None:
        """Take the feed out of all steel it runs through. It may not cross a slide or a pin."""
        for entry in at.bodies():
            crosses = entry.role in (*SLIDES, "ejector") and self._meets(at, entry, bar)
            if crosses:
                at.fail("x", f"The feed runs through {entry.name}.", "Move the sprue, or that part of the tool.")
        bored(at, "width", [entry for entry in at.bodies() if entry.role in BOTH_SIDES], [bar])

    def _meets(self, at: Builder, entry: Entry, bar: Body) -> bool:
        return bool(at.kernel("x", kernel.boolean.common, entry.body.solid, [bar.solid]))

    def _tell(self, at: Builder, net: runners.Net, size: Size, gate: GateSize, feed: Body, flow: float) -> None:
        unit = at.scope.unit
        at.note(f"Runners {at.in_unit(size.width)} {unit} wide, {ways(at, 'gate', net)}.")
        at.note(
            f"Gates {at.in_unit(round(gate.width, 2))} × {at.in_unit(round(gate.depth, 2))} {unit}, "
            f"{kernel.measure.volume(feed.solid) / 1000:.2f} cm³ of feed."
        )
        if gate.kind != "submarine":
            rate = runners.shear_rate(flow, gate.width, gate.depth)
            at.note(f"Filled in {molding.estimates.FILL:g} s, the gate shears the melt at {rate:,.0f} 1/s.")
            if rate > runners.SHEAR * 1.02:  # sizes are rounded
                at.caution(
                    "gate_width",
                    f"That is more than the usual {runners.SHEAR:,.0f} 1/s: widen or deepen the gate, or use a fan.",
                )
        if gate.kind == "submarine":
            self._bend(at, net, size, gate)
        at.figure("runner_mm", size.width)
        at.figure("longest_way", max(net.lengths))
        at.figure("balance", net.balance)

    def _bend(self, at: Builder, net: runners.Net, size: Size, gate: GateSize) -> None:
        """Whether the last runs bend as far as the tips of submarine gates must to come out of their tunnels."""
        unit = at.scope.unit
        tucked = kernel.runner.tucked(gate, size)
        last = min(math.dist(a, b) for a, b in net.runs if b in net.gates)
        strain, most = snaps.strain(last, size.width, tucked, tapered=False), snaps.permissible(at.resin)
        short, back = (at.in_unit(round(value, 1)) for value in (last, tucked))
        at.note(f"To come out, gates bend {back} {unit} on {short} {unit} of runner: {strain:.1%} of strain.")
        at.figure("gate_strain", strain)
        if strain > most:
            words = f"The runner breaks before its gate is out: {at.resin or 'an unknown resin'} bears {most:.1%} of strain"
            need = at.no_less(math.sqrt(last**2 * strain / most))
            at.caution("gate", f"{words}. Use a narrower runner, {need} {unit} of straight run before the gate, or edge gates.")


def _on2(at: Point2, direction: Point2, by: float) -> Point2:
    return (at[0] + direction[0] * by, at[1] + direction[1] * by)
