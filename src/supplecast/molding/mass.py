"""Mass of a part from its volume and resin."""

from __future__ import annotations

from supplecast.tooling.resins import Resin


def grams(volume_mm3: float, of: Resin | float) -> float:
    """Mass in g: V·ρ, with 1000 mm³ to the cm³; of a resin, or what has a density in g/cm³."""
    return volume_mm3 / 1000.0 * (of if isinstance(of, float) else of.density)
