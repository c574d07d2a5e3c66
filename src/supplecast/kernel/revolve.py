"""Solids turned about an axis."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1
from OCP.TopAbs import TopAbs_VERTEX

from supplecast.curves import Region
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Point2
from supplecast.kernel.history import Ledger, Made, Origin, each
from supplecast.kernel.profile import Profile, direction, point, profile
from supplecast.kernel.shape import Solid, mapped, one

_FULL = 2 * math.pi
_TOUCH = 1e-6


def revolve(region: Region, frame: Frame, base: Point2, way: Point2, angle: float = _FULL) -> Made:
    """Turn a region about the in-plane axis through `base` along `way`, by `angle` rad (0 to 2π).

    Roles: `side` from its entity; less than a full turn also has `start` and `end`. Raises KernelError for outlines that
    cross the axis, with how far they reach over it.
    """
    if not 0 < angle <= _FULL + 1e-9:
        raise KernelError("The angle must lie above 0° and up to 360°.", "Type 360 for a full turn.")
    _refuse_crossing(region, base, way)
    flat = profile(region, frame)
    whole = angle > _FULL - 1e-9
    along = tuple(way[0] * a + way[1] * b for a, b in zip(frame.x, frame.y, strict=True))
    axis = gp_Ax1(point(frame.point(base)), direction((along[0], along[1], along[2])))
    maker = BRepPrimAPI_MakeRevol(flat.face, axis, True) if whole else BRepPrimAPI_MakeRevol(flat.face, axis, angle, True)
    if not maker.IsDone():
        raise KernelError("The outline could not be turned.")
    solid = one(maker.Shape(), "turning the outline")
    ledger = Ledger([solid])
    for edge, entity in flat.edges:
        for side in each(maker.Generated(edge)):
            ledger.note(side, Origin("side", (entity,)))
    if whole:
        _claim_discs(ledger, solid, flat, maker)
    else:
        ledger.note(maker.FirstShape(), Origin("start"))
        ledger.note(maker.LastShape(), Origin("end"))
    return ledger.made()[0]


def _refuse_crossing(region: Region, base: Point2, way: Point2) -> None:
    length = math.hypot(*way)
    across = np.array([-way[1], way[0]]) / length
    outline = np.concatenate([curve.sampled(64) for curve in region.outer]) - np.array(base)
    off = outline @ across
    over = min(float(off.max()), float(-off.min()))
    if over > _TOUCH:
        raise KernelError(
            f"The outline crosses its axis: it reaches {over:.3g} mm over it.",
            "Move it to one side of the axis; it may touch.",
        )


def _claim_discs(ledger: Ledger, solid: Solid, flat: Profile, maker: Any) -> None:
    """A full turn reports nothing for lines square to the axis: their discs and rings are known by their end circles."""
    for edge, entity in flat.edges:
        ends = mapped(edge, TopAbs_VERTEX)
        circles = set()
        for number in range(1, int(ends.Extent()) + 1):
            for made in each(maker.Generated(ends.FindKey(number))):
                index = solid.find_edge(made)
                if index is not None:
                    circles.add(index)
        if not circles:
            continue
        for face in range(solid.face_count):
            around = {e for e in solid.face_edges[face] if not solid.degenerate_edges[e]}
            if not ledger.rows[0][face] and around and around <= circles:
                ledger.note(solid.face(face), Origin("side", (entity,)))
