"""Release: the force that pushes a part off its core, and what that asks of ejector pins."""

from __future__ import annotations

import math
from dataclasses import dataclass

from supplecast import kernel
from supplecast.geometry import Vec
from supplecast.molding import estimates
from supplecast.molding.judge import UPRIGHT, Skin
from supplecast.molding.sticking import STEEP
from supplecast.tooling import stiffness
from supplecast.tooling.resins import Resin

PRESSED = 12.0
"""MPa under a pin that a wall just cool enough bears without a mark (common practice, from memory)."""
SAFE = 3.0
"""Times the force at which a pin buckles (common practice, no source)."""


def gripped(skin: Skin, pull: Vec) -> tuple[float, float]:
    """The steep skin of one part that the core is behind, mm², and the radius of a ring as long as the part is round, mm."""
    places = skin.places
    lean = places.normals @ list(pull)
    steep = float(places.areas[(lean > math.sin(-UPRIGHT)) & (lean < math.sin(STEEP))].sum())
    box = kernel.measure.loose_box(skin.solid)
    across = [size for axis, size in enumerate(box.size) if abs(pull[axis]) < 0.5] or list(box.size[:2])
    return steep, max(sum(across) / math.pi, 1e-6)


def force(skin: Skin, pull: Vec, resin: Resin) -> float:
    """KN that push one part off its core (`estimates.release_force`)."""
    steep, radius = gripped(skin, pull)
    return estimates.release_force(steep, resin.usual_shrinkage, skin.walls.usual, radius)


@dataclass(frozen=True)
class Pushed:
    """What each of a part's pins bears: force in N, pressure under it in MPa, and how many times over it would buckle."""

    each: float
    pressure: float
    buckling: float


def pushed(whole: float, count: int, diameter: float, free: float) -> Pushed:
    """A force in kN shared by round pins of a diameter that stand `free` mm long between plate and guide."""
    each = 1000.0 * whole / count
    return Pushed(
        each, each / (math.pi * diameter**2 / 4), stiffness.buckling_force(diameter, free) / each if each else math.inf
    )
