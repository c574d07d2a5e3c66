"""Sweep: an outline carried along a path."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Edges, Length, LineField, Profile, ProfileField
from supplecast.document.shaping import Shaping, ends_loose, newest_sketches, usual_result
from supplecast.document.step import Before
from supplecast.sketch.paths import path

if TYPE_CHECKING:
    from supplecast.curves import Region
    from supplecast.geometry import Frame
    from supplecast.kernel.verbs.route import Route


class Sweep(Shaping):
    """Carry the areas of a sketch along an open chain: the lines, arcs and splines of another sketch, or edges of a body.

    The outline need not sit on the path. Where it does not lie round the path's start, square to it, it is moved: its `middle`,
    or its sketch's `origin`, comes onto the path. Sharp corners of the path are mitred, or rounded to `bend`.
    Example: {"id": "w1", "type": "sweep", "profile": {"sketch": "k3f"}, "path": {"sketch": "k4a"}, "result": "add"}
    """

    type: Literal["sweep"] = "sweep"
    word = "Sweep"
    purpose = "carry an outline along a path"
    search = "path pipe tube wire cable handle"
    follows = "revolve"
    picture = ("M6 20V10a6 6 0 0 1 6-6h12", "M3 20h6v-10a3 3 0 0 1 3-3h12V1H12a9 9 0 0 0-9 9z")
    suits = ("edges",)

    profile: ProfileField
    along: Literal["the sketch", "edges"] = "the sketch"
    path: LineField | None = None
    edges: Edges = ()
    place: Literal["where it fits", "by its middle", "by its origin"] = "where it fits"
    corners: Literal["mitred", "rounded"] = "mitred"
    bend: Length = "5 mm"

    def sentence(self) -> str:
        direction = "{path}" if self.along == "the sketch" else "{edges}"
        bend = " to {bend}" if self.corners == "rounded" else ""
        return f"Sweep {{profile}} along {{along}} {direction}, corners {{corners}}{bend}{self.onto()}"

    def more(self) -> str:
        return "set on the path {place}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        edges = [pick for pick in picked if "edge" in pick]
        if edges:
            (outline,) = newest_sketches(before, 1, cls.word)
            direction: dict[str, Any] = {"along": "edges", "edges": edges}
        else:
            outline, route = newest_sketches(before, 2, cls.word)
            if ends_loose(before.step(outline)) and not ends_loose(before.step(route)):
                outline, route = route, outline
            direction = {"path": {"sketch": route}}
        return {"profile": {"sketch": outline}, "result": usual_result(before), **direction}

    def build(self, at: Builder) -> None:
        targets = self.targets(at)
        sketch, regions = at.regions("profile")
        route = self._route(at, sketch.frame, regions[0])
        if self.corners == "rounded":
            route = at.kernel("bend", kernel.route.rounded, route, at.mm("bend"))
        frame = sketch.frame
        if self.place != "where it fits" or not kernel.sweep.fits(regions[0], frame, route):
            anchor = (0.0, 0.0) if self.place == "by its origin" else regions[0].middle
            frame = kernel.sweep.seated(frame, route, anchor)
            if self.place == "where it fits":
                at.note("The outline was moved onto the path by its middle.")
        tools = []
        for region in regions:
            made = at.kernel("path" if self.along == "the sketch" else "edges", kernel.sweep.sweep, region, frame, route)
            tools.append((region.name, at.named(made, sketch=sketch)))
        self.combine(at, targets, tools)

    def _route(self, at: Builder, frame: Frame, region: Region) -> Route:
        near = frame.point(region.middle)
        if self.along == "the sketch":
            direction: Profile | None = self.path
            if direction is None:
                at.fail("path", "No path is picked.", "Draw an open chain in a sketch of its own.")
            drawn = at.sketch(direction.sketch, "path")
            chain = at.kernel("path", path, drawn.curves, drawn.frame.flat(near))
            return kernel.route.of_curves(chain, drawn.frame)
        at.need_picks("edges", "Pick edges that make one open chain.")
        entry = at.holder("edges", None, changes=False)
        return at.kernel("edges", kernel.route.of_edges, entry.body.solid, at.edges("edges", entry), near)
