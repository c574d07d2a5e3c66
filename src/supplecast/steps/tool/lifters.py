"""Lifters: leaning rods on the ejector plates that free undercuts inside of the part as they push it off."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from supplecast import kernel, molding
from supplecast.curves import Line2, Region
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, Faces, Length, LengthFromZero
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame, Point2, Vec, cross, times, unit, vec
from supplecast.naming import Body
from supplecast.steps.tool.behind import Behind, needed
from supplecast.steps.tool.inner_undercuts import Inner, groups, inner
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.marks import forms_part, parted_as
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.pieces import coolant_bores, pieces
from supplecast.steps.tool.places import Place, on_first, places
from supplecast.steps.tool.sides import GROUPS
from supplecast.steps.tool.steel import bored
from supplecast.tooling.base.stack import RESERVE
from supplecast.tooling.stock import Stock, at_least
from supplecast.wording import brief, direction_words, place_words, plural

_STEEPEST, _STEP, _LEAST = 15.0, 0.5, 3.0  # °: the most a lifter leans, steps of its angle, and the least (common practice)
_INTO, _PAST = 0.5, 1.0  # mm that the cutter begins behind the undercut, and goes past what it cuts
_LAND = 1.5  # mm that the rod keeps off what hangs over, at the parting plane (common practice, no source)
_LOOSE = 0.5  # mm a side in the plates behind the core side (common practice, no source)
_FOOT, _TOE = 8.0, 4.0  # mm: how high a lifter's foot is, and how far it stands out either way (common practice, no source)


@dataclass(frozen=True)
class _Rod:
    """A leaning rod: the way it goes sideways, the pull, from where to where it reaches square to both; where along the way the
    part's wall is, where the rod's side next to it is at the level of its shelf, its slope against the pull and its thickness;
    how deep its undercut is, how far it goes, and how far its slot lets it go, mm. Levels and places count from the document's
    origin.
    """

    way: Vec
    pull: Vec
    across: tuple[float, float]
    wall: float
    inner: float
    shelf: float
    slope: float
    thick: float
    depth: float
    gone: float
    most: float

    def at(self, level: float, off: float = 0.0) -> float:
        """Where along the way a place `off` its side next to the wall is, at a level."""
        return self.inner + off - (level - self.shelf) * self.slope

    def wider(self, by: float) -> _Rod:
        return replace(self, across=(self.across[0] - by, self.across[1] + by))

    @property
    def axis(self) -> Vec:
        """The way it takes over the core: against the pull and sideways."""
        return unit(vec([w * self.slope - u for w, u in zip(self.way, self.pull, strict=True)]))

    @property
    def place(self) -> Vec:
        side, middle = cross(self.way, self.pull), sum(self.across) / 2
        return vec([w * self.wall + u * self.shelf + s * middle for w, u, s in zip(self.way, self.pull, side, strict=True)])

    def band(self, low: float, high: float, air: float = 0.0) -> list[Point2]:
        """Its outline between two levels, with air on both sides."""
        corners = ((low, -air), (low, self.thick + air), (high, self.thick + air), (high, -air))
        return [(self.at(level, off), level) for level, off in corners]

    def box(self, along: tuple[float, float], low: float, high: float) -> list[Point2]:
        return [(along[0], low), (along[1], low), (along[1], high), (along[0], high)]

    def prism(self, at: Builder, outline: Sequence[Point2], label: str) -> Body:
        """A prism over corners along the way and the pull, as wide across as the rod."""
        side = cross(self.way, self.pull)
        lines = tuple(Line2(f"s{k}", outline[k], outline[(k + 1) % len(outline)]) for k in range(len(outline)))
        frame = Frame(times(side, self.across[0]), self.way, side)
        made = at.kernel("thick", kernel.solid.extrude, Region(lines), frame, self.across[1] - self.across[0])
        return at.named(made).labelled(label)


class Lifters(Step):
    """A lifter for each undercut inside of the part, or for those picked: its head fills the undercut, and its rod leans so
    that it goes sideways by more than the undercut's depth while the ejector plates go their stroke. Its foot slides in the
    retainer plate.

    A blank angle is what the stroke asks for, in half degrees, from 3° on; up to 15° are common practice. A blank stroke is
    what the mold base has room for, less 5 mm.
    Example: {"id": "lf12", "type": "lifters", "thick": "8 mm", "margin": "1 mm"}
    """

    type: Literal["lifters"] = "lifters"
    word = "Lifters"
    purpose = "leaning rods that free undercuts inside"
    search = "lifter inner undercut hook catch snap angled ejector"
    follows = "core pins"
    picture = ("M4 14h24v7H4zM10 6h12v8H10z", "M13 9h5l-5 13M18 9l-3 13M10 22h8")
    suits = ("faces",)
    document_kinds = ("tool",)

    faces: Faces = ()
    angle: Angle = ""
    thick: Length = "8 mm"
    margin: LengthFromZero = "1 mm"
    stroke: AnyLength = ""

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"faces": [pick for pick in picked if "face" in pick]}

    def sentence(self) -> str:
        which = "the undercuts at {faces}" if self.faces else "every undercut inside"
        return f"Lifters for {which}, rods {{thick}} thick leaning {{angle}}, {{margin}} beside the undercut"

    def more(self) -> str:
        return "ejector stroke {stroke}" + ("" if self.faces else "; only for the undercuts at {faces}")

    def build(self, at: Builder) -> None:
        pair = both(at)
        lying = Lying.of(pair)
        base = needed(at, lying, "angle", "Lifters stand on ejector plates, and there are none yet.")
        plane = pair.plane
        cavities = places(at, plane)
        marks = self._marks(at, cavities[0])
        stroke, room = self._stroke(at, pair, base)
        found = []
        for number, place in enumerate(cavities, 1):
            for k, mark in enumerate(marks, 1):
                name = f"{k}at{number}" if len(cavities) > 1 else f"{k}"
                found.append((place, name, self._lift(at, place.part, pair.pull, mark)))
        lean = max(self._lean(at, lift, stroke) for _, _, lift in found)
        rods = [self._rod(at, pair, lift, lean, stroke, room) for _, _, lift in found]
        holes: dict[str, list[Body]] = {}
        lifters = [self._one(at, base, row[0], rod, row[1], holes, pair) for row, rod in zip(found, rods, strict=True)]
        self._clear(at, pair, lifters, rods)
        for plate in (pair.core, base.support, base.retainer):
            if holes[plate.id]:
                bored(at, "thick", [plate], holes[plate.id])
        self._tell(at, rods, lean, stroke)

    def _rod(self, at: Builder, pair: Pair, lift: Inner, lean: float, stroke: float, room: float) -> _Rod:
        """The rod keeps off what hangs over up to the parting plane: it leans towards that as it goes back."""
        slope, margin = math.tan(lean), at.mm("margin")
        inner = lift.along[1] + _LAND + max(pair.parting - lift.shelf, 0.0) * slope
        across = (lift.across[0] - margin, lift.across[1] + margin)
        wide = (lift.along[0], inner, lift.shelf, slope, at.mm("thick"))
        return _Rod(lift.way, pair.pull, across, *wide, lift.depth, stroke * slope, room * slope)

    def _stroke(self, at: Builder, pair: Pair, base: Behind) -> tuple[float, float]:
        """How far the ejector plates go: as typed, or what the mold base has room for, less a reserve; and that room."""
        ends = [kernel.measure.span(e.body.solid, pair.pull) for e in (base.support, base.retainer)]
        room = ends[1][0] - ends[0][1]
        stroke = at.length("stroke", self.stroke, "positive") if self.stroke else room - RESERVE
        if not 0 < stroke <= room:
            words = f"The ejector plates have room to go {at.in_unit(round(room, 2))} {at.scope.unit}."
            at.fail("stroke", words, "Use less, or a longer stroke in the mold base.")
        return stroke, room

    # --- which undercuts, and how far -----------------------------------------------------------------------------------

    def _marks(self, at: Builder, first: Place) -> list[str]:
        """The numbers of the undercuts that are meant."""
        inside = groups(first.part)
        if not inside:
            part = parted_as(at, first.part, "faces")
            words, way_out = f"{first.part.name} has no undercut inside", "Take this step out."
            if part.undercut:
                words, way_out = (
                    f"{words}; those it has are open to the outside",
                    "Use side openings, and take this step out.",
                )
            at.fail("faces", f"{words}.", way_out)
        if not self.faces:
            return list(inside)
        chosen = []
        for face in on_first(at, "faces", self.faces, first):
            mine = [number for number, faces in inside.items() if face in faces]
            if not mine:
                at.fail("faces", "A picked face is of no undercut inside.", "Pick a face of one.", lit=(first.part, [face]))
            chosen += mine
        return list(dict.fromkeys(chosen))

    def _lift(self, at: Builder, part: Entry, pull: Vec, number: str) -> Inner:
        faces = groups(part)[number]
        found = inner(part, faces, pull)
        if found is None:
            at.fail(
                "faces",
                "No lifter frees the undercut: something of the part stands in its way on every side.",
                "Leave more room beside it in the part, or turn it into a window and shut it off.",
                lit=(part, faces),
            )
        return found

    def _lean(self, at: Builder, lift: Inner, stroke: float) -> float:
        """The angle in rad that takes a lifter far enough over the stroke."""
        unit_ = at.scope.unit
        least = math.degrees(math.atan2(lift.depth + molding.lifting.CLEAR, stroke))
        if self.angle:
            lean = at.radians("angle", 1.0, _STEEPEST)
            gone = stroke * math.tan(lean)
            if gone <= lift.depth:
                words = f"At {math.degrees(lean):g}° a lifter goes {at.in_unit(round(gone, 2))} {unit_} sideways"
                words = f"{words} over the stroke of {at.in_unit(round(stroke, 2))}"
                words = f"{words}; the undercut is {at.in_unit(round(lift.depth, 2))} deep"
                at.fail("angle", f"{words}.", self._steeper(at, lift, least))
            return lean
        if least > _STEEPEST:
            words = f"An undercut {at.in_unit(round(lift.depth, 2))} {unit_} deep asks for lifters leaning {brief(least)}°"
            words = f"{words} over the stroke of {at.in_unit(round(stroke, 2))}, more than {_STEEPEST:g}° (common practice)"
            at.fail("angle", f"{words}.", self._steeper(at, lift, least))
        return math.radians(max(_up(least), _LEAST))

    def _steeper(self, at: Builder, lift: Inner, least: float) -> str:
        """What would take a lifter out of its undercut: the angle, where that may be had, or the stroke."""
        need = math.ceil((lift.depth + molding.lifting.CLEAR) / math.tan(math.radians(_STEEPEST)))
        stroke = f"a stroke of {at.no_less(need)} {at.scope.unit}"
        given = ", and leave the stroke of this step blank" if self.stroke else ""
        if least > _STEEPEST:
            return f"Give the mold base {stroke}{given}."
        return f"Use {_up(least):g}° or more, or give the mold base a longer stroke{given}."

    # --- one of them ----------------------------------------------------------------------------------------------------

    def _one(
        self, at: Builder, base: Behind, place: Place, rod: _Rod, name: str, holes: dict[str, list[Body]], pair: Pair
    ) -> Entry:
        """A lifter out of the core, on with its rod to its foot; what it needs of the plates is noted."""
        p, steel, thick = pair.pull, place.core[0], rod.thick
        low = kernel.measure.span(place.part.body.solid, p)[0] - _PAST
        back = kernel.measure.span(steel.body.solid, p)[1]
        parting = pair.parting
        end, rest = base.levels.back + parting, base.levels.rest + parting
        under = rest - _FOOT
        if kernel.measure.span(base.retainer.body.solid, p)[0] > under - _PAST:
            words = f"The foot of a lifter needs {at.in_unit(_FOOT + _PAST)} {at.scope.unit} of retainer plate"
            at.fail("thick", f"{words}.", "Make that thicker in the mold base.")
        wall = rod.wall - _INTO
        head = [(wall, low), *rod.band(low, back)[1:], (rod.at(rod.shelf), rod.shelf), (wall, rod.shelf)]
        cutter = rod.prism(at, head, f"{name} cutter")
        pieces = at.kernel("thick", kernel.boolean.common, steel.body.solid, [cutter.solid])
        if len(pieces) != 1:
            needs = at.no_less(math.ceil(rod.at(low, thick) - rod.wall - rod.depth + rod.gone))
            words = f"What the part has beside the undercut {place_words(rod.place)} cuts the rod of its lifter apart"
            room = f"{needs} {at.scope.unit} free there along {direction_words(rod.way)}"
            at.fail("thick", f"{words}.", f"Leave {room}, or use a thinner rod.")
        formed = at.named(pieces[0], steel.body, cutter)
        self._prove(at, formed, rod, place)
        foot = rod.box((rod.at(rest) - _TOE, rod.at(rest, thick) + _TOE), under, rest)
        more = [rod.prism(at, rod.band(back, rest), f"{name} rod"), rod.prism(at, foot, f"{name} foot")]
        whole = at.kernel("thick", kernel.boolean.fuse, formed.solid, [one.solid for one in more])
        body = at.named(whole, formed, *more)
        long, wide = round(rest - low - _PAST, 1), round(rod.across[1] - rod.across[0], 1)
        at.new(body, "lifter", "Lifter", f"lifter{name}", rod.axis, (GROUPS["ejection"],), Stock(
            "Lifter", "plate", (at_least(long), round(thick, 1), wide), "X40CrMoV5-1"))  # fmt: skip
        bored(at, "thick", [steel], [cutter])
        # Behind its insert a lifter passes with air; in the ejector plates it goes sideways as far as these can go.
        middle = kernel.measure.span(base.support.body.solid, p)[1]
        front = kernel.measure.span(base.retainer.body.solid, p)[0]
        slot = (rod.at(under) - _LOOSE, rod.at(front, thick) + rod.most + _LOOSE)
        pocket = (rod.at(rest) - _TOE - _LOOSE, rod.at(rest, thick) + _TOE + rod.most + _LOOSE)
        wider = rod.wider(_LOOSE)
        for plate, outlines in (
            (pair.core, [wider.band(back, end, _LOOSE)] if back < end - 1e-6 else []),
            (base.support, [wider.band(end, middle, _LOOSE)]),
            (base.retainer, [rod.box(slot, front, under), rod.box(pocket, under, rest)]),
        ):
            made = [wider.prism(at, outline, f"{name} hole {k}") for k, outline in enumerate(outlines, 1)]
            holes.setdefault(plate.id, []).extend(made)
        return Entry(f"lifter{name}", "another lifter", "lifter", body, "")

    def _prove(self, at: Builder, formed: Body, rod: _Rod, place: Place) -> None:
        """The part may stand neither in the way sideways, nor in that out of it afterwards."""
        opening = molding.opening
        faces = [face for face, tags in enumerate(formed.tags) if forms_part(tags)]
        wrong = opening.facing_wrong(formed.solid, faces, rod.way)
        part = opening.standing([opening.meshed(place.part.body.solid)])
        trap = opening.trapped(opening.meshed(formed.solid), rod.way, part, rod.gone)
        aside = kernel.move.moved(formed.solid, kernel.move.shift(times(rod.way, rod.gone))).solid
        after = opening.trapped(opening.meshed(aside), rod.pull, part)
        if wrong or trap.faces or after.faces:
            area = max(trap.area, after.area)
            much = f"{area:.1f} mm² of the part are" if area else f"{plural(len(wrong), 'face')} of the part would be"
            words = f"The lifter at the undercut {place_words(rod.place)} goes along {direction_words(rod.way)}"
            at.fail(
                "faces",
                f"{words}; {much} in its way.",
                "Leave more room beside the undercut in the part, or use a thinner rod or less margin.",
            )

    def _clear(self, at: Builder, pair: Pair, lifters: Sequence[Entry], rods: Sequence[_Rod]) -> None:
        """None may run into another, or into what else is there, at rest and on its way."""
        opening = molding.opening
        others, coolant = pieces(at), coolant_bores(at, pair)
        for number, (lifter, rod) in enumerate(zip(lifters, rods, strict=True)):
            mine = opening.meshed(lifter.body.solid)
            if kernel.nearness.bars_to(coolant, [kernel.nearness.skin(lifter.body.solid)]) <= 0:
                words = f"The lifter at the undercut {place_words(rod.place)} runs into a coolant bore"
                at.fail("thick", f"{words}.", "Move cooling below this step, so that it keeps clear.")
            for other in (*others, *lifters[number + 1 :]):
                if kernel.nearness.boxes_apart(lifter.body.solid, other.body.solid) > rod.gone:
                    continue
                its = opening.meshed(other.body.solid)
                met = opening.near(mine, its) and opening.shared(mine, its) > opening.allowed(mine, its)
                if met or (other in others and opening.trapped(mine, rod.way, opening.standing([its]), rod.gone).faces):
                    words = f"The lifter at the undercut {place_words(rod.place)} runs into {other.name}"
                    way_out = "leave out support pillars" if other.name == "Support pillar" else "move what is in its way"
                    at.fail("thick", f"{words}.", f"Use a thinner rod or another angle, or {way_out}.")

    def _tell(self, at: Builder, rods: Sequence[_Rod], lean: float, stroke: float) -> None:
        unit_ = at.scope.unit
        gone, deepest = rods[0].gone, max(rod.depth for rod in rods)
        words = f"{plural(len(rods), 'lifter')} leaning {brief(math.degrees(lean))}° {'goes' if len(rods) == 1 else 'go'}"
        words = f"{words} {at.in_unit(round(gone, 2))} {unit_} sideways over a stroke of {at.in_unit(round(stroke, 2))}"
        at.note(f"{words}; the undercut is {at.in_unit(round(deepest, 2))} {unit_} deep.")
        at.figure("lifters", len(rods))
        at.figure("lifter_travel", gone)


def _up(degrees: float) -> float:
    return math.ceil(degrees / _STEP - 1e-9) * _STEP
