"""Estimates for molding a part: what is projected, clamped, cooled and paid. Each with its formula and where that is from."""

from __future__ import annotations

import math

import numpy as np
from manifold3d import Manifold, Mesh

from supplecast.geometry import Floats, Frame, Ints, Vec
from supplecast.tooling.resins import Injection

TONNE = 9.80665  # kN


def projected_area(points: Floats, triangles: Ints, pull: Vec) -> float:
    """Area in mm² of a closed mesh's shadow along the pull; holes that go through stay open."""
    level = Frame.lying((0.0, 0.0, 0.0), pull)
    turned = points @ np.array([level.x, level.y, level.normal]).T
    body = Manifold(Mesh(turned.astype(np.float32), triangles.astype(np.uint32)))
    return float(body.project().area())


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


def required_draft(least: float, texture: float) -> float:
    """Degrees of draft that a resin and a texture of so many mm of depth ask for: 1° more for each 0.025 mm (common practice,
    no source).
    """
    return least + texture / 0.025


def tonnes(force: float) -> float:
    """What presses are sold by: kN as tonnes of force."""
    return force / TONNE
