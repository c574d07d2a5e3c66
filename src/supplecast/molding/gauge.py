"""What a gauge is: a number against the bands of the resin, with a verdict, a map and the offenders."""

from __future__ import annotations

from dataclasses import dataclass

from supplecast.geometry import Vec


@dataclass(frozen=True)
class Offender:
    """A place that is out of its band: words, where, which way it looks, and the faces of which body, and of an `other` one
    where it lies between two.
    """

    words: str
    place: Vec
    direction: Vec
    body: str
    faces: tuple[int, ...]
    other: str = ""
    other_faces: tuple[int, ...] = ()


@dataclass(frozen=True)
class Band:
    """Values of a map from the band before up to `upto`, or all others: its words, and the name of what it is painted with."""

    upto: float | None
    words: str
    paint: str


@dataclass(frozen=True)
class GaugeFigure:
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
    figures: tuple[GaugeFigure, ...] = ()
    other_map: str = ""
