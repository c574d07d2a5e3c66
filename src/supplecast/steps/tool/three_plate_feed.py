"""Three-plate feed: runners behind the cavity plate, from where drops come down to a pin gate on every part."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Length
from supplecast.document.step import Step
from supplecast.geometry import Point2, along
from supplecast.molding.mass import grams
from supplecast.naming import Body
from supplecast.steps.tool.between import DROP, RUNNER_PLATE, none_yet, plate_behind
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
from supplecast.steps.tool.pair import both
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.weighing import known
from supplecast.tooling import hot, runners
from supplecast.tooling.stock import at_least
from supplecast.wording import plural

_TAPER = math.radians(1.5)  # of a drop, a side, so that it comes out of the cavity plate (common practice, from memory)
_SPRUE = math.radians(1.0)  # of the sprue, a side (common practice, from memory: 1 to 2°)
_TIP = 2.0  # gates: how wide a drop is before it narrows to its gate (common practice, no source)
_BREAKS = 2.5  # mm of a pin gate at most, that it breaks off by itself (common practice, from memory)
_OVER = 0.5  # mm that a runner is wider than what comes down from it (common practice, no source)
_PLATE, _THIN = 1 / 12, 20.0  # of the plates' width, and mm: the runner plate (common practice, no source)
_WIDER = 1.0  # mm that a sprue is wider than its runner where they meet (common practice, no source)
_NEAR = 1e-6


@dataclass(frozen=True)
class _Sized:
    """Diameters in mm: of the gates, of drops where they narrow and where they begin, of the runner; the gates' land, and
    over how long a drop narrows.
    """

    gate: float
    tip: float
    top: float
    runner: float
    land: float
    narrows: float


class ThreePlateFeed(Step):
    """Runners lie behind the cavity plate, on a plate of their own, and come down through it to a pin gate on every part, at
    the same place of all. The tool opens there first: gates break off, and the feed falls out by itself. The mold base gives
    it the pillars, bolts and pins for that.

    Left blank, the drops stand as near to the middle of the parts as these are met squarely, and sizes follow the shot.
    Example: {"id": "tp9", "type": "three-plate feed", "gate": "1", "width": "5"}
    """

    type: Literal["three-plate feed"] = "three-plate feed"
    word = "Three-plate feed"
    purpose = "runners behind the cavity plate, pin gates on the parts"
    search = "third plate pinpoint gate runner stripper plate drop automatic degating"
    follows = "hot drops"
    picture = ("M3 3h26v4H3zM3 9h26v6H3zM5 17h8v4H5zM19 17h8v4h-8z", "M16 3v6M9 9h14M9 9l-.5 8M23 9l.5 8")
    document_kinds = ("tool",)

    x: AnyLength = ""
    y: AnyLength = ""
    gate: AnyLength = ""
    land: Length = "0.8 mm"
    width: AnyLength = ""
    sprue_x: AnyLength = ""
    sprue_y: AnyLength = ""
    outer: AnyLength = ""
    plate: AnyLength = ""

    def sentence(self) -> str:
        return "Three-plate feed, drops on the first part at {x}, {y}, gates {gate} wide, runners {width}"

    def more(self) -> str:
        return "gates {land} long; sprue at {sprue_x}, {sprue_y}, {outer} wide outside; runner plate {plate}"

    def build(self, at: Builder) -> None:
        none_yet(at, "x")
        pair = both(at)
        lying, back = Lying.of(pair), cavity_back(pair)
        typed = at.length("gate", self.gate, "positive") if self.gate else None
        found = drops(at, pair, typed_place(at, self.held, "x", "y"), typed or 1.0)
        sprue = middle(pair, typed_place(at, self.held, "sprue_x", "sprue_y"))
        net = runners.net(sprue, [drop.flat for drop in found], approach(found))
        if not net.runs:
            words = "The sprue stands over the drop, and there is nothing to run"
            at.fail("sprue_x", f"{words}.", "Move one of the two, or use a feed with a pin gate.")
        size = self._sized(at, found, net, back, typed)
        frame = pair.plane.shifted(back)
        section = kernel.runner.Size(size.runner, "trapezoid", 1.0)
        run = at.named(at.kernel("width", kernel.runner.net, net.runs, frame, section)).labelled("run")
        parts = [run, *self._down(at, lying, found, size, back)]
        outside = self._plate(at, lying, size, sprue)
        whole = at.kernel(
            "width", kernel.boolean.fuse, parts[0].solid, [one.solid for one in (*parts[1:], outside)], simplify=False
        )
        feed = at.named(whole, *parts, outside)
        opened(at, "x", cavity_steel(at), [feed], "A drop")
        at.new(feed, "feed", "Runners", "", pair.pull)
        self._tell(at, found, net, size, feed)

    # --- how large --------------------------------------------------------------------------------------------------

    def _sized(self, at: Builder, found: Sequence[Drop], net: runners.Net, back: float, typed: float | None) -> _Sized:
        volume = max(kernel.measure.volume(drop.part.body.solid) for drop in found)
        gate = typed or hot.gate(volume / molding.estimates.FILL)
        if gate > _BREAKS:
            most = f"{at.in_unit(_BREAKS)} {at.scope.unit}"
            at.caution("gate", f"So wide a gate does not break off as the plates open: up to {most} is usual. Use less.")
        tip, land = _TIP * gate, at.mm("land")
        narrows = (tip - gate) / 2  # by 45°
        long = max(drop.level for drop in found) - land - narrows - back
        top = round(tip + 2 * max(long, 0.0) * math.tan(_TAPER), 2)
        mass = (grams(volume, at.material) if known(at) else None) or volume / 1000
        by_mass = max(runners.runner_width(mass, max(net.lengths), at.resin), math.ceil(2 * (top + _OVER)) / 2)
        runner = at.length("width", self.width, "positive") if self.width else by_mass
        if runner < top + _NEAR:
            need = at.no_less(top + _OVER)
            words = f"The drops are {at.in_unit(top)} {at.scope.unit} wide where they begin, wider than the runner"
            at.fail("width", f"{words}.", f"Use {need} or more, or leave it blank.")
        room = min(drop.level for drop in found) - land - narrows - back
        if room < runner + 1.0:
            need = at.no_less(runner + 1.0 - room)
            words = f"The runner is {at.in_unit(runner)} {at.scope.unit} deep, and reaches down to the drops' ends"
            at.fail("width", f"{words}.", f"Make the cavity side {need} thicker, or the runner narrower.")
        return _Sized(gate, tip, top, runner, land, narrows)

    # --- what is made -----------------------------------------------------------------------------------------------

    def _down(self, at: Builder, lying: Lying, found: Sequence[Drop], size: _Sized, back: float) -> list[Body]:
        """The drops with their gates."""
        pair, cone, made = lying.pair, kernel.solid.cone, list[Body]()
        frame = pair.plane.shifted(back)
        for number, drop in enumerate(found, 1):
            start, tip = frame.point(drop.flat), drop.level - size.land
            long = tip - size.narrows - back
            narrow = size.top / 2 - long * math.tan(_TAPER)
            outline = ((back, size.top / 2), (tip - size.narrows, narrow), (tip, size.gate / 2))
            keep_steel(at, lying, drop, outline, size.land, "The drop")
            stem = at.named(at.kernel("width", cone, start, pair.pull, size.top / 2, narrow, long)).labelled(f"{DROP}{number}")
            end = along(start, pair.pull, long)
            necked = at.named(at.kernel("gate", cone, end, pair.pull, narrow, size.gate / 2, size.narrows))
            neck = gated(at, pair, drop, size.gate / 2, size.land, f"gate {number}")
            made += [stem, necked.labelled(f"tip {number}"), neck]
        return made

    def _plate(self, at: Builder, lying: Lying, size: _Sized, sprue: Point2) -> Body:
        """The runner plate; the sprue through it."""
        typed = at.length("plate", self.plate, "positive") if self.plate else None
        width = kernel.measure.corner_box(lying.pair.cavity.body.solid).size[lying.short]
        plate = plate_behind(lying, RUNNER_PLATE, typed or at_least(max(_PLATE * width, _THIN)))
        inner, pull = size.runner + _WIDER, lying.pair.pull
        outer = at.length("outer", self.outer, "positive") if self.outer else inner - 2 * plate.thick * math.tan(_SPRUE)
        if outer >= inner - _NEAR:
            words = (
                f"The sprue is {at.in_unit(round(inner, 2))} {at.scope.unit} wide at the runner, and must be narrower outside"
            )
            at.fail("outer", f"{words}.", "Use less, or leave it blank.")
        if outer < _NEAR:
            most = at.no_more(inner / 2 / math.tan(_SPRUE))
            at.fail("plate", "The sprue comes to a point in so thick a plate.", f"Use {most} or less, or leave it blank.")
        start = lying.pair.plane.shifted(plate.low[2]).point(sprue)
        cone = at.kernel("outer", kernel.solid.cone, start, pull, outer / 2, inner / 2, plate.thick)
        bar = at.named(cone).labelled("sprue")
        whole = at.named(lying.box(plate.low, plate.high)).labelled("plate")
        (cut,) = at.kernel("sprue_x", kernel.boolean.cut, whole.solid, [bar.solid])
        at.new(at.named(cut, whole, bar), ROLES["fixed"], plate.name, "plate", pull, (GROUPS["fixed"],), plate.stock)
        return bar

    def _tell(self, at: Builder, found: Sequence[Drop], net: runners.Net, size: _Sized, feed: Body) -> None:
        unit = at.scope.unit
        at.note(f"Runners {at.in_unit(size.runner)} {unit} wide, {ways(at, 'sprue_x', net)}.")
        at.note(
            f"{plural(len(found), 'drop')} {at.in_unit(size.top)} to {at.in_unit(size.tip)} {unit} wide, gates "
            f"Ø{at.in_unit(size.gate)}: {sheared(at, found, size.gate)}. {kernel.measure.volume(feed.solid) / 1000:.2f} "
            "cm³ of feed."
        )
        if not at.ahead("mold base"):
            at.note("A mold base below this step gives it the pillars, bolts and pins by which it opens.")
        at.figure("runner_mm", size.runner)
        at.figure("longest_way", max(net.lengths))
        at.figure("balance", net.balance)
