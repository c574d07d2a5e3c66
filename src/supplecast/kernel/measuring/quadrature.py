"""Fluxes through a face by Gauss integration over its own parameters.

The kernel's integrator misjudges faces whose edges are splines of many spans (up to 3e-4 of the volume), and turning a
solid into Bezier pieces first still leaves 1e-7. Here Green's theorem turns each face's surface integral into a line
integral along its parameter curves: the inner integral is split at the surface's knots, the outer one at the spans of
each parameter curve and where it crosses a knot; what turns is split every π/4, what is neither polynomial nor
a known form is split finer. Gauss-Legendre is then exact to rounding on polynomial pieces. Planes need only their edges.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
from OCP import collections as oc
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_Shape, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec, gp_Vec2d
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from supplecast.geometry import Floats

_SMOOTH = GeomAbs_Shape.GeomAbs_CN
_LOOSE = 2e-6

POWERS = [(a, b, c) for a in range(4) for b in range(4) for c in range(4) if a + b + c <= (3 if a else 2)]
"""Powers of x, y, z whose fluxes along x a face keeps: those of the moments, and what they turn into about another point."""


@dataclass(frozen=True)
class Share:
    """What a forward face gives: the flux along x of each monomial about a point near its middle, its area, and the (3,) first
    moments of that about the same point.
    """

    about: Floats
    flux: Floats
    area: float
    lean: Floats


def fluxes(face: Any) -> Share:
    """What flows through a face that looks forward."""
    surface = BRepAdaptor_Surface(face)
    rule = _Surface(surface)
    pieces = []
    explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    while explorer.More():
        pieces += _round(TopoDS.Wire(explorer.Current()), face, rule)
        explorer.Next()
    u, v, weight = (np.concatenate(rows) for rows in zip(*pieces, strict=True))
    if not len(u):
        return Share(np.zeros(3), np.zeros(len(POWERS)), 0.0, np.zeros(3))
    some = slice(None, None, max(1, len(u) // 40))
    rule.about = rule.points(u[some], v[some])[0].mean(axis=0)
    total = weight @ rule.inner(u, v)
    sign = math.copysign(1.0, float(total[-4]))  # a face drawn the other way round counts backwards
    return Share(rule.about, total[:-4], float(total[-4]), sign * total[-3:])


Points = tuple[Floats, Floats, Floats]
"""u, v and weight·dv of Gauss points."""


def _round(wire: Any, face: Any, rule: _Surface) -> list[Points]:
    """Gauss points of every edge round a wire, and of the small gaps between them.

    Edges may end a vertex tolerance apart (1e-3 mm at the corners of oblique fillets). Green's theorem holds for closed
    curves only: left open, a gap is weighed by its distance from the origin, and the volume is off by 1e-5.
    """
    pieces, ends = [], []
    explorer = BRepTools_WireExplorer(wire, face)
    while explorer.More():
        edge = explorer.Current()
        curve = BRepAdaptor_Curve2d(edge, face)
        flipped = edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        true = BRepAdaptor_Curve(edge) if BRep_Tool.Tolerance_s(edge) > _LOOSE and not BRep_Tool.Degenerated_s(edge) else None
        pieces.append(_along(curve, true, rule, -1.0 if flipped else 1.0))
        t = np.array([curve.FirstParameter(), curve.LastParameter()])
        u, v, _ = _curve_points(curve, t)
        if true is not None:
            u, v = _snapped(true, rule, t, u, v)
        first, last = (float(u[0]), float(v[0])), (float(u[1]), float(v[1]))
        ends.append((last, first) if flipped else (first, last))
        explorer.Next()
    nodes, weights = _gauss(2)
    for (_, end), (start, _) in zip(ends, [*ends[1:], *ends[:1]], strict=True):
        du, dv = start[0] - end[0], start[1] - end[1]
        if dv and abs(du) + abs(dv) < rule.small:
            pieces.append((end[0] + nodes * du, end[1] + nodes * dv, weights * dv))
    return pieces


def _snapped(true: Any, rule: _Surface, t: Floats, u: Floats, v: Floats) -> tuple[Floats, Floats]:
    """(u, v) moved so that the surface meets the edge's curve in space: one Gauss-Newton step from where they are.

    The two faces at a loose edge each have a parameter curve of their own, up to the edge's tolerance apart; only the
    curve in space is common to both, and makes the faces bound one volume.
    """
    x, xu, xv = rule.points(u, v)
    rows = np.empty((len(t), 3))
    for row, parameter in enumerate(t.tolist()):
        at = true.Value(parameter)
        rows[row] = at.X(), at.Y(), at.Z()
    miss = rows - x
    a, b, c = (np.einsum("ni,ni->n", p, q) for p, q in ((xu, xu), (xu, xv), (xv, xv)))
    p, q = np.einsum("ni,ni->n", miss, xu), np.einsum("ni,ni->n", miss, xv)
    det = a * c - b * b
    sound = det > 1e-12 * a * c
    det = np.where(sound, det, 1.0)
    return u + np.where(sound, (c * p - b * q) / det, 0.0), v + np.where(sound, (a * q - b * p) / det, 0.0)


@lru_cache(maxsize=8)
def _differentiation(count: int) -> Floats:
    """Matrix that takes values at the Gauss nodes of [0, 1] to the slopes of their polynomial (barycentric form)."""
    nodes, _ = _gauss(count)
    gaps = nodes[:, None] - nodes[None, :] + np.eye(count)
    weights = 1.0 / gaps.prod(axis=1)
    matrix = weights[None, :] / weights[:, None] / gaps
    np.fill_diagonal(matrix, 0.0)
    np.fill_diagonal(matrix, -matrix.sum(axis=1))
    return np.asarray(matrix)


@lru_cache(maxsize=32)
def _gauss(count: int) -> tuple[Floats, Floats]:
    nodes, weights = np.polynomial.legendre.leggauss(count)
    return np.asarray((nodes + 1) / 2, dtype=np.float64), np.asarray(weights / 2, dtype=np.float64)


def _along(curve: Any, true: Any, rule: _Surface, sense: float) -> Points:
    """Gauss points of one edge: u, v and weight·dv, where it turns in v at all; `true` is its curve in space, if loose."""
    breaks = _outer_breaks(curve, rule)
    nodes, weights = _gauss(rule.outer_order)
    spans = np.diff(breaks)
    t = (breaks[:-1, None] + spans[:, None] * nodes).ravel()
    w = (spans[:, None] * weights).ravel() * sense
    u, v, dv = _curve_points(curve, t)
    if true is not None:
        u, v = _snapped(true, rule, t, u, v)
        dv = (v.reshape(len(spans), -1) @ _differentiation(rule.outer_order).T / spans[:, None]).ravel()
    turning = np.abs(dv) > 1e-14
    return u[turning], v[turning], (w * dv)[turning]


def _curve_points(curve: Any, t: Floats) -> tuple[Floats, Floats, Floats]:
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        line = curve.Line()
        start, direction = line.Location(), line.Direction()
        return start.X() + t * direction.X(), start.Y() + t * direction.Y(), np.full(len(t), float(direction.Y()))
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        circle = curve.Circle()
        centre, radius = circle.Location(), float(circle.Radius())
        x, y = circle.XAxis().Direction(), circle.YAxis().Direction()
        c, s = radius * np.cos(t), radius * np.sin(t)
        return centre.X() + c * x.X() + s * y.X(), centre.Y() + c * x.Y() + s * y.Y(), c * y.Y() - s * x.Y()
    rows = np.empty((len(t), 3))
    at, slope = gp_Pnt2d(), gp_Vec2d()
    for row, parameter in enumerate(t):
        curve.D1(float(parameter), at, slope)
        rows[row] = at.X(), at.Y(), slope.Y()
    return rows[:, 0], rows[:, 1], rows[:, 2]


def _outer_breaks(curve: Any, rule: _Surface) -> Floats:
    first, last = float(curve.FirstParameter()), float(curve.LastParameter())
    count = int(curve.NbIntervals(_SMOOTH))
    breaks = {first, last}
    if count > 1:
        ends = oc.Array1_double(1, count + 1)
        curve.Intervals(ends, _SMOOTH)
        breaks |= {float(ends.Value(i)) for i in range(1, count + 2)}
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Line:
        line = curve.Line()
        for along, start, knots in (
            (line.Direction().X(), line.Location().X(), rule.u_knots),
            (line.Direction().Y(), line.Location().Y(), rule.v_knots),
        ):
            if abs(along) > 1e-14:
                breaks |= {t for t in ((knot - start) / along for knot in knots) if first < t < last}
    else:
        if count == 1:
            breaks |= set(np.linspace(first, last, 5))
        breaks |= _crossings(curve, sorted(breaks), rule)
    return np.array(sorted(breaks))


def _crossings(curve: Any, ends: list[float], rule: _Surface) -> set[float]:
    """Parameters at which a curve crosses a knot line, by bisection inside each of its spans."""

    def value(t: float, axis: int) -> float:
        at = curve.Value(t)
        return float(at.Y() if axis else at.X())

    roots: set[float] = set()
    for axis, knots in ((0, rule.u_knots), (1, rule.v_knots)):
        values = [value(t, axis) for t in ends] if len(knots) else []
        for (a, b), (fa, fb) in zip(zip(ends, ends[1:], strict=False), zip(values, values[1:], strict=False), strict=False):
            for knot in knots:
                if (fa - knot) * (fb - knot) < 0:
                    low, high = a, b
                    for _ in range(48):
                        middle = (low + high) / 2
                        if (value(middle, axis) - knot) * (fa - knot) > 0:
                            low = middle
                        else:
                            high = middle
                    roots.add((low + high) / 2)
    return roots


class _Surface:
    """A surface ready to be integrated: its knots, its orders, and its points and derivatives for many (u, v)."""

    def __init__(self, surface: Any) -> None:
        self.surface = surface
        kind = surface.GetType()
        self.kind = kind
        kinds = GeomAbs_SurfaceType
        self.exact = kind in (
            kinds.GeomAbs_Plane,
            kinds.GeomAbs_Cylinder,
            kinds.GeomAbs_Cone,
            kinds.GeomAbs_Sphere,
            kinds.GeomAbs_Torus,
        )
        self.about = np.zeros(3)
        self.u0 = float(surface.FirstUParameter())
        if abs(self.u0) > 1e50:
            self.u0 = 0.0
        self.u_knots, self.v_knots = self._knots()
        # What counts as a gap between edges rather than a step round a period, in the surface's own parameters.
        self.small = 0.05
        if not self.exact:
            self.small = 0.01 * (float(self.u_knots[-1] - self.u_knots[0]) + float(self.v_knots[-1] - self.v_knots[0]))
        self.inner_order = 2 if kind == kinds.GeomAbs_Plane else 10
        self.outer_order = 10
        if self.exact:
            self._place()

    def _knots(self) -> tuple[Floats, Floats]:
        kinds = GeomAbs_SurfaceType
        if self.kind == kinds.GeomAbs_Plane:
            return np.empty(0), np.empty(0)
        if self.exact:
            grid: Floats = np.arange(-16.0, 17.0) * (math.pi / 4)
            round_too = self.kind in (kinds.GeomAbs_Sphere, kinds.GeomAbs_Torus)
            return grid, (grid if round_too else np.zeros(0))
        return self._intervals("U"), self._intervals("V")

    def _intervals(self, axis: str) -> Floats:
        count = int(getattr(self.surface, f"Nb{axis}Intervals")(_SMOOTH))
        ends = oc.Array1_double(1, count + 1)
        getattr(self.surface, f"{axis}Intervals")(ends, _SMOOTH)
        knots = np.array([float(ends.Value(i)) for i in range(1, count + 2)])
        pieces = self._pieces(axis, float(np.diff(knots).max()))
        finer: Floats = np.interp(np.arange(count * pieces + 1) / pieces, np.arange(count + 1), knots)
        return finer

    def _pieces(self, axis: str, span: float) -> int:
        """Into how many pieces each smooth span is cut, so that Gauss's rule is exact to rounding on each."""
        kinds = GeomAbs_SurfaceType
        if self.kind == kinds.GeomAbs_BSplineSurface:
            return 2 if getattr(self.surface, f"Is{axis}Rational")() and self._wide else 1
        if self.kind == kinds.GeomAbs_BezierSurface:
            return 1
        if self.kind == kinds.GeomAbs_OffsetSurface:
            return (
                1 if self.surface.BasisSurface().GetType() == kinds.GeomAbs_BSplineSurface else math.ceil(span / (math.pi / 4))
            )
        if axis == "U" and self.kind == kinds.GeomAbs_SurfaceOfRevolution:
            return math.ceil(span / (math.pi / 4))
        return 1 if axis == "V" and self.kind == kinds.GeomAbs_SurfaceOfExtrusion else 4

    @cached_property
    def _wide(self) -> bool:
        """Whether some span of a rational surface turns by more than 90°: its weights then differ by more than cos 45°."""
        spline = self.surface.BSpline()
        rows, columns = range(1, spline.NbUPoles() + 1), range(1, spline.NbVPoles() + 1)
        weights = [spline.Weight(i, j) for i in rows for j in columns]
        return bool(min(weights) < 0.7 * max(weights))

    def _place(self) -> None:
        shape = {
            GeomAbs_SurfaceType.GeomAbs_Plane: self.surface.Plane,
            GeomAbs_SurfaceType.GeomAbs_Cylinder: self.surface.Cylinder,
            GeomAbs_SurfaceType.GeomAbs_Cone: self.surface.Cone,
            GeomAbs_SurfaceType.GeomAbs_Sphere: self.surface.Sphere,
            GeomAbs_SurfaceType.GeomAbs_Torus: self.surface.Torus,
        }[self.kind]()
        position = shape.Position()

        def triple(v: Any) -> Floats:
            return np.array([v.X(), v.Y(), v.Z()])

        self.origin = triple(position.Location())
        self.axes = np.array([triple(position.XDirection()), triple(position.YDirection()), triple(position.Direction())])
        self.shape = shape

    def inner(self, u: Floats, v: Floats) -> Floats:
        """(n, 20) integrals of the densities over u from the reference to each u, at its v."""
        nodes, weights = _gauss(self.inner_order)
        knots = self.u_knots
        low, high = np.minimum(self.u0, u), np.maximum(self.u0, u)
        total = np.zeros((len(u), len(POWERS) + 4))
        inside = knots[(knots > low.min()) & (knots < high.max())]
        edges = np.concatenate([[-np.inf], inside, [np.inf]])
        for a, b in zip(edges[:-1], edges[1:], strict=True):
            start, end = np.clip(low, a, b), np.clip(high, a, b)
            length = end - start
            live = np.nonzero(length > 0)[0]
            if not len(live):
                continue
            uu = (start[live, None] + length[live, None] * nodes).ravel()
            vv = np.repeat(v[live], len(nodes))
            density = self.density(uu, vv).reshape(len(live), len(nodes), -1)
            total[live] += np.einsum("nkf,k->nf", density, weights) * length[live, None]
        return total * np.where(u >= self.u0, 1.0, -1.0)[:, None]

    def density(self, u: Floats, v: Floats) -> Floats:
        """(n, 20) fluxes along x of the monomials through the surface element, the element itself, and its first moments."""
        x, xu, xv = self.points(u, v)
        normal = np.empty_like(xu)
        for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
            normal[:, i] = xu[:, j] * xv[:, k] - xu[:, k] * xv[:, j]
        off = x - self.about
        powers = np.ones((4, 3, len(u)))
        for power in (1, 2, 3):
            powers[power] = powers[power - 1] * off.T
        integrands = np.empty((len(u), len(POWERS) + 4))
        for column, (a, b, c) in enumerate(POWERS):
            integrands[:, column] = powers[a, 0] * powers[b, 1] * powers[c, 2] * normal[:, 0]
        element = np.sqrt(np.einsum("ni,ni->n", normal, normal))
        integrands[:, -4] = element
        integrands[:, -3:] = off * element[:, None]
        return integrands

    def points(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        kinds = GeomAbs_SurfaceType
        if not self.exact:
            return self._asked(u, v)
        zero, one = np.zeros_like(u), np.ones_like(u)
        c, s = np.cos(u), np.sin(u)
        if self.kind == kinds.GeomAbs_Plane:
            local = ([u, v, zero], [one, zero, zero], [zero, one, zero])
        elif self.kind == kinds.GeomAbs_Cylinder:
            r = self.shape.Radius()
            local = ([r * c, r * s, v], [-r * s, r * c, zero], [zero, zero, one])
        elif self.kind == kinds.GeomAbs_Cone:
            slope = self.shape.SemiAngle()
            sa, ca = math.sin(slope), math.cos(slope)
            r = self.shape.RefRadius() + v * sa
            local = ([r * c, r * s, v * ca], [-r * s, r * c, zero], [sa * c, sa * s, ca * one])
        elif self.kind == kinds.GeomAbs_Sphere:
            r, cv, sv = self.shape.Radius(), np.cos(v), np.sin(v)
            local = (
                [r * cv * c, r * cv * s, r * sv],
                [-r * cv * s, r * cv * c, zero],
                [-r * sv * c, -r * sv * s, r * cv],
            )
        else:
            big, r, cv, sv = self.shape.MajorRadius(), self.shape.MinorRadius(), np.cos(v), np.sin(v)
            ring = big + r * cv
            local = ([ring * c, ring * s, r * sv], [-ring * s, ring * c, zero], [-r * sv * c, -r * sv * s, r * cv])
        x, xu, xv = (np.column_stack(rows) @ self.axes for rows in local)
        return x + self.origin, xu, xv

    def _asked(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        rows = np.empty((len(u), 9))
        at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        d1 = self.surface.D1
        for row, (a, b) in enumerate(zip(u.tolist(), v.tolist(), strict=True)):
            d1(a, b, at, du, dv)
            rows[row] = (at.X(), at.Y(), at.Z(), du.X(), du.Y(), du.Z(), dv.X(), dv.Y(), dv.Z())
        return rows[:, :3], rows[:, 3:6], rows[:, 6:]
