"""Bosses for thread-forming screws in plastics: hole and outer diameter by the screw's size and the resin.

The rule is the common one, hole = factor × screw diameter and outside = 2 × screw diameter (2.5 for resins that crack); all
factors are common practice given from memory: the maker of the screw decides.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

ScrewSize = Literal["2", "2.5", "3", "3.5", "4", "5", "6"]

_HOLE = {
    "ABS": 0.80, "PC/ABS": 0.80, "PC": 0.85, "PS": 0.80, "PMMA": 0.85, "PP": 0.70, "HDPE": 0.75, "LDPE": 0.70, "POM": 0.75,
    "PA6": 0.75, "PA66": 0.75, "PA66-GF30": 0.82, "PBT": 0.75, "PET": 0.75,
}  # fmt: skip
_BRITTLE = {"PC", "PS", "PMMA"}


class BossSize(NamedTuple):
    """Diameters in mm."""

    outer: float
    pilot: float


def boss_for(screw: ScrewSize, resin: str) -> BossSize:
    """What a screw needs; where the resin is not in the table, as for ABS."""
    size = float(screw)
    return BossSize(size * (2.5 if resin in _BRITTLE else 2.0), size * _HOLE.get(resin, 0.80))
