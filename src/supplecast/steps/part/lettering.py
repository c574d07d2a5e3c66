"""Lettering: words, and the resin's mark, raised on a face or sunk into it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import StringConstraints

from supplecast import art as drawn
from supplecast import kernel
from supplecast.document import coat
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, Faces, FieldSpec, Length, PictureField
from supplecast.document.step import Before, Step
from supplecast.errors import SuppleError
from supplecast.geometry import Frame, times, turned
from supplecast.naming.tag import maker
from supplecast.sketch.letters import Letter, words
from supplecast.sketch.triangle import resin_mark
from supplecast.text import Cleaned
from supplecast.tooling import marks

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made
    from supplecast.kernel.shapes.shape import Solid

Written = Annotated[str, Cleaned, StringConstraints(max_length=60), FieldSpec("words")]


class Lettering(Step):
    """Words on a flat, round or conical face, raised or sunk, in one of the shipped fonts; or the mark of the document's resin:
    its symbol, in angle brackets, under the recycling triangle with its number; or the filled shapes of a drawing, an SVG.

    `x` and `y` say where on the face they stand, seen from outside, measured from the document's origin; on a round face, from
    the face's middle, round it and along it. `mirrored` is for what is cut into a tool. Draft leans the sides of the letters.
    Example: {"id": "le1", "type": "lettering", "text": "DUSK 2", "on": [{"face": "p81.end"}], "height": "5 mm"}
    """

    type: Literal["lettering"] = "lettering"
    word = "Lettering"
    purpose = "words and the resin's mark on a face"
    search = "text emboss engrave logo word"
    follows = "move"
    picture = ("M3 5h26v15H3z", "M8 17l4-9 4 9M9 14h6M20 8v9h4a2.500 2.500 0 0 0 0-5 2 2 0 0 0 0-4z")
    suits = ("faces",)

    what: Literal["text", "the resin's mark", "a drawing"] = "text"
    text: Written = "TEXT"
    art: PictureField = None
    font: Literal["regular", "bold", "narrow"] = "regular"
    height: Length = "4 mm"
    on: Faces = ()
    x: AnyLength = "0"
    y: AnyLength = "0"
    turn: Angle = "0"
    align: Literal["left", "centre", "right"] = "centre"
    way: Literal["raised", "sunk"] = "raised"
    depth: Length = "0.3 mm"
    draft: Angle = "5"
    read: Literal["as read", "mirrored"] = "as read"

    def sentence(self) -> str:
        what = {"text": "{what} “{text}”", "a drawing": "{what} {art}"}.get(self.what, "{what}")
        return f"Lettering {what} {{height}} high on {{on}} at {{x}}, {{y}}, {{way}} by {{depth}}"

    def more(self) -> str:
        letters = "{font} letters, " if self.what != "a drawing" else ""
        return f"{letters}{{align}} of the place, turned {{turn}}; draft {{draft}}; {{read}}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"on": [pick for pick in picked if "face" in pick]}

    def build(self, at: Builder) -> None:
        picked, face = at.only_face("on", "Pick the face to write on.")
        entry = at.target(picked.id, "on")
        solid = entry.body.solid
        prisms = [kernel.emboss.named_by_letter(made, letter.number) for letter, made in self._raised(at, solid, face)]
        made = at.kernel("height", kernel.emboss.embossed, solid, face, prisms, raised=self.way == "raised")
        at.replace(entry, at.named(made, entry.body))
        written = at.written(entry)
        faces = [face for face, tags in enumerate(written.body.tags) if maker(tags[0]) == self.id]
        at.wear(written, faces, coat.Lettered(self.id, self.label, self._words(at), self.way, at.mm("depth")))

    def _words(self, at: Builder) -> str:
        if self.what == "text":
            return f"“{self.text}”"
        if self.what == "a drawing":
            return f"the drawing “{self.art.file}”" if self.art else "an arrow"
        return f"the mark {marks.mark(at.resin)}"

    def _raised(self, at: Builder, solid: Solid, face: int) -> Iterator[tuple[Letter, Made]]:
        flat = kernel.measure.is_flat(solid, face)
        sheet = at.kernel("on", kernel.measure.flat_frame, solid, face) if flat else Frame()
        along = turned(sheet.x, sheet.normal, at.radians("turn", -360.0, 360.0))
        if flat:
            room = at.mm("height")
            at.handle("x", sheet.point((room, at.mm("y"))), sheet.x)
            at.handle("y", sheet.point((at.mm("x"), room)), sheet.y)
            at.turning("turn", sheet.point((at.mm("x"), at.mm("y"))), sheet.normal, times(sheet.x, 3 * room))
        place = Frame(sheet.point((at.mm("x"), at.mm("y"))), along, sheet.normal)
        label = None if flat else at.kernel("on", kernel.wrap.Label.of, solid, face)
        depth, draft, up = at.mm("depth"), at.radians("draft", 0.0, 45.0), self.way == "raised"
        for letter in self._letters(at):
            if label is None:
                yield letter, at.kernel("draft", kernel.solid.extrude, letter.region, place, depth, up=up, draft=draft)
            else:
                yield letter, at.kernel("height", kernel.wrap.wrapped, letter.region, place, label, depth, up=up, draft=draft)

    def _letters(self, at: Builder) -> list[Letter]:
        height, mirrored = at.mm("height"), self.read == "mirrored"
        if self.what == "a drawing":
            return self._drawing(at, height, mirrored=mirrored)
        if self.what == "text":
            return at.kernel("text", words, self.text, self.font, height, self.align, mirrored=mirrored)
        mark = marks.mark(at.resin)
        if mark is None:
            at.fail("what", f"There is no mark for “{at.resin or 'no resin'}”.", "Choose the document's resin, or type a text.")
        return at.kernel("text", resin_mark, mark, marks.number(at.resin), self.font, height, mirrored=mirrored)

    def _drawing(self, at: Builder, height: float, *, mirrored: bool) -> list[Letter]:
        from supplecast.sketch.emblem import emblem  # what joins its shapes would slow every start of the web

        content = None
        if self.art is None:
            at.note("An arrow, until a drawing is chosen.")
        else:
            content = at.asset("art", self.art.asset, self.art.file)
            try:
                kind = drawn.picture.read(content).kind
            except SuppleError as fault:
                at.fail("art", fault.message, fault.hint)
            if kind != "svg":
                at.fail("art", f"“{self.art.file}” is a photo: it has no outlines.", "Choose an SVG, or use printed art.")
        return at.kernel("art", emblem, content, height, self.align, mirrored=mirrored)
