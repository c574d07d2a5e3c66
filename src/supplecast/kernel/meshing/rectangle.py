"""Faces that are whole rectangles in the parameters of their surface, as most rounds, bosses and bores are."""

from __future__ import annotations

from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve2d
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

_CLOSE = 1e-7


def rectangle(face: Any) -> tuple[float, float, float, float] | None:
    """The first and last of both parameters of a face of the kernel, if its outline runs along their borders only."""
    sides = []
    explorer = TopExp_Explorer(face, TopAbs_EDGE)
    while explorer.More():
        trace = BRepAdaptor_Curve2d(TopoDS.Edge(explorer.Current()), face)
        if trace.GetType() != GeomAbs_CurveType.GeomAbs_Line:
            return None
        a, b = trace.Value(trace.FirstParameter()), trace.Value(trace.LastParameter())
        sides.append((a.X(), b.X(), a.Y(), b.Y()))
        explorer.Next()
    if not sides:
        return None
    ends = list(zip(*sides, strict=True))
    u0, u1, v0, v1 = min(*ends[0], *ends[1]), max(*ends[0], *ends[1]), min(*ends[2], *ends[3]), max(*ends[2], *ends[3])
    for ua, ub, va, vb in sides:
        if min(max(ua, ub) - u0, u1 - min(ua, ub), max(va, vb) - v0, v1 - min(va, vb)) > _CLOSE:
            return None
    return u0, u1, v0, v1
