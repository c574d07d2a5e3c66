"""How much of each component is weighed out for a casting."""

from __future__ import annotations

import re
from dataclasses import dataclass

from supplecast.errors import SuppleError

_RATIO = re.compile(r"^\s*(\d+(?:\.\d+)?)\s*:\s*(\d+(?:\.\d+)?)\s*$")


@dataclass(frozen=True)
class Amounts:
    """Grams of both components; `b` is 0 for what is not mixed."""

    a: float
    b: float

    @property
    def whole(self) -> float:
        return self.a + self.b


def amounts(volume: float, density: float, ratio: str, spare: float) -> Amounts:
    """For `volume` mm³ of a material of `density` g/cm³ and a share `spare` more, mixed by mass in a ratio such as 100:10;
    blank for one component. SuppleError for what is no ratio.
    """
    mass = volume / 1000 * density * (1 + spare)
    if not ratio.strip():
        return Amounts(mass, 0.0)
    parts = _RATIO.match(ratio)
    if parts is None or float(parts[1]) <= 0:
        raise SuppleError(f"“{ratio}” is no ratio.", "Type it as 100:10, by mass; leave it blank for one component.")
    a, b = float(parts[1]), float(parts[2])
    return Amounts(mass * a / (a + b), mass * b / (a + b))
