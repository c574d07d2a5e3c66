"""Vents: shallow channels in the parting plane where the part fills last."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

import numpy as np
from pydantic import Field

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, FieldSpec, Length
from supplecast.document.step import Step
from supplecast.geometry import Floats, Frame, Point2, dot, gap, times, vec
from supplecast.naming import Body
from supplecast.steps.tool.marks import parted_as
from supplecast.steps.tool.pair import both
from supplecast.steps.tool.places import Place, places
from supplecast.steps.tool.steel import bored
from supplecast.tooling.vents import LAND, RELIEF, vent_depth

if TYPE_CHECKING:
    from supplecast.kernel.history import Made

_INTO = 0.2  # mm that a vent reaches into the cavity


class Vents(Step):
    """Vents on the outer parting line, at the places that the flow from the gate reaches last, cut into the cavity side out
    to the edge of the tool. A blank depth is what the resin allows.
    Example: {"id": "ve11", "type": "vents", "count": 4, "width": "6"}
    """

    type: Literal["vents"] = "vents"
    word = "Vents"
    purpose = "let the air out where the part fills last"
    rank = 78
    picture = ("M4 13h24v8H4z", "M13 13h2v3h-2zM22 13h2v3h-2zM14 10V5m-2 2l2-2 2 2")
    sheets = ("tool",)

    count: Annotated[int, Field(ge=1, le=16), FieldSpec("count")] = 4
    width: Length = "6 mm"
    depth: AnyLength = ""

    def sentence(self) -> str:
        return "Vents, {count} for each part, {width} wide, {depth} deep"

    def build(self, at: Builder) -> None:
        pair = both(at)
        plane = Frame.lying(times(pair.pull, pair.parting), pair.pull)
        found = places(at, plane)
        deep = at.length("depth", self.depth, "positive") if self.depth else vent_depth(at.resin)
        if deep >= RELIEF:
            at.fail(
                "depth",
                f"A vent {at.in_unit(deep)} deep would flash.",
                f"Use less than {at.in_unit(RELIEF)}; {vent_depth(at.resin):g} mm is usual.",
            )
        feeds = [e for e in at.bodies() if e.role == "feed"]
        if not feeds:
            at.fail("count", "Without a feed nobody can tell what fills last.", "Add the feed or runners before this step.")
        spots = self._last_to_fill(at, found[0], plane, [f.body for f in feeds])
        steel = [e for e in at.bodies() if e.role in ("cavity", "cavity insert")]
        reach = max(kernel.measure.beyond(e.body.solid, plane.origin) for e in steel)
        tools: list[Made] = []
        for place in found:
            for spot, out in spots:
                here = place.at(found[0], spot)
                way = place.turn @ np.array(out)
                tools += self._vent(plane, here, (float(way[0]), float(way[1])), at.mm("width"), deep, reach)
        bored(at, "width", steel, [at.named(tool).labelled(str(k)) for k, tool in enumerate(tools, 1)])
        at.figure("vents", len(spots) * len(found))
        at.note(f"{deep:g} mm deep over {LAND:g} mm, then {RELIEF:g}, {len(spots)} on each part where it fills last.")

    def _last_to_fill(self, at: Builder, place: Place, plane: Frame, feeds: list[Body]) -> list[tuple[Point2, Point2]]:
        """Places on the outer parting line in the plane, last reached first, well apart, with the way out from the part."""
        part = parted_as(at, place.part, "count")
        loop = part.loops(at, "count")[0]
        points = kernel.parting.Sampled(part.solid, loop).finely(2.0)
        heights = (points - np.array(plane.origin)) @ np.array(plane.normal)
        level = np.abs(heights) < 1e-3
        if not level.any():
            at.fail("count", "The parting line nowhere lies in the parting plane.", "Leave the vents to the halves' own plane.")
        walls = molding.judge.skin_of(part.solid).walls
        inner = walls.skin.middles[~walls.rim]  # a gate on the rim itself has no wall of its own
        gate = inner[np.linalg.norm(inner - self._gate(part.solid, feeds), axis=1).argmin()]
        way = molding.flow.flow(walls, vec(gate))
        near = np.array([np.linalg.norm(walls.skin.middles - p, axis=1).argmin() for p in points])
        late = np.where(level & np.isfinite(way.lengths[near]), way.lengths[near], -1.0)
        flat = kernel.parting.flat(points, plane)
        out = kernel.outset.outwards(flat)
        apart = max(float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum()) / (3 * self.count), 2 * at.mm("width"))
        chosen: list[int] = []
        for k in np.argsort(-late):
            if late[k] < 0 or len(chosen) == self.count:
                break
            if all(np.linalg.norm(flat[k] - flat[c]) >= apart for c in chosen):
                chosen.append(int(k))
        return [((float(flat[k, 0]), float(flat[k, 1])), (float(out[k, 0]), float(out[k, 1]))) for k in chosen]

    def _gate(self, part: kernel.shape.Solid, feeds: list[Body]) -> Floats:
        """Where the feed comes nearest to a part."""
        spots = [kernel.measure.nearest_places(part, feed.solid)[0] for feed in feeds]
        return np.array(spots[0])

    def _vent(self, plane: Frame, spot: Point2, out: Point2, width: float, deep: float, reach: float) -> list[Made]:
        """A shallow stretch from the part on, and a deeper one out to the edge, under the plane."""
        start = plane.point(spot)
        heading = gap(plane.point(out), plane.origin)
        base, level = dot(start, heading), dot(start, plane.normal)
        side = dot(start, kernel.solid.across(heading, plane.normal))
        wide = (side - width / 2, side + width / 2)
        land = kernel.solid.bar(heading, plane.normal, (base - _INTO, base + LAND), wide, (level - deep, level + 0.1))
        relief = kernel.solid.bar(heading, plane.normal, (base + LAND, base + reach), wide, (level - RELIEF, level + 0.1))
        return [land, relief]
