"""Parting surface: the surface on which the halves meet round the part, and the shut-offs across its openings."""

from __future__ import annotations

import math
from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, BodyPick, Length
from supplecast.document.step import Step
from supplecast.steps.tool.marks import parted

SHUT_OFF = 5.0  # degrees to the pull that a shut-off should have at least (common practice: 5 to 7)


class PartingSurface(Step):
    """From the outer parting line a level land, a slope and a plane out to the block's walls; across every inner loop a shut-
    off.

    A line that lies in one plane needs neither land nor slope. `land` is at most so wide as the part leaves room for.
    Example: {"id": "ps5", "type": "parting surface", "land": "8", "slope": "10 deg"}
    """

    type: Literal["parting surface"] = "parting surface"
    word = "Parting surface"
    purpose = "surface and shut-offs on which the halves meet"
    search = "shut-off split surface close openings"
    follows = "subtract part"
    picture = ("M9 12c0-7 14-7 14 0v6H9z", "M2 12h7M23 12h7")
    document_kinds = ("tool",)

    land: Length = "8 mm"
    slope: Angle = "10"
    part: BodyPick = None
    block: BodyPick = None

    def sentence(self) -> str:
        return "Parting surface round {part} to the walls of {block}, land {land} wide, slope {slope}"

    def build(self, at: Builder) -> None:
        part = parted(at, self.part, "part")
        block = at.body(self.block, "block", roles=("block",))
        loops = part.loops(at, "part")
        slope = at.radians("slope", 3.0, 60.0)
        upright = kernel.parting.steep(part.solid, loops[0], part.pull, math.radians(SHUT_OFF))
        surface = at.kernel(
            "land", kernel.parting_surface.surface, part.solid, loops[0], block.body.solid, part.pull, at.mm("land"), slope
        )
        at.new(at.named(surface.made, part.entry.body), "surface", "Parting surface", pull=part.pull)
        at.figure("parting_level", surface.level)
        if surface.width:
            at.note(f"Land {at.in_unit(surface.width)} wide; least angle to the pull {math.degrees(surface.least):.1f}°.")
        else:
            at.note("The line lies in one plane, and so does the surface.")
        if upright:
            at.caution(
                "land",
                f"{len(upright)} edges of the line stand nearly upright: the halves meet there with next to no draft. "
                f"Draft those walls of the part by {SHUT_OFF:g}° or more.",
            )
        for number, loop in enumerate(loops[1:], 1):
            patch = at.kernel("part", kernel.shutoff.shut_off, part.solid, loop, part.pull)
            at.new(at.named(patch.made, part.entry.body), "surface", f"Shut-off {number}", f"off{number}", part.pull)
            angle = math.degrees(patch.angle)
            at.note(f"Shut-off {number}: {patch.direction}, {patch.area:.1f} mm², {angle:.1f}° to the pull.")
            beside = {face for edge, _ in loop.edges for face in part.solid.faces_at_edges[edge]}
            if beside & part.undercut.keys():  # a slide meets it square on
                continue
            if angle < SHUT_OFF:
                at.caution("part", f"Shut-off {number} meets at {angle:.1f}° only; {SHUT_OFF:g}° or more lasts.")
