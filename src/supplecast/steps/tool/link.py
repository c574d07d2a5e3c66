"""Link: a body of another document, kept up to date."""

from __future__ import annotations

from typing import Literal

from supplecast.document.builder import Builder
from supplecast.document.fields import LinkField
from supplecast.document.step import Step


class Link(Step):
    """Bring in a body of another document. A pinned revision stays until it is updated; without one it follows.

    Example: {"id": "k1", "type": "link", "part": {"document": "dusk-back-shell"}}
    """

    type: Literal["link"] = "link"
    word = "Link"
    about = "a part from another document"

    part: LinkField

    def sentence(self) -> str:
        return "Link {part}"

    def build(self, at: Builder) -> None:
        entry = at.linked("part")
        at.new(entry.body.tagged(at.step.id), "linked", entry.name)
