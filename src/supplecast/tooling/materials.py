"""What a document may be made of without being molded: bought or machined things beside the parts. Densities from memory, to be
found in any handbook of materials.
"""

from __future__ import annotations

from dataclasses import dataclass

from supplecast.art.look import Look


@dataclass(frozen=True)
class Material:
    """Density in g/cm³, None where nothing is chosen yet."""

    name: str
    density: float | None
    look: Look | None


MATERIALS = {
    one.name: one
    for one in (
        Material("Steel", 7.85, Look("metal", "#8E979C", 0.6)),
        Material("Stainless steel", 7.9, Look("metal", "#C3C8CA", 0.75)),
        Material("Aluminium", 2.70, Look("metal", "#D3D6D8", 0.65)),
        Material("Brass", 8.47, Look("metal", "#C9A24B", 0.75)),
        Material("Glass", 2.50, Look("clear", "#CFE3DF", 0.95)),
        Material("Beech", 0.72, Look("solid", "#C79F6B", 0.2)),
        Material("Nothing yet", None, None),
    )
}
