"""Lip and groove: what lets two halves of a housing find each other along their rims."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AxisField, AxisPick, Edges, Faces, Length, LengthFromZero, Percent
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Vec, dot, times
from supplecast.naming import Body

_OVERLAP = 1e-3  # mm³: below that two halves are called free of each other
_ALIKE = 2e-3  # mm


class Lip(Step):
    """A lip raised along the rim of a hollow body, a groove cut into one, or both on the two halves at once, which then are
    held against each other: nothing may overlap, and the gap must be the one asked for.

    The width is a share of the wall at the rim. The groove is wider and deeper than its lip by the gap. Along `some edges` of
    the rim only, they end square. They go square to the rim, or along an axis; draft narrows the lip, and the groove alike.
    Example: {"id": "lp1", "type": "lip", "make": "a lip", "rim": [{"face": "p81.end"}], "height": "1.5 mm"}
    """

    type: Literal["lip"] = "lip"
    word = "Lip and groove"
    purpose = "let two halves find each other"
    search = "groove tongue step edge seal joint"
    follows = "boss"
    picture = ("M4 22V9h10v13M18 22V9h10v13", "M9 9V4h5v5M18 9h5V4")
    suits = ("faces",)

    make: Literal["a lip", "a groove", "both halves"] = "a lip"
    rim: Faces = ()
    mate: Faces = ()
    where: Literal["on the inside", "on the outside", "in the middle"] = "on the inside"
    share: Percent = "50 %"
    height: Length = "1.5 mm"
    draft: Angle = "2"
    gap: LengthFromZero = "0.1 mm"
    along: Literal["all the rim", "some edges"] = "all the rim"
    edges: Edges = ()
    toward: Literal["square to the rim", "along an axis"] = "square to the rim"
    axis: AxisField = AxisPick(axis="z")

    def sentence(self) -> str:
        rims = {
            "a lip": "{make} on {rim}",
            "a groove": "{make} in {rim}, {gap} free round its lip",
            "both halves": "{make}: a lip on {rim}, a groove in {mate}, {gap} apart",
        }[self.make]
        along = "{along}" + (" {edges}" if self.along == "some edges" else "")
        return f"Lip and groove, {rims}, {{where}}, {{share}} of the wall wide, {{height}} high, along {along}"

    def more(self) -> str:
        return "draft {draft}; goes {toward}" + ("" if self.toward == "square to the rim" else " {axis}")

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick]
        if len(faces) == 2:
            return {"make": "both halves", "rim": faces[:1], "mate": faces[1:]}
        return {"rim": faces}

    def build(self, at: Builder) -> None:
        if self.make == "both halves":
            entry, lipped = self._shaped(at, "rim", groove=False)
            other, grooved = self._shaped(at, "mate", groove=True)
            if other.id == entry.id:
                at.fail("mate", "Both rims are on the same body.", "Pick the rim of the other half.")
            at.replace(entry, lipped)
            at.replace(other, grooved)
            self._compared(at, lipped, grooved)
        else:
            entry, body = self._shaped(at, "rim", groove=self.make == "a groove")
            at.replace(entry, body)

    def _shaped(self, at: Builder, field: str, *, groove: bool) -> tuple[Entry, Body]:
        """A half with its lip or groove."""
        picked, face = at.only_face(field, "Pick the flat rim of the hollow body.")
        entry = at.target(picked.id, field)
        solid = entry.body.solid
        rim = at.kernel(field, kernel.lip.rim, solid, face)
        section = self._section(at, rim, groove)
        ring = at.kernel("share", kernel.lip.ring, rim, section)
        rings = [ring]
        if self.along == "some edges":
            if not self.edges:
                at.fail("edges", "No edge of the rim is picked.", "Pick those along which it is to run.")
            chosen = at.edges("edges", entry) if field == "rim" else self._facing(at, rim)
            rings = at.kernel("edges", kernel.lip.along_edges, rim, section, ring, chosen)
        tools = [at.named(ring, entry.body) for ring in rings]
        solids = [tool.solid for tool in tools]
        if groove:
            (made,) = at.kernel("height", kernel.boolean.cut, solid, solids)
        else:
            made = at.kernel("height", kernel.boolean.fuse, solid, solids)
        return entry, at.named(made, entry.body, *tools)

    def _section(self, at: Builder, rim: kernel.lip.Rim, groove: bool) -> kernel.lip.Section:
        share, free = at.ratio("share"), at.mm("gap") if self.make != "a lip" else 0.0
        if not 0.1 <= share <= 0.9:
            at.fail("share", f"{share:.0%} of the wall leaves too little of lip or rim.", "Type from 10 % to 90 %.")
        width, height, draft = share * rim.wall, at.mm("height"), at.radians("draft", 0.0, 45.0)
        up = self._direction(at, rim)
        if not groove:
            if self.where == "in the middle":
                near = (rim.wall - width) / 2
                return kernel.lip.Section("outer", near, near + width, height, draft, up)
            loop: Literal["inner", "outer"] = "inner" if self.where == "on the inside" else "outer"
            return kernel.lip.Section(loop, 0.0, width, height, draft, up)
        # Leant alike, flanks are nearer to each other than they are along the rim.
        wider = free / math.cos(draft)
        into, deep = times(up, -1.0), height + free
        if self.where == "in the middle":
            near = (rim.wall - width) / 2 - wider
            return kernel.lip.Section("outer", near, rim.wall - near, deep, draft, into, free)
        loop = "inner" if self.where == "on the inside" else "outer"
        if width + wider >= rim.wall:
            at.fail("gap", "With its gap the groove is as wide as the wall.", "Make the gap or the share smaller.")
        clear = 0.1 * rim.wall + deep * math.tan(draft)  # it is open to that side, however the wall and its flank lean
        return kernel.lip.Section(loop, -clear, width + wider, deep, draft, into, free)

    def _direction(self, at: Builder, rim: kernel.lip.Rim) -> Vec:
        """Out of the rim."""
        if self.toward == "square to the rim":
            return rim.frame.normal
        direction = at.axis("axis").direction
        lean = dot(direction, rim.frame.normal)
        if abs(lean) < 0.2:
            at.fail("axis", "The axis runs along the rim.", "Pick one that goes out of it.")
        return direction if lean > 0 else times(direction, -1.0)

    def _facing(self, at: Builder, rim: kernel.lip.Rim) -> list[int]:
        """The edges of the mate's rim that lie where the picked ones of the other rim do."""
        entry, _ = at.only_face("rim", "Pick the rim of the half with the lip.")
        spots = [kernel.edges.middle(entry.body.solid, index) for index in at.edges("edges", entry)]
        facing = [
            index for index in rim.solid.face_edges[rim.face] if any(kernel.edges.passes(rim.solid, index, p) for p in spots)
        ]
        if not facing:
            at.fail(
                "mate", "No edge of this rim lies where those picked on the other do.", "Seat the halves on each other first."
            )
        return facing

    def _compared(self, at: Builder, lipped: Body, grooved: Body) -> None:
        """Say how the halves fit where they stand."""
        roles = tuple(f"{self.id}.{role}" for role in ("near", "far", "top", "end"))
        faces = [[f for f, tags in enumerate(body.tags) if tags[0].startswith(roles)] for body in (lipped, grooved)]
        apart = kernel.lip.apart(lipped.solid, faces[0], grooved.solid, faces[1])
        shared = sum(kernel.measure.volume(piece.solid) for piece in kernel.boolean.common(lipped.solid, [grooved.solid]))
        wanted = at.mm("gap")
        if shared > _OVERLAP:
            at.caution("gap", f"The halves overlap by {shared:.3g} mm³ where they stand.")
        elif abs(apart - wanted) > _ALIKE:
            words = f"Lip and groove are {at.in_unit(round(apart, 3))} apart where the halves stand, not {at.in_unit(wanted)}."
            at.caution("gap", f"{words} Seat one half on the other to compare them.")
        else:
            at.note(f"Fits: {at.in_unit(round(apart, 3))} between lip and groove, and nothing overlaps.")
