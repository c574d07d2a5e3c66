"""How far a curved face reaches along the axes between its edges.

The kernel's own exact box of a face takes the whole surface over the face's range of parameters: of a face whose edges cut
obliquely through that range it says far too much. Here the extremes are looked for inside the edges, and found by Newton.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.TopAbs import TopAbs_OUT

from supplecast.geometry import Floats

_GRID = 17
_STEPS = 12
_CLOSE = 1e-9


def reach(face: Any) -> tuple[Floats, Floats] | None:
    """Least and greatest coordinates, (3,) each in mm, that the face takes strictly inside its edges, where it has extremes
    there; None if no place inside was found.
    """
    surface = BRepAdaptor_Surface(face)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    within = np.array([(u, v) for u in _between(u0, u1) for v in _between(v0, v1)])
    within = within[[_holds(face, u, v) for u, v in within.tolist()]]
    if not len(within):
        return None
    places = np.array([_at(surface.Value(u, v)) for u, v in within.tolist()])
    low, high = places.min(axis=0), places.max(axis=0)
    room = np.array([u1 - u0, v1 - v0]) / _GRID
    for axis in range(3):
        for sign, best in ((-1.0, low), (1.0, high)):
            start = within[int(np.argmax(sign * places[:, axis]))]
            found = _extreme(surface, face, start, axis, room)
            if found is not None and sign * found > sign * best[axis]:
                best[axis] = found
    return low, high


def _between(a: float, b: float) -> Floats:
    return a + (b - a) * (np.arange(_GRID) + 0.5) / _GRID


def _holds(face: Any, u: float, v: float) -> bool:
    return bool(BRepClass_FaceClassifier(face, gp_Pnt2d(u, v), 1e-7).State() != TopAbs_OUT)


def _at(p: Any) -> tuple[float, float, float]:
    return p.X(), p.Y(), p.Z()


def _extreme(surface: Any, face: Any, start: Floats, axis: int, room: Floats) -> float | None:
    """The coordinate where its slopes vanish, from a place near by; None where that leads out of the face."""
    place = np.array(start, float)
    p, u, v, uu, vv, uv = gp_Pnt(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec()
    for _ in range(_STEPS):
        surface.D2(float(place[0]), float(place[1]), p, u, v, uu, vv, uv)
        slopes = np.array([_at(u)[axis], _at(v)[axis]])
        bends = np.array([[_at(uu)[axis], _at(uv)[axis]], [_at(uv)[axis], _at(vv)[axis]]])
        step = np.linalg.lstsq(bends, -slopes, rcond=1e-9)[0]
        place = place + np.clip(step, -room, room)
        if not _holds(face, float(place[0]), float(place[1])):
            return None
        if float(np.abs(step / room).max()) < _CLOSE:
            break
    return _at(surface.Value(float(place[0]), float(place[1])))[axis]
