"""Offsets: a chain drawn again at a distance, linked to its source by one size.

Constraints are laid at the joints, never on whole carriers: where the source runs on smoothly, two carriers at one distance
touch, and their crossing would be singular. An element that would run backwards vanishes and its neighbours are joined
again; that is said. Sharp convex corners are extended, not rounded.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.acts import Act, Text, fitted_offset
from supplecast.sketch.acts.draw import Names
from supplecast.sketch.carriers import Carrier, Round, Straight, carrier, meeting, nearest_of
from supplecast.sketch.model import Arc, Circle, Ellipse, Line, Spline, ends_of
from supplecast.sketch.pen import Pen

_SMOOTH = 1e-6


class Offset(Act):
    """Draw chains again at a distance: to their left or right as drawn, inwards or outwards of a loop, or on both sides.

    An open chain drawn on both sides can be closed by flat or round ends.
    """

    words = "Offset"
    do: Literal["offset"] = "offset"
    reshapes = True
    names: Names
    distance: Text
    side: Literal["left", "right", "in", "out", "both"] = "out"
    ends: Literal["open", "flat", "round"] = "open"

    def on(self, pen: Pen) -> None:
        distance = pen.mm(self.distance, "distance")
        for chain in chains(pen, self.names):
            sides = _sides_of(pen, chain, self.side)
            if len(sides) == 2 and self.ends != "open" and not chain.closed:
                _capped(pen, chain, distance, self.distance, self.ends)
                continue
            for aside in sides:
                if chain.free:
                    fitted_offset.offset(pen, chain.names[0], aside * distance)
                else:
                    _Run(pen, chain, aside * distance, self.distance, pen.group()).draw()


@dataclass(frozen=True)
class Chain:
    """Entities in the order they follow each other, whether each is run through backwards, and the points they pass. A `free`
    one is a single ellipse or spline.
    """

    names: tuple[str, ...]
    back: tuple[bool, ...]
    points: tuple[str, ...]
    closed: bool
    free: bool = False


def chains(pen: Pen, names: Sequence[str]) -> list[Chain]:
    """Picked entities as chains. SketchError where they branch or cannot be offset."""
    left = dict.fromkeys(names)
    listed = []
    for name in list(left):
        if isinstance(pen.shape(name), Circle):
            del left[name]
            listed.append(Chain((name,), (False,), (), True))
        elif isinstance(free := pen.shape(name), (Ellipse, Spline)):
            del left[name]
            passed = ends_of(free)
            if any(passed and set(passed) & set(ends_of(pen.shape(other))) for other in left):
                raise SketchError(
                    f"{pen.name(name).capitalize()} is offset by itself, not as a part of a chain.",
                    "Pick it as a single curve, and the lines and arcs beside it by themselves.",
                )
            listed.append(Chain((name,), (False,), passed, not passed, free=True))
    ends: dict[str, list[str]] = {}
    for name in left:
        for point in ends_of(pen.shape(name)):
            ends.setdefault(point, []).append(name)
    if any(len(there) > 2 for there in ends.values()):
        raise SketchError("The picked curves branch.", "Pick one chain without branches.")
    while left:
        start = next(
            (name for name in left if any(len([n for n in ends[p] if n in left]) == 1 for p in ends_of(pen.shape(name)))),
            next(iter(left)),
        )
        a, b = ends_of(pen.shape(start))
        back = len([n for n in ends[b] if n in left]) == 1 and len([n for n in ends[a] if n in left]) > 1
        order, turned, points = [start], [back], [b if back else a]
        del left[start]
        at = a if back else b
        while True:
            points.append(at)
            following = next((name for name in ends[at] if name in left), None)
            if following is None:
                break
            del left[following]
            a, b = ends_of(pen.shape(following))
            order.append(following)
            turned.append(b == at)
            at = a if b == at else b
        closed = len(points) > 2 and points[0] == points[-1]
        listed.append(Chain(tuple(order), tuple(turned), tuple(points[:-1] if closed else points), closed))
    return listed


def _sides_of(pen: Pen, chain: Chain, side: str) -> list[float]:
    """How far aside of its left, as signs, a chain is to be drawn."""
    if side == "both":
        return [1.0, -1.0]
    if side in ("left", "right"):
        return [1.0 if side == "left" else -1.0]
    if not chain.points:  # a circle, counter-clockwise: its left is inside
        return [1.0 if side == "in" else -1.0]
    if not chain.closed:
        raise SketchError("An open chain has no inside.", "Choose left, right or both sides.")
    area = 0.0
    for i, name in enumerate(chain.names):
        p, q = pen.at(chain.points[i]), pen.at(chain.points[(i + 1) % len(chain.points)])
        area += (p[0] * q[1] - q[0] * p[1]) / 2
        held = carrier(pen, name, back=chain.back[i])
        if isinstance(held, Round):
            turn = math.atan2(q[1] - held.centre[1], q[0] - held.centre[0])
            turn -= math.atan2(p[1] - held.centre[1], p[0] - held.centre[0])
            sweep = turn % (2 * math.pi) if held.ccw else -((-turn) % (2 * math.pi))
            area += held.radius**2 * (sweep - math.sin(sweep)) / 2
    return [math.copysign(1.0, area) if side == "in" else -math.copysign(1.0, area)]


@dataclass
class _Piece:
    """One element of an offset: its source, its carrier moved aside, and where it starts and ends."""

    source: str
    held: Carrier
    back: bool
    start: Point2 | None = None
    end: Point2 | None = None


class _Run:
    """One side of one chain."""

    def __init__(self, pen: Pen, chain: Chain, aside: float, text: str, group: str) -> None:
        self.pen, self.chain, self.aside, self.text, self.group = pen, chain, aside, text, group
        self.ends: tuple[str, str] | None = None

    def draw(self) -> list[str]:
        """Draw it; returns the points it passes, in the order of the chain."""
        pen, chain = self.pen, self.chain
        if not chain.points:
            return self._circle()
        pieces = [
            _Piece(name, carrier(pen, name, back=back).moved(self.aside), back)
            for name, back in zip(chain.names, chain.back, strict=True)
        ]
        joints = [pen.at(p) for p in chain.points]
        pieces = self._fitted(pieces, joints)
        if not pieces:
            raise SketchError("At that distance nothing is left of the outline.", "Type a smaller distance.")
        return self._laid(pieces)

    def _circle(self) -> list[str]:
        (name,) = self.chain.names
        source = self.pen.shape(name)
        assert isinstance(source, Circle)
        radius = source.r - self.aside
        if radius <= 1e-9:
            raise SketchError("At that distance nothing is left of the circle.", "Type a smaller distance.")
        made = self.pen.put(Circle(c=source.c, r=radius))
        self.pen.link("radius apart", made, name, value=self.text, group=self.group)
        return []

    def _fitted(self, pieces: list[_Piece], joints: list[Point2]) -> list[_Piece]:
        """Join the pieces, and drop those that would run backwards until none does."""
        lost: list[str] = []
        while True:
            if any(isinstance(p.held, Round) and p.held.radius <= 1e-9 for p in pieces):
                gone = [p for p in pieces if isinstance(p.held, Round) and p.held.radius <= 1e-9]
            else:
                self._join(pieces, joints)
                gone = [p for p in pieces if self._runs_back(p)]
            if not gone:
                break
            # The shortest goes first: its neighbours may be sound once they are joined past it.
            worst = gone[0]
            lost.append(worst.source)
            pieces = [p for p in pieces if p is not worst]
            if not pieces:
                return []
        if lost:
            self.pen.report.notes.append(f"{', '.join(map(self.pen.name, lost)).capitalize()} vanished at that distance")
        return pieces

    def _join(self, pieces: list[_Piece], joints: list[Point2]) -> None:
        pen, chain = self.pen, self.chain
        count = len(pieces)
        for i, piece in enumerate(pieces):
            following = pieces[(i + 1) % count] if chain.closed or i + 1 < count else None
            place = self._source_end(piece)
            if following is None:
                piece.end = piece.held.foot(place)
                continue
            shared = self._source_end(piece) == self._source_start(following)
            if shared and _is_smooth(pen, piece, following):
                piece.end = following.start = piece.held.foot(place)
                continue
            corner = nearest_of(meeting(piece.held, following.held), place)
            if corner is None:
                raise SketchError(
                    f"{pen.name(piece.source).capitalize()} and {pen.name(following.source)} do not meet at that distance.",
                    "Type a smaller distance.",
                )
            piece.end = following.start = corner
        if not chain.closed:
            pieces[0].start = pieces[0].held.foot(self._source_start(pieces[0]))

    def _source_start(self, piece: _Piece) -> Point2:
        a, b = ends_of(self.pen.shape(piece.source))
        return self.pen.at(b if piece.back else a)

    def _source_end(self, piece: _Piece) -> Point2:
        a, b = ends_of(self.pen.shape(piece.source))
        return self.pen.at(a if piece.back else b)

    def _runs_back(self, piece: _Piece) -> bool:
        assert piece.start is not None and piece.end is not None
        if isinstance(piece.held, Straight):
            direction = piece.held.direction
            return (piece.end[0] - piece.start[0]) * direction[0] + (piece.end[1] - piece.start[1]) * direction[1] <= 1e-9

        def sweep(p: Point2, q: Point2) -> float:
            assert isinstance(piece.held, Round)
            c = piece.held.centre
            turn = math.atan2(q[1] - c[1], q[0] - c[0]) - math.atan2(p[1] - c[1], p[0] - c[0])
            return (turn if piece.held.ccw else -turn) % (2 * math.pi)

        source = sweep(self._source_start(piece), self._source_end(piece))
        mine = sweep(piece.start, piece.end)
        # Trimmed at both ends past its middle, an arc would run round the rest of its circle.
        return mine > source + math.pi * 0.999 or mine < 1e-9

    def _laid(self, pieces: list[_Piece]) -> list[str]:
        pen, chain = self.pen, self.chain
        points = [pen.point(piece.start) for piece in pieces if piece.start is not None]
        if not chain.closed:
            assert pieces[-1].end is not None
            points.append(pen.point(pieces[-1].end))
        made = []
        for i, piece in enumerate(pieces):
            a, b = points[i], points[(i + 1) % len(points)]
            source = pen.shape(piece.source)
            if isinstance(source, Line):
                made.append(pen.put(Line(a=a, b=b)))
            else:
                assert isinstance(source, Arc) and isinstance(piece.held, Round)
                made.append(pen.put(Arc(c=source.c, a=a, b=b, cw=not piece.held.ccw)))
                pen.link("radius apart", made[-1], piece.source, value=self.text, group=self.group)
        for i, piece in enumerate(pieces):
            before = pieces[i - 1] if i > 0 or chain.closed else None
            self._hold_joint(points[i], before, piece)
        if not chain.closed:
            self._hold_end(points[-1], pieces[-1], self._end_point(pieces[-1]))
        self.ends = (points[0], points[-1])
        return points

    def _end_point(self, piece: _Piece) -> str:
        a, b = ends_of(self.pen.shape(piece.source))
        return a if piece.back else b

    def _start_point(self, piece: _Piece) -> str:
        a, b = ends_of(self.pen.shape(piece.source))
        return b if piece.back else a

    def _hold_joint(self, point: str, before: _Piece | None, after: _Piece) -> None:
        pen = self.pen
        if before is None:
            self._hold_end(point, after, self._start_point(after))
            return
        corner = self._start_point(after)
        if self._end_point(before) == corner and _is_smooth(pen, before, after):
            rounds = [p for p in (before, after) if isinstance(p.held, Round)]
            if rounds:  # on the ray from the centre; how far out, the offset arc says
                pen.link("in line", point, corner, pen.shape(rounds[0].source).c)  # type: ignore[union-attr]
            else:
                self._hold_end(point, after, corner)
            return
        for piece in (before, after):
            if isinstance(piece.held, Straight):
                pen.link("distance", point, piece.source, value=self.text, group=self.group)

    def _hold_end(self, point: str, piece: _Piece, source_end: str) -> None:
        pen = self.pen
        if isinstance(piece.held, Straight):
            pen.link("square off", point, source_end, piece.source)
            pen.link("distance", point, piece.source, value=self.text, group=self.group)
        else:
            pen.link("in line", point, source_end, pen.shape(piece.source).c)  # type: ignore[union-attr]


def _is_smooth(pen: Pen, before: _Piece, after: _Piece) -> bool:
    """Whether one source runs on into the next without a corner."""
    joint = (set(ends_of(pen.shape(before.source))) & set(ends_of(pen.shape(after.source)))) or None
    if joint is None:
        return False

    def direction(piece: _Piece, point: Point2) -> Point2:
        held = carrier(pen, piece.source, back=piece.back)
        if isinstance(held, Straight):
            return held.direction
        out = ((point[0] - held.centre[0]) / held.radius, (point[1] - held.centre[1]) / held.radius)
        return (-out[1], out[0]) if held.ccw else (out[1], -out[0])

    a, b = ends_of(pen.shape(after.source))
    place = pen.at(b if after.back else a)
    u, v = direction(before, place), direction(after, place)
    return abs(u[0] * v[1] - u[1] * v[0]) < _SMOOTH and u[0] * v[0] + u[1] * v[1] > 0


def _capped(pen: Pen, chain: Chain, distance: float, text: str, ends: str) -> None:
    """Both sides of an open chain, closed at its ends."""
    group = pen.group()
    reached: list[tuple[str, str]] = []
    for aside in (distance, -distance):
        if chain.free:
            reached.append(fitted_offset.offset(pen, chain.names[0], aside))
            continue
        run = _Run(pen, chain, aside, text, group)
        run.draw()
        assert run.ends is not None
        reached.append(run.ends)
    for index, source in ((0, chain.points[0]), (1, chain.points[-1])):
        left, right = reached[0][index], reached[1][index]
        if ends == "flat":
            pen.put(Line(a=left, b=right))
        else:
            # Seen along the chain, the cap runs from left to right at the start, and from right to left at the end.
            a, b = (left, right) if index == 0 else (right, left)
            pen.put(Arc(c=source, a=a, b=b))
