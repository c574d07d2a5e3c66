"""Surfaces that close what is open: laid into a loop of edges, or drawn straight from one run of edges to another."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeFilling
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.Geom import Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_Shape
from OCP.GeomAdaptor import GeomAdaptor_Curve
from OCP.GeomFill import GeomFill
from OCP.TopAbs import TopAbs_REVERSED

from supplecast.errors import KernelError
from supplecast.geometry import Floats, dot
from supplecast.kernel.measuring import datums, forms, openings, probing
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import EdgeOf, Made, Origin
from supplecast.kernel.shapes.shape import Solid, Surface, is_valid, xyz
from supplecast.kernel.verbs import sewing
from supplecast.kernel.verbs.recognise import recognised

_OFF = 2e-3  # mm that a free patch may be off its edges
_BENT = math.radians(2)  # that a smooth patch may turn away from the faces round it
_SAME = 1e-6
_SEEN = 64  # places along a run, by which runs are matched


# --- one surface in a loop -----------------------------------------------------------------------------------------


def filled(solid: Solid, edges: Sequence[int], *, smooth: bool = False) -> Made:
    """A surface in a closed loop of edges, in the role `patch`: flat where the loop is, else as little bent as may be.

    Edges of an opening of a surface stand for the whole opening. `smooth` lets the patch leave each edge along the face that
    is there. KernelError where the loop does not close, or the patch would not keep to its edges.
    """
    loop = openings.whole(solid, edges)
    wires = openings.runs(solid, loop)
    if len(wires) > 1 and all(wire.Closed() for wire in wires):
        words = f"The picked edges are {len(wires)} loops; one hole is filled at a time."
        raise KernelError(words, "Pick the edges of one.", edges=tuple(loop))
    if len(wires) != 1 or not wires[0].Closed():
        raise KernelError("The picked edges do not close.", "Pick all edges round the hole.", edges=tuple(loop))
    if smooth and any(len(solid.faces_at_edges[edge]) > 1 for edge in loop):
        words = "There is a face on both sides of these edges, so that a patch cannot leave them smoothly."
        raise KernelError(words, "Pick an opening of a surface, or let the patch just touch.", edges=tuple(loop))
    face = (None if smooth else _flat(wires[0])) or _bent(solid, loop, smooth)
    made = recognised(Made(Surface(face), ((Origin("patch", (EdgeOf(0, loop[0]),)),),)))
    off = max(probing.distance_to_faces(made.solid, (0,), spot) for side in loop for spot in _along(solid, side))
    if off > _OFF or not is_valid(made.solid):
        words = f"The patch would lie up to {off:.2g} mm off its edges." if off > _OFF else "The patch would cross itself."
        raise KernelError(words, "Bridge two of its edges first, and fill what is left.", edges=tuple(loop))
    if smooth:
        _refuse_bent(solid, loop, made.solid)
    return made


def _refuse_bent(solid: Solid, loop: Sequence[int], patch: Solid) -> None:
    """KernelError where a patch does not leave its edges along the faces there."""
    most, worst = 0.0, 0
    for side in loop:
        face = solid.faces_at_edges[side][0]
        for spot in _along(solid, side)[1:-1]:
            beside, own = (datums.normal_at(body, number, spot)[1] for body, number in ((solid, face), (patch, 0)))
            turn = math.acos(min(abs(dot(beside, own)), 1.0))
            most, worst = max((most, worst), (turn, side))
    if most > _BENT:
        words = f"The patch would turn by {math.degrees(most):.0f}° at its edges: it cannot leave them smoothly."
        raise KernelError(words, "Let it just touch them.", edges=(worst,))


def _along(solid: Solid, index: int) -> list[tuple[float, float, float]]:
    return [(float(x), float(y), float(z)) for x, y, z in forms.along(solid.nth_edge(index), np.linspace(0, 1, 9))]


def _flat(wire: Any) -> Any | None:
    maker = BRepBuilderAPI_MakeFace(wire, True)
    return maker.Face() if maker.IsDone() else None


def _bent(solid: Solid, loop: Sequence[int], smooth: bool) -> Any:
    maker = BRepOffsetAPI_MakeFilling(3, 15, 2, False, 1e-5, 1e-5, 1e-3, 1e-2, 8, 12)
    for edge in loop:
        if smooth:
            maker.Add(solid.nth_edge(edge), solid.face(solid.faces_at_edges[edge][0]), GeomAbs_Shape.GeomAbs_G1)
        else:
            maker.Add(solid.nth_edge(edge), GeomAbs_Shape.GeomAbs_C0)
    refusal = KernelError(
        "No surface is found that runs through these edges.",
        "Bridge two of them first, and fill what is left.",
        edges=tuple(loop),
    )
    try:
        maker.Build()
    except KERNEL_FAULTS as fault:
        raise refusal from fault
    if not maker.IsDone() or maker.Shape().IsNull():
        raise refusal
    return maker.Shape()


# --- from one run to another ---------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Piece:
    """A part of an edge as a curve of the kernel in the sense of its run, and the edge it is of."""

    edge: int
    curve: Any
    length: float

    def cut(self, shares: Sequence[float]) -> list[_Piece]:
        """The piece cut at shares of its length."""
        low, high = self.curve.FirstParameter(), self.curve.LastParameter()
        adaptor = GeomAdaptor_Curve(self.curve)
        places = [GCPnts_AbscissaPoint(adaptor, share * self.length, low).Parameter() for share in shares]
        ends = [low, *places, high]
        lengths = np.diff([0.0, *shares, 1.0]) * self.length
        basis = self.curve.BasisCurve()
        return [
            _Piece(self.edge, Geom_TrimmedCurve(basis, a, b), float(length))
            for a, b, length in zip(ends[:-1], ends[1:], lengths, strict=True)
        ]


def bridged(first: tuple[Solid, Sequence[int]], second: tuple[Solid, Sequence[int]]) -> Made:
    """The surface of straight lines from one run of edges to another, both closed or both open; role `bridge` from the edge
    of the first run.

    Runs of as many edges go corner to corner, others by shares of their length. KernelError where a run is in pieces.
    """
    runs = [_run(solid, edges, word) for (solid, edges), word in zip((first, second), ("first", "second"), strict=True)]
    (pieces, closed), (others, other_closed) = runs
    if closed != other_closed:
        raise KernelError(
            f"The {'first' if closed else 'second'} edges close and the {'second' if closed else 'first'} do not.",
            "Pick two closed loops, or two open runs.",
        )
    left, right = _matched(pieces, others, closed)
    faces = []
    for a, b in zip(left, right, strict=True):
        surface = GeomFill.Surface_s(a.curve, b.curve)
        faces.append(sewing.Piece(BRepBuilderAPI_MakeFace(surface, _SAME).Face(), Origin("bridge", (EdgeOf(0, a.edge),))))
    made = recognised(sewing.sheet(faces, "Pick edges that follow one another."))
    if not is_valid(made.solid):
        raise KernelError("The surface between these edges would cross itself.", "Bridge fewer edges at a time.")
    return made


def _run(solid: Solid, edges: Sequence[int], word: str) -> tuple[list[_Piece], bool]:
    wires = openings.runs(solid, edges)
    if len(wires) != 1:
        words = f"The {word} edges do not follow one another: they are {len(wires)} runs."
        raise KernelError(words, "Pick edges that hang together.", edges=tuple(edges), field=word)
    return [_piece(solid, one) for one in openings.in_order(wires[0])], bool(wires[0].Closed())


def _piece(solid: Solid, along: Any) -> _Piece:
    index = solid.find_edge(along)
    assert index is not None
    run = BRepAdaptor_Curve(along)
    curve: Any = Geom_TrimmedCurve(BRep_Tool.Curve_s(along, 0.0, 1.0), run.FirstParameter(), run.LastParameter())
    if along.Orientation() == TopAbs_REVERSED:
        curve.Reverse()
    return _Piece(index, curve, float(GCPnts_AbscissaPoint.Length_s(run)))


def _matched(first: list[_Piece], second: list[_Piece], closed: bool) -> tuple[list[_Piece], list[_Piece]]:
    """Both runs in as many pieces, from matching starts and the same way round."""
    ways = [second, _back(second)]
    if closed:
        if len(second) == 1:  # a round loop begins where it suits
            ways = [_from(way, share) for way in ways for share in np.arange(_SEEN) / _SEEN]
        elif len(first) == 1:
            right, left = _matched(second, first, closed)
            return left, right
        else:
            ways = [way[k:] + way[:k] for way in ways for k in range(len(way))]
    seen = _places(first)
    second = min(ways, key=lambda way: float(((_places(way) - seen) ** 2).sum()))
    if len(first) == len(second):
        return first, second
    ends = [_shares(run) for run in (first, second)]
    return _cut(first, ends[1]), _cut(second, ends[0])


def _back(run: Sequence[_Piece]) -> list[_Piece]:
    return [_Piece(piece.edge, piece.curve.Reversed(), piece.length) for piece in reversed(run)]


def _from(run: Sequence[_Piece], share: float) -> list[_Piece]:
    """A loop of one edge begun at a share of its length."""
    if share == 0:
        return list(run)
    before, after = run[0].cut([share])
    basis = run[0].curve.BasisCurve()
    if not basis.IsPeriodic():
        return [after, before]
    low = after.curve.FirstParameter()
    return [_Piece(run[0].edge, Geom_TrimmedCurve(basis, low, low + basis.Period()), run[0].length)]


def _shares(run: Sequence[_Piece]) -> Floats:
    """Where the pieces of a run end, but for the last, as shares of its length."""
    lengths = np.cumsum([piece.length for piece in run])
    return np.asarray(lengths[:-1] / lengths[-1], float)


def _cut(run: Sequence[_Piece], shares: Floats) -> list[_Piece]:
    """A run cut at shares of its whole length, but not again where its own pieces end."""
    lengths = np.array([piece.length for piece in run])
    ends = np.cumsum(lengths)
    places = shares * ends[-1]
    pieces = []
    for piece, end in zip(run, ends, strict=True):
        within = [(at - (end - piece.length)) / piece.length for at in places]
        pieces += piece.cut([float(share) for share in within if _SAME < share < 1 - _SAME])
    return pieces


def _places(run: Sequence[_Piece]) -> Floats:
    """(n, 3) places along a run, evenly spread over its pieces' parameters."""
    rows = []
    for piece in run:
        low, high = piece.curve.FirstParameter(), piece.curve.LastParameter()
        count = max(round(_SEEN * piece.length / sum(p.length for p in run)), 2)
        rows += [xyz(piece.curve.Value(float(t))) for t in np.linspace(low, high, count, endpoint=False)]
    at = np.linspace(0, len(rows) - 1, _SEEN)
    return np.array([rows[math.floor(k + 0.5)] for k in at])
