"""Drawing with a tool, and what is done to single entities: construction, points of splines, closing a gap, erasing."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from supplecast.curves import interpolated
from supplecast.errors import SketchError
from supplecast.sketch.acts import Act, Text
from supplecast.sketch.belongings import Coordinate, Id
from supplecast.sketch.crossings import nearest
from supplecast.sketch.model import Spline
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Pick
from supplecast.sketch.tools import lay

Place = tuple[Coordinate, Coordinate]
Names = Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]


class Draw(Act):
    """Draw with a tool: its clicks, and the sizes that were typed."""

    words = "Draw"
    do: Literal["draw"] = "draw"
    tool: Annotated[str, Field(max_length=40)]
    picks: Annotated[tuple[Pick, ...], Field(min_length=1, max_length=200)]
    sizes: dict[Annotated[str, Field(max_length=20)], Text] = Field(default_factory=dict, max_length=6)
    construction: bool = False

    @property
    def title(self) -> str:
        return self.tool.capitalize()

    def on(self, pen: Pen) -> None:
        lay(pen, self.tool, self.picks, self.sizes)
        for name in pen.made if self.construction else ():
            pen.replace(name, construction=True)


class Erase(Act):
    """Take entities, points or constraints out."""

    words = "Erase"
    do: Literal["erase"] = "erase"
    names: Names

    def on(self, pen: Pen) -> None:
        pen.erase(self.names)


class Construct(Act):
    """Make entities construction lines, or real ones again."""

    words = "Construction"
    do: Literal["construction"] = "construction"
    names: Names
    on_: Annotated[bool, Field(alias="set")] = True

    def on(self, pen: Pen) -> None:
        for name in self.names:
            pen.replace(name, construction=self.on_)


class CloseGap(Act):
    """Join two open ends."""

    words = "Close a gap"
    do: Literal["close gap"] = "close gap"
    a: Place
    b: Place

    def on(self, pen: Pen) -> None:
        first, second = (_end_at(pen, place) for place in (self.a, self.b))
        if first == second:
            raise SketchError("These ends are joined already.", "Nothing is left to close.")
        pen.weld(first, second)


def _end_at(pen: Pen, place: Place) -> str:
    points = [p for p in pen.drawing.points if pen.ending(p)]
    closest = min(points, key=lambda p: math.dist(pen.at(p), place), default=None)
    if closest is None or math.dist(pen.at(closest), place) > 1e-3:
        raise SketchError("There is no open end at that place any more.", "Pick it again.")
    return closest


class InsertPoint(Act):
    """Put another point into a spline, where it runs nearest to a place."""

    words = "Add a point"
    do: Literal["insert point"] = "insert point"
    entity: Id
    at: Place

    def on(self, pen: Pen) -> None:
        spline = _spline(pen, self.entity)
        places = [pen.at(p) for p in spline.through]
        curve = interpolated(self.entity, places, pen.at(spline.first), pen.at(spline.last), spline.spans)
        t = float(nearest(curve, np.array([self.at]))[0])
        ends = np.concatenate([[0.0], np.cumsum(curve.spans)]) / sum(curve.spans)
        after = int(np.searchsorted(ends, t))
        if not 0 < after < len(ends) or min(abs(ends - t)) < 1e-4:
            raise SketchError("There is a point of the spline already.", "Click between its points.")
        x, y = curve.at(np.array([t]))[0]
        new = pen.point((float(x), float(y)))
        through = (*spline.through[:after], new, *spline.through[after:])
        share = (t - ends[after - 1]) / (ends[after] - ends[after - 1])
        span = curve.spans[after - 1]
        spans = (*curve.spans[: after - 1], span * share, span * (1 - share), *curve.spans[after:]) if spline.spans else ()
        pen.replace(self.entity, through=through, spans=spans)


class DropPoint(Act):
    """Take a point out of a spline."""

    words = "Remove a point"
    do: Literal["drop point"] = "drop point"
    entity: Id
    point: Id

    def on(self, pen: Pen) -> None:
        spline = _spline(pen, self.entity)
        if self.point not in spline.through:
            raise SketchError("The spline does not run through that point.", "Pick one of its points.")
        if len(spline.through) == 2:
            raise SketchError("A spline needs two points.", "Erase the spline instead.")
        fewer = spline.without({self.point})
        pen.replace(self.entity, through=fewer.through, spans=fewer.spans)
        for name, held in pen.holding(self.point):
            if not pen.users(self.point) or (self.entity in held.on and self.point in held.on):
                pen.lose(name)
        pen.drop_unused_points([self.point])


def _spline(pen: Pen, name: str) -> Spline:
    curve = pen.shape(name)
    if not isinstance(curve, Spline):
        raise SketchError(f"{pen.name(name).capitalize()} is not a spline.", "Pick a spline.")
    return curve
