"""The gauges of what is not molded: how large it is, what it weighs, and its least wall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from supplecast import kernel
from supplecast.molding.gauge import Gauge, GaugeFigure
from supplecast.molding.gauges import thickness
from supplecast.molding.gauges.judged import Asked, Judged
from supplecast.molding.mass import grams
from supplecast.wording import brief


def unmolded(bodies: Sequence[Judged], asked: Asked, material: str, density: float | None) -> list[Gauge]:
    """Its strip: nothing in it is judged by the rules of molding."""
    return [_size(bodies), _mass(bodies, material, density), _wall(bodies, asked)]


def _size(bodies: Sequence[Judged]) -> Gauge:
    boxes = [kernel.measure.box(body.pulled.skin.solid) for body in bodies]
    low, high = np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0)
    size = [float(length) for length in high - low]
    figures = tuple(GaugeFigure(f"along {axis}", f"{brief(length, 5)} mm") for axis, length in zip("xyz", size, strict=True))
    longest = max(size)
    verdict = " × ".join(brief(length, 4) for length in size)
    return Gauge("size", "Size", brief(longest, 4), "mm", "none", f"{verdict} mm", figures=figures)


def _mass(bodies: Sequence[Judged], material: str, density: float | None) -> Gauge:
    volume = sum(body.volume for body in bodies)
    area = sum(kernel.measure.mass(body.pulled.skin.solid).area for body in bodies)
    figures = [GaugeFigure("volume", f"{brief(volume / 1000, 5)} cm³"), GaugeFigure("surface", f"{brief(area / 100, 4)} cm²")]
    if density is None:
        return Gauge("mass", "Volume", brief(volume / 1000, 4), "cm³", "none", "of nothing yet", figures=tuple(figures))
    weight = grams(volume, density)
    figures.append(GaugeFigure("mass", f"{brief(weight, 4)} g", f"V · ρ, ρ = {density:g} g/cm³", "handbook, from memory"))
    shown, unit = (brief(weight), "g") if weight < 1000 else (brief(weight / 1000), "kg")
    return Gauge("mass", f"Mass, {material}", shown, unit, "none", "not molded", figures=tuple(figures))


def _wall(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    whole = thickness.wall(bodies, replace(asked, resin=None))
    least = min(body.pulled.skin.walls.least for body in bodies)
    return replace(whole, name="Least wall", value=brief(least), state="none", verdict=f"mostly {whole.value} mm", bar=None,
                   offenders=())  # fmt: skip
