"""What the pointer means while one draws: the points, curves and directions it comes near, and which of them to take.

Candidates are places (a point, a midpoint, where a tangent touches) and loci (a line or a circle that the pointer lies nearly
on). A place wins, and takes along one direction that it satisfies as well; else the best pair of loci that meet nearby; else
the best single one. Scores rank by class first, then by nearness; they were tuned by hand on small scenes.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field

import numpy as np

from supplecast.geometry import Floats, Point2
from supplecast.sketch.carriers import Carrier, Round, Straight, meeting
from supplecast.sketch.model import ORIGIN, Arc, Circle, Drawing, Ellipse, Line
from supplecast.sketch.picks import Pick, Snap
from supplecast.sketch.sizing import radii_of

# Tolerances in pixels, and classes: the lower, the more it is meant.
_POINT, _CURVE, _DIRECTION, _EQUAL, _ALIGNED, _TOUCH, _SHORTEST = 8.0, 6.0, 5.0, 5.0, 3.0, 12.0, 12.0
_NEIGHBOUR, _FAR = 400.0, 20.0
_CLASS = {
    "coincident": 0.0,
    "midpoint": 0.3,
    "tangent": 0.8,
    "on": 1.0,
    "horizontal": 1.1,
    "vertical": 1.1,
    "perpendicular": 1.3,
    "parallel": 1.5,
    "equal": 1.9,
    "level": 2.0,
    "plumb": 2.0,
}
_NEARNESS = 0.9
_EXACT = 1e-7


@dataclass(frozen=True)
class _Candidate:
    snap: Snap
    score: float
    place: Point2 | None = None
    locus: Carrier | None = None
    seen_from: Point2 | None = None


@dataclass(frozen=True)
class Guide:
    """A dotted line that shows what the pointer is taken to be aligned with."""

    a: Point2
    b: Point2


@dataclass(frozen=True)
class Guess:
    """Where the pointer is taken to be, what holds there, and what to show of it."""

    at: Point2
    snaps: tuple[Snap, ...] = ()
    guides: tuple[Guide, ...] = ()

    @property
    def pick(self) -> Pick:
        return Pick(x=self.at[0], y=self.at[1], snaps=self.snaps)

    @property
    def words(self) -> str:
        return told(self.snaps)


@dataclass
class Sights:
    """All that a drawing offers to snap to, as arrays; made anew after each change."""

    drawing: Drawing
    points: list[str] = field(init=False)
    lines: list[str] = field(init=False)
    rounds: list[str] = field(init=False)

    def __post_init__(self) -> None:
        drawing = self.drawing
        self.points = [ORIGIN, *drawing.points]
        self.at = np.array([(0.0, 0.0), *drawing.points.values()])
        self.lines = [name for name, entity in drawing.entities.items() if isinstance(entity, Line)]
        ends = [(drawing.place(e.a), drawing.place(e.b)) for e in drawing.entities.values() if isinstance(e, Line)]
        ends_at = np.array(ends).reshape(-1, 2, 2)
        self.a, self.b = ends_at[:, 0], ends_at[:, 1]
        self.direction = self.b - self.a
        self.length = np.maximum(np.hypot(self.direction[:, 0], self.direction[:, 1]), 1e-12)
        self.direction = self.direction / self.length[:, None]
        radii = radii_of(drawing)
        self.rounds = [name for name, entity in drawing.entities.items() if isinstance(entity, (Arc, Circle))]
        self.centre = np.array([drawing.place(drawing.entities[n].c) for n in self.rounds]).reshape(-1, 2)  # type: ignore[union-attr]
        self.radius = np.array([radii[name] for name in self.rounds])
        self.start, self.sweep = np.zeros(len(self.rounds)), np.full(len(self.rounds), 2 * math.pi)
        for index, name in enumerate(self.rounds):
            arc = drawing.entities[name]
            if isinstance(arc, Arc):
                a, b, c = (np.array(drawing.place(p)) for p in (arc.a, arc.b, arc.c))
                first, last = (b, a) if arc.cw else (a, b)
                self.start[index] = math.atan2(*(first - c)[::-1])
                self.sweep[index] = (math.atan2(*(last - c)[::-1]) - self.start[index]) % (2 * math.pi)
        self.ellipses = [name for name, entity in drawing.entities.items() if isinstance(entity, Ellipse)]

    def guess(
        self,
        cursor: Point2,
        unit: float,
        start: Pick | None = None,
        *,
        woken: Collection[str] = (),
        skip: Collection[str] = (),
        lined: bool = True,
    ) -> Guess:
        """What the pointer at `cursor` means, with `unit` mm to a pixel.

        `start` is where what is drawn begins; `woken` names points and lines that the pointer has rested on; `skip` what
        is not to be snapped to. Without `lined` what is drawn is no straight line: only places count.
        """
        if unit <= 0 or not math.isfinite(unit):
            return Guess(cursor)
        p = np.array(cursor)
        candidates = self._places(p, unit, skip) + self._curves(p, unit, skip)
        if start is not None and lined:
            candidates += self._directions(p, unit, start, woken) + self._touches(p, unit, start)
        candidates += self._alignments(p, unit, woken, skip) + self._beside(p, unit, skip)
        if start is not None and not lined:
            candidates += _from_start(p, unit, start)
        return _chosen(candidates, cursor, unit, start)

    # --- candidates ------------------------------------------------------------------------------------------------

    def _places(self, p: Floats, unit: float, skip: Collection[str]) -> list[_Candidate]:
        candidates = []
        off = np.hypot(*(self.at - p).T) / unit
        for index in np.argsort(off, kind="stable")[:4].tolist():
            if off[index] > _POINT:
                break
            name = self.points[index]
            if name not in skip:
                candidates.append(_placed("coincident", name, off[index] / _POINT, self.at[index]))
        if len(self.lines):
            middle = (self.a + self.b) / 2
            off = np.hypot(*(middle - p).T) / unit
            index = int(off.argmin())
            if off[index] <= _POINT and self.lines[index] not in skip and self.length[index] > 3 * _POINT * unit:
                candidates.append(_placed("midpoint", self.lines[index], off[index] / _POINT, middle[index]))
        return candidates

    def _curves(self, p: Floats, unit: float, skip: Collection[str]) -> list[_Candidate]:
        candidates = []
        if len(self.lines):
            away = p - self.a
            along = (away * self.direction).sum(axis=1)
            off = np.abs(self.direction[:, 0] * away[:, 1] - self.direction[:, 1] * away[:, 0]) / unit
            off = np.where((along >= 0) & (along <= self.length), off, np.inf)
            for index in np.argsort(off, kind="stable")[:2].tolist():
                if off[index] <= _CURVE and self.lines[index] not in skip:
                    line = Straight(_tuple(self.a[index]), _tuple(self.direction[index]))
                    candidates.append(_on_locus("on", self.lines[index], off[index] / _CURVE, line))
        if len(self.rounds):
            away = p - self.centre
            off = np.abs(np.hypot(away[:, 0], away[:, 1]) - self.radius) / unit
            turn = np.mod(np.arctan2(away[:, 1], away[:, 0]) - self.start, 2 * math.pi)
            off = np.where(turn <= self.sweep, off, np.inf)
            for index in np.argsort(off, kind="stable")[:2].tolist():
                if off[index] <= _CURVE and self.rounds[index] not in skip:
                    rim = Round(_tuple(self.centre[index]), float(self.radius[index]))
                    candidates.append(_on_locus("on", self.rounds[index], off[index] / _CURVE, rim))
        return candidates

    def _directions(self, p: Floats, unit: float, start: Pick, woken: Collection[str]) -> list[_Candidate]:
        s = np.array(start.at)
        away = p - s
        length = float(np.hypot(*away))
        if length < _SHORTEST * unit:
            return []
        candidates = []
        for kind, miss, axis in (("horizontal", abs(away[1]), (1.0, 0.0)), ("vertical", abs(away[0]), (0.0, 1.0))):
            if miss / unit <= _DIRECTION:
                candidates.append(_on_locus(kind, "", miss / unit / _DIRECTION, Straight(start.at, axis)))
        if not len(self.lines):
            return candidates
        slanted = (np.abs(self.direction[:, 0]) > 1e-6) & (np.abs(self.direction[:, 1]) > 1e-6)
        t = np.clip(((p - self.a) * self.direction).sum(axis=1), 0, self.length)
        near = np.hypot(*(self.a + t[:, None] * self.direction - p).T) / unit <= _NEIGHBOUR
        near |= np.isin(self.lines, list(woken)) if woken else False
        for kind, direction in (
            ("parallel", self.direction),
            ("perpendicular", np.column_stack([-self.direction[:, 1], self.direction[:, 0]])),
        ):
            off = np.abs(direction[:, 0] * away[1] - direction[:, 1] * away[0]) / unit
            off = np.where(slanted & near, off, np.inf)
            index = int(off.argmin())
            if off[index] <= _DIRECTION:
                locus = Straight(start.at, _tuple(direction[index]))
                candidates.append(_on_locus(kind, self.lines[index], off[index] / _DIRECTION, locus))
        off = np.where(near, np.abs(self.length - length) / unit, np.inf)
        index = int(off.argmin())
        if off[index] <= _EQUAL:
            candidates.append(
                _on_locus("equal", self.lines[index], off[index] / _EQUAL, Round(start.at, float(self.length[index])))
            )
        return candidates

    def _touches(self, p: Floats, unit: float, start: Pick) -> list[_Candidate]:
        """Where a line from the start would touch a round, and lines that leave a round tangentially from its end."""
        candidates = []
        s = np.array(start.at)
        if len(self.rounds):
            between = self.centre - s
            d = np.hypot(between[:, 0], between[:, 1])
            ending = self._ending(start.point)
            for index, name in enumerate(self.rounds):
                if name in ending:
                    spoke = (s - self.centre[index]) / self.radius[index]
                    direction = np.array([-spoke[1], spoke[0]])
                    off = abs(float(direction[0] * (p - s)[1] - direction[1] * (p - s)[0])) / unit
                    if off <= _DIRECTION and np.hypot(*(p - s)) > _SHORTEST * unit:
                        locus = Straight(start.at, _tuple(direction))
                        candidates.append(_on_locus("tangent", name, off / _DIRECTION, locus))
                elif d[index] > self.radius[index] * (1 + 1e-9):
                    r = self.radius[index]
                    along = r * r / d[index]
                    half = math.sqrt(max(r * r - along * along, 0.0))
                    u = -between[index] / d[index]
                    for side in (1.0, -1.0):
                        touch = self.centre[index] + along * u + side * half * np.array([-u[1], u[0]])
                        off = float(np.hypot(*(touch - p))) / unit
                        turn = (math.atan2(*(touch - self.centre[index])[::-1]) - self.start[index]) % (2 * math.pi)
                        if off <= _TOUCH and turn <= self.sweep[index] + 1e-9:
                            candidates.append(_placed("tangent", name, off / _TOUCH, touch))
        return candidates

    def _ending(self, point: str | None) -> set[str]:
        if point is None:
            return set()
        return {n for n in self.rounds if isinstance(e := self.drawing.entities[n], Arc) and point in (e.a, e.b)}

    def _alignments(self, p: Floats, unit: float, woken: Collection[str], skip: Collection[str]) -> list[_Candidate]:
        candidates = []
        for name in {ORIGIN, *woken} - set(skip):
            if name in self.lines:  # a line is woken at its midpoint
                index = self.lines.index(name)
                at = _tuple((self.a[index] + self.b[index]) / 2)
            elif name == ORIGIN or name in self.drawing.points:
                at = self.drawing.place(name)
            else:
                continue
            for kind, axis, direction in (("level", 1, (1.0, 0.0)), ("plumb", 0, (0.0, 1.0))):
                off = abs(float(p[axis]) - at[axis]) / unit
                if off <= _ALIGNED:
                    candidates.append(_on_locus(kind, name, off / _ALIGNED, Straight(at, direction), seen_from=at))
        return candidates

    def _beside(self, p: Floats, unit: float, skip: Collection[str]) -> list[_Candidate]:
        """Level or plumb with any point: the nearest of each."""
        candidates = []
        for kind, axis, direction in (("level", 1, (1.0, 0.0)), ("plumb", 0, (0.0, 1.0))):
            off = np.abs(self.at[:, axis] - p[axis]) / unit
            along = np.abs(self.at[:, 1 - axis] - p[1 - axis]) / unit
            near = np.where((off <= _ALIGNED) & (along > _FAR) & (along < _NEIGHBOUR), along, np.inf)
            index = int(near.argmin())
            if np.isfinite(near[index]) and self.points[index] not in skip:
                at = _tuple(self.at[index])
                nearness = 0.5 + off[index] / _ALIGNED / 2  # what was rested on goes first
                candidates.append(_on_locus(kind, self.points[index], nearness, Straight(at, direction), seen_from=at))
        return candidates


def _from_start(p: Floats, unit: float, start: Pick) -> list[_Candidate]:
    """Level or plumb with where an arc begins."""
    candidates = []
    for kind, axis, direction in (("level", 1, (1.0, 0.0)), ("plumb", 0, (0.0, 1.0))):
        off = abs(float(p[axis]) - start.at[axis]) / unit
        if off <= _DIRECTION and abs(float(p[1 - axis]) - start.at[1 - axis]) / unit > _SHORTEST:
            candidates.append(_on_locus(kind, "", off / _DIRECTION, Straight(start.at, direction), seen_from=start.at))
    return candidates


def _tuple(p: Floats) -> Point2:
    return (float(p[0]), float(p[1]))


def _snap(kind: str, name: str) -> Snap:
    return Snap(type=kind, on=(name,) if name else ())


def _placed(kind: str, name: str, nearness: float, place: Floats) -> _Candidate:
    return _Candidate(_snap(kind, name), _CLASS[kind] + _NEARNESS * float(nearness), place=_tuple(place))


def _on_locus(kind: str, name: str, nearness: float, locus: Carrier, seen_from: Point2 | None = None) -> _Candidate:
    return _Candidate(_snap(kind, name), _CLASS[kind] + _NEARNESS * float(nearness), locus=locus, seen_from=seen_from)


def _chosen(candidates: Sequence[_Candidate], cursor: Point2, unit: float, start: Pick | None) -> Guess:
    places = sorted((c for c in candidates if c.place is not None), key=lambda c: c.score)
    loci = sorted((c for c in candidates if c.locus is not None), key=lambda c: c.score)
    if places:
        best = places[0]
        assert best.place is not None
        along = [c for c in loci if _lies(best.place, c.locus) and c.snap.type not in ("on", "level", "plumb")]
        return _guessed(best.place, [best, *along[:1]], start)
    pairs = []
    for i, first in enumerate(loci):
        for second in loci[i + 1 :]:
            if first.locus is None or second.locus is None or not _go_together(first, second):
                continue
            for place in meeting(first.locus, second.locus):
                if math.dist(place, cursor) <= _POINT * unit:
                    pairs.append((first.score + second.score, place, [first, second]))
    if pairs:
        _, place, chosen = min(pairs, key=lambda pair: pair[0])
        return _guessed(place, chosen, start)
    if loci and loci[0].locus is not None:
        return _guessed(loci[0].locus.foot(cursor), loci[:1], start)
    return Guess(cursor)


def _go_together(first: _Candidate, second: _Candidate) -> bool:
    """Two directions of one line cannot both hold; two alignments, or a direction and a curve, can."""
    directions = {"horizontal", "vertical", "parallel", "perpendicular", "tangent"}
    return not (first.snap.type in directions and second.snap.type in directions)


def _lies(place: Point2, locus: Carrier | None) -> bool:
    return locus is not None and math.dist(locus.foot(place), place) < _EXACT


def _guessed(at: Point2, chosen: Sequence[_Candidate], start: Pick | None) -> Guess:
    guides = [Guide(c.seen_from, at) for c in chosen if c.seen_from is not None]
    if start is not None:
        guides += [Guide(start.at, at) for c in chosen if isinstance(c.locus, Straight) and c.seen_from is None]
    return Guess(at, tuple(c.snap for c in chosen), tuple(guides))


def told(snaps: Sequence[Snap]) -> str:
    """What holds at a click, as the tag at the pointer says it."""
    return " · ".join(_WORDS[snap.type] if snap.on or snap.type not in _START else _START[snap.type] for snap in snaps)


_START = {"level": "level with its start", "plumb": "plumb with its start"}
_WORDS = {
    "coincident": "on the point",
    "midpoint": "midpoint",
    "on": "on the curve",
    "horizontal": "horizontal",
    "vertical": "vertical",
    "parallel": "parallel",
    "perpendicular": "perpendicular",
    "tangent": "tangent",
    "equal": "equal length",
    "level": "level with a point",
    "plumb": "plumb with a point",
}
