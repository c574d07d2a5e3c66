"""Rays, distances of points, and what lies inside a solid."""

from __future__ import annotations

from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_IN, TopAbs_OUT

from supplecast.geometry import Vec
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.shape import Solid, faces_of

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
