"""On which half a part stays as a tool opens: the one that it has shrunk onto harder."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from supplecast.geometry import Bools, Vec
from supplecast.molding.sampled import Sampled
from supplecast.molding.sticking import STEEP

ALIKE = 1.5
"""Times as much that one side must hold more for the part to stay there beyond doubt (common practice, no source)."""


@dataclass(frozen=True)
class Grip:
    """How hard a part holds on to either half, as steep skin that it shrinks onto, mm²."""

    core: float
    cavity: float

    @property
    def share(self) -> float:
        """How many times as hard the core is held as the cavity; infinite where only the core is."""
        return self.core / self.cavity if self.cavity > 0 else math.inf if self.core > 0 else 1.0


def grip(skin: Sampled, pull: Vec, of_core: Bools) -> Grip:
    """What a part grips of each half; `of_core` tells for each triangle of its skin whether the core forms it.

    The part shrinks towards its middle: it presses on steel that lies between, where the way out of its material leads towards
    the middle, and comes off all other. A steep face holds by friction times that pressure; pressure, friction and stiffness
    are the same for both halves, so areas are compared, each the less the more it leans, as for ejectors (`sticking`).
    """
    middle = np.average(skin.middles, axis=0, weights=skin.areas)
    lean = np.abs(np.arcsin(np.clip(skin.normals @ np.array(pull), -1.0, 1.0)))
    weights = skin.areas * np.clip(1.0 - lean / STEEP, 0.0, 1.0)
    off = skin.middles - middle
    off -= np.outer(off @ np.array(pull), np.array(pull))  # along the pull nothing is gripped
    pressed = np.einsum("ij,ij->i", skin.normals, off) < 0
    return Grip(float(weights[pressed & of_core].sum()), float(weights[pressed & ~of_core].sum()))
