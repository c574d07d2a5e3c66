"""Ejectors: pins on the core side that push the part off, and the plate they stand on."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Faces, FieldSpec, Length, LengthFromZero, Row
from supplecast.document.state import PARTS, Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Bar, Frame, Point2, Vec, along, dot, times
from supplecast.steps.tool.behind import Behind, behind
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.pieces import coolant_bores, is_blade, is_sleeve, pieces, stripped, turned_pieces
from supplecast.steps.tool.places import Place, on_first, places
from supplecast.steps.tool.sides import GROUPS
from supplecast.steps.tool.steel import bored
from supplecast.steps.tool.weighing import known
from supplecast.tooling.base.component import Outline, stepped
from supplecast.tooling.base.components import pin_head
from supplecast.tooling.base.pins import ejector_pin
from supplecast.tooling.base.places import Round
from supplecast.wording import brief

_THIN = 2.0  # mm: thinner pins are made stepped (common practice, no source)
_PLATE = 12.0  # mm thick
_STEP = 5.0  # mm: where guides end
_NEAR = 1e-3  # mm
_INTO = 0.2  # mm that a bore goes into what it opens
_LEAST_WELL = 1.0  # mm of a sprue's well that a pin pushes on
_BETWEEN = 0.5  # mm between heads of pins and sleeves (common practice, no source)
_RIM = 8.0  # mm of plate round the outermost pins


class Moved(Row):
    """A pin held at a place on the first part, and the number it goes by: it stays there whatever the part becomes."""

    sentence = "pin {number} held at {x}, {y}"
    adding = "hold a pin"

    number: Annotated[int, Field(ge=1, le=60), FieldSpec("count")] = 1
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"


@dataclass(frozen=True)
class _Pin:
    """A pin by its number at its place of the tool, where its foot is, the level of that, and its bore in the steel there."""

    name: str
    foot: Vec
    level: float
    steel: tuple[Entry, ...]
    bore: Outline
    radius: float
    is_puller: bool = False


class Ejectors(Step):
    """Round pins where the part is flat and sticks: proposed so that steep faces of the core are near a pin, mirrored on a part
    that mirrors itself, none on faces that are `seen`; single ones can be held at a place, and the others are found beside
    them. Every place of the tool gets the same.

    A bore is a close fit for `guide` mm from the cavity on, with `gap` a side, and wider behind. In a mold base pins have heads
    and are held by its retainer plate, and one more pushes the sprue out; without one all stand on a plate of their own.
    Example: {"id": "ej10", "type": "ejectors", "count": 8, "diameter": "5"}
    """

    type: Literal["ejectors"] = "ejectors"
    word = "Ejectors"
    purpose = "pins that push the part off the core"
    search = "pins push off knock out"
    follows = "slide drive"
    picture = ("M4 12h24v4H4z", "M8 12V4M14 12V4M20 12V4M26 12V4M4 18h24v3H4z")
    document_kinds = ("tool",)

    count: Annotated[int, Field(ge=1, le=60), FieldSpec("count")] = 8
    diameter: Length = "4 mm"
    guide: Length = "15 mm"
    gap: LengthFromZero = "0.02 mm"
    relief: LengthFromZero = "0.5 mm"
    clear: LengthFromZero = "3 mm"
    seen: Faces = ()
    moved: Annotated[tuple[Moved, ...], Field(max_length=60), FieldSpec("rows")] = ()

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        """Few at first: the step tells how many the part's grip asks for."""
        return {"count": 4}

    def sentence(self) -> str:
        spared = ", not on {seen}" if self.seen else ""
        return (
            f"Ejectors, {{count}} for each part, {{diameter}} wide{spared}, guided over {{guide}} with {{gap}} a side "
            "{moved}{moved.add}"
        )

    def more(self) -> str:
        spared = "" if self.seen else "; none on {seen}"
        return f"bores {{relief}} a side wider behind the guide; {{clear}} from bores and pins{spared}"

    def build(self, at: Builder) -> None:
        pair = both(at)
        plane = pair.plane
        lying = Lying.of(pair)
        base = behind(at, lying)
        cavities = places(at, plane)
        radius = at.mm("diameter") / 2
        if 2 * radius < _THIN:
            words = f"Pins under {at.in_unit(_THIN)} {at.scope.unit} bend and break"
            at.caution("diameter", f"{words} unless they are stepped and guided all the way (common practice).")
        first = cavities[0]
        spots = self._spots(at, first, pair, plane, radius, base)
        pins: list[_Pin] = []
        for number, place in enumerate(cavities, 1):
            here = {name: place.at(first, spot) for name, spot in spots.items()}
            pins += self._pins(at, place, plane, here, radius, f"at{number}" if len(cavities) > 1 else "", base is not None)
        if base is not None:
            pins += self._under_sprue(at, lying, pair, radius)
        bores = [at.named(lying.turned(lying.flat(pin.foot), pin.bore)).labelled(str(k)) for k, pin in enumerate(pins, 1)]
        for entry in dict.fromkeys(entry for pin in pins for entry in pin.steel):
            bored(at, "diameter", [entry], [bore for pin, bore in zip(pins, bores, strict=True) if entry in pin.steel])
        if base is None:
            self._on_plate(at, pair, plane, cavities, pins, radius)
        else:
            self._in_base(at, lying, base, pins)
        offs = self._clearance(at, lying, pins, base)
        at.figure("ejectors", len(pins))
        for name, (x, y) in spots.items():
            at.figure(f"pin {name} x", x)
            at.figure(f"pin {name} y", y)
        words = ", ".join(f"{n} at {at.in_unit(round(x, 1))}, {at.in_unit(round(y, 1))}" for n, (x, y) in spots.items())
        at.note(f"On the first part: {words}. At least {at.in_unit(round(offs, 2))} {at.scope.unit} from other holes.")
        if offs < at.mm("clear"):
            at.caution(
                "count",
                f"A pin comes within {at.in_unit(round(offs, 2))} of another hole; {at.in_unit(at.mm('clear'))} should stay.",
            )
        self._bear(at, first, pair, len(spots), radius, max(self._length(pin, pair, plane, base) for pin in pins))

    def _spots(
        self, at: Builder, first: Place, pair: Pair, plane: Frame, radius: float, base: Behind | None
    ) -> dict[int, Point2]:
        """Where the pins of the first part stand, by number: those held, and the others where they push best beside them."""
        held: dict[int, Point2] = {}
        for row, moved in enumerate(self.moved):
            if moved.number > self.count:
                words = f"There is no pin {moved.number}."
                at.fail(f"moved.{row}.number", words, f"There are {self.count}; ask for more, or give it a lower number.")
            if moved.number in held:
                at.fail(f"moved.{row}.number", f"Pin {moved.number} is held twice.", "Give one of them another number.")
            x, y = (at.length(f"moved.{row}.{axis}", getattr(moved, axis), "any") for axis in ("x", "y"))
            held[moved.number] = (x, y)
        skin = molding.judge.skin_of(first.part.body.solid).places
        top = float((skin.whole.corners.reshape(-1, 3) @ list(pair.pull)).max())
        spared = on_first(at, "seen", self.seen, first)
        spared += stripped(at, first.part, pair.pull)
        apart = max(4 * radius, pin_head(2 * radius)[0] + 1.0) if base else 4 * radius
        room = molding.sticking.Room(radius, apart, top, spared, list(held.values()), self._beside(at, plane, apart / 2))
        wanted = self.count - len(held)
        proposed = at.kernel("count", molding.sticking.proposed, skin, pair.pull, room, wanted) if wanted else []
        if not proposed and not held:
            if self.seen:
                at.fail(
                    "seen", "Beside the faces that are seen there is no flat place for a pin.", "Leave one of them to the pins."
                )
            at.fail("diameter", "There is no flat place wide enough for such a pin.", "Use thinner pins.")
        if len(proposed) < wanted:
            at.note(f"Room for {len(proposed) + len(held)} pins only.")
        free = [number for number in range(1, self.count + 1) if number not in held]
        return dict(sorted([*held.items(), *zip(free, proposed, strict=False)]))

    def _beside(self, at: Builder, plane: Frame, room: float) -> list[tuple[Point2, float]]:
        """Core pins, sleeves and blades with their heads, and lifters, and how far off them a pin's middle must be."""
        found = []
        for entry in (e for e in at.bodies() if e.role in ("core pin", "lifter") or is_sleeve(e) or is_blade(e)):
            box = kernel.measure.loose_box(entry.body.solid)
            wide = [abs(b - a) for a, b in zip(plane.flat(box.low), plane.flat(box.high), strict=True)]
            reach = math.hypot(*wide) if entry.role == "lifter" else min(wide)
            found.append((plane.flat(box.centre), reach / 2 + room + _BETWEEN))
        return found

    def _pins(
        self, at: Builder, place: Place, plane: Frame, spots: dict[int, Point2], radius: float, where: str, in_base: bool
    ) -> list[_Pin]:
        """The pins of one place, up to the part, and their bores in the steel there."""
        up, gap, guide, relief = plane.normal, at.mm("gap"), at.mm("guide"), at.mm("relief")
        far = kernel.measure.beyond(place.part.body.solid, plane.origin)
        back = self._back(place.core, plane)
        pins: list[_Pin] = []
        for number, spot in spots.items():
            over = plane.point(spot)
            hit = kernel.probing.first_hit(place.part.body.solid, along(over, up, far), times(up, -1.0))
            if hit is None:
                at.fail("moved", f"Pin {number} does not stand on the part.", "Move it over the part.")
            height = far - hit
            foot = along(over, up, height)
            inner, outer = radius + gap, radius + gap + relief
            end = height + guide
            if in_base:  # to the next 5 mm, so that it ends there still when the part gets a thicker wall
                end = _STEP * math.ceil(end / _STEP - 1e-6)
            bore = stepped((height - _INTO, end, inner), (end, max(back, end) + 1.0, outer))
            pins.append(_Pin(f"{number}{where}", foot, height, place.core, bore, radius))
        return pins

    def _back(self, steel: Sequence[Entry], plane: Frame) -> float:
        """The level of the back of the core side."""
        up = plane.normal
        return max(kernel.measure.span(entry.body.solid, up)[1] for entry in steel) - dot(plane.origin, up)

    def _length(self, pin: _Pin, pair: Pair, plane: Frame, base: Behind | None) -> float:
        return (base.levels.rest if base else self._back(pin.steel, plane)) - pin.level

    def _under_sprue(self, at: Builder, lying: Lying, pair: Pair, radius: float) -> list[_Pin]:
        """A pin that pushes the sprue's well out by its flat end, no wider than that; only where a bush tells of a sprue."""
        bush = next((e for e in at.bodies() if e.stock and e.stock.kind == "Sprue bush"), None)
        if bush is None:
            return []
        spot = lying.flat(kernel.measure.box(bush.body.solid).centre)
        steel = tuple(e for e in at.bodies() if e.role == "core")
        for solid in (e.body.solid for e in at.bodies() if e.role == "feed"):
            for face in (face for face in range(solid.face_count) if kernel.measure.is_flat(solid, face)):
                frame, middle = kernel.measure.flat_frame(solid, face), kernel.measure.face_middle(solid, face)
                level = lying.level(middle)
                if dot(frame.normal, pair.pull) < 0.999 or math.dist(lying.flat(middle), spot) > _NEAR or level < _LEAST_WELL:
                    continue
                own = min(radius, math.sqrt(kernel.measure.face_area(solid, face) / math.pi) - at.mm("gap"))
                back = max(kernel.measure.span(e.body.solid, pair.pull)[1] for e in steel) - pair.parting
                bore = stepped((level - _INTO, back + 1.0, own + at.mm("gap")))
                return [_Pin("under the sprue", lying.point(spot, level), level, steel, bore, own, True)]
        return []

    def _on_plate(self, at: Builder, pair: Pair, plane: Frame, cavities: list[Place], pins: list[_Pin], radius: float) -> None:
        """Without a mold base: one body of all pins and a plate behind the core side that they stand on."""
        axis, up = pair.axis, plane.normal
        made = [kernel.solid.cylinder(pin.foot, up, radius, self._back(pin.steel, plane) - pin.level + 0.5) for pin in pins]
        boxes = [kernel.measure.loose_box(pin.solid) for pin in made]
        low = [min(b.low[k] for b in boxes) - _RIM for k in range(3)]
        high = [max(b.high[k] for b in boxes) + _RIM for k in range(3)]
        top = max(kernel.measure.span(e.body.solid, pair.pull)[1] for place in cavities for e in place.core)
        back = top * pair.pull[axis]
        ends = (back, back + pair.pull[axis] * _PLATE)
        low[axis], high[axis] = min(ends), max(ends)
        plate = kernel.solid.box((low[0], low[1], low[2]), (high[0], high[1], high[2]))
        whole = at.kernel("diameter", kernel.boolean.fuse, plate.solid, [pin.solid for pin in made], simplify=False)
        named = [at.named(pin).labelled(f"pin {k}") for k, pin in enumerate(made, 1)]
        at.new(at.named(whole, at.named(plate), *named), "ejector", "Ejectors", pull=pair.pull)

    def _in_base(self, at: Builder, lying: Lying, base: Behind, pins: list[_Pin]) -> None:
        """Headed pins in the retainer plate of a mold base, each a body of its own."""
        holes = []
        for pin in pins:
            wide = 2 * pin.radius
            suffix = "".join(c for c in pin.name.title() if c.isalnum())
            spot = lying.flat(pin.foot)
            one = ejector_pin(suffix, spot, pin.level, wide, base.levels.back, base.levels.rest)
            off = max(abs(c) + pin_head(wide)[0] / 2 - far for c, far in zip(spot, base.reach, strict=True))
            if off > 0:
                words = f"Pin {pin.name} stands {at.in_unit(round(off, 2))} {at.scope.unit} past the ejector plates."
                at.fail("count", words, "Use narrower spacers in the mold base, or hold the pin nearer to the middle.")
            holes.append(at.named(lying.hole(one)).labelled(f"{suffix} hole"))
            body = at.named(lying.body(one)).labelled(f"pin {pin.name}")
            at.new(body, "ejector", one.name, suffix, lying.pair.pull, (GROUPS["ejection"],), one.stock)
        bored(at, "diameter", (base.support, base.retainer), holes)

    def _bear(self, at: Builder, first: Place, pair: Pair, count: int, radius: float, length: float) -> None:
        """What the pins bear as they push the part off, against what walls and pins stand."""
        resin = known(at)
        if resin is None or resin.injection is None:
            return
        skin = molding.judge.skin_of(first.part.body.solid)
        whole = molding.release.force(skin, pair.pull, resin)
        share = self._share(at, first, pair, count * math.pi * radius**2)
        bears = molding.release.pushed(share * whole, count, 2 * radius, max(length - at.mm("guide"), 1.0))
        beside = "" if share == 1 else ", and what pushes beside them"
        at.note(f"Each part sticks with {brief(whole)} kN: {brief(bears.pressure)} MPa under its pins{beside}.")
        at.figure("pin_pressure", bears.pressure)
        at.figure("buckling_safety", bears.buckling)
        if bears.pressure > molding.release.PRESSED:
            more = math.ceil(count * bears.pressure / molding.release.PRESSED)
            words = (
                f"The pins press {brief(bears.pressure)} MPa on a wall that bears {molding.release.PRESSED:g} (common practice)"
            )
            at.caution("count", f"{words}. Use {more} pins, or wider ones, or more draft.")
        if bears.buckling < molding.release.SAFE:
            wide = 2 * radius * (molding.release.SAFE / bears.buckling) ** 0.25
            words = f"A pin {at.in_unit(round(length, 1))} long bears {brief(bears.each)} N and would buckle at"
            words = f"{words} {brief(bears.each * bears.buckling)} (Euler), less than {molding.release.SAFE:g} times"
            at.caution("diameter", f"{words}. Use {at.no_less(wide)} {at.scope.unit}, or more pins.")

    def _share(self, at: Builder, first: Place, pair: Pair, own: float) -> float:
        """What pins of so many mm² on one part take of the force that pushes it off, where sleeves, blades and strippers push
        too.
        """
        part, others = first.part.body.solid, 0.0
        for stock in (e.stock for e in at.bodies() if e.stock and (is_sleeve(e) or is_blade(e))):
            if stock.form == "ring":
                others += math.pi * (stock.sizes[0] ** 2 - stock.sizes[1] ** 2) / 4
            else:
                others += math.prod(float(size) for size in stock.kind.removeprefix("Ejector blade ").split(" × "))
        parts = max(sum(e.role in PARTS for e in at.bodies()), 1)
        rims = sum(kernel.measure.face_area(part, face) for face in stripped(at, first.part, pair.pull))
        return own / (own + others / parts + rims)

    def _clearance(self, at: Builder, lying: Lying, pins: Sequence[_Pin], base: Behind | None) -> float:
        """The least distance between a pin and another, or what else runs through the core side and the plates behind it."""
        feeds = [kernel.nearness.skin(e.body.solid) for e in at.bodies() if e.role == "feed"]
        end = base.levels.rest if base else max(pin.bore[-1][0] for pin in pins)
        pushing = [pin for pin in pins if not pin.is_puller]
        bars = [Bar(pin.foot, along(pin.foot, lying.pair.pull, end - pin.level), pin.radius) for pin in pushing]
        # A feed on the far side of the wall that a pin pushes on is not in its way: what reaches past its tip is.
        behind_tips = [
            Bar(along(pin.foot, lying.pair.pull, pin.radius), bar.end, pin.radius)
            for pin, bar in zip(pushing, bars, strict=True)
        ]
        least = kernel.nearness.bars_to(behind_tips, feeds)
        for lifter in (e for e in pieces(at) if e.role == "lifter"):
            away = kernel.nearness.bars_to(bars, [kernel.nearness.skin(lifter.body.solid)])
            least = min(least, self._apart(at, lifter.name, away))
        least = min(least, self._apart(at, "a coolant bore", kernel.nearness.bars_apart(bars, coolant_bores(at, lying.pair))))
        taken = [Round(lying.flat(pin.foot), pin.radius, pin.level, end) for pin in pins]
        for number, one in enumerate(taken):
            least = min([least, *(one.away(other) for other in taken[number + 1 :])])
        for entry, rounds in turned_pieces(at, lying):
            least = min(least, self._apart(at, entry.name, min(one.away(other) for one in taken for other in rounds)))
        return least

    def _apart(self, at: Builder, other: str, away: float) -> float:
        if away <= 0:
            hint = "Hold it elsewhere, or use thinner pins."
            if other == "a coolant bore":
                hint = "Move cooling below this step, so that it keeps clear of the pins, or hold the pin elsewhere."
            at.fail("count", f"A pin runs into {other}.", hint)
        return away
