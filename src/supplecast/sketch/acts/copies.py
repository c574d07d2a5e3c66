"""Copies that stay linked: mirrored about a line, in a row, round a centre. Every copy refers to its source, not to the one
before it, so that one can be erased without losing those after it. An end of a copy that comes to lie on the end of another
curve is that end; a curve that lies there already is not drawn again."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from supplecast.errors import SketchError
from supplecast.geometry import Floats, Point2
from supplecast.sketch.acts import Act, Text
from supplecast.sketch.acts.draw import Names
from supplecast.sketch.belongings import Id, Series
from supplecast.sketch.model import ORIGIN, Arc, Circle, Ellipse, Line, Shape, Spline, ends_of, stands_on
from supplecast.sketch.pen import Pen, restood

_SAME = 1e-5  # mm
_MOST = 200
_AXES = {"ox": (1.0, 0.0), "oy": (0.0, 1.0)}


@dataclass
class Copied:
    """The copy of each point and of each curve by its name, and the points among them that were there before."""

    points: dict[str, str] = field(default_factory=dict)
    curves: dict[str, str] = field(default_factory=dict)
    met: set[str] = field(default_factory=set)

    @property
    def made(self) -> tuple[str, ...]:
        return tuple(self.curves.values())


class Copier:
    """Draws curves again at other places."""

    def __init__(self, pen: Pen) -> None:
        self.pen = pen
        self.ends = list(dict.fromkeys(p for entity in pen.drawing.entities.values() for p in ends_of(entity)))
        self.curves: dict[tuple[type, int], list[Floats]] = {}
        for name in pen.drawing.entities:
            self._known(pen.shape(name), pen.at)

    def copy(
        self, names: Sequence[str], place: Callable[[Point2], Point2], *, turned_over: bool = False, factor: float = 1.0
    ) -> Copied:
        """Copies of entities at other places, `factor` times as large. A point that does not move is its own copy."""
        pen, done = self.pen, Copied()
        places = np.array([pen.at(end) for end in self.ends]).reshape(-1, 2)
        standing = list(self.ends)

        def stand(point: str, *, end: bool) -> str:
            if point not in done.points:
                at = pen.at(point)
                there = place(at)
                gaps = np.hypot(*(places - there).T) if end else np.empty(0)
                if math.dist(at, there) < _SAME:
                    done.points[point] = point
                elif gaps.size and gaps.min() < _SAME:
                    done.points[point] = standing[int(gaps.argmin())]
                    done.met.add(done.points[point])
                    pen.reshaped = True  # what held both ends may say the same now
                else:
                    done.points[point] = pen.point(there)
            return done.points[point]

        for name in names:
            entity = pen.shape(name)
            twin = (
                entity.model_copy(update={"cw": not entity.cw})
                if turned_over and isinstance(entity, (Arc, Ellipse))
                else entity
            )
            if isinstance(twin, (Circle, Ellipse)):
                twin = twin.model_copy(update={"r": twin.r * factor})
            if self._lies_there(twin, lambda p: place(pen.at(p))):
                continue
            for point in sorted(stands_on(entity)):
                stand(point, end=point in ends_of(entity))
            made = pen.put(restood(twin, lambda p: done.points[p]).model_copy(update={"came_from": ()}))
            done.curves[name] = made
            self._known(pen.shape(made), pen.at)
            if isinstance(entity, (Circle, Ellipse)) and factor == 1.0:
                pen.link("equal", name, made)
        self.ends = list(dict.fromkeys([*self.ends, *(p for name in done.made for p in ends_of(pen.shape(name)))]))
        return done

    def _lies_there(self, entity: Shape, at: Callable[[str], Point2]) -> bool:
        sign = _signature(entity, at)
        there = self.curves.get((type(entity), len(sign)), [])
        return bool(there) and bool((np.abs(np.array(there) - sign).max(axis=1) < _SAME).any())

    def _known(self, entity: Shape, at: Callable[[str], Point2]) -> None:
        sign = _signature(entity, at)
        self.curves.setdefault((type(entity), len(sign)), []).append(sign)


def _signature(entity: Shape, at: Callable[[str], Point2]) -> Floats:
    """Numbers that tell where a curve lies, whichever way it is run through."""
    ends = sorted((round(x, 6), round(y, 6)) for x, y in map(at, ends_of(entity)))
    rest: list[Point2] = []
    match entity:
        case Arc(c=c, a=a, b=b, cw=cw):
            first, last = (a, b) if not cw else (b, a)
            (cx, cy), (ax, ay), (bx, by) = at(c), at(first), at(last)
            start = math.atan2(ay - cy, ax - cx)
            half = ((math.atan2(by - cy, bx - cx) - start) % (2 * math.pi)) / 2
            r = math.hypot(ax - cx, ay - cy)
            rest = [(cx, cy), (cx + r * math.cos(start + half), cy + r * math.sin(start + half))]
        case Circle(c=c, r=r):
            rest = [at(c), (r, r)]
        case Ellipse(c=c, a=a, r=r, cw=cw):
            (cx, cy), (ax, ay) = at(c), at(a)
            axis = max((ax - cx, ay - cy), (cx - ax, cy - ay))  # either end of the axis tells the same
            rest = [(cx, cy), axis, (r, float(cw) if entity.ends else 0.0)]
        case Spline(through=through, first=first, last=last):
            run = [at(p) for p in (*through, first, last)]
            back = [at(p) for p in (*through[::-1], last, first)]
            rest = min(run, back)
    return np.array([*ends, *rest]).ravel()


def _axis(pen: Pen, axis: str) -> str:
    """An axis of the sheet as a construction line from the origin, fixed; the one there is, if it was used before."""
    x, y = _AXES[axis]
    for name, entity in pen.drawing.entities.items():
        if isinstance(entity, Line) and entity.construction and entity.a == ORIGIN:
            at = pen.at(entity.b)
            if abs(at[0] * y - at[1] * x) < _SAME and any(held.type == "fix" for _, held in pen.holding(entity.b)):
                return name
    reach = max((math.hypot(*place) for place in pen.drawing.points.values()), default=0.0) or 20.0
    end = pen.point((x * reach, y * reach))
    pen.hold("fix", end)
    return pen.put(Line(a=ORIGIN, b=end, construction=True))


def _refuse_nothing(made: Iterable[str]) -> None:
    if not list(made):
        raise SketchError("Everything that would be drawn lies there already.", "Pick other curves, or another place.")


class Mirror(Act):
    """Copy curves to the other side of a line, or of an axis of the sheet, `ox` or `oy`; the copies follow."""

    words = "Mirror"
    do: Literal["mirror"] = "mirror"
    reshapes = True
    names: Names
    axis: Id

    def on(self, pen: Pen) -> None:
        name = _axis(pen, self.axis) if self.axis in _AXES else self.axis
        axis = pen.line(name)
        a, b = pen.at(axis.a), pen.at(axis.b)
        length = math.dist(a, b)
        if length < 1e-9:
            raise SketchError("The mirror line has no length.", "Pick another line.")
        u = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)

        def place(p: Point2) -> Point2:
            t = (p[0] - a[0]) * u[0] + (p[1] - a[1]) * u[1]
            foot = (a[0] + t * u[0], a[1] + t * u[1])
            return (2 * foot[0] - p[0], 2 * foot[1] - p[1])

        names = [name for name in self.names if name != self.axis]
        if not names:
            raise SketchError("Nothing to mirror is picked.", "Pick curves besides the mirror line.")
        done = Copier(pen).copy(names, place, turned_over=True)
        _refuse_nothing(done.made)
        for point, twin in done.points.items():
            if twin != point:
                pen.link("symmetric", point, twin, name)
            elif point not in (axis.a, axis.b, ORIGIN):
                pen.link("on", point, name)


class Row(Act):
    """Copy curves in a row: `count` in all, each a step of (dx, dy) mm farther; the copies follow."""

    words = "Row"
    do: Literal["row"] = "row"
    reshapes = True
    names: Names
    count: Annotated[int, Field(ge=2, le=_MOST)]
    dx: Text = "0"
    dy: Text = "0"

    def on(self, pen: Pen) -> None:
        dx, dy = pen.mm(self.dx, "step", least=None), pen.mm(self.dy, "step", least=None)
        if math.hypot(dx, dy) < 1e-6:
            raise SketchError("The copies would lie on each other.", "Type a step along x or y.")
        copier = Copier(pen)
        done = copier.copy(self.names, lambda p: (p[0] + dx, p[1] + dy))
        _refuse_nothing(done.made)
        seed, first = next((pair for pair in done.points.items() if pair[1] not in done.met), next(iter(done.points.items())))
        pen.hold("distance x", seed, first, value=self.dx)
        pen.hold("distance y", seed, first, value=self.dy)
        for point, twin in done.points.items():
            if point != seed:
                pen.link("shifted", point, twin, seed, first, times=1)
        row = Series(kind="row", of=self.names, copies=(done.made,), by=(seed, first))
        _grow(pen, copier, pen.series(row), row, self.count)


class Ring(Act):
    """Copy curves round a centre: `count` in all, `step` apart (by default spread evenly over a full turn)."""

    words = "Ring"
    do: Literal["ring"] = "ring"
    reshapes = True
    names: Names
    count: Annotated[int, Field(ge=2, le=_MOST)]
    centre: Id = ORIGIN
    step: Text = ""

    def on(self, pen: Pen) -> None:
        text = self.step.strip() or _even(self.count)
        if abs(pen.radians(text)) < 1e-6:
            raise SketchError("The copies would lie on each other.", "Type an angle such as 30.")
        pen.at(self.centre)
        ring = Series(kind="ring", of=self.names, by=(self.centre,), step=text, even=not self.step.strip(), group=pen.group())
        name = pen.series(ring)
        _grow(pen, Copier(pen), name, ring, self.count)
        _refuse_nothing(made for copy in pen.drawing.series[name].copies for made in copy)


def _even(count: int) -> str:
    return f"360 deg / {count}"


def recount(pen: Pen, name: str, text: str) -> None:
    """Let a row or a ring have another number of copies. SketchError unless `text` is a whole number from 2 on."""
    count = pen.scope.evaluate(text, "number")
    if count != round(count) or not 2 <= count <= _MOST:
        raise SketchError(f"“{text}” is no number of copies.", f"Type a whole number from 2 to {_MOST}.")
    count, series = round(count), pen.drawing.series[name]
    if series.even and series.group:
        series = series.model_copy(update={"step": _even(count)})
        pen.drawing.series[name] = series
        _turn(pen, series)
    gone = [made for copy in series.copies[count - 1 :] for made in copy]
    pen.drawing.series[name] = series = series.model_copy(update={"copies": series.copies[: count - 1]})
    pen.erase(gone)
    _grow(pen, Copier(pen), name, series, count)


def _turn(pen: Pen, series: Series) -> None:
    """Another angle for all copies of a ring; they are laid there at once, so that nothing has to be sought."""
    angle, centre = pen.radians(series.step), pen.at(series.by[0])
    for k, held in pen.drawing.constraints.items():
        if held.type == "turned" and held.group == series.group:
            pen.rehold(k, value=series.step)
            if held.on[1] in pen.drawing.points:
                pen.drawing.points[held.on[1]] = _round(centre, held.times * angle)(pen.at(held.on[0]))


def _round(centre: Point2, angle: float) -> Callable[[Point2], Point2]:
    cos, sin = math.cos(angle), math.sin(angle)

    def place(p: Point2) -> Point2:
        x, y = p[0] - centre[0], p[1] - centre[1]
        return (centre[0] + cos * x - sin * y, centre[1] + sin * x + cos * y)

    return place


def _grow(pen: Pen, copier: Copier, name: str, series: Series, count: int) -> None:
    """Copies as many as are short of a count, by the step there is."""
    copies = list(series.copies)
    for k in range(len(copies) + 1, count):
        if series.kind == "row":
            seed, first = series.by
            (x0, y0), (x1, y1) = pen.at(seed), pen.at(first)
            dx, dy = k * (x1 - x0), k * (y1 - y0)
            done = copier.copy(series.of, lambda p, dx=dx, dy=dy: (p[0] + dx, p[1] + dy))  # type: ignore[misc]
            for point, twin in done.points.items():
                pen.link("shifted", point, twin, seed, first, times=k)
        else:
            (centre,) = series.by
            done = copier.copy(series.of, _round(pen.at(centre), k * pen.radians(series.step)))
            _link_ring(pen, done.points, series, centre, k)
        copies.append(done.made)
    pen.drawing.series[name] = series.model_copy(update={"copies": tuple(copies)})


def _link_ring(pen: Pen, points: Mapping[str, str], series: Series, centre: str, k: int) -> None:
    for point, twin in points.items():
        if twin != point:
            pen.link("turned", point, twin, centre, value=series.step, times=k, group=series.group)
        elif point != centre:
            pen.link("coincident", point, centre)
