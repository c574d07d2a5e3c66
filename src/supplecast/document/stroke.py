"""The stroke that the view plays: what moves when, which way and how far, told in shares of the whole."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from supplecast.geometry import Vec


@dataclass(frozen=True)
class Leg:
    """From which to which share of the stroke a body moves, and by what, mm."""

    begin: float
    end: float
    by: Vec


@dataclass(frozen=True)
class Stage:
    """What happens up to a share of the stroke."""

    words: str
    until: float


@dataclass(frozen=True)
class Stroke:
    """The way from shut to open of a tool, or to being drawn apart of an assembly: its stages, the `legs` of each body by its
    id, which bodies are first set `aside` because others show the same, and which way is `up` where the shop has one: the
    fixed side above.
    """

    stages: Sequence[Stage]
    legs: Mapping[str, Sequence[Leg]]
    aside: Sequence[str] = ()
    up: Vec | None = None

    def off(self, body: str, share: float = 1.0) -> Vec:
        """How far a body is off its place at a share of the stroke, mm."""
        legs = self.legs.get(body, ())
        done = [min(max((share - leg.begin) / (leg.end - leg.begin), 0.0), 1.0) for leg in legs]
        x, y, z = (sum(d * leg.by[k] for d, leg in zip(done, legs, strict=True)) for k in range(3))
        return (x, y, z)
