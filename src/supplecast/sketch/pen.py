"""The pen: the only hand that changes a drawing. It gives new ids, and keeps account of what an act made, lost and moved."""

from __future__ import annotations

import math
import secrets
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.quantities import Scope
from supplecast.sketch.belongings import Series
from supplecast.sketch.called import named, numbers_of, said
from supplecast.sketch.model import (
    ORIGIN,
    Arc,
    Circle,
    Constraint,
    ConstraintType,
    Drawing,
    Ellipse,
    Line,
    Shape,
    Spline,
    ends_of,
    stands_on,
)

_LETTERS = "abcdefghijkmnpqrstuvwxyz23456789"
_MEETS = 1e-5  # mm
_PREFIX: Mapping[type, str] = {Line: "L", Arc: "A", Circle: "C", Ellipse: "E", Spline: "S"}


@dataclass
class Report:
    """What came of an act, in words: constraints lost, constraints that now say something weaker, notes."""

    lost: list[str] = field(default_factory=list)
    weakened: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)

    def sentence(self, before: int, after: int, moving: Sequence[str] = ()) -> str:
        """What came of it, with the freedoms if there were `before` others, and what is `moving` now where nothing could."""
        words = []
        if self.lost:
            words.append(f"Lost: {', '.join(self.lost)}.")
        words += [f"{text}." for text in (*self.weakened, *self.notes)]
        if self.lost or self.weakened or before != after:
            words.append(f"Freedoms {before} → {after}.")
        if moving:
            words.append(f"No longer fully fixed: {', '.join(moving[:4])}{' and others' if len(moving) > 4 else ''}.")
        return " ".join(words)


class Pen:
    """Changes `drawing` in place.

    `inferred` lists constraints that are dropped again if others say them already, or if they stand in the way; `links` those
    of copies and offsets, dropped only where others say them; `reshaped` tells that curves were trimmed or
    lengthened, so that older constraints may have come to say the same.
    """

    def __init__(self, drawing: Drawing, scope: Scope) -> None:
        self.drawing = drawing
        self.scope = scope
        self.report = Report()
        self.inferred: list[str] = []
        self.links: list[str] = []
        self.made: list[str] = []
        self.reshaped = False
        self.before = frozenset(drawing.constraints)
        drawing.numbers = numbers_of(drawing)  # what is there keeps its name, whatever goes
        self._highest: Counter[str] = Counter()
        for name, number in drawing.numbers.items():
            kind = drawing.entities[name].type if name in drawing.entities else "point"
            self._highest[kind] = max(self._highest[kind], number)
        self.points_before = frozenset(drawing.points)

    # --- looking ---------------------------------------------------------------------------------------------------

    def name(self, part: str) -> str:
        """What people call a point or an entity."""
        return named(self.drawing, part)

    def at(self, point: str) -> Point2:
        if point != ORIGIN and point not in self.drawing.points:
            raise SketchError(f"The point {point} is no longer in the sketch.", "Pick another.")
        return self.drawing.place(point)

    def shape(self, name: str) -> Shape:
        entity = self.drawing.entities.get(name)
        if entity is None:
            raise SketchError("What was picked is no longer in the sketch.", "Pick another curve.")
        return entity

    def line(self, name: str) -> Line:
        entity = self.shape(name)
        if not isinstance(entity, Line):
            raise SketchError(f"{self.name(name).capitalize()} is not a line.", "Pick a line.")
        return entity

    def radius(self, name: str) -> float:
        match self.shape(name):
            case Arc(c=c, a=a):
                return math.dist(self.at(c), self.at(a))
            case Circle(r=r) | Ellipse(r=r):
                return r
        raise SketchError(f"{self.name(name).capitalize()} has no radius.", "Pick a round.")

    def mm(self, text: str, label: str, *, least: float | None = 0.0) -> float:
        """A typed length in mm; SketchError unless it is greater than `least`."""
        value = self.scope.evaluate(text, "length")
        if least is not None and value <= least:
            raise SketchError(f"The {label} must be greater than {least:g}.", f"Type a {label} such as 5.")
        if abs(value) > 1e5:
            raise SketchError(f"The {label} is over 100 m.", "Check its unit.")
        return value

    def radians(self, text: str) -> float:
        return self.scope.evaluate(text, "angle")

    def users(self, point: str) -> list[str]:
        """Entities that stand on a point."""
        return [name for name, entity in self.drawing.entities.items() if point in stands_on(entity)]

    def ending(self, point: str) -> list[str]:
        """Entities that end at a point."""
        return [name for name, entity in self.drawing.entities.items() if point in ends_of(entity)]

    def holding(self, *names: str) -> list[tuple[str, Constraint]]:
        """Constraints that hold any of some points or entities."""
        wanted = set(names)
        return [(k, held) for k, held in self.drawing.constraints.items() if wanted & set(held.on)]

    # --- drawing ---------------------------------------------------------------------------------------------------

    def fresh(self, prefix: str) -> str:
        """An id that nothing in the drawing has."""
        # Ids are never used again: picks of faces made of a line must not pass to another line.
        while True:
            name = prefix + "".join(secrets.choice(_LETTERS) for _ in range(4))
            drawing = self.drawing
            if not any(
                name in held for held in (drawing.points, drawing.entities, drawing.constraints, drawing.series, drawing.photos)
            ):
                return name

    def point(self, at: Point2) -> str:
        x, y = float(at[0]), float(at[1])
        if not (math.isfinite(x) and math.isfinite(y)) or max(abs(x), abs(y)) > 1e6:
            raise SketchError("That place lies too far away.", "Stay within a kilometre of the origin.")
        name = self.fresh("p")
        self.drawing.points[name] = (x, y)
        self._number(name, "point")
        return name

    def put(self, entity: Shape) -> str:
        name = self.fresh(_PREFIX[type(entity)])
        self.drawing.entities[name] = entity
        self._number(name, entity.type)
        self.made.append(name)
        return name

    def _number(self, name: str, kind: str) -> None:
        self._highest[kind] += 1
        self.drawing.numbers[name] = self._highest[kind]

    def replace(self, name: str, **changes: Any) -> None:
        if name in self.drawing.taken and set(changes) - {"construction"}:
            del self.drawing.taken[name]
            self.report.notes.append(f"{named(self.drawing, name).capitalize()} is no longer linked to the model")
        self.drawing.entities[name] = self.shape(name).model_copy(update=changes)

    def hold(self, kind: ConstraintType, *on: str, value: str | None = None, inferred: bool = False, **more: Any) -> str:
        """Add a constraint, unless the very same is there."""
        held = Constraint(type=kind, on=on, value=value, **more)
        for name, other in self.drawing.constraints.items():
            if other.type == kind and set(other.on) == set(on) and value is None and len(on) < 3:
                return name
        name = self.fresh("k")
        self.drawing.constraints[name] = held
        if inferred:
            self.inferred.append(name)
        return name

    def link(self, kind: ConstraintType, *on: str, **more: Any) -> None:
        """Tie a copy or an offset to its source, as far as that is not said already."""
        held = set(self.drawing.constraints)
        name = self.hold(kind, *on, **more)
        if name not in held:
            self.links.append(name)

    def series(self, made: Series) -> str:
        """Keep copies under a name of their own."""
        name = self.fresh("r")
        self.drawing.series[name] = made
        return name

    def group(self) -> str:
        """A name for sizes that are to be one size."""
        return self.fresh("g")

    # --- changing --------------------------------------------------------------------------------------------------

    def lose(self, constraint: str) -> None:
        """Drop a constraint that makes sense no more, and say so if it was there before."""
        if constraint in self.before:
            self.report.lost.append(said(self.drawing, constraint))
        del self.drawing.constraints[constraint]

    def rehold(self, constraint: str, **changes: Any) -> None:
        held = self.drawing.constraints[constraint]
        self.drawing.constraints[constraint] = held.model_copy(update=changes)

    def weaken(self, constraint: str, words: str, **changes: Any) -> None:
        self.report.weakened.append(f"{said(self.drawing, constraint).capitalize()} became {words}")
        self.rehold(constraint, **changes)

    def join(self, kept: str, gone: str) -> None:
        """Let everything that stands on one point stand on another in its place."""
        if kept == gone:
            return

        def swap(name: str) -> str:
            return kept if name == gone else name

        for name, entity in list(self.drawing.entities.items()):
            if gone in stands_on(entity):
                self.drawing.entities[name] = restood(entity, swap)
        for name, held in list(self.drawing.constraints.items()):
            if gone in held.on:
                on = tuple(swap(part) for part in held.on)
                if len(set(on)) < len(on) and held.type != "shifted":
                    del self.drawing.constraints[name]
                else:
                    self.drawing.constraints[name] = held.model_copy(update={"on": on})
        self.drawing.points.pop(gone, None)

    def weld(self, kept: str, gone: str) -> None:
        """Make one point of two. SketchError where a curve would lose its length by it."""
        for name in self.ending(gone):
            if kept in ends_of(self.shape(name)):
                raise SketchError(
                    f"{self.name(name).capitalize()} would shrink to nothing.", "Take ends of two different curves."
                )
        self.join(kept, gone)

    def erase(self, names: Iterable[str]) -> None:
        """Take entities, points and constraints out, and whatever cannot be without them."""
        drawing = self.drawing
        gone = set(names)
        for name in gone & set(drawing.constraints):
            del drawing.constraints[name]
        for name, entity in list(drawing.entities.items()):  # a spline can do without a point between its ends
            if isinstance(entity, Spline) and name not in gone and gone & set(entity.through[1:-1]):
                drawing.entities[name] = entity.without(gone - {entity.a, entity.b})
        dead = {name for name, entity in drawing.entities.items() if name in gone or stands_on(entity) & gone}
        freed: set[str] = gone & set(drawing.points)
        for name in dead:
            drawing.taken.pop(name, None)
            freed |= stands_on(drawing.entities.pop(name))
        standing = {point for entity in drawing.entities.values() for point in stands_on(entity)}
        freed -= standing | {ORIGIN}
        for point in freed & set(drawing.points):
            del drawing.points[point]
        self.forget(dead | freed)

    def forget(self, gone: set[str]) -> None:
        """Drop constraints and figures of what is gone."""
        drawing = self.drawing
        for name in [k for k, held in drawing.constraints.items() if gone & set(held.on)]:
            del drawing.constraints[name]
        for name, series in list(drawing.series.items()):
            left = series.without(gone)
            if left is None:
                del drawing.series[name]
            elif left != series:
                drawing.series[name] = left
        self.tidy_figures()

    def meet(self) -> None:
        """Ends that have come to lie on each other are one point, unless a curve would lose its length by it."""
        drawing = self.drawing
        ends = list(dict.fromkeys(p for entity in drawing.entities.values() for p in ends_of(entity)))
        if len(ends) < 2:
            return
        old, order = self.points_before, {p: k for k, p in enumerate(ends)}
        for i, j in sorted(cKDTree(np.array([self.at(p) for p in ends])).query_pairs(_MEETS)):
            kept, gone = sorted((ends[i], ends[j]), key=lambda p: (p != ORIGIN, p not in old, order[p]))
            known = {p for entity in drawing.entities.values() for p in ends_of(entity)}
            spans = any({kept, gone} <= set(ends_of(entity)) for entity in drawing.entities.values())
            if gone not in old and {kept, gone} <= known and not spans:
                self.join(kept, gone)
                self.reshaped = True

    def tidy_touches(self) -> None:
        """Two curves that touch, one of which ends on the other: a free touch says it twice, there it is an angle."""
        drawing = self.drawing
        free = [(k, held) for k, held in drawing.constraints.items() if held.type == "tangent" and len(held.on) == 2]
        ends_on = {held.on for held in drawing.constraints.values() if held.type == "on"} if free else set()
        for k, held in free:
            one, two = held.on
            shared = set(ends_of(self.shape(one))) & set(ends_of(self.shape(two)))
            shared |= {
                p for name, other in ((one, two), (two, one)) for p in ends_of(self.shape(name)) if (p, other) in ends_on
            }
            if shared:
                self.rehold(k, on=(one, two, min(shared)))

    def tidy_figures(self) -> None:
        """A figure that has lost a size or an entity is plain geometry from then on."""
        drawing = self.drawing
        for name, figure in list(drawing.figures.items()):
            whole = all(size.constraint in drawing.constraints for size in figure.sizes.values())
            if not whole or any(entity not in drawing.entities for entity in figure.entities):
                del drawing.figures[name]

    def drop_unused_points(self, candidates: Iterable[str]) -> None:
        """Take out points that neither an entity nor a constraint needs."""
        drawing = self.drawing
        used = {point for entity in drawing.entities.values() for point in stands_on(entity)}
        held = {part for constraint in drawing.constraints.values() for part in constraint.on}
        for point in set(candidates) - used - held - {ORIGIN}:
            drawing.points.pop(point, None)


def restood(entity: Shape, swap: Callable[[str], str]) -> Shape:
    """An entity on other points."""
    match entity:
        case Spline(through=through, first=first, last=last):
            return entity.model_copy(update={"through": tuple(map(swap, through)), "first": swap(first), "last": swap(last)})
        case _:
            fields = {name: swap(held) for name in ("a", "b", "c", "start", "end") if (held := getattr(entity, name, None))}
            return entity.model_copy(update=fields)
