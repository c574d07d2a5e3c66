"""Feed: the opening through which the mold is filled, a tapered sprue or a pour funnel."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Length
from supplecast.document.state import PARTS, Entry
from supplecast.document.step import Step
from supplecast.geometry import Vec, along, times
from supplecast.naming import Body
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.steel import bored

_WIDE, _DEEP, _SHARE = 24.0, 12.0, 0.6  # of a funnel's mouth, mm, and of the way to the part (common practice, no source)
_NAMED = 4  # parts of which it is told where they are
_INTO = 0.5  # mm that a neck reaches past the part's skin, so that what curves is met all round


class Feed(Step):
    """A feed along the pull from the outside of one half to the part, at a place given across the pull.

    A sprue widens towards the part, so that it leaves with it; a pin gate ends in a narrow neck, which breaks off; a funnel
    has a mouth of its own outside, 24 mm wide and 12 deep, or less deep where there is no room, if left blank; a riser lets
    the air out of what is cast by hand.
    Example: {"id": "f7", "type": "feed", "kind": "sprue", "side": "cavity", "outer": "4", "inner": "6"}
    """

    type: Literal["feed"] = "feed"
    word = "Feed"
    purpose = "sprue or pour funnel"
    search = "sprue gate runner pour funnel filling"
    follows = "register pins"
    picture = ("M4 10h24v11H4z", "M12 2h8l-3 10h-2z")
    document_kinds = ("tool",)

    kind: Literal["sprue", "pin gate", "funnel", "riser"] = "sprue"
    neck: Length = "1.2 mm"
    side: Literal["cavity", "core"] = "cavity"
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"
    outer: Length = "4 mm"
    inner: Length = "6 mm"
    mouth: AnyLength = ""
    depth: AnyLength = ""

    def sentence(self) -> str:
        more = {"funnel": ", mouth {mouth} wide and {depth} deep", "pin gate": ", necked to {neck} at the part"}
        funnel = more.get(self.kind, "")
        return f"Feed, {{kind}} through {{side}} half at {{x}}, {{y}}, {{outer}} to {{inner}} wide{funnel}"

    def build(self, at: Builder) -> None:
        pair = both(at)
        half = pair.cavity if self.side == "cavity" else pair.core
        parts = [e for e in at.bodies() if e.role in PARTS]
        if not parts:
            at.body(None, "part", roles=("linked", "part"))  # says that there is none
        base, direction = self._entry(at, pair)
        hits = [at.kernel("x", kernel.probing.first_hit, part.body.solid, base, direction) for part in parts]
        reach = min((hit for hit in hits if hit is not None and hit > 0), default=None)
        if reach is None:
            spans = [f"{'The part' if len(parts) == 1 else e.name} spans {self._span(at, pair, e)}" for e in parts[:_NAMED]]
            at.fail("x", "The feed does not meet the part at this place.", f"{'; '.join(spans)}.")
        tool = self._bar(at, base, direction, reach)
        feed = self._through(at, half, tool, base, direction)
        at.new(feed, "feed", "Riser" if self.kind == "riser" else "Feed", pull=pair.pull)
        bored(at, "outer", [half, *self._inserts(at, tool)], [feed])
        at.note(f"{at.in_unit(reach)} {at.scope.unit} long, {kernel.measure.volume(feed.solid) / 1000:.2f} cm³")

    def _span(self, at: Builder, pair: Pair, part: Entry) -> str:
        box = kernel.measure.box(part.body.solid)
        return " and ".join(f"{'xyz'[c]} from {at.in_unit(box.low[c])} to {at.in_unit(box.high[c])}" for c in pair.across)

    def _inserts(self, at: Builder, tool: Body) -> list[Entry]:
        """The inserts of the feed's side that it may go on through."""
        apart = kernel.nearness.boxes_apart
        return [e for e in at.bodies() if e.role == f"{self.side} insert" and apart(e.body.solid, tool.solid) <= 0]

    def _through(self, at: Builder, half: Entry, tool: Body, base: Vec, direction: Vec) -> Body:
        """What of the feed's shape is in the half, and in the insert behind it; or in an insert that goes through its plate."""
        inserts = self._inserts(at, tool)
        cut = [(e, p) for e in (half, *inserts) for p in at.kernel("outer", kernel.boolean.common, e.body.solid, [tool.solid])]
        outside = [(entry, piece) for entry, piece in cut if self._touches(piece.solid, base, direction)]
        if len(outside) != 1:
            at.fail("x", "The feed does not run clear through the half.", "Move it, or make it narrower.")
        ((first, piece),) = outside
        feed = at.named(piece, first.body, tool)
        for insert in (entry for entry in inserts if entry is not first):
            on = [p for entry, p in cut if entry is insert and kernel.nearness.between(p.solid, feed.solid) <= 0]
            if len(on) != 1:
                at.fail("x", f"The feed does not run clear through {insert.name}.", "Move it, or make it narrower.")
            more = at.named(on[0], insert.body, tool)
            feed = at.named(at.kernel("outer", kernel.boolean.fuse, feed.solid, [more.solid]), feed, more)
        return feed

    def _entry(self, at: Builder, pair: Pair) -> tuple[Vec, Vec]:
        """Where the feed enters the half's outer face, and the way it runs to the part."""
        half = pair.cavity if self.side == "cavity" else pair.core
        box = kernel.measure.corner_box(half.body.solid)
        sense = 1.0 if self.side == "cavity" else -1.0
        direction = times(pair.pull, sense)
        place = list(pair.on_parting(at.mm("x"), at.mm("y")))
        place[pair.axis] = round(box.low[pair.axis] if direction[pair.axis] > 0 else box.high[pair.axis], 6)
        return (place[0], place[1], place[2]), direction

    def _bar(self, at: Builder, base: Vec, direction: Vec, reach: float) -> Body:
        """The feed's full shape, run on past the part's skin at the same taper so that it ends inside the cavity."""
        outer, inner = at.mm("outer") / 2, at.mm("inner") / 2
        start, neck_base, neck = base, base, reach
        if self.kind == "pin gate":
            return self._pinned(at, base, direction, reach)
        if self.kind == "funnel":
            mouth, depth = self._mouth(at, reach)
            if depth >= reach:
                at.fail(
                    "depth",
                    f"A mouth {at.in_unit(depth)} deep reaches the part.",
                    f"It must stay under {at.in_unit(reach)}.",
                )
            if mouth / 2 <= outer:
                at.fail("mouth", "The mouth is no wider than the neck.", "Make it wider.")
            neck_base, neck = along(base, direction, depth), reach - depth
        slope = (inner - outer) / neck
        beyond = max(outer, inner)
        if inner + slope * beyond <= 0:
            beyond = 0.5 * inner / -slope
        bar = at.named(
            at.kernel("inner", kernel.solid.cone, neck_base, direction, outer, inner + slope * beyond, neck + beyond)
        )
        if self.kind != "funnel":
            return bar
        cup = at.kernel("mouth", kernel.solid.cone, start, direction, mouth / 2, outer, depth)
        cup_body = Body(cup.solid, tuple(tuple(f"{tag}[mouth]" for tag in tags) for tags in at.named(cup).tags))
        made = at.kernel("mouth", kernel.boolean.fuse, bar.solid, [cup.solid], simplify=False)
        return at.named(made, bar, cup_body)

    def _mouth(self, at: Builder, reach: float) -> tuple[float, float]:
        """Width and depth of a funnel's mouth, mm; left blank, the usual ones or what there is room for."""
        mouth = at.length("mouth", self.mouth, "positive") if self.mouth else max(_WIDE, 1.2 * at.mm("outer"))
        depth = at.length("depth", self.depth, "positive") if self.depth else min(_DEEP, _SHARE * reach)
        return mouth, depth

    def _pinned(self, at: Builder, base: Vec, direction: Vec, reach: float) -> Body:
        """A sprue that narrows over its last stretch to the neck, and that a little way into the part."""
        outer, inner, neck = at.mm("outer") / 2, at.mm("inner") / 2, at.mm("neck") / 2
        if neck >= inner:
            at.fail("neck", "The neck is no narrower than the sprue.", "Make it narrower.")
        narrowing = min(2 * inner, reach / 3)
        bar = at.named(at.kernel("inner", kernel.solid.cone, base, direction, outer, inner, reach - narrowing))
        tip_base = along(base, direction, reach - narrowing)
        tip = at.kernel("neck", kernel.solid.cone, tip_base, direction, inner, neck, narrowing)
        end = at.kernel("neck", kernel.solid.cylinder, along(base, direction, reach - 1e-3), direction, neck, _INTO + 1e-3)
        named = [at.named(made).labelled(label) for made, label in ((tip, "tip"), (end, "neck"))]
        made = at.kernel("neck", kernel.boolean.fuse, bar.solid, [body.solid for body in named], simplify=False)
        return at.named(made, bar, *named)

    def _touches(self, piece: kernel.shape.Solid, base: Vec, direction: Vec) -> bool:
        axis = max(range(3), key=lambda a: abs(direction[a]))
        box = kernel.measure.loose_box(piece)
        end = box.low[axis] if direction[axis] > 0 else box.high[axis]
        return abs(end - base[axis]) < 1e-3
