"""Inserts: the halves set into base plates, once or at several places."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import FieldSpec, Length, LengthFromZero
from supplecast.document.state import PARTS, SLIDES, Entry, Role
from supplecast.document.step import Before, Step
from supplecast.geometry import AXES, Axis, Box, Frame, Vec, along, cross, dot, rounded, times, unit, vec
from supplecast.naming import Body
from supplecast.naming.tag import in_role, maker
from supplecast.steps.tool.pair import PLANES
from supplecast.tooling.stock import WIDE, at_least
from supplecast.wording import plural

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made
    from supplecast.kernel.verbs.move import Motion

_FOLLOWS: dict[Role, Role] = {
    "cavity": "cavity insert",
    "core": "core insert",
    "slide": "slide",
    "core slide": "core slide",
    "linked": "molded",
    "part": "molded",
}
_MOST = 16
_WALL = 3.0  # mm of steel between a rounded corner and the part (common practice, no source)
_HEEL, _BESIDE = 8.0, 1.0  # mm that heels are high, and end before the corners (common practice, no source)
_THIN = 5.0  # mm of plate between rooms for heels (common practice, no source)
_SQUARE = 1.0 / (1.0 - math.sqrt(0.5))  # a round takes 0.29 of its radius off the corner, along either side of the diagonal


@dataclass(frozen=True)
class _Set:
    """A pair of halves and what belongs to it, its box, and the level of its parting plane along the pull."""

    entries: tuple[Entry, ...]
    box: Box
    level: float


class Inserts(Step):
    """Cavity and core half become inserts in two plates, with the `fit` as gap all round; at `columns` × `rows` places.

    Of two rows the second can be turned round, so that both are gated from the middle, or mirrored. Halves of several linked
    parts make a family mold: they take the places in turn. Slides get an open way out through the plates. Inserts stand in
    pockets and are screwed from behind; or go through plates as thick as they are, and the plate behind holds their heels.
    Example: {"id": "in8", "type": "inserts", "columns": 2, "rows": 2, "between": "30"}
    """

    type: Literal["inserts"] = "inserts"
    word = "Inserts"
    purpose = "halves set into base plates, at several places"
    search = "cavities places multiple plates pockets"
    follows = "split"
    picture = ("M3 4h26v17H3z", "M6 7h8v4H6zM18 7h8v4h-8zM6 14h8v4H6zM18 14h8v4h-8z")
    document_kinds = ("tool",)

    columns: Annotated[int, Field(ge=1, le=8), FieldSpec("count")] = 2
    rows: Annotated[int, Field(ge=1, le=8), FieldSpec("count")] = 2
    second: Literal["turned round", "mirrored", "as the first"] = "turned round"
    between: LengthFromZero = "30 mm"
    margin: LengthFromZero = "40 mm"
    below: LengthFromZero = "20 mm"
    above: LengthFromZero = "20 mm"
    fit: LengthFromZero = "0.02 mm"
    plates: Literal["as they come", "in stock sizes"] = "as they come"
    corner: LengthFromZero = "0 mm"
    holding: Literal["by screws", "by heels"] = "by screws"
    heel: Length = "5 mm"

    def sentence(self) -> str:
        second = ", every second row {second}" if self.rows > 1 else ""
        behind = " {heel} wide" if self.holding == "by heels" else ", {below} below and {above} above"
        return (
            f"Inserts at {{columns}} × {{rows}} places{second}, {{between}} between them, in plates {{margin}} round, held "
            f"{{holding}}{behind}, {{plates}}, fit {{fit}}, corners rounded by {{corner}}"
        )

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"plates": "in stock sizes", "corner": "6 mm"}

    def build(self, at: Builder) -> None:
        if self.columns * self.rows > _MOST:
            at.fail("columns", f"That is {self.columns * self.rows} places.", f"At most {_MOST} are made.")
        sets, pull = self._sets(at)
        motions = self._places(at, sets, pull)
        milled = {entry.id: body for held in sets for entry, body in self._rounded(at, held, pull)}
        for held in sets:
            milled |= dict(self._heeled(at, held, pull, milled))
        made: list[Entry] = []
        for number, (held, motion) in enumerate(motions, 1):
            for entry in held.entries:
                body = at.kernel("columns", _moved, at, milled.get(entry.id, entry.body), motion, number)
                suffix = f"{entry.id.replace('.', '')}{number}"
                name = (
                    f"{_PLAIN.get(entry.role, entry.name)} {number}" if len(motions) > 1 else _PLAIN.get(entry.role, entry.name)
                )
                direction = kernel.move.direction(entry.pull, motion) if entry.pull else None
                at.new(body, _FOLLOWS[entry.role], name, suffix, direction)
                made.append(Entry(suffix, name, _FOLLOWS[entry.role], body, "", direction))
        for held in sets:
            for entry in held.entries:
                at.remove(entry)
        self._plates(at, made, pull, max(held.level for held in sets))
        at.note(
            f"{plural(len(motions), 'place')}; each pocket {at.in_unit(2 * at.mm('fit'))} {at.scope.unit} wider than "
            "its insert."
        )
        axis = _axis(pull)
        inserts = [e.body.solid for e in made if e.role in ("core insert", "cavity insert")]
        deep = max(kernel.measure.corner_box(solid).size[axis] for solid in inserts)
        if at.mm("corner") > 0:
            wide = at.in_unit(round(2 * (at.mm("corner") + at.mm("fit")), 2))
            at.note(f"A cutter Ø{wide} {at.scope.unit} mills the pockets, up to {at.in_unit(round(deep, 1))} deep.")
        else:
            at.note("Pockets with sharp corners are sunk by spark erosion, or relieved there.")
        at.figure("places", len(motions))

    def _sets(self, at: Builder) -> tuple[list[_Set], Vec]:
        """The pairs of halves there are, each with its part and slides."""
        bodies = at.bodies()
        cores = [entry for entry in bodies if entry.role == "core"]
        if not cores:
            at.fail("columns", "There are no halves yet.", "Add the halves before this step.")
        pull = cores[0].pull or (0.0, 0.0, 1.0)
        sets = []
        for core in cores:
            name = core.id.rsplit(".", 1)[0]
            mine = [
                e
                for e in bodies
                if e.id in (core.id, f"{name}.cavity") or (e.role in _FOLLOWS and self._belongs(e, core, bodies))
            ]
            held = list(dict.fromkeys(e for e in mine if e.role in _FOLLOWS))
            for entry in held:
                at.target(entry.id)
            halves = [entry.body.solid for entry in held if entry.role in ("core", "cavity")]
            if len(halves) != 2:
                at.fail("columns", f"{core.name} has no cavity half of its own.", "Check the halves before this step.")
            boxes = [kernel.measure.corner_box(solid) for solid in halves]
            low = tuple(min(b.low[a] for b in boxes) for a in range(3))
            high = tuple(max(b.high[a] for b in boxes) for a in range(3))
            faces = [f for f, tags in enumerate(core.body.tags) if in_role(tags, *PLANES)]
            level = dot(kernel.measure.flat_frame(core.body.solid, faces[0]).origin, pull)
            sets.append(_Set(tuple(held), Box((low[0], low[1], low[2]), (high[0], high[1], high[2])), level))
        return sets, pull

    def _belongs(self, entry: Entry, core: Entry, bodies: list[Entry]) -> bool:
        """Whether a part or a slide belongs to a core half: the faces that form it are known by the part they are of."""
        if entry.role in ("core", "cavity"):
            return False
        parts = [e.id for e in bodies if e.role in ("linked", "part")]
        formed = {maker(tag) for tags in core.body.tags for tag in tags}
        mine = {name for name in parts if name in formed}
        if entry.role in ("linked", "part"):
            return entry.id in mine
        return any(maker(tag) in mine for tags in entry.body.tags for tag in tags)

    def _places(self, at: Builder, sets: list[_Set], pull: Vec) -> list[tuple[_Set, Motion]]:
        """Which halves go where: rows follow each other along the second axis of the parting plane."""
        axis = _axis(pull)
        a, b = (k for k in range(3) if k != axis)
        wide, deep = (max(held.box.size[k] for held in sets) + at.mm("between") for k in (a, b))
        x, y = AXES[a], AXES[b]
        level = max(held.level for held in sets)
        copies = []
        for number in range(self.columns * self.rows):
            held = sets[number % len(sets)]
            row, column = divmod(number, self.columns)
            place = along(times(x, (column - (self.columns - 1) / 2) * wide), y, (row - (self.rows - 1) / 2) * deep)
            middle = held.box.centre
            to_middle = [-c for c in middle]
            to_middle[axis] = (level - held.level) * pull[axis]
            motion = kernel.move.shift((to_middle[0], to_middle[1], to_middle[2]))
            if row % 2 and self.second == "turned round":
                motion = kernel.move.then(motion, kernel.move.turn(Axis((0.0, 0.0, 0.0), pull), math.pi))
            if row % 2 and self.second == "mirrored":
                motion = kernel.move.then(motion, kernel.move.reflection(Frame.lying((0.0, 0.0, 0.0), y)))
            copies.append((held, kernel.move.then(motion, kernel.move.shift(place))))
        return copies

    def _rounded(self, at: Builder, held: _Set, pull: Vec) -> Iterator[tuple[Entry, Body]]:
        """The steel of a set with the corners along the pull rounded, as the cutter of its pocket leaves them."""
        corner = at.mm("corner")
        if corner <= 0:
            return
        axis = _axis(pull)
        for entry in held.entries:
            if entry.role in PARTS:
                self._spared(at, held, kernel.measure.box(entry.body.solid), axis, corner)
        prism = at.kernel("corner", kernel.solid.rounded_box, held.box.low, held.box.high, axis, corner)
        tool = at.named(prism).labelled("corners")
        for entry in held.entries:
            if entry.role in PARTS:
                continue
            pieces = at.kernel("corner", kernel.boolean.common, entry.body.solid, [tool.solid])
            if len(pieces) != 1:
                at.fail("corner", f"Corners so round cut {entry.name} apart.", "Round them less.")
            yield entry, at.named(pieces[0], entry.body, tool)

    def _heeled(self, at: Builder, held: _Set, pull: Vec, milled: Mapping[str, Body]) -> Iterator[tuple[str, Body]]:
        """The halves of a set with a heel along their backs, on two sides."""
        if self.holding != "by heels":
            return
        for entry in held.entries:
            if entry.role not in ("core", "cavity"):
                continue
            body = milled.get(entry.id, entry.body)
            box = kernel.measure.corner_box(body.solid)
            if box.size[_axis(pull)] < 2 * _HEEL:
                deep = at.in_unit(round(box.size[_axis(pull)], 2))
                words = f"{entry.name} is {deep} {at.scope.unit} deep, too shallow for a heel {at.in_unit(_HEEL)} high"
                at.fail("holding", f"{words}.", "Use a thicker block, or screws.")
            heel = at.named(self._heel(at, box, pull, entry.role == "core", 0.0)).labelled("heel")
            whole = at.kernel("heel", kernel.boolean.fuse, body.solid, [heel.solid])
            yield entry.id, at.named(whole, body, heel)

    def _heel(self, at: Builder, box: Box, pull: Vec, of_core: bool, fit: float) -> Made:
        """The slab at the back of an insert that its heels are the ends of, or with a `fit` the room for it."""
        axis, corner = _axis(pull), at.mm("corner")
        a, b = (k for k in range(3) if k != axis)
        low, high = list(box.low), list(box.high)
        low[a], high[a] = low[a] - at.mm("heel") - fit, high[a] + at.mm("heel") + fit
        low[b], high[b] = low[b] + corner + _BESIDE - fit, high[b] - corner - _BESIDE + fit
        if (pull[axis] > 0) == of_core:
            low[axis] = high[axis] - _HEEL - fit
        else:
            high[axis] = low[axis] + _HEEL + fit
        round_ = min(corner, 0.8 * at.mm("heel"))
        return at.kernel("heel", kernel.solid.rounded_box, vec(low), vec(high), axis, round_ + fit if round_ else 0.0)

    def _spared(self, at: Builder, held: _Set, part: Box, axis: int, corner: float) -> None:
        """The round of a corner must stay off the part."""
        a, b = (k for k in range(3) if k != axis)
        near = min(min(part.low[k] - held.box.low[k], held.box.high[k] - part.high[k]) for k in (a, b))
        most = min((near - _WALL) * _SQUARE, min(held.box.size[k] for k in (a, b)) / 2 - 1.0)
        if corner > most:
            words = f"Corners rounded by {at.in_unit(corner)} come too near to the part"
            words = f"{words}, {at.in_unit(round(near, 2))} from the sides"
            at.fail("corner", f"{words}.", f"Use {at.no_more(math.floor(most))} or less, or more block around the part.")

    def _plates(self, at: Builder, made: list[Entry], pull: Vec, level: float) -> None:
        axis = _axis(pull)
        forward = pull[axis] > 0
        boxes = {e.id: self._without_heel(at, e, axis) for e in made}
        inserts = {"core": [boxes[e.id] for e in made if e.role == "core insert"],
                   "cavity": [boxes[e.id] for e in made if e.role == "cavity insert"]}  # fmt: skip
        margin, fit = at.mm("margin"), at.mm("fit")
        if fit * 2 >= at.mm("between") and len(inserts["core"]) > 1:
            at.fail("between", "The pockets would run into each other.", "Leave more between the inserts.")
        need = 2 * (at.mm("heel") + fit) + _THIN
        if self.holding == "by heels" and self.columns > 1 and at.mm("between") < need:
            words = f"Heels leave less than {at.in_unit(_THIN)} {at.scope.unit} of plate between the inserts"
            at.fail("between", f"{words}.", f"Use {at.no_less(need)} or more, or narrower heels.")
        low = [min(b.low[k] for rows in inserts.values() for b in rows) - margin for k in range(3)]
        high = [max(b.high[k] for rows in inserts.values() for b in rows) + margin for k in range(3)]
        if self.plates == "in stock sizes":
            for k in (k for k in range(3) if k != axis):
                more = (at_least(high[k] - low[k], WIDE) - (high[k] - low[k])) / 2
                low[k], high[k] = low[k] - more, high[k] + more
        plane = level * pull[axis]
        for role, base, name in (("core", "above", "Core plate"), ("cavity", "below", "Cavity plate")):
            ahead = (role == "core") == forward
            outer = max(b.high[axis] for b in inserts[role]) if ahead else min(b.low[axis] for b in inserts[role])
            thick = 0.0 if self.holding == "by heels" else at.mm(base)
            if self.plates == "in stock sizes" and thick > 0:
                thick = at_least(abs(outer - plane) + thick) - abs(outer - plane)
            lows, highs = list(low), list(high)
            lows[axis], highs[axis] = (plane, outer + thick) if ahead else (outer - thick, plane)
            plate = at.kernel(base, kernel.solid.box, rounded(lows, 6), rounded(highs, 6))
            sides = ["left", "right", "front", "back", "bottom", "top"]
            faced = sides[2 * axis + (0 if ahead else 1)]
            names = {side: f"{role}.plane" if side == faced else f"{role} {side}" for side in sides}
            rows = tuple(tuple(kernel.history.Origin(names[str(o.role)]) for o in row) for row in plate.origins)
            plate = kernel.history.Made(plate.solid, rows)
            pockets = [self._pocket(at, box, axis, ahead, plane, fit, number) for number, box in enumerate(inserts[role], 1)]
            if self.holding == "by heels":
                rooms = [self._heel(at, box, pull, role == "core", fit) for box in inserts[role]]
                pockets += [at.named(room).labelled(f"heel {number}") for number, room in enumerate(rooms, 1)]
            directions = [
                self._way_out(at, e, pull, fit, max(high[k] - low[k] for k in range(3))) for e in made if e.role in SLIDES
            ]
            tools = [*pockets, *directions]
            (cut,) = at.kernel("margin", kernel.boolean.cut, plate.solid, [tool.solid for tool in tools])
            whole = at.named(cut, at.named(plate), *tools)
            at.new(whole, "core" if role == "core" else "cavity", name, role, pull)

    def _without_heel(self, at: Builder, entry: Entry, axis: int) -> Box:
        """The box of an insert in its plate's pocket."""
        box = kernel.measure.corner_box(entry.body.solid)
        if self.holding != "by heels" or entry.role not in ("core insert", "cavity insert"):
            return box
        first = next(k for k in range(3) if k != axis)
        low, high = list(box.low), list(box.high)
        low[first], high[first] = low[first] + at.mm("heel"), high[first] - at.mm("heel")
        return Box(vec(low), vec(high))

    def _pocket(self, at: Builder, box: Box, axis: int, ahead: bool, plane: float, fit: float, number: int) -> Body:
        """A pocket as deep as its insert, wider by the fit; it reaches a little past the parting plane.

        A deep core has most of itself past the plane: the plate, not the middle of the box, tells the side.
        """
        low, high = [c - fit for c in box.low], [c + fit for c in box.high]
        if ahead:
            low[axis], high[axis] = plane - 1.0, box.high[axis]
        else:
            low[axis], high[axis] = box.low[axis], plane + 1.0
        if self.holding == "by heels":  # through the plate
            low[axis], high[axis] = low[axis] - (not ahead), high[axis] + ahead
        corner = at.mm("corner") + fit if at.mm("corner") > 0 else 0.0
        made = kernel.solid.rounded_box((low[0], low[1], low[2]), (high[0], high[1], high[2]), axis, corner)
        return at.named(made).labelled(f"pocket {number}")

    def _way_out(self, at: Builder, slide: Entry, pull: Vec, fit: float, reach: float) -> Body:
        """The open way of a slide through the plates to their side."""
        direction = slide.pull or (1.0, 0.0, 0.0)
        across = unit(cross(pull, direction))
        spans = [kernel.measure.span(slide.body.solid, axis) for axis in (direction, across, pull)]
        along, beside, upwards = spans
        sides = (along[1] - 1.0, along[1] + reach), (beside[0] - fit, beside[1] + fit), (upwards[0] - fit, upwards[1] + fit)
        made = kernel.solid.bar(direction, pull, *sides)
        return at.named(made).labelled(f"way {slide.id}")


_PLAIN: dict[Role, str] = {"cavity": "Cavity insert", "core": "Core insert"}


def _axis(pull: Vec) -> int:
    return max(range(3), key=lambda k: abs(pull[k]))


def _moved(at: Builder, body: Body, motion: Motion, number: int) -> Body:
    kernel.measure.mass(body.solid)  # weighed once, its copies weigh the same
    return at.named(kernel.move.moved(body.solid, motion), body).labelled(str(number))
