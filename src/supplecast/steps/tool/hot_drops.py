"""Hot drops: heated nozzles through the cavity side, a gate on every part, and the manifold that keeps all of it molten."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Length
from supplecast.document.step import Step
from supplecast.geometry import Point2, Vec
from supplecast.molding.mass import grams
from supplecast.naming import Body
from supplecast.steps.tool.between import INLET, MANIFOLD, MANIFOLD_PLATE, none_yet, plate_behind
from supplecast.steps.tool.drops import (
    Drop,
    approach,
    cavity_back,
    cavity_steel,
    drops,
    gated,
    keep_steel,
    middle,
    opened,
    sheared,
    typed_place,
    ways,
)  # fmt: skip
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.weighing import known
from supplecast.tooling import hot, runners
from supplecast.tooling.base.component import Component
from supplecast.tooling.stock import Stock
from supplecast.wording import place_words, plural

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made

_FRAME = 15.0  # mm of plate round the room for the manifold at least (common practice, no source)
_APART = 4.0  # mm between the heads of nozzles at least (common practice, no source)
_INLET = 0.9  # of a channel: the bore through which it is fed, so that no two rounds of one width meet
_MOUTH, _SEATED = 5.0, 0.5  # mm deep and wider a side: where a single nozzle is fed (common practice, no source)
_LONG_KEPT = 4.0  # shots that melt is kept hot for: longer, and many resins suffer (common practice, no source)
_NEAR = 1e-6


@dataclass(frozen=True)
class _Hot:
    """What is laid out: the plates in plan, the drops, their nozzle and gate, mm, the land, and the plates' back."""

    lying: Lying
    pair: Pair
    drops: Sequence[Drop]
    nozzle: hot.Nozzle
    gate: float
    land: float
    back: float


class HotDrops(Step):
    """The parts are filled straight through the cavity side by heated nozzles, one for each, at the same place of all; no feed
    is molded with them but the gates. A single nozzle stands under the press's own; several are fed by a manifold in a plate
    of its own, behind the cavity plate.

    Left blank, the drops stand as near to the middle of the parts as these are met squarely, and sizes follow the shot.
    Example: {"id": "hd9", "type": "hot drops", "gate": "1.2", "nozzle": "16"}
    """

    type: Literal["hot drops"] = "hot drops"
    word = "Hot drops"
    purpose = "heated nozzles and a manifold, no cold feed"
    search = "hot runner nozzle manifold drop tip gate heated sprueless"
    follows = "runners"
    picture = ("M3 3h26v5H3zM5 17h8v4H5zM19 17h8v4h-8z", "M7 3v4h18V3M9 7v10l1-1-2 0 1 1M23 7v10l1-1-2 0 1 1M16 1v3")
    document_kinds = ("tool",)

    x: AnyLength = ""
    y: AnyLength = ""
    gate: AnyLength = ""
    land: Length = "0.5 mm"
    nozzle: AnyLength = ""
    inlet_x: AnyLength = ""
    inlet_y: AnyLength = ""
    plate: AnyLength = ""

    def sentence(self) -> str:
        return "Hot drops on the first part at {x}, {y}, gates {gate} wide, nozzles {nozzle}"

    def more(self) -> str:
        return "gates {land} long; fed at {inlet_x}, {inlet_y}; manifold plate {plate}"

    def build(self, at: Builder) -> None:
        none_yet(at, "x")
        pair = both(at)
        made = self._laid(at, pair)
        inlet = typed_place(at, self.held, "inlet_x", "inlet_y")
        direct = len(made.drops) == 1 and inlet is None
        at_inlet = made.drops[0].flat if direct else middle(pair, inlet)
        net = runners.net(at_inlet, [drop.flat for drop in made.drops], approach(made.drops))
        beams = hot.beams(made.back, made.nozzle, at.length("plate", self.plate, "positive") if self.plate else None)
        if net.runs and beams.plate < 2 * hot.GAP + beams.thick - _NEAR:
            need = at.no_less(2 * hot.GAP + beams.thick)
            words = f"Beams {at.in_unit(beams.thick)} thick with air on both sides do not fit the manifold plate"
            at.fail("plate", f"{words}.", f"Use {need} or more, or leave it blank.")
        if self.plate and not net.runs:
            at.caution("plate", "A single nozzle has no manifold, and so no plate of it. Leave it blank.")
        holes = self._nozzles(at, made, bool(net.runs))
        kept = sum(made.nozzle.melt**2 * math.pi / 4 * (d.level - made.land - made.back) for d in made.drops)
        if net.runs:
            more, melt = self._manifold(at, made, net, at_inlet, beams)
            holes, kept = [*holes, *more], kept + melt
        opened(at, "x", cavity_steel(at), holes, "A nozzle")
        self._tell(at, made, net, at_inlet, kept)

    def _laid(self, at: Builder, pair: Pair) -> _Hot:
        place, land = typed_place(at, self.held, "x", "y"), at.mm("land")
        typed = at.length("gate", self.gate, "positive") if self.gate else None
        found = drops(at, pair, place, typed or 1.0)
        volume = max(kernel.measure.volume(drop.part.body.solid) for drop in found)
        gate = typed or hot.gate(volume / molding.estimates.FILL)
        nozzle = self._nozzle(at, volume)
        back = cavity_back(pair)
        if gate > nozzle.melt:
            most = at.no_more(nozzle.melt)
            at.fail("gate", "The gate is wider than the bore of its nozzle.", f"Use {most} or less, or a wider nozzle.")
        for number, drop in enumerate(found, 1):
            room, least = drop.level - land - back, hot.least(nozzle, gate)
            if room < least - _NEAR:
                there = f"{at.in_unit(round(max(room, 0.0), 2))} {at.scope.unit} of steel over {drop.part.name}"
                words = f"A nozzle of {at.in_unit(nozzle.shank)} needs {at.no_less(least)}, and there is {there}"
                at.fail("nozzle", f"{words}.", "Make the block, or the plates round the inserts, thicker on the cavity side.")
            for other in found[number:]:
                apart = math.dist(drop.flat, other.flat)
                if apart < nozzle.head + _APART:
                    need = at.no_less(nozzle.head + _APART)
                    words = f"Two drops stand {at.in_unit(round(apart, 2))} {at.scope.unit} apart; their nozzles need {need}"
                    at.fail("nozzle", f"{words}.", "Leave more between the places, or use thinner nozzles.")
        return _Hot(Lying.of(pair), pair, found, nozzle, gate, land, back)

    def _nozzle(self, at: Builder, volume: float) -> hot.Nozzle:
        shot = (grams(volume, at.material) if known(at) else None) or volume / 1000
        by_shot = hot.nozzle_for(shot)
        if not self.nozzle:
            return by_shot
        typed = at.length("nozzle", self.nozzle, "positive")
        found = next((one for one in hot.NOZZLES if abs(one.shank - typed) < _NEAR), None)
        if found is None:
            sizes = ", ".join(at.in_unit(one.shank) for one in hot.NOZZLES)
            at.fail("nozzle", f"There is no nozzle of {at.in_unit(typed)} {at.scope.unit}.", f"There are {sizes}.")
        if found.most < by_shot.most:
            words = f"A shot of {shot:.0f} g through it takes long: one of {at.in_unit(by_shot.shank)} is usual"
            at.caution("nozzle", f"{words}.")
        return found

    # --- what is made -----------------------------------------------------------------------------------------------

    def _add(self, at: Builder, made: _Hot, one: Component, cut: Sequence[Body] = ()) -> None:
        """A component as a body, without what is cut from it."""
        body = at.named(made.lying.body(one)).labelled(one.id)
        if cut:
            (open_,) = at.kernel("nozzle", kernel.boolean.cut, body.solid, [tool.solid for tool in cut])
            body = at.named(open_, body, *cut)
        at.new(body, ROLES["fixed"], one.name, one.id, made.pair.pull, (GROUPS["fixed"],), one.stock)

    def _hole(self, at: Builder, made: _Hot, one: Component) -> Body:
        """The hole that a component needs, named after it."""
        return at.named(made.lying.hole(one)).labelled(f"{one.id} hole")

    def _nozzles(self, at: Builder, made: _Hot, fed: bool) -> list[Body]:
        """The nozzles and gates; their holes."""
        holes = []
        for number, drop in enumerate(made.drops, 1):
            tip = drop.level - made.land
            gate = gated(at, made.pair, drop, made.gate / 2, made.land, f"gate {number}")
            proud = hot.GAP if fed else 0.0
            at_plan = made.lying.flat(drop.skin)
            one = hot.drop(f"nozzle{number}", at_plan, made.back, tip, made.nozzle, made.gate, proud)
            cut = [] if fed else [self._mouth(at, made, drop.skin, made.back, made.nozzle.melt + 2 * _SEATED, _MOUTH)]
            keep_steel(at, made.lying, drop, one.hole, made.land, "The nozzle's bore", ", or use thinner nozzles")
            self._add(at, made, one, cut)
            at.new(gate, "feed", "Gate" if len(made.drops) == 1 else f"Gate {number}", f"gate{number}", made.pair.pull)
            holes += [self._hole(at, made, one), gate]
        return holes

    def _mouth(self, at: Builder, made: _Hot, over: Vec, level: float, wide: float, deep: float) -> Body:
        """The bore by which what lies under the press's nozzle is fed, from a level on."""
        start = made.lying.point(made.lying.flat(over), level)
        bore = at.kernel("nozzle", kernel.solid.cylinder, start, made.pair.pull, wide / 2, deep)
        return at.named(bore).labelled(INLET)

    def _manifold(self, at: Builder, made: _Hot, net: runners.Net, inlet: Point2, beams: hot.Beams) -> tuple[list[Body], float]:
        """The manifold with its plate and pads; the holes that these need in the cavity side, and the melt in it, mm³."""
        pair, lying, plane = made.pair, made.lying, made.pair.plane
        bars = [self._bar(made, a, b, beams, beams.wide / 2, (beams.high, beams.low)) for a, b in net.runs]
        rooms = [
            self._bar(made, a, b, beams, beams.wide / 2 + hot.GAP, (beams.end - 1.0, beams.back + 1.0)) for a, b in net.runs
        ]
        named = [at.named(bar).labelled(f"beam {k}") for k, bar in enumerate(bars, 1)]
        beam = named[0]
        if len(named) > 1:
            whole = at.kernel("nozzle", kernel.boolean.fuse, named[0].solid, [bar.solid for bar in named[1:]])
            beam = at.named(whole, *named)
        frame = plane.shifted(beams.channels)
        size = kernel.runner.Size(made.nozzle.channel, "full round")
        channels = at.named(at.kernel("nozzle", kernel.runner.net, net.runs, frame, size)).labelled("channel")
        start = frame.point(inlet)
        thin = _INLET * made.nozzle.channel
        bores = [self._mouth(at, made, start, beams.high, thin, beams.thick / 2)]
        bores += [self._down(at, made, frame.point(drop.flat), beams, k) for k, drop in enumerate(made.drops, 1)]
        melt = at.kernel("nozzle", kernel.boolean.fuse, channels.solid, [bore.solid for bore in bores], simplify=False)
        melt_body = at.named(melt, channels, *bores)
        places = [lying.flat(drop.skin) for drop in made.drops]
        stands = lying.flat(start)
        held = min(math.dist(stands, place) for place in places) >= (made.nozzle.head + 2 * hot.GAP) / 2 + _APART
        for k, place in enumerate(places, 1):
            self._add(at, made, hot.pad(f"pad{k}", place, beams))
        pins = list[Body]()
        if held:
            one = hot.middle_pad("middlepad", stands, beams)
            self._add(at, made, one)
            pins.append(self._hole(at, made, one))
        tools = [melt_body, *pins]
        (cut,) = at.kernel("nozzle", kernel.boolean.cut, beam.solid, [tool.solid for tool in tools])
        manifold = at.named(cut, beam, *tools)
        box = kernel.measure.corner_box(beam.solid)
        long, short = sorted((box.size[lying.long], box.size[lying.short]), reverse=True)
        stock = Stock(MANIFOLD, "plate", (long, short, beams.thick), hot.STEEL)
        at.new(manifold, ROLES["fixed"], "Manifold", "manifold", pair.pull, (GROUPS["fixed"],), stock)
        self._plate(at, made, beams, [at.named(room).labelled("room") for room in rooms])
        return pins, kernel.measure.volume(melt.solid)

    def _down(self, at: Builder, made: _Hot, start: Vec, beams: hot.Beams, number: int) -> Body:
        """The bore from a channel down to the head of a nozzle."""
        bore = at.kernel("nozzle", kernel.solid.cylinder, start, made.pair.pull, made.nozzle.melt / 2, beams.thick / 2)
        return at.named(bore).labelled(f"drop {number}")

    def _bar(self, made: _Hot, a: Point2, b: Point2, beams: hot.Beams, half: float, levels: tuple[float, float]) -> Made:
        plane, lying = made.pair.plane, made.lying
        (u0, v0), (u1, v1) = lying.flat(plane.point(a)), lying.flat(plane.point(b))
        low = (min(u0, u1) - half, min(v0, v1) - half, levels[0])
        return lying.box(low, (max(u0, u1) + half, max(v0, v1) + half, levels[1]))

    def _plate(self, at: Builder, made: _Hot, beams: hot.Beams, rooms: Sequence[Body]) -> None:
        lying, plate = made.lying, plate_behind(made.lying, MANIFOLD_PLATE, beams.plate)
        for room in rooms:
            around = lying.block(kernel.measure.corner_box(room.solid), "")
            left = min(plate.high[k] - max(abs(around.start[k]), abs(around.end[k])) for k in (0, 1))
            if left < _FRAME:
                words = f"The room for the manifold leaves {at.in_unit(round(max(left, 0.0), 2))} {at.scope.unit} of its plate"
                field, mend = ("inlet_x", "Move the inlet inwards, or leave") if self.inlet_x else ("x", "Leave")
                at.fail(field, f"{words} at the side; {at.in_unit(_FRAME)} is needed.", f"{mend} more margin in the plates.")
        whole = at.named(lying.box(plate.low, plate.high)).labelled("plate")
        (cut,) = at.kernel("plate", kernel.boolean.cut, whole.solid, [room.solid for room in rooms])
        body = at.named(cut, whole, *rooms)
        at.new(body, ROLES["fixed"], plate.name, "plate", made.pair.pull, (GROUPS["fixed"],), plate.stock)

    # --- what came of it --------------------------------------------------------------------------------------------

    def _tell(self, at: Builder, made: _Hot, net: runners.Net, inlet: Point2, kept: float) -> None:
        unit, volumes = at.scope.unit, [kernel.measure.volume(drop.part.body.solid) for drop in made.drops]
        where = place_words(made.drops[0].skin)
        at.note(f"{plural(len(made.drops), 'nozzle')} Ø{at.in_unit(made.nozzle.shank)} {unit}, the first {where}.")
        at.note(f"Gates Ø{at.in_unit(made.gate)} {unit}: {sheared(at, made.drops, made.gate)}.")
        shots = kept / sum(volumes)
        if net.runs:
            at.note(f"Manifold, {ways(at, 'x', net)}; {kept / 1000:.1f} cm³ of melt are kept hot, {shots:.1f} shots.")
        if shots > _LONG_KEPT:
            at.caution(
                "nozzle", f"Melt is kept hot for {shots:.0f} shots, and may suffer. Use thinner nozzles if there are any."
            )
        resin = known(at)
        if net.runs and resin and resin.injection:
            melt, plates = (sum(span) / 2 for span in (resin.injection.melt, resin.injection.mold))
            most = max(math.dist(drop.flat, inlet) for drop in made.drops)
            more = at.in_unit(round(hot.grown(most, melt, plates), 2))
            at.note(f"At {melt:.0f} °C it is {more} {unit} longer to the farthest drop: heads of nozzles slide on it.")
        at.figure("gate_mm", made.gate)
        at.figure("kept_hot", kept)
