"""Paths in space: chains of curves or edges, their bends measured, their corners rounded."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
from OCP.GC import GC_MakeArcOfCircle
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS

from supplecast.curves import Curve2
from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Vec, vec
from supplecast.kernel.shapes.profile import curve_edge
from supplecast.kernel.shapes.shape import Solid, xyz

_CLOSE = 1e-5
_SHARP = 1e-4
_SAMPLES = 129


@dataclass(frozen=True)
class Piece:
    """One curve of a path, run through backwards if `back`; `name` tells it from the others."""

    edge: Any
    name: str
    back: bool = False

    @cached_property
    def curve(self) -> Any:
        return BRepAdaptor_Curve(self.edge)

    @cached_property
    def straight(self) -> bool:
        return bool(self.curve.GetType() == GeomAbs_CurveType.GeomAbs_Line)

    @cached_property
    def length(self) -> float:
        return float(GCPnts_AbscissaPoint.Length_s(self.curve))

    @cached_property
    def samples(self) -> tuple[Floats, Floats, Floats]:
        """Points, unit tangents and curvature vectors (1/mm) along the piece, each (n, 3)."""
        curve = self.curve
        span = np.linspace(curve.FirstParameter(), curve.LastParameter(), 2 if self.straight else _SAMPLES)
        rows = np.empty((len(span), 9))
        spot, first, second = gp_Pnt(), gp_Vec(), gp_Vec()
        for index, t in enumerate(span[::-1] if self.back else span):
            curve.D2(float(t), spot, first, second)
            rows[index] = *xyz(spot), *xyz(first), *xyz(second)
        places, d1, d2 = rows[:, :3], rows[:, 3:6], rows[:, 6:]
        speed = np.linalg.norm(d1, axis=1, keepdims=True)
        tangents = d1 / speed
        bend = (d2 - (d2 * tangents).sum(axis=1, keepdims=True) * tangents) / speed**2
        return places, (-tangents if self.back else tangents), bend

    @property
    def start(self) -> Floats:
        return np.asarray(self.samples[0][0])

    @property
    def end(self) -> Floats:
        return np.asarray(self.samples[0][-1])


@dataclass(frozen=True)
class Route:
    """An open path: pieces that follow each other."""

    pieces: tuple[Piece, ...]

    @property
    def start(self) -> Vec:
        return vec(self.pieces[0].start)

    @property
    def lead(self) -> Vec:
        """The direction in which the path leaves its start."""
        return vec(self.pieces[0].samples[1][0])

    @cached_property
    def normal(self) -> Vec | None:
        """The normal of the plane in which the path lies, None for one that lies in no plane; of a straight one any."""
        points = np.concatenate([piece.samples[0] for piece in self.pieces])
        spread = points - points.mean(axis=0)
        _, sizes, axes = np.linalg.svd(spread, full_matrices=False)
        if sizes[2 if len(sizes) > 2 else -1] > 1e-6 * max(sizes[0], 1.0) and len(points) > 2:
            return None
        lead = np.array(self.lead)
        if len(sizes) < 2 or sizes[1] < 1e-7 * sizes[0]:
            guide = np.eye(3)[int(np.argmin(np.abs(lead)))]
            return vec(np.cross(lead, guide) / np.linalg.norm(np.cross(lead, guide)))
        normal = np.cross(axes[0], axes[1])
        return vec(normal / np.linalg.norm(normal))

    @cached_property
    def corners(self) -> tuple[float, ...]:
        """By how much the path turns where two of its pieces meet, rad, signed about `normal` where there is one."""
        angles = []
        for before, after in zip(self.pieces, self.pieces[1:], strict=False):
            a, b = before.samples[1][-1], after.samples[1][0]
            turn = np.cross(a, b)
            angle = math.atan2(float(np.linalg.norm(turn)), float(a @ b))
            angles.append(-angle if self.normal is not None and float(turn @ np.array(self.normal)) < 0 else angle)
        return tuple(angles)

    @property
    def sharp(self) -> bool:
        return any(abs(corner) > _SHARP for corner in self.corners)

    def wire(self) -> tuple[Any, list[tuple[Any, str]]]:
        """The kernel's wire and its edges with the names of their pieces."""
        maker = BRepBuilderAPI_MakeWire()
        edges = []
        for piece in self.pieces:
            maker.Add(TopoDS.Edge(piece.edge.Reversed()) if piece.back else piece.edge)
            if not maker.IsDone():
                raise KernelError("The path comes apart.", "Let its pieces share their ends.")
            edges.append((maker.Edge(), piece.name))
        return maker.Wire(), edges


def of_curves(chain: Sequence[Curve2], frame: Frame) -> Route:
    """The path of a chain of drawn curves."""
    return Route(tuple(Piece(curve_edge(curve, frame), curve.entity) for curve in chain))


def of_edges(solid: Solid, picked: Sequence[int], near: Vec) -> Route:
    """The path along edges of a solid, from the end nearest to a point. KernelError unless they make one open chain."""
    rest = {index: Piece(solid.nth_edge(index), f"E{number}") for number, index in enumerate(picked, 1)}
    ends = [(index, end) for index, piece in rest.items() for end in (piece.start, piece.end)]
    loose = [(i, e) for i, e in ends if sum(float(np.abs(e - other).max()) < _CLOSE for _, other in ends) == 1]
    if len(loose) != 2:
        words = "closes on itself" if not loose else "falls into several chains"
        raise KernelError(f"The path of edges {words}.", "Pick one open chain of edges.", edges=tuple(picked))
    at = min((end for _, end in loose), key=lambda end: float(np.linalg.norm(end - np.array(near))))
    chain = []
    while rest:
        following = next((i for i, p in rest.items() if min(_apart(p.start, at), _apart(p.end, at)) < _CLOSE), None)
        if following is None:
            hint = "Pick edges that follow each other."
            raise KernelError("The picked edges do not make one chain.", hint, edges=tuple(rest))
        piece = rest.pop(following)
        onward = piece if _apart(piece.start, at) <= _apart(piece.end, at) else Piece(piece.edge, piece.name, back=True)
        chain.append(onward)
        at = onward.end
    return Route(tuple(chain))


def _apart(a: Floats, b: Floats) -> float:
    return float(np.abs(a - b).max())


def rounded(route: Route, bend: float) -> Route:
    """The path with each sharp corner replaced by an arc of radius `bend` mm. KernelError where the pieces are too short."""
    if not route.sharp:
        return route
    cut = [[0.0, 0.0] for _ in route.pieces]
    for number, turn in enumerate(route.corners):
        if abs(turn) > _SHARP:
            if not (route.pieces[number].straight and route.pieces[number + 1].straight):
                raise KernelError("A corner beside a curve cannot be rounded.", "Draw the round in the path itself.")
            cut[number][1] = cut[number + 1][0] = bend * math.tan(abs(turn) / 2)
    pieces: list[Piece] = []
    for number, (piece, (before, after)) in enumerate(zip(route.pieces, cut, strict=True)):
        left = piece.length - before - after
        if left < _CLOSE:
            largest = bend * piece.length / (before + after)
            raise KernelError(
                f"A bend of {bend:g} mm does not fit: piece {number + 1} of the path is only {piece.length:.4g} mm long.",
                f"Stay under {largest:.4g} mm.",
                sized=True,
            )
        direction = piece.samples[1][0]
        a, b = piece.start + direction * before, piece.end - direction * after
        pieces.append(Piece(_line(a, b), piece.name) if before or after else piece)
        if after:
            onward = route.pieces[number + 1]
            pieces.append(Piece(_arc(b, direction, onward.samples[1][0], after, bend), f"{piece.name}_{onward.name}"))
    return Route(tuple(pieces))


def _line(a: Floats, b: Floats) -> Any:
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*vec(a)), gp_Pnt(*vec(b))).Edge()


def _arc(begin: Floats, first: Floats, second: Floats, setback: float, bend: float) -> Any:
    """The arc that leaves `begin` along `first` and ends along `second`."""
    end = begin + setback * (first + second)
    inward = second - first
    corner = begin + setback * first
    inward = inward / np.linalg.norm(inward)
    middle = corner + inward * (math.hypot(bend, setback) - bend)
    return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(*(gp_Pnt(*vec(p)) for p in (begin, middle, end))).Value()).Edge()
