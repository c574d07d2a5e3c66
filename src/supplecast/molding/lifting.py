"""How lifters free undercuts inside of a part: found once for a part, and carried to its copies at other places of a tool."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from supplecast.geometry import Vec, rounded, vec
from supplecast.kernel.shapes import lineage
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding.judge import skin_of
from supplecast.molding.undercut import Lifted, lifted

CLEAR = 2.0
"""Mm that a lifter goes on once its undercut is free (common practice, no source)."""
_DIGITS = 12

_Known = dict[tuple[tuple[int, ...], Vec], Lifted | None]
_KNOWN: Memo[_Known] = Memo("how lifters free undercuts")


def freed_by_lifter(solid: Solid, faces: Sequence[int], pull: Vec) -> Lifted | None:
    """How a lifter frees an undercut of some faces of a part; None if none does."""
    came = lineage.carried(solid)
    if came is not None:  # faces keep their order on the way
        source, motion = came
        turn = motion[:, :3]
        found = freed_by_lifter(source, faces, vec(np.array(pull) @ turn))
        return found and Lifted(rounded((turn @ np.array(found.way)).tolist(), _DIGITS), found.depth)
    known = _KNOWN.of(solid, dict)
    key = (tuple(faces), rounded(pull, _DIGITS))
    if key not in known:
        known[key] = lifted(skin_of(solid).places, faces, pull, CLEAR)
    return known[key]
