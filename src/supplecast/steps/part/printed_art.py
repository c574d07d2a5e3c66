"""Printed art: a picture on faces, laid on as a label, cast straight down, or once round."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from supplecast import art as drawn
from supplecast import kernel
from supplecast.art.laying import MOST, Laying
from supplecast.art.sheet import Cast, Laid, Sheet, Turned
from supplecast.document import coat
from supplecast.document.builder import Builder
from supplecast.document.fields import (
    Angle,
    AnyLength,
    Colour,
    Count,
    Faces,
    Length,
    LengthFromZero,
    PictureField,
    PictureFile,
    PlaneField,
    PlanePick,
    PutField,
)
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.errors import SuppleError
from supplecast.geometry import Floats, Frame, Ints, Vec, along, times, vec
from supplecast.wording import show

if TYPE_CHECKING:
    from supplecast.art.picture import Facts

_FINE, _ANGLE = 1 / 1500, 0.2
"""How finely faces are looked at: share of the body's size, and rad between facets."""
_STRAINED = 0.03
"""Stretch of a picture that the eye sees (common practice, no source)."""
_SHARP = 6.0
"""Dots per mm under which print looks coarse at arm's length: 150 to an inch (common practice, no source)."""
_OFF = 0.995
_AGAIN = "Choose the picture again."
_LEAST = 1e-3  # mm
_CHORDS = 24  # of each side of the outline


class PrintedArt(Step):
    """A picture printed on a body: PNG, JPEG or SVG. On picked faces it lies as a label would, true to length on what is flat,
    round or conical and with least stretch elsewhere, running over from one picked face to the next; or it is cast on them
    straight from a plane; or it goes once round them.

    `x` and `y` lead from the middle of the first face, or from where it was put with a click, to the picture's own middle, as
    seen from outside. It is as wide as it says and as high as it must be, unless it is stretched. Copies stand in columns to
    the right and rows upwards. What is outside the picked faces is cut off. Until a picture is chosen there is a check card,
    whose squares measure a tenth of its width. Later ones lie over earlier ones. The shape does not change.
    Example: {"id": "ar1", "type": "printed art", "on": [{"face": "p81.end"}], "width": "30 mm"}
    """

    type: Literal["printed art"] = "printed art"
    word = "Printed art"
    purpose = "a picture on a face, as a label or once round"
    search = "print logo label decal image photo graphic sticker wrap svg png picture"
    follows = "finish"
    picture = ("M4 5h24v14H4z", "M9 16l4-6 4 4 3-3 4 5zM21 8a1 1 0 1 0 2 0 1 1 0 0 0-2 0")
    suits = ("faces",)
    document_kinds = ("part", "assembly")

    art: PictureField = None
    on: Faces = ()
    lies: Literal["as a label", "cast from", "once round"] = "as a label"
    plane: PlaneField = PlanePick(plane="top")
    spot: PutField = None
    x: AnyLength = "0"
    y: AnyLength = "0"
    width: Length = "20 mm"
    ratio: Literal["in proportion", "stretched to"] = "in proportion"
    height: Length = "20 mm"
    turn: Angle = "0"
    read: Literal["as read", "mirrored"] = "as read"
    columns: Count = 1
    rows: Count = 1
    across: LengthFromZero = "0"
    along: LengthFromZero = "0"
    inks: Literal["in its own colours", "in one colour"] = "in its own colours"
    colour: Colour = "#1F3A36"
    seen: Literal["as printed", "with its stretch"] = "as printed"

    def sentence(self) -> str:
        lies = "{lies} {plane} on {on}" if self.lies == "cast from" else "{lies} {on}" if self.round else "{lies} on {on}"
        return f"Printed art {{art}} {lies}{'' if self.round else ', {width} wide'}, at {{x}}, {{y}}"

    def more(self) -> str:
        high = "stretched to" if self.ratio == "stretched to" else "in proportion"
        sizes = "{ratio} {height} high" if high == "stretched to" else "{ratio}"
        gaps = ", {across} apart" if self.columns > 1 and not self.round else ""
        gaps += ", {along} apart upwards" if self.rows > 1 else ""
        inks = "{inks} {colour} {colour.near}" if self.inks == "in one colour" else "{inks}"
        return f"{sizes}; turned {{turn}}, {{read}}; {{columns}} across, {{rows}} up{gaps}; {inks}; shown {{seen}}; {{spot}}"

    @property
    def round(self) -> bool:
        return self.lies == "once round"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        return {"on": faces, **({"spot": before.spot} if before.spot and len(faces) == 1 else {})}

    def along_with(self, path: str, value: Any, before: Before) -> dict[str, Any]:
        return {"x": "0", "y": "0"} if path == "spot" else {}

    def build(self, at: Builder) -> None:
        at.need_picks("on", "Click the face to print on in the view.")
        entry = at.holder("on", None)
        faces = at.faces("on", entry)
        art, facts = self._facts(at)
        fine = kernel.measure.loose_box(entry.body.solid).diagonal * _FINE
        points, normals, triangles = at.kernel("on", kernel.mesh.skin, entry.body.solid, faces, fine, _ANGLE)
        laying = self._laying(at, entry, faces, facts.ratio, points, triangles)
        cut = drawn.decal.decal(points, normals, triangles, laying)
        if not len(cut.points):
            aside = "It lies beside the picked faces" if self.lies != "cast from" else "No picked face looks at the plane there"
            at.fail("x", f"{aside}: nothing of it would be seen.", "Type 0 to bring it back to the middle, or pick more faces.")
        self._say(at, facts, laying, art is None, cut.covered, cut.strain)
        self._hold(at, laying)
        colour = self.colour if self.inks == "in one colour" else ""
        name, asset = (art.file, art.asset) if art else ("check card", "")
        strained = self.seen == "with its stretch"
        at.wear(entry, faces, coat.Print(self.id, self.label, name, asset, laying, colour, strained))

    def _facts(self, at: Builder) -> tuple[PictureFile | None, Facts]:
        """The picture that is printed, and what it says of itself: the check card while none is chosen, and in the place of one
        that cannot be had, since what is printed on a part must not keep it from being built.
        """
        card = drawn.picture.check_card()
        plain = drawn.picture.Facts("png", card.shape[1], card.shape[0])
        if self.art is None:
            at.note("The check card: each square is a tenth of its width. Choose a picture to print.")
            return None, plain
        try:
            return self.art, drawn.picture.read(at.asset("art", self.art.asset, self.art.file))
        except SuppleError as fault:
            at.caution("art", f"{fault.message} The check card stands in for it. {_AGAIN}")
            return None, plain

    def _laying(self, at: Builder, entry: Entry, faces: list[int], ratio: float, points: Floats, triangles: Ints) -> Laying:
        sheet = self._sheet(at, entry, faces, points, triangles)
        x, y = at.mm("x"), at.mm("y")
        columns, rows = self.columns, self.rows
        if columns * rows > MOST:
            at.fail("columns", f"{columns} × {rows} copies are more than {MOST}.", "Print a picture that holds several.")
        across, above = at.mm("across") if not self.round else 0.0, at.mm("along")
        width = 2 * math.pi * sheet.radius / columns if isinstance(sheet, Turned) else at.mm("width")
        height = at.mm("height") if self.ratio == "stretched to" else width * ratio
        if isinstance(sheet, Laid):  # unrolled round the very place where it lies
            sheet, x, y = self._shifted(sheet, x, y, points, triangles), 0.0, 0.0
        turn = at.radians("turn", -360.0, 360.0)
        if isinstance(sheet, Turned) and turn:
            words = "What goes once round cannot be turned: it would not meet itself."
            at.fail("turn", words, "Type 0, or lay it on as a label.")
        mirrored = self.read == "mirrored"
        return Laying(sheet, x, y, turn, width, height, mirrored, columns, rows, width + across, height + above)

    def _sheet(self, at: Builder, entry: Entry, faces: list[int], points: Floats, triangles: Ints) -> Sheet:
        solid, first = entry.body.solid, faces[0]
        if self.lies == "cast from":
            plane = Frame.seen(at.frame("plane").origin, at.frame("plane").normal)
            spot = self.spot or kernel.measure.face_middle(solid, first)
            return Cast(Frame(along(spot, plane.normal, -plane.over(spot)), plane.x, plane.normal))
        if self.round:
            axis = at.kernel("on", kernel.papers.axis_of, solid, first)
            frame, sense = at.kernel("on", kernel.papers.round_about, axis, solid, first, self.spot)
            near = np.array(self.spot or kernel.measure.face_middle(solid, first))
            place, _ = drawn.decal.nearest(points, triangles, near)
            rungs = drawn.ladder.ladder(points, triangles, frame, place)
            radius = float(np.interp(0.0, [rung[2] for rung in rungs], [rung[1] for rung in rungs]))
            if radius < _LEAST:
                at.fail("on", "The face has no width round its axis there.", "Pick a face farther from the axis.")
            return Turned(frame, radius, sense, rungs)
        alike = {kernel.measure.surface_key(solid, face) for face in faces} if len(faces) > 1 else {()}
        known = kernel.papers.sheet_of(solid, first, self.spot) if len(alike) == 1 and None not in alike else None
        return known or Laid(at.kernel("on", kernel.papers.touching, solid, first, self.spot))

    def _shifted(self, sheet: Laid, x: float, y: float, points: Floats, triangles: Ints) -> Laid:
        """The same touching the skin where `x` and `y` lead to."""
        frame = sheet.frame
        foot, normal = drawn.decal.nearest(points, triangles, np.array(frame.point((x, y))))
        seen = Frame.seen(vec(foot), vec(normal))
        return Laid(Frame(vec(foot), seen.x, seen.normal))

    def _say(self, at: Builder, facts: Facts, laying: Laying, bare: bool, covered: float, strain: float) -> None:
        unit = at.scope.unit
        size = f"{at.in_unit(round(laying.width, 4))} × {at.in_unit(round(laying.height, 4))} {unit}"
        if bare:
            at.note(f"{size}.")
        elif facts.kind == "svg":
            at.note(f"{size}, sharp at any size.")
        else:
            dots = min(facts.width / laying.width, facts.height / laying.height)
            at.note(f"{size}, {show(dots, 1)} dots per mm ({round(dots * 25.4)} per inch).")
            if dots < _SHARP:
                at.caution("width", f"At {show(dots, 1)} dots per mm it looks coarse.")
        if covered < _OFF:
            faces = "face" if len(self.on) == 1 else "faces"
            at.note(f"{show(100 * covered, 0)} % of it lies on the picked {faces}; the rest is cut off.")
        if strain > _STRAINED:
            where = "The faces bend both ways" if isinstance(laying.sheet, Laid) else "The faces lean away"
            much = f"it is stretched by up to {show(100 * strain, 0)} %"
            at.caution("on", f"{where}: {much}. Show it with its stretch to see where.")

    def _hold(self, at: Builder, laying: Laying) -> None:
        """Handles and outline in the view."""
        half_wide, half_high = laying.width / 2, laying.height / 2
        c, s = math.cos(laying.turn), math.sin(laying.turn)

        def placed(*offsets: tuple[float, float]) -> Floats:
            aside = np.array(offsets)
            x = laying.x + c * aside[:, 0] - s * aside[:, 1]
            y = laying.y + s * aside[:, 0] + c * aside[:, 1]
            return laying.sheet.in_space(np.column_stack([x, y]))

        def way(a: Floats, b: Floats) -> Vec:
            return vec((b - a) / max(float(np.linalg.norm(b - a)), 1e-12))

        tiny = 1e-3 * laying.width
        middle, right, up = placed((0.0, 0.0), (tiny, 0.0), (0.0, tiny))
        here = np.array([laying.x, laying.y])
        paper = laying.sheet.in_space(here + tiny * np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
        x_way, y_way = way(paper[0], paper[1]), way(paper[0], paper[2])
        aside = half_wide / 6 if self.round else half_wide  # of what goes round, the ends are behind it
        left, bottom = placed((-aside, 0.0), (0.0, -half_high))
        at.handle("x", along(vec(left), x_way, -at.mm("x")), x_way)
        at.handle("y", along(vec(bottom), y_way, -at.mm("y")), y_way)
        if not self.round:
            at.handle("width", vec(middle), way(middle, right), rate=0.5)
            if self.ratio == "stretched to":
                at.handle("height", vec(middle), way(middle, up), rate=0.5)
            normal = vec(np.cross(x_way, y_way))
            arm = times(x_way, half_wide), times(y_way, 1.25 * half_high)
            at.turning("turn", vec(middle), normal, along(arm[0], arm[1], 1.0))
        if self.round:
            return
        ring = [(-half_wide, -half_high), (half_wide, -half_high), (half_wide, half_high), (-half_wide, half_high)]
        rim = [
            (a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1]))
            for a, b in zip(ring, ring[1:] + ring[:1], strict=True)
            for share in np.linspace(0.0, 1.0, _CHORDS, endpoint=False)
        ]
        outline = placed(*rim, rim[0])
        at.lines([[vec(place) for place in outline]])
