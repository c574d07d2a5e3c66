"""Link: a body of another document, kept up to date."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast.document.builder import Builder
from supplecast.document.fields import LinkField
from supplecast.document.step import Before, Step
from supplecast.errors import DocumentError


class Link(Step):
    """Bring in a body of another document, several of them, or all. A pinned revision stays until it is updated; without one
    it follows.

    Example: {"id": "k1", "type": "link", "part": {"document": "dusk-back-shell"}}
    """

    type: Literal["link"] = "link"
    word = "Link"
    purpose = "a part from another document"
    search = "insert part from other document assembly reference"
    follows = ""
    picture = ("M3 9h10v10H3z", "M13 14h7m-3-3l3 3-3 3M20 9h9v10h-9z")

    document_kinds = ("part", "tool", "assembly")

    part: LinkField

    def sentence(self) -> str:
        return "Link {part}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        if not before.parts:
            raise DocumentError("There is no part in this project to link.", "Make a part first.")
        return {"part": before.parts[0].model_dump(exclude_none=True)}

    def build(self, at: Builder) -> None:
        for number, entry in enumerate(at.linked("part")):
            at.new(entry.body.tagged(self.id), "linked", entry.name, entry.id if number else "", group=entry.group)
