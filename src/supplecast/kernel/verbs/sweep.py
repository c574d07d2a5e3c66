"""Solids swept along a path.

The kernel's own sweep calls two wrong results done: a sharp corner at its default setting gives half the volume, and a
profile wider than a bend gives a solid that crosses itself. So corners are always mitred, bends are measured first, and
for paths in a plane the volume is compared with Pappus' theorem: area times the path of the centroid, exact without overlap.
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

from supplecast.curves import Curve2, Region, green
from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Point2, along, dot, subtract, times
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import Ledger, Made, Origin, each, traced_to
from supplecast.kernel.shapes.profile import flat_wire
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs.boolean import cut
from supplecast.kernel.verbs.route import Route

_SQUARE = 1e-6


def stands_square(frame: Frame, route: Route) -> bool:
    """Whether a path begins in a plane and leaves it squarely."""
    return abs(frame.over(route.start)) < 1e-4 and abs(abs(dot(frame.normal, route.lead)) - 1) < _SQUARE


def fits(region: Region, frame: Frame, route: Route) -> bool:
    """Whether an outline is meant to stay where it is drawn: square to the path's start, and round it or touching it."""
    if not stands_square(frame, route):
        return False
    middle = region.middle
    outline = np.concatenate([curve.sampled(32) for curve in region.outer]) - np.array(middle)
    return math.dist(frame.flat(route.start), middle) <= float(np.hypot(outline[:, 0], outline[:, 1]).max()) + 1e-6


def seated(frame: Frame, route: Route, anchor: Point2) -> Frame:
    """The plane of an outline carried to the start of a path, square to it, with `anchor` on the path.

    It is turned by the least angle that does it.
    """
    lead = route.lead if dot(frame.normal, route.lead) >= 0 else times(route.lead, -1.0)
    x = frame.turned_x(lead)
    moved = Frame(route.start, x, lead)
    return Frame(along(route.start, subtract(moved.point(anchor), route.start), -1.0), x, lead)


def sweep(region: Region, frame: Frame, route: Route) -> Made:
    """Sweep a region along an open path that begins in the region's plane, square to it.

    Roles: `side` from profile entity and path piece (`L1~P2`), `start`, `end`. Raises KernelError for bends tighter than
    the profile is wide towards their inside, naming the least radius, and for paths that do not begin square to the plane.
    """
    if not stands_square(frame, route):
        begins = abs(frame.over(route.start)) < 1e-4
        raise KernelError(
            "The path does not leave the outline squarely." if begins else "The path does not begin in the outline's plane.",
            "Let the outline be moved to the path, or draw it square to the path's start.",
        )
    outline = np.concatenate([curve.sampled(64) for curve in region.outer])
    _refuse_tight(route, _sideways(outline, frame, route))
    made = _swept(region.outer, frame, route)
    expected = _pappus(region.outer, frame, route)
    for hole in region.holes:
        inner = _swept(hole, frame, route)
        expected -= _pappus(hole, frame, route)
        made = _hollowed(made, inner)
    volume = measure.rough_volume(made.solid)
    if volume <= 0 or (route.normal is not None and abs(volume - expected) > 2e-3 * expected):
        raise KernelError(
            f"The sweep came out wrong: {volume:.4g} mm³ where the path asks for {expected:.4g} mm³.",
            "Let the path not come near itself, and make its bends wider.",
        )
    return made


def _sideways(points: Floats, frame: Frame, route: Route) -> Floats:
    """Where points of the profile's plane lie to the left of the path and over its plane, mm, (n, 2)."""
    normal = np.array(route.normal if route.normal is not None else frame.x)
    left = np.cross(normal, route.lead)
    off = frame.space(points) - np.array(route.start)
    return np.stack([off @ left, off @ normal], axis=1)


def _refuse_tight(route: Route, side: Floats) -> None:
    """A profile must not reach a bend's centre: sideways on a flat path, any way round on one in space."""
    worst: tuple[float, float] | None = None
    for piece in route.pieces:
        bend = piece.samples[2]
        curvature = np.linalg.norm(bend, axis=1)
        at = int(curvature.argmax())
        if curvature[at] < 1e-9:
            continue
        for number in range(len(curvature)) if route.normal is not None else [at]:
            if curvature[number] < 1e-9:
                continue
            if route.normal is not None:
                turn = float(np.cross(piece.samples[1][number], bend[number]) @ np.array(route.normal))
                need = float(side[:, 0].max() if turn > 0 else -side[:, 0].min())
            else:
                need = float(np.hypot(side[:, 0], side[:, 1]).max())
            radius = 1 / float(curvature[number])
            if radius <= need + 1e-6 and (worst is None or radius < worst[0]):
                worst = radius, need
    if worst is not None:
        radius, need = worst
        raise KernelError(
            f"The outline is too big for the path: it reaches {need:.3g} mm into a bend of radius {radius:.3g} mm.",
            f"Make the bend wider than {need:.3g} mm, or the outline smaller.",
        )
    for number, piece in enumerate(route.pieces):
        turns = [route.corners[n] for n in (number - 1, number) if 0 <= n < len(route.corners)]
        inward = sum((side[:, 0].max() if t > 0 else -side[:, 0].min()) * math.tan(min(abs(t), 3.0) / 2) for t in turns)
        if piece.straight and route.normal is not None and inward > piece.length:
            raise KernelError(
                f"Piece {number + 1} of the path is too short for its corners: {piece.length:.3g} mm, {inward:.3g} mm needed.",
                "Lengthen it, open the corners, or make the outline smaller.",
            )


def _pappus(loop: Sequence[Curve2], frame: Frame, route: Route) -> float:
    """Area of a loop times the way its centroid goes, mm³ (Pappus; corners mitred), for a flat path."""
    area = abs(sum(green(curve) for curve in loop))
    offset = float(_sideways(np.array([_middle(loop)]), frame, route)[0, 0])
    length = sum(piece.length for piece in route.pieces)
    normal = np.array(route.normal if route.normal is not None else frame.x)
    for piece in route.pieces:
        if not piece.straight:
            tangents = piece.samples[1]
            turns = np.cross(tangents[:-1], tangents[1:]) @ normal
            length -= offset * float(np.arctan2(turns, (tangents[:-1] * tangents[1:]).sum(axis=1)).sum())
    length -= sum(2 * offset * math.tan(turn / 2) for turn in route.corners)
    return area * length


def _middle(loop: Sequence[Curve2]) -> Point2:
    """Centroid of a loop, from chords fine enough for the guard."""
    points = np.concatenate([curve.sampled(256)[:-1] for curve in loop])
    x, y = points[:, 0], points[:, 1]
    turn = x * np.roll(y, -1) - y * np.roll(x, -1)
    six = 3 * float(turn.sum())
    return float((x + np.roll(x, -1)) @ turn) / six, float((y + np.roll(y, -1)) @ turn) / six


def _swept(loop: Sequence[Curve2], frame: Frame, route: Route) -> Made:
    spine, spine_edges = route.wire()
    wire, edges = flat_wire(tuple(loop), frame)
    maker = BRepOffsetAPI_MakePipeShell(spine)
    maker.SetIsBuildHistory(True)
    if route.normal is not None:
        maker.SetMode(gp_Dir(*route.normal))
    else:
        maker.SetMode(False)
    maker.SetTransitionMode(BRepBuilderAPI_TransitionMode.BRepBuilderAPI_RightCorner)
    maker.Add(wire, False, False)
    if not maker.IsReady():
        raise KernelError("The outline could not be set on the path.")
    try:
        maker.Build()
        if not maker.IsDone() or not maker.MakeSolid():
            raise KernelError("The outline could not be swept along the path.", "Make the bends of the path wider.")
    except KERNEL_FAULTS as fault:
        raise KernelError("The outline could not be swept along the path.", "Make the bends of the path wider.") from fault
    solid = one(maker.Shape(), "the sweep")
    ledger = Ledger([solid])
    runs = [({_face(solid, made) for made in each(maker.Generated(edge))}, name) for edge, name in spine_edges]
    for edge, entity in edges:
        for made in each(maker.Generated(edge)):
            index = _face(solid, made)
            pieces = [name for faces, name in runs if index is not None and index in faces]
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
    return traced_to(cut(outer.solid, [inner.solid])[0], [outer.origins, inner.origins])
