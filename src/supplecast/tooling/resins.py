"""The resins and casting materials a document may name.

Every figure is a common handbook range given from memory, none checked against a source: the grade's data sheet decides.
"""

from __future__ import annotations

from dataclasses import dataclass

from supplecast.errors import SuppleError

SOURCE = "common handbook range, from memory: check the grade's data sheet"


@dataclass(frozen=True)
class Resin:
    """Shrinkage range as ratios, density in g/cm³, wall range in mm (least, usual, most), least draft in degrees; `rib` is the
    most that a rib's root may be of the wall it stands on before it leaves a sink mark.
    """

    name: str
    shrinkage: tuple[float, float]
    density: float
    wall: tuple[float, float, float]
    draft: float
    rib: float

    @property
    def usual_shrinkage(self) -> float:
        return sum(self.shrinkage) / 2


def _resin(
    name: str, low: float, high: float, density: float, wall: tuple[float, float, float], draft: float, rib: float = 0.6
) -> Resin:
    return Resin(name, (low / 100, high / 100), density, wall, draft, rib)


RESINS: dict[str, Resin] = {
    resin.name: resin
    for resin in (
        _resin("ABS", 0.4, 0.7, 1.05, (1.0, 2.3, 3.5), 1.0),
        _resin("PP", 1.0, 2.5, 0.90, (0.7, 2.0, 4.0), 1.0, 0.5),
        _resin("HDPE", 1.5, 3.0, 0.95, (0.8, 2.0, 4.0), 1.0, 0.5),
        _resin("LDPE", 1.5, 3.0, 0.92, (0.6, 2.0, 4.0), 1.0, 0.5),
        _resin("PS", 0.3, 0.7, 1.05, (0.8, 2.0, 4.0), 1.0, 0.5),
        _resin("PC", 0.5, 0.7, 1.20, (1.0, 2.5, 4.0), 1.0),
        _resin("PC/ABS", 0.5, 0.7, 1.13, (1.0, 2.5, 3.5), 1.0),
        _resin("PMMA", 0.3, 0.7, 1.18, (1.0, 2.5, 4.0), 1.5, 0.5),
        _resin("POM", 1.8, 2.2, 1.41, (0.8, 2.0, 3.0), 0.5, 0.5),
        _resin("PA6", 0.8, 1.5, 1.13, (0.6, 2.0, 3.0), 0.5, 0.5),
        _resin("PA66", 1.0, 2.0, 1.14, (0.6, 2.0, 3.0), 0.5, 0.5),
        _resin("PA66-GF30", 0.2, 1.0, 1.37, (0.8, 2.0, 3.0), 1.0, 0.5),
        _resin("PBT", 1.3, 2.0, 1.31, (0.8, 2.0, 3.0), 0.5, 0.5),
        _resin("PET", 1.2, 2.0, 1.37, (1.0, 2.0, 3.5), 1.0, 0.5),
        _resin("TPU", 0.5, 2.0, 1.20, (0.8, 2.5, 4.0), 2.0),
        _resin("TPE", 0.8, 2.5, 0.95, (0.6, 2.0, 4.0), 2.0),
        _resin("PU casting", 0.1, 0.5, 1.10, (1.5, 2.5, 6.0), 1.0),
        _resin("Silicone", 0.1, 0.4, 1.15, (1.0, 3.0, 10.0), 0.0),
    )
}


def resin(name: str) -> Resin:
    """The resin of this name. SuppleError if the table has none."""
    found = RESINS.get(name)
    if found is None:
        raise SuppleError(f"There is no resin “{name}”.", "Known: " + ", ".join(RESINS) + ".")
    return found
