"""Smooth curves through points in space."""

from __future__ import annotations

from typing import Any

from OCP import collections as oc
from OCP.GeomAPI import GeomAPI_Interpolate

from supplecast.errors import KernelError
from supplecast.geometry import Floats, vec
from supplecast.kernel.profile import point

_SAME = 1e-9


def through(points: Floats, at: Floats, *, closed: bool = False) -> Any:
    """The kernel's curve through points (n, 3) at rising parameters (n,). A closed one ends where it begins, smoothly: its last
    point is the first again.
    """
    count = len(points) - 1 if closed else len(points)
    held, where = oc.HArray1_gp_Pnt(1, count), oc.HArray1_double(1, len(at))
    for number in range(count):
        held.SetValue(number + 1, point(vec(points[number])))
    for number, t in enumerate(at, 1):
        where.SetValue(number, float(t))
    maker = GeomAPI_Interpolate(held, where, closed, _SAME)
    maker.Perform()
    if not maker.IsDone():
        raise KernelError("No smooth curve goes through those points.", "Simplify the shape there.")
    return maker.Curve()
