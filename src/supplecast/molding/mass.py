"""Mass of a part from its volume and resin."""

from __future__ import annotations

from supplecast.tooling.resins import Resin


def grams(volume_mm3: float, resin: Resin) -> float:
    """Mass in g: V·ρ, with 1000 mm³ to the cm³."""
    return volume_mm3 / 1000.0 * resin.density
