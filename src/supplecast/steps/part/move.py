"""Move: a body shifted, turned or seated on another, itself or a copy of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, AxisField, AxisPick, BodyPick, Faces, FurtherBodies
from supplecast.document.several import several
from supplecast.document.step import Before, Step
from supplecast.geometry import AXES, Box, Frame, subtract, times

if TYPE_CHECKING:
    from supplecast.kernel.verbs.move import Motion


class Move(Step):
    """Shift a body by typed lengths, turn it about an axis, or seat it: one of its flat faces on a flat face of another body,
    facing it or flush with it, at a gap. The body itself, or a copy; `also` are further bodies that go along.

    Seating brings the middles of both faces over each other and turns the body no more than it must.
    Example: {"id": "mv1", "type": "move", "body": "p81", "x": "12 mm"}
    """

    type: Literal["move"] = "move"
    word = "Move"
    purpose = "shift, turn or seat a body, or a copy"
    search = "copy shift turn rotate place translate seat align"
    follows = "split body"
    picture = ("M3 12h9v9H3z", "M17 3h11v10H17zM9 9l6-4m-4 0h4v4")
    suits = ("faces",)

    body: BodyPick = None
    how: Literal["by", "turned about", "seated"] = "by"
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"
    z: AnyLength = "0 mm"
    axis: AxisField = AxisPick(axis="z")
    angle: Angle = "90"
    face: Faces = ()
    onto: Faces = ()
    way: Literal["facing", "flush"] = "facing"
    gap: AnyLength = "0 mm"
    also: FurtherBodies = ()
    copy_it: Literal["itself", "a copy"] = "itself"

    def sentence(self) -> str:
        words = {
            "by": "{how} {x}, {y}, {z}",
            "turned about": "{how} {axis} by {angle}",
            "seated": "{how} with {face} on {onto}, {way}, gap {gap}",
        }
        return f"Move {{body}}{{also}}, {{copy_it}}, {words[self.how]}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        if len(faces) == 2:
            return {"how": "seated", "face": faces[:1], "onto": faces[1:], "body": faces[0].get("body")}
        if picked:
            body, *others = dict.fromkeys(pick.get("body") for pick in picked)
            return {"body": body, "also": [other for other in others if other]}
        return {"body": before.bodies[-1]} if len(before.bodies) > 1 else {}

    def build(self, at: Builder) -> None:
        copy = self.copy_it == "a copy"
        moving = self.body
        if self.how == "seated" and moving is None and self.face:
            moving = at.face(self.face[0], "face")[0].id
        seek = at.body if copy else at.target
        entries = several(seek, seek(moving), self.also)
        self._handles(at, kernel.measure.loose_box(entries[0].body.solid))
        motion = self._motion(at)
        for number, entry in enumerate(entries):
            solid = entry.body.solid
            if copy:
                made = at.kernel("how", kernel.move.copied, solid, motion, "copy")
                name = self.name if self.name and len(entries) == 1 else f"{entry.name} (copy)"
                at.new(at.named(made, entry.body), entry.role, name, entry.id if number else "")
            else:
                at.replace(entry, at.named(at.kernel("how", kernel.move.moved, solid, motion), entry.body))

    def _handles(self, at: Builder, box: Box) -> None:
        """An arrow along each axis, or a ring about the one there is, at the body's middle."""
        if self.how == "by":
            for field, way in zip(("x", "y", "z"), AXES, strict=True):
                at.handle(field, box.centre, way)
        elif self.how == "turned about":
            axis = at.axis("axis")
            foot = axis.nearest(box.centre)
            arm = subtract(box.centre, foot)
            aside = times(Frame.lying(foot, axis.direction).x, box.diagonal / 2)
            at.turning("angle", foot, axis.direction, arm if math.dist(arm, (0.0, 0.0, 0.0)) > box.diagonal / 4 else aside)

    def _motion(self, at: Builder) -> Motion:
        if self.how == "by":
            by = (at.mm("x"), at.mm("y"), at.mm("z"))
            return kernel.move.shift(by)
        if self.how == "turned about":
            return kernel.move.turn(at.axis("axis"), at.radians("angle", -360.0, 360.0))
        frames = []
        for field in ("face", "onto"):
            entry, face = at.only_face(field, "Pick the flat face.")
            flat = at.kernel(field, kernel.measure.flat_frame, entry.body.solid, face)
            frames.append(Frame(kernel.measure.face_middle(entry.body.solid, face), flat.x, flat.normal))
        mine, onto = frames
        onto = onto.shifted(at.mm("gap"))
        normal = times(onto.normal, -1.0) if self.way == "facing" else onto.normal
        return kernel.move.seat(mine, Frame(onto.origin, mine.turned_x(normal), normal))
