"""Slide drive: angle pins of the fixed side that draw the slides on the core half as the tool opens, and what stops them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, LengthFromZero
from supplecast.document.state import Entry
from supplecast.document.step import Step
from supplecast.geometry import Vec, along, cross, dot, times, unit, vec
from supplecast.naming import Body
from supplecast.naming.tag import in_role
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.slide_ways import CLEAR, forming
from supplecast.steps.tool.steel import bored
from supplecast.tooling.stock import Stock, at_least
from supplecast.wording import brief

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made

_SIZES = (5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0)  # mm (ISO 8404, from memory)
_WALL = 3.0  # mm of the slide round its hole at least (common practice, no source)
_MOST, _LEAN = 25.0, 1.5  # ° a pin may lean, and the wedge must lean more than it by (common practice: 2 to 3)
_AIR = 1.0  # mm of air round a pin in the core side (common practice, no source)
_STOP, _PUT_IN = 8.0, 12.0  # mm: diameter of a stop pin, and how deep it is in the core plate (common practice, no source)


@dataclass(frozen=True)
class _Drive:
    """A slide with the axis of its pin, from the fixed side on, a place on it at the parting plane, the pin's radius, how far
    beyond the parting plane it ends along the pull, and the stroke, mm.
    """

    slide: Entry
    axis: Vec
    place: Vec
    radius: float
    reach: float
    stroke: float


class SlideDrive(Step):
    """An angle pin for each slide that rides on the core half: as that leaves, the pin draws the slide out by its stroke, and a
    stop pin ends it there. Pins stand in the cavity side, flush with its back, with `gap` mm of play a side in the slide.

    Left blank, pins are as wide as the slide has room for, and slides move 3 mm on once the undercut is free. The lean of a pin
    stays 1.5° or more under that of the wedge, so that the wedge lets go first.
    Example: {"id": "sd11", "type": "slide drive", "angle": "15", "gap": "0.5"}
    """

    type: Literal["slide drive"] = "slide drive"
    word = "Slide drive"
    purpose = "angle pins that draw the slides"
    search = "angle pin cam finger side core drive horn"
    follows = "mold base"
    picture = ("M4 14h24v7H4zM12 8h12v6H12z", "M13 2l8 19M4 2h24v3H4z")
    document_kinds = ("tool",)

    angle: Angle = "15"
    diameter: AnyLength = ""
    stroke: AnyLength = ""
    gap: LengthFromZero = "0.5 mm"

    def sentence(self) -> str:
        return "Slide drive by angle pins {diameter} leaning {angle}, stroke {stroke}, {gap} of play a side"

    def build(self, at: Builder) -> None:
        pair = both(at)
        slides = [e for e in at.bodies() if e.role == "core slide"]
        if not slides:
            at.fail("angle", "No slide rides on the core half.", "Add a side opening on the core half before this step.")
        if any(e.stock and e.stock.kind == "Angle pin" for e in at.bodies()):
            at.fail("angle", "The slides have their angle pins already.", "Take one of the two steps out.")
        lean = at.radians("angle", 5.0, _MOST)
        drives = [self._laid(at, pair, slide, lean) for slide in slides]
        lying = Lying.of(pair)
        holes: dict[str, list[Body]] = {}
        fixed = [e for e in at.bodies() if e.role in ("cavity", "cavity insert")]
        moving = [e for e in at.bodies() if e.role in ("core", "core insert")]
        back = min(kernel.measure.span(e.body.solid, pair.pull)[0] for e in fixed)
        for number, drive in enumerate(drives, 1):
            self._pin(at, pair, drive, back, number, holes, fixed, moving)
            self._stop(at, lying, drive, number, holes)
        for entry in (*fixed, *moving, *slides):
            if entry.id in holes:
                bored(at, "diameter", [entry], holes[entry.id])
        first = drives[0]
        unit_, opens = at.scope.unit, self._opens(at, first.stroke, lean)
        wide, far, opening = (at.in_unit(round(value, 2)) for value in (2 * first.radius, first.stroke, opens))
        at.note(f"Pins {wide} {unit_} wide draw their slides {far} {unit_} out over the first {opening} {unit_} of opening.")
        at.figure("slide_stroke", first.stroke)

    def _laid(self, at: Builder, pair: Pair, slide: Entry, lean: float) -> _Drive:
        """Where the pin of a slide goes, inside of its wedge and behind what forms the part."""
        way, solid = slide.pull or (1.0, 0.0, 0.0), slide.body.solid
        across = unit(cross(pair.pull, way))
        deep, side, high = (kernel.measure.span(solid, axis) for axis in (way, across, pair.pull))
        inner, front = forming(slide)
        undercut = front - inner
        stroke = at.length("stroke", self.stroke, "positive") if self.stroke else undercut + CLEAR
        if stroke <= undercut:
            words = f"A stroke of {at.in_unit(stroke)} does not free the undercut of {slide.name}."
            at.fail("stroke", words, f"It is {at.in_unit(round(undercut, 2))} deep; use more, or leave it blank.")
        self._let_go(at, pair, slide, lean)
        # Above the parting plane the hole leans outwards: what it needs of the slide is widest at both its ends.
        tall = high[1] - high[0]
        outer = deep[1] - self._wedge(slide, way, deep[1])
        room = outer - front - tall * math.tan(lean)
        fitting = min((room - 2 * _WALL) * math.cos(lean), side[1] - side[0] - 2 * _WALL) / 2 - at.mm("gap")
        wide = at.length("diameter", self.diameter, "positive") if self.diameter else self._usual(2 * fitting)
        if wide <= 0 or wide / 2 > fitting + 1e-9:
            there = at.in_unit(round(max(2 * fitting, 0.0), 1))
            least = f"{slide.name} has {there} {at.scope.unit} for a pin behind the undercut"
            hint = "Use thinner pins, a thinner wedge, or give the block more around the part."
            at.fail("diameter", f"{least}, and {at.in_unit(wide or _SIZES[0])} is asked.", hint)
        # By the outer end, which stays where it is when the part changes.
        middle = outer - _WALL - (wide / 2 + at.mm("gap")) / math.cos(lean)  # at the parting plane
        place = along(along(times(way, middle), across, sum(side) / 2), pair.pull, high[1])
        axis = unit(vec([c * math.cos(lean) + w * math.sin(lean) for c, w in zip(pair.pull, way, strict=True)]))
        # The slide's entry is `tall` in front of the parting plane. From there the pin's outer flank, which ends first as the
        # end is square to its axis, draws the slide its stroke once the play is used up; no farther, where the stop is.
        reach = self._opens(at, stroke, lean) - tall + wide / 2 * math.sin(lean)
        return _Drive(slide, axis, place, wide / 2, reach, stroke)

    def _opens(self, at: Builder, stroke: float, lean: float) -> float:
        """How far the tool opens until a slide is drawn out by its stroke, mm."""
        return (stroke + at.mm("gap") / math.cos(lean)) / math.tan(lean)

    def _let_go(self, at: Builder, pair: Pair, slide: Entry, lean: float) -> None:
        """The wedge must leave the slide faster than the pin draws it."""
        locks = [
            f for f, tags in enumerate(slide.body.tags) if in_role(tags, "lock") and kernel.measure.is_flat(slide.body.solid, f)
        ]
        if not locks:
            return
        wedge = math.degrees(math.asin(abs(dot(kernel.measure.flat_frame(slide.body.solid, locks[0]).normal, pair.pull))))
        if math.degrees(lean) > wedge - _LEAN + 1e-6:
            words = (
                f"Pins leaning {math.degrees(lean):g}° draw {slide.name} before its wedge, which leans {brief(wedge)}°, lets go"
            )
            at.fail(
                "angle", f"{words}.", f"Use {brief(wedge - _LEAN)}° or less, or more lean of the wedge in the side opening."
            )

    def _usual(self, fitting: float) -> float:
        return max((size for size in _SIZES if size <= min(fitting, 16.0)), default=0.0)

    def _wedge(self, slide: Entry, way: Vec, end: float) -> float:
        """How far the wedge's face leans back from the outer end of a slide, mm."""
        locks = [f for f, tags in enumerate(slide.body.tags) if in_role(tags, "lock")]
        corners = [dot(c, way) for f in locks for c in kernel.measure.face_box(slide.body.solid, f).corners]
        return max(end - min(corners, default=end), 0.0)

    def _pin(
        self,
        at: Builder,
        pair: Pair,
        drive: _Drive,
        back: float,
        number: int,
        holes: dict[str, list[Body]],
        fixed: list[Entry],
        moving: list[Entry],
    ) -> None:
        """A pin flush with the back of the cavity side, its bore there, and what it needs of the slide and the core side."""
        cos = dot(drive.axis, pair.pull)
        level = dot(drive.place, pair.pull)
        start, end = (back - level) / cos, drive.reach / cos

        def bar(radius: float, before: float, after: float) -> Made:
            base = along(drive.place, drive.axis, start - before)
            return kernel.solid.cylinder(base, drive.axis, radius, end - start + before + after)

        whole = at.named(bar(drive.radius, 2 * drive.radius, 0.0)).labelled(f"{number}")
        far = kernel.measure.beyond(pair.cavity.body.solid, drive.place)
        spans = (-far, far), (-far, far), (back, level + drive.reach + 2 * drive.radius)
        box = kernel.solid.bar(drive.slide.pull or (1.0, 0.0, 0.0), pair.pull, *spans)
        (pin,) = at.kernel("diameter", kernel.boolean.common, whole.solid, [box.solid])
        made = at.named(pin, whole, at.named(box).labelled(f"{number} slab"))
        length = (level + drive.reach - back) / cos
        stock = Stock("Angle pin", "round", (2 * drive.radius, at_least(length)), "16MnCr5", "ISO 8404", round(length, 2))
        at.new(made, ROLES["fixed"], "Angle pin", f"pin{number}", drive.axis, (GROUPS["fixed"],), stock)
        tight, loose = (
            at.named(bar(drive.radius + more, 2 * drive.radius, after)).labelled(f"{number} {what}")
            for what, more, after in (("seat", 0.0, 0.0), ("hole", at.mm("gap"), 1.0))
        )
        holed: list[tuple[list[Entry], Body]] = [(fixed, tight), ([drive.slide], loose)]
        tip = drive.radius * math.sin(math.acos(cos))
        if drive.reach + tip > 0:
            holed.append((moving, self._air(at, pair, drive, tip, number)))
        for entries, tool in holed:
            for entry in entries:
                if kernel.nearness.boxes_apart(entry.body.solid, tool.solid) <= 0:
                    holes.setdefault(entry.id, []).append(tool)

    def _air(self, at: Builder, pair: Pair, drive: _Drive, tip: float, number: int) -> Body:
        """What a pin's end, going aside while the core side leaves, needs of that."""
        aside = max(drive.reach, 0.0) * math.tan(math.acos(dot(drive.axis, pair.pull)))
        way = drive.slide.pull or (1.0, 0.0, 0.0)
        base = along(along(drive.place, way, aside / 2), pair.pull, -_AIR)
        wide = drive.radius / dot(drive.axis, pair.pull) + aside / 2 + _AIR
        air = kernel.solid.cylinder(base, pair.pull, wide, drive.reach + tip + 2 * _AIR)
        return at.named(air).labelled(f"{number} air")

    def _stop(self, at: Builder, lying: Lying, drive: _Drive, number: int, holes: dict[str, list[Body]]) -> None:
        """A pin in the core plate at the end of the slide's way; none where the way ends beyond the plate."""
        way = drive.slide.pull or (1.0, 0.0, 0.0)
        pair = lying.pair
        box = kernel.measure.box(drive.slide.body.solid)
        ends = kernel.measure.span(drive.slide.body.solid, way)
        spot = along(box.centre, way, ends[1] - dot(box.centre, way) + drive.stroke + _STOP / 2)
        spot = along(spot, pair.pull, pair.parting - dot(spot, pair.pull))
        plate = kernel.measure.span(pair.core.body.solid, way)
        if dot(spot, way) + _STOP > plate[1]:
            at.note(f"{drive.slide.name} is stopped outside of the plates: nothing of them is left to hold a pin.")
            return
        tall = 0.5 * (ends[1] - ends[0])
        stands = min(tall, 0.8 * (box.size[pair.axis]))
        pin = at.named(kernel.solid.cylinder(along(spot, pair.pull, -stands), pair.pull, _STOP / 2, stands + _PUT_IN))
        stock = Stock("Stop pin", "round", (_STOP, round(stands + _PUT_IN, 1)), "16MnCr5")
        at.new(
            pin.labelled(f"stop {number}"), ROLES["moving"], "Stop pin", f"stop{number}", pair.pull, (GROUPS["moving"],), stock
        )
        bore = at.named(kernel.solid.cylinder(spot, pair.pull, _STOP / 2, _PUT_IN)).labelled(f"stop {number} bore")
        holes.setdefault(pair.core.id, []).append(bore)
