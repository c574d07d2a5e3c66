"""Block: the stock round the part from which both halves are made."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, LengthFromZero, Profile, SketchPick
from supplecast.document.step import Before, Step
from supplecast.geometry import DIRECTIONS, Vec, dot, rounded


class Block(Step):
    """A block by margins round the part, by outer size with the part in its middle, or over a sketched outline.

    `pull` is the way the core half opens. `above` and `below` are measured along it; single sides override `around`.
    By margins or by size, its corners are rounded to whole micrometres, since the box of a part is no plain figure.
    Example: {"id": "b3", "type": "block", "around": "24", "below": "24", "above": "26", "pull": "+z"}
    """

    type: Literal["block"] = "block"
    word = "Block"
    purpose = "stock round the part"
    search = "stock mold body box round the part steel"
    follows = "parting line"
    picture = ("M11 10h10v6H11z", "M4 4h24v17H4z")
    document_kinds = ("tool",)

    sized: Literal["by margins", "by size", "by an outline"] = "by margins"
    outline: SketchPick = None
    around: LengthFromZero = "20 mm"
    below: LengthFromZero = "20 mm"
    above: LengthFromZero = "20 mm"
    left: LengthFromZero | None = None
    right: LengthFromZero | None = None
    front: LengthFromZero | None = None
    back: LengthFromZero | None = None
    length: LengthFromZero = "160 mm"
    width: LengthFromZero = "120 mm"
    height: LengthFromZero = "80 mm"
    pull: Literal["+z", "-z", "+x", "-x", "+y", "-y"] = "+z"
    part: BodyPick = None

    def sentence(self) -> str:
        if self.sized == "by size":
            return "Block {sized} {length} × {width} × {height} round {part}, opening {pull}"
        if self.sized == "by an outline":
            return "Block {sized} {outline} round {part}, {below} below, {above} above, opening {pull}"
        single = "".join(f", {side} {{{side}}}" for side in _SIDES if getattr(self, side) is not None)
        return f"Block {{sized}} round {{part}}, {{around}} around{single}, {{below}} below, {{above}} above, opening {{pull}}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        """It opens as the parting line above it does."""
        line = next((step for step in reversed(before.steps) if step.type == "parting line"), None)
        return {"pull": line.held("pull")} if line is not None else {}

    def build(self, at: Builder) -> None:
        entry = at.body(self.part, "part", roles=("linked", "part"))
        box = kernel.measure.box(entry.body.solid)
        pull = DIRECTIONS[self.pull]
        if self.sized == "by an outline":
            self._over_outline(at, box.low, box.high)
            return
        low, high = self._by_size(at, box.low, box.high) if self.sized == "by size" else self._by_margins(at, box.low, box.high)
        # Round the block to a micrometre: stock is ordered in plain figures, and the box of a part is not.
        made = at.kernel("around", kernel.solid.box, rounded(low, 3), rounded(high, 3))
        at.new(at.named(made), "block", "Block", pull=pull)
        size = [h - lo for lo, h in zip(low, high, strict=True)]
        at.note(" × ".join(at.in_unit(s) for s in size) + f" {at.scope.unit}, its corners on whole micrometres.")

    def _over_outline(self, at: Builder, low: Vec, high: Vec) -> None:
        """A prism over one area of a sketch that lies square to the pull, from below the part to above it."""
        if self.outline is None:
            at.fail("outline", "No sketch is picked for the outline.", "Pick one, or size the block by margins.")
        sketch, regions = at.regions("outline", Profile(sketch=self.outline))
        pull, axis = DIRECTIONS[self.pull], "xyz".index(self.pull[1])
        if abs(dot(sketch.frame.normal, pull)) < 1 - 1e-9:
            at.fail("outline", "The outline does not lie square to the pull.", "Sketch it on a plane square to the pull.")
        if len(regions) != 1:
            at.fail("outline", f"The sketch holds {len(regions)} areas.", "Draw one outline.")
        forward = self.pull[0] == "+"
        ends = (low[axis], high[axis]) if forward else (-high[axis], -low[axis])
        begin, end = ends[0] - at.mm("below"), ends[1] + at.mm("above")
        level = dot(sketch.frame.origin, pull)
        up = dot(sketch.frame.normal, pull) > 0
        frame = sketch.frame.shifted((begin - level) * (1.0 if up else -1.0))
        made = at.kernel("outline", kernel.solid.extrude, regions[0], frame, end - begin, up=up)
        at.new(at.named(made, sketch=sketch), "block", "Block", pull=pull)
        at.note(
            f"{at.in_unit(round(end - begin, 3))} {at.scope.unit} high, {kernel.measure.volume(made.solid) / 1000:.1f} cm³."
        )

    def _by_margins(self, at: Builder, low: Vec, high: Vec) -> tuple[list[float], list[float]]:
        axis = "xyz".index(self.pull[1])
        across = [a for a in range(3) if a != axis]
        around = at.mm("around")
        margin: dict[tuple[int, int], float] = {}
        for (a, end), side in zip([(across[0], 0), (across[0], 1), (across[1], 0), (across[1], 1)], _SIDES, strict=True):
            margin[a, end] = at.mm(side) if getattr(self, side) is not None else around
        forward = self.pull[0] == "+"
        margin[axis, 1 if forward else 0] = at.mm("above")
        margin[axis, 0 if forward else 1] = at.mm("below")
        return [low[a] - margin[a, 0] for a in range(3)], [high[a] + margin[a, 1] for a in range(3)]

    def _by_size(self, at: Builder, low: Vec, high: Vec) -> tuple[list[float], list[float]]:
        axis = "xyz".index(self.pull[1])
        across = [a for a in range(3) if a != axis]
        sides = dict(zip([across[0], across[1], axis], ("length", "width", "height"), strict=True))
        lows, highs = [0.0] * 3, [0.0] * 3
        for a in range(3):
            size, need = at.mm(sides[a]), high[a] - low[a]
            if size <= need:
                at.fail(
                    sides[a],
                    f"A {sides[a]} of {at.in_unit(size)} does not hold the part.",
                    f"It must be over {at.in_unit(need)}.",
                )
            middle = (low[a] + high[a]) / 2
            lows[a], highs[a] = middle - size / 2, middle + size / 2
        return lows, highs


_SIDES = ("left", "right", "front", "back")
