"""What a sketch looks like, as plain data: curves, points, sizes, marks, areas, open ends and what can still move."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from supplecast import budget
from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Loop, Spline2
from supplecast.errors import QuantityError
from supplecast.expressions import LENGTH_UNITS
from supplecast.geometry import Point2
from supplecast.quantities import Scope
from supplecast.sketch import regions
from supplecast.sketch.called import measured_line, numbered, said
from supplecast.sketch.labels import followed, labels
from supplecast.sketch.live import Live, Motion
from supplecast.sketch.marks import SILENT, Mark, marks_of, of_copies
from supplecast.sketch.model import ANGLES, ORIGIN, Constraint, Drawing, Spline, ends_of, stands_on
from supplecast.sketch.sizing import radii_of
from supplecast.sketch.solver import Solution, laid
from supplecast.wording import show, with_points

_FEW = 80
"""In a sketch of more entities than this the marks are left out while something moves: nobody reads them then."""

_CROWDED = "Too much lies here for the areas to be told. Split the sketch into several."


@dataclass(frozen=True, kw_only=True)
class Shape:
    """A curve as the page draws it: a line `a` to `b`; an arc about `c` with its radius `r`, sense and whether it is `large`; a
    circle; a chain of `points`; a spline by its `poles`.
    """

    kind: Literal["line", "arc", "circle", "chain", "spline"]
    a: Point2 | None = None
    b: Point2 | None = None
    c: Point2 | None = None
    r: float | None = None
    ccw: bool | None = None
    large: bool = False
    points: Sequence[Sequence[float]] = ()
    poles: Sequence[Point2] = ()


@dataclass(frozen=True, kw_only=True)
class DrawnEntity(Shape):
    """An entity of a sketch: its `ends`; whether it can still move (`loose`) and came from the model (`taken`); of a spline the
    points it runs `through` and its `handles`, each end and the point that turns it.
    """

    id: str
    type: str
    ends: Sequence[str]
    construction: bool
    loose: bool
    taken: bool
    handles: Sequence[str] = ()
    through: Sequence[str] = ()


@dataclass(frozen=True, kw_only=True)
class TrialShape(Shape):
    """A curve that a tool would draw."""

    construction: bool


@dataclass(frozen=True)
class DrawnSize:
    """A size with its label and what belongs to it, as `sketch.labels.Label` gives it; `placed` if a hand has put it there."""

    id: str
    type: str
    title: str
    value: str | None
    text: str
    driven: bool
    on: Sequence[str]
    at: Point2
    placed: bool
    lines: Sequence[tuple[float, float, float, float]]
    arcs: Sequence[tuple[float, float, float, float, float]]
    arrows: Sequence[tuple[float, float, float, float]]


@dataclass(frozen=True)
class ConstraintRow:
    """A row of the list of constraints: one, or all that link copies or offsets. `twice`: said by others already."""

    ids: Sequence[str]
    type: str
    words: str
    on: Sequence[str]
    twice: bool


@dataclass(frozen=True)
class DrawnRegion:
    """An area by the loops round it, mm²; `filled` ones count as “all areas”."""

    key: str
    loops: Sequence[Sequence[Shape]]
    area: float
    filled: bool


@dataclass(frozen=True)
class OpenEnd:
    """Where an outline is open, and the next open end with its distance, if there is one; `closes` if that is so near that both
    may be meant as one.
    """

    at: Point2
    other: Point2 | None
    width: float | None
    closes: bool


@dataclass(frozen=True, kw_only=True)
class MovedScene:
    """What a drag changes of a scene."""

    points: Mapping[str, Point2]
    entities: Sequence[DrawnEntity]
    sizes: Sequence[DrawnSize]
    marks: Sequence[Mark]


@dataclass(frozen=True, kw_only=True)
class Scene(MovedScene):
    """All that the drawing sheet shows of a sketch; `directions` tell how loose points can still move, `spare` are points that
    stand alone, `names` what entities and points are called. `crowded` says why areas are not told, where they are
    not.
    """

    photos: Sequence[dict[str, Any]]
    freedoms: int
    loose: Sequence[str]
    directions: Sequence[Motion]
    constraints: Sequence[ConstraintRow]
    names: Mapping[str, str]
    regions: Sequence[DrawnRegion]
    area: float
    gaps: Sequence[OpenEnd]
    spare: Sequence[str]
    crowded: str


def shape(curve: Curve2) -> Shape:
    """A curve as the page draws it."""
    return Shape(**_drawn(curve))


def _drawn(curve: Curve2) -> dict[str, Any]:
    """The fields of a `Shape`."""
    match curve:
        case Line2(a=a, b=b):
            return {"kind": "line", "a": a, "b": b}
        case Arc2(centre=c, a=a, b=b, ccw=ccw):
            return {"kind": "arc", "c": c, "a": a, "b": b, "r": curve.radius, "ccw": ccw, "large": abs(curve.sweep) > math.pi}
        case Circle2(centre=c, radius=r, ccw=ccw):
            return {"kind": "circle", "c": c, "r": r, "ccw": ccw}
        case Ellipse2():
            return {"kind": "chain", "points": curve.sampled(24).round(5).tolist()}
        case Spline2(poles=poles):
            return {"kind": "spline", "poles": poles}
    raise TypeError(curve)


def trial_shape(curve: Curve2, *, construction: bool) -> TrialShape:
    """A curve that a tool would draw, as the page draws it."""
    return TrialShape(construction=construction, **_drawn(curve))


def scene(live: Live, scope: Scope) -> Scene:
    """All that the sheet shows of a sketch."""
    drawing, solution = live.drawing, live.solution
    curves, names = _curves(drawing), numbered(drawing)
    crowded = ""
    try:
        areas = regions.areas([curve for name, curve in curves.items() if not drawing.entities[name].construction])
    except budget.TooMuchWork:
        areas, crowded = regions.Areas((), (), ()), _CROWDED
    filled = {region.key for region in areas.filled}
    return Scene(
        **_placed(drawing, solution, scope, curves, names),
        marks=marks_of(drawing, curves),
        photos=[{"id": name, **photo.model_dump(mode="json")} for name, photo in drawing.photos.items()],
        freedoms=solution.freedoms,
        loose=sorted(solution.loose),
        directions=live.directions(),
        constraints=_rows(drawing, solution.doubled, names),
        names=names,
        regions=[
            DrawnRegion(r.key, [_loop(loop) for loop in (r.outer, *r.holes)], r.area, r.key in filled) for r in areas.regions
        ],
        area=sum(r.area for r in areas.filled),
        gaps=[
            OpenEnd(gap.at, gap.other, gap.width if math.isfinite(gap.width) else None, gap.width <= _nearby(drawing))
            for gap in areas.gaps
        ],
        spare=_single_points(drawing),
        crowded=crowded,
    )


def _nearby(drawing: Drawing) -> float:
    """How wide a gap may be to be closed by a click, mm: a fiftieth of the drawing's size, half a millimetre at least."""
    places = np.array([(0.0, 0.0), *drawing.points.values()])
    return max(0.5, 0.02 * float(np.hypot(*(places.max(axis=0) - places.min(axis=0)))))


def moved(live: Live, points: Mapping[str, Point2], radii: Mapping[str, float], scope: Scope) -> MovedScene:
    """What a drag changes of the scene."""
    there = followed(live.drawing, laid(live.drawing, points, radii))
    curves = _curves(there)
    marks = [] if len(curves) > _FEW else marks_of(there, curves)
    return MovedScene(**_placed(there, live.solution, scope, curves, numbered(there)), marks=marks)


def _curves(drawing: Drawing) -> dict[str, Curve2]:
    places, radii = {ORIGIN: (0.0, 0.0), **drawing.points}, radii_of(drawing)
    return {name: regions.curve(name, drawing, places, radii) for name in drawing.entities}


def _placed(
    drawing: Drawing, solution: Solution, scope: Scope, curves: Mapping[str, Curve2], names: Mapping[str, str]
) -> dict[str, Any]:
    """What lies where: points, curves and sizes."""
    return {
        "points": {ORIGIN: (0.0, 0.0), **drawing.points},
        "entities": [_entity(name, drawing, curve, solution.loose) for name, curve in curves.items()],
        "sizes": _sizes(drawing, scope, solution.driven, names),
    }


def _entity(name: str, drawing: Drawing, curve: Curve2, loose: Iterable[str]) -> DrawnEntity:
    entity = drawing.entities[name]
    moving = {name, *stands_on(entity)} & set(loose)
    return DrawnEntity(
        id=name,
        type=entity.type,
        ends=ends_of(entity),
        construction=entity.construction,
        loose=bool(moving),
        taken=name in drawing.taken,
        handles=(entity.through[0], entity.first, entity.through[-1], entity.last) if isinstance(entity, Spline) else (),
        through=entity.through if isinstance(entity, Spline) else (),
        **_drawn(curve),
    )


def _loop(loop: Loop) -> list[Shape]:
    return [shape(curve) for curve in loop]


def _single_points(drawing: Drawing) -> list[str]:
    """Points that stand alone, not as an end or centre of anything."""
    used = {point for entity in drawing.entities.values() for point in stands_on(entity)}
    return [name for name in drawing.points if name not in used]


def _sizes(drawing: Drawing, scope: Scope, driven: Mapping[str, float], numbers: Mapping[str, str]) -> list[DrawnSize]:
    titles = {
        size.constraint: label.replace("_", " ") for figure in drawing.figures.values() for label, size in figure.sizes.items()
    }
    shown = labels(drawing)
    sizes = []
    for name, label in shown.items():
        held = drawing.constraints[name]
        sizes.append(
            DrawnSize(
                id=name,
                type=held.type,
                title=titles.get(name) or _title(drawing, held, numbers),
                value=held.value,
                text=label.sign + _text(held, scope, driven.get(name)),
                driven=held.driven,
                on=held.on,
                at=label.at,
                placed=held.label is not None,
                lines=label.lines,
                arcs=label.arcs,
                arrows=label.arrows,
            )
        )
    return sizes + [_count(drawing, name) for name in drawing.series]


def _count(drawing: Drawing, name: str) -> DrawnSize:
    """How many copies a row or a ring has, as a size: beyond the last of a row, in the middle of a ring."""
    series = drawing.series[name]
    if series.kind == "row":
        (x0, y0), (x1, y1) = (drawing.place(p) for p in series.by)
        steps = series.count - 0.4
        at = (x0 + steps * (x1 - x0), y0 + steps * (y1 - y0))
    else:
        at = drawing.place(series.by[0])
    return DrawnSize(
        id=name, type="count", title=f"how many in the {series.kind}", value=str(series.count), text=f"{series.count} ×",
        driven=False, on=(*series.of, *(made for copy in series.copies for made in copy)), at=series.label or at,
        placed=series.label is not None,
        lines=(), arcs=(), arrows=(),
    )  # fmt: skip


def _title(drawing: Drawing, held: Constraint, numbers: Mapping[str, str]) -> str:
    if held.group and held.type in ("distance", "radius apart"):
        return "offset or setback"
    along = measured_line(drawing, held)
    if along is not None:
        return f"length of {numbers[along]}"
    word = {"distance x": "across", "distance y": "up"}.get(held.type, held.type)
    return f"{word}, {' to '.join(numbers[part] for part in held.on)}"


def _text(held: Constraint, scope: Scope, measured: float | None) -> str:
    """What the label says: the number, after it its expression where that is more than a number."""
    angle = held.type in ANGLES
    unit = 1.0 if angle else LENGTH_UNITS[scope.unit]
    if held.driven:
        value = measured or 0.0
        return f"({_number(value, unit, angle)})"
    try:
        value = scope.evaluate(held.value or "", "angle" if angle else "length")
    except QuantityError:
        return held.value or ""
    plain = _number(value, unit, angle)
    bare = with_points(held.value or "").strip()
    for unit_word in (scope.unit, "mm", "deg"):
        bare = bare.removesuffix(unit_word).strip()
    is_plain = bare.replace(".", "", 1).lstrip("-").isdigit()
    return plain if is_plain else f"{plain} = {held.value}"


def _number(value: float, unit: float, angle: bool) -> str:
    return f"{show(math.degrees(value), 2)}°" if angle else show(value / unit, 3)


def _rows(drawing: Drawing, doubled: Iterable[str], names: Mapping[str, str]) -> list[ConstraintRow]:
    """The list of constraints: sizes aside; what links copies and offsets is one row for each of its kinds."""
    rows: list[ConstraintRow] = []
    links: dict[str, list[str]] = {}
    twice = set(doubled)
    copied = of_copies(drawing)
    for name, held in drawing.constraints.items():
        if held.type == "equal" and frozenset(held.on) in copied:
            links.setdefault(copied[frozenset(held.on)], []).append(name)
        elif held.type in SILENT:
            links.setdefault({"shifted": "row", "turned": "ring"}.get(held.type, "offset"), []).append(name)
        elif held.value is None:
            rows.append(ConstraintRow([name], held.type, said(drawing, name, names), held.on, name in twice))
    for kind, held_by in links.items():
        on = sorted({part for name in held_by for part in drawing.constraints[name].on})
        words = {"row": "copies in a row", "ring": "copies round a centre", "offset": "offset of its source"}[kind]
        rows.append(ConstraintRow(held_by, kind, words, on, twice=False))
    return rows
