"""Casting box: a box round a master, in which a soft mold of silicone or plaster is poured."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Length, Percent
from supplecast.document.step import Step
from supplecast.geometry import Frame, Vec
from supplecast.naming import Body
from supplecast.steps.tool.weighing import Ratio, weighed

# g/cm³ of what soft molds are poured from (common practice, from memory).
_DENSITY = {"silicone": 1.1, "polyurethane": 1.05, "plaster": 1.75, "wax": 0.93, "low-melt alloy": 8.6}
_HALVES = ("block", "core", "cavity", "core insert", "cavity insert")


class CastingBox(Step):
    """An open box with a floor on which the master stands; poured full over the part, it gives the soft mold. In two or three
    pieces it comes off without tearing: cut through its middle, or in thirds.
    Example: {"id": "cb14", "type": "casting box", "material": "silicone", "margin": "12", "wall": "3"}
    """

    type: Literal["casting box"] = "casting box"
    word = "Casting box"
    purpose = "a box to pour a soft mold in"
    search = "frame pouring hand mold walls"
    follows = "mix"
    picture = ("M11 9h10v9H11z", "M4 3h3v15h18V3h3v18H4z")
    document_kinds = ("tool",)

    material: Literal["silicone", "polyurethane", "plaster", "wax", "low-melt alloy"] = "silicone"
    margin: Length = "12 mm"
    over: Length = "10 mm"
    wall: Length = "3 mm"
    pieces: Literal["one piece", "two pieces", "three pieces"] = "two pieces"
    ratio: Ratio = "100:10"
    spare: Percent = "10 %"
    part: BodyPick = None

    def sentence(self) -> str:
        return "Casting box for {material} round {part}, {margin} away, {over} over it, walls {wall}, in {pieces}"

    def more(self) -> str:
        return "components {ratio} by mass, {spare} to spare"

    def build(self, at: Builder) -> None:
        entry = at.body(self.part, "part", roles=("linked", "part"))
        box = kernel.measure.box(entry.body.solid)
        margin, over, wall = at.mm("margin"), at.mm("over"), at.mm("wall")
        low: Vec = (box.low[0] - margin, box.low[1] - margin, box.low[2])
        high: Vec = (box.high[0] + margin, box.high[1] + margin, box.high[2] + over)
        outer = kernel.solid.box((low[0] - wall, low[1] - wall, low[2] - wall), (high[0] + wall, high[1] + wall, high[2]))
        inner = kernel.solid.box(low, (high[0], high[1], high[2] + 1.0))
        (made,) = at.kernel("wall", kernel.boolean.cut, outer.solid, [inner.solid])
        whole = at.named(made, at.named(outer), at.named(inner).labelled("inside"))
        for number, piece in enumerate(self._cut(at, whole, low, high), 1):
            at.new(piece, "insert", f"Casting box {number}" if self.pieces != "one piece" else "Casting box", f"box{number}")
        halves = [e for e in at.bodies() if e.role in _HALVES and kernel.nearness.boxes_apart(outer.solid, e.body.solid) == 0]
        if halves:
            words = f"The box stands where {halves[0].name} is: it is for a soft mold, poured round the part itself"
            at.caution("part", f"{words}. Make it in a tool without halves.")
        space = (high[0] - low[0]) * (high[1] - low[1]) * (high[2] - low[2])
        volume = space - kernel.measure.volume(entry.body.solid)
        at.figure("pour_g", weighed(at, self.ratio, volume, self.material, _DENSITY[self.material], 0))

    def _cut(self, at: Builder, whole: Body, low: Vec, high: Vec) -> list[Body]:
        """The box parted across its longer side."""
        count = {"one piece": 1, "two pieces": 2, "three pieces": 3}[self.pieces]
        axis = 0 if high[0] - low[0] >= high[1] - low[1] else 1
        normal: Vec = (1.0, 0.0, 0.0) if axis == 0 else (0.0, 1.0, 0.0)
        left, rings = whole, []
        for cut in range(1, count):
            place = low[axis] + (high[axis] - low[axis]) * cut / count
            origin: Vec = (place, 0.0, 0.0) if axis == 0 else (0.0, place, 0.0)
            frame = Frame.lying(origin, normal)
            pieces = sorted(
                at.kernel("pieces", kernel.split.by_plane, left.solid, frame), key=lambda m: kernel.split.height(m.solid, frame)
            )
            rings.append(at.named(pieces[0], left))
            left = at.named(pieces[1], left)
        return [*rings, left]
