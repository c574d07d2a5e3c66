"""Pattern: copies of a body in a row, added to another or cut from it all at once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, BodyPick, Count
from supplecast.document.step import Step
from supplecast.errors import DocumentError
from supplecast.geometry import DIRECTIONS, times

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Pattern(Step):
    """Copy `tool`, which is used up, `count` times in a row, the first where it stands; add the copies to `body` or cut it.

    Example: {"id": "t1", "type": "pattern", "tool": "q2", "count": 6, "spacing": "12 mm", "result": "cut", "body": "p81"}
    """

    type: Literal["pattern"] = "pattern"
    word = "Pattern"
    purpose = "copies of a body in a row, cut or added"
    rank = 130

    tool: BodyPick = None
    count: Count = 3
    spacing: AnyLength = "10 mm"
    direction: Literal["+x", "+y", "+z"] = "+x"
    result: Literal["add", "cut"] = "cut"
    body: BodyPick = None

    def sentence(self) -> str:
        onto = "to" if self.result == "add" else "from"
        return "Pattern {tool} {count} times, {spacing} apart {direction}, {result} " + onto + " {body}"

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        bodies = [step.id for step in document.steps if getattr(step, "result", "") == "new"]
        if len(bodies) < 2:
            raise DocumentError("A pattern needs two bodies: what is copied, and what it is added to or cut from.")
        return {"tool": bodies[-1], "body": bodies[0]}

    def build(self, at: Builder) -> None:
        target = at.target(self.body)
        spacing = at.mm("spacing")
        if spacing == 0 and self.count > 1:
            at.fail("spacing", "The copies would all stand in one place.", "Type a distance other than zero.")
        (tool,) = at.tools("tool", target, "to copy") if self.tool else (at.body(None, "tool"),)
        way = DIRECTIONS[self.direction]
        copies = []
        for number in range(1, self.count + 1):
            made = at.kernel(
                "spacing", kernel.move.shifted, tool.body.solid, times(way, spacing * (number - 1)), f"copy{number}"
            )
            copies.append(at.named(made, tool.body))
        solids = [copy.solid for copy in copies]
        if self.result == "add":
            joined = at.kernel("tool", kernel.boolean.fuse, target.body.solid, solids)
        else:
            joined = at.kernel("tool", kernel.boolean.cut, target.body.solid, solids)[0]
        at.replace(target, at.named(joined, target.body, *copies))
        at.remove(tool)
