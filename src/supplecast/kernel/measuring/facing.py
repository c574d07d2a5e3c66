"""How the faces of a solid lie to a pull: the exact least and greatest draft of each.

Signed draft is asin(n·d), n being the normal out of the material and d the pull: positive where a face is seen from the side
that the pull points to, 0 where it stands along the pull. Flats, cylinders and cones are found in closed form. Of all others
the extremes are sought on the face itself and along its edges, never beyond its outline and never from triangles, whose normals
may be tens of degrees off.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.IntTools import IntTools_FClass2d
from OCP.TopAbs import TopAbs_EDGE, TopAbs_IN, TopAbs_Orientation
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS
from scipy.optimize import minimize_scalar

from supplecast.geometry import Floats, Vec, rounded, times, unit
from supplecast.kernel.shapes.face_key import FaceKey
from supplecast.kernel.shapes.shape import Solid

_ALONG = 17  # places tried along an edge
_ACROSS = 9  # and each way across a face
_CLOSE = 1e-10
_TRIES = 40

_REMEMBERED = 20_000
_DIGITS = 12

Value = Callable[[float, float], float]
_ranges: OrderedDict[tuple[FaceKey, Vec], tuple[float, float]] = OrderedDict()


def drafts(solid: Solid, pull: Vec, faces: Sequence[int] | None = None) -> Floats:
    """Least and greatest signed draft of every face, or of some in their order, (faces, 2) rad."""
    direction = unit(pull)
    wanted = range(solid.face_count) if faces is None else faces
    rows = np.array([_range(solid.face(index), direction) for index in wanted]).reshape(-1, 2)
    angles: Floats = np.arcsin(np.clip(rows, -1.0, 1.0))
    return angles


def _range(face: Any, direction: Vec) -> tuple[float, float]:
    """Least and greatest n·d of a face, remembered by the face: halves and slides are asked about those of their part again."""
    sense = 1.0 if direction > (0.0, 0.0, 0.0) else -1.0
    key = (FaceKey(face), rounded(times(direction, sense), _DIGITS))
    sense = -sense if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else sense
    known = _ranges.get(key)
    if known is None:
        known = _ranges[key] = _worked_out(TopoDS.Face(face.Oriented(TopAbs_Orientation.TopAbs_FORWARD)), key[1])
        if len(_ranges) > _REMEMBERED:
            _ranges.popitem(last=False)
    return known if sense > 0 else (-known[1], -known[0])


def forget() -> None:
    """Drop every remembered face."""
    _ranges.clear()


def _worked_out(face: Any, direction: Vec) -> tuple[float, float]:
    surface = BRepAdaptor_Surface(face)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    value = value_on(surface, direction, 1.0, ((u0 + u1) / 2, (v0 + v1) / 2))
    match surface.GetType():
        case GeomAbs_SurfaceType.GeomAbs_Plane:
            only = value((u0 + u1) / 2, (v0 + v1) / 2)
            return only, only
        case GeomAbs_SurfaceType.GeomAbs_Cylinder | GeomAbs_SurfaceType.GeomAbs_Cone:
            return _turned(face, value, (v0 + v1) / 2)
    return _sought(face, value, (u0, u1, v0, v1))


def value_on(surface: Any, direction: Vec, sense: float, middle: tuple[float, float]) -> Value:
    """n·d at a place of the surface; where it comes to a point, just beside that, towards the middle."""
    place, along, across = gp_Pnt(), gp_Vec(), gp_Vec()
    d = gp_Vec(*direction)

    def value(u: float, v: float) -> float:
        surface.D1(u, v, place, along, across)
        normal = along.Crossed(across)
        size = normal.Magnitude()
        if size < 1e-12:
            surface.D1(u + 1e-6 * (middle[0] - u), v + 1e-6 * (middle[1] - v), place, along, across)
            normal = along.Crossed(across)
            size = max(normal.Magnitude(), 1e-300)
        return float(sense * normal.Dot(d) / size)

    return value


def _turned(face: Any, value: Value, v: float) -> tuple[float, float]:
    """On cylinders and cones n·d = A cos(u − φ) + B, whatever v."""
    base, size, phase = wave(value, v)
    low, high = _turn(face)
    extremes = [base + size * math.cos(u - phase) for u in (low, high)]
    first = math.ceil((low - phase) / math.pi - _CLOSE)
    crests = range(first, math.floor((high - phase) / math.pi + _CLOSE) + 1)
    extremes += [base + size * (-1.0) ** k for k in crests]
    return min(extremes), max(extremes)


def wave(value: Value, v: float) -> tuple[float, float, float]:
    """B, A and φ of n·d = A cos(u − φ) + B on a cylinder or a cone."""
    zero, quarter, half = (value(u, v) for u in (0.0, math.pi / 2, math.pi))
    base = (zero + half) / 2
    return base, math.hypot(zero - base, quarter - base), math.atan2(quarter - base, zero - base)


def _turn(face: Any) -> tuple[float, float]:
    """How far a face goes round: exact for outlines that are lines in its parameters, else from many places along them."""
    ends: list[float] = []
    for trace in _traces(face):
        straight = trace.GetType() == GeomAbs_CurveType.GeomAbs_Line
        ends += [trace.Value(float(t)).X() for t in _places(trace, 2 if straight else 8 * _ALONG)]
    return min(ends), max(ends)


def _traces(face: Any) -> Iterator[Any]:
    forward = TopoDS.Face(face.Oriented(TopAbs_Orientation.TopAbs_FORWARD))  # else seams are taken on the wrong side
    explorer = TopExp_Explorer(forward, TopAbs_EDGE)
    while explorer.More():
        yield BRepAdaptor_Curve2d(TopoDS.Edge(explorer.Current()), forward)
        explorer.Next()


def _places(trace: Any, count: int) -> Floats:
    return np.linspace(trace.FirstParameter(), trace.LastParameter(), count)


def _sought(face: Any, value: Value, bounds: tuple[float, float, float, float]) -> tuple[float, float]:
    inside = IntTools_FClass2d(face, 1e-9)

    def within(u: float, v: float) -> bool:
        return bool(inside.Perform(gp_Pnt2d(u, v), True) == TopAbs_IN)

    u0, u1, v0, v1 = bounds
    steps = (np.arange(_ACROSS) + 0.5) / _ACROSS
    grid = [(float(u0 + a * (u1 - u0)), float(v0 + b * (v1 - v0))) for a in steps for b in steps]
    spots = sorted((value(u, v), u, v) for u, v in grid)
    traces = [(trace, _places(trace, _ALONG)) for trace in _traces(face)]
    low = min(_on_edges(traces, value, 1.0), _in_face(spots, value, within, bounds, 1.0))
    high = -min(_on_edges(traces, value, -1.0), _in_face(spots[::-1], value, within, bounds, -1.0))
    return low, high


def _on_edges(traces: list[tuple[Any, Floats]], value: Value, sense: float) -> float:
    """The least of ± the value along the outline: sought about the least of many places."""
    best = math.inf
    for trace, places in traces:

        def at(t: float, trace: Any = trace) -> float:
            spot = trace.Value(t)
            return sense * value(spot.X(), spot.Y())

        values = [at(float(t)) for t in places]
        least = int(np.argmin(values))
        best = min(best, values[least])
        if max(values) - min(values) > 1e-9:
            a, b = float(places[max(least - 1, 0)]), float(places[min(least + 1, len(places) - 1)])
            best = min(
                best, float(minimize_scalar(at, bounds=(a, b), method="bounded", options={"xatol": 1e-7 * (1 + b - a)}).fun)
            )
    return best


def _in_face(
    spots: list[tuple[float, float, float]],
    value: Value,
    within: Callable[[float, float], bool],
    bounds: tuple[float, float, float, float],
    sense: float,
) -> float:
    """The least of ± the value inside the outline, by steps from the best place of a grid that lies inside."""
    start = next(((u, v) for _, u, v in spots[:_TRIES] if within(u, v)), None)
    if start is None:
        return math.inf
    u, v = start
    best = sense * value(u, v)
    du, dv = (bounds[1] - bounds[0]) / _ACROSS, (bounds[3] - bounds[2]) / _ACROSS
    for _ in range(200):
        moves = ((u + du, v), (u - du, v), (u, v + dv), (u, v - dv))
        least = min(((sense * value(*move), move) for move in moves), key=lambda pair: pair[0])
        if least[0] < best - 1e-13 and within(*least[1]):
            best, (u, v) = least
        else:
            du, dv = du / 2, dv / 2
            if du < 1e-6 * (bounds[1] - bounds[0]):
                break
    return best
