"""Where faces turn over, seen along a pull: the lines on them along which n·d = 0, and a solid split there.

On cylinders and cones these are straight lines, on balls and on tori that are seen along or across their axis circles, found in
closed form. On all others n·d is sampled over the face's parameters, its zeros are found on the grid's edges and chained
(marching squares), and points are put between them until a smooth curve through all of them keeps to the surface.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeSolid
from OCP.BRepTools import BRepTools
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.Geom import Geom_Circle
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Ax2, gp_Vec
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS
from scipy.optimize import brentq

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Vec, unit
from supplecast.kernel.measuring import facing
from supplecast.kernel.shapes import spline
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, unchanged
from supplecast.kernel.shapes.profile import as_dir
from supplecast.kernel.shapes.shape import Solid, mapped, solids_in, xyz
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import boolean

_GRIDS = (48, 96)
_CLOSE = 2e-6  # mm: how far the curve may be off the true line
_TURNED = math.radians(0.05)
_ROUNDS = 9
_THIN = 25
_ASIDE = 1e-9

_CLOSED = (
    GeomAbs_SurfaceType.GeomAbs_Plane,
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
    GeomAbs_SurfaceType.GeomAbs_Sphere,
)
Spot = tuple[float, float]


@dataclass(frozen=True)
class Line:
    """A silhouette on a face as an edge of the kernel."""

    face: int
    edge: Any


def turning(drafts: Floats) -> list[int]:
    """The faces that are seen from both sides, by their least and greatest draft, (faces, 2) rad."""
    return [int(face) for face in np.flatnonzero((drafts[:, 0] < -_TURNED) & (drafts[:, 1] > _TURNED))]


def is_sampled(solid: Solid, pull: Vec) -> bool:
    """Whether there are silhouettes that have no closed form: finding them, and cutting along them, may take long."""
    return any(_is_sampled(solid.face(face), unit(pull)) for face in turning(facing.drafts(solid, pull)))


def _is_sampled(face: Any, direction: Vec) -> bool:
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Torus:
        return _rings(surface.Torus(), direction, BRepTools.UVBounds_s(face)) is None
    return surface.GetType() not in _CLOSED


def lines(solid: Solid, faces: Sequence[int], pull: Vec, grid: int = _GRIDS[0]) -> list[Line]:
    """The silhouettes on some faces; those of trimmed faces may run on past their outline."""
    crossings = []
    for face in faces:
        crossings += [Line(face, edge) for edge in _on_face(solid.face(face), unit(pull), grid)]
    return crossings


def sampled(line: Line) -> Floats:
    """Points along a silhouette, (n, 3) mm."""
    curve = BRepAdaptor_Curve(line.edge)
    points = GCPnts_TangentialDeflection(curve, 0.1, 0.01)
    return np.array([xyz(points.Value(number)) for number in range(1, points.NbPoints() + 1)])


def split(solid: Solid, pull: Vec) -> Made:
    """The solid with every face that turns over split where it does; pieces keep their tags, the volume does not change.

    KernelError names the faces that still turn over afterwards.
    """
    wanted = turning(facing.drafts(solid, pull))
    if not wanted:
        return Made(solid, unchanged(solid))
    left, made = wanted, Made(solid, unchanged(solid))
    for grid in _GRIDS:
        crossings = lines(solid, wanted, pull, grid)
        if not crossings:
            continue
        maker = boolean.parted(solid, [line.edge for line in crossings])
        result = one(_bare(maker.Shape()), "the split along the silhouette")
        ledger = Ledger([result])
        ledger.kept([solid], maker.Modified)
        made = ledger.made()[0]
        left = turning(facing.drafts(result, pull))
        if not left:
            return made
    sources = {o.sources[0].face for face in left for o in made.origins[face] if isinstance(o.sources[0], FaceOf)}
    raise KernelError(
        "Where these faces turn over could not be found exactly.",
        "Split them with a plane there.",
        faces=tuple(sorted(sources)),
    )


def _bare(shape: Any) -> Any:
    """The solid of a split without the lines that run on inside it, of which the kernel makes loose edges."""
    (solid,) = solids_in(shape)
    shells = mapped(solid.shape, TopAbs_SHELL)
    maker = BRepBuilderAPI_MakeSolid()
    for number in range(1, int(shells.Extent()) + 1):
        maker.Add(TopoDS.Shell(shells.FindKey(number)))
    return maker.Solid()


def _on_face(face: Any, direction: Vec, grid: int) -> list[Any]:
    surface = BRepAdaptor_Surface(face)
    bounds = BRepTools.UVBounds_s(face)
    value = facing.value_on(surface, direction, 1.0, ((bounds[0] + bounds[1]) / 2, (bounds[2] + bounds[3]) / 2))
    match surface.GetType():
        case GeomAbs_SurfaceType.GeomAbs_Plane:
            return []
        case GeomAbs_SurfaceType.GeomAbs_Cylinder | GeomAbs_SurfaceType.GeomAbs_Cone:
            return _straight(surface, value, bounds)
        case GeomAbs_SurfaceType.GeomAbs_Sphere:
            ball = surface.Sphere()
            circle = Geom_Circle(gp_Ax2(ball.Location(), as_dir(direction)), ball.Radius())
            return [BRepBuilderAPI_MakeEdge(circle).Edge()]
        case GeomAbs_SurfaceType.GeomAbs_Torus:
            rings = _rings(surface.Torus(), direction, bounds)
            if rings is not None:
                return rings
    chains = _chained(_Field(surface, value, bounds, grid))
    return [edge for chain in chains if (edge := _curve(surface, value, bounds, chain)) is not None]


def _rings(torus: Any, direction: Vec, bounds: Sequence[float]) -> list[Any] | None:
    """On a torus seen along its axis, its outermost and innermost circle; across its axis, its highest and lowest one and two
    of its sections; as far as they are inside the face. None for one that is seen askew.
    """
    axis, middle, large, small = torus.Axis().Direction(), torus.Location(), torus.MajorRadius(), torus.MinorRadius()
    ahead = as_dir(direction)
    lean = abs(axis.Dot(ahead))
    edges = []

    def ring(centre: Any, normal: Any, radius: float, at: float, span: Sequence[float]) -> None:
        turns = math.ceil((span[0] - at) / (2 * math.pi) + _ASIDE)
        if radius > 0 and at + turns * 2 * math.pi < span[1] - _ASIDE:  # at a seam the face is parted already
            edges.append(BRepBuilderAPI_MakeEdge(Geom_Circle(gp_Ax2(centre, normal), radius)).Edge())

    if lean > 1 - 1e-12:
        for at, radius in ((0.0, large + small), (math.pi, large - small)):
            ring(middle, axis, radius, at, bounds[2:])
        return edges
    if lean > 1e-12:
        return None
    for sign in (1.0, -1.0):
        high = middle.Translated(gp_Vec(axis).Multiplied(sign * small))
        ring(high, axis, large, sign * math.pi / 2, bounds[2:])
        aside = gp_Vec(axis.Crossed(ahead)).Multiplied(sign * large)
        at = math.atan2(aside.Dot(gp_Vec(torus.YAxis().Direction())), aside.Dot(gp_Vec(torus.XAxis().Direction())))
        ring(middle.Translated(aside), ahead, small, at, bounds[:2])
    return edges


def _straight(surface: Any, value: facing.Value, bounds: Sequence[float]) -> list[Any]:
    """On cylinders and cones n·d = A cos(u − φ) + B: two lines, or one, or none."""
    u0, u1, v0, v1 = bounds
    base, size, phase = facing.wave(value, (v0 + v1) / 2)
    if size <= abs(base):
        return []
    edges = []
    for turn in (math.acos(-base / size), -math.acos(-base / size)):
        u = phase + turn
        u += 2 * math.pi * math.ceil((u0 - u) / (2 * math.pi) - 1e-9)
        if u <= u1 + 1e-9:
            edges.append(BRepBuilderAPI_MakeEdge(surface.Value(u, v0), surface.Value(u, v1)).Edge())
    return edges


class _Field:
    """n·d on a grid over the parameters of a face, whose inner lines lie aside of symmetries."""

    def __init__(self, surface: Any, value: facing.Value, bounds: Sequence[float], grid: int) -> None:
        self.value = value
        self.us, self.vs = (_spread(bounds[k], bounds[k + 1], grid) for k in (0, 2))
        rows = np.array([[value(float(u), float(v)) for v in self.vs] for u in self.us])
        self.rows = np.where(rows == 0, 1e-12, rows)


def _spread(low: float, high: float, count: int) -> Floats:
    params = np.linspace(low, high, count + 1)
    params[1:-1] += 0.137 * (high - low) / count
    return params


def _chained(field: _Field) -> list[list[Spot]]:
    """The zeros on the grid's edges, in the order in which they follow each other from cell to cell."""
    sign = field.rows > 0
    across = np.argwhere(sign[:-1] != sign[1:])  # between (i, j) and (i + 1, j)
    along = np.argwhere(sign[:, :-1] != sign[:, 1:])
    spots: dict[tuple[int, int, int], Spot] = {}
    for i, j in across:
        v = float(field.vs[j])
        spots[0, int(i), int(j)] = (brentq(lambda u, v=v: field.value(u, v), field.us[i], field.us[i + 1], xtol=1e-14), v)
    for i, j in along:
        u = float(field.us[i])
        spots[1, int(i), int(j)] = (u, brentq(lambda v, u=u: field.value(u, v), field.vs[j], field.vs[j + 1]))
    links: dict[tuple[int, int, int], list[tuple[int, int, int]]] = {key: [] for key in spots}
    for i in range(sign.shape[0] - 1):
        for j in range(sign.shape[1] - 1):
            sides = [key for key in ((0, i, j), (1, i + 1, j), (0, i, j + 1), (1, i, j)) if key in spots]
            if len(sides) == 4 and field.value(*(float((a[k] + a[k + 1]) / 2) for a, k in ((field.us, i), (field.vs, j)))) > 0:
                sides = sides[1:] + sides[:1] if sign[i, j] else sides
            for a, b in zip(sides[::2], sides[1::2], strict=False):
                links[a].append(b)
                links[b].append(a)
    return [[spots[key] for key in chain] for chain in _chains(links)]


def _chains(links: dict[Any, list[Any]]) -> list[list[Any]]:
    """Runs of linked keys, open ones first; a closed one ends with the key it begins with."""
    left = dict(links)
    chains = []
    for start in [key for key, near in links.items() if len(near) == 1] + list(links):
        if start not in left:
            continue
        chain, here = [start], start
        left.pop(start)
        while (onward := next((key for key in links[here] if key in left), None)) is not None:
            left.pop(onward)
            chain.append(onward)
            here = onward
        if len(chain) > 2 and start in links[here] and len(links[start]) == 2:
            chain.append(start)
        if len(chain) > 1:
            chains.append(chain)
    return chains


def _curve(surface: Any, value: facing.Value, bounds: Sequence[float], chain: list[Spot]) -> Any:
    """A smooth edge through the chain, points being added until it keeps to the line; None for one without length."""
    closed = len(chain) > 3 and chain[0] == chain[-1]
    keep = sorted({*np.linspace(0, len(chain) - 1, min(len(chain), _THIN)).round().astype(int).tolist()})
    spots = [chain[k] for k in keep]
    error = math.inf
    for _ in range(_ROUNDS):
        points = np.array([xyz(surface.Value(*spot)) for spot in spots])
        steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
        sound = np.concatenate([[True], steps > 1e-7])
        spots, points = [s for s, good in zip(spots, sound, strict=True) if good], points[sound]
        if len(points) < 2 or np.linalg.norm(np.diff(points, axis=0), axis=1).sum() < 1e-5:
            return None
        at = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
        curve = spline.through(points, at, closed=closed and len(points) > 3)
        between, errors = [], []
        for k in range(len(spots) - 1):
            spot = _onto(value, bounds, ((spots[k][0] + spots[k + 1][0]) / 2, (spots[k][1] + spots[k + 1][1]) / 2))
            true = np.array(xyz(surface.Value(*spot)))
            drawn = np.array(xyz(curve.Value(float(at[k] + at[k + 1]) / 2)))
            direction = points[k + 1] - points[k]
            off = true - drawn
            off -= direction * (off @ direction) / (direction @ direction)
            between.append(spot)
            errors.append(float(np.linalg.norm(off)))
        error = max(errors)
        if error < _CLOSE:
            break
        mixed: list[Spot] = []
        for k, spot in enumerate(spots[:-1]):
            mixed += [spot, between[k]] if errors[k] > _CLOSE / 2 else [spot]
        spots = [*mixed, spots[-1]]
    edge = BRepBuilderAPI_MakeEdge(curve).Edge()
    BRep_Builder().UpdateEdge(edge, max(2 * error, 1e-6))
    return edge


def _onto(value: facing.Value, bounds: Sequence[float], spot: Spot) -> Spot:
    """The zero nearest to a place, by steps along the slope; it stays within the face's parameters."""
    u, v = spot
    du, dv = bounds[1] - bounds[0], bounds[3] - bounds[2]
    for _ in range(12):
        here = value(u, v)
        if abs(here) < 1e-14:
            break
        gu = (value(u + 1e-6 * du, v) - value(u - 1e-6 * du, v)) / 2e-6
        gv = (value(u, v + 1e-6 * dv) - value(u, v - 1e-6 * dv)) / 2e-6
        size = gu * gu + gv * gv
        if size < 1e-20:
            break
        u = min(max(u - here * gu / size * du, bounds[0]), bounds[1])
        v = min(max(v - here * gv / size * dv, bounds[2]), bounds[3])
    return (u, v)
