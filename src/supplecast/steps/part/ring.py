"""Ring: copies round an axis."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.copying import Copying
from supplecast.document.fields import Angle, AxisField, AxisPick, Count, Numbers
from supplecast.document.step import Before


class Ring(Copying):
    """Copies of steps, a feature or a body round an axis: over a full turn, over an angle, or at an angle from each other.

    `count` includes the original, which is number 1.
    Example: {"id": "g1", "type": "ring", "of": "steps", "steps": ["h1"], "count": 6, "axis": {"axis": "z"}}
    """

    type: Literal["ring"] = "ring"
    word = "Ring"
    purpose = "copies round an axis"
    search = "circular array around copies repeat polar bolt circle"
    follows = "pattern"
    picture = ("M13 2h6v5h-6z", "M23 9h5v6h-5zM4 9h5v6H4zM13 17h6v5h-6z")
    suits = ("faces",)

    count: Count = 4
    sized: Literal["over a full turn", "over", "apart"] = "over a full turn"
    angle: Angle = "90"
    axis: AxisField = AxisPick(axis="z")
    leave_out: Numbers = ()

    def sentence(self) -> str:
        span = "{sized}" if self.sized == "over a full turn" else "{angle} {sized}"
        out = ", without {leave_out}" if self.leave_out else ""
        return f"Ring of {self.subject()} {{count}} times about {{axis}}, {span}{out}" + self.outcome()

    def more(self) -> str:
        return "" if self.leave_out else "leaves out numbers {leave_out}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return cls.subject_of(before, picked)

    def build(self, at: Builder) -> None:
        step = 2 * math.pi / self.count
        if self.sized != "over a full turn":
            angle = at.radians("angle", -360.0, 360.0)
            if abs(angle) < 1e-9 and self.count > 1:
                at.fail("angle", "The copies would all stand in one place.", "Type an angle other than zero.")
            step = angle / max(self.count - 1, 1) if self.sized == "over" else angle
        if self.count > 1 and abs(step) * (self.count - 1) > 2 * math.pi - 1e-9:
            at.fail("angle", "The copies run round into the first one.", "Use fewer copies or a smaller angle.")
        axis = at.axis("axis")
        turns = {str(number): step * (number - 1) for number in range(1, self.count + 1)}
        self.leave(at, turns)
        if not turns:
            at.note("Only the original: there is no copy.")
            return
        self.spread(at, {label: kernel.move.turn(axis, turn) for label, turn in turns.items()}, "count")
