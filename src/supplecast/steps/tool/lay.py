"""Lay: the part turned so that it lies to the pull of the tool."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AxisField, AxisPick, BodyPick, Faces
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import DIRECTIONS, Axis, Vec, cross, dot, times, unit
from supplecast.wording import show

_CENTRE: Vec = (0.0, 0.0, 0.0)


class Lay(Step):
    """Turn the part about the origin so that what is picked points along the tool's pull: a flat face by its normal, an edge
    or an axis by its direction, or, as suggested, the axis of the part along which least of it would be hidden.

    `facing` turns it over.
    Example: {"id": "la2", "type": "lay", "by": "as suggested", "pull": "+z"}
    """

    type: Literal["lay"] = "lay"
    word = "Lay"
    purpose = "turn the part to the pull"
    follows = "link"
    picture = ("M7 15l9-10 9 10z", "M4 20h24M16 18V8m-3 3l3-3 3 3")
    suits = ("faces", "edges")
    document_kinds = ("tool",)

    by: Literal["a face", "an edge or axis", "as suggested"] = "as suggested"
    face: Faces = ()
    axis: AxisField = AxisPick(axis="z")
    pull: Literal["+z", "-z", "+x", "-x", "+y", "-y"] = "+z"
    facing: Literal["ahead", "back"] = "ahead"
    part: BodyPick = None

    def sentence(self) -> str:
        what = {"a face": " {face}", "an edge or axis": " {axis}", "as suggested": ""}[self.by]
        return f"Lay {{part}} by {{by}}{what}, facing {{facing}} along the pull {{pull}}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        edge = next((pick for pick in picked if "edge" in pick), None)
        if face:
            return {"by": "a face", "face": [face]}
        return {"by": "an edge or axis", "axis": edge} if edge else {}

    def build(self, at: Builder) -> None:
        entry = at.target(self.part, "part", roles=("linked", "part"))
        goal = times(DIRECTIONS[self.pull], 1.0 if self.facing == "ahead" else -1.0)
        direction = self._direction(at, entry)
        lean = math.acos(max(-1.0, min(1.0, dot(direction, goal))))
        if lean < 1e-9:
            at.note("It lies so already.")
            at.replace(entry, entry.body)
            return
        across = cross(direction, goal)
        axis = unit(across) if dot(across, across) > 1e-18 else self._square(goal)
        made = at.kernel("by", kernel.move.moved, entry.body.solid, kernel.move.turn(Axis(_CENTRE, axis), lean))
        at.replace(entry, at.named(made, entry.body))
        at.note(f"Turned by {show(math.degrees(lean), 4)}°.")

    def _square(self, direction: Vec) -> Vec:
        """Some axis square to a direction, along the document's where it can be."""
        helper: Vec = (1.0, 0.0, 0.0) if abs(direction[0]) < 0.9 else (0.0, 1.0, 0.0)
        return unit(cross(direction, helper))

    def _direction(self, at: Builder, entry: Entry) -> Vec:
        if self.by == "a face":
            holder, face = at.only_face("face", "Pick the one face that is to lie square to the pull.")
            if holder.id != entry.id:
                at.fail("face", f"The picked face is not of {entry.name}.", "Pick one of the part that is laid.")
            return at.kernel("face", kernel.measure.flat_frame, entry.body.solid, face).normal
        if self.by == "an edge or axis":
            return at.axis("axis").direction
        suggestions = molding.undercut.suggested_pull(molding.judge.skin_of(entry.body.solid).places)
        direction, hidden = suggestions[0]
        at.note(
            f"Along its own {'xyz'[max(range(3), key=lambda k: abs(direction[k]))]} {hidden:.1%} of its skin would be hidden, "
            "the least."
        )
        return direction
