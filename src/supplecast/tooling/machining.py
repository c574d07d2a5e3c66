"""What the steel of a tool costs to make: hours by what is milled, finished and bored, at rates one can change.

All figures are common practice without a source; what a shop asks for differs by a third either way, and so does the result.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from supplecast.tooling.stock import DENSITY

ROUGH = 1500.0  # cm³ an hour that are milled off
FINISH = 40.0  # cm² an hour of the faces that form parts
DEEP = 0.25  # of the finishing more, for each time that a pocket is deeper than it is wide beyond once
HOLE, SETTING = 0.1, 1.5  # h for a bore, and to set a piece up
FITTING = 0.3  # of steel and hours, for design, fitting and trial
SPREAD = 0.3  # of the whole, either way
BOUGHT = {
    "Socket screw": 0.5, "Ejector pin": 6.0, "Return pin": 10.0, "Guide pillar": 25.0, "Guide bush": 25.0, "Stop button": 4.0,
    "Support pillar": 12.0, "Locating ring": 20.0, "Sprue bush": 30.0, "Angle pin": 15.0, "Stop pin": 2.0, "Baffle": 8.0,
    "Core pin": 15.0, "Ejector sleeve": 35.0, "Set screw": 0.5,
}  # fmt: skip
"""¤ for a component that is bought as it is."""


@dataclass(frozen=True)
class Work:
    """A piece to be made: its stock and what is milled off it, cm³; the faces that form parts, cm²; how many times its deepest
    pocket is deeper than wide; and its bores.
    """

    stock: float
    milled: float
    forming: float
    depth: float
    holes: int

    @property
    def hours(self) -> float:
        deep = 1.0 + DEEP * max(self.depth - 1.0, 0.0)
        return SETTING + self.milled / ROUGH + deep * self.forming / FINISH + HOLE * self.holes


@dataclass(frozen=True)
class Cost:
    """What a tool costs, ¤: steel, hours, bought components, and fitting."""

    steel: float
    hours: float
    machining: float
    bought: float

    @property
    def fitting(self) -> float:
        return FITTING * (self.steel + self.machining)

    @property
    def whole(self) -> float:
        return self.steel + self.machining + self.bought + self.fitting

    @property
    def ends(self) -> tuple[float, float]:
        """The least and the most it may come to."""
        return (1 - SPREAD) * self.whole, (1 + SPREAD) * self.whole


def cost(works: Iterable[Work], bought: Iterable[str], rate: float, steel: float) -> Cost:
    """Of pieces to be made and components by kind, at a rate an hour and a price a kg."""
    works = list(works)
    hours = sum(work.hours for work in works)
    mass = sum(work.stock for work in works) * DENSITY / 1000.0
    return Cost(mass * steel, hours, hours * rate, sum(BOUGHT.get(kind, 0.0) for kind in bought))
