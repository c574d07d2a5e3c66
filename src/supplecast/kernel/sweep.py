"""Solids swept along a path of lines and arcs.

The kernel's own sweep calls two wrong results done: a sharp corner at its default setting gives half the volume, and a
profile wider than a bend gives a solid that crosses itself. So corners are always mitred, bends are measured first, and
the volume is compared with Pappus' theorem: area times the path of the centroid (exact for flat paths without overlap).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_TransitionMode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.gp import gp_Dir
from OCP.TopoDS import TopoDS

from supplecast.curves import Arc2, Curve2, Line2, Region
from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Point2, dot
from supplecast.kernel import measure
from supplecast.kernel.boolean import cut
from supplecast.kernel.history import FaceOf, Ledger, Made, Origin, each
from supplecast.kernel.profile import flat_wire
from supplecast.kernel.shape import Solid, one

_SQUARE = 1e-6


def sweep(region: Region, frame: Frame, path: Sequence[Curve2], path_frame: Frame) -> Made:
    """Sweep a region along an open or closed flat path that begins in the region's plane, square to it.

    Roles: `side` from profile entity and path entity (`L1~P2`), `start`, `end`. Raises KernelError for bends tighter than
    the profile is wide towards their inside, naming the least radius, and for paths that do not begin square to the plane.
    """
    starts = _starts(path)
    start = path_frame.point(starts[0])
    off = [s - o for s, o in zip(start, frame.origin, strict=True)]
    if abs(dot((off[0], off[1], off[2]), frame.normal)) > 1e-4:
        raise KernelError("The path does not begin in the plane of the outline.", "Draw its first point on that plane.")
    tangents = [_tangents(curve) for curve in path]
    first = tangents[0][0]
    lead = tuple(first[0] * a + first[1] * b for a, b in zip(path_frame.x, path_frame.y, strict=True))
    if abs(abs(dot((lead[0], lead[1], lead[2]), frame.normal)) - 1) > _SQUARE:
        raise KernelError(
            "The path does not leave the outline squarely.", "Let its first piece stand square to the outline's plane."
        )
    reach = _reach(region, frame, path_frame, start, first)
    _refuse_tight(path, reach)
    made = _swept(region.outer, frame, path, path_frame)
    expected = _pappus(region.outer, frame, path_frame, start, first, path)
    for hole in region.holes:
        inner = _swept(hole, frame, path, path_frame)
        expected -= _pappus(hole, frame, path_frame, start, first, path)
        made = _hollowed(made, inner)
    volume = measure.rough_volume(made.solid)
    if abs(volume - expected) > 2e-3 * expected:
        raise KernelError(
            f"The sweep came out wrong: {volume:.4g} mm³ where the path asks for {expected:.4g} mm³.",
            "Let the path not come near itself, and make its bends wider.",
        )
    return made


def _starts(path: Sequence[Curve2]) -> list[Point2]:
    if not path or any(not isinstance(curve, (Line2, Arc2)) for curve in path):
        raise KernelError("The path is not a chain of lines and arcs.", "Draw one open chain.")
    return [curve.a for curve in path if isinstance(curve, (Line2, Arc2))]


def _tangents(curve: Curve2) -> tuple[Floats, Floats]:
    """Unit tangents at both ends."""
    if isinstance(curve, Arc2):
        ends = []
        for p in (curve.a, curve.b):
            spoke = np.array(p) - np.array(curve.centre)
            turned = np.array([-spoke[1], spoke[0]]) / math.hypot(*spoke)
            ends.append(turned if curve.ccw else -turned)
        return ends[0], ends[1]
    assert isinstance(curve, Line2)
    way = np.subtract(curve.b, curve.a) / math.dist(curve.a, curve.b)
    return way, way


def _side(points: Floats, frame: Frame, path_frame: Frame, start: tuple[float, float, float], first: Floats) -> Floats:
    """How far points of the profile's plane lie to the left of the path, seen in the path's plane, mm."""
    left = -first[1] * np.array(path_frame.x) + first[0] * np.array(path_frame.y)
    space = np.array(frame.origin) + points[:, :1] * np.array(frame.x) + points[:, 1:] * np.array(frame.y)
    return np.asarray((space - np.array(start)) @ left)


def _reach(
    region: Region, frame: Frame, path_frame: Frame, start: tuple[float, float, float], first: Floats
) -> tuple[float, float]:
    outline = np.concatenate([curve.sampled(64) for curve in region.outer])
    side = _side(outline, frame, path_frame, start, first)
    return float(side.max()), float(-side.min())


def _refuse_tight(path: Sequence[Curve2], reach: tuple[float, float]) -> None:
    tight = [
        (curve.radius, reach[0] if curve.sweep > 0 else reach[1], curve.entity)
        for curve in path
        if isinstance(curve, Arc2) and curve.radius <= (reach[0] if curve.sweep > 0 else reach[1]) + 1e-6
    ]
    if tight:
        radius, need, _ = min(tight)
        raise KernelError(
            f"The outline is too big for the path: it reaches {need:.3g} mm into a bend of radius {radius:.3g} mm.",
            f"Make the bend wider than {need:.3g} mm, or the outline smaller.",
        )


def _pappus(
    loop: Sequence[Curve2],
    frame: Frame,
    path_frame: Frame,
    start: tuple[float, float, float],
    first: Floats,
    path: Sequence[Curve2],
) -> float:
    """Area of a loop times the way its centroid goes, mm³ (Pappus; corners mitred)."""
    points = np.concatenate([curve.sampled(256)[:-1] for curve in loop])
    x, y = points[:, 0], points[:, 1]
    cross = x * np.roll(y, -1) - y * np.roll(x, -1)
    area = float(cross.sum()) / 2
    centre = np.array([((x + np.roll(x, -1)) @ cross), ((y + np.roll(y, -1)) @ cross)]) / (6 * area)
    offset = float(_side(centre[None, :], frame, path_frame, start, first)[0])
    length, before = 0.0, None
    for curve in path:
        begin, end = _tangents(curve)
        if isinstance(curve, Arc2):
            length += abs(curve.sweep) * curve.radius - curve.sweep * offset
        else:
            assert isinstance(curve, Line2)
            length += math.dist(curve.a, curve.b)
        if before is not None:
            turn = math.atan2(before[0] * begin[1] - before[1] * begin[0], float(before @ begin))
            length -= 2 * offset * math.tan(turn / 2)
        before = end
    return abs(area) * length


def _swept(loop: Sequence[Curve2], frame: Frame, path: Sequence[Curve2], path_frame: Frame) -> Made:
    spine, spine_edges = flat_wire(tuple(path), path_frame, closed=False)
    wire, edges = flat_wire(tuple(loop), frame)
    maker = BRepOffsetAPI_MakePipeShell(spine)
    maker.SetIsBuildHistory(True)
    normal = path_frame.normal
    maker.SetMode(gp_Dir(*normal))
    maker.SetTransitionMode(BRepBuilderAPI_TransitionMode.BRepBuilderAPI_RightCorner)
    maker.Add(wire, False, False)
    if not maker.IsReady():
        raise KernelError("The outline could not be set on the path.")
    maker.Build()
    if not maker.IsDone() or not maker.MakeSolid():
        raise KernelError("The outline could not be swept along the path.", "Make the bends of the path wider.")
    solid = one(maker.Shape(), "the sweep")
    ledger = Ledger([solid])
    along = [({_face(solid, made) for made in each(maker.Generated(edge))}, entity) for edge, entity in spine_edges]
    for edge, entity in edges:
        for made in each(maker.Generated(edge)):
            index = _face(solid, made)
            pieces = [name for faces, name in along if index is not None and index in faces]
            for name in pieces or [""]:
                ledger.note(made, Origin("side", (f"{entity}~{name}" if name else entity,)))
    for shape, role in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        if not shape.IsNull():
            ledger.note(shape, Origin(role))
    return ledger.made()[0]


def _face(solid: Solid, shape: Any) -> int | None:
    return solid.find_face(TopoDS.Face(shape)) if shape.ShapeType().name == "TopAbs_FACE" else None


def _hollowed(outer: Made, inner: Made) -> Made:
    """A swept outline less one of its holes, swept likewise."""
    left = cut(outer.solid, [inner.solid])[0]
    rows = []
    for origins in left.origins:
        row: list[Origin] = []
        for origin in origins:
            source = origin.sources[0]
            assert isinstance(source, FaceOf)
            row += (outer, inner)[source.body].origins[source.face]
        rows.append(tuple(row))
    return Made(left.solid, tuple(rows))
