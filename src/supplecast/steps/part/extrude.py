"""Extrude: an outline raised, as far as typed or until something is met, filled or as a wall along it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.curves import Region
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, Faces, Length, NextBody, PlanePick, ProfileField
from supplecast.document.shaping import Shaping, newest_sketches, open_chain, usual_result
from supplecast.document.state import Entry, SketchEntry
from supplecast.document.step import Before
from supplecast.geometry import Frame, subtract, times
from supplecast.naming import Body

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made
    from supplecast.kernel.verbs.surface import Drawn

_MEETING = ("to the next body", "to a face")


class Extrude(Shaping):
    """Raise the areas of a sketch up, down or to both sides of its plane, with or without draft, or an open outline as a wall
    of a given thickness or as a surface.

    Positive draft narrows the outline on the way. `through all` goes past the far end of the bodies it adds to or cuts, `to
    the next body` ends where a body is first met, `to a face` at a face carried on beyond its edges, or `gap` outside it:
    out of the material that it bounds, also for a cut that comes from within; less than 0 is inside. `start` is how far from
    the sketch's plane it begins; `both ways` takes half the distance to each side, `two lengths` one each.
    Example: {"id": "p81", "type": "extrude", "profile": {"sketch": "k3f"}, "distance": "27 mm", "draft": "1.5 deg"}
    """

    type: Literal["extrude"] = "extrude"
    word = "Extrude"
    purpose = "raise an outline: new body, add or cut"
    search = "pad raise prism pull push pocket boss cutout"
    follows = "point"
    picture = ("M4 19l6-4h18l-6 4z", "M4 19V8l6-4h18v11M4 8h18l6-4M22 8v11")
    suits = ("faces",)

    profile: ProfileField
    fill: Literal["filled", "as a wall", "as a surface"] = "filled"
    wall: Length = "2 mm"
    side: Literal["left", "right", "middle"] = "middle"
    extent: Literal["by distance", "by two lengths", "through all", "to the next body", "to a face"] = "by distance"
    distance: Length = "10 mm"
    back: Length = "10 mm"
    up_to: Faces = ()
    next: NextBody = None
    gap: AnyLength = "0 mm"
    direction: Literal["up", "down", "both ways"] = "up"
    start: AnyLength = "0 mm"
    draft: Angle = "0"

    @property
    def surfaces_made(self) -> tuple[str, ...]:
        return (self.id,) if self.fill == "as a surface" else ()

    def sentence(self) -> str:
        filled = {"filled": "", "as a wall": " {fill} {wall} thick on its {side}", "as a surface": " {fill}"}[self.fill]
        far = {
            "by distance": "{extent} {distance} {direction}",
            "by two lengths": "{extent}, {distance} up and {back} down",
            "through all": "{extent} {direction}",
            "to the next body": "{extent} {direction}",
            "to a face": "{extent} {up_to} {direction}",
        }[self.extent]
        onto = "" if self.fill == "as a surface" else self.onto()
        draft = ", draft {draft}" if self.fill == "filled" else ""
        return f"Extrude {{profile}}{filled} {far}{draft}{onto}"

    def more(self) -> str:
        if self.extent == "to a face":
            return "{fill}; stops {gap} outside the face; begins {start} off the plane"
        body = "; meets {next}" if self.extent == "to the next body" else ""
        return f"{{fill}}; begins {{start}} off the plane{body}"

    def drawn_on(self, before: Before) -> PlanePick | None:
        return next((step.held("on") for step in before.steps if step.id == self.profile.sketch), None)

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        (sketch,) = newest_sketches(before, 1, cls.word)
        face = next(({"extent": "to a face", "up_to": [pick]} for pick in picked if "face" in pick), {})
        return {"profile": {"sketch": sketch}, "result": usual_result(before), "distance": "10 mm", **face}

    def build(self, at: Builder) -> None:
        if self.fill == "as a surface":
            if self.extent in _MEETING:
                at.fail("extent", "A surface does not end at what it meets.", "Give it a distance; it may reach through.")
            sketch, drawn = self._drawn(at, [])
            at.new(at.named(drawn.made, sketch=sketch), "surface", self.name or "Surface")
            return
        targets = self.targets(at)
        if self.fill == "as a wall":
            sketch, drawn = self._drawn(at, targets)
            made = at.kernel("wall", kernel.surface.walled, drawn, at.mm("wall"), self.side)
            self.combine(at, targets, [("", self._ended(at, made, sketch, targets))])
            return
        sketch, regions = at.regions("profile", hint="Or raise it “as a wall”: open this step for that.")
        self._handles(at, sketch.frame.shifted(at.mm("start")), regions[0])
        tools = [(r.name, self._ended(at, self._raised(at, sketch, r, targets), sketch, targets)) for r in regions]
        self.combine(at, targets, tools)

    def _drawn(self, at: Builder, targets: Sequence[Entry]) -> tuple[SketchEntry, Drawn]:
        """The open outline raised as a sheet, before it is given a wall."""
        sketch = at.sketch(self.profile.sketch, "profile")
        chain = open_chain(at, "profile", sketch)
        return sketch, at.kernel("profile", kernel.surface.raised, chain, *self._span(at, sketch, targets))

    def _span(self, at: Builder, sketch: SketchEntry, targets: Sequence[Entry]) -> tuple[Frame, float]:
        """The plane in which a sheet begins, and how far it is raised along that plane's normal: less than 0 for down."""
        frame = sketch.frame.shifted(at.mm("start"))
        if self.extent == "by two lengths":
            return frame.shifted(-at.mm("back")), at.mm("distance") + at.mm("back")
        length = self._length(at, sketch, targets)
        if self.direction == "both ways":
            return frame.shifted(-length / 2), length
        return frame, length if self.direction == "up" else -length

    def _length(self, at: Builder, sketch: SketchEntry, targets: Sequence[Entry]) -> float:
        if self.extent == "by distance":
            return at.mm("distance")
        if self.extent == "through all":
            if not targets:
                at.fail("extent", "A new body has nothing to go through.", "Give it a distance.")
            return max(kernel.measure.beyond(entry.body.solid, sketch.frame.origin) for entry in targets)
        return max((kernel.measure.beyond(entry.body.solid, sketch.frame.origin) for entry in self._met(at)), default=0.0)

    def _met(self, at: Builder) -> list[Entry]:
        """The bodies that may end the extrusion."""
        if self.direction == "both ways":
            at.fail("direction", "It cannot end at what it meets on both sides at once.", "Choose up or down.")
        if self.extent == "to a face":
            return [at.only_face("up_to", "Pick the face to reach.")[0]]
        if self.next is not None:
            return [at.body(self.next, "next")]
        solids = at.solids()
        if not solids:
            at.fail("extent", "There is no body to meet yet.", "Give it a distance.")
        return solids

    def _raised(self, at: Builder, sketch: SketchEntry, region: Region, targets: Sequence[Entry]) -> Made:
        draft = at.radians("draft")
        frame = sketch.frame.shifted(at.mm("start"))
        both = kernel.solid.extrude_both
        if self.extent == "by two lengths":
            return at.kernel("draft", both, region, frame, at.mm("distance"), at.mm("back"), draft=draft)
        length = self._length(at, sketch, targets)
        if self.direction == "both ways":
            return at.kernel("draft", both, region, frame, length / 2, length / 2, draft=draft)
        up = self.direction == "up"
        return at.kernel("draft", kernel.solid.extrude, region, frame, length, up=up, draft=draft)

    def _handles(self, at: Builder, frame: Frame, region: Region) -> None:
        """What can be dragged, at one of its outlines."""
        if self.extent not in ("by distance", "by two lengths"):
            return
        two = self.extent == "by two lengths"
        rate = 0.5 if self.direction == "both ways" and not two else 1.0
        handling.raised(at, "distance", frame, [region], up=two or self.direction != "down", rate=rate)
        if two:
            handling.raised(at, "back", frame, [region], up=False)
            return
        (x0, y0), (x1, y1) = (map(float, place) for place in region.outer[0].sampled(2)[:2])
        out = subtract(frame.point((y1 - y0, x0 - x1)), frame.origin)  # the outer loop has the material on its left
        if self.direction != "both ways":
            pull = frame.normal if self.direction == "up" else times(frame.normal, -1.0)
            handling.leaning(at, "draft", frame.point(((x0 + x1) / 2, (y0 + y1) / 2)), out, pull)

    def _ended(self, at: Builder, made: Made, sketch: SketchEntry, targets: Sequence[Entry]) -> Body:
        """The prism cut off where it meets what it is to meet."""
        if self.extent == "to the next body":
            met = self._met(at)
            made = at.kernel("extent", kernel.extent.until_bodies, made, [e.body.solid for e in met])
            return at.named(made, *(e.body for e in met), sketch=sketch)
        if self.extent == "to a face":
            entry, face = at.only_face("up_to", "Pick the face to reach.")
            reach = kernel.measure.beyond(entry.body.solid, sketch.frame.origin)
            gap = at.mm("gap")
            made = at.kernel("up_to", kernel.extent.until_face, made, entry.body.solid, face, gap, reach)
        return at.named(made, sketch=sketch)
