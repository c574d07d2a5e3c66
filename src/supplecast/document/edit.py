"""Edits of a document: each takes one and gives another, with the words that history keeps."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from supplecast.document.fields import PlanePick
from supplecast.document.model import Document, Look, new_id, read_document, read_step, step_dict, told
from supplecast.document.step import Step
from supplecast.document.units import relabelled, renumbered
from supplecast.errors import DocumentError
from supplecast.quantities import show
from supplecast.sketch.acts import read_act
from supplecast.sketch.model import Drawing
from supplecast.sketch.work import Done, perform
from supplecast.tooling.grades import Grade


class _Edit(BaseModel):
    model_config = ConfigDict(extra="forbid")


class SetField(_Edit):
    """Type into a field of a step's sentence."""

    op: Literal["set"]
    step: str
    field: str
    value: Any


class AddStep(_Edit):
    """Add a step of a type after another (at the end if left out); `values` override its first values."""

    op: Literal["add"]
    type: str
    after: str | None = None
    picked: list[dict[str, Any]] = Field(default_factory=list, max_length=500)
    values: dict[str, Any] = Field(default_factory=dict)


class StepOp(_Edit):
    op: Literal["delete", "skip", "use again"]
    step: str


class RepairPick(_Edit):
    """Put other picks in the place of pick number `index` of a field; none drops it."""

    op: Literal["repair"]
    step: str
    field: str
    index: int = Field(ge=0)
    picks: list[dict[str, Any]] = Field(max_length=500)


class SketchActs(_Edit):
    """Draw in a sketch, or change what is drawn: the acts of `sketch.acts`, done one after another."""

    op: Literal["sketch"]
    step: str
    acts: list[dict[str, Any]] = Field(min_length=1, max_length=100)


class MoveStep(_Edit):
    """Move a step to stand directly after another, or first."""

    op: Literal["move"]
    step: str
    after: str | None


class RenameStep(_Edit):
    op: Literal["rename"]
    step: str
    name: str


class FigureOp(_Edit):
    """Add a typed figure to a sketch, or take one, or a constraint, out."""

    op: Literal["add figure", "remove figure"]
    step: str
    figure: Any


class SetValue(_Edit):
    """Set a named value; a blank text removes it."""

    op: Literal["value"]
    name: str
    text: str


class SetDocument(_Edit):
    """Change the document's name, resin or unit, or what it is judged by: its pull, how deep its texture is, where it is gated
    (`no gate` takes that away). A new unit `keeps` the numbers typed, or the size they gave.
    """

    op: Literal["document"]
    name: str | None = None
    resin: str | None = None
    grade: Grade | None = None
    unit: Literal["mm", "cm", "m", "in"] | None = None
    keeps: Literal["numbers", "size"] = "numbers"
    pull: tuple[float, float, float] | None = None
    texture: str | None = Field(default=None, max_length=400)
    gate: tuple[float, float, float] | Literal["no gate"] | None = None


class MuteHint(_Edit):
    """Let a hint of a rule at a step be quiet from now on; without a step all muted ones may speak again."""

    op: Literal["mute"]
    rule: str = Field(default="", max_length=60)
    step: str | None = None


class SetLook(_Edit):
    """Name, colour, hide or see through a body; what is left out stays as it is."""

    op: Literal["look"]
    body: str
    name: str | None = None
    colour: str | None = None
    hidden: bool | None = None
    clear: bool | None = None


class KeepCut(_Edit):
    """Keep a section under a name, in the place of one that has it; without a plane, forget it."""

    op: Literal["cut"]
    name: str = Field(min_length=1, max_length=60)
    origin: tuple[float, float, float] | None = None
    normal: tuple[float, float, float] | None = None


_Drawing = SketchActs | FigureOp
_Sheet = SetField | AddStep | StepOp | RepairPick | MoveStep | RenameStep | MuteHint
Edit = Annotated[
    _Sheet | _Drawing | SetValue | SetDocument | SetLook | KeepCut,
    Field(discriminator="op"),
]
_edits: TypeAdapter[Edit] = TypeAdapter(Edit)


def read_edit(data: Any) -> Edit:
    try:
        return _edits.validate_python(data)
    except ValidationError as fault:
        raise told(fault, "edit") from fault


def edit_schema() -> tuple[dict[str, Any], dict[str, Any]]:
    """JSON Schema of an edit, and of its parts by name."""
    whole = _edits.json_schema()
    parts = whole.pop("$defs")
    return whole, parts


def apply(document: Document, edit: Edit) -> tuple[Document, str]:
    """The edited document and what changed, in words. DocumentError if it cannot be done."""
    whole = document.to_dict()
    steps: list[dict[str, Any]] = whole["steps"]
    match edit:
        case SetField():
            at = document.position(edit.step)
            step = document.steps[at]
            steps[at] = step_dict(read_step(step.retyped(edit.field, edit.value), step.label))
            label = edit.field.rsplit(".", 1)[-1].replace("_", " ")
            change = f"{_short(step.typed(edit.field))} → {_short(edit.value)}" if isinstance(edit.value, str) else "changed"
            words = f"{step.label}: {label} {change}"
        case AddStep():
            words = _add(document, steps, edit)
        case StepOp():
            at = document.position(edit.step)
            label = document.steps[at].label
            if edit.op == "delete":
                del steps[at]
            else:
                steps[at] = {**steps[at], "skip": edit.op == "skip"}
            words = f"{edit.op.capitalize()} {label}"
        case RepairPick():
            words = _repair(document, steps, edit)
        case SketchActs():
            words = _sketch(document, steps, edit)
        case MoveStep():
            words = _move(document, steps, edit)
        case RenameStep():
            at = document.position(edit.step)
            steps[at] = {**steps[at], "name": edit.name}
            words = f"Rename {document.steps[at].label} to {edit.name}"
        case FigureOp():
            words = _figure(document, steps, edit)
        case SetValue():
            if edit.text.strip():
                whole["values"][edit.name] = edit.text.strip()
            else:
                whole["values"].pop(edit.name, None)
            words = f"{edit.name} = {edit.text.strip()}" if edit.text.strip() else f"Remove {edit.name}"
        case SetDocument():
            changes = edit.model_dump(exclude={"op", "keeps"}, exclude_none=True)
            if edit.unit is not None and edit.unit != document.unit:
                changed = (relabelled if edit.keeps == "size" else renumbered)(document, edit.unit)
                whole = changed.to_dict()
            if edit.texture is not None:  # kept in mm, so that a change of the unit leaves it alone
                changes["texture"] = f"{show(_depth(document, edit.texture), 4)} mm"
            if edit.resin is not None and edit.grade is None:
                whole["grade"] = None
            whole.update({**changes, "gate": None} if edit.gate == "no gate" else changes)
            words = ", ".join(f"{key} {_said(value)}" for key, value in changes.items() if key != "grade")
        case MuteHint():
            held = f"{edit.rule}:{edit.step}"
            whole["muted"] = [] if edit.step is None else [m for m in document.muted if m != held] + [held]
            words = "Let all hints speak again" if edit.step is None else f"Mute the hint on {edit.rule}"
        case KeepCut():
            kept = [cut.model_dump() for cut in document.cuts if cut.name != edit.name.strip()]
            if edit.origin is not None and edit.normal is not None:
                kept.append({"name": edit.name, "origin": edit.origin, "normal": edit.normal})
                words = f"Keep the section “{edit.name}”"
            else:
                words = f"Forget the section “{edit.name}”"
            whole["cuts"] = kept
        case SetLook():
            changes = edit.model_dump(exclude={"op", "body"}, exclude_none=True)
            looks = {**document.looks, edit.body: _look(document.looks.get(edit.body, Look()), changes)}
            whole["looks"] = {body: look.model_dump() for body, look in looks.items() if look != Look()}
            words = _look_words(changes)
    return read_document(whole), words


def _depth(document: Document, text: str) -> float:
    depth = document.scope.evaluate(text, "length")
    if not 0 <= depth <= 2:
        raise DocumentError("A texture is between 0 and 2 mm deep.", "Type its depth, such as 0.03 mm.")
    return depth


def _said(value: Any) -> str:
    """A change as history tells it; places and directions to a hundredth."""
    return ", ".join(show(c, 2) for c in value) if isinstance(value, tuple) else str(value)


def _look(held: Look, changes: dict[str, Any]) -> Look:
    try:
        return Look.model_validate({**held.model_dump(), **changes})
    except ValidationError as fault:
        raise told(fault, "look") from fault


def _look_words(changes: dict[str, Any]) -> str:
    if "name" in changes:
        return f"Name a body {changes['name']}" if changes["name"] else "Give a body its own name back"
    if "colour" in changes:
        return "Colour a body"
    if "hidden" in changes:
        return "Hide a body" if changes["hidden"] else "Show a body"
    return "See through a body" if changes.get("clear") else "See a body solid"


def _add(document: Document, steps: list[dict[str, Any]], edit: AddStep) -> str:
    kind = Step.registry.get(edit.type)
    if kind is None or document.kind not in kind.document_kinds:
        raise DocumentError(f"There is no step “{edit.type}” for this sheet.", "Choose one from the list.")
    at = len(steps) if edit.after is None else document.position(edit.after) + 1
    before = document.model_copy(update={"steps": document.steps[:at]})
    taken = {step.id for step in document.steps}
    step_id = next(i for i in iter(new_id, "") if i not in taken)
    data = {"id": step_id, "type": edit.type, **kind.fresh(before, edit.picked), **edit.values}
    steps.insert(at, step_dict(read_step(data, kind.word)))
    return f"Add {kind.word}"


def _move(document: Document, steps: list[dict[str, Any]], edit: MoveStep) -> str:
    at = document.position(edit.step)
    moved = document.steps[at]
    to = 0 if edit.after is None else document.position(edit.after) + 1
    order = [step for step in document.steps if step.id != moved.id]
    order.insert(to - 1 if to > at else to, moved)
    seen: set[str] = set()
    for step in order:
        missing = mentions(step, [s.id for s in document.steps]) - seen - {step.id}
        later = [s.label for s in order if s.id in missing]
        if later and (step.id == moved.id or moved.id in missing):
            raise DocumentError(
                f"“{step.label}” is built on “{later[0]}” and cannot stand before it.", "Move it to a later place."
            )
        seen.add(step.id)
    by_id = {step["id"]: step for step in list(steps)}
    steps[:] = [by_id[step.id] for step in order]
    return f"Move {moved.label}"


def _repair(document: Document, steps: list[dict[str, Any]], edit: RepairPick) -> str:
    at = document.position(edit.step)
    step = document.steps[at]
    held = step.held(edit.field)
    if isinstance(held, tuple) and edit.index < len(held):
        kept = [pick.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for pick in held]
        value: Any = [*kept[: edit.index], *edit.picks, *kept[edit.index + 1 :]]
    elif isinstance(held, PlanePick) and edit.picks:
        value = {**edit.picks[0], "offset": held.offset, "tilt": held.tilt, "about": held.about}
    else:
        raise DocumentError("That pick is no longer there.", "Reload the page.")
    steps[at] = step_dict(read_step(step.retyped(edit.field, value), step.label))
    return f"{step.label}: {edit.field.replace('_', ' ')} picked anew"


def _sketch(document: Document, steps: list[dict[str, Any]], edit: SketchActs) -> str:
    changed, words, _ = sketched(document, edit)
    steps[document.position(edit.step)] = step_dict(changed.step(edit.step))
    return words


def sketched(document: Document, edit: SketchActs, done: Done | None = None) -> tuple[Document, str, Done]:
    """The document with a sketch acted on, what changed in words, and the solved sketch; `done` if that is known already."""
    at, step, data, drawing = _drawing(document, edit.step)
    acts = [read_act(act) for act in edit.acts]
    done = done or perform(drawing, acts, document.scope)
    data.update(done.drawing.model_dump(mode="json"))
    steps = [*document.steps[:at], read_step(data, step.label), *document.steps[at + 1 :]]
    return document.model_copy(update={"steps": steps}), f"{acts[0].title} in {step.label}. {done.words}".rstrip(". "), done


def _drawing(document: Document, step_id: str) -> tuple[int, Step, dict[str, Any], Drawing]:
    """A sketch's place, the step, its JSON and its drawing. DocumentError if the step is no sketch."""
    at = document.position(step_id)
    step = document.steps[at]
    data = step.model_dump(mode="json")
    if "figures" not in data:
        raise DocumentError(f"“{step.label}” is not a sketch.", "Figures go into sketches.")
    return at, step, data, Drawing.model_validate({name: data[name] for name in Drawing.model_fields})


def _figure(document: Document, steps: list[dict[str, Any]], edit: FigureOp) -> str:
    from supplecast.sketch import figures

    at, step, data, drawing = _drawing(document, edit.step)
    if edit.op == "add figure":
        data["draw"] = [edit.figure]
        words = f"Add {edit.figure.get('kind', 'figure') if isinstance(edit.figure, dict) else 'figure'} to {step.label}"
    else:
        if edit.figure in drawing.constraints:
            words = f"Remove {drawing.constraints.pop(edit.figure).type} from {step.label}"
            data.update(drawing.model_dump(mode="json"))
            steps[at] = step_dict(read_step(data, step.label))
            return words
        if edit.figure not in drawing.figures:
            raise DocumentError("That figure is no longer in the sketch.", "Reload the page.")
        words = f"Remove {drawing.figures[edit.figure].kind} from {step.label}"
        figures.remove(drawing, edit.figure)
        data.update(drawing.model_dump(mode="json"))
    steps[at] = step_dict(read_step(data, step.label))
    return words


# Drawn geometry has ids of its own; the surroundings of a pick only help to tell it from others.
_NOT_NEEDED = frozenset({"points", "entities", "constraints", "figures", "name", "id", "has", "lacks", "near", "also", "order"})


def mentions(step: Step, ids: Sequence[str]) -> set[str]:
    """Which of `ids` a step cannot do without: those it names as a sketch, a body, or inside the tags of its picks."""
    known = set(ids)
    found: set[str] = set()

    def look(value: Any) -> None:
        if isinstance(value, dict):
            for key, inner in value.items():
                if key not in _NOT_NEEDED:
                    look(inner)
        elif isinstance(value, list):
            for inner in value:
                look(inner)
        elif isinstance(value, str):
            found.update(known.intersection(re.findall(r"[A-Za-z][A-Za-z0-9]*", value)) if "." in value else known & {value})

    look(step_dict(step))
    return found - {step.id}


def _short(value: Any) -> str:
    text = str(value)
    return text if len(text) <= 40 else text[:38] + "…"
