"""Cut: curves parted in two."""

from __future__ import annotations

from typing import Literal

from supplecast.curves import Curve2
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act
from supplecast.sketch.acts.draw import Place
from supplecast.sketch.acts.pieces import (
    laid,
    opened,
    parted,
    place_on,
    share_of,
)
from supplecast.sketch.belongings import Id
from supplecast.sketch.model import Circle, Ellipse, Line
from supplecast.sketch.pen import Pen

_NEAR = 1e-6


class Cut(Act):
    """Part a curve in two at a place; the pieces stay joined."""

    words = "Cut"
    do: Literal["cut"] = "cut"
    reshapes = True
    entity: Id
    at: Place

    def on(self, pen: Pen) -> None:
        cut(pen, self.entity, self.at)


def cut(pen: Pen, name: str, place: Point2) -> None:
    """Part a curve in two at the place of it that is nearest."""
    entity = pen.shape(name)
    curve = laid(pen)[name]
    t = share_of(curve, place)
    if isinstance(entity, Circle) or (isinstance(entity, Ellipse) and not entity.ends):
        _part_loop(pen, name, entity, curve, t)
        return
    if not _NEAR < t < 1 - _NEAR:
        raise SketchError("The cut lies at an end of the curve.", "Pick a place between its ends.")
    middle = pen.point(place_on(curve, t))
    younger = parted(pen, name, entity, curve, (middle, middle), (t, t))
    for k, held in pen.holding(name):
        if (held.type == "equal" and isinstance(entity, Line)) or held.type == "arc length":
            pen.lose(k)
    if isinstance(entity, Line):
        pen.hold("parallel", name, younger, inferred=True)  # with the shared point: in one line


def _part_loop(pen: Pen, name: str, entity: Circle | Ellipse, curve: Curve2, t: float) -> None:
    a, b = (pen.point(place_on(curve, share)) for share in (t, t + 0.5))
    pen.drawing.entities[name] = opened(entity, a, b)
    younger = pen.put(opened(entity, b, a).model_copy(update={"came_from": (name, *entity.came_from)}))
    if isinstance(entity, Ellipse):
        pen.hold("equal", name, younger, inferred=True)
