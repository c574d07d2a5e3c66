"""Cavity size from shrinkage.

S is the part of the cavity's length that is lost on cooling, so part = cavity·(1−S) and the cavity is 1/(1−S) of the part
(definition; measured as in ISO 294-4), not 1+S.
"""

from __future__ import annotations

from supplecast.errors import SuppleError

MOST = 0.2


def cavity_factor(shrinkage: float) -> float:
    """Cavity length over part length for a shrinkage given as a ratio in [0, 0.2)."""
    if not 0 <= shrinkage < MOST:
        raise SuppleError(
            f"A shrinkage of {shrinkage * 100:g} % is out of range.",
            f"Type a percentage from 0 to under {MOST * 100:g}.",
        )
    return 1.0 / (1.0 - shrinkage)


def simple_factor(shrinkage: float) -> float:
    """The rule of thumb 1+S, for comparison."""
    return 1.0 + shrinkage
