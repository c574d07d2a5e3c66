"""Cantilever snap hooks: strain at the root when a hook is bent aside by its undercut, and what resins bear.

Strain after the cantilever formulas in the snap-joint guides of resin makers (from memory; they follow from beam theory for
small deflections): y = 0.67 ε l² / h for a beam of one thickness, y = 1.09 ε l² / h for one that tapers to half of it.
Permissible strains are for a single snap, short-term; common figures from memory: the grade's data sheet decides.
"""

from __future__ import annotations

_EVEN, _TAPERED = 0.67, 1.09
_MOST = {
    "ABS": 0.025, "PC/ABS": 0.03, "PC": 0.04, "PS": 0.015, "PMMA": 0.018, "PP": 0.06, "HDPE": 0.06, "LDPE": 0.08, "POM": 0.06,
    "PA6": 0.06, "PA66": 0.06, "PA66-GF30": 0.02, "PBT": 0.05, "PET": 0.04, "TPU": 0.1, "TPE": 0.1,
}  # fmt: skip
_ELSE = 0.02


def strain(length: float, thickness: float, undercut: float, *, tapered: bool) -> float:
    """Strain at the root, as a ratio, of a beam `length` mm long and `thickness` mm thick bent by `undercut` mm."""
    return undercut * thickness / ((_TAPERED if tapered else _EVEN) * length**2)


def permissible(resin: str) -> float:
    """The strain a resin bears once, as a ratio; a careful one where it is not known."""
    return _MOST.get(resin, _ELSE)


def largest_thickness(length: float, undercut: float, most: float, *, tapered: bool) -> float:
    """The thickness in mm at which the strain is just `most`."""
    return (_TAPERED if tapered else _EVEN) * most * length**2 / undercut
