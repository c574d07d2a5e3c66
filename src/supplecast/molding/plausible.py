"""Whether a size is plausible for a molded part: wrong units are found out by sizes that nobody molds."""

from __future__ import annotations

from supplecast.quantities import show
from supplecast.tooling.resins import RESINS

_MOST = 1500.0  # mm; larger injection-molded parts exist, but are rare (common practice, no source)


def size_warning(largest: float, resin: str) -> str:
    """Words for a part whose largest dimension in mm makes no sense in its resin; blank if it may well be meant."""
    found = RESINS.get(resin)
    least = 2 * found.wall[0] if found else 2.0
    if largest < least:
        return f"Only {show(largest, 3)} mm at its longest: no more than two of the thinnest walls of {resin}."
    if largest > _MOST:
        return f"{show(largest / 1000, 2)} m at its longest: larger than parts of {resin} usually are."
    return ""
