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
