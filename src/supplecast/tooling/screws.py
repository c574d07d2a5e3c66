"""Metric screws: what holes they need, in mm. All tables are written from memory of the standards named."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Size = Literal["M1.6", "M2", "M2.5", "M3", "M4", "M5", "M6", "M8", "M10", "M12", "M16", "M20"]
Fit = Literal["fine", "medium", "coarse"]
LENGTHS = (5, 6, 8, 10, 12, 16, *range(20, 75, 5), *range(80, 170, 10), *range(180, 320, 20))
"""Lengths of socket screws under the head, mm (ISO 4762, from memory)."""
FITS: tuple[Fit, ...] = ("fine", "medium", "coarse")


@dataclass(frozen=True)
class Screw:
    """`clearance` holes fine, medium, coarse (ISO 273) · `pitch` coarse (ISO 261) · `tapping` drill (ISO 2306) · `head`:
    counterbore for socket heads to ISO 4762 (DIN 974-1, series 1) · `sink`: countersink for 90° heads (ISO 15065), None where
    the standard ends.
    """

    nominal: float
    pitch: float
    clearance: tuple[float, float, float]
    tapping: float
    head: float
    sink: float | None

    def through(self, fit: Fit) -> float:
        return self.clearance[FITS.index(fit)]

    @property
    def head_depth(self) -> float:
        """Depth of a counterbore: the head's height, which is the nominal size (ISO 4762), and room over it (DIN 974-2)."""
        return self.nominal + (0.4 if self.nominal <= 6 else 0.6)


SCREWS: Mapping[str, Screw] = {
    "M1.6": Screw(1.6, 0.35, (1.7, 1.8, 2.0), 1.25, 3.5, 3.6),
    "M2": Screw(2.0, 0.4, (2.2, 2.4, 2.6), 1.6, 4.3, 4.4),
    "M2.5": Screw(2.5, 0.45, (2.7, 2.9, 3.1), 2.05, 5.0, 5.5),
    "M3": Screw(3.0, 0.5, (3.2, 3.4, 3.6), 2.5, 6.5, 6.3),
    "M4": Screw(4.0, 0.7, (4.3, 4.5, 4.8), 3.3, 8.0, 9.4),
    "M5": Screw(5.0, 0.8, (5.3, 5.5, 5.8), 4.2, 10.0, 10.4),
    "M6": Screw(6.0, 1.0, (6.4, 6.6, 7.0), 5.0, 11.0, 12.6),
    "M8": Screw(8.0, 1.25, (8.4, 9.0, 10.0), 6.8, 15.0, 17.3),
    "M10": Screw(10.0, 1.5, (10.5, 11.0, 12.0), 8.5, 18.0, 20.0),
    "M12": Screw(12.0, 1.75, (13.0, 13.5, 14.5), 10.2, 20.0, None),
    "M16": Screw(16.0, 2.0, (17.0, 17.5, 18.5), 14.0, 26.0, None),
    "M20": Screw(20.0, 2.5, (21.0, 22.0, 24.0), 17.5, 33.0, None),
}
