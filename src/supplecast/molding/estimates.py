"""Estimates for molding a part: what is projected, clamped, cooled and paid. Each with its formula and where that is from."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from manifold3d import CrossSection, Manifold, Mesh

from supplecast.geometry import Floats, Frame, Ints, Vec
from supplecast.tooling import stiffness
from supplecast.tooling.resins import Injection

if TYPE_CHECKING:
    from supplecast.molding.wall import Walls

TONNE = 9.80665  # kN


def projected_area(meshes: Sequence[tuple[Floats, Ints]], pull: Vec) -> float:
    """Area in mm² of what several closed meshes cover together, seen along the pull; holes that go through stay open."""
    level = Frame.lying((0.0, 0.0, 0.0), pull)
    turn = np.array([level.x, level.y, level.normal]).T
    whole = CrossSection()
    for points, triangles in meshes:
        whole += Manifold(Mesh((points @ turn).astype(np.float32), triangles.astype(np.uint32))).project()
    return float(whole.area())


def pressure(injection: Injection) -> float:
    """MPa in the cavity that forces are reckoned with: the middle of the resin's range."""
    return sum(injection.pressure) / 2


def cooling_wall(walls: Walls) -> float:
    """Mm of the wall that is the last to cool."""
    return max(walls.most, walls.usual)


def clamp_force(area: float, pressure: float) -> float:
    """Force in kN that holds the mold shut: cavity pressure in MPa times projected area in mm² (common practice)."""
    return pressure * area / 1000.0


def cooling_time(wall: float, resin: Injection) -> float:
    """Seconds until the middle of a wall in mm has cooled to where the part can be ejected, at the middle of the ranges.

    t = s² / (π² a) · ln(4/π · (Tm − Tw) / (Te − Tw)): the first term of the series for a plate (Carslaw and Jaeger, Conduction
    of Heat in Solids; for molds Menges, Michaeli and Mohren, How to Make Injection Molds).
    """
    melt, mold = sum(resin.melt) / 2, sum(resin.mold) / 2
    return wall**2 / (math.pi**2 * resin.diffusivity) * math.log(4 / math.pi * (melt - mold) / (resin.eject - mold))


def tonnes(force: float) -> float:
    """What presses are sold by: kN as tonnes of force."""
    return force / TONNE


_FRICTION, _STIFF = 0.4, 1000.0  # of plastic on steel, and MPa of a part as it is ejected (both from memory)
FILL, HANDLING = 1.5, 5.0  # s to fill, and to open, eject and close (common practice, from memory)


def wall_for_deflection(pressure: float, span: float, deflection: float) -> float:
    """Thickness in mm of a steel wall that a pressure in MPa bends by no more than `deflection` mm over a `span` in mm: a
    square plate clamped at its edges, w = 0.00126 q a⁴ / D with D = E t³ / (12 (1 − ν²)), so t³ = 0.0138 q a⁴ / (E w) for ν =
    0.3 (Timoshenko, Theory of Plates and Shells).
    """
    return float((0.0138 * pressure * span**4 / (stiffness.E * deflection)) ** (1 / 3))


def release_force(area: float, shrinkage: float, wall: float, radius: float) -> float:
    """Force in kN that pushes a part off its core: friction times the pressure with which it has shrunk on, over the steep
    skin of the core in mm². That pressure is a ring's, E S s / r (closed form of a thin ring; its use here as in Menges,
    Michaeli and Mohren, from memory).
    """
    return _FRICTION * _STIFF * shrinkage * wall / radius * area / 1000.0


def cycle_time(cooling: float, idle: float | None = None) -> float:
    """Seconds from shot to shot; `idle` of them it does not cool, if they are known."""
    return cooling + (FILL + HANDLING if idle is None else idle)


def machine_rate(tonnes_: float) -> float:
    """What an hour on a press of so many tonnes costs, in the currency of the resins' prices: 20 + 0.15 a tonne (common
    practice, from memory: ask your molder).
    """
    return 20.0 + 0.15 * tonnes_


def piece_price(material: float, rate: float, cycle: float, places: int) -> float:
    """What one piece costs: the shot's material and the press's time, shared by the places."""
    return (material + rate * cycle / 3600.0) / places
