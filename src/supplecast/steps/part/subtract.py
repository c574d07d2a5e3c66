"""Subtract: one body less others."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.clearing import kept_clear
from supplecast.document.fields import BodyPick, BodyPicks, LengthFromZero
from supplecast.document.step import Before, Step
from supplecast.expressions import is_nothing


class Subtract(Step):
    """Take `tools` away from `body`, with a `gap` all round each of them where one is asked for. Tools are used up unless
    `keep` is "keep".

    With a gap, what is taken away is the tool grown by it: all its faces moved out, its convex edges `rounded` about, so that
    the gap is the same everywhere, or kept `sharp`; edges `of flats` are by triangles, no nearer than the gap and a little
    more in places, as round any mesh. Hollows inside a tool count as full; slots and holes narrower than twice
    the gap are closed by it. Faces of the gap are named by the faces they are clear of. What comes out is measured from many
    points before it is taken; where no such body is found, the step says which faces stand in the way.
    Example: {"id": "s1", "type": "subtract", "body": "p81", "tools": ["q2"], "gap": "0.3 mm", "keep": "keep"}
    """

    type: Literal["subtract"] = "subtract"
    word = "Subtract"
    purpose = "take bodies away from one"
    search = "cut away boolean difference minus clearance cavity nest"
    follows = "lip"
    picture = ("M12 3h15v12H12z", "M4 8h8v7h4v5H4z")

    body: BodyPick = None
    tools: BodyPicks = ()
    gap: LengthFromZero = "0 mm"
    corners: Literal["rounded", "sharp", "of flats"] = "rounded"
    keep: Literal["use up", "keep"] = "use up"

    def sentence(self) -> str:
        corners = " with edges {corners}" if not is_nothing(self.gap) else ""
        return f"Subtract {{tools}} from {{body}}, gap {{gap}}{corners}, {{keep}} the former"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return before.pair(picked)

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        tools = at.tools("tools", entry, "to subtract")
        gap = at.mm("gap")
        if gap or not all(tool.is_solid for tool in tools):
            larger = [kept_clear(at, tool, gap, self.corners) for tool in tools]
            made = at.kernel("tools", kernel.clearance.cut_out, entry.body.solid, larger)
        else:
            made = at.kernel("tools", kernel.boolean.cut, entry.body.solid, [tool.body.solid for tool in tools])[0]
        at.replace(entry, at.named(made, entry.body, *(tool.body for tool in tools)))
        at.spend(tools, self.keep == "keep")
