"""How deep a vent may be before the resin goes through it. Every value common practice, from memory."""

from __future__ import annotations

_DEEP = {
    "PA6": 0.015, "PA66": 0.015, "PA66-GF30": 0.015, "POM": 0.02, "PP": 0.02, "HDPE": 0.02, "LDPE": 0.02, "PBT": 0.015,
    "PET": 0.015,
    "ABS": 0.04, "PS": 0.04, "PMMA": 0.04, "PC": 0.04, "PC/ABS": 0.04, "TPU": 0.02, "TPE": 0.02,
}  # fmt: skip
_USUAL = 0.02
LAND, RELIEF = 1.5, 0.4  # mm: of the shallow stretch, and of what lies behind it (common practice, from memory)


def vent_depth(resin: str) -> float:
    """mm, at the middle of what is usual."""
    return _DEEP.get(resin, _USUAL)
