"""Smooth curves through points in space."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP import collections as oc
from OCP.Geom import Geom_BSplineCurve
from OCP.GeomAPI import GeomAPI_Interpolate
from scipy.interpolate import PchipInterpolator

from supplecast.errors import KernelError
from supplecast.geometry import Floats, vec
from supplecast.kernel.shapes.profile import as_point

_SAME = 1e-9


def through(points: Floats, at: Floats, *, closed: bool = False) -> Any:
    """The kernel's curve through points (n, 3) at rising parameters (n,). A closed one ends where it begins, smoothly: its last
    point is the first again.
    """
    count = len(points) - 1 if closed else len(points)
    held, where = oc.HArray1_gp_Pnt(1, count), oc.HArray1_double(1, len(at))
    for number in range(count):
        held.SetValue(number + 1, as_point(vec(points[number])))
    for number, t in enumerate(at, 1):
        where.SetValue(number, float(t))
    maker = GeomAPI_Interpolate(held, where, closed, _SAME)
    maker.Perform()
    if not maker.IsDone():
        raise KernelError("No smooth curve goes through those points.", "Simplify the shape there.")
    return maker.Curve()


def steady(points: Floats, at: Floats) -> Any:
    """The kernel's curve through points (n, 3) at rising parameters (n,), which never swings out between them however unevenly
    they lie (Fritsch and Carlson, Monotone piecewise cubic interpolation, 1980). One that comes round again does so smoothly.
    """
    closed = bool(np.linalg.norm(points[0] - points[-1]) < _SAME)
    around = min(3, len(points) - 1) if closed else 0
    rows, places = points, at
    if around:  # a little of what comes round on either side, so that both ends get the same slope
        turn = at[-1] - at[0]
        rows = np.concatenate([points[-1 - around : -1], points, points[1 : 1 + around]])
        places = np.concatenate([at[-1 - around : -1] - turn, at, at[1 : 1 + around] + turn])
    slopes = PchipInterpolator(places, rows).derivative()(at)
    spans = np.diff(at)[:, None]
    after, before = points[:-1] + slopes[:-1] * spans / 3, points[1:] - slopes[1:] * spans / 3
    poles = [points[0], *np.stack([after, before], axis=1).reshape(-1, 3), points[-1]]
    held, knots, counts = oc.Array1_gp_Pnt(1, len(poles)), oc.Array1_double(1, len(at)), oc.Array1_int(1, len(at))
    for number, pole in enumerate(poles, 1):
        held.SetValue(number, as_point(vec(pole)))
    for number, t in enumerate(at, 1):
        knots.SetValue(number, float(t))
        counts.SetValue(number, 4 if number in (1, len(at)) else 2)
    return Geom_BSplineCurve(held, knots, counts, 3)
