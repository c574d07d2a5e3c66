"""Union: several bodies made one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, BodyPicks
from supplecast.document.step import Before, Step


class Union(Step):
    """Join `tools` to `body`, which survives. Tools are used up unless `keep` is "keep".

    Example: {"id": "u1", "type": "union", "body": "p81", "tools": ["q2"]}
    """

    type: Literal["union"] = "union"
    word = "Union"
    purpose = "join bodies into one"
    search = "join merge add combine fuse together"
    follows = "rib"
    picture = ("M4 8h12v12H4z", "M4 8h8V3h15v12H16v5H4z")

    body: BodyPick = None
    tools: BodyPicks = ()
    keep: Literal["use up", "keep"] = "use up"

    def sentence(self) -> str:
        return "Union of {body} and {tools}, {keep} the latter"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return before.pair(picked)

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        tools = at.tools("tools", entry, "to join")
        made = at.kernel("tools", kernel.boolean.fuse, entry.body.solid, [tool.body.solid for tool in tools])
        at.replace(entry, at.named(made, entry.body, *(tool.body for tool in tools)))
        at.spend(tools, self.keep == "keep")
