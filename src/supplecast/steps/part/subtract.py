"""Subtract: one body less others."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, BodyPicks
from supplecast.document.step import Before, Step


class Subtract(Step):
    """Take `tools` away from `body`. Tools are used up unless `keep` is "keep".

    Example: {"id": "s1", "type": "subtract", "body": "p81", "tools": ["q2"], "keep": "keep"}
    """

    type: Literal["subtract"] = "subtract"
    word = "Subtract"
    purpose = "take bodies away from one"
    search = "cut away boolean difference minus clearance cavity nest"
    follows = "lip"
    picture = ("M12 3h15v12H12z", "M4 8h8v7h4v5H4z")

    body: BodyPick = None
    tools: BodyPicks = ()
    keep: Literal["use up", "keep"] = "use up"

    def sentence(self) -> str:
        return "Subtract {tools} from {body}, {keep} the former"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return before.pair(picked)

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        tools = at.tools("tools", entry, "to subtract")
        made = at.kernel("tools", kernel.boolean.cut, entry.body.solid, [tool.body.solid for tool in tools])
        at.replace(entry, at.named(made[0], entry.body, *(tool.body for tool in tools)))
        at.spend(tools, self.keep == "keep")
