"""Intersect: what bodies share."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, BodyPicks
from supplecast.document.step import Before, Step


class Intersect(Step):
    """What `body`, which survives, shares with every one of `tools`. They are used up unless `keep` is "keep".

    Example: {"id": "i1", "type": "intersect", "body": "p81", "tools": ["q2"]}
    """

    type: Literal["intersect"] = "intersect"
    word = "Intersect"
    purpose = "what bodies share"
    search = "common boolean overlap keep shared"
    follows = "subtract"
    picture = ("M4 8h12v12H4zM12 3h15v12H12z", "M12 8h4v7h-4z")

    body: BodyPick = None
    tools: BodyPicks = ()
    keep: Literal["use up", "keep"] = "use up"

    def sentence(self) -> str:
        return "Intersect {body} with {tools}, {keep} the latter"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return before.pair(picked)

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        shape = entry.body
        tools = at.tools("tools", entry, "to intersect with")
        for tool in tools:
            made = at.kernel("tools", kernel.boolean.shared, shape.solid, [tool.body.solid])
            if len(made) > 1:
                at.fail("tools", f"What is shared falls into {len(made)} pieces.", "Split the body first, or use another one.")
            shape = at.named(made[0], shape, tool.body)
        at.replace(entry, shape)
        at.spend(tools, self.keep == "keep")
