"""Volume, area, first and second moments of solids, from the fluxes through their faces (see `quadrature`).

Every moment is the flux of some monomials of x, y, z through the skin along x (the divergence theorem), each face's taken
about a point of its own: so a body weighs the same wherever it lies, and one whose skin has gaps as nearly as its gaps allow.

A face's share is remembered by the face itself, so that solids which share faces (a part and the block it was cut from)
share their integrals too, and volumes that must add up do so to rounding.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np
from OCP.BRepGProp import BRepGProp_Domain, BRepGProp_Face, BRepGProp_Vinert
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS

from supplecast.geometry import Floats
from supplecast.kernel.measuring.quadrature import POWERS, Share, fluxes
from supplecast.kernel.shapes.face_key import FaceKey
from supplecast.kernel.shapes.shape import Solid, xyz

S = TypeVar("S")
_REMEMBERED = 20_000
_shares: OrderedDict[FaceKey, Share] = OrderedDict()
_rough_shares: OrderedDict[FaceKey, Floats] = OrderedDict()


@dataclass(frozen=True)
class Moments:
    """Volume mm³, area mm², centroid mm, and (3, 3) ∫ r rᵀ dV about the centroid, mm⁵."""

    volume: float
    area: float
    centroid: Floats
    second: Floats


def moments(solid: Solid) -> Moments:
    """All moments of a closed skin, taken about its own middle."""
    faces = [solid.face(index) for index in range(solid.face_count)]
    shares = [_share(face) for face in faces]
    signs = np.array([-1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0 for face in faces])
    areas = np.abs([share.area for share in shares])
    about = np.array([share.about for share in shares])
    lean = np.array([share.lean for share in shares])
    # The skin's own centroid, which no way of cutting it into pieces moves: one with gaps weighs otherwise about another point.
    middle = (areas @ about + lean.sum(axis=0)) / max(float(areas.sum()), 1e-300)
    flux = signs @ _shifted(np.array([share.flux for share in shares]), about - middle)
    f = dict(zip(POWERS, flux.tolist(), strict=True))
    volume = f[1, 0, 0]
    first = np.array([f[2, 0, 0] / 2, f[1, 1, 0], f[1, 0, 1]])
    xx, xy, xz, yy, yz, zz = f[3, 0, 0] / 3, f[2, 1, 0] / 2, f[2, 0, 1] / 2, f[1, 2, 0], f[1, 1, 1], f[1, 0, 2]
    off = first / volume if volume else np.zeros(3)
    second = np.array([[xx, xy, xz], [xy, yy, yz], [xz, yz, zz]]) - volume * np.outer(off, off)
    return Moments(volume, float(areas.sum()), middle + off, second)


def skin(solid: Solid) -> tuple[float, Floats]:
    """Area mm² and its centroid mm of the faces of a surface or a body."""
    shares = [_share(solid.face(index)) for index in range(solid.face_count)]
    area = sum(abs(share.area) for share in shares)
    first: Floats = sum((share.lean + abs(share.area) * share.about for share in shares), np.zeros(3))
    return area, first / max(area, 1e-300)


def face_area(solid: Solid, face: int) -> float:
    """Of one face, mm²."""
    return abs(_share(solid.face(face)).area)


def _shifted(flux: Floats, by: Floats) -> Floats:
    """(n, 16) fluxes of the monomials about one point each, about others, from which those lie off `by` (n, 3)."""
    grown = by.T[:, None] ** np.arange(4)[:, None]
    moved = np.zeros_like(flux)
    for column, (a, b, c) in enumerate(POWERS):
        for i, j, k in POWERS:
            if i <= a and j <= b and k <= c:
                ways = math.comb(a, i) * math.comb(b, j) * math.comb(c, k)
                moved[:, column] += (
                    ways * grown[0, a - i] * grown[1, b - j] * grown[2, c - k] * flux[:, POWERS.index((i, j, k))]
                )
    return moved


def unknown_faces(solid: Solid) -> int:
    """How many faces would have to be integrated to measure a solid; the others are remembered."""
    return sum(FaceKey(solid.face(index)) not in _shares for index in range(solid.face_count))


def scaled(before: Solid, after: Solid, pairs: Iterable[tuple[int, int]], factor: float) -> None:
    """Remember the shares of faces scaled about the origin."""
    growth = factor ** np.array([2.0 + sum(powers) for powers in POWERS])
    for old, new in pairs:
        share = _share(before.face(old))
        grown = Share(share.about * factor, share.flux * growth, share.area * factor**2, share.lean * factor**3)
        _remember(_shares, FaceKey(after.face(new)), grown)


def _remember(shares: OrderedDict[FaceKey, S], key: FaceKey, share: S) -> S:
    shares[key] = share
    if len(shares) > _REMEMBERED:
        shares.popitem(last=False)
    return share


def _of(shares: OrderedDict[FaceKey, S], face: Any, work: Callable[[Any], S]) -> S:
    """What is known of a face, whichever way it is turned, worked out if need be."""
    key = FaceKey(face)
    known = shares.get(key)
    if known is not None:
        shares.move_to_end(key)
        return known
    return _remember(shares, key, work(TopoDS.Face(face.Oriented(TopAbs_Orientation.TopAbs_FORWARD))))


def _share(face: Any) -> Share:
    return _of(_shares, face, fluxes)


def rough(solid: Solid) -> tuple[float, Floats]:
    """Volume mm³ and centroid mm by the kernel's own integrals, each face's remembered: off by up to 3e-4."""
    total = np.zeros(4)
    for index in range(solid.face_count):
        face = solid.face(index)
        sign = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
        total += sign * _rough_share(face)
    return float(total[0]), total[1:] / total[0] if total[0] else np.zeros(3)


def _rough_share(face: Any) -> Floats:
    """What lies between a face and the origin: its volume and first moments, (4,)."""
    return _of(_rough_shares, face, _under)


def _under(face: Any) -> Floats:
    inside = BRepGProp_Vinert(BRepGProp_Face(face), BRepGProp_Domain(face), gp_Pnt())
    volume = float(inside.Mass())
    return np.array([volume, *(volume * c for c in xyz(inside.CentreOfMass()))]) if volume else np.zeros(4)


def forget() -> None:
    """Drop every remembered share, with the shapes they hold on to."""
    _shares.clear()
    _rough_shares.clear()
