"""What gauges are told as: numbers against the bands of the resin, with a verdict, a map and the offenders."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from supplecast import kernel
from supplecast.geometry import Vec, vec
from supplecast.molding.flow import Flow
from supplecast.molding.judge import Pulled
from supplecast.tooling.resins import SOURCE, Resin

MOST_OFFENDERS = 200


@dataclass(frozen=True)
class Offender:
    """A place that is out of its band: words, where, which way it looks, and the faces of which body."""

    words: str
    place: Vec
    direction: Vec
    body: str
    faces: tuple[int, ...]


@dataclass(frozen=True)
class Band:
    """Values of a map from the band before up to `upto`, or all others: its words, and the name of what it is painted with."""

    upto: float | None
    words: str
    paint: str


@dataclass(frozen=True)
class Figure:
    """A figure behind a gauge, in words, with the formula it comes from and where that, or its input, is from."""

    name: str
    words: str
    formula: str = ""
    source: str = ""


@dataclass(frozen=True)
class Bar:
    """A gauge's bar from 0 to 1: the allowed stretch, and where the value stands."""

    low: float
    high: float
    at: float


@dataclass(frozen=True)
class Gauge:
    """One gauge of the strip. `state` is good, doubt, fault or none; `map` names the values that `bands` paint, `other_map`
    what else they can paint.
    """

    id: str
    name: str
    value: str
    unit: str
    state: str
    verdict: str
    bar: Bar | None = None
    map: str = ""
    bands: tuple[Band, ...] = ()
    offenders: tuple[Offender, ...] = ()
    figures: tuple[Figure, ...] = ()
    other_map: str = ""


@dataclass(frozen=True)
class Asked:
    """What a part is judged by: its resin and where its figures are from, the pull, how deep its texture is in mm, and where it
    is gated.
    """

    resin: Resin | None
    pull: Vec
    texture: float = 0.0
    gate: Vec | None = None
    source: str = SOURCE


@dataclass(frozen=True)
class Judged:
    """A body with its id and name and what was measured of it; `flow` where there is a gate."""

    id: str
    name: str
    pulled: Pulled
    flow: Flow | None = None

    @property
    def volume(self) -> float:
        return kernel.measure.volume(self.pulled.skin.solid)


def offender(words: str, place: Vec, body: Judged, faces: tuple[int, ...]) -> Offender:
    """An offender on a body's skin, which looks the way the skin does there."""
    near = body.pulled.skin.places.whole.nearest(np.array([place])).triangles[0]
    return Offender(words, place, vec(body.pulled.skin.places.whole.normals[near]), body.id, faces)


def largest(bodies: Sequence[Judged]) -> Judged:
    """The body that speaks for the part."""
    return max(bodies, key=lambda body: body.volume)
