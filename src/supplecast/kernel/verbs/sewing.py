"""Loose faces sewn along the edges they share: into one surface that looks one way, or into a closed solid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepLib import BRepLib
from OCP.TopAbs import TopAbs_SHELL, TopAbs_VERTEX

from supplecast.errors import KernelError
from supplecast.geometry import Vec, dot
from supplecast.kernel.measuring import datums, measure
from supplecast.kernel.shapes.history import Ledger, Made, Origin
from supplecast.kernel.shapes.shape import Solid, Surface, mapped
from supplecast.kernel.shapes.soundness import one

_TOLERANCE = 1e-5


@dataclass(frozen=True)
class Piece:
    """A face of the kernel and where it comes from."""

    face: Any
    origin: Origin


def joined(pieces: Sequence[Piece], ahead: Vec) -> Made:
    """Faces as one surface whose normals point along `ahead`, not against it. KernelError if they do not hang together."""
    maker = _together(pieces, "Make the land narrower.")
    sheet = Surface(maker.SewedShape())
    spot = next(s for face in range(sheet.face_count) if (s := measure.point_inside(sheet, face)) is not None)
    largest = max(range(sheet.face_count), key=lambda face: measure.face_area(sheet, face))
    spot = measure.point_inside(sheet, largest) or spot
    if dot(datums.normal_at(sheet, largest, spot)[1], ahead) < 0:
        sheet = Surface(maker.SewedShape().Reversed())
    return _with_history(maker, pieces, sheet)


def sheet(pieces: Sequence[Piece], hint: str) -> Made:
    """Faces as one surface. KernelError with the hint if they do not hang together."""
    maker = _together(pieces, hint)
    return _with_history(maker, pieces, Surface(maker.SewedShape()))


def closed(pieces: Sequence[Piece], doing: str) -> Made:
    """Faces as the one solid they enclose. KernelError says where it stays open."""
    maker = _sewn(pieces)
    if maker.NbFreeEdges():
        vertices = mapped(maker.FreeEdge(1), TopAbs_VERTEX)
        x, y, z = measure.vertex_point(Solid.as_vertex(vertices.FindKey(1)))
        raise KernelError(f"{doing.capitalize()} stays open at ({x:.2f}, {y:.2f}, {z:.2f}).", "Check the parting line there.")
    shells = mapped(maker.SewedShape(), TopAbs_SHELL)
    if shells.Extent() != 1:
        raise KernelError(
            f"{doing.capitalize()} comes apart into {shells.Extent()} shells: part of it cannot be reached along the pull.",
            "Look at the undercuts of the part.",
        )
    solid = BRepBuilderAPI_MakeSolid(Surface(maker.SewedShape()).shape).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return _with_history(maker, pieces, one(solid, doing))


def _together(pieces: Sequence[Piece], hint: str) -> Any:
    maker = _sewn(pieces)
    if len(pieces) > 1 and mapped(maker.SewedShape(), TopAbs_SHELL).Extent() != 1:
        raise KernelError("The pieces of the surface do not hang together.", hint)
    return maker


def _sewn(pieces: Sequence[Piece]) -> Any:
    maker = BRepBuilderAPI_Sewing(_TOLERANCE)
    for piece in pieces:
        maker.Add(piece.face)
    maker.Perform()
    return maker


def _with_history(maker: Any, pieces: Sequence[Piece], result: Solid) -> Made:
    ledger = Ledger([result])
    for piece in pieces:
        new = maker.ModifiedSubShape(piece.face)
        ledger.note(piece.face if new.IsNull() else new, piece.origin)
    return ledger.made()[0]
