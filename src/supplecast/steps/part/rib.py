"""Rib: thin walls along drawn lines, standing on the body."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from supplecast import kernel
from supplecast.curves import Curve2, Run
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Faces, Length, LineField
from supplecast.document.shaping import newest_sketches
from supplecast.document.standing import Standing
from supplecast.document.state import Entry, SketchEntry
from supplecast.document.step import Before
from supplecast.errors import StepError, TouchingError
from supplecast.geometry import Frame, Point2, Vec, cross, dot, subtract, unit
from supplecast.sketch.paths import runs

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made


class Rib(Standing):
    """Thin walls along the open lines of a sketch, running down to whatever is there and taking its shape; loose ends run on to
    the walls. Seen `from above`, the lines are drawn in the plane of the ribs' top, or that of a face, some way `below` it;
    seen `from the side` a line is the top edge of a rib that lies in the plane; `as it lands` tries the first, then the second.
    Any number at once; lines may cross.

    The thickness is that at the top; draft widens the rib downwards. The sheet shows what share of the wall its foot is.
    Example: {"id": "rb1", "type": "rib", "line": {"sketch": "k3f"}, "thickness": "1.2 mm", "root": "0.5 mm"}
    """

    type: Literal["rib"] = "rib"
    word = "Rib"
    purpose = "thin walls that stiffen, standing on the body"
    search = "stiffener web gusset brace"
    follows = "shell"
    picture = ("M3 5h26v16H3zM6 8h20v10H6z", "M6 12h20M6 14h20M13 8v10M15 8v10")

    line: LineField
    seen: Literal["from above", "from the side", "as it lands"] = "from above"
    thickness: Length = "1.2 mm"
    side: Literal["left", "right", "middle"] = "middle"
    top: Literal["in the sketch's plane", "below a face"] = "in the sketch's plane"
    rim: Faces = ()
    below: AnyLength = "0 mm"

    def sentence(self) -> str:
        top = ""
        if self.seen != "from the side":
            top = ", top {top}" + (" {rim} by {below}" if self.top == "below a face" else "")
        return f"Rib along {{line}} seen {{seen}}, {{thickness}} thick{top}, root rounded {{root}}, on {{body}}{{also}}"

    def more(self) -> str:
        return "draft {draft}; thickness to the {side}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        (sketch,) = newest_sketches(before, 1, cls.word)
        thickness = {"thickness": "wall * 0.55"} if "wall" in before.values else {}
        return {"line": {"sketch": sketch}, "seen": "as it lands", **thickness, **cls.leaning(before)}

    def build(self, at: Builder) -> None:
        sketch = at.sketch(self.line.sketch, "line")
        entry = at.body(self.body)
        reach = kernel.measure.beyond(entry.body.solid, sketch.frame.origin)
        shape = kernel.rib.Shape(at.mm("thickness"), self.side, at.radians("draft", 0.0, 45.0), reach)
        ribs, above = self._all(at, entry, sketch, shape)
        self._handle(at, sketch, above)
        self._compared(at, entry, ribs, shape)
        bodies = [at.named(piece, entry.body, sketch=sketch) for piece, _ in ribs]
        self.stand(at, bodies, "thickness", ("side", "far", "tip", "tail") if above else ("front", "back"))

    def _handle(self, at: Builder, sketch: SketchEntry, above: bool) -> None:
        """The thickness, from the middle of the first line to the side."""
        first = sketch.curves[0]
        a, b = (sketch.frame.point((float(x), float(y))) for x, y in first.sampled(2)[[0, -1]])
        if math.dist(a, b) > 1e-6:
            aside = cross(sketch.frame.normal, unit(subtract(b, a))) if above else sketch.frame.normal
            at.handle("thickness", sketch.frame.point(_halfway(first)), aside, rate=0.5 if self.side == "middle" else 1.0)

    def _all(
        self, at: Builder, entry: Entry, sketch: SketchEntry, shape: kernel.rib.Shape
    ) -> tuple[list[tuple[Made, Vec]], bool]:
        """The pieces of all lines' ribs, each with the way down, and whether they are seen from above."""
        if self.seen != "as it lands":
            return self._seen(at, entry, sketch, shape, self.seen == "from above"), self.seen == "from above"
        try:
            return self._seen(at, entry, sketch, shape, True), True
        except StepError as fault:
            try:
                pieces = self._seen(at, entry, sketch, shape, False)
            except StepError:
                raise fault from None
            at.note("seen from the side: from above it does not land")
            return pieces, False

    def _seen(
        self, at: Builder, entry: Entry, sketch: SketchEntry, shape: kernel.rib.Shape, above: bool
    ) -> list[tuple[Made, Vec]]:
        ribs: list[tuple[Made, Vec]] = []
        up = False
        for run in at.kernel("line", runs, sketch.curves):
            pieces, up = self._one(at, entry, sketch, run, shape, up, above)
            ribs += pieces
        return ribs

    def _one(
        self, at: Builder, entry: Entry, sketch: SketchEntry, run: Run, shape: kernel.rib.Shape, first: bool, above: bool
    ) -> tuple[list[tuple[Made, Vec]], bool]:
        """The pieces of one line's rib, each with the way down, and whether it grows up. It grows to the side on which it meets
        the body; that of the line before is tried `first`.
        """
        for up in (first, not first):
            web, pieces = self._landed(at, entry, sketch, run, shape, up, above)
            if pieces:
                return [(piece, web.down) for piece in pieces], up
        names = ", ".join(dict.fromkeys(at.drawn_name(sketch.id, curve.entity) for curve in run.chain))
        at.fail(
            "line",
            f"The rib along {names} does not land on {entry.name} all along: it runs past it, or lies inside it.",
            "Lower it under the rim, move the line over the body, or draw its end onto another rib.",
        )

    def _landed(
        self, at: Builder, entry: Entry, sketch: SketchEntry, run: Run, shape: kernel.rib.Shape, up: bool, above: bool
    ) -> tuple[kernel.rib.Web, list[Made]]:
        if above:
            web = at.kernel("thickness", kernel.rib.from_above, run, self._top(at, sketch.frame), shape, up=up)
        else:
            web = at.kernel("thickness", kernel.rib.from_the_side, run, sketch.frame, shape, up=up)
        try:
            return web, at.kernel("line", kernel.attached_features.settled, entry.body.solid, web.made, web.marks)
        except StepError as fault:
            if not isinstance(fault.__cause__, TouchingError):
                raise
            at.fail(
                "thickness",
                f"At {at.in_unit(shape.thickness)} {at.scope.unit} a side of the rib would touch what it meets along a line.",
                "Make it a little thinner or wider.",
            )

    def _top(self, at: Builder, frame: Frame) -> Frame:
        if self.top == "in the sketch's plane":
            return frame
        entry, face = at.only_face("rim", "Pick the face it is to stay under.")
        rim = at.kernel("rim", kernel.measure.flat_frame, entry.body.solid, face)
        if abs(dot(rim.normal, frame.normal)) < 1 - 1e-9:
            at.fail("rim", "That face is not parallel to the sketch.", "Pick one that is.")
        height = dot(subtract(rim.origin, frame.origin), frame.normal)
        sense = 1.0 if dot(rim.normal, frame.normal) > 0 else -1.0
        return frame.shifted(height - sense * at.mm("below"))

    def _compared(self, at: Builder, entry: Entry, ribs: Sequence[tuple[Made, Vec]], shape: kernel.rib.Shape) -> None:
        """Hold the thickest root against the wall under it."""
        shares = []
        for piece, down in ribs:
            under = self.wall_under(entry, piece, down)
            if under is not None:
                spot, wall = under
                depth = float((-(kernel.measure.corners(piece.solid) - spot) @ down).max())
                shares.append((shape.thickness + 2 * math.tan(shape.draft) * max(depth, 0.0), wall))
        if shares:
            root, wall = max(shares, key=lambda pair: pair[0] / pair[1])
            self.held_to_wall(at, root, wall, "foot ")


def _halfway(curve: Curve2) -> Point2:
    x, y = curve.at(np.array([0.5]))[0]
    return (float(x), float(y))
