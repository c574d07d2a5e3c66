"""How a picture is laid on faces, as data."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated

from pydantic import Discriminator

from supplecast.art.sheet import Sheet

MOST = 400
"""Copies of one picture."""


@dataclass(frozen=True)
class Laying:
    """How a picture lies on a sheet: the middle of the first one at `x`, `y` mm of the paper, turned to the left by `turn` rad,
    so wide and high in mm; `columns` × `rows` of it, their middles `across` and `along` mm apart, to the right and upwards as
    the first one lies.
    """

    sheet: Annotated[Sheet, Discriminator("kind")]
    x: float
    y: float
    turn: float
    width: float
    height: float
    mirrored: bool = False
    columns: int = 1
    rows: int = 1
    across: float = 0.0
    along: float = 0.0

    @property
    def reach(self) -> float:
        """How far its corners are from its middle at most, mm."""
        wide = self.width / 2 + (self.columns - 1) * self.across
        high = self.height / 2 + (self.rows - 1) * self.along
        return math.hypot(wide, high)
