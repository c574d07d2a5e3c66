"""Inserts: the halves set into base plates, once or at several places."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import FieldSpec, LengthFromZero
from supplecast.document.state import SLIDES, Entry, Role
from supplecast.document.step import Before, Step
from supplecast.geometry import AXES, Axis, Box, Frame, Vec, along, cross, dot, rounded, times, unit
from supplecast.naming import Body
from supplecast.naming.tag import in_role, maker
from supplecast.steps.tool.pair import PLANES
from supplecast.tooling.stock import WIDE, at_least
from supplecast.wording import plural

if TYPE_CHECKING:
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


@dataclass(frozen=True)
class _Set:
    """A pair of halves and what belongs to it, its box, and the level of its parting plane along the pull."""

    entries: tuple[Entry, ...]
    box: Box
    level: float


class Inserts(Step):
    """Cavity and core half become inserts in two plates, with the `fit` as gap all round; at `columns` × `rows` places.

    Of two rows the second can be turned round, so that both are gated from the middle, or mirrored. Halves of several linked
    parts make a family mold: they take the places in turn. Slides get an open way out through the plates.
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

    def sentence(self) -> str:
        second = ", every second row {second}" if self.rows > 1 else ""
        return (
            f"Inserts at {{columns}} × {{rows}} places{second}, {{between}} between them, in plates {{margin}} round, "
            "{below} below and {above} above, {plates}, fit {fit}"
        )

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"plates": "in stock sizes"}

    def build(self, at: Builder) -> None:
        if self.columns * self.rows > _MOST:
            at.fail("columns", f"That is {self.columns * self.rows} places.", f"At most {_MOST} are made.")
        sets, pull = self._sets(at)
        motions = self._places(at, sets, pull)
        made: list[Entry] = []
        for number, (held, motion) in enumerate(motions, 1):
            for entry in held.entries:
                body = at.kernel("columns", _moved, at, entry, motion, number)
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
        axis = max(range(3), key=lambda a: abs(pull[a]))
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

    def _plates(self, at: Builder, made: list[Entry], pull: Vec, level: float) -> None:
        axis = max(range(3), key=lambda k: abs(pull[k]))
        forward = pull[axis] > 0
        boxes = {e.id: kernel.measure.corner_box(e.body.solid) for e in made}
        inserts = {"core": [boxes[e.id] for e in made if e.role == "core insert"],
                   "cavity": [boxes[e.id] for e in made if e.role == "cavity insert"]}  # fmt: skip
        margin, fit = at.mm("margin"), at.mm("fit")
        if fit * 2 >= at.mm("between") and len(inserts["core"]) > 1:
            at.fail("between", "The pockets would run into each other.", "Leave more between the inserts.")
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
            thick = at.mm(base)
            if self.plates == "in stock sizes":
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
            directions = [
                self._way_out(at, e, pull, fit, max(high[k] - low[k] for k in range(3))) for e in made if e.role in SLIDES
            ]
            tools = [*pockets, *directions]
            (cut,) = at.kernel("margin", kernel.boolean.cut, plate.solid, [tool.solid for tool in tools])
            whole = at.named(cut, at.named(plate), *tools)
            at.new(whole, "core" if role == "core" else "cavity", name, role, pull)

    def _pocket(self, at: Builder, box: Box, axis: int, ahead: bool, plane: float, fit: float, number: int) -> Body:
        """A pocket as deep as its insert, wider by the fit; it reaches a little past the parting plane.

        A deep core has most of itself past the plane: the plate, not the middle of the box, tells the side.
        """
        low, high = [c - fit for c in box.low], [c + fit for c in box.high]
        if ahead:
            low[axis], high[axis] = plane - 1.0, box.high[axis]
        else:
            low[axis], high[axis] = box.low[axis], plane + 1.0
        made = kernel.solid.box((low[0], low[1], low[2]), (high[0], high[1], high[2]))
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


def _moved(at: Builder, entry: Entry, motion: Motion, number: int) -> Body:
    kernel.measure.mass(entry.body.solid)  # weighed once, its copies weigh the same
    return at.named(kernel.move.moved(entry.body.solid, motion), entry.body).labelled(str(number))
