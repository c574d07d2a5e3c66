"""What is typed or picked in a step's sentence."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import Field

from supplecast.document.edits import Edit
from supplecast.document.fields import LinkPick, PlanePick
from supplecast.document.model import Document, read_step, step_dict
from supplecast.document.step import Before
from supplecast.errors import DocumentError


class SetField(Edit):
    """Type into a field of a step's sentence."""

    op: Literal["set"]
    step: str
    field: str
    value: Any

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        step = document.step(self.step)
        before = Before(document.steps[: document.position(step.id)], document.values, parts, pull=document.pull)
        values = {**step.retyped(self.field, self.value), **step.along_with(self.field, self.value, before)}
        changed = document.with_step(read_step(values, step.label))
        label = self.field.rsplit(".", 1)[-1].replace("_", " ")
        change = f"{_short(step.typed(self.field))} → {_short(self.value)}" if isinstance(self.value, str) else "changed"
        return changed, f"{step.label}: {label} {change}"


class SwapBodies(Edit):
    """Let the body of a step and its one tool change places."""

    op: Literal["swap"]
    step: str

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        step = document.step(self.step)
        body, tools = step.held("body"), step.held("tools")
        if body is None or not isinstance(tools, tuple) or len(tools) != 1:
            raise DocumentError(f"“{step.label}” has no two bodies that could change places.", "Pick one tool, and the body.")
        changed = document.with_step(read_step({**step_dict(step), "body": tools[0], "tools": [body]}, step.label))
        return changed, f"{step.label}: body and tool swapped"


class RepairPick(Edit):
    """Put other picks in the place of pick number `index` of a field; none drops it."""

    op: Literal["repair"]
    step: str
    field: str
    index: int = Field(ge=0)
    picks: list[dict[str, Any]] = Field(max_length=500)

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        step = document.step(self.step)
        held = step.held(self.field)
        if isinstance(held, tuple) and self.index < len(held):
            kept = [pick.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for pick in held]
            value: Any = [*kept[: self.index], *self.picks, *kept[self.index + 1 :]]
        elif isinstance(held, PlanePick) and self.picks:
            value = {**self.picks[0], "offset": held.offset, "tilt": held.tilt, "about": held.about}
        else:
            raise DocumentError("That pick is no longer there.", "Reload the page.")
        changed = document.with_step(read_step(step.retyped(self.field, value), step.label))
        return changed, f"{step.label}: {self.field.replace('_', ' ')} picked anew"


def _short(value: Any) -> str:
    text = str(value)
    return text if len(text) <= 40 else text[:38] + "…"
