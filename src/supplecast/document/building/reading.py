"""Reading: sizes, bodies, sketches, datums and what lies outside, each read with its key."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

from supplecast.curves import Region
from supplecast.document.builder import Blocked
from supplecast.document.building.writing import Writing
from supplecast.document.fields import LinkPick, Profile
from supplecast.document.keys import order_key, value_key
from supplecast.document.state import Datum, Effect, Entry, Handle, Role, SketchEntry
from supplecast.document.words import step_words
from supplecast.errors import QuantityError, StepError, SuppleError
from supplecast.expressions import LENGTH_UNITS
from supplecast.geometry import Vec
from supplecast.naming.tag import maker
from supplecast.quantities import Kind
from supplecast.sketch.called import numbered
from supplecast.sketch.model import Drawing
from supplecast.sketch.regions import joined, picked
from supplecast.tooling.resins import Resin, resin
from supplecast.wording import show

_PLAIN = re.compile(r"\s*-?(\d+\.?\d*|\.\d+)\s*(mm|cm|m|in|deg|°)?\s*")
"""What dragging may write over: a number, with or without its unit, and no expression."""
_TYPED = {"mm": 0.1, "cm": 0.01, "m": 0.001, "in": 0.005}  # as finely as people type what will do
_LEAST = 1e-6  # mm; the kernel takes no two places nearer than a tenth of that for different ones


class Reading(Writing):
    """The half of a builder that looks at the document."""

    def mm(self, field: str) -> float:
        return self.length(field, str(self.step.held(field)))

    def length(self, field: str, text: str, least: str | None = None) -> float:
        value = self.evaluate(field, text, "length")
        self._check_least(field, value, least or self.step.spec_of(field).least, "mm")
        return value

    def radians(self, field: str, low: float = -89.0, high: float = 89.0) -> float:
        value = self.evaluate(field, str(self.step.held(field)), "angle")
        if not low <= math.degrees(value) <= high:
            self.fail(field, f"{math.degrees(value):g}° is out of range.", f"Type an angle from {low:g}° to {high:g}°.")
        return value

    def handle(
        self, field: str, origin: Vec, direction: Vec, *, rate: float = 1.0, ghost: Sequence[Sequence[Vec]] = ()
    ) -> None:
        if _PLAIN.fullmatch(self.step.typed(field)):
            value = self.evaluate(field, self.step.typed(field), "length")
            lines = tuple(tuple(line) for line in ghost)
            least = self.step.spec_of(field).least if field in type(self.step).model_fields else "any"
            self.handles.append(Handle(field, "length", origin, direction, value, least, rate, ghost=lines))

    def turning(self, field: str, origin: Vec, axis: Vec, arm: Vec) -> None:
        if _PLAIN.fullmatch(self.step.typed(field)):
            value = self.evaluate(field, self.step.typed(field), "angle")
            self.handles.append(Handle(field, "angle", origin, axis, value, arm=arm))

    def ratio(self, field: str) -> float:
        value = self.evaluate(field, str(self.step.held(field)), "factor")
        self._check_least(field, value, self.step.spec_of(field).least, "%")
        return value

    def plain(self, field: str) -> float:
        value = self.evaluate(field, str(self.step.held(field)), "number")
        if not 1e-3 <= value <= 1e3:
            self.fail(field, f"{show(value)} is out of range.", "Type a number from 0.001 to 1000, such as 1.02.")
        return value

    def evaluate(self, field: str, text: str, kind: Kind) -> float:
        self.scope.read.clear()
        try:
            value = self.scope.evaluate(text, kind)
        except QuantityError as fault:
            raise StepError(field, fault.message, fault.hint) from fault
        finally:
            for name in sorted(self.scope.read):
                self._note_read("value", name, value_key(self.scope, name))
        self._note_read("unit", "", self.scope.unit)
        return value

    def _check_least(self, field: str, value: float, least: str, unit: str) -> None:
        label = field.rsplit(".", 1)[-1].replace("_", " ")
        shown = show(value * 100) if unit == "%" else f"{show(value)} mm" if unit == "mm" else show(value)
        if least == "positive" and value <= 0:
            self.fail(field, f"The {label} must be greater than zero, not {shown}.", "Type a larger number.")
        if least == "positive" and unit == "mm" and value < _LEAST:
            self.fail(field, f"The {label} is under a millionth of a millimetre ({value:.3g} mm).", "Check its unit.")
        if least == "zero" and value < 0:
            self.fail(field, f"The {label} cannot be negative ({shown}).", "Type zero or more.")
        if unit == "mm" and abs(value) > 100_000:
            self.fail(field, f"The {label} is over 100 m ({shown}).", "Check its unit.")

    def in_unit(self, mm: float) -> str:
        return show(mm / LENGTH_UNITS[self.scope.unit])

    def no_less(self, mm: float) -> str:
        """A length in the document's unit that will do where one must be no less: rounded up as people type it."""
        step = _TYPED[self.scope.unit]
        return show(step * math.ceil(mm / LENGTH_UNITS[self.scope.unit] / step - 1e-6))

    def no_more(self, mm: float) -> str:
        """The same where one must be no more: rounded down, and no less than nought."""
        step = _TYPED[self.scope.unit]
        return show(step * max(math.floor(mm / LENGTH_UNITS[self.scope.unit] / step + 1e-6), 0))

    @property
    def resin(self) -> str:
        self._note_read("resin", "", self._resin.key)
        return self._resin.family

    @property
    def material(self) -> Resin:
        self._note_read("resin", "", self._resin.key)
        return self._resin.figures or resin(self._resin.family)

    def bodies(self) -> list[Entry]:
        for name, cause in self.invalidated.items():
            if name in self.state.bodies:
                raise Blocked(cause)
        self._note_read("bodies", "", self.state.bodies_key())
        return list(self.state.bodies.values())

    def solids(self) -> list[Entry]:
        return [entry for entry in self.bodies() if entry.is_own]

    def body(self, body_id: str | None, field: str = "body", roles: Sequence[Role] = ()) -> Entry:
        if body_id is None:
            candidates = [e for e in self.bodies() if (e.role in roles if roles else e.is_own)]
            if len(candidates) == 1:
                return candidates[0]
            words = " or ".join(roles) + " body" if roles else "body"
            if not candidates and self.invalidated:
                raise Blocked(next(iter(self.invalidated.values())))
            if not candidates:
                self.fail(field, f"There is no {words} yet.", "Add the step that makes one before this step.")
            meant = self._meant(candidates) if field == "body" else None
            if meant is not None:
                return meant
            names = ", ".join(entry.name for entry in candidates)
            self.fail(field, f"It is not clear which {words} is meant: {names}.", "Pick one.")
        if body_id in self.invalidated:
            raise Blocked(self.invalidated[body_id])
        entry = self.state.bodies.get(body_id)
        step = maker(body_id)
        if entry is None:
            if step in self.invalidated:
                raise Blocked(self.invalidated[step])
            self._note_read("body", body_id, "")
            self.fail(field, f"The body “{body_id}” is not there at this step.", "Pick another, or move this step down.")
        self._note_read("body", body_id, entry.key)
        return entry

    def _meant(self, among: Sequence[Entry]) -> Entry | None:
        """Which of several bodies is meant where the sheet leaves it open; None where that cannot be told."""
        return None

    def surface(self, field: str, *, changes: bool = False) -> Entry:
        seek = self.target if changes else self.body
        entry = seek(self.step.held(field), field, roles=("surface",))
        if entry.role != "surface":
            self.fail(field, f"{entry.name} is a solid, not a surface.", "Pick a surface.")
        return entry

    def tools(self, field: str, target: Entry, purpose: str) -> list[Entry]:
        held: str | Sequence[str] = self.step.held(field)
        picked = [held] if isinstance(held, str) else held
        if not picked:
            self._note_read("bodies", "", self.state.bodies_key())
            if len(self.state.bodies) < 2:
                self.fail(field, f"There is no other body {purpose}.", "Make one as a new body, or link one, before this step.")
            self.fail(field, f"No body {purpose} is picked.", "Pick at least one.")
        if target.id in picked:
            self.fail(field, f"{target.name} cannot be used on itself.", "Pick another body.")
        return [self.body(tool, field) for tool in picked]

    def sketch(self, sketch_id: str, field: str) -> SketchEntry:
        if sketch_id in self.invalidated:
            raise Blocked(self.invalidated[sketch_id])
        entry = self.state.sketches.get(sketch_id)
        if entry is None:
            self._note_read("sketch", sketch_id, "")
            self.fail(field, "The sketch is not there at this step.", "Pick another sketch, or move this step below it.")
        self._note_read("sketch", sketch_id, entry.key)
        return entry

    def called(self, step_id: str) -> str:
        self._note_read("order", "", order_key(self.steps))
        return step_words(self.steps, step_id)

    def drawn_name(self, sketch_id: str, entity: str) -> str:
        self._note_read("order", "", order_key(self.steps))
        drawing = next((step for step in self.steps if step.id == sketch_id), None)
        return numbered(drawing).get(entity, "a drawn line") if isinstance(drawing, Drawing) else "a drawn line"

    def regions(self, field: str, pick: Profile | None = None, hint: str = "") -> tuple[SketchEntry, list[Region]]:
        pick = pick or self.step.held(field)
        assert isinstance(pick, Profile)
        entry = self.sketch(pick.sketch, field)
        if entry.fault:
            raise StepError(field, entry.fault.message, f"{entry.fault.hint} {hint}".strip())
        if pick.regions == "all":
            chosen = [region for region in entry.regions if region.key in entry.filled]
        else:
            chosen = []
            for number, key in enumerate(pick.regions, 1):
                region = picked(key, entry.regions, entry.lineage)
                if region is None:
                    words = (
                        f"Area {number} of {len(pick.regions)}, bounded by {key.replace('-', '')}, is no longer in the sketch."
                    )
                    self.fail(field, words, "Pick its areas again.")
                if region not in chosen:
                    chosen.append(region)
        return entry, self.kernel(field, joined, chosen)

    def datum(self, datum_id: str, field: str) -> Datum:
        if datum_id in self.invalidated:
            raise Blocked(self.invalidated[datum_id])
        datum = self.state.datums.get(datum_id)
        self._note_read("datum", datum_id, datum.key if datum else "")
        if datum is None:
            self.fail(field, "The picked datum is not there at this step.", "Pick another, or move this step below it.")
        return datum

    def effect(self, step_id: str, field: str) -> Effect:
        if step_id in self.invalidated:
            raise Blocked(self.invalidated[step_id])
        effect = self.state.effects.get(step_id)
        self._note_read("effect", step_id, effect.key if effect else "")
        if effect is None:
            words = f"{self.called(step_id).capitalize()} adds nothing to a body and cuts nothing from one."
            self.fail(field, words, "Pick a step that adds or cuts, and with it the rounds on what it made.")
        return effect

    def linked(self, field: str) -> Sequence[Entry]:
        pick: LinkPick = self.step.held(field)
        try:
            self._note_read("link", pick.model_dump_json(), self.outside.linked_key(pick))
            entries = self.outside.linked(pick)
            self.offers = tuple(self.outside.linkable(pick))
            self._brought += entries
            return entries
        except SuppleError as fault:
            raise StepError(field, fault.message, fault.hint) from fault

    def asset(self, field: str, sha: str, name: str) -> bytes:
        try:
            return self.outside.asset(sha, name)
        except SuppleError as fault:
            raise StepError(field, fault.message, fault.hint) from fault

    def target(self, body_id: str | None, field: str = "body", roles: Sequence[Role] = ()) -> Entry:
        entry = self.exact(self.body(body_id, field, roles), field)
        self.targets.append(entry.id)
        return entry

    def exact(self, entry: Entry, field: str) -> Entry:
        """A body that a step is to change, refused if it has nothing but triangles."""
        if entry.is_mesh and not self.step.takes_meshes:
            words = f"{entry.name} is a mesh: it has triangles and no exact surfaces."
            self.fail(field, words, "Pick another body, or import its file healed, as a solid of plain forms.")
        return entry
