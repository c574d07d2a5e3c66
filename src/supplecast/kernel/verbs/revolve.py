"""Solids turned about an axis."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
from OCP.Geom import Geom_Circle, Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Ax1, gp_Lin
from OCP.TopAbs import TopAbs_VERTEX

from supplecast.curves import Curve2, Line2, Region
from supplecast.errors import KernelError
from supplecast.geometry import Axis, Frame, Point2, dot
from supplecast.kernel.shapes.history import Ledger, Made, Origin, each
from supplecast.kernel.shapes.profile import Profile, as_dir, as_point, profile
from supplecast.kernel.shapes.shape import Solid, mapped
from supplecast.kernel.shapes.soundness import one

_FULL = 2 * math.pi
_TOUCH = 1e-6
_LONGEST = 0.8  # rad, of which half is used
_NEAR = 0.05  # mm from the axis


def in_plane(frame: Frame, axis: Axis) -> tuple[Point2, Point2]:
    """An axis as a base and a direction in a sketch's plane. KernelError if it does not lie in it."""
    beyond = (axis.point[0] + axis.direction[0], axis.point[1] + axis.direction[1], axis.point[2] + axis.direction[2])
    leaning = math.degrees(math.asin(min(1.0, abs(dot(axis.direction, frame.normal)))))
    off = abs(frame.over(axis.point))
    if leaning > 1e-4 or off > 1e-6:
        square = "stands square on it" if leaning > 89.999 else f"leans {leaning:.3g}° out of it"
        raise KernelError(
            f"The axis does not lie in the plane of the outline: it {square if leaning > 1e-4 else f'is {off:.3g} mm off it'}.",
            "Pick an axis in that plane, or draw the outline on a plane through the axis.",
        )
    a, b = frame.flat(axis.point), frame.flat(beyond)
    return a, (b[0] - a[0], b[1] - a[1])


def closed_along(chain: Sequence[Curve2], base: Point2, direction: Point2) -> Region:
    """The area between an open chain and an axis: its ends dropped squarely onto the axis. The new lines are `foot`, `axis`
    and `head`.
    """
    size = math.hypot(*direction)
    x, y = direction[0] / size, direction[1] / size

    def dropped(p: Point2) -> Point2:
        share = (p[0] - base[0]) * x + (p[1] - base[1]) * y
        return base[0] + share * x, base[1] + share * y

    first, last = chain[0].sampled(1)[0], chain[-1].sampled(1)[-1]
    a, b = (float(first[0]), float(first[1])), (float(last[0]), float(last[1]))
    foot, head = dropped(a), dropped(b)
    if math.dist(foot, head) < 1e-9:
        raise KernelError("Both ends of the outline lie level: there is nothing between it and the axis.", "Draw it closed.")
    lines = [("head", b, head), ("axis", head, foot), ("foot", foot, a)]
    closing = [Line2(name, p, q) for name, p, q in lines if math.dist(p, q) > 1e-9]
    return Region((*chain, *closing), (), ",".join(curve.entity for curve in chain))


def revolve(region: Region, frame: Frame, base: Point2, direction: Point2, angle: float = _FULL) -> Made:
    """Turn a region about the in-plane axis through `base` along `way`, by `angle` rad (0 to 2π).

    Roles: `side` from its entity; less than a full turn also has `start` and `end`. Raises KernelError for outlines that
    cross the axis, with how far they reach over it.
    """
    refuse_angle(angle)
    refuse_crossing(region.outer, base, direction)
    flat = profile(region, frame)
    whole = angle > _FULL - 1e-9
    along = tuple(direction[0] * a + direction[1] * b for a, b in zip(frame.x, frame.y, strict=True))
    axis = gp_Ax1(as_point(frame.point(base)), as_dir((along[0], along[1], along[2])))
    maker = BRepPrimAPI_MakeRevol(flat.face, axis, True) if whole else BRepPrimAPI_MakeRevol(flat.face, axis, angle, True)
    if not maker.IsDone():
        raise KernelError("The outline could not be turned.")
    solid = one(maker.Shape(), "turning the outline")
    _lengthen_arcs(solid, axis)
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


def _lengthen_arcs(solid: Solid, axis: Any) -> None:
    """Let the arcs behind surfaces that are no ring, since they would cross themselves, run on beyond their faces.

    Where such a face is offset and needs to reach further, as in a shell's open rim, the kernel would go on along a spline of
    its own that is off by a tenth of a millimetre; along the arc itself it is exact. Each end goes half the way to the axis.
    """
    for index in range(solid.face_count):
        if BRepAdaptor_Surface(solid.face(index)).GetType() != GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution:
            continue
        surface = BRep_Tool.Surface_s(solid.face(index))
        arc = surface.BasisCurve()
        if not isinstance(arc, Geom_TrimmedCurve) or not isinstance(arc.BasisCurve(), Geom_Circle):
            continue
        low, high = arc.FirstParameter(), arc.LastParameter()
        most = min(_LONGEST, (_FULL - (high - low)) / 2)
        before, after = _clear(arc.BasisCurve(), axis, low, -most) / 2, _clear(arc.BasisCurve(), axis, high, most) / 2
        surface.SetBasisCurve(Geom_TrimmedCurve(arc.BasisCurve(), low - before, high + after))


def _clear(circle: Any, axis: Any, end: float, most: float) -> float:
    """How far a circle can be followed from a parameter, by no more than `most`, before it comes near the axis; rad."""
    line = gp_Lin(axis)
    turns = np.linspace(0.0, most, 65)
    near = (abs(float(turn)) for turn in turns if line.Distance(circle.Value(end + float(turn))) < _NEAR)
    return next(near, abs(most))


def refuse_angle(angle: float) -> None:
    if not 0 < angle <= _FULL + 1e-9:
        raise KernelError("The angle must lie above 0° and up to 360°.", "Type 360 for a full turn.")


def refuse_crossing(curves: Sequence[Curve2], base: Point2, direction: Point2, *, touching: bool = True) -> None:
    """KernelError for curves that reach over an axis, with how far; and unless `touching`, for a curve that lies on it."""
    length = math.hypot(*direction)
    across = np.array([-direction[1], direction[0]]) / length
    sides = [(curve.sampled(64) - np.array(base)) @ across for curve in curves]
    if not touching and any(float(np.abs(side).max()) < _TOUCH for side in sides):
        raise KernelError("A piece of the outline lies on the axis: turned, it is nothing.", "Take that piece out.")
    off = np.concatenate(sides)
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
