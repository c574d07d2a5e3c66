"""Coolant: what water in bores takes along, and how warm the wall of the cavity then is."""

from __future__ import annotations

import math
from dataclasses import dataclass

CONDUCTS_STEEL = 36.0
"""W/(m K) of tool steel (common handbook value, from memory)."""
_HEAT, _CONDUCTS = 4180.0, 0.60  # J/(kg K) and W/(m K) of water (common handbook values, from memory)
_BEND = 1.5  # of the dynamic pressure, lost in a hose from one bore to the next (common practice, no source)
TURBULENT = 4000.0
"""Reynolds number over which the flow in a bore is turbulent beyond doubt (any textbook: 2,300 to 4,000)."""
GOOD = 10_000.0
"""Reynolds number that molders ask for (common practice, from memory)."""
MELT_HEAT = 2100.0
"""J/(kg K) of molten plastic, for the heat it brings along (common handbook value for amorphous resins, from memory)."""


def density(celsius: float) -> float:
    """Kg/m³ of water from 0 to 100 °C: a parabola through the handbook values 999.8, 988.0 and 958.4 at 0, 50 and 100 °C."""
    return 999.8 - 0.058 * celsius - 0.00356 * celsius**2


def viscosity(celsius: float) -> float:
    """Pa s of water: 2.414e-5 · 10^(247.8 / (T − 140)), T in K (Vogel's form as handbooks give it, from memory)."""
    return float(2.414e-5 * 10.0 ** (247.8 / (celsius + 273.15 - 140.0)))


@dataclass(frozen=True)
class Circuit:
    """Bores one after another: how many, their diameter and length in mm, how far their axes are from the wall of the cavity
    and apart from each other, mm; the flow in l/min, and the temperature of the water in °C.
    """

    bores: int
    diameter: float
    length: float
    depth: float
    pitch: float
    flow: float
    celsius: float


@dataclass(frozen=True)
class Cooled:
    """What a circuit does: the Reynolds number in it, the pressure in bar that drives it, by how many K the water gets warmer,
    and how many degrees the wall of the cavity is over it.
    """

    reynolds: float
    pressure: float
    rise: float
    over: float


def friction(reynolds: float) -> float:
    """Darcy's friction factor of a smooth bore: 64 / Re where the flow is laminar, else Blasius, 0.3164 / Re^0.25 (any
    textbook; Blasius holds up to Re 100,000).
    """
    return 64.0 / reynolds if reynolds < 2300.0 else float(0.3164 / reynolds**0.25)


def cooled(circuit: Circuit, power: float) -> Cooled:
    """A circuit that takes `power` W out of the wall.

    Pressure by Darcy and Weisbach, Δp = (f L / d + Σζ) ρ v² / 2. The wall is warmer than the water by what passes into it (Nu =
    0.023 Re^0.8 Pr^0.4 by Dittus and Boelter, 3.66 where laminar) and through the steel: a row of cylinders under a plane, S =
    2 π L / ln(2 w / (π d) · sinh(2 π z / w)) (Incropera and DeWitt, Fundamentals of Heat and Mass Transfer, conduction shape
    factors).
    """
    d, long = circuit.diameter / 1000.0, circuit.bores * circuit.length / 1000.0
    rho, mu = density(circuit.celsius), viscosity(circuit.celsius)
    volume = circuit.flow / 60_000.0
    speed = volume / (math.pi * d * d / 4.0)
    reynolds = rho * speed * d / mu
    lost = friction(reynolds) * long / d + _BEND * (circuit.bores - 1)
    film = 1.0 / (passing(reynolds, circuit.diameter, circuit.celsius) * math.pi * d * long)
    w, z = circuit.pitch / 1000.0, circuit.depth / 1000.0
    shape = 2.0 * math.pi * long / math.log(2.0 * w / (math.pi * d) * math.sinh(2.0 * math.pi * z / w))
    rise = power / (rho * volume * _HEAT)
    return Cooled(reynolds, lost * rho * speed**2 / 2.0 / 1e5, rise, power * (film + 1.0 / (CONDUCTS_STEEL * shape)))


def passing(reynolds: float, diameter: float, celsius: float) -> float:
    """W/(m² K) that pass from the wall of a bore of so many mm into its water."""
    prandtl = viscosity(celsius) * _HEAT / _CONDUCTS
    nusselt = 3.66 if reynolds < 2300.0 else 0.023 * reynolds**0.8 * prandtl**0.4
    return nusselt * _CONDUCTS / (diameter / 1000.0)


def lost_in_channel(flow: float, area: float, wetted: float, length: float, turns: float, celsius: float) -> float:
    """Bar that `flow` l/min lose in a channel of any section, its area in mm², wetted perimeter and length in mm, with `turns`
    as times the dynamic pressure: Darcy and Weisbach with the hydraulic diameter 4 A / U (any textbook).
    """
    wide, rho, mu = 4.0 * area / wetted / 1000.0, density(celsius), viscosity(celsius)
    speed = flow / 60_000.0 / (area / 1e6)
    lost = friction(rho * speed * wide / mu) * length / 1000.0 / wide + turns
    return lost * rho * speed**2 / 2.0 / 1e5


def flow_for(reynolds: float, diameter: float, celsius: float) -> float:
    """L/min through a bore of so many mm for a Reynolds number."""
    d = diameter / 1000.0
    return reynolds * viscosity(celsius) / density(celsius) * math.pi * d / 4.0 * 60_000.0


def flow_for_rise(power: float, rise: float, celsius: float) -> float:
    """L/min that take `power` W along and get `rise` K warmer."""
    return power / (density(celsius) * _HEAT * rise) * 60_000.0


def heat(grams: float, melt: float, eject: float, cycle: float) -> float:
    """W that a shot brings into the tool: mass times heat of the melt from its temperature to that of ejection, over the cycle
    in s (common practice).
    """
    return grams / 1000.0 * MELT_HEAT * (melt - eject) / cycle
