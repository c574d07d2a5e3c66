"""Pattern: copies in a row, or in rows of rows."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.copying import Copying
from supplecast.document.fields import AnyLength, AxisField, AxisPick, Count, Numbers
from supplecast.document.step import Before
from supplecast.geometry import Vec, along, times

_MOST = 1000


class Pattern(Copying):
    """Copies of steps, a feature or a body along one direction or two, by spacing or over an extent; single ones left out.

    `count` includes the original, which is number 1; `2-3` is the third of the second row.
    Example: {"id": "t1", "type": "pattern", "of": "steps", "steps": ["h1"], "count": 6, "spacing": "12 mm", "leave_out": "3"}
    """

    type: Literal["pattern"] = "pattern"
    word = "Pattern"
    purpose = "copies in a row or in rows"
    search = "array row grid repeat copies linear"
    follows = "mirror"
    picture = ("M3 8h6v8H3z", "M13 8h6v8h-6zM23 8h6v8h-6z")
    suits = ("faces",)

    count: Count = 3
    sized: Literal["apart", "over"] = "apart"
    spacing: AnyLength = "10 mm"
    direction: AxisField = AxisPick(axis="x")
    rows: Count = 1
    row_spacing: AnyLength = "10 mm"
    row_direction: AxisField = AxisPick(axis="y")
    leave_out: Numbers = ()

    def sentence(self) -> str:
        rows = ", {rows} rows {row_spacing} {sized} along {row_direction}" if self.rows > 1 else ", in {rows} row"
        out = ", without {leave_out}" if self.leave_out else ""
        words = f"Pattern {self.subject()} {{count}} times, {{spacing}} {{sized}} along {{direction}}{rows}{out}"
        return words + self.outcome()

    def more(self) -> str:
        return "" if self.leave_out else "leaves out numbers {leave_out}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return cls.subject_of(before, picked)

    def build(self, at: Builder) -> None:
        if self.count * self.rows > _MOST:
            at.fail("count", f"That is {self.count * self.rows} copies.", f"At most {_MOST} are made.")
        first = self._step(at, "spacing", self.count)
        second = self._step(at, "row_spacing", self.rows)
        directions = [at.axis("direction").direction, at.axis("row_direction").direction]
        places: dict[str, Vec] = {}
        for row in range(self.rows):
            for column in range(self.count):
                # Numbers by row and place in it stay with their copies when rows grow longer.
                name = f"{row + 1}-{column + 1}" if row else f"{column + 1}"
                places[name] = along(times(directions[0], first * column), directions[1], second * row)
        self.leave(at, places)
        if not places:
            at.note("Only the original: there is no copy.")
            return
        self.spread(at, {label: kernel.move.shift(by) for label, by in places.items()}, "spacing")

    def _step(self, at: Builder, field: str, count: int) -> float:
        if count == 1:
            return 0.0
        size = at.mm(field)
        if size == 0:
            at.fail(field, "The copies would all stand in one place.", "Type a distance other than zero.")
        return size / (count - 1) if self.sized == "over" else size
