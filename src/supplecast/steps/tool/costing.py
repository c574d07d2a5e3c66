"""Costing: what the tool costs to make, and what a piece costs with it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Factor, FieldSpec, Percent
from supplecast.document.state import STEEL, Entry
from supplecast.document.step import Step
from supplecast.steps.tool.marks import forms_part
from supplecast.tooling import machining
from supplecast.wording import brief


class Costing(Step):
    """The tool's steel and hours: by stock, what is milled off it, the faces that form parts, how deep they are, and bores, at
    a rate an hour and a price a kg, as a range; components of stock at what they usually cost.

    Further figures of the gauges can be typed here: how many pieces share the tool's cost, the press's rate, its margin and
    idle time, and the wall that cools last. Blank ones follow as without this step.
    Example: {"id": "cs17", "type": "costing", "rate": "70", "pieces": 50000}
    """

    type: Literal["costing"] = "costing"
    word = "Costing"
    purpose = "what the tool and a piece cost"
    search = "price cost quote hours steel rate money piece"
    follows = "opening check"
    picture = ("M4 6h24v13H4z", "M16 9v7M13 11h5a1.5 1.5 0 0 1 0 3h-4a1.5 1.5 0 0 0 0 2h5")
    document_kinds = ("tool",)

    rate: Factor = "60"
    steel: Factor = "4"
    pieces: Annotated[int, Field(ge=1, le=100_000_000), FieldSpec("count")] = 10_000
    press: Factor = ""
    margin: Percent = "10 %"
    idle: Factor = ""
    wall: AnyLength = ""

    def sentence(self) -> str:
        return "Costing at {rate} an hour and {steel} a kg of steel, shared by {pieces} pieces"

    def more(self) -> str:
        press = "press {press} an hour, {margin} over its clamp force, {idle} s to fill, open and close"
        return f"{press}; wall that cools last {{wall}}"

    def build(self, at: Builder) -> None:
        bodies = [e for e in at.bodies() if e.role in STEEL and e.is_solid]
        if not bodies:
            at.fail("rate", "There is no steel yet.", "Add the halves before this step.")
        bought = [e.stock.kind for e in bodies if e.stock and e.stock.kind in machining.BOUGHT]
        works = [self._work(e) for e in bodies if not e.stock or e.stock.kind not in machining.BOUGHT]
        found = machining.cost(works, bought, at.plain("rate"), at.plain("steel"))
        low, high = found.ends
        words = f"{found.hours:.0f} h of work ¤{found.machining:,.0f}, steel ¤{found.steel:,.0f}"
        words = f"{words}, components ¤{found.bought:,.0f}, design, fitting and trial ¤{found.fitting:,.0f}"
        at.note(f"The tool costs ¤{float(brief(low, 2)):,.0f} to ¤{float(brief(high, 2)):,.0f}: {words}.")
        at.note("Rates of milling, finishing and boring are common practice without a source: ask your toolmaker.")
        at.figure("tool_cost", found.whole)
        at.figure("tool_pieces", float(self.pieces))
        at.figure("press_margin", at.ratio("margin"))
        for field in ("press", "idle"):
            if getattr(self, field):
                at.figure(f"press_{field}", at.plain(field))
        if self.wall:
            at.figure("cooling_wall", at.length("wall", self.wall, "positive"))

    def _work(self, entry: Entry) -> machining.Work:
        solid = entry.body.solid
        box = kernel.measure.corner_box(solid)
        stock = box.size[0] * box.size[1] * box.size[2] / 1000.0
        forming = [f for f, tags in enumerate(entry.body.tags) if forms_part(tags)]
        depth = 0.0
        if forming:
            boxes = kernel.nearness.face_boxes(solid, forming)
            spans = sorted(boxes[:, 3:].max(axis=0) - boxes[:, :3].min(axis=0))
            depth = 2.0 * float(spans[0]) / max(float(spans[1]), 1e-6)
        area = sum(kernel.measure.rough_face(solid, face)[0] for face in forming) / 100.0
        own = set(forming)
        holes = sum(kernel.measure.surface_word(solid, f) == "round" for f in range(solid.face_count) if f not in own)
        return machining.Work(stock, stock - kernel.measure.handy_volume(solid) / 1000.0, area, depth, holes)
