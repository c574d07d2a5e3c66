"""Rounded edges."""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import Any

from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet

from supplecast.errors import KernelError
from supplecast.kernel import measure
from supplecast.kernel.faults import REFUSALS
from supplecast.kernel.history import EdgeOf, Ledger, Made, Origin, VertexOf, each
from supplecast.kernel.shape import Solid, checked


def fillet(solid: Solid, edges: Sequence[int], radius: float) -> Made:
    """Round the given edges, and what runs on from them smoothly, with one radius in mm.

    Roles: `blend` from its edge, `corner` from its vertex. When it does not fit, the KernelError names the edges that
    cannot take the radius alone and the largest that fits all of them.
    """
    if radius <= 0:
        raise KernelError("The radius must be greater than zero.")
    if not edges:
        raise KernelError("No edge is picked.", "Pick the edges to round.")
    made = _attempt(solid, edges, radius)
    if made is not None:
        return made
    largest = largest_fillet(solid, edges, radius)
    culprits = tuple(e for e in edges if _attempt(solid, [e], radius) is None) if len(edges) <= 12 else ()
    fits = f"The largest that fits is {largest:.2f} mm." if largest else "Not even a very small radius fits here."
    raise KernelError(f"A radius of {radius:g} mm does not fit.", fits, edges=culprits, largest=largest)


def _attempt(solid: Solid, edges: Sequence[int], radius: float) -> Made | None:
    maker = BRepFilletAPI_MakeFillet(solid.shape)
    # Finer approximation than the default (1e-4, 1e-5) leaves edges tight to 1e-7 instead of 2e-5, and is no slower.
    maker.SetParams(1e-2, 1e-4, 1e-5, 1e-6, 1e-7, 1e-3)
    try:
        for index in edges:
            edge = solid.nth_edge(index)
            if maker.Contour(edge) == 0:
                maker.Add(radius, edge)
        maker.Build()
        if not maker.IsDone():
            return None
        result = checked(maker.Shape(), "the fillet")[0]
        # A radius past the limit can come back "done" with more material than there was, or less than none.
        if not 0 < measure.rough_volume(result) < measure.loose_box(solid).diagonal ** 3:
            return None
        return _told(maker, solid, result)
    except REFUSALS:
        return None


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


def largest_fillet(solid: Solid, edges: Sequence[int], too_big: float, seconds: float = 2.0) -> float | None:
    """The largest radius below `too_big` that fits, by bisection to 0.01 mm or until the time is up; None if none did."""
    deadline = time.monotonic() + seconds
    low, high = 0.0, too_big
    while high - low > 0.01 and time.monotonic() < deadline:
        middle = (low + high) / 2
        if _attempt(solid, edges, middle) is None:
            high = middle
        else:
            low = middle
    return int(low * 100) / 100 or None
