"""The gauges of cost: what the part weighs, and the press and time that it takes."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast import kernel
from supplecast.molding import estimates
from supplecast.molding.gauge import Gauge, GaugeFigure
from supplecast.molding.gauges import inputs
from supplecast.molding.gauges.judged import Asked, Judged, largest
from supplecast.molding.mass import grams
from supplecast.tooling.resins import PRICE_SOURCE
from supplecast.wording import brief


def mass(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    """Volume, mass and what the resin for it costs."""
    volume = sum(body.volume for body in bodies)
    area = sum(kernel.measure.mass(body.pulled.skin.solid).area for body in bodies)
    figures = [GaugeFigure("volume", f"{brief(volume / 1000, 5)} cm³"), GaugeFigure("surface", f"{brief(area / 100, 4)} cm²")]
    if asked.resin is None:
        return Gauge("mass", "Volume", brief(volume / 1000, 4), "cm³", "none", "no resin chosen", figures=tuple(figures))
    weight = grams(volume, asked.resin)
    price = weight / 1000 * asked.resin.price
    figures += [
        GaugeFigure("mass", f"{brief(weight, 4)} g", f"V · ρ, ρ = {asked.resin.density:g} g/cm³", asked.source),
        GaugeFigure("resin's price", f"¤{price:.3f}", f"m · ¤{asked.resin.price:g} per kg", PRICE_SOURCE),
    ]
    shown, unit = (brief(weight), "g") if weight < 1000 else (brief(weight / 1000), "kg")
    return Gauge("mass", f"Mass, {asked.resin.name}", shown, unit, "none", f"resin for ¤{price:.2f}", figures=tuple(figures))


def clamp(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    """The press that holds the mold shut, and how long the part cools."""
    area = sum(body.pulled.projected for body in bodies)
    figures = [GaugeFigure("projected area", f"{brief(area / 100, 4)} cm²", "shadow of the part along the pull")]
    injection = asked.resin.injection if asked.resin else None
    if injection is None:
        verdict = "cast by hand" if asked.resin else "no resin chosen"
        return Gauge("clamp", "Projected area", brief(area / 100), "cm²", "none", verdict, figures=tuple(figures))
    force = estimates.clamp_force(area, estimates.pressure(injection)) * (1 + inputs.MARGIN)
    walls = largest(bodies).pulled.skin.walls
    cooling = estimates.cooling_time(estimates.cooling_wall(walls), injection)
    figures += [*inputs.clamped(force, injection, asked.source, inputs.MARGIN), *inputs.cooled(walls, injection, asked.source)]
    tonnes = estimates.tonnes(force)
    return Gauge("clamp", "Clamp", brief(tonnes), "t", "none", f"cools in {brief(cooling, 2)} s", figures=tuple(figures))
