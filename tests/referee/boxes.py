"""A box, a boss on it, and short ways to name their faces and to write a step."""

from __future__ import annotations

import math
from typing import Any

from tests.conftest import STEPS, circle, extrude, rectangle

BOX: STEPS = [rectangle("s1", "40 mm", "30 mm"), extrude("e1", "s1", "20 mm")]
TOP = {"face": "e1.end"}
SIDES = [{"face": f"e1.side[f1_L{n}]"} for n in (1, 2, 3, 4)]
BOSS: STEPS = [*BOX, circle("s2", "12", on=TOP), extrude("e2", "s2", "8", result="add")]


def step(what: str, **fields: Any) -> dict[str, Any]:
    return {"id": "x", "type": what, **fields}


def bore(*rings: tuple[float, float, float]) -> float:
    """Frusta: upper and lower diameter and height of each."""
    return sum(math.pi / 12 * h * (a * a + a * b + b * b) for a, b, h in rings)
