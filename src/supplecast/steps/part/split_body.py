"""Split body: one body cut apart."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Faces, LineField, PlaneField, PlanePick
from supplecast.document.shaping import ends_loose, open_chain
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made

_Side = Callable[["Made"], float]


class SplitBody(Step):
    """Cut a body apart along a plane, a face carried on beyond its edges, a surface, or the open line of a sketch.

    The pieces are sorted by the side they lie on: `front` is where the plane, face or surface looks to, of a sketch line its
    left. All are kept, or those of one side; the largest piece in front keeps the body's name.
    Example: {"id": "sb1", "type": "split body", "along": "a plane", "plane": {"plane": "side"}}
    """

    type: Literal["split body"] = "split body"
    word = "Split body"
    purpose = "cut a body apart"
    search = "cut apart divide halves slice separate"
    follows = "contour"
    picture = ("M4 6h10v14H4zM18 6h10v14H18z", "M16 2v20")
    suits = ("faces",)
    cuts_up = "body"

    body: BodyPick = None
    along: Literal["a plane", "a face", "a surface", "a sketch line"] = "a plane"
    plane: PlaneField = PlanePick(plane="side")
    face: Faces = ()
    surface: BodyPick = None
    line: LineField | None = None
    keep: Literal["all pieces", "the front", "the back"] = "all pieces"

    def sentence(self) -> str:
        by = {"a plane": "{plane}", "a face": "{face}", "a surface": "{surface}", "a sketch line": "{line}"}[self.along]
        return f"Split body {{body}} along {{along}} {by}, keep {{keep}}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        body = {"body": before.bodies[-1]} if len(before.bodies) > 1 else {}
        face = next((pick for pick in picked if "face" in pick), None)
        if face:
            return {"along": "a face", "face": [face], **body, **({"body": face["body"]} if face.get("body") else {})}
        if before.last is not None and before.last.type == "plane":
            return {"plane": {"datum": before.last.id}, **body}
        if before.last is not None and before.last.type == "sketch" and ends_loose(before.last):
            return {"along": "a sketch line", "line": {"sketch": before.last.id}, **body}
        return body

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        made, height = self._cut(at, entry)
        front = [m for m in made if height(m) > 0]
        back = [m for m in made if height(m) <= 0]
        for half in (front, back):
            half.sort(key=lambda m: -kernel.measure.rough_volume(m.solid))
        sides = {"all pieces": ("front", "back"), "the front": ("front",), "the back": ("back",)}[self.keep]
        kept = [(side, n, m) for side in sides for n, m in enumerate({"front": front, "back": back}[side], 1)]
        if not kept:
            at.fail("keep", "Nothing lies on that side.", "Keep the other side, or all pieces.")
        (_, _, first), *others = kept
        at.replace(entry, at.named(first, entry.body))
        for side, number, piece in others:
            label = side if number == 1 else f"{side}{number}"
            at.new(at.named(piece, entry.body), entry.role, f"{entry.name} ({label})", label)
        if len(kept) > 1:
            at.note(f"{len(kept)} pieces")

    def _cut(self, at: Builder, entry: Entry) -> tuple[list[Made], _Side]:
        solid = entry.body.solid
        if self.along == "a plane":
            plane = at.frame("plane")
            return at.kernel("plane", kernel.split.by_plane, solid, plane), _over(plane)
        if self.along == "a face":
            other, face = at.only_face("face", "Pick the face to cut along.")
            inside = kernel.measure.point_inside(other.body.solid, face) or kernel.measure.face_middle(other.body.solid, face)
            spot, normal = kernel.datums.normal_at(other.body.solid, face, inside)
            return at.kernel("face", kernel.split.by_face, solid, other.body.solid, face), _over(Frame.lying(spot, normal))
        if self.along == "a surface":
            sheet = at.surface("surface")
            return at.kernel("surface", kernel.split.by_sheet, solid, sheet.body.solid), _beside(sheet.body.solid)
        if self.line is None:
            at.fail("line", "No sketch is picked.", "Draw an open line across the body.")
        sketch = at.sketch(self.line.sketch, "line")
        chain = open_chain(at, "line", sketch)
        box = kernel.measure.loose_box(solid)
        reach = 2 * box.diagonal + abs(sketch.frame.over(box.centre))
        drawn = at.kernel("line", kernel.surface.raised, chain, sketch.frame.shifted(-reach), 2 * reach)
        sense = 1.0 if drawn.left else -1.0
        near = _beside(drawn.made.solid)
        return at.kernel("line", kernel.split.by_sheet, solid, drawn.made.solid), lambda m: sense * near(m)


def _over(plane: Frame) -> _Side:
    return lambda made: kernel.split.height(made.solid, plane)


def _beside(sheet: kernel.shape.Solid) -> _Side:
    return lambda made: kernel.surface.side_of(sheet, kernel.measure.rough_centroid(made.solid))
