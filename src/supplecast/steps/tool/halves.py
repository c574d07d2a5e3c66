"""Halves: cavity and core, sewn from the part's faces, the parting surface, the shut-offs and the block's walls."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick
from supplecast.document.state import Entry
from supplecast.document.step import Step
from supplecast.geometry import times
from supplecast.naming import Body
from supplecast.naming.tag import in_role, maker
from supplecast.steps.tool.marks import Parted, parted
from supplecast.wording import plural

_IDENTITY = 1e-9
_SHARED = 1e-6  # of the block's volume, mm³ each: more than triangles alone make two bodies share


class Halves(Step):
    """The two halves of the block round the part. They count only if each is one closed solid, if part and halves add up to
    the block, if no face of a half looks against its opening, and if they share no space.

    Undercuts of the part stop the step, unless they are left to side openings that come after it.
    Example: {"id": "ha6", "type": "halves"}
    """

    type: Literal["halves"] = "halves"
    word = "Halves"
    purpose = "cavity and core round the parting surface"
    follows = "parting surface"
    picture = ("M4 13h24v8H4z", "M4 3h24v7H20l-2 3h-4l-2-3H4z")
    document_kinds = ("tool",)

    undercuts: Literal["refused", "left to side openings"] = "refused"
    part: BodyPick = None
    block: BodyPick = None

    def sentence(self) -> str:
        return "Halves of {block} round {part}, undercuts {undercuts}"

    def build(self, at: Builder) -> None:
        part = parted(at, self.part, "part")
        block = at.target(self.block, "block", roles=("block",))
        if part.undercut and self.undercuts == "refused":
            at.fail(
                "undercuts",
                f"The halves would not open: {plural(len(part.undercut), 'face')} of the part cannot be seen from either side.",
                "Change the part, or leave the undercuts to side openings and lifters.",
                lit=(part.entry, tuple(part.undercut)),
            )
        surfaces = self._surfaces(at, part)
        level = self._level(at, surfaces[0])
        skins = [entry.body.solid for entry in surfaces]
        made = at.kernel("part", kernel.halves.sewn, part.solid, part.of, block.body.solid, skins, part.pull, level)
        inputs = (part.entry.body, block.body, *(entry.body for entry in surfaces))
        core, cavity = at.named(made.core, *inputs), at.named(made.cavity, *inputs)
        self._prove(at, part, block, made, core, cavity)
        at.new(cavity, "cavity", "Cavity half", "cavity", part.pull)
        at.new(core, "core", "Core half", "core", part.pull)
        at.remove(block)
        for entry in surfaces:
            at.remove(entry)

    def _surfaces(self, at: Builder, part: Parted) -> list[Entry]:
        """The parting surface and the shut-offs that belong to it."""
        surfaces = [entry for entry in at.bodies() if entry.role == "surface"]
        mine = [e for e in surfaces if any(in_role(tags, "plane") for tags in e.body.tags)]
        if len(mine) != 1:
            words = "There is no parting surface yet." if not mine else "There are several parting surfaces."
            at.fail("block", words, "Add one parting surface before this step.")
        return [mine[0], *(e for e in surfaces if maker(e.id) == mine[0].id and e is not mine[0])]

    def _level(self, at: Builder, surface: Entry) -> float:
        """Where the surface's plane lies along the pull."""
        pull = surface.pull or (0.0, 0.0, 1.0)
        (plane,) = [face for face, tags in enumerate(surface.body.tags) if in_role(tags, "plane")]
        origin = kernel.measure.flat_frame(surface.body.solid, plane).origin
        return sum(a * b for a, b in zip(origin, pull, strict=True))

    def _sources(self, made: kernel.history.Made, faces: list[int]) -> list[int]:
        """The faces of the part that form some faces of a half."""
        sources = [made.origins[face][0].sources[0] for face in faces]
        return [s.face for s in sources if isinstance(s, kernel.history.FaceOf) and s.body == 0]

    def _prove(self, at: Builder, part: Parted, block: Entry, made: kernel.halves.Halves, core: Body, cavity: Body) -> None:
        volume = kernel.measure.volume
        whole = volume(block.body.solid)
        misfit = abs(whole - volume(core.solid) - volume(cavity.solid) - volume(part.solid)) / whole
        if misfit > _IDENTITY:
            at.fail("block", f"Halves and part do not add up to the block: {misfit:.1e} apart.", "Change the land a little.")
        for what, sewn, half, direction in (
            ("core", made.core, core, part.pull),
            ("cavity", made.cavity, cavity, times(part.pull, -1.0)),
        ):
            formed = [face for face, row in enumerate(sewn.origins) if row[0].sources[0][0] != 1]
            wrong = molding.opening.facing_wrong(half.solid, formed, direction)
            left = [f for f in wrong if not any(tag in part.undercut.values() for tag in half.tags[f])]
            if left:
                at.fail(
                    "undercuts",
                    f"{plural(len(left), 'face')} of the {what} half look against its opening.",
                    "Look at the parting line there: the part is undercut.",
                    lit=(part.entry, self._sources(sewn, left)),
                )
        core_mesh, cavity_mesh, part_mesh = (molding.opening.meshed(s) for s in (core.solid, cavity.solid, part.solid))
        pairs = (core_mesh, cavity_mesh), (core_mesh, part_mesh), (cavity_mesh, part_mesh)
        worst = max(molding.opening.shared(a, b) for a, b in pairs)
        if worst > max(_SHARED * whole, 1.0):
            at.fail("block", f"The halves share {worst:.1f} mm³ of space.", "Look at the parting line: it crosses itself.")
        at.figure("identity", misfit)
        at.note(f"Halves and part add up to the block, to {max(misfit, 1e-16):.0e}.")
        inside = len({mark for face, mark in part.undercut.items() if part.of[face] == "core"})
        outside = len(set(part.undercut.values())) - inside
        for count, kind, below, side, more in (
            (outside, "side opening", "the side openings", "cavity", "a side opening for each"),
            (inside, "lifters", "the lifters", "core", "lifters after the mold base"),
        ):
            if count and at.ahead(kind) >= (count if side == "cavity" else 1):
                at.note(f"{plural(count, 'undercut')} left to {below} below.")
            elif count:
                still = f"{plural(count, 'undercut')} still to be freed: until then the {side} half does not open."
                at.caution("undercuts", f"{still} Add {more}.")
        if not part.undercut:
            at.note("Every face looks the way its half opens: they part freely.")
