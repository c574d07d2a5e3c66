"""How the plan of a mold base lies in the tool, and its components as solids there."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from supplecast import kernel
from supplecast.curves import Arc2, Curve2, Line2, Region
from supplecast.geometry import AXES, Box, Frame, Point2, Vec, cross, dot, times
from supplecast.steps.tool.pair import Pair
from supplecast.tooling.base.component import Component, Outline
from supplecast.tooling.base.places import Block

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made


@dataclass(frozen=True)
class Lying:
    """The middle of the plates across the pull, the axes along their longer and shorter side, and the pair they hold."""

    pair: Pair
    middle: tuple[float, float, float]
    long: int
    short: int

    @classmethod
    def of(cls, pair: Pair) -> Lying:
        """Of the plates that the pair is."""
        box = kernel.measure.corner_box(pair.core.body.solid)
        a, b = pair.across
        long, short = (a, b) if box.size[a] >= box.size[b] else (b, a)
        return cls(pair, box.centre, long, short)

    def point(self, at: Point2, level: float) -> Vec:
        place = [0.0, 0.0, 0.0]
        place[self.long], place[self.short] = self.middle[self.long] + at[0], self.middle[self.short] + at[1]
        place[self.pair.axis] = (self.pair.parting + level) * self.pair.pull[self.pair.axis]
        return (place[0], place[1], place[2])

    def flat(self, place: Vec) -> Point2:
        return (place[self.long] - self.middle[self.long], place[self.short] - self.middle[self.short])

    def flat_way(self, way: Vec) -> Point2:
        return (way[self.long], way[self.short])

    def level(self, place: Vec) -> float:
        return dot(place, self.pair.pull) - self.pair.parting

    def levels(self, box: Box) -> tuple[float, float]:
        """From which level to which a box reaches."""
        sense = self.pair.pull[self.pair.axis]
        ends = sorted(sense * end[self.pair.axis] - self.pair.parting for end in (box.low, box.high))
        return ends[0], ends[1]

    def block(self, box: Box, body: str, grown: float = 0.0) -> Block:
        """What a box takes of the plates, `grown` all round across the pull."""
        (u0, v0), (u1, v1) = self.flat(box.low), self.flat(box.high)
        low, high = self.levels(box)
        return Block((u0 - grown, v0 - grown), (u1 + grown, v1 + grown), low, high, body)

    def box(self, low: tuple[float, float, float], high: tuple[float, float, float]) -> Made:
        """A plate from corner to corner, each (u, v, level)."""
        return kernel.solid.box(*self._corners(low, high))

    def rounded(self, low: tuple[float, float, float], high: tuple[float, float, float], radius: float) -> Made:
        """The same with its edges along the pull rounded."""
        return kernel.solid.rounded_box(*self._corners(low, high), self.pair.axis, radius)

    def _corners(self, low: tuple[float, float, float], high: tuple[float, float, float]) -> tuple[Vec, Vec]:
        a, b = self.point(low[:2], low[2]), self.point(high[:2], high[2])
        lows = [round(min(p, q), 6) for p, q in zip(a, b, strict=True)]
        highs = [round(max(p, q), 6) for p, q in zip(a, b, strict=True)]
        return (lows[0], lows[1], lows[2]), (highs[0], highs[1], highs[2])

    def turned(self, at: Point2, outer: Outline, inner: Outline = (), cup: tuple[float, float, float] | None = None) -> Made:
        """A solid turned about the axis at (u, v) from outlines of (level, radius); `cup` is a round seat in its low end."""
        x = AXES[self.long]
        frame = Frame(self.point(at, 0.0), x, cross(x, self.pair.pull))
        arcs: dict[tuple[Point2, Point2], Curve2] = {}
        corners = [(radius, level) for level, radius in outer]
        low, high = corners[0][1], corners[-1][1]
        if cup:
            level, ball, deep = cup
            bore = inner[0][1] if inner else 0.0
            middle, mouth = level + deep - ball, (math.sqrt(2 * ball * deep - deep**2), level)
            bottom = (bore, middle + math.sqrt(ball**2 - bore**2))
            upper = [(radius, height) for height, radius in inner[:0:-1]] if inner else [(0.0, high)]
            corners += [*upper, bottom, mouth]
            arcs[bottom, mouth] = Arc2("cup", (0.0, middle), bottom, mouth, False)
        elif inner:
            corners += [(radius, level) for level, radius in inner[::-1]]
            if inner[0][0] > low + 1e-9:
                corners += [(0.0, inner[0][0]), (0.0, low)]
        else:
            corners += [(0.0, high), (0.0, low)]
        pairs = [(a, b) for a, b in zip(corners, [*corners[1:], corners[0]], strict=True) if math.dist(a, b) > 1e-9]
        loop = tuple(arcs.get((a, b)) or Line2(f"s{k}", a, b) for k, (a, b) in enumerate(pairs))
        return kernel.revolve.revolve(Region(loop), frame, (0.0, 0.0), (0.0, 1.0))

    def body(self, one: Component) -> Made:
        return self.turned(one.at, one.outer, one.inner, one.cup)

    def hole(self, one: Component) -> Made:
        return self.turned(one.at, one.hole)

    @property
    def inwards(self) -> Vec:
        """The way from the side where `v` is largest into the plates."""
        return times(AXES[self.short], -1.0)
