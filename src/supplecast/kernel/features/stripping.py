"""Stripping: what of a core stands in a plate or ring that pushes the part off by its rim."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.gp import gp_Trsf, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, dot, times
from supplecast.kernel.features import lip
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import Ledger, Made, Origin
from supplecast.kernel.shapes.profile import Profile, plane
from supplecast.kernel.shapes.shape import Solid, mapped, xyz
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import solid

_SQUARE = math.cos(math.radians(0.1))
_SAME, _FINE = 1e-4, 1e-6  # mm


@dataclass(frozen=True)
class Seat:
    """A flat rim with the core in its hole: its face, the level of that along the pull, its area in mm², how wide it is at its
    narrowest and how long its inner line is, mm; the radius of its outline if that is a circle.
    """

    face: int
    level: float
    area: float
    wall: float
    inner: float
    radius: float | None


def seats(part: Solid, pull: Vec) -> list[Seat]:
    """The flat faces of a part that look along the pull and run round a hollow, those farthest along it first."""
    found = []
    for face in range(part.face_count):
        if int(mapped(part.face(face), TopAbs_WIRE).Extent()) < 2 or not measure.is_flat(part, face):
            continue
        if dot(measure.flat_frame(part, face).normal, pull) > _SQUARE:
            rim = lip.rim(part, face)
            level, area = dot(rim.frame.origin, pull), measure.face_area(part, face)
            found.append(Seat(face, level, area, rim.wall, lip.length(rim.inner), _radius(rim.outer)))
    return sorted(found, key=lambda seat: (-round(seat.level, 4), -seat.area))


def _radius(wire: Any) -> float | None:
    """Of a loop that is one circle, of however many arcs."""
    curves = [BRepAdaptor_Curve(edge) for edge in _edges(wire)]
    if any(curve.GetType() != GeomAbs_CurveType.GeomAbs_Circle for curve in curves):
        return None
    circles = [curve.Circle() for curve in curves]
    first = circles[0]
    alike = all(math.dist(xyz(c.Location()), xyz(first.Location())) < _SAME for c in circles)
    return float(first.Radius()) if alike and all(abs(c.Radius() - first.Radius()) < _SAME for c in circles) else None


def foot(part: Solid, face: int, pull: Vec, aside: float, deep: float, lean: float) -> Made:
    """What of the core stands inside the stripper under a rim: from the rim on `deep` mm along the pull, its walls `aside` mm
    inside the rim's material there and leaning outwards by `lean` rad, so that the stripper comes off them at once. Roles as of
    an extrusion. KernelError where the line round the core comes apart.
    """
    rim = lip.rim(part, face)
    frame = Frame.lying(rim.frame.origin, pull)
    loop = _outwards(rim, aside)
    flat = _flat(loop, frame)
    if _is_plain(loop):
        return solid.raised(flat, deep, draft=-lean)
    return _ruled(loop, _outwards(rim, aside + deep * math.tan(lean)), frame, deep)


def _outwards(rim: lip.Rim, by: float) -> Any:
    """The line round the hollow moved into the rim; the kernel's sense differs with the sense in which a circle runs."""
    loops = (lip.aside(rim, rim.inner, side * by).wire for side in (1.0, -1.0))
    return next(loop for loop in loops if by == 0 or lip.length(loop) > lip.length(rim.inner))


def _edges(wire: Any) -> list[Any]:
    held = mapped(wire, TopAbs_EDGE)
    return [TopoDS.Edge(held.FindKey(number)) for number in range(1, int(held.Extent()) + 1)]


def _flat(loop: Any, frame: Frame) -> Profile:
    made = TopoDS.Face(BRepBuilderAPI_MakeFace(plane(frame), loop, True).Face())
    return Profile(made, tuple((edge, f"rim{number}") for number, edge in enumerate(_edges(made), 1)), frame)


def _is_plain(loop: Any) -> bool:
    """Whether a loop is of lines and circles, over which sides lean as planes and cones."""
    plain = (GeomAbs_CurveType.GeomAbs_Line, GeomAbs_CurveType.GeomAbs_Circle)
    return all(BRepAdaptor_Curve(edge).GetType() in plain for edge in _edges(loop))


def _ruled(low: Any, high: Any, frame: Frame, deep: float) -> Made:
    """Between two loops, the second one moved `deep` mm along the frame's normal."""
    shift = gp_Trsf()
    shift.SetTranslation(gp_Vec(*times(frame.normal, deep)))
    maker = BRepOffsetAPI_ThruSections(True, True, _FINE)
    maker.AddWire(low)
    maker.AddWire(TopoDS.Wire(BRepBuilderAPI_Transform(high, shift, True).Shape()))
    try:
        maker.Build()
        made = one(maker.Shape(), "leaning the stripper")
    except REFUSALS as fault:
        raise KernelError("The line round the core comes apart as it leans.", "Use less lean or a thinner stripper.") from fault
    ledger = Ledger([made])
    for number, edge in enumerate(_edges(low), 1):
        ledger.note(maker.GeneratedFace(edge), Origin("side", (f"rim{number}",)))
    ledger.note(maker.FirstShape(), Origin("start"))
    ledger.note(maker.LastShape(), Origin("end"))
    return ledger.made()[0]
