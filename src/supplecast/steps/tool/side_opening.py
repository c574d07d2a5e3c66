"""Side opening: a slide that frees an undercut, cut out of the cavity half and locked by the other half than it rides on."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, BodyPick, Faces, LengthFromZero
from supplecast.document.state import SLIDES
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame, Vec, times, vec
from supplecast.naming import Body
from supplecast.steps.tool.marks import UNDERCUT, Parted, forms_part, parted
from supplecast.steps.tool.pair import both
from supplecast.steps.tool.slide_ways import CLEAR
from supplecast.wording import direction_words, plural

if TYPE_CHECKING:
    from supplecast.molding.judge import Skin


class SideOpening(Step):
    """A slide for one undercut of the part. On the core half it goes with that and the part, and leaves sideways then; in the
    cavity half it must leave before the halves open, or the part stays with it.

    Its direction is the one along which all of the undercut can leave, or an `angle` in the parting plane, from its first
    axis. Its sides lean outwards, and a wedge of the other half, `lock` mm thick at its root, holds it shut; 0 leaves it out.
    Example: {"id": "so7", "type": "side opening", "margin": "3", "lean": "3 deg"}
    """

    type: Literal["side opening"] = "side opening"
    word = "Side opening"
    purpose = "a slide that frees an undercut"
    search = "slide undercut side action core pull"
    follows = "halves"
    picture = ("M4 4h24v17H4z", "M16 9h12v7H16zM20 12.5h10m-3-3l3 3-3 3")
    suits = ("faces",)
    document_kinds = ("tool",)

    faces: Faces = ()
    rides: Literal["in the cavity half", "on the core half"] = "in the cavity half"
    way: Literal["as it comes free", "at an angle"] = "as it comes free"
    angle: Angle = "0"
    margin: LengthFromZero = "3 mm"
    lean: Angle = "3"
    lock: LengthFromZero = "8 mm"
    wedge: Angle = "20"
    stroke: AnyLength = ""
    part: BodyPick = None

    def sentence(self) -> str:
        angle = " of {angle}" if self.way == "at an angle" else ""
        lock = ", locked by a wedge {lock} thick at {wedge}" if self.lock not in ("0", "0 mm") else ", lock {lock}"
        which = "the undercut at {faces}" if self.faces else "the next undercut"
        return f"Side opening for {which}, {{rides}}, leaving {{way}}{angle}, {{margin}} round it, sides leaning {{lean}}{lock}"

    def more(self) -> str:
        return "stroke {stroke}" + ("" if self.faces else "; for the undercut at {faces}")

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        """On the core half, with which the part and its ejectors go."""
        return {"rides": "on the core half"}

    def build(self, at: Builder) -> None:
        part = parted(at, self.part, "part")
        pair = both(at)
        faces = self._undercut(at, part)
        skin = molding.judge.skin_of(part.solid)
        way = self._way(at, part, skin, faces)
        region = kernel.slide.skin(part.solid, faces)
        lean = at.radians("lean", 0.0, 30.0)
        cut = at.kernel("margin", kernel.slide.slide, pair.cavity.body.solid, region, way, part.pull, at.mm("margin"), lean)
        slide, cavity, core = cut.slide, at.named(cut.half, pair.cavity.body), pair.core.body
        thick = at.mm("lock")
        if thick > 0:
            wedge = at.radians("wedge", 5.0, 45.0)
            on_core = self.rides == "on the core half"
            other, up = (cavity, times(part.pull, -1.0)) if on_core else (core, part.pull)
            lock = at.kernel("lock", kernel.slide.locked, cut.slide, other.solid, way, up, thick, wedge)
            wedged = at.named(lock.other, pair.cavity.body, other)
            slide, cavity, core = (lock.slide, wedged, core) if on_core else (lock.slide, cavity, wedged)
        moved = at.named(slide, pair.cavity.body)
        stroke = self._stroke(at, cut.depth)
        self._prove(at, moved, way)
        at.new(moved, "core slide" if self.rides == "on the core half" else "slide", self.name or "Slide", pull=way)
        at.replace(pair.cavity, cavity)
        if core is not pair.core.body:
            at.replace(pair.core, core)
        at.figure("stroke", stroke)
        self._tell_draft(at, part, faces, way)
        at.note(f"Leaves along {direction_words(way)}; the undercut is {at.in_unit(round(cut.depth, 2))} deep, the stroke "
                f"{at.in_unit(round(stroke, 2))} {at.scope.unit}.")  # fmt: skip

    def _undercut(self, at: Builder, part: Parted) -> list[int]:
        """The faces of the undercut that is meant."""
        entry = part.entry
        marks = list(dict.fromkeys(mark for face, mark in part.undercut.items() if part.of[face] == "cavity"))
        if not marks:
            words = f"{entry.name} has no undercut" + (" that is open to the outside" if part.undercut else "")
            at.fail("faces", f"{words}.", "Use lifters, after the mold base." if part.undercut else "This step is not needed.")
        taken = {tag for e in at.bodies() if e.role in SLIDES for tags in e.body.tags for tag in tags if f".{UNDERCUT}[" in tag}
        if self.faces:
            picked = {part.undercut.get(face) for face in at.faces("faces", entry)}
            if len(picked) != 1 or None in picked:
                at.fail("faces", "The picked faces are not of one undercut.", "Pick one face of the undercut to free.")
            mark = next(iter(picked)) or ""
        else:
            left = [mark for mark in marks if mark not in taken]
            if not left:
                at.fail("faces", "Every undercut has its slide already.", "Take this step out.")
            mark = left[0]
        return [face for face, of in part.undercut.items() if of == mark]

    def _way(self, at: Builder, part: Parted, skin: Skin, faces: list[int]) -> Vec:
        pull = part.pull
        if self.way == "at an angle":
            level = Frame.lying((0.0, 0.0, 0.0), pull)
            turn = at.radians("angle", -360.0, 360.0)
            way = vec([math.cos(turn) * x + math.sin(turn) * y for x, y in zip(level.x, level.y, strict=True)])
            best, share = molding.undercut.freed(skin.places, faces, pull, [way])
        else:
            best, share = molding.undercut.freed(skin.places, faces, pull)
        if share < molding.undercut.WHOLE:
            at.fail(
                "way" if self.way != "at an angle" else "angle",
                f"Only {share:.0%} of the undercut comes free along {direction_words(best)}: the rest would be torn.",
                "Change the part there.",
                lit=(part.entry, faces),
            )
        return best

    def _tell_draft(self, at: Builder, part: Parted, faces: list[int], way: Vec) -> None:
        """Faces that the slide forms and that stand along its way: it scrapes over them as it leaves."""
        drafts = kernel.facing.drafts(part.solid, way, faces)
        upright = int((abs(drafts) <= kernel.parting.UPRIGHT).all(axis=1).sum())
        if upright:
            stand = "stands" if upright == 1 else "stand"
            words = f"{plural(upright, 'face')} of the undercut {stand} along the slide's way without draft"
            at.caution("way", f"{words}: the slide scrapes there as it leaves. Draft them on the part.")

    def _stroke(self, at: Builder, depth: float) -> float:
        if not self.stroke:
            return depth + CLEAR
        stroke = at.mm("stroke")
        if stroke <= depth:
            at.fail(
                "stroke", f"A stroke of {at.in_unit(stroke)} does not free the undercut.", f"It is {at.in_unit(depth)} deep."
            )
        return stroke

    def _prove(self, at: Builder, slide: Body, way: Vec) -> None:
        formed = [face for face, tags in enumerate(slide.tags) if forms_part(tags)]
        wrong = molding.opening.facing_wrong(slide.solid, formed, way)
        if wrong:
            at.fail(
                "way", f"{len(wrong)} faces of the slide look against its way out.", "Turn the direction, or use less margin."
            )
