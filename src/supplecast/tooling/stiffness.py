"""Stiffness: how much plates of steel bend, and what a slender pin bears."""

from __future__ import annotations

import math

E = 205_000.0
"""Young's modulus of steel, MPa."""


def thickness_between(force: float, span: float, breadth: float, deflection: float) -> float:
    """Thickness in mm of a plate of some `breadth` that lies on two rails a `span` apart, under a force in N spread evenly over
    it, so that its middle gives way by `deflection` mm: w = 5 F L³ / (384 E I) with I = b t³ / 12 (beam on two supports;
    Young and Budynas, Roark's Formulas for Stress and Strain, table of beams).
    """
    return float((60.0 * force * span**3 / (384.0 * E * breadth * deflection)) ** (1 / 3))


def buckling_force(diameter: float, length: float) -> float:
    """N under which a round pin gives way sideways that is held stiffly at its foot and guided at its tip: Euler's third case,
    F = π² E I / (0.7 L)² with I = π d⁴ / 64 (Dubbel, Handbook of Mechanical Engineering, buckling of bars).
    """
    return math.pi**2 * E * math.pi * diameter**4 / 64.0 / (0.7 * length) ** 2
