"""The only way a step reads and changes the document: every read is recorded, every fault names its field."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal, NoReturn, ParamSpec, Protocol, TypeVar

from supplecast.curves import Curve2, Region
from supplecast.document import placing
from supplecast.document.fields import LinkPick, Profile
from supplecast.document.mend import bodies_at_fault, culprits, lost_to, repairs
from supplecast.document.state import Datum, Delta, Effect, Entry, Flag, Reading, Role, SketchEntry, State
from supplecast.document.step import Step
from supplecast.document.words import pick_words, step_words
from supplecast.errors import KernelError, QuantityError, SketchError, StepError, SuppleError
from supplecast.geometry import Axis, Frame, Vec
from supplecast.naming import (
    STOPPING,
    Body,
    EdgeRef,
    FaceRef,
    Resolution,
    Rule,
    reference_face,
    resolve_edges,
    resolve_faces,
)
from supplecast.quantities import LENGTH_UNITS, Kind, Scope, show
from supplecast.sketch.regions import joined, picked
from supplecast.tooling.resins import Resin, resin

if TYPE_CHECKING:
    from supplecast.kernel.measuring.gauge import Thing
    from supplecast.kernel.shapes.history import Made

P = ParamSpec("P")
T = TypeVar("T")

Read = tuple[str, str, str]
"""What was read: its kind, its name and its key at the time."""


class Outside(Protocol):
    """What a rebuild may ask of the world: bodies of other documents, and imported files."""

    def linked(self, pick: LinkPick) -> Entry: ...

    def linked_key(self, pick: LinkPick) -> str: ...

    def asset(self, digest: str, name: str) -> bytes: ...


class Blocked(Exception):
    """The step depends on something that a failed step would have made."""

    def __init__(self, cause: str) -> None:
        super().__init__(cause)
        self.cause = cause


def digest(*parts: str) -> str:
    return hashlib.sha256("\x1f".join(parts).encode()).hexdigest()[:32]


@dataclass(frozen=True)
class MaterialKey:
    """What a document is made of: a key for its figures, the resin of the table it is like, and the figures, if known."""

    key: str
    family: str
    figures: Resin | None


class Builder:
    """Handed to `Step.build`; collects reads, writes, notes and flags."""

    def __init__(
        self,
        step: Step,
        step_key: str,
        state: State,
        scope: Scope,
        resin: MaterialKey,
        outside: Outside,
        invalidated: Mapping[str, str],
        steps: Sequence[Step],
    ) -> None:
        self.step = step
        self.steps = steps
        self.state = state
        self.scope = scope
        self.outside = outside
        self.invalidated = invalidated
        self.reads: list[Read] = []
        self.targets: list[str] = []
        self.notes: list[str] = []
        self.readings: list[Reading] = []
        self.flags: list[Flag] = []
        self.figures: dict[str, float] = {}
        self.drawn_lines: tuple[tuple[Vec, ...], ...] = ()
        self._resin = resin
        self._step_key = step_key
        self._bodies: dict[str, Entry] = {}
        self._gone: list[str] = []
        self._sketches: list[SketchEntry] = []
        self._datums: list[Datum] = []
        self._effect: Effect | None = None

    # --- reading sizes -------------------------------------------------------------------------------------------

    def fail(self, field: str, message: str, hint: str = "", lit: tuple[Entry, Sequence[int]] | None = None) -> NoReturn:
        """Stop the step; `lit` are a body and its faces to show."""
        entry, faces = lit or (None, ())
        found = [reference_face(entry.body, face, entry.id) for face in faces] if entry else []
        shown = tuple(pick.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for pick in found)
        raise StepError(field, message, hint, culprits=shown)

    def mm(self, field: str) -> float:
        """The field's value in mm, checked against the least its type allows."""
        return self.length(field, str(self.step.held(field)))

    def length(self, field: str, text: str, least: str | None = None) -> float:
        value = self.evaluate(field, text, "length")
        self._check_least(field, value, least or self.step.spec_of(field).least, "mm")
        return value

    def radians(self, field: str, low: float = -89.0, high: float = 89.0) -> float:
        """The field's angle in rad, refused outside low..high (degrees)."""
        value = self.evaluate(field, str(self.step.held(field)), "angle")
        if not low <= math.degrees(value) <= high:
            self.fail(field, f"{math.degrees(value):g}° is out of range.", f"Type an angle from {low:g}° to {high:g}°.")
        return value

    def ratio(self, field: str) -> float:
        """The field's percentage as a ratio."""
        value = self.evaluate(field, str(self.step.held(field)), "factor")
        self._check_least(field, value, self.step.spec_of(field).least, "%")
        return value

    def plain(self, field: str) -> float:
        """The field's plain number, such as a scale; it must lie from 0.001 to 1000."""
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
        shown = show(value * 100 if unit == "%" else value)
        if least == "positive" and value <= 0:
            self.fail(field, f"The {label} must be greater than zero, not {shown}.", "Type a larger number.")
        if least == "zero" and value < 0:
            self.fail(field, f"The {label} cannot be negative ({shown}).", "Type zero or more.")
        if unit == "mm" and abs(value) > 100_000:
            self.fail(field, f"The {label} is over 100 m ({shown} mm).", "Check its unit.")

    def in_unit(self, mm: float) -> str:
        """A length as the sheet shows it, in the document's unit."""
        return show(mm / LENGTH_UNITS[self.scope.unit])

    @property
    def resin(self) -> str:
        """The resin of the table that the document's is, or is like."""
        self._note_read("resin", "", self._resin.key)
        return self._resin.family

    @property
    def material(self) -> Resin:
        """The figures of the document's resin. SuppleError if nothing is known of it."""
        self._note_read("resin", "", self._resin.key)
        return self._resin.figures or resin(self._resin.family)

    # --- reading bodies, sketches, picks -------------------------------------------------------------------------

    def bodies(self) -> list[Entry]:
        """Every body there is, in order of making."""
        for name, cause in self.invalidated.items():
            if name in self.state.bodies:
                raise Blocked(cause)
        self._note_read("bodies", "", self.state.bodies_key())
        return list(self.state.bodies.values())

    def solids(self) -> list[Entry]:
        """Every body that is not a surface."""
        return [entry for entry in self.bodies() if entry.role != "surface"]

    def body(self, body_id: str | None, field: str = "body", roles: Sequence[Role] = ()) -> Entry:
        """The named body; without a name the only one there is, or the only one in one of `roles`."""
        if body_id is None:
            found = [e for e in self.bodies() if (e.role in roles if roles else e.role != "surface")]
            if len(found) == 1:
                return found[0]
            words = " or ".join(roles) + " body" if roles else "body"
            if not found and self.invalidated:
                raise Blocked(next(iter(self.invalidated.values())))
            if not found:
                self.fail(field, f"There is no {words} yet.", "Add the step that makes one before this step.")
            names = ", ".join(entry.name for entry in found)
            self.fail(field, f"It is not clear which {words} is meant: {names}.", "Pick one.")
        if body_id in self.invalidated:
            raise Blocked(self.invalidated[body_id])
        entry = self.state.bodies.get(body_id)
        maker = body_id.split(".")[0]
        if entry is None:
            if maker in self.invalidated:
                raise Blocked(self.invalidated[maker])
            self._note_read("body", body_id, "")
            self.fail(field, f"The body “{body_id}” is not there at this step.", "Pick another, or move this step down.")
        self._note_read("body", body_id, entry.key)
        return entry

    def surface(self, field: str, *, changes: bool = False) -> Entry:
        """The surface body a field names, or the only one there is; `changes` says that the step will change it."""
        found = self.target if changes else self.body
        entry = found(self.step.held(field), field, roles=("surface",))
        if entry.role != "surface":
            self.fail(field, f"{entry.name} is a solid, not a surface.", "Pick a surface.")
        return entry

    def target(self, body_id: str | None, field: str = "body", roles: Sequence[Role] = ()) -> Entry:
        """A body this step is going to change."""
        entry = self.body(body_id, field, roles)
        self.targets.append(entry.id)
        return entry

    def tools(self, field: str, target: Entry, purpose: str) -> list[Entry]:
        """The other bodies picked to be used on `target`; `purpose` says what for, as in “to join”."""
        held: str | Sequence[str] = self.step.held(field)
        picked = [held] if isinstance(held, str) else held
        if not picked:
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

    def regions(self, field: str, pick: Profile | None = None, hint: str = "") -> tuple[SketchEntry, list[Region]]:
        """The areas a profile field picks, joined where they border on each other; `hint` says what else an open one can be."""
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

    def frame(self, field: str) -> Frame:
        """The plane a plane field names."""
        return placing.plane(self, field, self.step.held(field))

    def axis(self, field: str) -> Axis:
        """The axis an axis field names."""
        return placing.axis(self, field, self.step.held(field))

    def spots(self, field: str) -> list[Vec]:
        """The points a field names, one or several."""
        held = self.step.held(field)
        picks = held if isinstance(held, tuple) else [held] if held is not None else []
        return [placing.spot(self, field, pick, index) for index, pick in enumerate(picks)]

    def things(self, field: str) -> list[Thing]:
        """What is to be measured: faces, edges and points."""
        from supplecast.kernel.measuring.gauge import Thing

        found = []
        for index, pick in enumerate(self.step.held(field)):
            if isinstance(pick, FaceRef):
                entry, face = self.face(pick, field, index)
                found.append(Thing(entry.body.solid, face=face))
            elif isinstance(pick, EdgeRef):
                entry, edge = self.one_edge(pick, field, index)
                found.append(Thing(edge=edge, solid=entry.body.solid))
            else:
                found.append(Thing(point=placing.spot(self, field, pick, index)))
        return found

    def datum(self, datum_id: str, field: str) -> Datum:
        """A datum made by a step above."""
        if datum_id in self.invalidated:
            raise Blocked(self.invalidated[datum_id])
        found = self.state.datums.get(datum_id)
        self._note_read("datum", datum_id, found.key if found else "")
        if found is None:
            self.fail(field, "The picked datum is not there at this step.", "Pick another, or move this step below it.")
        return found

    def effect(self, step_id: str, field: str) -> Effect:
        """What a step above added to a body or cut from it."""
        if step_id in self.invalidated:
            raise Blocked(self.invalidated[step_id])
        found = self.state.effects.get(step_id)
        self._note_read("effect", step_id, found.key if found else "")
        if found is None:
            self._note_read("order", "", order_key(self.steps))
            words = f"{step_words(self.steps, step_id).capitalize()} adds nothing to a body and cuts nothing from one."
            self.fail(
                field, words, "Pick a step that adds or cuts with an outline or a hole; copy rounds by making them later."
            )
        return found

    def face(self, reference: FaceRef, field: str, index: int = 0) -> tuple[Entry, int]:
        """One face in whichever body carries it."""
        entry, found = self.found(reference, field, index)
        if len(found) > 1:
            self.fail(field, f"The picked face has come apart into {len(found)}.", "Pick the one that is meant.")
        return entry, found[0]

    def only_face(self, field: str, hint: str) -> tuple[Entry, int]:
        """The one face a field is to pick."""
        picks = self.step.held(field)
        if len(picks) != 1:
            self.fail(field, f"One face is needed; {len(picks)} are picked.", hint)
        return self.face(picks[0], field)

    def one_edge(self, reference: EdgeRef, field: str, index: int = 0) -> tuple[Entry, int]:
        """One edge in whichever body carries it."""
        entry, found = self.found(reference, field, index)
        if len(found) > 1:
            self.fail(field, f"The picked edge has come apart into {len(found)}.", "Pick the one that is meant.")
        return entry, found[0]

    def found(
        self, pick: FaceRef | EdgeRef | Rule, field: str, index: int = 0, *, whole: bool = False
    ) -> tuple[Entry, tuple[int, ...]]:
        """The body that carries a pick, and where it leads there; `whole`: a split face is taken without a word."""
        entry = self._holder(pick, field)
        resolution = resolve_faces(entry.body, pick) if isinstance(pick, FaceRef) else resolve_edges(entry.body, pick)
        if whole and resolution.status == "split":
            return entry, resolution.items
        return entry, self._taken(entry, pick, resolution, field, index)

    def faces(self, field: str, entry: Entry) -> list[int]:
        """The faces picked in a field, all on one body."""
        return self._all_taken(field, entry, resolve_faces)

    def edges(self, field: str, entry: Entry) -> list[int]:
        """The edges picked in a field or caught by its rules, all on one body."""
        return self._all_taken(field, entry, resolve_edges)

    def seek_edge(self, reference: EdgeRef, field: str) -> tuple[Entry, int] | None:
        """The one edge a reference leads to, without ado if there is none or more than one."""
        try:
            entry = self._holder(reference, field)
        except StepError:
            return None
        found = resolve_edges(entry.body, reference)
        return (entry, found.items[0]) if found.status not in STOPPING and len(found.items) == 1 else None

    def _all_taken(self, field: str, entry: Entry, resolve: Callable[[Body, Any], Resolution]) -> list[int]:
        """What the picks of a field lead to, each once, in their order."""
        found: dict[int, None] = {}
        for index, pick in enumerate(self.step.held(field)):
            found.update(dict.fromkeys(self._taken(entry, pick, resolve(entry.body, pick), field, index)))
        return list(found)

    def holder(self, field: str, body_id: str | None, *, changes: bool = True) -> Entry:
        """The body to change, or only to look at: the one named, else the one of the field's first pick, else the only one."""
        picks: Sequence[FaceRef | EdgeRef | Rule] = self.step.held(field)
        entry = self._holder(picks[0], field) if body_id is None and picks else self.body(body_id)
        if changes:
            self.targets.append(entry.id)
        return entry

    def _holder(self, pick: FaceRef | EdgeRef | Rule, field: str) -> Entry:
        """The body a pick speaks of: the one it names, else the only one that carries its first tag."""
        if pick.body is not None:
            return self.body(pick.body, field)
        names = pick.names() if isinstance(pick, Rule) else [pick.face] if isinstance(pick, FaceRef) else list(pick.edge)
        if not names:  # a rule such as “convex” speaks of whatever body there is
            return self.body(None, field)
        tag, prefix = names[0], f"{names[0]}."
        holders = [
            entry
            for entry in self.bodies()
            if tag in entry.body.faces_by_tag or any(t.startswith(prefix) for t in entry.body.faces_by_tag)
        ]
        if len(holders) == 1:
            return holders[0]
        if not holders:
            maker = tag.split(".")[0]
            if maker in self.invalidated:
                raise Blocked(self.invalidated[maker])
            only = self.state.bodies
            if len(only) == 1:
                return next(iter(only.values()))
            self.fail(field, f"What was picked no longer exists: {pick_words(pick, self.steps)}.", "Pick it again.")
        parts = [entry for entry in holders if entry.role in ("part", "linked")]
        if len(parts) == 1:
            return parts[0]
        listed = ", ".join(entry.name for entry in holders)
        self.fail(field, f"Several bodies carry the picked face: {listed}.", "Pick it again on the one that is meant.")

    def _taken(
        self, entry: Entry, pick: FaceRef | EdgeRef | Rule, resolution: Resolution, field: str, index: int
    ) -> tuple[int, ...]:
        """What a pick leads to, flagged with its repairs unless beyond doubt. Stops the step where nothing can be used."""
        if resolution.status == "ok":
            return resolution.items
        self._note_read("order", "", order_key(self.steps))  # the words number the steps
        words = resolution.words
        if resolution.status == "lost":
            words = f"{words} {lost_to(self.state, entry, pick, self.steps)}".strip()
        self.flags.append(Flag(field, index, resolution.status, words, repairs(entry, pick, resolution)))
        if resolution.status in STOPPING:
            which = f"Pick {index + 1}, {pick_words(pick, self.steps)}: {words}"
            self.fail(field, which, "Pick it again, or take one of the repairs.")
        return resolution.items

    def linked(self, field: str) -> Entry:
        pick: LinkPick = self.step.held(field)
        try:
            self._note_read("link", pick.model_dump_json(), self.outside.linked_key(pick))
            return self.outside.linked(pick)
        except SuppleError as fault:
            raise StepError(field, fault.message, fault.hint) from fault

    def asset(self, field: str, sha: str, name: str) -> bytes:
        try:
            return self.outside.asset(sha, name)
        except SuppleError as fault:
            raise StepError(field, fault.message, fault.hint) from fault

    def _note_read(self, kind: str, name: str, key: str) -> None:
        read = (kind, name, key)
        if read not in self.reads:
            self.reads.append(read)

    # --- doing ---------------------------------------------------------------------------------------------------

    def kernel(self, field: str, verb: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """Call a kernel verb; its refusals become this field's."""
        try:
            return verb(*args, **kwargs)
        except KernelError as fault:
            words = " ".join([fault.message, *bodies_at_fault(self.state, fault, args)])
            found = culprits(self.state, fault, args)
            raise StepError(field, words, fault.hint, culprits=found, sized=fault.sized) from fault
        except SketchError as fault:
            raise StepError(field, fault.message, fault.hint) from fault

    def named(self, made: Made, *inputs: Body, sketch: SketchEntry | None = None) -> Body:
        """A verb's result with tags, new faces named after this step and, where they came of one, their sketch entities."""
        from supplecast.naming import named

        return named(made, self.step.id, inputs, sketch.lineage if sketch else None)

    # --- writing -------------------------------------------------------------------------------------------------

    def new(self, body: Body, role: Role, name: str, suffix: str = "", pull: Vec | None = None) -> None:
        body_id = f"{self.step.id}.{suffix}" if suffix else self.step.id
        self._write(body_id, body, role, name, pull)

    def replace(self, entry: Entry, body: Body, role: Role | None = None, pull: Vec | None = None, name: str = "") -> None:
        """Put a body's new shape in its place; its id and, unless given, its role and name stay."""
        self._write(entry.id, body, role or entry.role, name or entry.name, pull or entry.pull)

    def written(self, entry: Entry) -> Entry:
        """A body as this step has left it so far."""
        return self._bodies.get(entry.id, entry)

    def ahead(self, kind: str) -> int:
        """How many steps of a type come after this one and are used."""
        count = steps_ahead(self.steps, self.step.id, kind)
        self._note_read("ahead", f"{self.step.id} {kind}", str(count))
        return count

    def spend(self, tools: Sequence[Entry], keep: bool) -> None:
        """Let bodies that were used vanish, unless they are kept; the sheet says which."""
        if not keep:
            self.note(f"Used up: {', '.join(tool.name for tool in tools)}.")
            for tool in tools:
                self.remove(tool)

    def remove(self, entry: Entry) -> None:
        self._gone.append(entry.id)

    def drawn(self, frame: Frame, regions: Sequence[Region], curves: Sequence[Curve2], freedoms: int, **more: Any) -> None:
        """Write the sketch this step is; `more` are further fields of its entry."""
        key = self._key("sketch")
        self._sketches.append(
            SketchEntry(self.step.id, more.pop("name"), frame, tuple(regions), tuple(curves), freedoms, key=key, **more)
        )

    def place(self, kind: Literal["plane", "axis", "point"], frame: Frame) -> None:
        """Write the datum this step is; an axis runs along the frame's normal."""
        name = self.step.name or self.step.word
        self._datums.append(Datum(self.step.id, name, kind, frame, self._key("datum")))

    def did(self, how: Literal["add", "cut"], target: Entry, tools: Sequence[Body], bores: Sequence[Body] = ()) -> None:
        """Remember with what this step changed a body, for patterns and mirrors of it; `bores` are cut last."""
        self._effect = Effect(target.id, how, (*tools, *bores), self._key("effect"), len(bores))

    def caution(self, field: str, words: str) -> None:
        """Something the designer should look at, though the step was built."""
        self.flags.append(Flag(field, 0, "caution", words))

    def note(self, words: str) -> None:
        """A line under the step's sentence that says what came of it."""
        self.notes.append(words)

    def reading(self, words: str, value: float, most: float) -> None:
        """A figure shown in the step's own sentence: good up to `most`, near it up to 15 % more, over beyond."""
        state: Literal["good", "near", "over"] = "good" if value <= most else "near" if value <= 1.15 * most else "over"
        self.readings.append(Reading(words, state))

    def figure(self, name: str, value: float) -> None:
        """A number the tool's gauges show, in mm, mm², mm³ or as a ratio."""
        self.figures[name] = value

    def lines(self, lines: Sequence[Sequence[Vec]]) -> None:
        """Lines in space that the view draws while this step is worked on."""
        self.drawn_lines = tuple(tuple(line) for line in lines)

    def _write(self, body_id: str, body: Body, role: Role, name: str, pull: Vec | None) -> None:
        self._bodies[body_id] = Entry(body_id, name, role, body, self._key(body_id), pull)

    def _key(self, what: str) -> str:
        return digest(self._step_key, what, *("|".join(read) for read in self.reads))

    def delta(self) -> Delta:
        bodies = tuple(self._bodies.values())
        return Delta(bodies, tuple(self._gone), tuple(self._sketches), tuple(self._datums), self._effect)


def order_key(steps: Sequence[Step]) -> str:
    """Which steps there are, in which order, and which are skipped."""
    return " ".join(f"-{step.id}" if step.skip else step.id for step in steps)


def steps_ahead(steps: Sequence[Step], step_id: str, kind: str) -> int:
    """How many steps of a type come after a step and are used."""
    place = next(k for k, step in enumerate(steps) if step.id == step_id)
    return sum(step.type == kind and not step.skip for step in steps[place + 1 :])


def value_key(scope: Scope, name: str) -> str:
    """What a named value comes to, as a key: the same number under another spelling changes nothing."""
    try:
        quantity = scope.named(name, ())
    except QuantityError as fault:
        return f"fault {fault.message} {fault.hint}"
    return f"{quantity.value!r} {quantity.length} {quantity.angle} {quantity.bare}"
