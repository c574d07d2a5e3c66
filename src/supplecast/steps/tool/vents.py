"""Vents: shallow channels in the parting plane where the part fills last."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

import numpy as np
from pydantic import Field

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, FieldSpec, Length
from supplecast.document.state import Entry
from supplecast.document.step import Step
from supplecast.geometry import Bools, Floats, Frame, Point2, Vec, along, dot, rounded, subtract, vec
from supplecast.naming import Body
from supplecast.naming.tag import maker
from supplecast.search import Triangles
from supplecast.steps.tool.marks import parted_as
from supplecast.steps.tool.pair import both
from supplecast.steps.tool.places import Place, places
from supplecast.steps.tool.steel import bored
from supplecast.tooling.vents import LAND, RELIEF, vent_depth

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made

_INTO = 0.2  # mm that a vent reaches into the cavity


class Vents(Step):
    """Vents on the outer parting line, at the places that the flow from the gate reaches last, cut into the cavity side out
    to the edge of the tool. A blank depth is what the resin allows.
    Example: {"id": "ve11", "type": "vents", "count": 4, "width": "6"}
    """

    type: Literal["vents"] = "vents"
    word = "Vents"
    purpose = "let the air out where the part fills last"
    search = "air escape venting trapped"
    follows = "ejectors"
    picture = ("M4 13h24v8H4z", "M13 13h2v3h-2zM22 13h2v3h-2zM14 10V5m-2 2l2-2 2 2")
    document_kinds = ("tool",)

    count: Annotated[int, Field(ge=1, le=16), FieldSpec("count")] = 4
    width: Length = "6 mm"
    depth: AnyLength = ""

    def sentence(self) -> str:
        return "Vents, {count} for each part, {width} wide, {depth} deep"

    def build(self, at: Builder) -> None:
        pair = both(at)
        plane = pair.plane
        cavities = places(at, plane)
        deep = at.length("depth", self.depth, "positive") if self.depth else vent_depth(at.resin)
        if deep >= RELIEF:
            at.fail(
                "depth",
                f"A vent {at.in_unit(deep)} deep would flash.",
                f"Use less than {at.in_unit(RELIEF)}; {vent_depth(at.resin):g} mm is usual.",
            )
        feeds = [e.body for e in at.bodies() if e.role == "feed"]
        if not feeds:
            at.fail("count", "Without a feed nobody can tell what fills last.", "Add the feed or runners before this step.")
        first = cavities[0]
        gates = [self._gate_on_first(first, place, plane, feeds) for place in cavities]
        filled = {gate: self._filling(at, first, plane, np.array(gate)) for gate in dict.fromkeys(gates)}
        steel = [e for e in at.bodies() if e.role in ("cavity", "cavity insert")]
        reach = max(kernel.measure.beyond(e.body.solid, plane.origin) for e in steel)
        barred = [molding.opening.meshed(body.solid).triangles for body in (*feeds, *(place.part.body for place in cavities))]
        barred += self._register_holes(at, steel)
        tools: list[Made] = []
        counts = []
        for place, gate in zip(cavities, gates, strict=True):
            flat, out, late = filled[gate]
            here, directions = place.all_at(first, flat), out @ place.turn.T
            free = self._leads_out(plane, here, directions, barred, at.mm("width"))
            chosen = self._chosen(here, np.where(free, late, -1.0), at.mm("width"))
            counts.append(len(chosen))
            for spot, direction in zip(here[chosen].tolist(), directions[chosen].tolist(), strict=True):
                tools += self._vent(plane, (spot[0], spot[1]), (direction[0], direction[1]), at.mm("width"), deep, reach)
        if not min(counts):
            words = "Every way out of a part is barred by a part, the feed or a register hole"
            at.fail("count", f"{words}.", "Leave more between the places.")
        bored(at, "width", steel, [at.named(tool).labelled(str(k)) for k, tool in enumerate(tools, 1)])
        at.figure("vents", sum(counts))
        each = f"{min(counts)}" if min(counts) == max(counts) else f"{min(counts)} to {max(counts)}"
        at.note(f"{deep:g} mm deep over {LAND:g} mm, then {RELIEF:g}, {each} on each part where it fills last.")

    def _gate_on_first(self, first: Place, place: Place, plane: Frame, feeds: list[Body]) -> Vec:
        """Where a part is fed, told as a place of the first part, to a tenth of a mm: one that mirrors itself may be fed from
        its other end.
        """
        gate = self._gate(place.part.body.solid, feeds)
        spot = place.on(first, plane.flat(vec(gate)))
        height = float((gate - np.array(plane.origin)) @ np.array(plane.normal))
        return rounded(along(plane.point(spot), plane.normal, height), 1)

    def _register_holes(self, at: Builder, steel: list[Entry]) -> list[Triangles]:
        """The skin of register pins and their holes, which are faces of the steel itself."""
        made = {step for step, kind in at.order if kind == "register pins"}
        found = []
        for entry in steel:
            faces = [face for face, tags in enumerate(entry.body.tags) if any(maker(tag) in made for tag in tags)]
            if faces:
                skin = molding.opening.meshed(entry.body.solid)
                found.append(Triangles(skin.triangles.corners[np.isin(skin.faces, faces)]))
        return found

    def _filling(self, at: Builder, place: Place, plane: Frame, fed: Floats) -> tuple[Floats, Floats, Floats]:
        """Places along the outer parting line of a part, (n, 2), the ways out there, (n, 2), and how far the flow from where it
        is `fed` has come to each, mm; -1 where that is not in the plane.
        """
        part = parted_as(at, place.part, "count")
        loop = part.loops(at, "count")[0]
        points = kernel.parting.Sampled(part.solid, loop).finely(2.0)
        heights = (points - np.array(plane.origin)) @ np.array(plane.normal)
        level = np.abs(heights) < 1e-3
        if not level.any():
            at.fail("count", "The parting line nowhere lies in the parting plane.", "Leave the vents to the halves' own plane.")
        walls = molding.judge.skin_of(part.solid).walls
        inner = walls.skin.middles[~walls.rim]  # a gate on the rim itself has no wall of its own
        gate = inner[np.linalg.norm(inner - fed, axis=1).argmin()]
        direction = molding.flow.flow(walls, vec(gate))
        near = np.array([np.linalg.norm(walls.skin.middles - p, axis=1).argmin() for p in points])
        flat = kernel.parting.flat(points, plane)
        late: Floats = np.where(level & np.isfinite(direction.lengths[near]), direction.lengths[near], -1.0)
        return flat, kernel.offset_matching.outwards(flat), late

    def _chosen(self, spots: Floats, late: Floats, width: float) -> list[int]:
        """The places reached last, well apart."""
        apart = max(float(np.linalg.norm(np.diff(spots, axis=0), axis=1).sum()) / (3 * self.count), 2 * width)
        chosen: list[int] = []
        for k in np.argsort(-late):
            if late[k] < 0 or len(chosen) == self.count:
                break
            if all(np.linalg.norm(spots[k] - spots[c]) >= apart for c in chosen):
                chosen.append(int(k))
        return chosen

    def _leads_out(self, plane: Frame, spots: Floats, directions: Floats, barred: list[Triangles], width: float) -> Bools:
        """Whether a vent from each spot (n, 2) along its way (n, 2) meets no part and no feed."""
        under, headings = plane.shifted(-RELIEF / 2), plane.space(directions) - np.array(plane.origin)
        aside = np.column_stack([-directions[:, 1], directions[:, 0]])
        free = np.ones(len(spots), dtype=bool)
        for share in (-0.5, 0.0, 0.5):
            starts = under.space(spots + LAND * directions + share * width * aside)
            for triangles in barred:
                free &= triangles.hits(starts, headings)[0] < 0
        return free

    def _gate(self, part: kernel.shape.Solid, feeds: list[Body]) -> Floats:
        """Where the nearest feed comes to a part."""
        feed = min((feed.solid for feed in feeds), key=lambda solid: kernel.nearness.boxes_apart(part, solid))
        return np.array(kernel.nearness.nearest_places(part, feed)[0])

    def _vent(self, plane: Frame, spot: Point2, out: Point2, width: float, deep: float, reach: float) -> list[Made]:
        """A shallow stretch from the part on, and a deeper one out to the edge, under the plane."""
        start = plane.point(spot)
        heading = subtract(plane.point(out), plane.origin)
        base, level = dot(start, heading), dot(start, plane.normal)
        side = dot(start, kernel.solid.across(heading, plane.normal))
        wide = (side - width / 2, side + width / 2)
        land = kernel.solid.bar(heading, plane.normal, (base - _INTO, base + LAND), wide, (level - deep, level + 0.1))
        relief = kernel.solid.bar(heading, plane.normal, (base + LAND, base + reach), wide, (level - RELIEF, level + 0.1))
        return [land, relief]
