"""Neighbours: the bodies that stand around a part in an assembly."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import LinkPick
from supplecast.document.step import Before, Step
from supplecast.errors import DocumentError, StepError
from supplecast.wording import plural


class Neighbour(BaseModel):
    """A body of another document, and how it is carried to where it stands: turn and shift in mm, by rows."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    part: LinkPick
    placed: Annotated[tuple[FiniteFloat, ...], Field(min_length=12, max_length=12)]


class Neighbours(Step):
    """The bodies around the part in an `assembly` that it was opened from, drawn faint: to sketch by, to end at, to measure to,
    and to be told of where they overlap. They are no bodies of this part.

    Their shapes follow their own documents; where they stand is as it was when the part was last opened from the assembly.
    Example: {"id": "nb", "type": "neighbours", "assembly": "radio", "called": "Radio", "bodies": []}
    """

    type: Literal["neighbours"] = "neighbours"
    word = "Neighbours"
    purpose = "what stands around this part in an assembly"
    search = "in place context surroundings reference assembly others"
    follows = "import"
    picture = ("M12 8h8v9h-8z", "M2 4h6v7H2zM24 4h6v7h-6zM4 16h4v5H4zM24 16h5v5h-5z")
    document_kinds = ("part",)

    assembly: str = Field(max_length=80)
    called: str = Field(default="", max_length=200)
    bodies: tuple[Neighbour, ...] = Field(default=(), max_length=500)
    left: tuple[str, ...] = Field(default=(), max_length=500)

    def sentence(self) -> str:
        return f"Neighbours as they stand in “{self.called.replace('{', '(').replace('}', ')')}”"

    @property
    def links(self) -> tuple[LinkPick, ...]:
        return tuple(one.part for one in self.bodies)

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        hint = "In the assembly, open this part in place: click its swatch in the list of bodies."
        raise DocumentError("Neighbours come from an assembly.", hint)

    def build(self, at: Builder) -> None:
        missing = []
        for number, one in enumerate(self.bodies):
            try:
                (entry, *_) = at.linked(f"bodies.{number}.part")
            except StepError as fault:
                missing.append(fault.message)
                continue
            body = entry.body.tagged(self.id)
            made = at.kernel("bodies", kernel.move.moved, body.solid, kernel.move.by_rows(one.placed))
            at.new(at.named(made, body), "neighbour", entry.name, str(number))
        for message in dict.fromkeys(missing):
            at.caution("bodies", f"One is left out: {message}")
        if self.left:
            at.note(f"Left out, changed there, mirrored, or another of this part: {', '.join(self.left)}.")
        count = plural(len(self.bodies) - len(missing), "body", "bodies")
        at.note(f"{count}, standing as when this part was last opened from there.")
