"""What belongs to a document as a whole: named values, resin, unit, what it is judged by, kept sections, looks of bodies."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from supplecast.document.edits import Edit
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document, Look, read_step, step_dict, unreadable
from supplecast.document.units import relabelled, renumbered
from supplecast.errors import DocumentError
from supplecast.naming.tag import maker
from supplecast.text import Cleaned
from supplecast.tooling.grades import Grade
from supplecast.wording import show


class SetValue(Edit):
    """Set a named value; a blank text removes it."""

    op: Literal["value"]
    name: str
    text: str

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        text = self.text.strip()
        if text:
            return document.altered(values={**document.values, self.name: text}), f"{self.name} = {text}"
        kept = {name: value for name, value in document.values.items() if name != self.name}
        return document.altered(values=kept), f"Remove {self.name}"


class SetDocument(Edit):
    """Change the document's name, resin or unit, or what it is judged by: its pull, how deep its texture is, where it is gated
    (`no gate` takes that away). A new unit `keeps` the bare numbers typed, those with the old unit too, or
    the size they gave.
    """

    op: Literal["document"]
    name: str | None = None
    resin: str | None = None
    grade: Grade | None = None
    unit: Literal["mm", "cm", "m", "in"] | None = None
    keeps: Literal["numbers", "all numbers", "size"] = "numbers"
    pull: tuple[float, float, float] | None = None
    texture: str | None = Field(default=None, max_length=400)
    gate: tuple[float, float, float] | Literal["no gate"] | None = None
    lesson: Literal[""] | None = None

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        changes = {name: value for name in type(self).model_fields if (value := getattr(self, name)) is not None}
        del changes["op"], changes["keeps"]
        if self.texture is not None:  # kept in mm, so that a change of the unit leaves it alone
            changes["texture"] = f"{show(_depth(document, self.texture), 4)} mm"
        words = ", ".join(f"{key} {_said(value)}" for key, value in changes.items() if key not in ("grade", "lesson"))
        words = words or "leave the lesson"
        if self.unit is not None and self.unit != document.unit:
            if self.keeps == "size":
                document = relabelled(document, self.unit)
            else:
                document = renumbered(document, self.unit, all_of_them=self.keeps == "all numbers")
        if self.resin is not None and self.grade is None:
            changes["grade"] = None
        if self.gate == "no gate":
            changes["gate"] = None
        return document.altered(**changes), words


class KeepCut(Edit):
    """Keep a section under a name, in the place of one that has it; without a plane, forget it."""

    op: Literal["cut"]
    name: Annotated[str, Cleaned, Field(min_length=1, max_length=60)]
    origin: tuple[float, float, float] | None = None
    normal: tuple[float, float, float] | None = None

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        kept: list[Any] = [cut for cut in document.cuts if cut.name != self.name.strip()]
        if self.origin is None or self.normal is None:
            return document.altered(cuts=kept), f"Forget the section “{self.name}”"
        kept.append({"name": self.name, "origin": self.origin, "normal": self.normal})
        return document.altered(cuts=kept), f"Keep the section “{self.name}”"


class CatchUp(Edit):
    """Take every pinned link to the newest revision of what it brings in."""

    op: Literal["catch up"]

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        newest = {part.document: part.revision for part in parts}
        changed = document
        for step in document.steps:
            pick = getattr(step, "part", None)
            if (
                isinstance(pick, LinkPick)
                and pick.revision is not None
                and newest.get(pick.document, 0) not in (0, pick.revision)
            ):
                values = {**step_dict(step), "part": {**step_dict(step)["part"], "revision": newest[pick.document]}}
                changed = changed.with_step(read_step(values, step.label))
        if changed is document:
            raise DocumentError("Everything it links is the newest already.", "There is nothing to take up.")
        return changed, "Take up what has moved on"


class StandBeside(Edit):
    """Let the bodies of an assembly stand around this part, in the step that holds them: `left` are those that cannot."""

    op: Literal["stand beside"]
    assembly: str
    called: str
    bodies: list[dict[str, Any]] = Field(max_length=500)
    left: list[str] = Field(default_factory=list, max_length=500)

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        values = self.model_dump(mode="json", exclude={"op"})
        known = next((step for step in document.steps if step.held("assembly") == self.assembly), None)
        words = f"Neighbours as they stand in {self.called}"
        if known is not None:
            return document.with_step(read_step({**step_dict(known), **values}, known.label)), words
        if document.kind != "part":
            raise DocumentError(f"“{document.name}” is no part that could be built on here.", "Open it by itself.")
        step = read_step({"id": document.unused_id(), "type": "neighbours", **values}, "Neighbours")
        return document.altered(steps=[*document.steps, step]), words


class SetLook(Edit):
    """Name, colour, hide or see through a body; what is left out stays as it is."""

    op: Literal["look"]
    body: str
    name: str | None = None
    colour: str | None = None
    hidden: bool | None = None
    clear: bool | None = None

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        changes = self.model_dump(exclude={"op", "body"}, exclude_none=True)
        since = {} if self.name is None else {"since": self._cut_up(document) if self.name.strip() else ""}
        held = document.looks.get(self.body, Look())
        try:
            look = Look.model_validate({**held.model_dump(), **changes, **since})
        except ValidationError as fault:
            raise unreadable(fault, "look") from fault
        looks = {body: kept for body, kept in {**document.looks, self.body: look}.items() if kept != Look()}
        return document.altered(looks=looks), _look_words(changes)

    def _cut_up(self, document: Document) -> str:
        """The last step that cuts the body up, as far as the document tells."""
        steps = [step for step in document.steps if step.cuts_up and not step.skip and step.id != maker(self.body)]
        return next((s.id for s in reversed(steps) if getattr(s, s.cuts_up) in (None, self.body)), "")


def _depth(document: Document, text: str) -> float:
    depth = document.scope.evaluate(text, "length")
    if not 0 <= depth <= 2:
        raise DocumentError("A texture is between 0 and 2 mm deep.", "Type its depth, such as 0.03 mm.")
    return depth


def _said(value: Any) -> str:
    """A change as history tells it; places and directions to a hundredth."""
    return ", ".join(show(c, 2) for c in value) if isinstance(value, tuple) else str(value)


def _look_words(changes: dict[str, Any]) -> str:
    if "name" in changes:
        return f"Name a body {changes['name']}" if changes["name"] else "Give a body its own name back"
    if "colour" in changes:
        return "Colour a body"
    if "hidden" in changes:
        return "Hide a body" if changes["hidden"] else "Show a body"
    return "See through a body" if changes.get("clear") else "See a body solid"
