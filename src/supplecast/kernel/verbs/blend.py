"""Edges rounded and bevelled."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Sequence
from typing import Any

from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet

from supplecast.errors import KernelError
from supplecast.kernel.measuring import datums, measure
from supplecast.kernel.measuring import edges as edges_of
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import EdgeOf, Ledger, Made, Origin, VertexOf, each
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import checked

_TRIED, _SEARCH_SECONDS, _LONGEST_SEARCH = 12, 0.5, 5.0
_NEARER = (2.0, 5.0)


Sized = tuple[Sequence[int], float]
"""Some edges and the radius they get."""


def fillet(solid: Solid, edges: Sequence[int], radius: float) -> Made:
    """Round the given edges, and what runs on from them smoothly, with one radius in mm.

    Roles: `blend` from its edge, `corner` from its vertex. When it does not fit, the KernelError names the edges at fault.
    """
    return fillets(solid, [(edges, radius)])


def fillets(solid: Solid, sets: Sequence[Sized]) -> Made:
    """Round several sets of edges at once, each with a radius of its own; an edge takes the radius of the first set it is in.

    Roles and errors as for `fillet`.
    """
    for edges, radius in sets:
        _refuse(edges, radius, "radius")
    maker = _fillet_maker(solid, sets)
    made = _built(maker, solid) or _on_loose_faces(solid, sets)
    if made is None:
        every = [edge for edges, _ in sets for edge in edges]
        size_of = {edge: radius for edges, radius in reversed(sets) for edge in edges}
        culprits = _faulty(maker, solid, every) or _alone(
            solid, every, lambda e: _built(_fillet_maker(solid, [(e, size_of[e[0]])]), solid)
        )
        sizes = " and ".join(dict.fromkeys(f"{size_of[edge]:g}" for edge in culprits or every if edge in size_of))
        raise _unfit(f"A radius of {sizes} mm does not fit", solid, every, culprits)
    return made


def chamfer(solid: Solid, edges: Sequence[int], distance: float) -> Made:
    """Bevel the given edges, and what runs on from them smoothly, by the same `distance` in mm on both faces.

    Roles and errors as for `fillet`.
    """
    return _bevelled(
        solid, edges, f"A chamfer of {distance:g} mm", distance, lambda maker, edge, face: maker.Add(distance, edge)
    )


def chamfer_uneven(solid: Solid, edges: Sequence[int], near: float, far: float, *, turned: bool = False) -> Made:
    """Bevel edges by `near` mm on one face and `far` mm on the other. The first face is the one that is more level, that is
    looks more along z, or the other if `turned`. Roles and errors as for `fillet`.
    """

    def add(maker: Any, edge: Any, face: Any) -> None:
        maker.Add(near, far, edge, face)

    return _bevelled(solid, edges, f"A chamfer of {near:g} by {far:g} mm", max(near, far), add, turned)


def chamfer_at(solid: Solid, edges: Sequence[int], distance: float, angle: float, *, turned: bool = False) -> Made:
    """Bevel edges by `distance` mm on the first face, as for `chamfer_uneven`, at `angle` rad to it."""

    def add(maker: Any, edge: Any, face: Any) -> None:
        maker.AddDA(distance, angle, edge, face)

    words = f"A chamfer of {distance:g} mm at {math.degrees(angle):g}°"
    return _bevelled(solid, edges, words, distance, add, turned)


_Add = Callable[[Any, Any, Any], None]


def _bevelled(solid: Solid, edges: Sequence[int], words: str, size: float, add: _Add, turned: bool = False) -> Made:
    _refuse(edges, size, "distance")

    def attempt(some: Sequence[int]) -> Made | None:
        maker = BRepFilletAPI_MakeChamfer(solid.shape)
        for index in some:
            edge = solid.nth_edge(index)
            if maker.Contour(edge) == 0:  # else a smooth chain has it already
                add(maker, edge, solid.face(_first_face(solid, index, turned)))
        return _built(maker, solid)

    made = attempt(edges)
    if made is None:
        raise _unfit(f"{words} does not fit", solid, edges, _alone(solid, edges, attempt))
    return made


def _first_face(solid: Solid, index: int, turned: bool) -> int:
    faces = solid.faces_at_edges[index]
    middle = edges_of.middle(solid, index)
    level = sorted(set(faces), key=lambda face: (-round(abs(datums.normal_at(solid, face, middle)[1][2]), 6), face))
    return level[-1 if turned else 0]


def _on_loose_faces(solid: Solid, sets: Sequence[Sized]) -> Made | None:
    """The rounds of edges whose faces do not quite meet, as in files of other programs: as near as these do."""
    off = edges_of.looseness(solid)
    if off < edges_of.LOOSE:
        return None
    return next((made for times in _NEARER if (made := _built(_fillet_maker(solid, sets, times * off), solid))), None)


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
        own = len(set(culprits) & set(edges))
        if not own:
            where = " on edges that run on smoothly from the picked ones"
        else:
            where = f" on {own} of {len(edges)} edges" if len(edges) > 1 else " on this edge"
    ends = {end for index in culprits for end in edges_of.end_vertices(solid, index)}
    beside = [index for index in range(solid.number_of_edges) if ends & set(edges_of.end_vertices(solid, index))]
    gap = edges_of.gap(solid, beside)
    if gap is not None:
        edge, why = gap
        return KernelError(
            f"{words}{where}; {why}.",
            "Make it smaller; a body that was imported can be taken healed.",
            edges=(edge,),
            sized=True,
        )
    return KernelError(f"{words}{where}.", "Make it smaller, or leave those edges out.", edges=culprits, sized=True)


def _fillet_maker(solid: Solid, sets: Sequence[Sized], near: float = 1e-4) -> Any:
    """`near` is how far, in mm, the round on one face may begin off the end of the round on the face before it."""
    maker = BRepFilletAPI_MakeFillet(solid.shape)
    # Finer approximation than the default (1e-4, 1e-5) leaves edges tight to 1e-7 instead of 2e-5, and is no slower.
    maker.SetParams(1e-2, near, near / 10, 1e-6, 1e-7, 1e-3)
    for edges, radius in sets:
        for index in edges:
            edge = solid.nth_edge(index)
            if maker.Contour(edge) == 0:  # else a smooth chain has it already
                maker.Add(radius, edge)
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
    return _with_history(maker, solid, result)


def _faulty(maker: Any, solid: Solid, edges: Sequence[int]) -> tuple[int, ...]:
    """Edges that the kernel itself names: those of contours it could not begin, or that meet where fillets clash."""
    blamed: set[int] = set()
    try:
        for number in range(1, int(maker.NbFaultyContours()) + 1):
            contour = int(maker.FaultyContour(number))
            if contour > maker.NbContours():  # of one that the kernel has dropped: to ask about it brings it down
                continue
            named = (solid.find_edge(maker.Edge(contour, k)) for k in range(1, int(maker.NbEdges(contour)) + 1))
            blamed |= {edge for edge in named if edge is not None}
        spoiled = [maker.FaultyVertex(number) for number in range(1, int(maker.NbFaultyVertices()) + 1)]
    except REFUSALS:
        return ()
    for vertex in spoiled:
        at = measure.vertex_point(vertex)
        blamed |= {e for e in edges if measure.ends_at(solid, e, at)}
    return tuple(sorted(blamed))


def _alone(solid: Solid, edges: Sequence[int], attempt: Callable[[Sequence[int]], Made | None]) -> tuple[int, ...]:
    """Edges that cannot take the size even by themselves: of the first dozen, and of more as far as half a second tells."""
    began = time.thread_time()  # its own work: beside other programs the answer stays the same
    unfit = []
    for tried, edge in enumerate(edges):
        spent = time.thread_time() - began
        if spent > (_SEARCH_SECONDS if tried >= _TRIED else _LONGEST_SEARCH):
            break
        if attempt([edge]) is None:
            unfit.append(edge)
    return tuple(unfit)


def _with_history(maker: Any, solid: Solid, result: Solid) -> Made:
    ledger = Ledger([result])
    ledger.kept([solid], maker.Modified)
    for index in range(solid.number_of_edges):
        for new in each(maker.Generated(solid.nth_edge(index))):
            ledger.note(new, Origin("blend", (EdgeOf(0, index),)))
    for index in range(solid.vertex_count):
        for new in each(maker.Generated(solid.vertex(index))):
            ledger.note(new, Origin("corner", (VertexOf(0, index),)))
    return ledger.made()[0]
