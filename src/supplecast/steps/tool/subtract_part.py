"""Subtract part: the cavity space cut from the block."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick
from supplecast.document.step import Step


class SubtractPart(Step):
    """Take the part's space out of the block; the part stays.

    Example: {"id": "c4", "type": "subtract part"}
    """

    type: Literal["subtract part"] = "subtract part"
    word = "Subtract part"
    purpose = "cut the part's space from the block"
    search = "cavity cut impression form"
    follows = "block"
    picture = ("M4 4h24v17H4z", "M10 4v9h12V4")
    document_kinds = ("tool",)

    part: BodyPick = None
    block: BodyPick = None

    def sentence(self) -> str:
        return "Subtract {part} from {block}"

    def build(self, at: Builder) -> None:
        part = at.body(self.part, "part", roles=("linked", "part"))
        block = at.target(self.block, "block", roles=("block",))
        made = at.kernel("part", kernel.boolean.cut, block.body.solid, [part.body.solid], pieces=None)
        if len(made) > 1:
            at.fail(
                "part",
                f"The block comes apart into {len(made)} pieces: the part reaches through it or holds a closed hollow.",
                "Give the block larger margins, or open the hollow.",
            )
        volume = kernel.measure.volume
        before, after = volume(block.body.solid), volume(made[0].solid)
        misfit = abs(before - after - volume(part.body.solid)) / before
        if misfit > 1e-9:
            at.fail(
                "part",
                f"The block does not hold the whole part: the volumes are {misfit:.1e} apart.",
                "Give the block larger margins.",
            )
        at.figure("identity", misfit)
        at.replace(block, at.named(made[0], block.body, part.body))
