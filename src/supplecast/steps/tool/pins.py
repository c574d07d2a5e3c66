"""Register pins: pins on one half and holes in the other, so that the halves meet in one place only."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Length, LengthFromZero
from supplecast.document.state import Entry
from supplecast.document.step import Step
from supplecast.errors import KernelError, StepError
from supplecast.geometry import Vec, along, times
from supplecast.naming import Body
from supplecast.steps.tool.pair import Pair, both

_NEARER = "Use a smaller inset or diameter, or a larger block."
_CORNERS = (("left front", 0, 0), ("right front", 1, 0), ("right back", 1, 1), ("left back", 0, 1))


class RegisterPins(Step):
    """Four pins near the corners, with a lead-in chamfer, and holes larger by the gap all round and at the end.

    Example: {"id": "r6", "type": "register pins", "diameter": "8", "height": "12", "inset": "11", "gap": "0.1"}
    """

    type: Literal["register pins"] = "register pins"
    word = "Register pins"
    purpose = "pins and holes that align the halves"
    rank = 60
    picture = ("M4 15h24v7H4z", "M8 15V8h4v7M20 15V8h4v7")
    sheets = ("tool",)

    diameter: Length = "8 mm"
    height: Length = "12 mm"
    inset: Length = "12 mm"
    chamfer: LengthFromZero = "0.8 mm"
    gap: LengthFromZero = "0.1 mm"
    on: Literal["core", "cavity"] = "core"

    def sentence(self) -> str:
        return "Register pins on {on}, {diameter} wide, {height} high, lead-in {chamfer}, in from edges {inset}, hole gap {gap}"

    def build(self, at: Builder) -> None:
        pair = both(at)
        radius, height, gap, chamfer = at.mm("diameter") / 2, at.mm("height"), at.mm("gap"), at.mm("chamfer")
        if chamfer >= min(radius, height):
            at.fail("chamfer", f"A lead-in of {at.in_unit(chamfer)} is as large as the pin.", "Make it smaller.")
        bearer, other = (pair.core, pair.cavity) if self.on == "core" else (pair.cavity, pair.core)
        sense = -1.0 if self.on == "core" else 1.0
        way = times(pair.pull, sense)
        self._check_depth(at, pair, other, height + gap)
        places = self._places(at, pair, radius + gap)
        pins = [self._pin(at, place, way, radius, height, chamfer, label) for label, place in places]
        holes = [
            self._labelled(at, at.kernel("diameter", kernel.solid.cylinder, place, way, radius + gap, height + gap), label)
            for label, place in places
        ]
        volume = kernel.measure.volume
        try:
            grown = kernel.boolean.fuse(bearer.body.solid, [pin.solid for pin in pins], simplify=False)
            drilled = kernel.boolean.cut(other.body.solid, [hole.solid for hole in holes])[0]
        except KernelError as fault:
            raise StepError("inset", f"The pins or holes run into the cavity. {fault.message}", _NEARER) from fault
        removed = volume(other.body.solid) - volume(drilled.solid)
        added = volume(grown.solid) - volume(bearer.body.solid)
        for what, got, parts in (("hole", removed, holes), ("pin", added, pins)):
            wanted = sum(volume(part.solid) for part in parts)
            if abs(got - wanted) > 1e-7 * wanted:
                at.fail("inset", f"A {what} runs into the cavity or past the block.", _NEARER)
        at.replace(bearer, at.named(grown, bearer.body, *pins))
        at.replace(other, at.named(drilled, other.body, *holes))

    def _places(self, at: Builder, pair: Pair, radius: float) -> list[tuple[str, Vec]]:
        box = kernel.measure.corner_box(pair.core.body.solid)
        inset = at.mm("inset")
        a, b = pair.across
        if inset <= radius:
            at.fail(
                "inset",
                f"At {at.in_unit(inset)} from the edges the pins stand off the block.",
                f"Use more than {at.in_unit(radius)}.",
            )
        room = min(box.size[a], box.size[b]) / 2 - radius
        if inset >= room:
            at.fail(
                "inset",
                f"At {at.in_unit(inset)} from the edges the pins meet in the middle.",
                f"Use less than {at.in_unit(room)}.",
            )
        firsts = (box.low[a] + inset, box.high[a] - inset)
        seconds = (box.low[b] + inset, box.high[b] - inset)
        return [(label, pair.on_parting(firsts[i], seconds[j])) for label, i, j in _CORNERS]

    def _check_depth(self, at: Builder, pair: Pair, other: Entry, depth: float) -> None:
        box = kernel.measure.corner_box(other.body.solid)
        ends = (box.low[pair.axis] * pair.pull[pair.axis], box.high[pair.axis] * pair.pull[pair.axis])
        far = min(ends) if other.role == "cavity" else max(ends)
        room = abs(far - pair.parting)
        if depth >= room:
            at.fail(
                "height",
                f"A pin of {at.in_unit(depth)} goes through the {other.name.lower()}.",
                f"It must stay under {at.in_unit(room)}.",
            )

    def _pin(self, at: Builder, place: Vec, way: Vec, radius: float, height: float, chamfer: float, label: str) -> Body:
        bar = self._labelled(at, at.kernel("diameter", kernel.solid.cylinder, place, way, radius, height - chamfer), label)
        if chamfer == 0:
            return bar
        tip_base = along(place, way, height - chamfer)
        tip = at.kernel("chamfer", kernel.solid.cone, tip_base, way, radius, radius - chamfer, chamfer)
        named = self._labelled(at, tip, f"{label} tip")
        made = at.kernel("chamfer", kernel.boolean.fuse, bar.solid, [named.solid], simplify=False)
        return at.named(made, bar, named)

    def _labelled(self, at: Builder, made: kernel.history.Made, label: str) -> Body:
        named = at.named(made)
        return named.labelled(label)
