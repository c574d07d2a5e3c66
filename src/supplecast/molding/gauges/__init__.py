"""The gauges: what was measured of a part as numbers against the bands of its resin, with a verdict and the offenders."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from supplecast.geometry import Floats
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import clearances
from supplecast.molding.deviation import signed
from supplecast.molding.gauge import Gauge
from supplecast.molding.gauges import cost, filling, pull, thickness
from supplecast.molding.gauges.compared import NONE
from supplecast.molding.gauges.judged import Asked, Judged
from supplecast.molding.judge import UPRIGHT

__all__ = ["Asked", "Judged", "gauges", "values"]

_FAR = 1.0  # mm: farther off, another body is no neighbour to be painted
_STRIP = (thickness.wall, pull.draft, pull.undercut, thickness.sink, filling.flow, cost.mass, cost.clamp)


def gauges(bodies: Sequence[Judged], asked: Asked) -> list[Gauge]:
    """All gauges of the bodies of a part, in the order of the strip."""
    return [make(bodies, asked) for make in _STRIP]


def values(body: Judged, of: str, asked: Asked, others: Sequence[Solid] = ()) -> Floats:
    """The values of a map at the places of a body's skin, (n,); `others` are the bodies beside it."""
    pulled, walls = body.pulled, body.pulled.skin.walls
    match of:
        case "wall":
            return np.where(walls.rim, -1.0, walls.balls)
        case "rays":
            return np.where(walls.rim, -1.0, walls.rays)
        case "draft":
            return np.degrees(np.abs(pulled.map))
        case "spare":
            return np.degrees(np.abs(pulled.map)) - body.needed(asked)[pulled.skin.places.faces]
        case "undercut":
            upright = np.abs(pulled.map) < UPRIGHT
            return np.where(pulled.hidden, 3.0, np.where(upright, 2.0, np.where(pulled.map > 0, 0.0, 1.0)))
        case "flow" if body.flow is not None:
            return np.where(np.isfinite(body.flow.ratios), body.flow.ratios, -1.0)
        case "gap":
            away = clearances.distances(pulled.skin.places.middles, others)
            return np.where(away <= _FAR, away, -1.0)
        case "mesh":
            off = signed(pulled.skin.places.middles, [other for other in others if isinstance(other, MeshBody)])
            return np.where(np.isfinite(off), off, NONE)
    raise ValueError(of)
