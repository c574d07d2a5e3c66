"""Moving, turning and scaling what is drawn, or copies of it; and where a drag has let go.

What held inside the moved set and still holds stays; what no longer does is lost, and said so.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act, Text
from supplecast.sketch.acts.copies import Copier
from supplecast.sketch.acts.draw import Names, Place
from supplecast.sketch.belongings import Coordinate, Id
from supplecast.sketch.model import ORIGIN, SIZED, Circle, Ellipse, stands_on
from supplecast.sketch.pen import Pen
from supplecast.sketch.sizing import size_of
from supplecast.sketch.system import System

_HOLDS = 1e-6


class Dropped(Act):
    """Where points and radii were when a drag let go."""

    words = "Drag"
    do: Literal["dropped"] = "dropped"
    points: dict[Id, Place] = Field(default_factory=dict, max_length=4000)
    radii: dict[Id, Annotated[Coordinate, Field(gt=0)]] = Field(default_factory=dict, max_length=2000)

    def on(self, pen: Pen) -> None:
        for name, place in self.points.items():
            if name in pen.drawing.points:
                pen.drawing.points[name] = place
        for name, radius in self.radii.items():
            if isinstance(pen.drawing.entities.get(name), (Circle, Ellipse)):
                pen.replace(name, r=radius)


class _Moving(Act):
    reshapes = True
    names: Names
    copied: Annotated[bool, Field(alias="copy")] = False

    def _do(self, pen: Pen, place: Callable[[Point2], Point2], factor: float = 1.0) -> None:
        if self.copied:
            _copied(pen, self.names, place, factor)
            return
        points = {p for name in self.names for p in stands_on(pen.shape(name))} - {ORIGIN}
        for point in points:
            pen.drawing.points[point] = place(pen.at(point))
        for name in self.names:
            entity = pen.shape(name)
            if isinstance(entity, (Circle, Ellipse)):
                pen.replace(name, r=entity.r * factor)
        _drop_broken(pen, factor, points | set(self.names))


def _copied(pen: Pen, names: Names, place: Callable[[Point2], Point2], factor: float) -> None:
    """A copy of its own, held among itself as the source is held among itself."""
    done = Copier(pen).copy(names, place, factor=factor)
    for name, twin in done.curves.items():
        for k, held in pen.holding(twin):
            if held.type == "equal" and name in held.on:
                del pen.drawing.constraints[k]
    known = {**done.points, **done.curves}
    inner = [held for held in pen.drawing.constraints.values() if all(part in known for part in held.on)]
    for held in inner:
        pen.hold(held.type, *(known[part] for part in held.on), value=held.value, driven=held.driven, sector=held.sector)
    _drop_broken(pen, factor, set(known.values()))


def _drop_broken(pen: Pen, factor: float, moved: set[str]) -> None:
    """Scaled lengths inside the moved set follow; then whatever holds no more is lost."""
    if factor != 1.0:
        for k, held in list(pen.drawing.constraints.items()):
            if held.type in SIZED - {"angle", "turned"} and held.value and set(held.on) <= moved:
                pen.rehold(k, value=f"({held.value}) * {factor:.9g}")
    system = System(pen.drawing, size_of(pen.scope), merged=False)
    residual, _ = system.evaluate(system.z)
    broken = {system.owners[row] for row in np.nonzero(np.abs(residual) > _HOLDS)[0]}
    for k, held in list(pen.drawing.constraints.items()):
        if k in broken and set(held.on) & moved and not held.driven:
            pen.lose(k)
    pen.tidy_figures()


class Move(_Moving):
    """Move curves, or copies of them, by (dx, dy)."""

    words = "Move"
    do: Literal["move"] = "move"
    dx: Text = "0"
    dy: Text = "0"

    def on(self, pen: Pen) -> None:
        dx, dy = pen.mm(self.dx, "x", least=None), pen.mm(self.dy, "y", least=None)
        self._do(pen, lambda p: (p[0] + dx, p[1] + dy))


class Turn(_Moving):
    """Turn curves, or copies of them, about a point."""

    words = "Turn"
    do: Literal["turn"] = "turn"
    angle: Text
    about: Place = (0.0, 0.0)

    def on(self, pen: Pen) -> None:
        angle = pen.radians(self.angle)
        cos, sin, (cx, cy) = math.cos(angle), math.sin(angle), self.about

        def place(p: Point2) -> Point2:
            x, y = p[0] - cx, p[1] - cy
            return (cx + cos * x - sin * y, cy + sin * x + cos * y)

        self._do(pen, place)


class Scale(_Moving):
    """Scale curves, or copies of them, about a point."""

    words = "Scale"
    do: Literal["scale"] = "scale"
    factor: Text
    about: Place = (0.0, 0.0)

    def on(self, pen: Pen) -> None:
        factor = pen.scope.evaluate(self.factor if "%" in self.factor else f"({self.factor}) * 100", "factor")
        if not 1e-4 <= factor <= 1e4:
            raise SketchError("The factor must lie between 0.0001 and 10000.", "Type a factor such as 1.5.")
        cx, cy = self.about
        self._do(pen, lambda p: (cx + (p[0] - cx) * factor, cy + (p[1] - cy) * factor), factor)
