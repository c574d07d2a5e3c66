"""Draft: faces leant so that they leave the mold."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AxisField, AxisPick, BodyPick, Faces, PlaneField, PlanePick
from supplecast.document.step import Step

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Draft(Step):
    """Lean the picked faces, and those they run into smoothly, about a neutral plane that keeps its size.

    A positive angle takes material away above the plane; the pull is square to it, or along an axis. Draft before rounding
    the edges the faces end at.
    Example: {"id": "d1", "type": "draft", "faces": [{"face": "p81.side[L1]"}], "angle": "1.5", "neutral": {"plane": "top"}}
    """

    type: Literal["draft"] = "draft"
    word = "Draft"
    purpose = "lean faces for the pull"
    rank = 80
    picture = ("M8 3v18M24 3v18M4 21h24", "M8 21L11 3h10l3 18")
    suits = ("faces",)

    faces: Faces = ()
    angle: Angle = "1"
    neutral: PlaneField = PlanePick(plane="top")
    pull: Literal["square to the plane", "along an axis"] = "square to the plane"
    axis: AxisField = AxisPick(axis="z")
    body: BodyPick = None

    def sentence(self) -> str:
        pull = "" if self.pull == "square to the plane" else ", pulled {pull} {axis}"
        return f"Draft {{faces}} by {{angle}} from {{neutral}}{pull}"

    def more(self) -> str:
        return "pulled {pull}" if self.pull == "square to the plane" else ""

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"faces": [pick for pick in picked if "face" in pick]}

    def build(self, at: Builder) -> None:
        entry = at.holder("faces", self.body)
        angle = at.radians("angle")
        if not self.faces:
            at.fail("faces", "No face is picked.", "Click the side faces to lean.")
        neutral = at.frame("neutral")
        faces = at.faces("faces", entry)
        way = at.axis("axis").way if self.pull == "along an axis" else None
        made = at.kernel("angle", kernel.lean.lean, entry.body.solid, faces, neutral, angle, way)
        at.replace(entry, at.named(made, entry.body))
