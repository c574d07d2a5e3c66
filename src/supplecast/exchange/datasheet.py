"""What the report of a part says: pictures, gauges, what to look at, and its build sheet in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Reading:
    """A gauge as the report prints it."""

    name: str
    value: str
    verdict: str
    state: str


@dataclass(frozen=True)
class Datasheet:
    """All that a report says. `facts` are pairs of a name and words; `pictures` PNGs with their captions."""

    title: str
    about: str
    readings: Sequence[Reading]
    places: Sequence[str]
    facts: Sequence[tuple[str, str]]
    steps: Sequence[str]
    pictures: Sequence[tuple[str, bytes]]
