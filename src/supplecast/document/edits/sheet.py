"""What is done to the steps of the build sheet: added, moved, left out, renamed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import Field

from supplecast.document.edits import Edit
from supplecast.document.fields import LinkPick
from supplecast.document.mentions import mentions
from supplecast.document.model import Document, read_step, step_dict
from supplecast.document.step import Before, Step
from supplecast.document.units import at_home
from supplecast.errors import DocumentError
from supplecast.tooling.resins import required_draft


class AddStep(Edit):
    """Add a step of a type after another (at the end if left out); `values` override its first values, `bodies` are the solids
    that the one who adds it sees, oldest first, `meshes` the bodies of triangles, `spot` the place that was clicked last, mm.
    """

    op: Literal["add"]
    type: str
    after: str | None = None
    picked: list[dict[str, Any]] = Field(default_factory=list, max_length=500)
    values: dict[str, Any] = Field(default_factory=dict)
    bodies: list[str] = Field(default_factory=list, max_length=5000)
    meshes: list[str] = Field(default_factory=list, max_length=5000)
    spot: tuple[float, float, float] | None = None

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        kind = Step.registry.get(self.type)
        if kind is None or document.kind not in kind.document_kinds:
            raise DocumentError(f"There is no step “{self.type}” for this sheet.", "Choose one from the list.")
        at = len(document.steps) if self.after is None else document.position(self.after) + 1
        need = document.material.draft if document.material else 0.0
        draft = required_draft(need, document.texture_depth) if need else 0.0
        before = Before(document.steps[:at], document.values, parts, self.bodies, document.pull, self.meshes, draft, self.spot)
        step = read_step(
            {"id": document.unused_id(), "type": self.type, **kind.fresh(before, self.picked), **self.values}, kind.word
        )
        if document.unit != "mm":  # what was asked for stays as it was asked for
            step = read_step({**step_dict(at_home(step, document.unit)), **self.values}, kind.word)
        return document.altered(steps=[*document.steps[:at], step, *document.steps[at:]]), f"Add {kind.word}"


class StepOp(Edit):
    """Take a step out, leave it unused, or use it again."""

    op: Literal["delete", "skip", "use again"]
    step: str

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        step = document.step(self.step)
        words = f"{self.op.capitalize()} {step.label}"
        if self.op == "delete":
            return document.altered(steps=[other for other in document.steps if other.id != step.id]), words
        return document.with_step(read_step({**step_dict(step), "skip": self.op == "skip"}, step.label)), words


class MoveStep(Edit):
    """Move a step to stand directly after another, or first."""

    op: Literal["move"]
    step: str
    after: str | None

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        at = document.position(self.step)
        moved = document.steps[at]
        to = 0 if self.after is None else document.position(self.after) + 1
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
        return document.altered(steps=order), f"Move {moved.label}"


class RenameStep(Edit):
    """Call a step otherwise."""

    op: Literal["rename"]
    step: str
    name: str

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        step = document.step(self.step)
        changed = document.with_step(read_step({**step_dict(step), "name": self.name}, step.label))
        return changed, f"Rename {step.label} to {self.name}"


class MuteHint(Edit):
    """Let a hint of a rule at a step be quiet from now on; without a step all muted ones may speak again."""

    op: Literal["mute"]
    rule: str = Field(default="", max_length=60)
    step: str | None = None

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        if self.step is None:
            return document.altered(muted=[]), "Let all hints speak again"
        held = f"{self.rule}:{self.step}"
        muted = [other for other in document.muted if other != held] + [held]
        return document.altered(muted=muted), f"Mute the hint on {self.rule}"
