"""What a sketch looks like, as plain data: curves, points, sizes, marks, areas, open ends and what can still move."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import asdict
from typing import Any

import numpy as np

from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Loop, Spline2
from supplecast.errors import QuantityError
from supplecast.geometry import Point2
from supplecast.quantities import LENGTH_UNITS, Scope, show
from supplecast.sketch import regions
from supplecast.sketch.equations import numbered, said
from supplecast.sketch.labels import labels
from supplecast.sketch.live import Live
from supplecast.sketch.model import ANGLES, ORIGIN, Constraint, Drawing, Line, ends_of, stands_on
from supplecast.sketch.sizing import radii_of
from supplecast.sketch.solver import Solution, laid

_FEW = 80
"""In a sketch of more entities than this the marks are left out while something moves: nobody reads them then."""

_SILENT = frozenset({"shifted", "turned", "square off", "in line", "radius apart"})


def shape(curve: Curve2) -> dict[str, Any]:
    """A curve as the page draws it."""
    match curve:
        case Line2(a=a, b=b):
            return {"kind": "line", "a": a, "b": b}
        case Arc2(centre=c, a=a, b=b, ccw=ccw):
            return {"kind": "arc", "c": c, "a": a, "b": b, "r": curve.radius, "ccw": ccw, "large": abs(curve.sweep) > math.pi}
        case Circle2(centre=c, radius=r, ccw=ccw):
            return {"kind": "circle", "c": c, "r": r, "ccw": ccw}
        case Ellipse2():
            points = curve.sampled(24)
            return {"kind": "chain", "points": points.round(5).tolist()}
        case Spline2(poles=poles):
            return {"kind": "spline", "poles": poles}
    raise TypeError(curve)


def scene(live: Live, scope: Scope) -> dict[str, Any]:
    """All that the sheet shows of a sketch."""
    drawing, solution = live.drawing, live.solution
    curves, names = _curves(drawing), numbered(drawing)
    areas = regions.areas([curve for name, curve in curves.items() if not drawing.entities[name].construction])
    filled = {region.key for region in areas.filled}
    return {
        **_placed(drawing, solution, scope, curves, names),
        "marks": _marks(drawing, curves),
        "photos": [{"id": name, **photo.model_dump(mode="json")} for name, photo in drawing.photos.items()],
        "freedoms": solution.freedoms,
        "loose": sorted(solution.loose),
        "ways": [asdict(direction) for direction in live.directions()],
        "constraints": _rows(drawing, solution.doubled, names),
        "names": names,
        "regions": [
            {"key": r.key, "loops": [_loop(loop) for loop in (r.outer, *r.holes)], "area": r.area, "filled": r.key in filled}
            for r in areas.regions
        ],
        "area": sum(r.area for r in areas.filled),
        "gaps": [
            {"at": gap.at, "other": gap.other, "width": gap.width if math.isfinite(gap.width) else None} for gap in areas.gaps
        ],
        "spare": _single_points(drawing),
    }


def moved(live: Live, points: Mapping[str, Point2], radii: Mapping[str, float], scope: Scope) -> dict[str, Any]:
    """What a drag changes of the scene."""
    there = laid(live.drawing, points, radii)
    curves = _curves(there)
    marks = [] if len(curves) > _FEW else _marks(there, curves)
    return {**_placed(there, live.solution, scope, curves, numbered(there)), "marks": marks}


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


def _entity(name: str, drawing: Drawing, curve: Curve2, loose: Iterable[str]) -> dict[str, Any]:
    entity = drawing.entities[name]
    moving = {name, *stands_on(entity)} & set(loose)
    told: dict[str, Any] = {
        "id": name,
        "type": entity.type,
        "ends": ends_of(entity),
        "construction": entity.construction,
        "loose": bool(moving),
        "taken": name in drawing.taken,
        **shape(curve),
    }
    if entity.type == "spline":
        told["handles"] = [entity.through[0], entity.first, entity.through[-1], entity.last]
        told["through"] = entity.through
    return told


def _loop(loop: Loop) -> list[dict[str, Any]]:
    return [shape(curve) for curve in loop]


def _single_points(drawing: Drawing) -> list[str]:
    """Points that stand alone, not as an end or centre of anything."""
    used = {point for entity in drawing.entities.values() for point in stands_on(entity)}
    return [name for name in drawing.points if name not in used]


def _sizes(drawing: Drawing, scope: Scope, driven: Mapping[str, float], numbers: Mapping[str, str]) -> list[dict[str, Any]]:
    titles = {
        size.constraint: label.replace("_", " ") for figure in drawing.figures.values() for label, size in figure.sizes.items()
    }
    shown = labels(drawing)
    found = []
    for name, label in shown.items():
        held = drawing.constraints[name]
        found.append(
            {
                "id": name,
                "type": held.type,
                "title": titles.get(name) or _title(drawing, held, numbers),
                "value": held.value,
                "text": label.sign + _text(held, scope, driven.get(name)),
                "driven": held.driven,
                "on": held.on,
                "at": label.at,
                "lines": label.lines,
                "arcs": label.arcs,
                "arrows": label.arrows,
            }
        )
    return found


def _title(drawing: Drawing, held: Constraint, numbers: Mapping[str, str]) -> str:
    if held.group and held.type in ("distance", "radius apart"):
        return "offset or setback"
    if held.type == "distance" and held.on[1] not in drawing.entities:
        ends = set(held.on)
        along = next((name for name, e in drawing.entities.items() if isinstance(e, Line) and {e.a, e.b} == ends), None)
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
    bare = (held.value or "").strip().removesuffix("mm").removesuffix("deg").strip()
    is_plain = bare.replace(".", "", 1).lstrip("-").isdigit()
    return plain if is_plain else f"{plain} = {held.value}"


def _number(value: float, unit: float, angle: bool) -> str:
    return f"{show(math.degrees(value), 2)}°" if angle else show(value / unit, 3)


def _rows(drawing: Drawing, doubled: Iterable[str], names: Mapping[str, str]) -> list[dict[str, Any]]:
    """The list of constraints: sizes aside; what links copies and offsets is one row for each of its kinds."""
    found: list[dict[str, Any]] = []
    links: dict[str, list[str]] = {}
    twice = set(doubled)
    for name, held in drawing.constraints.items():
        if held.type in _SILENT:
            links.setdefault({"shifted": "row", "turned": "ring"}.get(held.type, "offset"), []).append(name)
        elif held.value is None:
            found.append(
                {"ids": [name], "type": held.type, "words": said(drawing, name, names), "on": held.on, "twice": name in twice}
            )
    for kind, held_by in links.items():
        on = sorted({part for name in held_by for part in drawing.constraints[name].on})
        words = {"row": "copies in a row", "ring": "copies round a centre", "offset": "offset of its source"}[kind]
        found.append({"ids": held_by, "type": kind, "words": words, "on": on, "twice": False})
    return found


def _marks(drawing: Drawing, curves: Mapping[str, Curve2]) -> list[dict[str, Any]]:
    """Small tags beside what is held; `way` is where the tag may step aside to."""
    found = []
    for name, held in drawing.constraints.items():
        if held.value is not None or held.type in _SILENT:
            continue
        for at, direction in _anchors(held, drawing, curves):
            found.append({"id": name, "type": held.type, "at": at, "way": direction})
    return found


def _anchors(held: Constraint, drawing: Drawing, curves: Mapping[str, Curve2]) -> list[tuple[Point2, Point2]]:
    def middle(part: str) -> tuple[Point2, Point2]:
        curve = curves[part]
        if isinstance(curve, Line2):
            (ax, ay), (bx, by) = curve.a, curve.b
            length = max(math.hypot(bx - ax, by - ay), 1e-12)
            return ((ax + bx) / 2, (ay + by) / 2), ((ay - by) / length, (bx - ax) / length)
        if isinstance(curve, (Arc2, Circle2)):
            turn = (curve.start if isinstance(curve, Arc2) else 0.0) + curve.sweep / 2
            out = (math.cos(turn), math.sin(turn))
            c, r = curve.centre, curve.radius
            return (c[0] + out[0] * r, c[1] + out[1] * r), out
        (x, y), (ahead_x, ahead_y) = curve.at(np.array([0.5, 0.501]))
        dx, dy = ahead_x - x, ahead_y - y
        length = max(math.hypot(dx, dy), 1e-12)
        return (float(x), float(y)), (float(-dy / length), float(dx / length))

    points = [part for part in held.on if part not in drawing.entities]
    up = (0.0, 1.0)
    if held.type == "tangent" and len(held.on) == 3:
        return [(drawing.place(held.on[2]), up)]
    if held.type == "symmetric":
        return [(drawing.place(part), up) for part in held.on[:2]]
    if held.type in ("midpoint", "on", "fix", "level", "plumb") and points:
        return [(drawing.place(points[0]), up)]
    if held.type == "tangent":
        rounds = [part for part in held.on if not isinstance(drawing.entities[part], Line)]
        return [middle(rounds[0])]
    return [middle(part) for part in held.on if part in drawing.entities]
