"""Core pins: round pins of their own for what the core reaches into holes of bosses with, and sleeves that push those off."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Faces, Length, LengthFromZero
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame, along, times
from supplecast.naming import Body
from supplecast.naming.tag import maker
from supplecast.steps.tool.behind import Behind, behind, rounds_of
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.marks import parted_as
from supplecast.steps.tool.pair import both
from supplecast.steps.tool.places import Place, on_first, places
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.steel import bored
from supplecast.tooling.base.component import stepped
from supplecast.tooling.base.components import pin_head
from supplecast.tooling.base.pins import PINS, SLEEVE_WALL, SLEEVES, Levels, core_pin_shank, ejector_sleeve
from supplecast.tooling.stock import Stock, at_least
from supplecast.wording import place_words, plural

if TYPE_CHECKING:
    from supplecast.kernel.molds.posts import Post

_INTO, _PAST, _JOINED = 0.2, 1.0, 2.0  # mm that a bore goes into what it opens, past a hole's end, and a pin's front goes on
_SLENDER = 4.0  # times its width that a pin held at one end stands out at most (common practice, from memory)
_OVER = (
    0.1  # mm a side that a pin is wider than its hole at least, so that its edge does not run out (common practice, no source)
)


@dataclass(frozen=True)
class _Fit:
    """A hole with the diameters of its core pin and sleeve, mm; no sleeve, 0."""

    post: Post
    pin: float
    sleeve: float


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
        plane = Frame.lying(times(pair.pull, pair.parting), pair.pull)
        lying, cavities = Lying.of(pair), places(at, plane)
        sleeved = self.pushed == "with sleeves"
        base = behind(at, lying)
        if sleeved and base is None:
            words = "Sleeves stand on ejector plates, and there are none yet."
            at.fail("pushed", words, "Add a mold base before this step, or do without sleeves.")
        fits = [self._fit(at, post) for post in self._posts(at, cavities[0])]
        bores: dict[str, list[Body]] = {}
        plates: dict[str, list[Body]] = {}
        made: list[Entry] = []
        for number, place in enumerate(cavities, 1):
            for k, fit in enumerate(fits, 1):
                name = f"{k}at{number}" if len(cavities) > 1 else f"{k}"
                made += self._one(at, lying, place, cavities[0], plane, fit, name, base if sleeved else None, bores, plates)
        self._clear(at, lying, made)
        for place in cavities:
            for entry in place.core:
                if entry.id in bores:
                    bored(at, "wide", [entry], bores.pop(entry.id))
        if base is not None and sleeved:
            for entry in (base.support, base.retainer, base.ejector, base.clamp):
                bored(at, "pushed", [entry], plates[entry.id])
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
            at.fail("wide", words, f"Use {at.in_unit(math.ceil(10 * least) / 10)} or more, or leave it blank.")
        most_pin = most - (2 * SLEEVE_WALL if self.pushed == "with sleeves" else 0.0)
        if self.wide and pin > most_pin:
            words = f"A pin of {at.in_unit(pin)} {unit} is too wide for the boss round {where}."
            at.fail("wide", words, f"Use {at.in_unit(math.floor(10 * most_pin) / 10)} or less, or leave it blank.")
        if self.pushed != "with sleeves":
            return _Fit(post, pin, 0.0)
        if post.around is None:
            at.fail("pushed", f"No sleeve finds a round rim at {where}.", "Do without sleeves there, or pick bosses only.")
        sleeves = [size for size in SLEEVES if pin + 2 * SLEEVE_WALL - 1e-9 <= size <= most]
        if not sleeves:
            rim = at.in_unit(round(post.around - post.radius, 2))
            words = f"The rim round {where} is {rim} {unit} wide: no sleeve with {at.in_unit(SLEEVE_WALL)} of wall fits"
            wall = at.in_unit(math.ceil(10 * (pin / 2 + SLEEVE_WALL + at.mm("gap"))) / 5)
            at.fail("pushed", f"{words}.", f"Do without sleeves, or give the boss {wall} {unit} outside.")
        return _Fit(post, pin, sleeves[-1])

    def _in_stock(self, least: float, most: float) -> float:
        """The next in stock above the hole, with room for a sleeve's wall if there is one; else one ground to size."""
        wall = 2 * SLEEVE_WALL if self.pushed == "with sleeves" else 0.0
        size = next((size for size in PINS if size >= least - 1e-9), math.inf)
        return size if size + wall <= most else round(math.ceil(100 * least - 1e-6) / 100, 2)

    # --- one of them ----------------------------------------------------------------------------------------------------

    def _one(
        self,
        at: Builder,
        lying: Lying,
        place: Place,
        first: Place,
        plane: Frame,
        fit: _Fit,
        name: str,
        base: Behind | None,
        bores: dict[str, list[Body]],
        plates: dict[str, list[Body]],
    ) -> list[Entry]:
        """A core pin with its front as the core has it, and its sleeve over a base; what they need of the steel is noted."""
        level, r = lying.level(fit.post.middle), fit.pin / 2
        flat = place.at(first, plane.flat(fit.post.middle))
        foot = plane.point(flat)
        spot = lying.flat(foot)
        tip = level - fit.post.depth - _PAST
        steel = place.core[0]
        back = kernel.measure.span(steel.body.solid, plane.normal)[1] - lying.pair.parting
        front = at.named(kernel.solid.cylinder(along(foot, plane.normal, tip), plane.normal, r, level + _JOINED - tip))
        pieces = at.kernel("holes", kernel.boolean.common, steel.body.solid, [front.solid])
        if len(pieces) != 1:
            where = place_words(fit.post.middle)
            at.fail("holes", f"The core has no steel in the hole {where}.", "Leave it out, or take out what bored it.")
        formed = at.named(pieces[0], steel.body, front.labelled(name))
        if base is None:
            head, high = pin_head(fit.pin)
            shank = lying.turned(spot, stepped((level + _JOINED, back - high, r), (back - high, back, head / 2)))
            long = back - tip - _PAST
            stock = Stock("Core pin", "round", (fit.pin, at_least(long)), "X40CrMoV5-1", "ISO 6751", round(long, 2))
            hole = stepped((tip, back - high, r), (back - high, back + _PAST, head / 2 + 0.25))
            self._note(bores, place.core[:1], at.named(lying.turned(spot, hole)).labelled(f"{name} seat"))
            return [self._made(at, lying, formed, at.named(shank).labelled(name), stock, name)]
        levels = Levels(base.back, base.rest, base.clamp_from, base.clamp_to)
        shank_, screw = core_pin_shank(f"corepin{name}", spot, tip + _PAST, level + _JOINED, fit.pin, levels)
        sleeve = ejector_sleeve(f"sleeve{name}", spot, level, fit.sleeve, fit.pin, at.mm("guide"), levels)
        last = max(kernel.measure.span(e.body.solid, plane.normal)[1] for e in place.core) - lying.pair.parting
        snug, end = fit.sleeve / 2 + at.mm("gap"), min(level + at.mm("guide"), last)
        post = min(fit.post.radius + _OVER, r)
        bore = stepped((tip, level - _INTO, post), (level - _INTO, end, snug), (end, last + _PAST, snug + 0.5))
        self._note(bores, place.core, at.named(lying.turned(spot, bore)).labelled(f"{name} bore"))
        for one in (shank_, screw, sleeve):
            hole_ = at.named(lying.hole(one)).labelled(f"{one.id} hole")
            for plate in one.through:
                plates.setdefault(base.plates[plate].id, []).append(hole_)
        pin = self._made(at, lying, formed, at.named(lying.body(shank_)).labelled(name), shank_.stock, name)
        body = at.named(lying.body(sleeve)).labelled(f"sleeve {name}")
        at.new(body, "ejector", sleeve.name, sleeve.id, lying.pair.pull, (GROUPS["ejection"],), sleeve.stock)
        plug = at.named(lying.body(screw)).labelled(screw.id)
        at.new(plug, ROLES["moving"], screw.name, screw.id, lying.pair.pull, (GROUPS["moving"],), screw.stock)
        return [pin, Entry(sleeve.id, sleeve.name, "ejector", body, "", stock=sleeve.stock)]

    def _note(self, bores: dict[str, list[Body]], steel: Sequence[Entry], bore: Body) -> None:
        for entry in steel:
            bores.setdefault(entry.id, []).append(bore)

    def _made(self, at: Builder, lying: Lying, front: Body, shank: Body, stock: Stock, name: str) -> Entry:
        whole = at.kernel("wide", kernel.boolean.fuse, front.solid, [shank.solid])
        body = at.named(whole, front, shank)
        at.new(body, "core pin", "Core pin", f"corepin{name}", lying.pair.pull, (GROUPS["moving"],), stock)
        return Entry(f"corepin{name}", "Core pin", "core pin", body, "", stock=stock)

    # --- what came of it ------------------------------------------------------------------------------------------------

    def _clear(self, at: Builder, lying: Lying, made: Sequence[Entry]) -> None:
        """None of them may run into a pin, a pillar or a screw that is there."""
        there = [
            entry
            for entry in at.bodies()
            if entry.role in ("ejector", *ROLES.values())
            and (entry.stock is None or entry.stock.form != "plate")
            and maker(entry.id) != at.step_id
        ]
        taken = [(entry, rounds_of(entry, lying)) for entry in there]
        for entry in made:
            for one in rounds_of(entry, lying):
                other = next((other for other, rounds in taken if any(one.away(r) <= 0 for r in rounds)), None)
                if other is not None:
                    words = f"{entry.name} {place_words(lying.point(one.at, one.low))} runs into {other.name}"
                    at.fail("holes", f"{words}.", "Leave that hole out by picking the others, or move what is in its way.")

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
