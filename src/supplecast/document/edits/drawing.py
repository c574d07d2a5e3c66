"""What is drawn in a sketch."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import Field

from supplecast.document.edits import Edit
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document, read_step
from supplecast.document.step import Step
from supplecast.errors import DocumentError
from supplecast.sketch import figures
from supplecast.sketch.acts import read_act
from supplecast.sketch.model import Drawing
from supplecast.sketch.work import Done, perform


class SketchActs(Edit):
    """Draw in a sketch, or change what is drawn: the acts of `sketch.acts`, done one after another."""

    op: Literal["sketch"]
    step: str
    acts: list[dict[str, Any]] = Field(min_length=1, max_length=100)

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        changed, words, _ = sketched(document, self)
        return changed, words


class FigureOp(Edit):
    """Add a typed figure to a sketch, or take one, or a constraint, out."""

    op: Literal["add figure", "remove figure"]
    step: str
    figure: Any

    def on(self, document: Document, parts: Sequence[LinkPick]) -> tuple[Document, str]:
        step, data, drawing = _drawing(document, self.step)
        if self.op == "add figure":
            data["draw"] = [self.figure]
            added = self.figure.get("kind", "figure") if isinstance(self.figure, dict) else "figure"
            return document.with_step(read_step(data, step.label)), f"Add {added} to {step.label}"
        if self.figure in drawing.constraints:
            kind: str = drawing.constraints.pop(self.figure).type
        elif self.figure in drawing.figures:
            kind = drawing.figures[self.figure].kind
            figures.remove(drawing, self.figure)
        else:
            raise DocumentError("That figure is no longer in the sketch.", "Reload the page.")
        data.update(drawing.model_dump(mode="json"))
        return document.with_step(read_step(data, step.label)), f"Remove {kind} from {step.label}"


def sketched(document: Document, edit: SketchActs, done: Done | None = None) -> tuple[Document, str, Done]:
    """The document with a sketch acted on, what changed in words, and the solved sketch; `done` if that is known already."""
    step, data, drawing = _drawing(document, edit.step)
    acts = [read_act(act) for act in edit.acts]
    done = done or perform(drawing, acts, document.scope)
    data.update(done.drawing.model_dump(mode="json"))
    changed = document.with_step(read_step(data, step.label))
    return changed, f"{acts[0].title} in {step.label}. {done.words}".rstrip(". "), done


def _drawing(document: Document, step_id: str) -> tuple[Step, dict[str, Any], Drawing]:
    """A sketch as a step, as JSON, and its drawing. DocumentError if the step is no sketch."""
    step = document.step(step_id)
    data = step.model_dump(mode="json")
    if "figures" not in data:
        raise DocumentError(f"“{step.label}” is not a sketch.", "Figures go into sketches.")
    return step, data, Drawing.model_validate({name: data[name] for name in Drawing.model_fields})
