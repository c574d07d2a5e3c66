"""Material marks: what ISO 11469 writes between angle brackets, and the numbers of the recycling triangle. From memory."""

from __future__ import annotations

SYMBOLS = {
    "ABS": "ABS", "PP": "PP", "HDPE": "PE-HD", "LDPE": "PE-LD", "PS": "PS", "PC": "PC", "PC/ABS": "PC+ABS", "PMMA": "PMMA",
    "POM": "POM", "PA6": "PA6", "PA66": "PA66", "PA66-GF30": "PA66-GF30", "PBT": "PBT", "PET": "PET", "TPU": "TPU",
    "TPE": "TPE", "PU casting": "PUR", "Silicone": "SI",
}  # fmt: skip
_NUMBERS = {"PET": 1, "HDPE": 2, "LDPE": 4, "PP": 5, "PS": 6}
_OTHER = 7


def mark(resin: str) -> str | None:
    """The mark of a resin, such as `>ABS<`; None where it is not known."""
    symbol = SYMBOLS.get(resin)
    return None if symbol is None else f">{symbol}<"


def number(resin: str) -> int:
    """The number in the recycling triangle: 7 stands for all others."""
    return _NUMBERS.get(resin, _OTHER)
