"""Bodies on their way past others: where one runs into another first."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from supplecast.geometry import Bools, Floats
from supplecast.kernel import measure
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import opening

_STEPS = 48
_FINE = 1e-4  # of the way
_NOTHING = 1e-3  # mm³


def first_met(body: Solid, motion: Callable[[float], Floats], others: Sequence[Solid]) -> tuple[float, int] | None:
    """The share of its way after which a body overlaps with one of others, and with which; None if it is free all the way.

    `motion` gives turn and shift after a share of the way, (3, 4). It is tried at 48 places, and between the last free one and
    the first that is not until the share is known to 1e-4; what is thinner than a step of the way and crossed by it may be
    missed. By triangles, 0.05 mm fine; an overlap there is at the start counts once it has grown by half.
    """
    mine, meshes = opening.meshed(body), [opening.meshed(other) for other in others]

    def overlap(share: float, other: opening.Meshed) -> float:
        moved = mine.manifold.transform(motion(share))
        box = np.array(moved.bounding_box())
        low, high = other.box
        return abs(float((moved ^ other.manifold).volume())) if (box[:3] <= high).all() and (low <= box[3:]).all() else 0.0

    least = [max(1.5 * overlap(0.0, mesh), _by_facets(mine, mesh)) for mesh in meshes]

    def met(share: float) -> int | None:
        return next((k for k, mesh in enumerate(meshes) if overlap(share, mesh) > least[k]), None)

    free = 0.0
    for step in range(1, _STEPS + 1):
        share = step / _STEPS
        number = met(share)
        if number is None:
            free = share
            continue
        while share - free > _FINE:
            middle = (free + share) / 2
            found = met(middle)
            if found is None:
                free = middle
            else:
                share, number = middle, found
        return free, number
    return None


def _by_facets(a: opening.Meshed, b: opening.Meshed) -> float:
    """The volume in mm³ that facets alone may make two bodies share where they slide on each other: a tenth of the chord error
    over the smaller one's curved skin; flat faces have none.
    """
    curved = min(float(body.triangles.areas[_is_curved(body)].sum()) for body in (a, b))
    return 0.1 * opening.FINE * curved + _NOTHING


def _is_curved(body: opening.Meshed) -> Bools:
    flat = [measure.is_flat(body.solid, face) for face in range(body.solid.face_count)]
    return ~np.array(flat)[body.faces]
