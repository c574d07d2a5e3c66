"""Places: where in plan pillars, pins, screws and props of a mold base stand, clear of what runs through its plates."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import combinations

from supplecast.geometry import Point2

WALL = 3.0
"""Mm of steel that stays between any two openings (common practice, no source)."""
_STEP = 2.0


@dataclass(frozen=True)
class Round:
    """A round opening of some radius between two levels."""

    at: Point2
    radius: float
    low: float
    high: float

    def away(self, other: Round) -> float:
        """How far apart two of them are, mm; less than nought by how much they overlap across their axes."""
        across = math.dist(self.at, other.at) - self.radius - other.radius
        along = max(self.low - other.high, other.low - self.high)
        return across if along < 0 else math.hypot(max(across, 0.0), along)


@dataclass(frozen=True)
class Block:
    """A rectangular opening from corner to corner between two levels; `body` is the id of what it is there for."""

    start: Point2
    end: Point2
    low: float
    high: float
    body: str = ""

    def away(self, at: Point2) -> float:
        """How far a place is from it, mm; 0 inside."""
        off = (max(a - p, 0.0, p - b) for a, p, b in zip(self.start, at, self.end, strict=True))
        return math.hypot(*off)


@dataclass
class Plan:
    """What plates are open for so far: new openings are looked for beside them."""

    length: float
    width: float
    blocks: Sequence[Block]
    rounds: list[Round] = field(default_factory=list)

    def is_free(self, one: Round, beside: str = "") -> bool:
        """Whether a new opening keeps steel round it; what is there for the body `beside` does not count."""
        blocks = (block for block in self.blocks if block.body != beside or not beside)
        if any(_level(one, block) and block.away(one.at) < one.radius + WALL - 1e-9 for block in blocks):
            return False
        near = (other for other in self.rounds if _level(one, other))
        return all(math.dist(one.at, other.at) >= one.radius + other.radius + WALL - 1e-9 for other in near)

    def take(self, ones: Iterable[Round]) -> None:
        self.rounds += ones

    def four(self, spans: Sequence[Round], us: Iterable[float], vs: Sequence[float], odd: float = 0.0) -> list[Point2] | None:
        """The first place (u, v), with u running in the outer and v in the inner loop, whose four mirror images are free for
        all of `spans` (whose places do not count), and apart from each other; the first of the four stands `odd` mm nearer to
        the middle. None if there is none.
        """
        apart = 2 * max(one.radius for one in spans) + WALL
        for u in us:
            for v in vs:
                places = [(-u + odd, -v), (u, -v), (u, v), (-u, v)]
                if any(math.dist(a, b) < apart - 1e-9 for a, b in combinations(places, 2)):
                    continue
                if all(self.is_free(Round(at, one.radius, one.low, one.high)) for at in places for one in spans):
                    self.take(Round(at, one.radius, one.low, one.high) for at in places for one in spans)
                    return places
        return None

    def along_middle(self, spans: Sequence[Round], pitch: float) -> list[Point2]:
        """Free places on the longer middle line, in pairs from the middle outwards, at least a `pitch` apart; taken."""
        found: list[Point2] = []
        for u in downwards(self.length / 2 - 2 * spans[0].radius)[::-1]:
            if found and min(abs(u - abs(at[0])) for at in found) < pitch:
                continue
            places = [(-u, 0.0), (u, 0.0)] if u > spans[0].radius + WALL else [(0.0, 0.0)]
            if len(places) > 1 and 2 * u < pitch:
                continue
            if all(self.is_free(Round(at, one.radius, one.low, one.high)) for at in places for one in spans):
                found += places
        self.take(Round(at, one.radius, one.low, one.high) for at in found for one in spans)
        return found


def _level(a: Round | Block, b: Round | Block) -> bool:
    return a.low < b.high - 1e-9 and b.low < a.high - 1e-9


def downwards(start: float, end: float = 0.0) -> list[float]:
    """Places in steps of 2 mm from one to another, both counted."""
    if start < end:
        return []
    count = int((start - end) / _STEP)
    return [start - k * _STEP for k in range(count + 1)]
