"""What a worker answers about two documents compared. Lengths in mm, areas mm², volumes mm³."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.document.changes import FaceChange, StepChange
from supplecast.document.steel_change import SteelChange
from supplecast.wire.bodies import ShownBody


@dataclass(frozen=True)
class ComparedFigure:
    """A figure of both sides in words, and their difference."""

    name: str
    unit: str
    first: str
    second: str
    change: str


@dataclass(frozen=True)
class ComparedFace(FaceChange):
    """A face that differs, and which pair of bodies it belongs to."""

    pair: int = 0


@dataclass(frozen=True)
class OnlyInOne:
    """What only one of a pair has: its volume, and meshes of its pieces."""

    volume: float
    mesh: Sequence[str] = ()


@dataclass(frozen=True)
class Comparison:
    """Two documents compared, body by body; every row of two is first and second. `sound`: nothing was left uncompared. Of
    tools `steel` says what becomes of each body of the first.
    """

    words: Sequence[str]
    sides: Sequence[Sequence[ShownBody]]
    figures: Sequence[ComparedFigure]
    faces: Sequence[ComparedFace]
    pairs: Sequence[tuple[str, str]]
    only: Sequence[Sequence[OnlyInOne]]
    steps: Sequence[StepChange]
    sound: bool
    steel: Sequence[SteelChange] = ()
