"""Register pins: pins on one half and holes in the other, so that the halves meet in one place only."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.curves import Line2, Region
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, LengthFromZero
from supplecast.document.state import PARTS, SLIDES, Entry
from supplecast.document.step import Before, Step
from supplecast.errors import KernelError, StepError
from supplecast.geometry import Frame, Vec, along, times
from supplecast.naming import Body
from supplecast.steps.tool.pair import Pair, both, core_stands
from supplecast.tooling import fits, guides

_HELD = (*PARTS, "cavity insert", "core insert", *SLIDES)
_WALL = 2.0  # mm left behind a hole whose depth is not typed
_NEARER = "Use a smaller inset or diameter, or a larger block."
_CORNERS = (("left front", 0, 0), ("right front", 1, 0), ("right back", 1, 1), ("left back", 0, 1))


class RegisterPins(Step):
    """Four pins, cones or square bosses near the corners, and holes larger by the gap all round and at the end.

    The gap is typed, or follows from how the mold is made: steel H7/g6 by ISO 286-2, printed and cast 0.15 mm a side. One
    stands `odd` mm further in than the others, so that the halves cannot close the wrong way round. Left blank, pins are as
    wide as the block asks for, and high enough to guide the halves before the highest core comes in.

    Example: {"id": "r6", "type": "register pins", "diameter": "8", "height": "12", "inset": "11", "gap": "0.1"}
    """

    type: Literal["register pins"] = "register pins"
    word = "Register pins"
    purpose = "pins and holes that align the halves"
    search = "register align dowel guide locate halves"
    follows = "inserts"
    picture = ("M4 15h24v7H4z", "M8 15V8h4v7M20 15V8h4v7")
    document_kinds = ("tool",)

    shape: Literal["pins", "cones", "bosses"] = "pins"
    diameter: AnyLength = "8 mm"
    height: AnyLength = "12 mm"
    inset: AnyLength = "12 mm"
    chamfer: LengthFromZero = "0.8 mm"
    made: Literal["with a gap", "of steel", "printed", "cast"] = "with a gap"
    gap: LengthFromZero = "0.1 mm"
    odd: LengthFromZero = "0 mm"
    lean: Angle = "10"
    on: Literal["core", "cavity"] = "core"

    def sentence(self) -> str:
        lean = {"pins": ", lead-in {chamfer}", "cones": ", sides leaning {lean}", "bosses": ", sides leaning {lean}"}[
            self.shape
        ]
        gap = " {gap}" if self.made == "with a gap" else ""
        return (
            f"Register {{shape}} on {{on}}, {{diameter}} wide, {{height}} high{lean}, in from edges {{inset}}, "
            f"holes {{made}}{gap}, one displaced by {{odd}}"
        )

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"odd": "5 mm", "diameter": "", "height": "", "inset": ""}

    def build(self, at: Builder) -> None:
        pair = both(at)
        bearer, other = (pair.core, pair.cavity) if self.on == "core" else (pair.cavity, pair.core)
        radius = self._wide(at, pair) / 2
        gap, chamfer = self._gap(at, 2 * radius), at.mm("chamfer")
        height = self._high(at, pair, other, 2 * radius, gap)
        if self.shape == "pins" and chamfer >= min(radius, height):
            at.fail("chamfer", f"A lead-in of {at.in_unit(chamfer)} is as large as the pin.", "Make it smaller.")
        sense = -1.0 if self.on == "core" else 1.0
        direction = times(pair.pull, sense)
        self._check_depth(at, pair, other, height + gap)
        places = self._places(at, pair, radius + gap)
        pins = [self._pin(at, place, direction, radius, height, chamfer, label) for label, place in places]
        holes = [self._hole(at, place, direction, radius, height, gap, label) for label, place in places]
        volume = kernel.measure.volume
        try:
            grown = kernel.boolean.fuse(bearer.body.solid, [pin.solid for pin in pins], simplify=False)
            drilled = kernel.boolean.cut(other.body.solid, [hole.solid for hole in holes])[0]
        except KernelError as fault:
            raise StepError("inset", "The pins or holes run into the cavity.", _NEARER) from fault
        removed = volume(other.body.solid) - volume(drilled.solid)
        added = volume(grown.solid) - volume(bearer.body.solid)
        for what, got, parts in (("hole", removed, holes), ("pin", added, pins)):
            wanted = sum(volume(part.solid) for part in parts)
            if abs(got - wanted) > 1e-7 * wanted:
                at.fail("inset", f"A {what} runs into the cavity or past the block.", _NEARER)
        self._tell(at, holes)
        at.replace(bearer, at.named(grown, bearer.body, *pins))
        at.replace(other, at.named(drilled, other.body, *holes))

    def _wide(self, at: Builder, pair: Pair) -> float:
        """The diameter: as typed, or by the shorter side of the block."""
        if self.diameter:
            return at.length("diameter", self.diameter, "positive")
        box = kernel.measure.corner_box(pair.core.body.solid)
        held = [kernel.measure.loose_box(e.body.solid) for e in at.bodies() if e.role in _HELD]
        margins = [min(one.low[a] - box.low[a], box.high[a] - one.high[a]) for one in held for a in pair.across]
        wide = guides.diameter(min(box.size[a] for a in pair.across), min(margins, default=0.0))
        at.note(f"Pins {at.in_unit(wide)} {at.scope.unit} wide, by the block and the room in its rim (common practice).")
        return wide

    def _high(self, at: Builder, pair: Pair, other: Entry, wide: float, gap: float) -> float:
        """The height: as typed, or so that pins guide before the highest core comes in; cautioned where they do not."""
        unit = at.scope.unit
        stands = core_stands(at, pair) if self.shape == "pins" else 0.0  # cones and bosses only centre
        most = self._room(pair, other) - gap - _WALL
        if self.height:
            height = at.length("height", self.height, "positive")
        else:
            height = min(max(stands + guides.LEAD * wide, guides.LEAST * wide), most)
            if height <= 0:
                at.fail("height", f"The {other.name.lower()} is too thin for any pin.", "Use a thicker block.")
            over = f"; the highest core stands {at.in_unit(round(stands, 2))} {unit}" if stands else ""
            at.note(f"Pins {at.in_unit(round(height, 2))} {unit} high{over}.")
        if height < stands:
            high, core = (f"{at.in_unit(round(value, 2))} {unit}" for value in (height, stands))
            words = f"The core stands {core} high: it comes in before pins of {high} guide it."
            at.caution("height", f"{words} Use {'a thicker block' if most < stands else 'more, or leave it blank'}.")
        return height

    def _room(self, pair: Pair, other: Entry) -> float:
        """How deep a half is behind the parting plane, mm."""
        box = kernel.measure.corner_box(other.body.solid)
        ends = (box.low[pair.axis] * pair.pull[pair.axis], box.high[pair.axis] * pair.pull[pair.axis])
        return abs((min(ends) if other.role == "cavity" else max(ends)) - pair.parting)

    def _places(self, at: Builder, pair: Pair, radius: float) -> list[tuple[str, Vec]]:
        box = kernel.measure.corner_box(pair.core.body.solid)
        inset = at.length("inset", self.inset, "positive") if self.inset else guides.INSET * 2 * radius
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
        places = [[firsts[i], seconds[j]] for _, i, j in _CORNERS]
        longer = 0 if box.size[a] >= box.size[b] else 1
        odd = at.mm("odd")
        if odd >= 2 * room:
            at.fail("odd", f"{at.in_unit(odd)} moves the pin past the others.", f"Use less than {at.in_unit(2 * room)}.")
        places[0][longer] += odd  # of the first corner, away from the edge along the block
        return [(label, pair.on_parting(*place)) for (label, _, _), place in zip(_CORNERS, places, strict=True)]

    def _gap(self, at: Builder, wide: float) -> float:
        """How much larger the holes are, a side."""
        if self.made == "with a gap":
            return at.mm("gap")
        making: dict[str, fits.Making] = {"of steel": "steel", "printed": "printed", "cast": "cast"}
        fit = fits.fit(making[self.made], wide)
        if fit is None:
            at.fail("made", f"ISO 286-2 is not held for {at.in_unit(wide)} here.", "Type a gap.")
        micron = f"{fit.least * 1000:.0f} to {fit.greatest * 1000:.0f} µm"
        kind = "H7/g6 (ISO 286-2)" if self.made == "of steel" else f"{self.made} (common practice)"
        at.note(f"{kind}: {micron} of air over the diameter; drawn {at.in_unit(round(fit.side, 4))} {at.scope.unit} a side.")
        return fit.side

    def _tell(self, at: Builder, holes: list[Body]) -> None:
        """How near the holes, which are wider than their pins, come to the part."""
        parts = [entry.body.solid for entry in at.bodies() if entry.role in PARTS]
        if parts:
            near = kernel.nearness.nearest_of([hole.solid for hole in holes], parts)
            at.figure("register_clearance", near)
            at.note(f"At least {at.in_unit(round(near, 2))} {at.scope.unit} from the cavity.")
        if not at.mm("odd"):
            at.note("All four alike: the halves also close turned by half.")

    def _check_depth(self, at: Builder, pair: Pair, other: Entry, depth: float) -> None:
        room = self._room(pair, other)
        if depth >= room:
            at.fail(
                "height",
                f"A pin of {at.in_unit(depth)} goes through the {other.name.lower()}.",
                f"It must stay under {at.in_unit(room)}.",
            )

    def _pin(self, at: Builder, place: Vec, direction: Vec, radius: float, height: float, chamfer: float, label: str) -> Body:
        if self.shape != "pins":
            return self._leaning(at, place, direction, radius, height, label)
        bar = self._labelled(
            at, at.kernel("diameter", kernel.solid.cylinder, place, direction, radius, height - chamfer), label
        )
        if chamfer == 0:
            return bar
        tip_base = along(place, direction, height - chamfer)
        tip = at.kernel("chamfer", kernel.solid.cone, tip_base, direction, radius, radius - chamfer, chamfer)
        named = self._labelled(at, tip, f"{label} tip")
        made = at.kernel("chamfer", kernel.boolean.fuse, bar.solid, [named.solid], simplify=False)
        return at.named(made, bar, named)

    def _hole(self, at: Builder, place: Vec, direction: Vec, radius: float, height: float, gap: float, label: str) -> Body:
        if self.shape != "pins":
            # The same shape, wider by the gap square to its leaning sides.
            return self._leaning(
                at, place, direction, radius + gap / math.cos(at.radians("lean", 1.0, 45.0)), height + gap, label
            )
        return self._labelled(
            at, at.kernel("diameter", kernel.solid.cylinder, place, direction, radius + gap, height + gap), label
        )

    def _leaning(self, at: Builder, place: Vec, direction: Vec, radius: float, height: float, label: str) -> Body:
        """A cone, or a square boss, that narrows away from the parting plane."""
        lean = at.radians("lean", 1.0, 45.0)
        tip = radius - height * math.tan(lean)
        if tip <= 0.2 * radius:
            at.fail("lean", "So much lean leaves no tip.", "Use less lean or less height.")
        if self.shape == "cones":
            return self._labelled(at, at.kernel("lean", kernel.solid.cone, place, direction, radius, tip, height), label)
        corners = [(-radius, -radius), (radius, -radius), (radius, radius), (-radius, radius)]
        square = Region(tuple(Line2(f"s{k}", corners[k], corners[(k + 1) % 4]) for k in range(4)))
        made = at.kernel("lean", kernel.solid.extrude, square, Frame.lying(place, direction), height, draft=lean)
        return self._labelled(at, made, label)

    def _labelled(self, at: Builder, made: kernel.history.Made, label: str) -> Body:
        named = at.named(made)
        return named.labelled(label)
