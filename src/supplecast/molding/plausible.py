"""Whether a size is plausible for a molded part: wrong units are found out by sizes that nobody molds."""

from __future__ import annotations

from supplecast.tooling.resins import Resin
from supplecast.wording import show

_MOST = 1500.0  # mm; larger injection-molded parts exist, but are rare (common practice, no source)


def size_warning(largest: float, resin: Resin | None) -> str:
    """Words for a part whose largest dimension in mm makes no sense in its resin; blank if it may well be meant."""
    name = resin.name if resin else "a resin"
    least = 2 * resin.wall[0] if resin else 2.0
    if largest < least:
        return f"Only {show(largest, 3)} mm at its longest: no more than two of the thinnest walls of {name}."
    if largest > _MOST:
        return f"{show(largest / 1000, 2)} m at its longest: larger than parts of {name} usually are."
    return ""
