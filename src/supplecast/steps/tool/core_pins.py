"""Core pins: round pins of their own for what the core reaches into holes of bosses with, and sleeves that push those off."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Faces, Length, LengthFromZero
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Bar, Frame, Vec, along
from supplecast.naming import Body
from supplecast.steps.tool.behind import Behind, needed
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.marks import parted_as
from supplecast.steps.tool.pair import both
from supplecast.steps.tool.pieces import coolant_bores, meet, pieces, rounds_of, turned_pieces
from supplecast.steps.tool.places import Place, on_first, places
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.steel import bored
from supplecast.tooling.base.component import stepped
from supplecast.tooling.base.components import pin_head
from supplecast.tooling.base.pins import PINS, SLEEVE_WALL, SLEEVES, core_pin_shank, ejector_sleeve
from supplecast.tooling.stock import Stock, at_least
from supplecast.wording import place_words, plural

if TYPE_CHECKING:
    from supplecast.kernel.molds.posts import Post

_INTO, _PAST, _JOINED = 0.2, 1.0, 2.0  # mm that a bore goes into what it opens, past a hole's end, and a pin's front goes on
_SLENDER = 4.0  # times its width that a pin held at one end stands out at most (common practice, from memory)
_OVER = 0.1  # mm a side that a pin is wider than its hole at least: its edge would run out (common practice, no source)
_HEAD, _RELIEF = 0.25, 0.5  # mm a side of air round a head, and behind a sleeve's guide (common practice, no source)


@dataclass(frozen=True)
class _Fit:
    """A hole with the diameters of its core pin and sleeve, mm; no sleeve, 0."""

    post: Post
    pin: float
    sleeve: float


@dataclass(frozen=True)
class _Site:
    """Where pins are made: the plates in plan, the parting plane, the first part's place, the mold base if sleeves stand in it,
    and by body the bores that they need of it.
    """

    lying: Lying
    plane: Frame
    first: Place
    base: Behind | None
    bores: dict[str, list[Body]] = field(default_factory=dict)

    def bore(self, entries: Iterable[Entry], tool: Body) -> None:
        for entry in entries:
            self.bores.setdefault(entry.id, []).append(tool)


@dataclass(frozen=True)
class _Made:
    """What one hole got: its pin, and its sleeve."""

    entries: tuple[Entry, ...]
    axis: Bar


class CorePins(Step):
    """What the core reaches into round holes with becomes pins of their own, which can be changed when they break or bend: in
    the holes of bosses, or in those picked.

    With sleeves each boss is pushed off by the tube that forms its rim, standing in the ejector plates; its core pin then goes
    through all plates and is held in the moving clamping plate by a set screw. Without, pins are held by heads in the back of
    the insert or core half. Diameters left blank are the next in stock above the hole.
    Example: {"id": "cp11", "type": "core pins", "pushed": "with sleeves", "gap": "0.02"}
    """

    type: Literal["core pins"] = "core pins"
    word = "Core pins"
    purpose = "pins and sleeves for the holes of bosses"
    search = "sleeve ejector tube boss hole pin core"
    follows = "slide drive"
    picture = ("M4 14h24v7H4zM10 6h12v8H10z", "M14 3v18M18 3v18M14 3h4M12 21h8")
    suits = ("faces",)
    document_kinds = ("tool",)

    holes: Faces = ()
    pushed: Literal["with sleeves", "without sleeves"] = "without sleeves"
    wide: AnyLength = ""
    guide: Length = "12 mm"
    gap: LengthFromZero = "0.02 mm"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        based = any(step.type == "mold base" for step in before.steps)
        return {"holes": [p for p in picked if "face" in p], "pushed": "with sleeves" if based else "without sleeves"}

    def sentence(self) -> str:
        which = "{holes}" if self.holes else "every boss"
        guided = ", guided over {guide} with {gap} a side" if self.pushed == "with sleeves" else ""
        return f"Core pins for {which}, {{wide}} wide, {{pushed}}{guided}"

    def more(self) -> str:
        return "" if self.holes else "only for the holes at {holes}"

    def build(self, at: Builder) -> None:
        pair = both(at)
        plane = pair.plane
        lying, cavities = Lying.of(pair), places(at, plane)
        sleeved = self.pushed == "with sleeves"
        words = "Sleeves stand on ejector plates, and there are none yet."
        base = needed(at, lying, "pushed", words, ", or do without sleeves") if sleeved else None
        fits = [self._fit(at, post) for post in self._posts(at, cavities[0])]
        site = _Site(lying, plane, cavities[0], base)
        made = []
        for number, place in enumerate(cavities, 1):
            for k, fit in enumerate(fits, 1):
                name = f"{k}at{number}" if len(cavities) > 1 else f"{k}"
                made.append(self._sleeved(at, site, place, fit, name) if sleeved else self._headed(at, site, place, fit, name))
        self._clear(at, site, made)
        for entry in at.bodies():
            if entry.id in site.bores:
                bored(at, "wide", [entry], site.bores[entry.id])
        self._tell(at, fits, len(cavities), sleeved)

    # --- which holes, how wide ------------------------------------------------------------------------------------------

    def _posts(self, at: Builder, first: Place) -> list[Post]:
        part = parted_as(at, first.part, "holes")
        found = kernel.posts.posts(part.solid, [side == "core" for side in part.of], part.pull)
        if not self.holes:
            bosses = [post for post in found if post.around is not None]
            if not bosses:
                words = f"No boss of {first.part.name} has a hole that the core forms."
                at.fail("holes", words, "Pick the wall of a round hole, or its rim." if found else "Take this step out.")
            return bosses
        chosen = []
        for face in on_first(at, "holes", self.holes, first):
            mine = [post for post in found if face in post.faces or face == post.rim]
            if not mine:
                words = "A picked face is not of a round hole that the core forms along the pull and that ends in a flat rim."
                at.fail("holes", words, "Pick the wall of such a hole.", lit=(first.part, [face]))
            chosen += mine
        return list(dict.fromkeys(chosen))

    def _fit(self, at: Builder, post: Post) -> _Fit:
        """The widths by what the rim leaves room for."""
        least, unit = 2 * (post.radius + _OVER), at.scope.unit
        where = f"the hole {place_words(post.middle)}"
        most = 2 * (post.around - at.mm("gap")) if post.around is not None else math.inf
        pin = at.length("wide", self.wide, "positive") if self.wide else self._in_stock(least, most)
        if pin < least - 1e-9:
            words = f"A pin of {at.in_unit(pin)} {unit} is narrower than {where}, {at.in_unit(round(2 * post.radius, 3))} wide."
            at.fail("wide", words, f"Use {at.no_less(least)} or more, or leave it blank.")
        wall = 2 * SLEEVE_WALL if self.pushed == "with sleeves" else 0.0
        if self.wide and pin + wall > most:
            words = f"A pin of {at.in_unit(pin)} {unit} is too wide for the boss round {where}."
            at.fail("wide", words, f"Use {at.no_more(most - wall)} or less, or leave it blank.")
        if self.pushed != "with sleeves":
            return _Fit(post, pin, 0.0)
        if post.around is None:
            at.fail("pushed", f"No sleeve finds a round rim at {where}.", "Do without sleeves there, or pick bosses only.")
        sleeves = [size for size in SLEEVES if pin + 2 * SLEEVE_WALL - 1e-9 <= size <= most]
        if not sleeves:
            rim = at.in_unit(round(post.around - post.radius, 2))
            words = f"The rim round {where} is {rim} {unit} wide: no sleeve with {at.in_unit(SLEEVE_WALL)} of wall fits"
            wider = at.no_less(2 * (pin / 2 + SLEEVE_WALL + at.mm("gap")))
            narrower = "leave the pin's width blank, " if self.wide else ""
            at.fail("pushed", f"{words}.", f"Do without sleeves, {narrower}or give the boss {wider} {unit} outside.")
        return _Fit(post, pin, sleeves[-1])

    def _in_stock(self, least: float, most: float) -> float:
        """The next in stock above the hole, with room for a sleeve's wall if there is one; else one ground to size."""
        wall = 2 * SLEEVE_WALL if self.pushed == "with sleeves" else 0.0
        size = next((size for size in PINS if size >= least - 1e-9), math.inf)
        return size if size + wall <= most else round(math.ceil(100 * least - 1e-6) / 100, 2)

    # --- one of them ----------------------------------------------------------------------------------------------------

    def _front(self, at: Builder, site: _Site, place: Place, fit: _Fit, name: str) -> tuple[Body, Vec, float, float]:
        """What the core has in a hole of a place, and a little of what is behind; the middle of the mouth in the parting plane,
        its level, and that of the hole's end.
        """
        up, level = site.plane.normal, site.lying.level(fit.post.middle)
        foot = site.plane.point(place.at(site.first, site.plane.flat(fit.post.middle)))
        tip = level - fit.post.depth
        long = level + _JOINED - tip + _PAST
        bar = at.named(kernel.solid.cylinder(along(foot, up, tip - _PAST), up, fit.pin / 2, long)).labelled(name)
        steel = place.core[0]
        pieces = at.kernel("holes", kernel.boolean.common, steel.body.solid, [bar.solid])
        if len(pieces) != 1:
            where = place_words(fit.post.middle)
            at.fail("holes", f"The core has no steel in the hole {where}.", "Leave it out, or take out what bored it.")
        return at.named(pieces[0], steel.body, bar), foot, level, tip

    def _headed(self, at: Builder, site: _Site, place: Place, fit: _Fit, name: str) -> _Made:
        """A pin held by its head in the back of the steel that forms the part."""
        front, foot, level, tip = self._front(at, site, place, fit, name)
        lying, r = site.lying, fit.pin / 2
        spot = lying.flat(foot)
        back = kernel.measure.span(place.core[0].body.solid, lying.pair.pull)[1] - lying.pair.parting
        head, high = pin_head(fit.pin)
        shank = lying.turned(spot, stepped((level + _JOINED, back - high, r), (back - high, back, head / 2)))
        seat = stepped((tip - _PAST, back - high, r), (back - high, back + _PAST, head / 2 + _HEAD))
        site.bore(place.core[:1], at.named(lying.turned(spot, seat)).labelled(f"{name} seat"))
        long = round(back - tip, 2)
        stock = Stock("Core pin", "round", (fit.pin, at_least(long)), "X40CrMoV5-1", "ISO 6751", long)
        pin = self._pin(at, site, front, at.named(shank).labelled(name), stock, name)
        return _Made((pin,), Bar(lying.point(spot, tip), lying.point(spot, back), r))

    def _sleeved(self, at: Builder, site: _Site, place: Place, fit: _Fit, name: str) -> _Made:
        """A pin through all plates, held in the moving clamping plate, and the sleeve on it."""
        front, foot, level, tip = self._front(at, site, place, fit, name)
        assert site.base is not None
        lying, base = site.lying, site.base
        spot = lying.flat(foot)
        shank, screw = core_pin_shank(f"corepin{name}", spot, tip, level + _JOINED, fit.pin, base.levels)
        sleeve = ejector_sleeve(f"sleeve{name}", spot, level, fit.sleeve, fit.pin, at.mm("guide"), base.levels)
        last = max(kernel.measure.span(e.body.solid, lying.pair.pull)[1] for e in place.core) - lying.pair.parting
        snug, end = fit.sleeve / 2 + at.mm("gap"), min(level + at.mm("guide"), last)
        post = min(fit.post.radius + _OVER, fit.pin / 2)
        bore = stepped((tip - _PAST, level - _INTO, post), (level - _INTO, end, snug), (end, last + _PAST, snug + _RELIEF))
        site.bore(place.core, at.named(lying.turned(spot, bore)).labelled(f"{name} bore"))
        for one in (shank, screw, sleeve):
            site.bore((base.plates[plate] for plate in one.through), at.named(lying.hole(one)).labelled(f"{one.id} hole"))
        pin = self._pin(at, site, front, at.named(lying.body(shank)).labelled(name), shank.stock, name)
        body = at.named(lying.body(sleeve)).labelled(f"sleeve {name}")
        at.new(body, "ejector", sleeve.name, sleeve.id, lying.pair.pull, (GROUPS["ejection"],), sleeve.stock)
        plug = at.named(lying.body(screw)).labelled(screw.id)
        at.new(plug, ROLES["moving"], screw.name, screw.id, lying.pair.pull, (GROUPS["moving"],), screw.stock)
        tube = Entry(sleeve.id, sleeve.name, "ejector", body, "", stock=sleeve.stock)
        return _Made((pin, tube), Bar(lying.point(spot, level), lying.point(spot, base.levels.rest), fit.sleeve / 2))

    def _pin(self, at: Builder, site: _Site, front: Body, shank: Body, stock: Stock, name: str) -> Entry:
        whole = at.kernel("wide", kernel.boolean.fuse, front.solid, [shank.solid])
        body = at.named(whole, front, shank)
        at.new(body, "core pin", "Core pin", f"corepin{name}", site.lying.pair.pull, (GROUPS["moving"],), stock)
        return Entry(f"corepin{name}", "Core pin", "core pin", body, "", stock=stock)

    # --- what came of it ------------------------------------------------------------------------------------------------

    def _clear(self, at: Builder, site: _Site, made: Sequence[_Made]) -> None:
        """None may run into what is there, nor into the pin or sleeve of another hole."""
        there = [(e.name, rounds) for e, rounds in turned_pieces(at, site.lying)]
        taken = [[(e.name, rounds_of(e, site.lying)) for e in one.entries] for one in made]
        lifters = [e for e in pieces(at) if e.role == "lifter"]
        coolant = coolant_bores(at, site.lying.pair)
        for number, (one, mine) in enumerate(zip(made, taken, strict=True)):
            others = [*there, *(("another core pin or sleeve", rows) for more in taken[number + 1 :] for _, rows in more)]
            met = next((name for name, rows in others if any(meet(own, rows) for _, own in mine)), "")
            met = met or next((e.name for e in lifters if self._away(one.axis, e) <= 0), "")
            if met:
                words = f"The pin or sleeve of the hole {place_words(one.axis.start)} runs into {met}"
                at.fail("holes", f"{words}.", "Leave that hole out by picking the others, or move what is in its way.")
            if kernel.nearness.bars_apart([one.axis], coolant) <= 0:
                words = f"The pin or sleeve of the hole {place_words(one.axis.start)} runs into a coolant bore"
                at.fail("holes", f"{words}.", "Move cooling below this step, so that it keeps clear, or leave that hole out.")

    def _away(self, axis: Bar, other: Entry) -> float:
        return kernel.nearness.bars_to([axis], [kernel.nearness.skin(other.body.solid)])

    def _tell(self, at: Builder, fits: Sequence[_Fit], count: int, sleeved: bool) -> None:
        unit = at.scope.unit
        sizes = sorted({(fit.pin, fit.sleeve) for fit in fits})
        words = ", ".join(
            f"Ø{at.in_unit(pin)}" + (f" in a sleeve Ø{at.in_unit(sleeve)}" if sleeve else "") for pin, sleeve in sizes
        )
        ground = ", ground to size" if any(pin not in PINS for pin, _ in sizes) else ""
        each = f" on each of {count} places" if count > 1 else ""
        at.note(f"{plural(len(fits), 'core pin')}{each}, {words} {unit}{ground}.")
        slender = max(fits, key=lambda fit: fit.post.depth / fit.pin)
        ratio = slender.post.depth / (2 * slender.post.radius)
        if ratio > _SLENDER:
            words = f"A core pin stands out {at.in_unit(round(slender.post.depth, 1))} {unit}, {ratio:.1f} times its width"
            words = f"{words}: the melt bends it (common practice: up to {_SLENDER:g})"
            at.caution("holes", f"{words}. Make the hole wider or shallower.")
        at.figure("core_pins", len(fits) * count)
        if sleeved:
            at.figure("sleeves", len(fits) * count)
