"""Solids drawn over two or more outlines."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections

from supplecast.curves import Region
from supplecast.errors import KernelError
from supplecast.geometry import Frame
from supplecast.kernel import measure
from supplecast.kernel.history import Ledger, Made, Origin, each
from supplecast.kernel.profile import flat_wire
from supplecast.kernel.shape import one

_APART = 1e-4


def loft(sections: Sequence[tuple[Region, Frame]], *, straight: bool = True) -> Made:
    """Solid through the outer loops of regions, each in its own plane, in their order.

    Roles: `side` from the entity of the section before it (`L1~2` for the second band), `start`, `end`. KernelError names
    the section that lies on the one before it.
    """
    if len(sections) < 2:
        raise KernelError("A loft needs two outlines.", "Pick a second one.")
    middles = [
        np.mean([frame.point((float(x), float(y))) for curve in region.outer for x, y in curve.sampled(16)], axis=0)
        for region, frame in sections
    ]
    for number in range(1, len(sections)):
        gap = middles[number] - middles[number - 1]
        if float(np.abs(gap).max()) < _APART or abs(float(gap @ np.array(sections[number][1].normal))) < _APART:
            raise KernelError(
                f"Outline {number + 1} lies in the plane of outline {number}: there is nothing between them.",
                "Draw them on planes apart from each other.",
            )
    maker = BRepOffsetAPI_ThruSections(True, straight, 1e-6)
    maker.CheckCompatibility(True)
    edges = []
    for region, frame in sections:
        wire, named = flat_wire(region.outer, frame)
        maker.AddWire(wire)
        edges.append(named)
    maker.Build()
    if not maker.IsDone():
        raise KernelError("The outlines could not be joined.", "Give them alike shapes, or add one between them.")
    solid = one(maker.Shape(), "the loft")
    if measure.rough_volume(solid) <= 0:
        raise KernelError("The loft came out inside out.", "Give its outlines in order, from one end to the other.")
    ledger = Ledger([solid])
    for shape, role in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        if not shape.IsNull():
            ledger.note(shape, Origin(role))
    for number, named in enumerate(edges):
        for edge, entity in named:
            made = maker.GeneratedFace(edge)
            faces = [made] if not made.IsNull() else list(each(maker.Generated(edge))) if number == 0 else []
            for face in faces:
                ledger.note(face, Origin("side", (f"{entity}~{number + 1}" if number else entity,)))
    return ledger.made()[0]
