"""Contour recess and pad: an outline let into a curved face, or raised on it, its floor following the face."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, Faces, Length, LengthFromZero, PlaneField, PlanePick, ProfileField
from supplecast.document.shaping import newest_sketches
from supplecast.document.step import Before, Step
from supplecast.naming import Body


class Contour(Step):
    """A recess or a pad whose outline is drawn on a plane and seen along it on a face, flat or curved. Its floor follows the
    face at one depth, or lies in a plane. Draft narrows the outline from the sketch's plane on; `round` rounds the edge of
    the floor.

    Example: {"id": "cr1", "type": "contour", "profile": {"sketch": "k3f"}, "face": [{"face": "p81.end"}], "depth": "0.6 mm"}
    """

    type: Literal["contour"] = "contour"
    word = "Contour recess"
    purpose = "a recess or pad that follows a curved face"
    search = "recess pad pocket follows curved face inlay"
    follows = "snap"
    picture = ("M3 20c8-9 18-9 26 0", "M10 14.500l1 3c3-1.500 7-1.500 10 0l1-3")
    suits = ("faces",)

    make: Literal["a recess", "a pad"] = "a recess"
    profile: ProfileField
    face: Faces = ()
    floor: Literal["following the face", "in a plane"] = "following the face"
    depth: Length = "0.6 mm"
    plane: PlaneField = PlanePick(plane="top")
    draft: Angle = "0"
    round: LengthFromZero = "0 mm"

    @property
    def repeats(self) -> bool:
        return True

    def sentence(self) -> str:
        floor = "{depth} {floor}" if self.floor == "following the face" else "its floor {floor} {plane}"
        return f"Contour, {{make}} {floor}, of {{profile}} on {{face}}, draft {{draft}}, floor edge rounded {{round}}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        (sketch,) = newest_sketches(before, 1, cls.word)
        return {"profile": {"sketch": sketch}, "face": [pick for pick in picked if "face" in pick]}

    def build(self, at: Builder) -> None:
        sketch, regions = at.regions("profile")
        picked, face = at.only_face("face", "Pick the face it is to follow.")
        entry = at.target(picked.id, "face")
        solid = entry.body.solid
        recess = self.make == "a recess"
        if self.floor == "in a plane":
            floor: Any = at.frame("plane")
        else:
            floor = at.mm("depth") * (-1.0 if recess else 1.0)
        draft, reach = at.radians("draft", 0.0, 60.0), kernel.measure.beyond(solid, sketch.frame.origin)
        field = "plane" if self.floor == "in a plane" else "depth"
        up = sketch.frame.over(kernel.measure.face_middle(solid, face)) > 0
        tools: list[Body] = []
        for region in regions:
            bar = at.kernel("profile", kernel.solid.extrude, region, sketch.frame, reach, up=up)
            made = at.kernel(field, kernel.contour.layer, bar, sketch.frame, solid, face, floor, reach)
            if draft:  # no longer than it must be, or it would close on the way
                length = kernel.contour.depth_under(made, sketch.frame) + 1.0
                bar = at.kernel("draft", kernel.solid.extrude, region, sketch.frame, length, up=up, draft=draft)
                made = at.kernel(field, kernel.contour.layer, bar, sketch.frame, solid, face, floor, reach)
            tools.append(at.named(made, sketch=sketch))
        if recess:
            made = at.kernel("depth", kernel.boolean.cut, solid, [tool.solid for tool in tools])[0]
        else:
            made = at.kernel("depth", kernel.boolean.fuse, solid, [tool.solid for tool in tools])
        whole = at.named(made, entry.body, *tools)
        radius = at.mm("round")
        if radius > 0:
            edges = [
                edge
                for edge, faces in enumerate(whole.solid.faces_at_edges)
                if sum(f"{self.id}.floor" in whole.tags[f] for f in faces) == 1
            ]
            whole = at.named(at.kernel("round", kernel.blend.fillet, whole.solid, edges, radius), whole)
        at.replace(entry, whole)
        at.did("cut" if recess else "add", entry, tools)
