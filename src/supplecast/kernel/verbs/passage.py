"""The way of a body into another: all the room it goes through."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Vec

from supplecast.errors import KernelError
from supplecast.geometry import Vec, times
from supplecast.kernel.measuring import facing
from supplecast.kernel.meshing import mesh
from supplecast.kernel.shapes import apart
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import Between, FaceOf, Ledger, Made, Origin, Row, each, traced_to
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import boolean, silhouette, tidy

_UNCLEAR, _HINT = "The way along this direction could not be cleared.", "Choose another direction."
_SECONDS = 20.0
_FINE, _ANGLE = 0.1, 0.3
_ASIDE = 1e-6  # rad: faces that lean less along the way only slide on


def swept(solid: Solid, way: Vec, length: float) -> Made:
    """What a body goes through when it is moved by `length` mm along the unit vector `way`, itself included; undercuts along
    it are filled. Every face is told by the faces of the body from which it comes, its sides in the role `way`.

    KernelError, with the faces at fault, where that is not found.
    """
    if silhouette.is_sampled(solid, way):
        return apart.made(lambda: _swept(solid, way, length), _SECONDS, "the way in")
    return _swept(solid, way, length)


def _swept(solid: Solid, way: Vec, length: float) -> Made:
    parted = silhouette.split(solid, way)
    whole = parted.solid
    drafts = facing.drafts(whole, way)
    prisms = [_prism(parted, int(face), times(way, length)) for face in np.flatnonzero(drafts.max(axis=1) > _ASIDE)]
    try:
        made = boolean.fuse(whole, [prism.solid for prism in prisms], simplify=False)
        return tidy.unified(traced_to(made, [parted.origins, *(prism.origins for prism in prisms)]), "the way")
    except REFUSALS as fault:
        raise KernelError(_UNCLEAR, _HINT) from fault


def undercut(solid: Solid, through: Made, way: Vec, length: float) -> float:
    """Of what a body was `swept` through, what it has no need of but on its way past undercuts of its own, mm³.

    Along the way each column of a body without undercuts grows by `length`: the rest is undercuts.
    """
    shadow, volume = _shadow(through.solid, way)
    return volume - _shadow(solid, way)[1] - shadow * length


def _shadow(solid: Solid, way: Vec) -> tuple[float, float]:
    """How large the side of a body's triangles is that looks along a direction, seen from there, mm², and their volume, mm³."""
    skin = mesh.tessellate(solid, _FINE, _ANGLE, edges=False)
    a, b, c = np.moveaxis(skin.points[skin.triangles], 1, 0)
    areas = np.cross(b - a, c - a) / 2
    ahead = areas @ np.array(way)
    return float(ahead[ahead > 0].sum()), float((areas * a).sum() / 3)


def _prism(parted: Made, face: int, by: Vec) -> Made:
    """What a face goes through, told by the faces of the body that `parted` was made from."""
    solid = parted.solid
    for alone in (True, False):  # with edges of its own it is easier to grow, but not always sound
        try:
            maker = BRepPrimAPI_MakePrism(solid.face(face), gp_Vec(*by), alone)
            space = one(maker.Shape(), "the way")
            break
        except REFUSALS:
            continue
    else:
        raise KernelError(_UNCLEAR, _HINT, faces=(_elder(parted, face),))
    ledger = Ledger([space])
    for edge in solid.face_edges[face]:
        elders = _elders(parted, solid.faces_at_edges[edge])
        source = FaceOf(0, elders[0]) if len(elders) == 1 else Between(0, tuple(elders))
        for side in each(maker.Generated(solid.nth_edge(edge))):
            ledger.note(side, Origin("way", (source,)))
    rows: list[Row] = [tuple(row) or (Origin(None, (FaceOf(0, _elder(parted, face)),)),) for row in ledger.rows[0]]
    return Made(space, tuple(rows))


def _elders(parted: Made, faces: Iterable[int]) -> list[int]:
    return sorted({_elder(parted, face) for face in faces})


def _elder(parted: Made, face: int) -> int:
    source: Any = parted.origins[face][0].sources[0]
    assert isinstance(source, FaceOf)
    return source.face
