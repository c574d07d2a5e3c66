"""Rays, distances, and what lies inside a solid."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_IN, TopAbs_OUT

from supplecast.geometry import Box, Vec
from supplecast.kernel.measuring.measure import loose_box
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.shape import Solid, faces_of, xyz

_SHOOTER: Memo[IntCurvesFace_ShapeIntersector] = Memo("shooter of rays")
_CLASSIFIER: Memo[BRepClass3d_SolidClassifier] = Memo("classifier of points")


def first_hit(solid: Solid, start: Vec, direction: Vec) -> float | None:
    """Distance in mm from `start` along the unit vector `way` to the solid's skin; None if it is not met."""
    shooter = _SHOOTER.known(solid)
    if shooter is None:  # made ready once: that takes longer than a hundred rays
        shooter = _SHOOTER.keep(solid, IntCurvesFace_ShapeIntersector())
        shooter.Load(solid.shape, 1e-7)
    shooter.Perform(gp_Lin(gp_Pnt(*start), gp_Dir(*direction)), 0.0, 1e6)
    hits = [float(shooter.WParameter(number)) for number in range(1, shooter.NbPnt() + 1)]
    return min(hits) if hits else None


def distance_to_faces(solid: Solid, faces: tuple[int, ...], point: Vec) -> float:
    """Least distance from a point to the given faces, mm."""
    measure = BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(gp_Pnt(*point)).Vertex(), faces_of(solid, faces))
    return float(measure.Value())


def between(a: Solid, b: Solid) -> float:
    """Least distance between two bodies, mm: 0 where they meet."""
    return float(BRepExtrema_DistShapeShape(a.shape, b.shape).Value())


def to_faces(a: Solid, solid: Solid, faces: tuple[int, ...]) -> float:
    """Least distance from a body to some faces of another, mm."""
    return float(BRepExtrema_DistShapeShape(a.shape, faces_of(solid, faces)).Value())


def nearest_places(a: Solid, b: Solid) -> tuple[Vec, Vec]:
    """Where two bodies come nearest to each other, on each of them."""
    nearest = BRepExtrema_DistShapeShape(a.shape, b.shape)
    return xyz(nearest.PointOnShape1(1)), xyz(nearest.PointOnShape2(1))


def between_faces(a: Solid, face: int, b: Solid, other: int) -> tuple[float, Vec, Vec]:
    """Least distance between a face of one body and one of another, mm, and where that is on each."""
    nearest = BRepExtrema_DistShapeShape(a.face(face), b.face(other))
    return float(nearest.Value()), xyz(nearest.PointOnShape1(1)), xyz(nearest.PointOnShape2(1))


def nearest_of(bodies: Sequence[Solid], others: Sequence[Solid]) -> float:
    """The least distance between any of some bodies and any of others, mm; pairs that cannot come nearer are left out."""
    boxes = [loose_box(solid) for solid in bodies], [loose_box(solid) for solid in others]
    pairs = sorted((_apart(boxes[0][i], boxes[1][j]), i, j) for i in range(len(bodies)) for j in range(len(others)))
    least = math.inf
    for gap, i, j in pairs:
        if gap >= least:
            break
        least = min(least, between(bodies[i], others[j]))
    return least


def boxes_apart(a: Solid, b: Solid) -> float:
    """How far the boxes of two bodies are from each other, mm: they themselves are no nearer."""
    return _apart(loose_box(a), loose_box(b))


def _apart(a: Box, b: Box) -> float:
    """How far two boxes are from each other, mm."""
    gaps = (max(a.low[k] - b.high[k], b.low[k] - a.high[k], 0.0) for k in range(3))
    return math.sqrt(sum(gap * gap for gap in gaps))


def holds(solid: Solid, point: Vec) -> bool:
    """Whether a point lies inside a solid."""
    return bool(_state(solid, point, 1e-6) == TopAbs_IN)


def covers(solid: Solid, point: Vec) -> bool:
    """Whether a point lies inside a solid or on its skin."""
    return bool(_state(solid, point, 1e-7) != TopAbs_OUT)


def _state(solid: Solid, point: Vec, tolerance: float) -> Any:
    classifier = _CLASSIFIER.of(solid, lambda: BRepClass3d_SolidClassifier(solid.shape))
    classifier.Perform(gp_Pnt(*point), tolerance)
    return classifier.State()
