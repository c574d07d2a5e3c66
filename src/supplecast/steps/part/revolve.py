"""Revolve: an outline turned about an axis in its plane."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

from pydantic import model_validator

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AxisField, Length, ProfileField
from supplecast.document.shaping import Shaping, newest_sketches, open_chain, usual_result
from supplecast.document.state import SketchEntry
from supplecast.document.step import Before
from supplecast.geometry import Axis, Frame, subtract

_FULL = 2 * math.pi


class Revolve(Shaping):
    """Turn the areas of a sketch about an axis in its plane: the sketch's own x or y, one of its lines, an edge or a datum
    axis. The outline may touch the axis but not cross it.

    An open outline is `closed along the axis`, or makes a wall or a surface. `both ways` takes half the angle to each side.
    Example: {"id": "r1", "type": "revolve", "profile": {"sketch": "k3f"}, "axis": {"sketch": "k3f", "line": "y"}}
    """

    type: Literal["revolve"] = "revolve"
    word = "Revolve"
    purpose = "turn an outline about an axis"
    search = "turn lathe spin rotate knob"
    follows = "extrude"
    picture = ("M16 2v20", "M16 6h7v5h4v8H16M16 6H9v5H5v8h11M5 19c2 3 20 3 22 0")
    suits = ("edges",)

    profile: ProfileField
    fill: Literal["filled", "closed along the axis", "as a wall", "as a surface"] = "filled"
    wall: Length = "2 mm"
    side: Literal["left", "right", "middle"] = "middle"
    axis: AxisField
    turn: Literal["by", "both ways by", "by two angles"] = "by"
    angle: Angle = "360"
    back: Angle = "0"

    @model_validator(mode="before")
    @classmethod
    def _own_axis(cls, data: Any) -> Any:
        """Without an axis the sketch's own y is meant; `x` and `y` are short for the sketch's own."""
        if isinstance(data, dict) and data.get("axis", "y") in ("x", "y") and isinstance(data.get("profile"), dict):
            return {**data, "axis": {"sketch": data["profile"].get("sketch"), "line": data.get("axis", "y")}}
        return data

    @property
    def surfaces_made(self) -> tuple[str, ...]:
        return (self.id,) if self.fill == "as a surface" else ()

    def sentence(self) -> str:
        wall = " {wall} thick on its {side}" if self.fill == "as a wall" else ""
        back = " and {back} back" if self.turn == "by two angles" else ""
        onto = "" if self.fill == "as a surface" else self.onto()
        return f"Revolve {{profile}} {{fill}}{wall} about {{axis}} {{turn}} {{angle}}{back}{onto}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        (sketch,) = newest_sketches(before, 1, cls.word)
        return {
            "profile": {"sketch": sketch},
            "axis": picked[0] if picked else {"sketch": sketch, "line": "y"},
            "result": usual_result(before),
        }

    def build(self, at: Builder) -> None:
        targets = [] if self.fill == "as a surface" else self.targets(at)
        axis = at.axis("axis")
        sketch = at.sketch(self.profile.sketch, "profile")
        base, direction = at.kernel("axis", kernel.revolve.in_plane, sketch.frame, axis)
        start, angle = self._span(at)
        frame = sketch.frame.swung(axis, start) if start else sketch.frame
        if self.fill in ("as a wall", "as a surface"):
            self._thin(at, sketch, frame, axis, angle)
            return
        if self.fill == "closed along the axis":
            chain = open_chain(at, "profile", sketch)
            regions = [at.kernel("profile", kernel.revolve.closed_along, chain, base, direction)]
        else:
            _, regions = at.regions("profile", hint="Or choose “closed along the axis”, or “as a wall”.")
        spot = frame.point(regions[0].middle)
        foot = axis.nearest(spot)
        if self.turn == "by" and math.dist(spot, foot) > 1e-6:
            at.turning("angle", foot, axis.direction, subtract(spot, foot))
        tools = []
        for region in regions:
            made = at.kernel("profile", kernel.revolve.revolve, region, frame, base, direction, angle)
            tools.append((region.name, at.named(made, sketch=sketch)))
        self.combine(at, targets, tools)

    def _thin(self, at: Builder, sketch: SketchEntry, frame: Frame, axis: Axis, angle: float) -> None:
        chain = open_chain(at, "profile", sketch)
        drawn = at.kernel("profile", kernel.surface.turned, chain, frame, axis, angle)
        if self.fill == "as a surface":
            at.new(at.named(drawn.made, sketch=sketch), "surface", self.name or "Surface")
            return
        made = at.kernel("wall", kernel.surface.walled, drawn, at.mm("wall"), self.side)
        self.combine(at, self.targets(at), [("", at.named(made, sketch=sketch))])

    def _span(self, at: Builder) -> tuple[float, float]:
        """From which angle, and by how much, the outline is turned, rad."""
        angle = at.radians("angle", 0.0, 360.0)
        if self.turn == "both ways by":
            return -angle / 2, min(angle, _FULL)
        if self.turn == "by two angles":
            back = at.radians("back", 0.0, 360.0)
            if angle + back > _FULL + 1e-9:
                at.fail("back", f"Together that is {math.degrees(angle + back):g}°, more than a full turn.", "Type less.")
            return -back, min(angle + back, _FULL)
        return 0.0, min(angle, _FULL)
