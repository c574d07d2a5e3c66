"""Plane: a datum plane to draw, mirror or split on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document import handling, placing
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AxisField, AxisPick, Faces, PlaneField, PlanePick, SpotField, Spots
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame


class Plane(Step):
    """A datum plane: offset from another, through an axis or edge at an angle to another plane, midway between two (halving
    the angle where they meet), through three points, touching a round face, or square across an edge at a place along it.

    Example: {"id": "pl1", "type": "plane", "how": "through an edge", "line": {"axis": "x"}, "angle": "45",
    "base": {"plane": "top"}}
    """

    type: Literal["plane"] = "plane"
    word = "Plane"
    purpose = "a datum plane to draw, mirror or split on"
    search = "datum reference level offset tilted"
    follows = "sketch"
    document_kinds = ("part", "tool", "assembly")
    picture = ("M4 20h18", "M8 15l5-11h16l-5 11z")
    suits = (
        "faces",
        "edges",
    )

    how: Literal["offset", "through an edge", "midway", "through three points", "touching", "across an edge"] = "offset"
    base: PlaneField = PlanePick(plane="top", offset="10 mm")
    other: PlaneField = PlanePick(plane="top")
    line: AxisField = AxisPick(axis="x")
    angle: Angle = "45"
    points: Spots = ()
    face: Faces = ()
    place: SpotField = None

    def sentence(self) -> str:
        words = {
            "offset": "{how} from {base}",
            "through an edge": "{how}: {line}, at {angle} to {base}",
            "midway": "{how} between {base} and {other}",
            "through three points": "{how}: {points}",
            "touching": "{how} {face}, at {angle} round it",
            "across an edge": "{how} at {place}",
        }
        return f"Plane {{name}} {words[self.how]}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        edges = [pick for pick in picked if "edge" in pick]
        if len(faces) == 2:
            return {"how": "midway", "base": faces[0], "other": faces[1]}
        if edges and faces:
            return {"how": "through an edge", "line": edges[0], "base": faces[0]}
        if edges:
            return {"how": "across an edge", "place": edges[0]}
        return {"base": {**faces[0], "offset": "10 mm"}} if faces else {}

    def build(self, at: Builder) -> None:
        at.place("plane", _WAYS[self.how](self, at))

    def _offset(self, at: Builder) -> Frame:
        handling.plane(at, "base", self.base)
        return at.frame("base")

    def _through_line(self, at: Builder) -> Frame:
        angle = at.radians("angle", -360.0, 360.0)
        return at.kernel("base", kernel.datums.through_line, at.axis("line"), at.frame("base"), angle)

    def _midway(self, at: Builder) -> Frame:
        return at.kernel("other", kernel.datums.midway, at.frame("base"), at.frame("other"))

    def _through_points(self, at: Builder) -> Frame:
        points = at.spots("points")
        if len(points) != 3:
            at.fail("points", f"Three points are needed; {len(points)} are picked.", "Pick corners or centres in the view.")
        return at.kernel("points", kernel.datums.through_points, *points)

    def _touching(self, at: Builder) -> Frame:
        entry, face = at.only_face("face", "Pick the round face to touch.")
        angle = at.radians("angle", -360.0, 360.0)
        return at.kernel("face", kernel.datums.tangent_plane, entry.body.solid, face, angle)

    def _across(self, at: Builder) -> Frame:
        if self.place is None or self.place.edge is None:
            at.fail("place", "No edge is picked.", "Pick an edge; then type how far along it.")
        point, direction = placing.along(at, "place", self.place)
        return Frame.lying(point, direction)


_WAYS: dict[str, Callable[[Plane, Builder], Frame]] = {
    "offset": Plane._offset,
    "through an edge": Plane._through_line,
    "midway": Plane._midway,
    "through three points": Plane._through_points,
    "touching": Plane._touching,
    "across an edge": Plane._across,
}
