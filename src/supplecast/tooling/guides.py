"""Guides: how wide and how high pins are that bring two halves together, and where they stand."""

from __future__ import annotations

_SIZES = (4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0)  # ISO 3, R10 rounded (from memory)
_SHARE = 0.07  # of the shorter side of the plates (common practice, no source)
INSET = 1.0  # of the diameter: from the edge of the plate to the middle of a pin (common practice, no source)
LEAD = 0.5  # of the diameter: how far pins are in before the core is (common practice, no source)
LEAST = 1.5  # of the diameter: the height of a pin whose halves have no core that stands (common practice, no source)


def diameter(side: float, rim: float) -> float:
    """Mm of the pins for plates whose shorter side is so many mm: the size next to a fourteenth of it, or the largest one for
    which a rim of so many mm has room.
    """
    room = rim / (INSET + 0.5 + 0.1)
    wanted = min(_SIZES, key=lambda size: abs(size - _SHARE * side))
    return max((size for size in _SIZES if size <= min(wanted, room)), default=_SIZES[0])
