"""Basic shape: a box, cylinder, cone, ball or ring, by its sizes alone."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.curves import Arc2, Circle2, Line2, Region
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Length, LengthFromZero, PlaneField, PlanePick
from supplecast.document.shaping import Shaping, usual_result
from supplecast.document.step import Before
from supplecast.geometry import Frame, Point2, along, cross, times

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made

_TURN = 2 * math.pi


class BasicShape(Shaping):
    """A box, cylinder or cone that stands on a plane, or a ball or ring whose middle lies in it, about a place in the plane.

    `diameter` is that of the foot, the ball, or the middle of the ring's `tube`; `top` that of a cone's other end, 0 for a
    point.
    Example: {"id": "bs1", "type": "basic shape", "shape": "cylinder", "diameter": "20 mm", "height": "30 mm"}
    """

    type: Literal["basic shape"] = "basic shape"
    word = "Basic shape"
    purpose = "a box, cylinder, cone, ball or ring"
    search = "cube block cuboid sphere globe torus disc disk rod pin primitive"
    follows = "sketch"
    picture = ("M4 21h10", "M4 9l4-3h6l-3 3zM4 9v12h7V9M11 21l3-3V6M18 21a5 2 0 0 0 10 0V8a5 2 0 0 0-10 0zM18 8a5 2 0 0 0 10 0")
    suits = ("faces",)

    shape: Literal["box", "cylinder", "cone", "ball", "ring"] = "box"
    on: PlaneField = PlanePick(plane="top")
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"
    width: Length = "20 mm"
    depth: Length = "20 mm"
    height: Length = "20 mm"
    diameter: Length = "20 mm"
    top: LengthFromZero = "0 mm"
    tube: Length = "5 mm"
    direction: Literal["up", "down"] = "up"

    def sentence(self) -> str:
        sizes = {
            "box": "{width} × {depth}, {height} high {direction}",
            "cylinder": "{diameter} wide, {height} high {direction}",
            "cone": "{diameter} wide, {top} at its end, {height} high {direction}",
            "ball": "{diameter} wide",
            "ring": "{diameter} wide, its tube {tube} thick",
        }[self.shape]
        return f"Basic shape {{shape}} {sizes}, on {{on}} at {{x}}, {{y}}{self.onto()}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        last = before.last
        on = face or ({"datum": last.id} if last is not None and last.type == "plane" else None)
        return {"result": usual_result(before), **({"on": on} if on else {})}

    def drawn_on(self, before: Before) -> PlanePick | None:
        return self.on

    def build(self, at: Builder) -> None:
        targets = self.targets(at)
        plane = at.frame("on")
        frame = Frame(plane.point((at.mm("x"), at.mm("y"))), plane.x, plane.normal)
        self._handles(at, frame)
        made = at.kernel("shape", _MAKERS[self.shape], self, at, frame)
        self.combine(at, targets, [("", at.named(made))], "shape")

    def _handles(self, at: Builder, frame: Frame) -> None:
        up = frame.normal if self.direction == "up" else times(frame.normal, -1.0)
        if self.shape == "box":
            at.handle("width", frame.origin, frame.x, rate=0.5)
            at.handle("depth", frame.origin, frame.y, rate=0.5)
        else:
            at.handle("diameter", frame.origin, frame.x, rate=0.5)
        if self.shape in ("box", "cylinder", "cone"):
            at.handle("height", frame.origin, up)
        if self.shape == "ring":
            at.handle("tube", along(frame.origin, frame.x, at.mm("diameter") / 2), frame.normal, rate=0.5)

    def _box(self, at: Builder, frame: Frame) -> Made:
        x, y = at.mm("width") / 2, at.mm("depth") / 2
        sides = _loop(("front", (-x, -y)), ("right", (x, -y)), ("back", (x, y)), ("left", (-x, y)))
        return kernel.solid.extrude(sides, frame, at.mm("height"), up=self.direction == "up")

    def _cylinder(self, at: Builder, frame: Frame) -> Made:
        foot = Region((Circle2("round", (0.0, 0.0), at.mm("diameter") / 2),))
        return kernel.solid.extrude(foot, frame, at.mm("height"), up=self.direction == "up")

    def _cone(self, at: Builder, frame: Frame) -> Made:
        foot, end = at.mm("diameter") / 2, at.mm("top") / 2
        if abs(foot - end) < 1e-9:
            return self._cylinder(at, frame)
        height = at.mm("height") * (1 if self.direction == "up" else -1)
        far: list[tuple[str, Point2]] = [("end", (end, height))] if end > 0 else []
        return _turned(_loop(("foot", (0.0, 0.0)), ("slope", (foot, 0.0)), *far, ("axis", (0.0, height))), frame)

    def _ball(self, at: Builder, frame: Frame) -> Made:
        radius = at.mm("diameter") / 2
        half = Arc2("round", (0.0, 0.0), (0.0, -radius), (0.0, radius), True)
        return _turned(Region((half, Line2("axis", (0.0, radius), (0.0, -radius)))), frame)

    def _ring(self, at: Builder, frame: Frame) -> Made:
        middle, tube = at.mm("diameter") / 2, at.mm("tube") / 2
        if tube >= middle:
            words = f"The tube is as thick as the ring, {at.in_unit(2 * middle)}, and would close it."
            at.fail("tube", words, "Type a smaller one.")
        return _turned(Region((Circle2("round", (middle, 0.0), tube),)), frame)


def _loop(*corners: tuple[str, Point2]) -> Region:
    """Lines from corner to corner and back, each named with the corner that it begins at."""
    ends = [*corners[1:], corners[0]]
    return Region(tuple(Line2(name, a, b) for (name, a), (_, b) in zip(corners, ends, strict=True)))


def _turned(region: Region, frame: Frame) -> Made:
    """An outline turned about the plane's normal: its x runs out from the normal, its y along it."""
    upright = Frame(frame.origin, frame.x, cross(frame.x, frame.normal))
    return kernel.revolve.revolve(region, upright, (0.0, 0.0), (0.0, 1.0), _TURN)


_MAKERS = {
    "box": BasicShape._box,
    "cylinder": BasicShape._cylinder,
    "cone": BasicShape._cone,
    "ball": BasicShape._ball,
    "ring": BasicShape._ring,
}
