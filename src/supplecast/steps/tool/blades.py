"""Blades: flat ejectors that push on rims and the ends of ribs, where no round pin finds room."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Faces, FieldSpec, Length, LengthFromZero
from supplecast.document.state import SLIDES, Entry
from supplecast.document.step import Step
from supplecast.geometry import Bar, Point2, Vec, along, cross, dot, subtract, times, unit
from supplecast.naming import Body
from supplecast.steps.tool.behind import Behind, needed
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.pieces import coolant_bores, pieces
from supplecast.steps.tool.places import Place, on_first, places
from supplecast.steps.tool.sides import GROUPS
from supplecast.steps.tool.steel import bored
from supplecast.steps.tool.weighing import known
from supplecast.tooling.base.blades import BladeSize, blade_shank, buckling_force, usual
from supplecast.tooling.base.component import stepped
from supplecast.tooling.base.components import pin_head
from supplecast.wording import brief, plural

_SQUARE = math.cos(math.radians(0.5))
_NARROW, _USUAL = 4.0, 7.5  # mm: walls that pins find no room on, and the widest blade by rule (common practice, no source)
_INTO, _UNDER = 0.2, 0.05  # mm that a slot goes into what it opens, and under the skin where the wall is measured
_RELIEF, _AIR, _WALL = 0.5, 1.0, 2.0  # mm: a side behind the guide, along the shank, of steel round it (common practice)
_BETWEEN = 0.5  # mm between heads (common practice, no source)
_SPOTS = (0.5, 0.25, 0.75, 0.125, 0.875)  # of a straight edge, where blades are tried


@dataclass(frozen=True)
class _Spot:
    """Where a blade pushes on the first part: its middle, the way along it, the wall there, and how long the stretch is, mm."""

    place: Vec
    along: Vec
    wall: float
    long: float


class Blades(Step):
    """Flat ejectors along straight narrow walls: on the rim, on the ends of ribs; there where they are picked, or by rule, as
    far from each other as can be. They are as thick as the wall allows and are held in the retainer plate of a mold base.
    Their slots are square, and cut by wire.
    Example: {"id": "bl12", "type": "blades", "count": 4}
    """

    type: Literal["blades"] = "blades"
    word = "Blades"
    purpose = "flat ejectors on rims and ribs"
    search = "blade flat ejector rib rim narrow push off"
    follows = "ejectors"
    picture = ("M4 12h24v4H4z", "M9 12V4h4v8M19 12V4h4v8M11 16v3M21 16v3M4 19h24v2H4z")
    suits = ("faces",)
    document_kinds = ("tool",)

    faces: Faces = ()
    count: Annotated[int, Field(ge=1, le=40), FieldSpec("count")] = 4
    width: AnyLength = ""
    guide: Length = "15 mm"
    gap: LengthFromZero = "0.02 mm"
    clear: LengthFromZero = "2 mm"

    def sentence(self) -> str:
        where = "on {faces}" if self.faces else "on rims and ribs"
        return f"Blades, {{count}} for each part, {where}, {{width}} wide, guided over {{guide}} with {{gap}} a side"

    def more(self) -> str:
        return "{clear} from bores and pins" + ("" if self.faces else "; only on {faces}")

    def build(self, at: Builder) -> None:
        pair = both(at)
        plane = pair.plane
        lying = Lying.of(pair)
        base = needed(at, lying, "count", "Blades stand in the retainer plate of a mold base.")
        cavities = places(at, plane)
        first = cavities[0]
        stroke = self._stroke(lying, base)
        chosen = self._chosen(at, lying, base, cavities)
        made: list[tuple[BladeSize, float]] = []
        holes: dict[str, tuple[Entry, list[Body]]] = {}
        for number, place in enumerate(cavities, 1):
            where = f"at{number}" if len(cavities) > 1 else ""
            for k, (spot, size) in enumerate(chosen, 1):
                level = self._one(at, lying, base, place, first, spot, size, f"{k}{where}", stroke, holes)
                made.append((size, level))
        for entry, tools in holes.values():
            bored(at, "count", [entry], tools)
        sizes = sorted({f"{at.in_unit(s.thick)} × {at.in_unit(s.wide)}" for s, _ in made})
        at.note(f"{plural(len(made), 'blade')}, {', '.join(sizes)} {at.scope.unit}; their slots are cut by wire.")
        at.figure("blades", len(made))
        self._bear(at, first, pair, len(cavities), chosen, stroke)

    def _stroke(self, lying: Lying, base: Behind) -> float:
        low = lying.levels(kernel.measure.corner_box(base.retainer.body.solid))[0]
        return low - lying.levels(kernel.measure.corner_box(base.support.body.solid))[1]

    # --- where ----------------------------------------------------------------------------------------------------------

    def _chosen(self, at: Builder, lying: Lying, base: Behind, cavities: Sequence[Place]) -> list[tuple[_Spot, BladeSize]]:
        """The spots of the first part with a blade for each, as far from each other as there are."""
        pair, first = lying.pair, cavities[0]
        picked = on_first(at, "faces", self.faces, first)
        spots = list(self._spots(first.part.body.solid, pair, picked))
        field = "faces" if self.faces else "count"
        if not spots:
            words = "The picked faces are not flat, straight and turned to the core side" if picked else "No narrow flat rim"
            words = words if picked else f"{words} or end of a rib looks to the core side"
            at.fail(field, f"{words}.", "Pick others." if picked else "Push the part off by ejector pins.")
        most = at.length("width", self.width, "positive") if self.width else _USUAL
        sized = [(spot, usual(spot.wall, spot.long, most)) for spot in spots]
        fitting = [(spot, size) for spot, size in sized if size is not None]
        if not fitting:
            wall = at.in_unit(round(max(spot.wall for spot in spots), 2))
            hint = "Push the part off by ejector pins." if most >= 3.8 else f"Use {at.no_less(3.8)} of width or more."
            at.fail("width" if most < 3.8 else field, f"No blade is so thin: the wall is {wall} {at.scope.unit} there.", hint)
        beside = [*pieces(at), *(e for e in at.bodies() if e.role in ("feed", *SLIDES))]
        others = [kernel.nearness.skin(e.body.solid) for e in beside]
        bores, own = coolant_bores(at, pair), [kernel.nearness.skin(first.part.body.solid)]
        plates = [one for one in fitting if self._past(lying, base, cavities, *one) <= 0]
        if not plates:
            off = min(self._past(lying, base, cavities, *one) for one in fitting)
            words = f"Blades would stand {at.in_unit(round(off, 2))} {at.scope.unit} past the ejector plates"
            hint = "Use narrower spacers in the mold base, or pick faces nearer to the middle."
            at.fail(field, f"{words}.", hint)
        free = []
        for spot, size in plates:
            shanks, heads = self._bars(at, lying, base, cavities, spot, size)
            near = min(kernel.nearness.bars_to(shanks, others), kernel.nearness.bars_apart(shanks, bores))
            if near < at.mm("clear") or kernel.nearness.bars_to(heads, others) < _BETWEEN:
                continue
            if kernel.nearness.bars_to(shanks[:1], own) >= _WALL:
                free.append((spot, size))
        if not free:
            words = "Pins, screws or coolant bores stand in the way of every blade"
            at.fail("clear", f"{words}.", "Move this step above them, or pick other faces.")
        chosen = [free.pop(0)]
        while free and len(chosen) < self.count:
            best = max(free, key=lambda one: round(min(math.dist(one[0].place, c[0].place) for c in chosen), 3))
            apart = min(math.dist(best[0].place, c[0].place) for c in chosen)
            head = pin_head(max(best[1].shank, *(c[1].shank for c in chosen)))[0]
            if apart < head + 1.0:
                break
            free.remove(best)
            chosen.append(best)
        if len(chosen) < self.count:
            at.note(f"Room for {len(chosen)} on each part only.")
        return chosen

    def _bars(
        self, at: Builder, lying: Lying, base: Behind, cavities: Sequence[Place], spot: _Spot, size: BladeSize
    ) -> tuple[list[Bar], list[Bar]]:
        """The bores of a blade's shank at all places of the tool, from its guide on, and its heads there."""
        plane, up, rest = lying.pair.plane, lying.pair.pull, base.levels.rest
        head, high = pin_head(size.shank)
        start = lying.level(spot.place) + at.mm("guide")
        feet = [plane.point(place.at(cavities[0], plane.flat(spot.place))) for place in cavities]
        shanks = [Bar(along(foot, up, start), along(foot, up, rest), size.shank / 2 + _RELIEF) for foot in feet]
        return shanks, [Bar(along(foot, up, rest - high), along(foot, up, rest), head / 2) for foot in feet]

    def _past(self, lying: Lying, base: Behind, cavities: Sequence[Place], spot: _Spot, size: BladeSize) -> float:
        """How far the head of a blade reaches past the ejector plates, at the place where it does so most, mm."""
        plane = lying.pair.plane
        places_ = [place.at(cavities[0], plane.flat(spot.place)) for place in cavities]
        heads = [lying.flat(plane.point(place)) for place in places_]
        around = pin_head(size.shank)[0] / 2
        return max(abs(c) + around - far for head in heads for c, far in zip(head, base.reach, strict=True))

    def _spots(self, part: kernel.shape.Solid, pair: Pair, picked: Sequence[int]) -> Iterator[_Spot]:
        """Places along the straight edges of flat faces that look to the core side, the longest edges first."""
        found: list[tuple[float, int, Vec, Vec]] = []
        for face in picked or range(part.face_count):
            if not kernel.measure.is_flat(part, face) or dot(kernel.measure.flat_frame(part, face).normal, pair.pull) < _SQUARE:
                continue
            for edge in part.face_edges[face]:
                ends = kernel.edges.line(part, edge)
                if ends:
                    found.append((kernel.edges.length(part, edge), face, kernel.edges.middle(part, edge), ends[1]))
        taken: list[Vec] = []
        for long, _, middle, way in sorted(found, key=lambda row: (-round(row[0], 3), row[2])):
            for share in _SPOTS:
                room = 2 * min(share, 1 - share) * long
                spot = self._spot(part, pair, along(middle, way, (share - 0.5) * long), way, room, bool(picked))
                if spot and all(math.dist(spot.place, other) > spot.wall for other in taken):
                    taken.append(spot.place)
                    yield spot

    def _spot(self, part: kernel.shape.Solid, pair: Pair, edge: Vec, way: Vec, long: float, is_picked: bool) -> _Spot | None:
        """The middle of a wall beside a place on its edge; None where that is no narrow wall."""
        under = along(edge, pair.pull, -_UNDER)
        for side in (1.0, -1.0):
            inwards = times(unit(cross(pair.pull, way)), side)
            start = along(under, inwards, _UNDER)
            if not kernel.probing.covers(part, start):
                continue
            hit = kernel.probing.first_hit(part, start, inwards)
            wall = (hit or 0.0) + _UNDER
            if hit is None or (wall > _NARROW and not is_picked):
                return None
            return _Spot(along(edge, inwards, wall / 2), way, wall, long)
        return None

    # --- one of them ----------------------------------------------------------------------------------------------------

    def _one(
        self, at: Builder, lying: Lying, base: Behind, place: Place, first: Place, spot: _Spot, size: BladeSize, label: str,
        stroke: float, holes: dict[str, tuple[Entry, list[Body]]],
    ) -> float:  # fmt: skip
        """A blade at one place of the tool, and its slot and bores; the level of its tip."""
        pair = lying.pair
        plane = pair.plane
        level = lying.level(spot.place)
        foot = plane.shifted(level).point(place.at(first, plane.flat(spot.place)))
        ahead = place.at(first, plane.flat(along(spot.place, spot.along, 1.0)))
        way = unit(subtract(plane.shifted(level).point(ahead), foot))
        guided = level + at.mm("guide")
        start = guided + stroke + _AIR
        rest, back = base.levels.rest, max(kernel.measure.span(e.body.solid, pair.pull)[1] for e in place.core) - pair.parting

        def flat(wide: float, thick: float, low: float, high: float) -> kernel.history.Made:
            side = kernel.solid.across(way, pair.pull)
            u, v, p = dot(foot, way), dot(foot, side), pair.parting
            return kernel.solid.bar(
                way, pair.pull, (u - wide / 2, u + wide / 2), (v - thick / 2, v + thick / 2), (p + low, p + high)
            )

        at_: Point2 = lying.flat(foot)
        name = f"blade{label}"
        shank = blade_shank(name, at_, level, start, size, base.levels.back, rest)
        tip = at.named(flat(size.wide, size.thick, level, start)).labelled(f"{label} flat")
        rod = at.named(lying.body(shank)).labelled(f"{label} shank")
        whole = at.kernel("count", kernel.boolean.fuse, rod.solid, [tip.solid])
        at.new(at.named(whole, rod, tip), "ejector", shank.name, name, pair.pull, (GROUPS["ejection"],), shank.stock)
        gap = at.mm("gap")
        slot = at.named(flat(size.wide + 2 * gap, size.thick + 2 * gap, level - _INTO, guided + _INTO)).labelled(
            f"{label} slot"
        )
        loose = stepped((guided, max(back, guided) + 1.0, size.shank / 2 + _RELIEF))
        bore = at.named(lying.turned(at_, loose)).labelled(f"{label} bore")
        for entry in place.core:
            holes.setdefault(entry.id, (entry, []))[1].extend((slot, bore))
        hole = at.named(lying.hole(shank)).labelled(f"{label} hole")
        for entry in (base.support, base.retainer):
            holes.setdefault(entry.id, (entry, []))[1].append(hole)
        return level

    def _bear(
        self, at: Builder, first: Place, pair: Pair, count: int, chosen: Sequence[tuple[_Spot, BladeSize]], stroke: float
    ) -> None:
        """What the weakest blade bears of the force that pushes a part off, shared by what pushes."""
        resin = known(at)
        if resin is None or resin.injection is None:
            return
        whole = 1000 * molding.release.force(molding.judge.skin_of(first.part.body.solid), pair.pull, resin)
        pushing = len(chosen) + sum(e.role == "ejector" and e.stock is not None for e in at.bodies()) // count
        weakest = min((size for _, size in chosen), key=lambda size: size.stiffness)
        bears = buckling_force(weakest, at.mm("guide") + stroke + _AIR)
        each = whole / pushing
        at.figure("blade_safety", bears / each if each else math.inf)
        at.note(f"Each of {pushing} that push bears {brief(each)} N; a blade buckles at {brief(bears)} (Euler).")
        if each and bears < molding.release.SAFE * each:
            words = f"A blade {at.in_unit(weakest.thick)} thick buckles at {brief(bears)} N, less than {molding.release.SAFE:g}"
            at.caution("count", f"{words} times what it bears. Use more blades, or pins beside them.")
