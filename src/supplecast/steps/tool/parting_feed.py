"""Feed in the parting plane: funnels, sprues and vents of molds that are cast by hand, half of each in either half."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Length
from supplecast.document.state import PARTS, Entry
from supplecast.document.step import Before, Step
from supplecast.errors import MissedError, StepError
from supplecast.geometry import DIRECTIONS, Box, Vec, along, dot, times, vec
from supplecast.naming import Body
from supplecast.steps.tool.pair import Pair, both

_WIDEST = 24.0  # mm: the mouth of a funnel that nobody sized (common practice, no source)
_SHARE = 0.75  # of the room beside the parting plane, for such a mouth
_DEEPEST = 0.6  # of the way to the part
_ALIKE, _EVEN = 1e-6, 0.005
_PLACES = 15  # along the part that are tried
_TAPERS = (1.0, 0.999)  # of a cone whose tip would lie on a round face the kernel does not see that it meets that face


@dataclass(frozen=True)
class _Way:
    """Where a feed enters the mold's side, the direction in which it runs on to the part, how far that is, and how far it is to
    the nearest outer face of either half, mm.
    """

    base: Vec
    direction: Vec
    reach: float
    room: float


class PartingFeed(Step):
    """A feed that lies in the parting plane and runs in from a side of the mold to the part, cut half into each half, so that
    what is cast is lifted out with it. A funnel has a mouth of its own at the side; a vent lets the air out, and is cast too.

    `along` is how far from the middle of that side it lies; left blank, a place is found where it meets neither pins nor other
    feeds. A mouth and depth left blank are as large as there is room for.
    Example: {"id": "pf1", "type": "parting feed", "kind": "funnel", "side": "+y", "outer": "8", "inner": "5"}
    """

    type: Literal["parting feed"] = "parting feed"
    word = "Feed in the parting"
    purpose = "funnel, sprue or vent between the halves"
    search = "parting feed pour funnel sprue gate vent riser hand casting silicone parting plane side"
    follows = "feed"
    picture = ("M4 5h24v7H4zM4 12h24v7H4z", "M28 7l-7 4h-6v2h6l7 4")
    document_kinds = ("tool",)

    kind: Literal["funnel", "sprue", "vent"] = "funnel"
    side: Literal["+x", "-x", "+y", "-y", "+z", "-z"] = "+y"
    along: AnyLength = "0 mm"
    outer: Length = "8 mm"
    inner: Length = "5 mm"
    mouth: AnyLength = ""
    depth: AnyLength = ""

    def sentence(self) -> str:
        funnel = ", mouth {mouth} wide and {depth} deep" if self.kind == "funnel" else ""
        return (
            f"Feed, {{kind}} in the parting plane, from the side that lies {{side}}, {{along}} off its middle, "
            f"{{outer}} to {{inner}} wide{funnel}"
        )

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        """The first is what it is filled by; each further one lets the air out, from a side that has none yet."""
        taken = {step.held("side") for step in before.steps if isinstance(step, cls) and not step.skip}
        free = [side for side in ("+x", "-x", "-y", "+z", "-z") if side not in taken]
        vent = {"kind": "vent", "side": free[0], "outer": "3 mm", "inner": "2 mm"} if taken and free else {}
        return {"along": "", **vent}

    def build(self, at: Builder) -> None:
        pair = both(at)
        parts = [entry for entry in at.bodies() if entry.role in PARTS]
        if not parts:
            at.fail("side", "There is no part yet that could be filled.", "Link a part before this step.")
        if self.along:
            self._laid(at, pair, parts, at.mm("along"))
        else:
            self._found(at, pair, parts)

    def _found(self, at: Builder, pair: Pair, parts: Sequence[Entry]) -> None:
        """Laid at the first place where it can be, from the middle of what it feeds on outwards."""
        _, beside, middle = self._side(at, pair)
        boxes = [kernel.measure.box(part.body.solid) for part in parts]
        low, high = min(b.low[beside] for b in boxes) - middle, max(b.high[beside] for b in boxes) - middle
        spots = sorted({0.0, *np.linspace(low, high, _PLACES + 2)[1:-1].tolist()}, key=lambda u: (abs(u - (low + high) / 2), u))
        faults: list[StepError] = []
        for spot in spots:
            try:
                self._laid(at, pair, parts, round(spot, 1))
            except StepError as fault:
                faults.append(fault)
            else:
                off = f"{at.in_unit(abs(round(spot, 1)))} {at.scope.unit} off the middle of its side"
                at.note(f"It lies {off if round(spot, 1) else 'in the middle of its side'}.")
                return
        if all(fault.field == "along" for fault in faults):
            words = "Nowhere along this side does the feed run clear of pins and other feeds to the part"
            at.fail("along", f"{words}.", "Choose another side, or make it narrower.")
        raise next(fault for fault in faults if fault.field != "along")

    def _laid(self, at: Builder, pair: Pair, parts: Sequence[Entry], aside: float) -> None:
        """Laid so many mm off the middle of its side."""
        solids = [part.body.solid for part in parts]
        way = self._way(at, pair, solids, aside)
        for taper in _TAPERS:
            bar = self._bar(at, way, taper)
            with suppress(MissedError):
                pieces = kernel.boolean.cut(bar.solid, solids, pieces=None)
                break
        else:
            pieces = at.kernel("inner", kernel.boolean.cut, bar.solid, solids, pieces=None)
        outside = [piece for piece in pieces if kernel.probing.covers(piece.solid, along(way.base, way.direction, 1e-3))]
        if len(outside) != 1:
            at.fail("outer", "The feed does not run clear from the side of the mold to the part.", "Make it narrower.")
        feed = at.named(outside[0], bar, *(part.body for part in parts))
        opened = [at.kernel("outer", kernel.boolean.cut, h.body.solid, [feed.solid])[0] for h in (pair.cavity, pair.core)]
        volume = kernel.measure.volume
        halves = (pair.cavity, pair.core)
        shares = [volume(half.body.solid) - volume(made.solid) for half, made in zip(halves, opened, strict=True)]
        if abs(sum(shares) - volume(feed.solid)) > _ALIKE * volume(feed.solid):
            at.fail(
                "along",
                "The feed runs into a register pin, or into another feed.",
                "Move it along the side, or make it narrower.",
            )
        for half, made in zip(halves, opened, strict=True):
            at.replace(half, at.named(made, half.body, feed))
        at.new(feed, "feed", "Vent" if self.kind == "vent" else "Feed", pull=pair.pull)
        share = shares[0] / sum(shares)
        where = "half of it in each half" if abs(share - 0.5) < _EVEN else f"{share:.0%} of it in the cavity half"
        at.note(f"{at.in_unit(way.reach)} {at.scope.unit} long, {volume(feed.solid) / 1000:.2f} cm³, {where}.")

    def _side(self, at: Builder, pair: Pair) -> tuple[Box, int, float]:
        """The box round both halves, the axis along the side that it comes out of, and the middle of that."""
        out = DIRECTIONS[self.side]
        if abs(dot(out, pair.pull)) > 0.5:
            others = " or ".join(side for side in ("+x", "-y", "+z") if abs(dot(DIRECTIONS[side], pair.pull)) < 0.5)
            at.fail("side", f"The mold opens along {self.side}: no parting plane comes out there.", f"Choose {others}.")
        boxes = [kernel.measure.corner_box(half.body.solid) for half in (pair.cavity, pair.core)]
        low = [min(box.low[k] for box in boxes) for k in range(3)]
        high = [max(box.high[k] for box in boxes) for k in range(3)]
        side = max(range(3), key=lambda k: abs(out[k]))
        (beside,) = (k for k in pair.across if k != side)
        return Box(vec(low), vec(high)), beside, (low[beside] + high[beside]) / 2

    def _way(self, at: Builder, pair: Pair, parts: Sequence[kernel.shape.Solid], aside: float) -> _Way:
        around, beside, middle = self._side(at, pair)
        out, low, high = DIRECTIONS[self.side], around.low, around.high
        side = max(range(3), key=lambda k: abs(out[k]))
        place = list(pair.on_parting(0.0, 0.0))
        place[side] = round(high[side] if out[side] > 0 else low[side], 6)
        place[beside] = middle + aside
        base: Vec = (place[0], place[1], place[2])
        at.handle("along", base, DIRECTIONS["+" + "xyz"[beside]])
        hits = [
            hit for part in parts if (hit := kernel.probing.first_hit(part, base, times(out, -1.0))) is not None and hit > 0
        ]
        if not hits:
            spans = [kernel.measure.box(part) for part in parts]
            least, most = min(b.low[beside] for b in spans) - middle, max(b.high[beside] for b in spans) - middle
            hint = f"The part spans from {at.in_unit(round(least, 3))} to {at.in_unit(round(most, 3))} off the middle."
            at.fail("along", "The feed does not meet the part in the parting plane at this place.", hint)
        level = place[pair.axis]
        return _Way(base, times(out, -1.0), min(hits), min(level - low[pair.axis], high[pair.axis] - level))

    def _bar(self, at: Builder, way: _Way, taper: float) -> Body:
        """The whole feed, run on past the part's skin at the same taper so that it ends inside the cavity; `taper` is the share
        of it that is kept.
        """
        outer, inner = at.mm("outer") / 2, at.mm("inner") / 2
        if outer >= way.room:
            at.fail("outer", f"{at.in_unit(2 * outer)} wide it comes out of a half.", f"Under {at.in_unit(2 * way.room)} fits.")
        foot, length, cups = way.base, way.reach, list[Body]()
        if self.kind == "funnel":
            mouth, depth = self._mouth(at, way, outer)
            cup = at.kernel("mouth", kernel.solid.cone, way.base, way.direction, mouth, outer, depth)
            cups = [at.named(cup).labelled("mouth")]
            foot, length = along(way.base, way.direction, depth), way.reach - depth
        slope = taper * (inner - outer) / length
        beyond = max(outer, inner)
        if inner + slope * beyond <= 0:
            beyond = 0.5 * inner / -slope
        tip = outer + slope * (length + beyond)
        bar = at.named(at.kernel("inner", kernel.solid.cone, foot, way.direction, outer, tip, length + beyond))
        if not cups:
            return bar
        whole = at.kernel("mouth", kernel.boolean.fuse, bar.solid, [cup.solid for cup in cups], simplify=False)
        return at.named(whole, bar, *cups)

    def _mouth(self, at: Builder, way: _Way, outer: float) -> tuple[float, float]:
        """Radius and depth of a funnel's mouth, mm; left blank, what there is room for."""
        widest = max(min(_WIDEST / 2, _SHARE * way.room), 1.2 * outer)
        mouth = at.mm("mouth") / 2 if self.mouth else widest
        depth = at.mm("depth") if self.depth else min(mouth, _DEEPEST * way.reach)
        if mouth >= way.room:
            fits = f"Under {at.in_unit(2 * way.room)} fits, or a larger block."
            at.fail("mouth", f"A mouth {at.in_unit(2 * mouth)} wide comes out of a half.", fits)
        if mouth <= outer:
            at.fail("mouth", "The mouth is no wider than the neck.", f"Make it wider than {at.in_unit(2 * outer)}.")
        if depth <= 0 or depth >= way.reach:
            hint = f"It must stay under {at.in_unit(way.reach)}."
            at.fail("depth", f"A mouth {at.in_unit(depth)} deep reaches the part." if depth > 0 else "It has no depth.", hint)
        return mouth, depth
