"""Edges rounded and bevelled."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import Any

from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet

from supplecast.errors import KernelError
from supplecast.kernel import measure
from supplecast.kernel.faults import REFUSALS
from supplecast.kernel.history import EdgeOf, Ledger, Made, Origin, VertexOf, each
from supplecast.kernel.shape import Solid, checked

_SEARCH_SECONDS = 0.5


def fillet(solid: Solid, edges: Sequence[int], radius: float) -> Made:
    """Round the given edges, and what runs on from them smoothly, with one radius in mm.

    Roles: `blend` from its edge, `corner` from its vertex. When it does not fit, the KernelError names the edges at fault.
    """
    _refuse(edges, radius, "radius")
    maker = _fillet_maker(solid, edges, radius)
    made = _built(maker, solid)
    if made is None:
        culprits = _faulty(maker, solid, edges) or _alone(
            solid, edges, lambda e: _built(_fillet_maker(solid, e, radius), solid)
        )
        raise _unfit(f"A radius of {radius:g} mm does not fit", solid, edges, culprits)
    return made


def chamfer(solid: Solid, edges: Sequence[int], distance: float) -> Made:
    """Bevel the given edges, and what runs on from them smoothly, by the same `distance` in mm on both faces.

    Roles and errors as for `fillet`.
    """
    _refuse(edges, distance, "distance")
    made = _built(_chamfer_maker(solid, edges, distance), solid)
    if made is None:
        culprits = _alone(solid, edges, lambda e: _built(_chamfer_maker(solid, e, distance), solid))
        raise _unfit(f"A chamfer of {distance:g} mm does not fit", solid, edges, culprits)
    return made


def _refuse(edges: Sequence[int], size: float, word: str) -> None:
    if size <= 0:
        raise KernelError(f"The {word} must be greater than zero.")
    if not edges:
        raise KernelError("No edge is picked.", "Pick the edges.")


def _unfit(words: str, solid: Solid, edges: Sequence[int], culprits: tuple[int, ...]) -> KernelError:
    if not culprits:  # each fits alone: it is where they meet that they get into each other's way
        culprits = tuple(edges)
        where = " where these edges meet" if len(edges) > 1 else " on this edge"
    else:
        where = f" on {len(culprits)} of {len(edges)} edges" if len(edges) > 1 else " on this edge"
    return KernelError(f"{words}{where}.", "Make it smaller, or leave those edges out.", edges=culprits, sized=True)


def _fillet_maker(solid: Solid, edges: Sequence[int], radius: float) -> Any:
    maker = BRepFilletAPI_MakeFillet(solid.shape)
    # Finer approximation than the default (1e-4, 1e-5) leaves edges tight to 1e-7 instead of 2e-5, and is no slower.
    maker.SetParams(1e-2, 1e-4, 1e-5, 1e-6, 1e-7, 1e-3)
    return _filled(maker, solid, edges, radius)


def _chamfer_maker(solid: Solid, edges: Sequence[int], distance: float) -> Any:
    return _filled(BRepFilletAPI_MakeChamfer(solid.shape), solid, edges, distance)


def _filled(maker: Any, solid: Solid, edges: Sequence[int], size: float) -> Any:
    for index in edges:
        edge = solid.nth_edge(index)
        if maker.Contour(edge) == 0:  # else a smooth chain has it already
            maker.Add(size, edge)
    return maker


def _built(maker: Any, solid: Solid) -> Made | None:
    """The finished result, or nothing where the kernel refuses, or calls done what is not sound."""
    try:
        maker.Build()
        if not maker.IsDone():
            return None
        result = checked(maker.Shape(), "the blend")[0]
    except REFUSALS:
        return None
    # A radius past the limit can come back "done" and turned inside out, or reaching far beyond where the body was.
    before, after = measure.loose_box(solid).diagonal, measure.loose_box(result).diagonal
    if measure.is_inside_out(result) or after > 2 * before:
        return None
    return _told(maker, solid, result)


def _faulty(maker: Any, solid: Solid, edges: Sequence[int]) -> tuple[int, ...]:
    """Edges that the kernel itself names: those of contours it could not begin, or that meet where fillets clash."""
    found: set[int] = set()
    try:
        for number in range(1, int(maker.NbFaultyContours()) + 1):
            contour = int(maker.FaultyContour(number))
            named = (solid.find_edge(maker.Edge(contour, k)) for k in range(1, int(maker.NbEdges(contour)) + 1))
            found |= {edge for edge in named if edge is not None}
        spoiled = [maker.FaultyVertex(number) for number in range(1, int(maker.NbFaultyVertices()) + 1)]
    except REFUSALS:
        return ()
    for vertex in spoiled:
        at = measure.vertex_point(vertex)
        found |= {e for e in edges if measure.ends_at(solid, e, at)}
    return tuple(sorted(found))


def _alone(solid: Solid, edges: Sequence[int], attempt: Callable[[Sequence[int]], Made | None]) -> tuple[int, ...]:
    """Edges that cannot take the size even by themselves, as far as half a second of trying tells."""
    deadline = time.monotonic() + _SEARCH_SECONDS
    found = []
    for edge in edges:
        if time.monotonic() > deadline:
            break
        if attempt([edge]) is None:
            found.append(edge)
    return tuple(found)


def _told(maker: Any, solid: Solid, result: Solid) -> Made:
    ledger = Ledger([result])
    ledger.kept([solid], maker.Modified)
    for index in range(solid.number_of_edges):
        for new in each(maker.Generated(solid.nth_edge(index))):
            ledger.note(new, Origin("blend", (EdgeOf(0, index),)))
    for index in range(solid.vertex_count):
        for new in each(maker.Generated(solid.vertex(index))):
            ledger.note(new, Origin("corner", (VertexOf(0, index),)))
    return ledger.made()[0]
