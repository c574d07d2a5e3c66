"""Mold base: the plates round the halves, and what guides, screws, pushes back, props, centres and lifts them."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, LengthFromZero
from supplecast.document.state import PARTS, SLIDES, Entry, Role
from supplecast.document.step import Step
from supplecast.geometry import AXES, Point2, Vec, along, cross, dot, vec
from supplecast.naming import Body
from supplecast.naming.tag import maker
from supplecast.steps.tool.between import between, inlet, third
from supplecast.steps.tool.drops import feeds_ahead
from supplecast.steps.tool.inner_undercuts import LEAN, Inner, groups, inner
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import both, core_stands
from supplecast.steps.tool.pieces import is_heeled
from supplecast.steps.tool.sides import GROUPS, ROLES
from supplecast.steps.tool.steel import bored
from supplecast.steps.tool.weighing import known
from supplecast.tooling.base.components import NoRoomError
from supplecast.tooling.base.layout import Guiding, Layout, Surroundings, laid_out
from supplecast.tooling.base.mouth import Inlet, Sprue
from supplecast.tooling.base.places import Block
from supplecast.tooling.base.stack import GIVE, OFF, Asked, PlateId
from supplecast.tooling.stock import DENSITY, WIDE, at_least
from supplecast.wording import plural

_PRESSURE = 40.0  # MPa in the cavity where the resin is not known (common practice, from memory)
_COARSE, _SAME, _PROBE, _NEAR = 0.2, 1e-3, 1.0, 1.0  # mm
_LEANING, _BESIDE = 40.0, 4.0  # mm that a lifter leans aside behind the core, and is wider than its undercut (no source)
_WALL = 8.0  # mm round a part that openings keep off, where it has no insert (common practice, no source)
_HELD: tuple[PlateId, PlateId] = ("cavity", "core")
_TOLD: tuple[tuple[PlateId, str], ...] = (
    ("fixedclamp", "clamping"), ("cavity", "cavity"), ("core", "core"), ("support", "support"), ("spacer1", "spacers"),
    ("retainer", "retainer"), ("ejectorplate", "ejector"),
)  # fmt: skip


class MoldBase(Step):
    """The plates round the two halves: clamping plates, support plate, spacers and ejector plates, with guide pillars and
    bushes, return pins, stop buttons, support pillars, screws, lifting threads, locating ring and sprue bush.

    What is left blank follows: thicknesses from the width of the plates, the support's from what it may give way, the spacers'
    from the stroke, and the stroke from how high the cores stand and how deep undercuts inside are. Each component is a body
    with what it is ordered as.
    Example: {"id": "mb10", "type": "mold base", "stroke": "40", "odd": "5"}
    """

    type: Literal["mold base"] = "mold base"
    word = "Mold base"
    purpose = "plates, guides and screws round the halves"
    search = "plates stack clamping support spacers pillars bushes locating ring sprue bush bolster standard"
    follows = "runners"
    picture = ("M8 8h16v3H8zM8 11h16v3H8z", "M5 4h22v4H5zM8 14h16v2H8zM8 16h4v3H8zM20 16h4v3h-4zM5 19h22v3H5zM14 2h4v2h-4z")
    document_kinds = ("tool",)

    stroke: AnyLength = ""
    pillar: AnyLength = ""
    odd: LengthFromZero = "5 mm"
    props: Literal["with support pillars", "without support pillars"] = "with support pillars"
    edge: LengthFromZero = "25 mm"
    clamp: AnyLength = ""
    support: AnyLength = ""
    spacer: AnyLength = ""
    rail: AnyLength = ""
    retainer: AnyLength = ""
    ejector: AnyLength = ""
    ring: AnyLength = ""

    def sentence(self) -> str:
        return "Mold base, stroke {stroke}, guide pillars {pillar}, one displaced by {odd}, {props}"

    def more(self) -> str:
        plates = "clamping plates {clamp}, standing out {edge}; support plate {support}; spacers {spacer} high, {rail} wide"
        return f"{plates}; retainer plate {{retainer}}, ejector plate {{ejector}}; locating ring {{ring}}"

    def build(self, at: Builder) -> None:
        if any(e.stock and e.stock.kind == "Support plate" for e in at.bodies()):
            at.fail("stroke", "There is a mold base already.", "Take one of the two out.")
        lying = Lying.of(both(at))
        undercut = self._undercut(at, lying.pair.pull)
        around = self._surroundings(at, lying, undercut)
        guiding = Guiding(
            self._typed(at, "pillar"), at.mm("odd"), self._typed(at, "ring"), self.props == "with support pillars"
        )
        try:
            layout = laid_out(self._asked(at, lying, around, undercut), around, guiding)
        except NoRoomError as fault:
            at.fail(fault.field if fault.field in type(self).model_fields else "pillar", fault.message, fault.hint)
        self._make(at, lying, layout, None if isinstance(around.sprue, Inlet) else around.sprue)
        self._tell(at, lying, layout, around)

    def _typed(self, at: Builder, field: str) -> float | None:
        text = getattr(self, field)
        return at.length(field, text, "positive") if text else None

    # --- what there is ----------------------------------------------------------------------------------------------

    def _surroundings(self, at: Builder, lying: Lying, undercut: Sequence[tuple[Entry, Inner]]) -> Surroundings:
        bodies = at.bodies()
        parts = [e for e in bodies if e.role in PARTS]
        if not parts:
            at.fail("stroke", "There is no part yet.", "Link a part first.")
        box = kernel.measure.loose_box
        plates: dict[Role, PlateId] = {"core insert": "core", "cavity insert": "cavity"}
        inserts = {e.id: (plates[e.role], lying.block(box(e.body.solid), e.id)) for e in bodies if e.role in plates}
        shadows = [lying.block(box(e.body.solid), e.id) for e in parts]
        blocks = [block for _, block in inserts.values()]
        blocks = blocks or [lying.block(box(e.body.solid), e.id, _WALL) for e in parts]
        blocks += [lying.block(box(e.body.solid), e.id) for e in bodies if e.role == "feed"]
        blocks += [self._way_out(at, lying, e) for e in bodies if e.role in SLIDES]
        fed = between(at)  # whose plate is as wide as all others, and open only where the manifold lies
        blocks += [lying.block(box(e.body.solid), e.id) for e in bodies if e.role in ROLES.values() and e != fed]
        blocks += [self._lifter(lying, part, one) for part, one in undercut]
        steel = [e for e in bodies if e.role in ("core", "cavity", "core insert", "cavity insert", *SLIDES)]
        mass = sum(kernel.measure.handy_volume(e.body.solid) for e in steel) * DENSITY / 1e6
        heeled = frozenset(e.id for e in bodies if e.role in plates and is_heeled(e))
        sprue = inlet(at, lying) or self._sprue(at, lying)
        return Surroundings(blocks, shadows, inserts, sprue, mass, self._pins(at, lying), heeled, third(at, lying))

    def _undercut(self, at: Builder, pull: Vec) -> list[tuple[Entry, Inner]]:
        """The undercuts inside of the parts, which will need lifters."""
        found = ((e, inner(e, faces, pull)) for e in at.bodies() if e.role in PARTS for faces in groups(e).values())
        return [(entry, one) for entry, one in found if one is not None]

    def _lifter(self, lying: Lying, part: Entry, one: Inner) -> Block:
        """Room behind the core side for the lifter of an undercut."""
        back = lying.levels(kernel.measure.corner_box(lying.pair.core.body.solid))[1]
        side = cross(one.way, lying.pair.pull)
        flat = [
            lying.flat(vec([w * u + s * v for w, s in zip(one.way, side, strict=True)]))
            for u in (one.along[0] - _LEANING, one.along[1] + _LEANING / 2)
            for v in (one.across[0] - _BESIDE, one.across[1] + _BESIDE)
        ]
        us, vs = zip(*flat, strict=True)
        return Block((min(us), min(vs)), (max(us), max(vs)), back, math.inf, part.id)

    def _pins(self, at: Builder, lying: Lying) -> list[tuple[Point2, float, float]]:
        """The pins of ejectors that were made before there was a base."""
        found: dict[str, tuple[Point2, float, float]] = {}
        for entry in (e for e in at.bodies() if e.role == "ejector"):
            for face, tags in enumerate(entry.body.tags):
                label = tags[0].rpartition("[")[2] if ".side[" in tags[0] else ""
                if label.startswith("pin "):
                    box = kernel.measure.face_box(entry.body.solid, face)
                    found[label] = (lying.flat(box.centre), lying.levels(box)[0], box.size[lying.long])
        return list(found.values())

    def _way_out(self, at: Builder, lying: Lying, slide: Entry) -> Block:
        """A slide's way through the plates to their side."""
        block = lying.block(kernel.measure.loose_box(slide.body.solid), slide.id)
        u, v = lying.flat_way(slide.pull or (1.0, 0.0, 0.0))
        far = kernel.measure.corner_box(lying.pair.core.body.solid).diagonal
        ends = [sorted((a, b, (b if d > 0 else a) + far * d)) for a, b, d in zip(block.start, block.end, (u, v), strict=True)]
        return replace(block, start=(ends[0][0], ends[1][0]), end=(ends[0][-1], ends[1][-1]))

    def _asked(self, at: Builder, lying: Lying, around: Surroundings, undercut: Sequence[tuple[Entry, Inner]]) -> Asked:
        pair = lying.pair
        boxes = [kernel.measure.corner_box(e.body.solid) for e in (pair.cavity, pair.core)]
        fixed, moving = lying.levels(boxes[0])[0], lying.levels(boxes[1])[1]
        lifted = self._lifted(at, lying, around)
        behind = [b.high for plate, b in around.inserts.values() if plate == "core"] or [s.high for s in around.shadows]
        return Asked(
            boxes[1].size[lying.long],
            boxes[1].size[lying.short],
            -fixed,
            moving,
            core_stands(at, pair),
            self._force(at, lying),
            max(moving - max(behind), 0.0),
            2 * max(max(abs(s.start[1]), abs(s.end[1])) for s in around.shadows),
            at.mm("edge"),
            lifted,
            stroke=self._typed(at, "stroke") or self._for_lifters(lifted, undercut),
            clamp=self._typed(at, "clamp"),
            support=self._typed(at, "support"),
            spacer=self._typed(at, "spacer"),
            rail=self._typed(at, "rail"),
            retainer=self._typed(at, "retainer"),
            ejector=self._typed(at, "ejector"),
            between=fixed - self._behind(at, lying),
        )

    def _behind(self, at: Builder, lying: Lying) -> float:
        """How far behind the parting plane the fixed clamping plate begins, as level: after the cavity plate, and what a feed
        has put behind that.
        """
        plate = between(at) or lying.pair.cavity
        return lying.levels(kernel.measure.corner_box(plate.body.solid))[0]

    def _for_lifters(self, lifted: float, undercut: Sequence[tuple[Entry, Inner]]) -> float | None:
        """The stroke in mm over which lifters get out of the deepest undercut; None where the part needs no less."""
        need = max((math.ceil((one.depth + molding.lifting.CLEAR) / math.tan(LEAN)) for _, one in undercut), default=0)
        return float(need) if need > lifted + OFF else None

    def _lifted(self, at: Builder, lying: Lying, around: Surroundings) -> float:
        """How far a part must be pushed before it is off the highest core, mm."""
        return core_stands(at, lying.pair) + max(0.0, *(s.high for s in around.shadows))

    def _reaches(self, lying: Lying, feed: Entry) -> bool:
        """Whether a feed lies in the parting plane, and pushes the core plate back."""
        return lying.levels(kernel.measure.loose_box(feed.body.solid))[1] > -_NEAR

    def _force(self, at: Builder, lying: Lying) -> float:
        """N with which what is molded pushes the core plate back: the pressure in the cavity over its shadow along the pull."""
        alike: dict[float, list[Entry]] = {}
        for entry in at.bodies():
            if entry.role in PARTS or (entry.role == "feed" and self._reaches(lying, entry)):
                alike.setdefault(round(kernel.measure.volume(entry.body.solid), 3), []).append(entry)
        area = 0.0
        for entries in alike.values():  # copies of a part cast the same shadow
            mesh = kernel.mesh.tessellate(entries[0].body.solid, _COARSE, 0.5, edges=False).welded()
            area += len(entries) * molding.estimates.projected_area([mesh], lying.pair.pull)
        resin = known(at)
        return area * (molding.estimates.pressure(resin.injection) if resin and resin.injection else _PRESSURE)

    def _sprue(self, at: Builder, lying: Lying) -> Sprue | None:
        """The sprue by the face with which a feed ends on the back of the cavity plate; the widest, if there are several."""
        pair = lying.pair
        back = self._behind(at, lying)
        found: list[tuple[float, Entry, Vec]] = []
        for entry in (e for e in at.bodies() if e.role == "feed"):
            solid = entry.body.solid
            for face in range(solid.face_count):
                if not kernel.measure.is_flat(solid, face):
                    continue
                frame = kernel.measure.flat_frame(solid, face)
                if dot(frame.normal, pair.pull) < -0.999 and abs(lying.level(frame.origin) - back) < _SAME:
                    found.append((kernel.measure.face_area(solid, face), entry, kernel.measure.face_middle(solid, face)))
        if not found:
            return None
        area, entry, middle = max(found, key=lambda row: row[0])
        radius = math.sqrt(area / math.pi)
        inner = kernel.probing.first_hit(entry.body.solid, along(middle, pair.pull, _PROBE), AXES[lying.long])
        if inner is None or inner < radius - _SAME:
            return None  # a funnel, which narrows inwards: it is poured into by hand, and no nozzle comes to it
        end = lying.levels(kernel.measure.loose_box(entry.body.solid))[1]
        return Sprue(lying.flat(middle), radius, (inner - radius) / _PROBE, 0.0 if end > -_NEAR else end, entry.id)

    def _make(self, at: Builder, lying: Lying, layout: Layout, sprue: Sprue | None) -> None:
        holes: dict[str, list[Body]] = {}
        for one in layout.components:
            if one.through:
                hole = at.named(lying.hole(one)).labelled(f"{one.id} hole")
                for name in one.through:
                    holes.setdefault(name, []).append(hole)
        for eye in layout.eyes:
            edge = layout.stack[eye.plate].high[1]
            bar = kernel.solid.cylinder(lying.point((eye.u, edge + 1.0), eye.level), lying.inwards, eye.radius, eye.depth + 1.0)
            holes.setdefault(eye.plate, []).append(at.named(bar).labelled(f"{eye.plate} eye"))
        feed, sucking = self._led_on(at, lying, layout, sprue), list[Body]()
        for one in layout.components:
            body = at.named(lying.body(one)).labelled(one.id)
            if one.id == "spruebush" and feed is not None:
                (cut,) = at.kernel("ring", kernel.boolean.cut, body.solid, [feed.solid])
                body = at.named(cut, body, feed)
            body = self._opened(at, body, holes.get(one.id, []))
            if one.name == "Sucker pin":
                sucking.append(body)
            role: Role = "ejector" if one.name == "Ejector pin" else ROLES[one.side]
            at.new(body, role, one.name, one.id, lying.pair.pull, (GROUPS[one.side],), one.stock)
        for plate in layout.stack.plates.values():
            if plate.id not in _HELD:
                body = self._opened(at, at.named(lying.box(plate.low, plate.high)).labelled(plate.id), holes.get(plate.id, []))
                at.new(body, ROLES[plate.side], plate.name, plate.id, lying.pair.pull, (GROUPS[plate.side],), plate.stock)
        pair = lying.pair
        fed = between(at)
        held = ((pair.cavity, "cavity"), (pair.core, "core"), *([(fed, "between")] if fed else []))
        for entry, name in (*held, *((e, e.id) for e in at.bodies())):
            if name in holes:
                bored(at, "pillar", [entry], holes[name])
        if sprue is not None and sucking:
            bored(at, "ring", [at.target(sprue.feed)], sucking)
        for entry in at.bodies():
            if entry.role == "ejector":
                at.remove(entry)

    def _opened(self, at: Builder, body: Body, holes: list[Body]) -> Body:
        if not holes:
            return body
        (cut,) = at.kernel("pillar", kernel.boolean.cut, body.solid, [hole.solid for hole in holes])
        return at.named(cut, body, *holes)

    def _led_on(self, at: Builder, lying: Lying, layout: Layout, sprue: Sprue | None) -> Body | None:
        """The feed with its sprue led on through the clamping plate to the nozzle."""
        cone = layout.mouth.cone
        if cone is None or sprue is None:
            return None
        level, nozzle, back, radius = cone
        entry = at.target(sprue.feed)
        pull = lying.pair.pull
        made = at.kernel("ring", kernel.solid.cone, lying.point(sprue.at, level), pull, nozzle, radius, back - level)
        bar = at.named(made).labelled("sprue")
        whole = at.kernel("ring", kernel.boolean.fuse, entry.body.solid, [bar.solid])
        feed = at.named(whole, entry.body, bar)
        at.replace(entry, feed)
        return feed

    # --- what came of it --------------------------------------------------------------------------------------------

    def _tell(self, at: Builder, lying: Lying, layout: Layout, around: Surroundings) -> None:
        stack, unit = layout.stack, at.scope.unit

        def mm(value: float) -> str:
            return at.in_unit(round(value, 3))

        long, wide = stack["core"].stock.sizes[:2]
        thick = [(name, stack[plate].thick) for plate, name in _TOLD]
        words = ", ".join(f"{name} {mm(value)}" for name, value in thick)
        at.note(f"Plates {mm(long)} × {mm(wide)} {unit}: {words}; {mm(stack.height)} {unit} high in all.")
        props = f" with {plural(layout.props, 'support pillar')}" if layout.props else ""
        at.note(f"The support gives way {mm(stack.gives)} {unit}{props}; ejector plates go {mm(stack.stroke)} {unit}.")
        ring = next(one.stock.sizes[0] for one in layout.components if one.id == "ring")
        bush = next((one.stock.sizes[0] for one in layout.components if one.id == "spruebush"), None)
        kind = "heated" if isinstance(around.sprue, Inlet) else "sprue"
        led = f"{kind} bush Ø{mm(bush)} {unit}" if bush else "no sprue bush, since no sprue comes out of the cavity plate"
        at.note(
            f"Pillars Ø{mm(layout.pillar)} {unit}, locating ring Ø{mm(ring)} {unit}, {led}; {len(layout.components)} parts."
        )
        at.figure("stack_height", stack.height)
        at.figure("ejector_stroke", stack.stroke)
        at.figure("support_gives", stack.gives)
        self._warn(at, lying, layout, around, mm)
        sizes = [(long, at_least(long, WIDE)), (wide, at_least(wide, WIDE))]
        if any(abs(size - stock) > _SAME for size, stock in sizes):
            next_ = " × ".join(mm(stock) for _, stock in sizes)
            at.note(f"No stock size: the next is {next_} {unit}. Inserts can be set in plates of stock sizes.")

    def _warn(self, at: Builder, lying: Lying, layout: Layout, around: Surroundings, mm: Callable[[float], str]) -> None:
        stack, unit = layout.stack, at.scope.unit
        if stack.gives > 1.02 * GIVE:
            words = (
                f"The support plate gives way {mm(stack.gives)} {unit} in the middle, more than {mm(GIVE)}: parts will flash"
            )
            at.caution("support", f"{words}. Make it thicker, or leave it blank.")
        lifted = self._lifted(at, lying, around)
        if stack.stroke < lifted:
            words = f"After a stroke of {mm(stack.stroke)} {unit} the parts still hang on the cores"
            at.caution(
                "stroke", f"{words}: they are off after {mm(lifted)}. Use {mm(lifted + OFF)} or more, or leave it blank."
            )
        inside = stack["retainer"].high[1]
        off = max(max(abs(s.start[1]), abs(s.end[1])) for s in around.shadows) - inside
        if off > 0:
            at.caution(
                "rail", f"The parts reach {mm(off)} {unit} past the ejector plates. Use narrower spacers, or wider plates."
            )
        if layout.unheld:
            names = ", ".join(next(e.name for e in at.bodies() if e.id == name) for name in layout.unheld)
            at.caution("props", f"No screw finds room beside the part in {names}. Give the block more around the part.")
        registering = {step for step, kind in at.order if kind == "register pins"}
        core = next(e for e in at.bodies() if e.role == "core")
        if at.ahead("register pins") or any(maker(tag) in registering for tags in core.body.tags for tag in tags):
            words = "Register pins guide the same halves as the pillars, and two that do not agree bind"
            at.caution("pillar", f"{words}. Leave out the register pins.")
        if feeds_ahead(at):
            at.caution("ring", "A feed is made below this step, and gets no sprue bush. Move this step below it.")
