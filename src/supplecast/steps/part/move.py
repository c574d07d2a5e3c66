"""Move: a body shifted, turned or seated on another, itself or a copy of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import (
    Angle,
    AnyLength,
    AxisField,
    AxisPick,
    BodyPick,
    Faces,
    FieldSpec,
    FurtherBodies,
    Row,
    Spot,
    SpotField,
)
from supplecast.document.several import several
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import AXES, Axis, Box, Frame, subtract, times
from supplecast.naming import FaceRef
from supplecast.wording import plural

if TYPE_CHECKING:
    from supplecast.kernel.verbs.move import Motion
    from supplecast.kernel.verbs.seating import Pair, Seat


class FacePair(Row):
    """A flat face of the moved body and one of another."""

    sentence: ClassVar[str] = "; {mine} {way} {onto}, gap {gap}"
    adding: ClassVar[str] = "pair of faces"

    mine: Faces = ()
    way: Literal["facing", "flush with"] = "facing"
    onto: Faces = ()
    gap: AnyLength = "0 mm"


class AxisPair(Row):
    """An axis of the moved body and one it comes in line with."""

    sentence: ClassVar[str] = "; {mine} in line with {onto}"
    adding: ClassVar[str] = "pair of axes"

    mine: AxisField = AxisPick(axis="z")
    onto: AxisField = AxisPick(axis="z")


class PointPair(Row):
    """A point of the moved body and one it comes to lie on."""

    sentence: ClassVar[str] = "; {mine} on {onto}"
    adding: ClassVar[str] = "pair of points"

    mine: SpotField = None
    onto: SpotField = Spot(origin=True)


class Move(Step):
    """Shift a body by typed lengths, turn it about an axis, or seat it: one of its flat faces on a flat face of another body,
    facing it or flush with it, at a gap. The body itself, or a copy; `also` are further bodies that go along.

    Seating brings the middles of both faces over each other and turns the body no more than it must. Further pairs of faces,
    axes and points hold it in more ways; an axis pair alone needs no faces. What they leave free it can be moved `along` and
    `across` and `turned`. A pair that does not hold with those before it is named with how far off it would be.
    Example: {"id": "mv1", "type": "move", "body": "p81", "x": "12 mm"}
    """

    type: Literal["move"] = "move"
    word = "Move"
    purpose = "shift, turn or seat a body, or a copy"
    search = "copy shift turn rotate place translate seat align"
    follows = "split body"
    picture = ("M3 12h9v9H3z", "M17 3h11v10H17zM9 9l6-4m-4 0h4v4")
    suits = ("faces",)
    takes_meshes = True

    document_kinds = ("part", "tool", "assembly")

    body: BodyPick = None
    how: Literal["by", "turned about", "seated"] = "by"
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"
    z: AnyLength = "0 mm"
    axis: AxisField = AxisPick(axis="z")
    angle: Angle = "90"
    face: Faces = ()
    onto: Faces = ()
    way: Literal["facing", "flush"] = "facing"
    gap: AnyLength = "0 mm"
    further: Annotated[tuple[FacePair, ...], FieldSpec("rows")] = ()
    axes: Annotated[tuple[AxisPair, ...], FieldSpec("rows")] = ()
    points: Annotated[tuple[PointPair, ...], FieldSpec("rows")] = ()
    along: AnyLength = "0 mm"
    across: AnyLength = "0 mm"
    turned: Angle = "0"
    also: FurtherBodies = ()
    copy_it: Literal["itself", "a copy"] = "itself"

    def sentence(self) -> str:
        words = {
            "by": "{how} {x}, {y}, {z}",
            "turned about": "{how} {axis} by {angle}",
            "seated": f"{{how}}{self._first()}{{axes}}{{points}}{{further}}; moved on {{along}}, {{across}}, "
            "turned {turned}; add a {axes.add}, {points.add} or {further.add}",
        }
        return f"Move {{body}}{{also}}, {{copy_it}}, {words[self.how]}"

    def _first(self) -> str:
        """The first pair of faces, left out where pairs of axes or points are enough."""
        alone = not (self.face or self.onto) and (self.axes or self.points or self.further)
        return "" if alone else " with {face} on {onto}, {way}, gap {gap}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        if len(faces) == 2:
            return {"how": "seated", "face": faces[:1], "onto": faces[1:], "body": faces[0].get("body")}
        if picked:
            body, *others = dict.fromkeys(pick.get("body") for pick in picked)
            return {"body": body, "also": [other for other in others if other]}
        there = [*before.bodies, *before.meshes]
        return {"body": there[-1]} if len(there) > 1 or before.meshes else {}

    def build(self, at: Builder) -> None:
        copy = self.copy_it == "a copy"
        seek = at.body if copy else at.target
        entries = several(seek, seek(self.body or self._seated_one(at)), self.also)
        self._handles(at, kernel.measure.loose_box(entries[0].body.solid))
        motion = self._seat(at, entries) if self.how == "seated" else self._motion(at)
        for number, entry in enumerate(entries):
            solid = entry.body.solid
            if copy:
                made = at.kernel("how", kernel.move.copied, solid, motion, "copy")
                name = self.name if self.name and len(entries) == 1 else f"{entry.name} (copy)"
                at.new(at.named(made, entry.body), entry.role, name, entry.id if number else "")
            else:
                at.replace(entry, at.named(at.kernel("how", kernel.move.moved, solid, motion), entry.body))

    def _handles(self, at: Builder, box: Box) -> None:
        """An arrow along each axis, or a ring about the one there is, at the body's middle."""
        if self.how == "by":
            for field, way in zip(("x", "y", "z"), AXES, strict=True):
                at.handle(field, box.centre, way)
        elif self.how == "turned about":
            axis = at.axis("axis")
            foot = axis.nearest(box.centre)
            arm = subtract(box.centre, foot)
            aside = times(Frame.lying(foot, axis.direction).x, box.diagonal / 2)
            at.turning("angle", foot, axis.direction, arm if math.dist(arm, (0.0, 0.0, 0.0)) > box.diagonal / 4 else aside)

    def _motion(self, at: Builder) -> Motion:
        if self.how == "by":
            by = (at.mm("x"), at.mm("y"), at.mm("z"))
            return kernel.move.shift(by)
        return kernel.move.turn(at.axis("axis"), at.radians("angle", -360.0, 360.0))

    # --- seats ------------------------------------------------------------------------------------------------------------

    def _seated_one(self, at: Builder) -> str | None:
        """The body that the first pick is on, where none is named."""
        if self.how != "seated":
            return None
        if self.face:
            return at.face(self.face[0], "face")[0].id
        mine: list[AxisPick | Spot | None] = [*(row.mine for row in self.axes), *(row.mine for row in self.points)]
        picks = [pick for pick in mine if pick is not None and pick.on_model]
        return picks[0].body if picks else None

    def _seat(self, at: Builder, moved: Sequence[Entry]) -> Motion:
        pairs, fields = self._pairs(at, moved)
        if not pairs:
            at.fail("face", "Nothing says where it is to be seated.", "Pick a face of it and one of another body.")
        size = kernel.measure.loose_box(moved[0].body.solid).diagonal
        first = Frame.lying(pairs[0].onto.point, pairs[0].onto.direction)
        if self.face:
            entry, face = at.only_face("onto", "Pick the flat face.")
            first = kernel.measure.flat_frame(entry.body.solid, face)
        try:
            seat = kernel.seating.seated(pairs, size, (first.x, first.y))
        except kernel.seating.Clash as clash:
            at.fail(fields[clash.pair], clash.message, clash.hint)
        return self._moved_on(at, seat, pairs, size).motion

    def _moved_on(self, at: Builder, seat: Seat, pairs: Sequence[Pair], size: float) -> Seat:
        """The seat with what is typed for the freedom that it leaves."""
        by, angle = (at.mm("along"), at.mm("across")), at.radians("turned", -360.0, 360.0)
        for number, field in enumerate(("along", "across")):
            if by[number] and number >= len(seat.slides):
                at.fail(field, "Its pairs hold it in this direction.", "Type 0, or take a pair out.")
        if angle and seat.spin is None:
            at.fail("turned", "Its pairs let it turn about nothing.", "Type 0, or take a pair out.")
        on = seat.moved(by, angle)
        if kernel.seating.off(pairs, on) > 1e-6:
            at.fail("turned" if angle else "along", "Moved on so far its pairs do not hold any more.", "Type less.")
        spot = on.place(pairs[0].mine.point)
        for field, way in zip(("along", "across"), seat.slides, strict=False):
            at.handle(field, spot, way)
        if seat.spin:
            arm = Frame.lying(seat.spin.point, seat.spin.direction).x
            at.turning("turned", seat.spin.point, seat.spin.direction, times(arm, size / 2))
        at.note(_free_words(seat))
        return on

    def _pairs(self, at: Builder, moved: Sequence[Entry]) -> tuple[list[Pair], list[str]]:
        """The pairs in the order in which they hold, and the field that is to blame for each."""
        pairs: list[Pair] = []
        fields: list[str] = []

        def note(field: str, kind: kernel.seating.Kind, mine: Axis, onto: Axis, gap: float = 0.0) -> None:
            pairs.append(kernel.seating.Pair(kind, mine, onto, gap))
            fields.append(field)

        if self.face or self.onto or not (self.axes or self.points or self.further):
            mine, onto = _flat(at, "face", moved, True), _flat(at, "onto", moved, False)
            note("onto", self.way, mine, onto, at.mm("gap"))
        for number, row in enumerate(self.axes):
            here, there = f"axes.{number}.mine", f"axes.{number}.onto"
            _own(at, here, row.mine, moved, "axis")
            note(here, "axis", at.axis(here), at.axis(there))
        for number, spots in enumerate(self.points):
            here, there = f"points.{number}.mine", f"points.{number}.onto"
            _own(at, here, spots.mine, moved, "point")
            mine, onto = (Axis(at.spots(field)[0], (0.0, 0.0, 1.0)) for field in (here, there))
            note(here, "point", mine, onto)
        for number, faces in enumerate(self.further):
            here, there = f"further.{number}.mine", f"further.{number}.onto"
            mine, onto = _flat(at, here, moved, True), _flat(at, there, moved, False)
            note(here, "facing" if faces.way == "facing" else "flush", mine, onto, at.mm(f"further.{number}.gap"))
        return pairs, fields


def _flat(at: Builder, field: str, moved: Sequence[Entry], own: bool) -> Axis:
    """A picked flat face as its middle and normal; of the moved bodies, or of another one."""
    entry, face = at.only_face(field, "Pick the flat face.")
    _refuse_wrong(at, field, entry, moved, own)
    flat = at.kernel(field, kernel.measure.flat_frame, entry.body.solid, face)
    return Axis(kernel.measure.face_middle(entry.body.solid, face), flat.normal)


def _own(at: Builder, field: str, pick: AxisPick | Spot | None, moved: Sequence[Entry], word: str) -> None:
    """Refuse a pick that is not on the moved bodies."""
    if pick is None or not pick.on_model:
        at.fail(field, f"This {word} does not go along with {moved[0].name}.", f"Pick one on {moved[0].name}.")
    reference = pick.reference()
    entry = at.face(reference, field)[0] if isinstance(reference, FaceRef) else at.one_edge(reference, field)[0]
    _refuse_wrong(at, field, entry, moved, True)


def _refuse_wrong(at: Builder, field: str, entry: Entry, moved: Sequence[Entry], own: bool) -> None:
    if own != any(entry.id == one.id for one in moved):
        words = f"This is on {entry.name}, which is {'not ' if own else ''}moved."
        at.fail(field, words, f"Pick one on {moved[0].name}." if own else "Pick one on another body.")


def _free_words(seat: Seat) -> str:
    if not seat.slides and not seat.turns:
        return "Held all round."
    free = [plural(len(seat.slides), "direction")] if seat.slides else []
    free += [plural(seat.turns, "axis to turn about", "axes to turn about")] if seat.turns else []
    return f"Free still: {' and '.join(free)}."
