"""Stripper: rings round the cores, or one plate round all of them, that push parts off by their rims."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from itertools import combinations
from typing import TYPE_CHECKING, Any, Literal, NoReturn

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, Faces, Length, LengthFromZero
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Bar, Point2, Vec
from supplecast.naming import Body
from supplecast.steps.tool.behind import Behind, needed
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import both
from supplecast.steps.tool.pieces import coolant_bores, pieces
from supplecast.steps.tool.places import Place, on_first, places
from supplecast.steps.tool.sides import GROUPS
from supplecast.steps.tool.steel import bored
from supplecast.steps.tool.weighing import known
from supplecast.tooling.base.component import Component, stepped
from supplecast.tooling.base.components import pin_head
from supplecast.tooling.base.pins import push_rod
from supplecast.tooling.base.places import WALL, Block
from supplecast.tooling.stock import Stock, at_least
from supplecast.wording import brief, plural

if TYPE_CHECKING:
    from supplecast.kernel.features.stripping import Seat
    from supplecast.kernel.shapes.history import Made

_RODS = (6.0, 8.0, 10.0, 12.0, 16.0, 20.0)  # mm (as ejector pins of ISO 6751, from memory)
_CORNER = 0.5  # of the band: radius of a stripper's corners (common practice, no source)
_PAST, _SAME = 1.0, 1e-3
_RELIEF = 0.5  # mm a side that bores of rods are wider behind their guide (common practice, no source)
_GUIDED = 2.0  # diameters over which a rod is guided behind the stripper (common practice, no source)
_LEANS = (3.0, 15.0)  # degrees between which a stripper comes off and does not wedge (common practice, from memory)


@dataclass(frozen=True)
class _Ring:
    """One stripper: what it takes of the plates, the radius of its outline if it is round, and the rims it pushes on."""

    name: str
    block: Block
    radius: float | None
    rims: Sequence[tuple[Place, Seat]]

    def rods(self, wide: float, reach: Point2) -> list[Point2]:
        """Where its four rods stand: in the corners, the middle of its band from the outline; nearer to each other along one
        side where they would stand farther out than `reach` in plan.
        """
        (u0, v0), (u1, v1) = self.block.start, self.block.end
        inset = wide / 2
        if self.radius is not None:
            off = (self.radius - inset) / math.sqrt(2)
            u, v = (u0 + u1) / 2, (v0 + v1) / 2
            return [(u + a * off, v + b * off) for a in (-1, 1) for b in (-1, 1)]
        us: tuple[float, float] = (u0 + inset, u1 - inset)
        vs: tuple[float, float] = (v0 + inset, v1 - inset)
        if max(map(abs, us)) <= reach[0]:
            vs = _within(vs, reach[1])
        elif max(map(abs, vs)) <= reach[1]:
            us = _within(us, reach[0])
        return [(u, v) for u in us for v in vs]


def _within(ends: tuple[float, float], reach: float) -> tuple[float, float]:
    """Both ends of a stretch drawn in as far as is reached, if that leaves two of them."""
    low, high = max(ends[0], -reach), min(ends[1], reach)
    return (low, high) if high - low > (ends[1] - ends[0]) / 2 else ends


class Stripper(Step):
    """A ring round the core of each part, or one plate round all of them, pushes the parts off by the whole of their rims and
    leaves no marks of pins. It sits on the core with a lean, a little inside the rim, so that it neither scrapes nor lets melt
    through, and stands on four rods from the retainer plate of a mold base.
    Example: {"id": "st12", "type": "stripper", "shape": "a ring for each part", "wide": "14 mm"}
    """

    type: Literal["stripper"] = "stripper"
    word = "Stripper"
    purpose = "a ring or plate that pushes parts off by their rims"
    search = "stripper ring plate sleeve push off rim ejection without marks"
    follows = "blades"
    picture = ("M4 16h24v5H4z", "M4 11h6v4H4zM22 11h6v4h-6zM11 15V5h10v10M7 15v6M25 15v6")
    suits = ("faces",)
    document_kinds = ("tool",)

    shape: Literal["a ring for each part", "one plate for all"] = "a ring for each part"
    rims: Faces = ()
    wide: Length = "14 mm"
    thick: Length = "12 mm"
    lean: Angle = "5"
    aside: LengthFromZero = "0.2 mm"
    rods: AnyLength = ""
    gap: LengthFromZero = "0.02 mm"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"rims": [pick for pick in picked if "face" in pick]}

    def sentence(self) -> str:
        where = "under {rims}" if self.rims else "under the rim"
        return (
            f"Stripper, {{shape}} {where}, {{wide}} beside it, {{thick}} thick, leaning {{lean}} on the core, on rods {{rods}}"
        )

    def more(self) -> str:
        only = "" if self.rims else "; only under {rims}"
        return f"{{aside}} inside the rim, {{gap}} a side in its pocket{only}"

    def build(self, at: Builder) -> None:
        pair = both(at)
        lying = Lying.of(pair)
        base = needed(at, lying, "shape", "A stripper stands on the ejector plates of a mold base, and there are none yet.")
        lean = at.radians("lean", *_LEANS)
        cavities = places(at, pair.plane)
        rims = self._rims(at, lying, cavities)
        taken = max(0.0, at.mm("aside") + at.mm("thick") * math.tan(lean) - min(seat.wall for _, seat in rims))
        rods = self._rods(at, taken)
        rings = self._rings(at, lying, rims)
        holes: dict[str, tuple[Entry, list[Body]]] = {}
        for ring in rings:
            self._one(at, lying, base, ring, lean, rods, at.mm("wide") - taken, holes)
        for entry, tools in holes.values():
            bored(at, "wide", [entry], tools)
        own = [seat for place, seat in rims if place is cavities[0]]
        self._tell(at, lying, cavities[0], own, rods, len(rings))

    # --- where ------------------------------------------------------------------------------------------------------

    def _rims(self, at: Builder, lying: Lying, cavities: Sequence[Place]) -> list[tuple[Place, Seat]]:
        """The rims under which strippers come, place by place."""
        first = cavities[0]
        pull = lying.pair.pull
        seats = kernel.stripping.seats(first.part.body.solid, pull)
        picked = on_first(at, "rims", self.rims, first)
        chosen = [seat for seat in seats if seat.face in picked] if picked else seats[:1]
        if len(chosen) < max(len(picked), 1):
            words = "A picked face is not a flat rim round the core, square to the pull"
            words = words if picked else f"{first.part.name} has no flat rim round the core, square to the pull"
            at.fail("rims", f"{words}.", "Pick a rim." if picked else "Push the part off by pins or blades.")
        aside = at.mm("aside")
        for seat in chosen:
            if aside > seat.wall / 2:
                words = f"{at.in_unit(aside)} {at.scope.unit} inside a rim {at.in_unit(round(seat.wall, 2))} wide"
                at.fail("aside", f"{words} leaves too little to push on.", f"Use {at.no_more(seat.wall / 2)} or less.")
        found = [(first, seat) for seat in chosen]
        for place in cavities[1:]:
            own = kernel.stripping.seats(place.part.body.solid, pull)
            for seat in chosen:
                goal = place.at(first, self._flat(lying, first, seat))
                found.append((place, min(own, key=partial(self._unlike, lying, place, seat, goal))))
        return found

    def _unlike(self, lying: Lying, place: Place, seat: Seat, goal: Point2, own: Seat) -> tuple[bool, float]:
        """How little a rim of another part is that of the first one: in its area, and in how far off its place it lies."""
        return abs(own.area - seat.area) > _SAME, math.dist(self._flat(lying, place, own), goal)

    def _flat(self, lying: Lying, place: Place, seat: Seat) -> Point2:
        return lying.pair.plane.flat(kernel.measure.face_box(place.part.body.solid, seat.face).centre)

    def _rods(self, at: Builder, taken: float) -> float:
        """Their diameter: by rule as wide as the band lets them be, of which the leaning core has `taken` some mm."""
        unit, most = at.scope.unit, at.mm("wide") - taken - 2 * WALL
        wide = at.length("rods", self.rods, "positive") if self.rods else max((d for d in _RODS if d <= most), default=0.0)
        if wide == 0.0 or wide > most + 1e-9:
            need = at.no_less((wide or _RODS[0]) + 2 * WALL + taken)
            words = f"A band of {at.in_unit(at.mm('wide'))} {unit}"
            words = f"{words}, of which the lean takes {at.in_unit(round(taken, 2))} at its back," if taken else words
            thinner = f"thinner rods, {at.no_more(most)} or less, or " if wide and most >= _RODS[0] else ""
            at.fail(
                "rods" if wide else "wide",
                f"{words} has no room for rods{f' of {at.in_unit(wide)}' if wide else ''}.",
                f"Use {thinner}{need} or more beside the rim.",
            )
        return wide

    def _rings(self, at: Builder, lying: Lying, rims: Sequence[tuple[Place, Seat]]) -> list[_Ring]:
        """A ring for each rim, or one plate over all of them."""
        wide = at.mm("wide")
        rings = []
        for number, (place, seat) in enumerate(rims, 1):
            box = kernel.measure.face_box(place.part.body.solid, seat.face)
            block = lying.block(box, "", wide)
            block = Block(block.start, block.end, block.high, block.high + at.mm("thick"))
            radius = seat.radius + wide if seat.radius is not None else None
            rings.append(_Ring(f"{number}" if len(rims) > 1 else "", block, radius, [(place, seat)]))
        if self.shape == "a ring for each part" or len(rings) == 1:
            self._apart(at, rings)
            return rings
        levels = {round(ring.block.low, 4) for ring in rings}
        if len(levels) > 1:
            at.fail("shape", "The rims lie at different levels.", "Use a ring for each part.")
        starts, ends = zip(*((ring.block.start, ring.block.end) for ring in rings), strict=True)
        low = (min(p[0] for p in starts), min(p[1] for p in starts))
        high = (max(p[0] for p in ends), max(p[1] for p in ends))
        return [_Ring("", Block(low, high, rings[0].block.low, rings[0].block.high), None, rims)]

    def _apart(self, at: Builder, rings: Sequence[_Ring]) -> None:
        """Steel stays between rings."""
        for one, other in combinations(rings, 2):
            gaps = [max(b.start[k] - a.end[k], a.start[k] - b.end[k]) for a, b in [(one.block, other.block)] for k in (0, 1)]
            if max(gaps) < WALL:
                most = at.mm("wide") + (max(gaps) - WALL) / 2
                narrower = f"Use {at.no_more(most)} {at.scope.unit} or less beside the rim, or" if most > 0 else "Use"
                words = "Two rings leave too little steel between them"
                words = "Two rings would run into each other" if max(gaps) < 0 else words
                at.fail("wide", f"{words}.", f"{narrower} one plate for all.")

    # --- one of them --------------------------------------------------------------------------------------------------

    def _one(
        self, at: Builder, lying: Lying, base: Behind, ring: _Ring, lean: float, rods: float, band: float,
        holes: dict[str, tuple[Entry, list[Body]]],
    ) -> None:  # fmt: skip
        """A stripper cut out of the core side, with its rods; what it needs of steel and plates is added to `holes`."""
        steel = list(dict.fromkeys(entry for place, _ in ring.rims for entry in place.core))
        pull, block = lying.pair.pull, ring.block
        for entry in steel:
            self._fits(at, entry, lying.block(kernel.measure.corner_box(entry.body.solid), ""), block)
        feet = [at.named(self._foot(at, p, seat, lean, pull)).labelled(f"foot{ring.name}{k}") for k, (p, seat) in
                enumerate(ring.rims, 1)]  # fmt: skip
        cutter, pocket = (self._shell(at, lying, ring, feet, grown) for grown in (0.0, at.mm("gap")))
        body = self._formed(at, steel, cutter)
        for entry in steel:
            holes.setdefault(entry.id, (entry, []))[1].append(pocket)
        around = pin_head(rods)[0] / 2
        reach = (base.reach[0] - around, base.reach[1] - around)
        rod_parts = [push_rod(f"rod{ring.name}{k}", spot, block.high, rods, base.levels) for k, spot in
                     enumerate(ring.rods(band, reach), 1)]  # fmt: skip
        self._reach(at, reach, rod_parts)
        into = block.high - rod_parts[0].outer[0][0]
        if at.mm("thick") < into + WALL:
            words = f"The rods are screwed {at.in_unit(into)} {at.scope.unit} deep into the stripper"
            at.fail("thick", f"{words}.", f"Use {at.no_less(into + WALL)} or more, or thinner rods.")
        threads = [at.named(lying.turned(one.at, one.outer[:2])).labelled(f"{one.id} thread") for one in rod_parts]
        (tapped,) = at.kernel("rods", kernel.boolean.cut, body.solid, [thread.solid for thread in threads])
        body = at.named(tapped, body, *threads)
        stripper = Entry(f"stripper{ring.name}", "the stripper", "stripper", body, "")
        self._clear(at, lying, stripper, rod_parts, base)
        sizes = (block.end[0] - block.start[0], block.end[1] - block.start[1])
        long, across = sorted((round(size, 2) for size in sizes), reverse=True)
        stock = Stock("Stripper ring" if self.shape == "a ring for each part" else "Stripper plate", "plate",
                      (long, across, at_least(at.mm("thick"))), "X40CrMoV5-1")  # fmt: skip
        at.new(body, "stripper", stock.kind, stripper.id, pull, (GROUPS["ejection"],), stock)
        for one in rod_parts:
            at.new(
                at.named(lying.body(one)).labelled(one.id), "ejection", one.name, one.id, pull, (GROUPS["ejection"],), one.stock
            )
            self._bore(at, lying, base, steel, one, block.high, rods, holes)

    def _fits(self, at: Builder, steel: Entry, room: Block, block: Block) -> None:
        """A stripper stays within the core side, and leaves no thin wall of an insert beside it."""
        unit = at.scope.unit
        left = min(a - b for a, b in zip(block.start, room.start, strict=True))
        left = min(left, *(b - a for a, b in zip(block.end, room.end, strict=True)))
        if left < WALL - _SAME and (steel.role == "core" or left > _SAME):
            words = f"The stripper comes within {at.in_unit(round(left, 2))} {unit} of the side of {steel.name}"
            words = words if left >= 0 else f"The stripper goes {at.in_unit(round(-left, 2))} {unit} past {steel.name}"
            most = at.mm("wide") + left - WALL
            ways = [f"{at.no_more(most)} or less"] if most >= _RODS[0] + 2 * WALL else []
            ways += [f"{at.no_less(at.mm('wide') + left)} or more"] if steel.role != "core" else []
            at.fail("wide", f"{words}.", f"Use {', or '.join(ways)}." if ways else "Give the block more room round the part.")
        if room.high - block.high < WALL:
            most = room.high - block.low - WALL
            words = f"{steel.name} ends {at.in_unit(round(room.high - block.low, 2))} {unit} behind the rim"
            at.fail("thick", f"{words}.", f"Use {at.no_more(most)} or less." if most > WALL else "Make the core side thicker.")

    def _formed(self, at: Builder, steel: Sequence[Entry], cutter: Body) -> Body:
        """What the core side has where the stripper comes, as one piece."""
        named = []
        for entry in steel:
            for made in at.kernel("thick", kernel.boolean.common, entry.body.solid, [cutter.solid]):
                named.append(at.named(made, entry.body, cutter))
        if not named:
            at.fail("rims", "The core side has no steel round that rim.", "Pick another rim.")
        body = named[0]
        if len(named) > 1:  # with what lies between inserts and their pockets
            beside = (e for e in at.bodies() if e not in steel and kernel.nearness.boxes_apart(e.body.solid, cutter.solid) <= 0)
            others = [*named, *(entry.body for entry in beside if entry.is_solid)]
            gaps = at.kernel("rims", kernel.boolean.cut, cutter.solid, [one.solid for one in others], pieces=None)
            named += [at.named(gap, cutter, *others).labelled(f"gap{k}") for k, gap in enumerate(gaps, 1)]
            whole = at.kernel("rims", kernel.boolean.fuse, body.solid, [one.solid for one in named[1:]])
            body = at.named(whole, *named)
        return body

    def _foot(self, at: Builder, place: Place, seat: Seat, lean: float, pull: Vec) -> Made:
        part = place.part.body.solid
        return at.kernel("aside", kernel.stripping.foot, part, seat.face, pull, at.mm("aside"), at.mm("thick") + _PAST, lean)

    def _shell(self, at: Builder, lying: Lying, ring: _Ring, feet: Sequence[Body], grown: float) -> Body:
        """What a stripper fills, `grown` in its pocket."""
        block = ring.block
        if ring.radius is not None:
            middle = ((block.start[0] + block.end[0]) / 2, (block.start[1] + block.end[1]) / 2)
            made = lying.turned(middle, stepped((block.low, block.high, ring.radius + grown)))
        else:
            low = (block.start[0] - grown, block.start[1] - grown, block.low)
            high = (block.end[0] + grown, block.end[1] + grown, block.high)
            made = at.kernel("wide", lying.rounded, low, high, _CORNER * at.mm("wide") + grown)
        outside = at.named(made).labelled(f"outside{ring.name}{'' if grown == 0 else ' pocket'}")
        (shell,) = at.kernel("aside", kernel.boolean.cut, outside.solid, [foot.solid for foot in feet])
        return at.named(shell, outside, *feet)

    def _reach(self, at: Builder, reach: Point2, rods: Sequence[Component]) -> None:
        off = max(abs(c) - far for one in rods for c, far in zip(one.at, reach, strict=True))
        if off > _SAME:
            words = f"A rod would stand {at.in_unit(round(off, 2))} {at.scope.unit} past the ejector plates"
            at.fail("rods", f"{words}.", "Use narrower spacers in the mold base, or less beside the rim.")

    def _bore(
        self, at: Builder, lying: Lying, base: Behind, steel: Sequence[Entry], one: Component, back: float, wide: float,
        holes: dict[str, tuple[Entry, list[Body]]],
    ) -> None:  # fmt: skip
        """The bore of a rod: guided behind the stripper, loose from there on."""
        last = max(kernel.measure.span(e.body.solid, lying.pair.pull)[1] for e in steel) - lying.pair.parting
        snug, end = wide / 2 + at.mm("gap"), min(back + _GUIDED * wide, last)
        bore = (
            stepped((back, end, snug), (end, last + _PAST, snug + _RELIEF))
            if end < last - _SAME
            else stepped((back, end, snug))
        )
        inside = at.named(lying.turned(one.at, bore)).labelled(f"{one.id} bore")
        behind = at.named(lying.hole(one)).labelled(f"{one.id} hole")
        for entry, hole in (*((entry, inside) for entry in steel), (base.support, behind), (base.retainer, behind)):
            holes.setdefault(entry.id, (entry, []))[1].append(hole)

    def _clear(self, at: Builder, lying: Lying, stripper: Entry, rods: Sequence[Component], base: Behind) -> None:
        """Neither a stripper nor a rod of it may run into what is there."""
        own = kernel.nearness.skin(stripper.body.solid)
        rest = base.levels.rest
        bars = [Bar(lying.point(one.at, one.outer[1][0]), lying.point(one.at, rest), one.outer[-1][1]) for one in rods]
        coolant = coolant_bores(at, lying.pair)
        if kernel.nearness.bars_to(coolant, [own]) <= 0:
            self._met(at, "The stripper", "a coolant bore")
        if kernel.nearness.bars_apart(bars, coolant) <= 0:
            self._met(at, "A rod of the stripper", "a coolant bore")
        opening = molding.opening
        mine = opening.meshed(stripper.body.solid)
        for other in pieces(at):
            its = opening.meshed(other.body.solid)
            if opening.near(mine, its) and opening.shared(mine, its) > opening.allowed(mine, its):
                self._met(at, "The stripper", other.name)
            if kernel.nearness.bars_to(bars, [kernel.nearness.skin(other.body.solid)]) <= 0:
                self._met(at, "A rod of the stripper", other.name)

    def _met(self, at: Builder, what: str, other: str) -> NoReturn:
        wayout = "Move cooling below this step" if other == "a coolant bore" else f"Move what made {other} below this step"
        at.fail("wide", f"{what} runs into {other}.", f"{wayout}, or use another width beside the rim.")

    # --- what came of it ------------------------------------------------------------------------------------------------

    def _tell(self, at: Builder, lying: Lying, first: Place, seats: Sequence[Seat], rods: float, count: int) -> None:
        unit = at.scope.unit
        pushing = sum(max(seat.area - seat.inner * at.mm("aside"), 0.0) for seat in seats)
        kind = "ring" if self.shape == "a ring for each part" else "plate"
        at.note(
            f"{plural(count, f'stripper {kind}')} on {plural(4 * count, 'rod')} Ø{at.in_unit(rods)} {unit}; "
            f"pushes on {pushing:.0f} mm² of each part."
        )
        at.figure("strippers", count)
        at.figure("stripper_pushes_mm2", pushing)
        resin = known(at)
        if resin is None or resin.injection is None:
            return
        whole = 1000 * molding.release.force(molding.judge.skin_of(first.part.body.solid), lying.pair.pull, resin)
        pressure = whole / pushing
        at.figure("stripper_pressure", pressure)
        at.note(f"Each part sticks with {brief(whole / 1000)} kN: {brief(pressure)} MPa on its rim.")
        if pressure > molding.release.PRESSED:
            words = (
                f"The stripper presses {brief(pressure)} MPa on a rim that bears {molding.release.PRESSED:g} (common practice)"
            )
            at.caution("aside", f"{words}. Come nearer to the core, or give the part more draft or a wider rim.")
