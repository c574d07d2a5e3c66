"""A dozen bodies whose volume, area, centroid and second moments are known: closed forms and adaptive quadrature."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.integrate import quad
from scipy.optimize import brentq

from supplecast.curves import Arc2, Circle2, Line2, Region, interpolated
from supplecast.geometry import STANDARD_PLANES, Frame, Point2
from supplecast.kernel import blend, loft, move, revolve, route, solid, sweep
from supplecast.kernel.shapes.shape import Solid
from tests.referee.solids import outline

FRONT = STANDARD_PLANES["front"]


@dataclass(frozen=True)
class Known:
    """mm³, mm², mm, and ∫ x², y², z² dV about the centroid in mm⁵."""

    volume: float
    area: float | None
    centroid: tuple[float, float, float]
    second: tuple[float, float, float]


def integral(value: Callable[[float], float], *places: float) -> float:
    """By scipy's adaptive Gauss-Kronrod, piece by piece."""
    return sum(quad(value, a, b, epsabs=1e-9, epsrel=1e-11, limit=400)[0] for a, b in zip(places, places[1:], strict=False))


def turned(radius: Callable[[float], float], area: float | None, *levels: float) -> Known:
    """A full solid of revolution about z, from its radius at each level: by discs."""
    volume = integral(lambda z: math.pi * radius(z) ** 2, *levels)
    middle = integral(lambda z: math.pi * radius(z) ** 2 * z, *levels) / volume
    aside = integral(lambda z: math.pi * radius(z) ** 4 / 4, *levels)
    along = integral(lambda z: math.pi * radius(z) ** 2 * (z - middle) ** 2, *levels)
    return Known(volume, area, (0, 0, middle), (aside, aside, along))


def line(*points: Point2) -> Region:
    return Region(tuple(Line2(f"L{i}", a, b) for i, (a, b) in enumerate(zip(points, [*points[1:], points[0]], strict=True))))


def a_block() -> tuple[Solid, Known]:
    v = 40 * 30 * 20.0
    return solid.extrude(outline(40, 30), Frame(), 20).solid, Known(
        v, 2 * (1200 + 800 + 600), (0, 0, 10), (v * 40**2 / 12, v * 30**2 / 12, v * 20**2 / 12)
    )


def a_rod() -> tuple[Solid, Known]:
    made = solid.extrude(Region((Circle2("C", (0, 0), 7),)), Frame(), 25).solid
    return made, turned(lambda z: 7.0, 2 * math.pi * 7 * 32, 0, 25)


def a_cone() -> tuple[Solid, Known]:
    made = revolve.revolve(line((0, 0), (9, 0), (4, 15), (0, 15)), FRONT, (0, 0), (0, 1)).solid
    area = math.pi * (81 + 16 + 13 * math.hypot(5, 15))
    return made, turned(lambda z: 9 - z / 3, area, 0, 15)


def a_ball() -> tuple[Solid, Known]:
    half = Region((Line2("L", (0, 6), (0, -6)), Arc2("A", (0, 0), (0, -6), (0, 6), True)))
    return revolve.revolve(half, FRONT, (0, 0), (0, 1)).solid, turned(lambda z: math.sqrt(36 - z * z), 4 * math.pi * 36, -6, 6)


def a_torus() -> tuple[Solid, Known]:
    """V = 2π²Rr², ∫x² = V(R²/2 + 3r²/8), ∫z² = V r²/4 (Pappus, and integrals round the tube)."""
    v = 2 * math.pi**2 * 10 * 9
    made = revolve.revolve(Region((Circle2("C", (10, 0), 3),)), FRONT, (0, 0), (0, 1)).solid
    aside = v * (100 / 2 + 3 * 9 / 8)
    return made, Known(v, 4 * math.pi**2 * 30, (0, 0, 0), (aside, aside, v * 9 / 4))


def an_apple() -> tuple[Solid, Known]:
    """An arc of radius 10 about a place 4 from the axis: the torus would cross itself. Area: 2π·10·∫(4 + 10 cos t) dt."""
    top = math.sqrt(100 - 16)
    profile = Region((Line2("L", (0, top), (0, -top)), Arc2("A", (4, 0), (0, -top), (0, top), True)))
    end = math.acos(-0.4)
    area = 2 * math.pi * 10 * (2 * 4 * end + 2 * 10 * math.sin(end))
    # Beyond the arc's own ends a level lies between the two sides of its circle.
    ring = turned(lambda z: 4 + math.sqrt(max(100 - z * z, 0.0)), None, -10, -top, top, 10)
    dimple = turned(lambda z: 4 - math.sqrt(max(100 - z * z, 0.0)), None, top, 10)
    along = dimple.second[2] + dimple.volume * dimple.centroid[2] ** 2
    aside = ring.second[0] - 2 * dimple.second[0]
    known = Known(ring.volume - 2 * dimple.volume, area, (0, 0, 0), (aside, aside, ring.second[2] - 2 * along))
    return revolve.revolve(profile, FRONT, (0, 0), (0, 1)).solid, known


def a_bell() -> tuple[Solid, Known]:
    """A ring whose outside is a spline: a general surface of revolution."""
    spline = interpolated("S", [(12.0, 0.0), (9.0, 6.0), (14.0, 14.0), (10.0, 20.0)], (11.0, 2.0), (12.0, 18.5))
    profile = Region((spline, Line2("a", (10, 20), (0, 20)), Line2("b", (0, 20), (0, 0)), Line2("c", (0, 0), (12, 0))))

    def radius(z: float) -> float:
        t = brentq(lambda t: float(spline.at(np.array([t]))[0, 1]) - z, 0.0, 1.0, xtol=1e-15)
        return float(spline.at(np.array([t]))[0, 0])

    return revolve.revolve(profile, FRONT, (0, 0), (0, 1)).solid, turned(radius, None, 0, 6, 14, 20)


def a_half_ring() -> tuple[Solid, Known]:
    """Half a turn of a rectangle, radii 5 to 9, 6 high: its centroid is 4(R³ − r³)/3π(R² − r²) off the axis."""
    made = revolve.revolve(line((5, 0), (9, 0), (9, 6), (5, 6)), FRONT, (0, 0), (0, 1), math.pi).solid
    v, off = math.pi / 2 * 56 * 6, 4 * (729 - 125) / (3 * math.pi * 56)
    round_ = math.pi / 8 * (9**4 - 5**4) * 6
    known = Known(v, math.pi * (14 * 6 + 56) + 48, (0, off, 3), (round_, round_ - v * off**2, v * 3))
    return made, known


def a_funnel() -> tuple[Solid, Known]:
    """A straight loft between two rounds: a rational surface, for which the cone's forms hold."""
    made = loft.loft([(Region((Circle2("C", (0, 0), 9),)), Frame()), (Region((Circle2("D", (0, 0), 4),)), Frame().shifted(15))])
    return made.made.solid, turned(lambda z: 9 - z / 3, math.pi * (81 + 16 + 13 * math.hypot(5, 15)), 0, 15)


def a_twist() -> tuple[Solid, Known]:
    """A square of 10 at the foot, of 6 at the top: sides 10 − 0.4 z."""
    made = loft.loft([(outline(10, 10), Frame()), (outline(6, 6), Frame().shifted(10))]).made.solid

    def side(z: float) -> float:
        return 10 - 0.4 * z

    v = integral(lambda z: side(z) ** 2, 0, 10)
    middle = integral(lambda z: side(z) ** 2 * z, 0, 10) / v
    aside = integral(lambda z: side(z) ** 4 / 12, 0, 10)
    area = 136 + 2 * (10 + 6) * math.hypot(10, 2)
    return made, Known(v, area, (0, 0, middle), (aside, aside, integral(lambda z: side(z) ** 2 * (z - middle) ** 2, 0, 10)))


def a_bend() -> tuple[Solid, Known]:
    """A quarter of a torus, swept: V = π²Rr²/2; its centroid lies (R² + r²/4)·2/(πR) off either end."""
    way = [Arc2("P", (10, 0), (0, 0), (10, 10), False)]
    made = sweep.sweep(Region((Circle2("C", (0, 0), 3),)), Frame(), route.of_curves(way, FRONT)).solid
    v, off = math.pi**2 * 10 * 9 / 2, (100 + 9 / 4) * 2 / (math.pi * 10)
    aside = v * (100 / 2 + 3 * 9 / 8) - v * off**2
    return made, Known(v, math.pi**2 * 30 + 18 * math.pi, (10 - off, 0, off), (aside, v * 9 / 4, aside))


def a_cushion() -> tuple[Solid, Known]:
    """A block of 24 × 18 × 12 with all edges rounded by 4: a box of 16 × 10 × 4 grown by a ball (Steiner's formula)."""
    body = solid.extrude(outline(24, 18), Frame(), 12).solid
    made = blend.fillet(body, range(12), 4).solid
    a, b, c, r = 16.0, 10.0, 4.0, 4.0
    volume = a * b * c + 2 * r * (a * b + b * c + c * a) + math.pi * r**2 * (a + b + c) + 4 / 3 * math.pi * r**3
    area = 2 * (a * b + b * c + c * a) + 2 * math.pi * r * (a + b + c) + 4 * math.pi * r**2

    def second(p: float, q: float, s: float) -> float:
        """∫x² with x along p, by slices across x: rounded rectangles q × s grown by ρ."""

        def slab(angle: float) -> float:
            grown, out = r * math.cos(angle), p / 2 + r * math.sin(angle)
            return (q * s + 2 * grown * (q + s) + math.pi * grown**2) * out**2 * grown

        straight = (q * s + 2 * r * (q + s) + math.pi * r**2) * p**3 / 12
        return straight + 2 * integral(slab, 0, math.pi / 2)

    return made, Known(volume, area, (0, 0, 6), (second(a, b, c), second(b, c, a), second(c, a, b)))


def an_egg() -> tuple[Solid, Known]:
    """A ball of 6, stretched to half axes of 6, 7.2 and 9: rational faces. ∫x² = V a²/5."""
    made = move.stretch(a_ball()[0], (1.0, 1.2, 1.5), (0, 0, 0)).solid
    v = 4 / 3 * math.pi * 6 * 7.2 * 9
    return made, Known(v, None, (0, 0, 0), (v * 36 / 5, v * 7.2**2 / 5, v * 81 / 5))


BODIES: Sequence[Callable[[], tuple[Solid, Known]]] = (
    a_block, a_rod, a_cone, a_ball, a_torus, an_apple, a_bell, a_half_ring, a_funnel, a_twist, a_bend, a_cushion, an_egg,
)  # fmt: skip
