"""Slide guides: gibs that hold slides down on the core half and lead them, and detents that keep them open."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Length, LengthFromZero
from supplecast.document.state import PARTS, Entry
from supplecast.document.step import Step
from supplecast.geometry import Vec, along, cross, dot, times, unit
from supplecast.naming import Body
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.pieces import pieces
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.slide_ways import CLEAR, forming, stroke_to_stop
from supplecast.steps.tool.steel import bored
from supplecast.tooling.base.component import Component
from supplecast.tooling.base.components import socket_screw
from supplecast.tooling.stock import Stock
from supplecast.wording import listed

_FOOT, _LEAST_FOOT, _OVER = 5.0, 3.0, 3.0  # mm that a slide's foot is high, at least, and of slide over it (no source)
_TONGUE, _FRONT = 3.0, 3.0  # mm that a tongue reaches over the foot, and of slide before its groove (no source)
_AIR, _THIN = 0.5, 5.0  # mm a side round a gib in the cavity side, and of steel that would be left too thin behind it
_THIN_SLICE = 0.1  # mm that tells how wide a slide is at a place
_SHORTEST = 12.0  # mm of gib that still leads (common practice, no source)
_WALL = 2.0  # mm between a gib and what else stands there (common practice, no source)
_PLUNGER, _DEEP, _THREAD = 6.0, 16.0, 10.0  # mm: a detent's thread and length, and the thread of a gib's screws (no source)
_BALL, _NOTCH = 1.5, 1.0  # mm: radius and depth of the notch that a detent's ball drops into (common practice, no source)
_ALL = 1 - 1e-6  # of a bore in one piece of steel


@dataclass(frozen=True)
class _Slide:
    """A slide with the axes along and across its way, mm on them: from where to where its groove goes, from where to where the
    gibs do, its narrowest and its widest half there off the middle, how high its foot is, its stroke, and where the plates end.
    """

    entry: Entry
    way: Vec
    across: Vec
    groove: tuple[float, float]
    gib: tuple[float, float]
    middle: float
    inner: float
    outer: float
    foot: float
    stroke: float
    plate: float


class SlideGuides(Step):
    """Two gibs beside each slide that rides on the core half, with tongues in grooves along its foot, so that it cannot lift or
    turn; screwed on the core half, with room cut for them in the cavity half. A detent under each slide, a ball on a spring in
    the core half, drops into a notch of it when it is out, and keeps it there until the angle pin comes back.

    The stroke follows from the stop pin of the slide drive; without one it is 3 mm more than the undercut.
    Example: {"id": "sg12", "type": "slide guides", "wide": "12", "gap": "0.03"}
    """

    type: Literal["slide guides"] = "slide guides"
    word = "Slide guides"
    purpose = "gibs and detents that hold slides"
    search = "gib detent spring ball guide rail slide hold down keeper"
    follows = "slide drive"
    picture = ("M4 15h24v6H4z", "M12 15V7h8v8M5 15v-5h7v-2M27 15v-5h-7v-2")
    document_kinds = ("tool",)

    wide: Length = "12 mm"
    gap: LengthFromZero = "0.03 mm"
    detents: Literal["with detents", "without detents"] = "with detents"
    stroke: AnyLength = ""

    def sentence(self) -> str:
        return "Slide guides by gibs {wide} wide, {gap} of play a side, {detents}"

    def more(self) -> str:
        return "stroke {stroke}"

    def build(self, at: Builder) -> None:
        pair = both(at)
        slides = [e for e in at.bodies() if e.role == "core slide"]
        if not slides:
            at.fail("wide", "No slide rides on the core half.", "Add a side opening on the core half before this step.")
        if any(e.stock and e.stock.kind == "Gib" for e in at.bodies()):
            at.fail("wide", "The slides have their gibs already.", "Take one of the two steps out.")
        if at.ahead("slide drive"):
            words = "The slide drive stands below this step, and its pins and stops would not be known here"
            at.fail("wide", f"{words}.", "Move this step below the slide drive.")
        lying = Lying.of(pair)
        found = [self._measured(at, pair, slide) for slide in slides]
        holes: dict[str, list[Body]] = {}
        for number, one in enumerate(found, 1):
            for side, letter in ((1.0, "a"), (-1.0, "b")):
                self._gib(at, lying, one, side, f"{number}{letter}", holes)
        if self.detents == "with detents":
            without = [one.entry.name for number, one in enumerate(found, 1) if not self._detent(at, lying, one, number, holes)]
            if without:
                words = f"No detent finds steel under {listed(without)}: a spring or a cylinder must keep"
                at.caution("detents", f"{words} {'it' if len(without) == 1 else 'them'} open.")
        for entry in at.bodies():
            if entry.id in holes:
                bored(at, "wide", [entry], holes[entry.id])
        length = min(one.gib[1] - one.gib[0] for one in found)
        strokes = sorted({round(one.stroke, 2) for one in found})
        at.note(
            f"Gibs {at.in_unit(round(length, 1))} {at.scope.unit} long lead their slides over {at.in_unit(strokes[-1])}; feet "
            f"{at.in_unit(round(found[0].foot, 2))} high."
        )
        at.figure("gibs", 2 * len(found))

    # --- what there is --------------------------------------------------------------------------------------------------

    def _measured(self, at: Builder, pair: Pair, slide: Entry) -> _Slide:
        way, solid, name = slide.pull or (1.0, 0.0, 0.0), slide.body.solid, slide.name
        deep, high = (kernel.measure.span(solid, axis) for axis in (way, pair.pull))
        inner, front = forming(slide)
        typed = at.length("stroke", self.stroke, "positive") if self.stroke else None
        stroke = typed or stroke_to_stop(at.bodies(), slide) or front - inner + CLEAR
        foot = min(_FOOT, (high[1] - high[0] - _OVER) / 2)
        if foot < _LEAST_FOOT:
            tall, least = at.in_unit(round(high[1] - high[0], 2)), at.no_less(2 * _LEAST_FOOT + _OVER)
            hint = f"{least} will do: give the side opening more margin round the undercut; or take this step out."
            at.fail("wide", f"{name} is only {tall} {at.scope.unit} tall, too low for a foot and a tongue over it.", hint)
        groove = front + _FRONT, deep[1] + 1.0
        plate = kernel.measure.span(pair.core.body.solid, way)[1]
        gib = groove[0] + stroke + _WALL, min(plate - 1.0, deep[1] + stroke)
        if gib[1] - gib[0] < _SHORTEST:
            long = at.in_unit(round(max(gib[1] - gib[0], 0.0), 1))
            words = f"Beside {name} there are {long} {at.scope.unit} for gibs, behind the part and inside of the plates"
            at.fail("wide", f"{words}.", f"{at.no_less(_SHORTEST)} lead it: give the block more around the part.")
        levels = high[1] - 2 * foot, high[1]
        low, top = self._between(at, pair, slide, groove, levels)
        narrow = self._between(at, pair, slide, (groove[0], groove[0] + _THIN_SLICE), levels)
        middle = (low + top) / 2
        return _Slide(
            slide, way, unit(cross(pair.pull, way)), groove, gib, middle, min(abs(end - middle) for end in narrow),
            (top - low) / 2, foot, stroke, plate,
        )  # fmt: skip

    def _between(
        self, at: Builder, pair: Pair, slide: Entry, ends: tuple[float, float], levels: tuple[float, float]
    ) -> tuple[float, float]:
        """From where to where a slide reaches across its way, between two places along it and two levels."""
        way, solid = slide.pull or (1.0, 0.0, 0.0), slide.body.solid
        across = unit(cross(pair.pull, way))
        low, high = kernel.measure.span(solid, across)
        box = kernel.solid.bar(way, pair.pull, ends, (low - 1.0, high + 1.0), levels)
        spans = [kernel.measure.span(m.solid, across) for m in at.kernel("wide", kernel.boolean.common, solid, [box.solid])]
        return min(span[0] for span in spans), max(span[1] for span in spans)

    # --- a gib ----------------------------------------------------------------------------------------------------------

    def _gib(self, at: Builder, lying: Lying, one: _Slide, side: float, label: str, holes: dict[str, list[Body]]) -> None:
        pair, gap, wide, foot = lying.pair, at.mm("gap"), at.mm("wide"), one.foot
        inside, tip = one.outer + gap, max(one.inner - _TONGUE, 0.0)
        level = pair.parting

        def bar(ends: tuple[float, float], aside: tuple[float, float], low: float, high: float) -> kernel.history.Made:
            vs = sorted(one.middle + side * v for v in aside)
            return kernel.solid.bar(one.way, pair.pull, ends, (vs[0], vs[1]), (level - high, level - low))

        body, tongue = bar(one.gib, (inside, inside + wide), 0.0, 2 * foot), bar(one.gib, (tip, inside + wide), foot, 2 * foot)
        whole = at.kernel("wide", kernel.boolean.fuse, body.solid, [tongue.solid])
        made = at.named(whole, at.named(body).labelled(label), at.named(tongue).labelled(f"{label} tongue"))
        self._free(at, pair, one, made)
        groove = bar(one.groove, (tip - gap, one.outer + 1.0), foot - gap, 2 * foot + gap)
        holes.setdefault(one.entry.id, []).append(at.named(groove).labelled(f"{label} groove"))
        start, end = one.gib[0] - _AIR, one.gib[1] + _AIR
        if one.plate - end < _THIN:  # milled in from the side
            end = one.plate + 1.0
        room = bar((start, end), (tip - _AIR, inside + wide + _AIR), -1.0, 2 * foot + _AIR)
        for entry in (e for e in at.bodies() if e.role in ("cavity", "cavity insert")):
            if kernel.nearness.boxes_apart(entry.body.solid, room.solid) <= 0:
                holes.setdefault(entry.id, []).append(at.named(room).labelled(f"{label} room"))
        screws = list(self._screws(at, lying, one, side * (inside + wide / 2), label))
        for screw, beneath in screws:
            hole = at.named(lying.hole(screw)).labelled(f"{screw.id} hole")
            (cut,) = at.kernel("wide", kernel.boolean.cut, made.solid, [hole.solid])
            made = at.named(cut, made, hole)
            holes.setdefault(beneath.id, []).append(hole)
            body_ = at.named(lying.body(screw)).labelled(screw.id)
            at.new(body_, ROLES["moving"], screw.name, screw.id, pair.pull, (GROUPS["moving"],), screw.stock)
        if not screws:
            at.caution("wide", f"No screw finds steel under a gib of {one.entry.name}. Use wider gibs, or more block there.")
        sizes = (round(one.gib[1] - one.gib[0], 2), round(inside + wide - tip, 2), round(2 * foot, 2))
        stock = Stock("Gib", "plate", sizes, "90MnCrV8")
        at.new(made, ROLES["moving"], "Gib", f"gib{label}", pair.pull, (GROUPS["moving"],), stock)

    def _free(self, at: Builder, pair: Pair, one: _Slide, gib: Body) -> None:
        """A gib must keep off the parts, the feed, other slides and what else stands there."""
        others = [e for e in at.bodies() if e.role in (*PARTS, "feed", "core slide") and e.id != one.entry.id]
        own = [e for e in pieces(at) if e.stock and e.stock.kind in ("Angle pin", "Stop pin", "Gib", "Detent")]
        for other in (*others, *(e for e in pieces(at) if e not in own)):
            if kernel.nearness.boxes_apart(other.body.solid, gib.solid) > _WALL:
                continue
            near = kernel.nearness.between(other.body.solid, gib.solid)
            if near < _WALL:
                words = f"A gib of {one.entry.name} stands {at.in_unit(round(near, 2))} {at.scope.unit} from {other.name}"
                at.fail(
                    "wide", f"{words}; {at.in_unit(_WALL)} should stay.", "Use narrower gibs, or give the block more round it."
                )

    def _screws(self, at: Builder, lying: Lying, one: _Slide, aside: float, label: str) -> Iterator[tuple[Component, Entry]]:
        """Two screws from the top of a gib into the core half, where that has steel; one where the gib is short."""
        long = one.gib[1] - one.gib[0]
        shares = (0.25, 0.75) if long >= 20.0 else (0.5,)
        size: Literal["M3", "M4"] = "M4" if one.foot >= 4.0 and at.mm("wide") >= 10.0 else "M3"
        for number, share in enumerate(shares, 1):
            spot = along(times(one.way, one.gib[0] + share * long), one.across, one.middle + aside)
            name = f"gibscrew{label}{number}"
            screw = socket_screw(name, "gib", size, "moving", -2 * one.foot, 0.0, 1, (), _THREAD)
            screw = replace(screw, at=lying.flat(spot))
            core = screw.hole[-1][0]
            beneath = self._under(at, kernel.solid.cylinder(lying.point(screw.at, 0.0), lying.pair.pull, 3.0, core).solid)
            if beneath:
                yield screw, beneath

    def _under(self, at: Builder, bore: kernel.shape.Solid) -> Entry | None:
        """The body of the core side that holds all of a bore."""
        steel = (e for e in at.bodies() if e.role in ("core", "core insert"))
        near = (e for e in steel if kernel.nearness.boxes_apart(e.body.solid, bore) <= 0)
        return next((e for e in near if self._holds(e, bore)), None)

    # --- a detent -------------------------------------------------------------------------------------------------------

    def _detent(self, at: Builder, lying: Lying, one: _Slide, number: int, holes: dict[str, list[Body]]) -> bool:
        """A ball on a spring in the core half, pressed in by the slide, and the notch that comes over it when that is out;
        False where there is no room for it.
        """
        pair = lying.pair
        # Where the slide is never off it, between its front and its end.
        stretch = np.linspace(one.groove[0] + one.stroke, one.groove[1] - 1.0 - _PLUNGER, 9)
        beside = one.inner - _BALL - 1.0
        for u in stretch[np.argsort(abs(stretch - stretch.mean()), kind="stable")].tolist():
            for v in (0.0, beside, -beside):
                spot = along(times(one.way, u), one.across, one.middle + v)
                spot = along(spot, pair.pull, pair.parting - dot(spot, pair.pull))
                bore = kernel.solid.cylinder(spot, pair.pull, _PLUNGER / 2, _DEEP)
                entry = self._under(at, kernel.solid.cylinder(spot, pair.pull, _PLUNGER / 2 + 1.0, _DEEP).solid)
                tip = along(spot, one.way, -one.stroke)
                notch = kernel.solid.cylinder(tip, times(pair.pull, -1.0), _BALL, _NOTCH)
                if entry is None or not self._holds(one.entry, notch.solid):
                    continue
                holes.setdefault(one.entry.id, []).append(at.named(notch).labelled(f"{number} notch"))
                seat = at.named(bore).labelled(f"{number} detent bore")
                holes.setdefault(entry.id, []).append(seat)
                stock = Stock("Detent", "screw", (_PLUNGER, _DEEP), "5.8")
                body = at.named(kernel.solid.cylinder(spot, pair.pull, _PLUNGER / 2, _DEEP)).labelled(f"{number} detent")
                at.new(body, ROLES["moving"], "Detent", f"detent{number}", pair.pull, (GROUPS["moving"],), stock)
                return True
        return False

    def _holds(self, entry: Entry, tool: kernel.shape.Solid) -> bool:
        """Whether a body has steel everywhere where a tool would take some."""
        held = sum(kernel.measure.volume(made.solid) for made in kernel.boolean.common(entry.body.solid, [tool]))
        return held >= _ALL * kernel.measure.volume(tool)
