"""The gauge of cooling: where the wall of the cavity stays warmer than elsewhere, painted on the parts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from supplecast.geometry import Bar, Floats, vec
from supplecast.molding import chill
from supplecast.molding.gauge import Band, Gauge, GaugeFigure, Offender
from supplecast.molding.gauge import Bar as Stretch
from supplecast.molding.gauges.judged import MOST_OFFENDERS
from supplecast.molding.judge import Skin
from supplecast.wording import brief, plural

_EVEN, _UNEVEN = 5.0, 10.0  # K from the mean (common practice, from memory: a mold is held within 5 to 10 K)
_LEAST = 0.005  # of a skin that a place takes to be told
_APART = 0.15  # of a part's size


@dataclass(frozen=True)
class Chilled:
    """The parts by the id of their bodies, the coolant bores, W that come in, W/(m² K) that pass into the water."""

    parts: Mapping[str, tuple[str, Skin]]
    bores: Sequence[Bar]
    power: float
    film: float


def heat(asked: Chilled) -> tuple[Gauge, dict[str, Floats]]:
    """The gauge, and for each part how far over the mean wall each place of its skin is, K."""
    parts = [chill.heated(skin.places, skin.walls.balls) for _, skin in asked.parts.values()]
    warm = chill.over_water(parts, asked.bores, asked.power, asked.film)
    areas = np.concatenate([part.skin.areas for part in parts])
    mean = float(np.average(np.concatenate(warm), weights=areas))
    off = {body: rows - mean for body, rows in zip(asked.parts, warm, strict=True)}
    together = np.concatenate(list(off.values()))
    order = np.argsort(together)
    sums = np.cumsum(areas[order]) / areas.sum()
    low, high = (float(together[order][np.searchsorted(sums, share)]) for share in (0.01, 0.99))
    hot = float(areas[together > _UNEVEN].sum() / areas.sum())
    offenders = [one for body, rows in off.items() for one in _hot(body, asked.parts[body], rows)]
    state = "doubt" if hot > _LEAST else "good"
    verdict = plural(len(offenders), "warm place") if offenders and state == "doubt" else "even"
    bands = (
        Band(-_UNEVEN, f"over {_UNEVEN:g} K colder", "thinner"),
        Band(-_EVEN, "colder", "thin"),
        Band(_EVEN, f"within {_EVEN:g} K of the mean", "good"),
        Band(_UNEVEN, "warmer", "doubt"),
        Band(None, f"over {_UNEVEN:g} K warmer", "fault"),
    )
    figures = (
        GaugeFigure("mean wall over the water", f"{brief(mean)} K", "sources on the skin, line sinks along the bores",
                    "Carslaw and Jaeger, from memory; steel without its outer walls"),
        GaugeFigure("coldest to warmest", f"{low:+.1f} to {high:+.1f} K", "98 % of the skin"),
        GaugeFigure("over 10 K warmer", f"{100 * hot:.1f} %", "of the parts' skin"),
        GaugeFigure("estimate", "a mean over the cycle, not compared with molded parts"),
    )  # fmt: skip
    value = f"{max(abs(low), abs(high)):.0f}"
    at = Stretch(0.0, 0.5, min(max(abs(low), abs(high)) / (2 * _UNEVEN), 1.0))
    return Gauge("heat", "Cooling", f"±{value}", "K", state, verdict, at, "heat", bands, tuple(offenders[:MOST_OFFENDERS]),
                 figures), off  # fmt: skip


def _hot(body: str, part: tuple[str, Skin], rows: Floats) -> list[Offender]:
    """The places of a part that stay too warm, the warmest first, apart from each other."""
    name, skin = part
    places = skin.places
    found: list[Offender] = []
    left = np.flatnonzero(rows > _UNEVEN)
    while len(left):
        top = left[np.argmax(rows[left])]
        near = np.linalg.norm(places.middles[left] - places.middles[top], axis=1) < _APART * places.size
        mine = left[near]
        left = left[~near]
        if places.areas[mine].sum() < _LEAST * places.area:
            continue
        words = f"{name}: {rows[top]:.0f} K warmer than the mean"
        spot, normal = vec(places.middles[top]), vec(places.normals[top])
        found.append(Offender(words, spot, normal, body, (int(places.faces[top]),)))
    return found
