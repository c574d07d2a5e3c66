"""Draft: faces leant so that they leave the mold."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AxisField, AxisPick, BodyPick, Edges, Faces, PlaneField, PlanePick
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Vec, along, times


class Draft(Step):
    """Lean faces, and those they run into smoothly, about a neutral plane that keeps its size: the picked ones, or all that
    stand along the pull, or of these only those inside a hollow, or only those outside. Or lean the walls that go on from a
    parting line: edges that keep their place, level or not.

    A positive angle takes material away above the plane; the pull is square to it, or along an axis. `both ways` leans them
    away from the plane on both of its sides, as where a mold parts in the middle. From a parting line a positive angle leans
    what lies along the axis, a negative one what lies against it. Draft before rounding the edges the faces end at.
    Example: {"id": "d1", "type": "draft", "faces": [{"face": "p81.side[L1]"}], "angle": "1.5", "neutral": {"plane": "top"}}
    """

    type: Literal["draft"] = "draft"
    word = "Draft"
    purpose = "lean faces for the pull"
    search = "taper angle mold release"
    follows = "chamfer"
    picture = ("M8 3v18M24 3v18M4 21h24", "M8 21L11 3h10l3 18")
    suits = ("faces", "edges")

    about: Literal["a plane", "a parting line"] = "a plane"
    line: Edges = ()
    which: Literal["the faces", "all side faces", "side faces inside", "side faces outside"] = "the faces"
    faces: Faces = ()
    angle: Angle = "1"
    ways: Literal["one way", "both ways"] = "one way"
    neutral: PlaneField = PlanePick(plane="top")
    pull: Literal["square to the plane", "along an axis"] = "square to the plane"
    axis: AxisField = AxisPick(axis="z")
    body: BodyPick = None

    def sentence(self) -> str:
        if self._from_line:
            return "Draft the walls by {angle} {ways} from {about} {line}, pulled along {axis}"
        which = "{which} {faces}" if self.which == "the faces" else "{which} of {body}"
        pull = "" if self._square else ", pulled {pull} {axis}"
        return f"Draft {which} by {{angle}} {{ways}} from {{about}} {{neutral}}{pull}"

    def more(self) -> str:
        return "pulled {pull}" if self._square and self.ways == "one way" and not self._from_line else ""

    @property
    def _from_line(self) -> bool:
        return self.about == "a parting line"

    @property
    def _square(self) -> bool:
        return self.pull == "square to the plane" or self.ways == "both ways"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        line = [pick for pick in picked if "edge" in pick]
        if line and not faces:
            return {"about": "a parting line", "line": line}
        return {"faces": faces} if faces else {"which": "all side faces"}

    def build(self, at: Builder) -> None:
        if self._from_line:
            self._lean_from_line(at)
            return
        if self.which == "the faces":
            at.need_picks("faces", "Click the side faces to lean, or take all side faces.")
        entry = at.holder("faces", self.body) if self.which == "the faces" else at.target(self.body)
        angle = at.radians("angle")
        neutral = at.frame("neutral")
        way = None if self._square else at.axis("axis").direction
        faces = self._faces(at, entry, way or neutral.normal)
        solid = entry.body.solid
        # The middle of a whole round face lies on its axis, as near to all of it.
        spot = kernel.measure.point_inside(solid, faces[0]) or kernel.measure.face_middle(solid, faces[0])
        out = kernel.datums.normal_at(solid, faces[0], spot)[1]
        foot = along(spot, neutral.normal, -neutral.over(spot))
        handling.leaning(at, "angle", foot, out, way or neutral.normal)
        if self.ways == "both ways":
            made = at.kernel("angle", kernel.draft.both_ways, solid, faces, neutral, angle)
        else:
            made = at.kernel("angle", kernel.draft.taper, solid, faces, neutral, angle, way)
        at.replace(entry, at.named(made, entry.body))

    def _lean_from_line(self, at: Builder) -> None:
        at.need_picks("line", "Click the edges of the parting line, or take a loop or chain of them.")
        entry = at.holder("line", self.body)
        angle, pull = at.radians("angle"), at.axis("axis").direction
        way = pull if angle > 0 else times(pull, -1.0)
        ways = [way, times(way, -1.0)] if self.ways == "both ways" else [way]
        line = at.edges("line", entry)
        made = at.kernel("angle", kernel.parting_line_draft.taper, entry.body.solid, line, abs(angle), ways)
        at.replace(entry, at.named(made, entry.body))

    def _faces(self, at: Builder, entry: Entry, pull: Vec) -> list[int]:
        if self.which == "the faces":
            return at.faces("faces", entry)
        body = entry.body
        faces = at.kernel("which", kernel.draft.sides, body.solid, pull)
        if self.which != "all side faces":
            inside = self.which == "side faces inside"
            faces = [face for face in faces if any(".inner{" in tag for tag in body.tags[face]) == inside]
        if not faces:
            at.fail("which", f"{entry.name} has no such faces along the pull.", "Choose others, or pick them.")
        at.note(f"{len(faces)} faces")
        return faces
