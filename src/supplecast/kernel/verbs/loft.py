"""Solids drawn over two or more outlines, or from an outline to a point.

The kernel pairs outlines of unlike corners as it likes and tells little of what became of what. So corners are matched here:
every outline is cut into as many pieces as the one with the most corners has, each corner going to the one it lies nearest
to as seen from the outline's middle. Then piece follows piece, and every face is known by the curves it grew from.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.gp import gp_Pnt

from supplecast.curves import Circle2, Curve2, Ellipse2, Region
from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Vec, cross
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import Ledger, Made, Origin, each
from supplecast.kernel.shapes.profile import flat_wire
from supplecast.kernel.shapes.soundness import one

_APART = 1e-4
_TURN = 2 * math.pi

Section = tuple[Region, Frame]


@dataclass(frozen=True)
class Lofted:
    """A loft and, for showing, the lines along which its corners run: one list of points each."""

    made: Made
    matched: tuple[tuple[Vec, ...], ...]


@dataclass
class _Loop:
    """One outline: its curves, the angle of each corner about the middle, and the points of the corners."""

    curves: list[Curve2]
    frame: Frame
    middle: Floats
    corners: Floats
    angles: Floats
    axes: tuple[Floats, Floats]


def loft(
    sections: Sequence[Section], *, straight: bool = True, turn: int = 0, first: Vec | None = None, last: Vec | None = None
) -> Lofted:
    """Solid through the outer loops of regions, each in its own plane, in their order; `first` and `last` are points to begin
    and end at. `turn` shifts the matching of corners by so many from each outline to the next.

    Roles: `side` from the entity of the first outline (`L1~2` for the second band of a straight one, `L1~+1` for a second
    piece of it), `start`, `end`. KernelError names the outline that lies in the plane of the one before it.
    """
    if len(sections) + (first is not None) + (last is not None) < 2 or not sections:
        raise KernelError("A loft needs two outlines, or an outline and a point.", "Pick another one.")
    loops = _loops(sections, first, last)
    _refuse_flat(loops, first, last)
    pieces = _matched(loops, turn)
    maker = BRepOffsetAPI_ThruSections(True, straight, 1e-6)
    maker.CheckCompatibility(False)
    if first is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(gp_Pnt(*first)).Vertex())
    edges = []
    for loop, curves in zip(loops, pieces, strict=True):
        wire, named = flat_wire(tuple(curves), loop.frame)
        maker.AddWire(wire)
        edges.append(list(zip([edge for edge, _ in named], _names(curves), strict=True)))
    if last is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(gp_Pnt(*last)).Vertex())
    try:
        maker.Build()
    except KERNEL_FAULTS as fault:
        raise KernelError("The outlines could not be joined.", "Give them alike shapes, or add one between them.") from fault
    if not maker.IsDone():
        raise KernelError("The outlines could not be joined.", "Give them alike shapes, or add one between them.")
    solid = one(maker.Shape(), "the loft")
    if measure.rough_volume(solid) <= 0:
        raise KernelError("The loft came out inside out.", "Give its outlines in order, from one end to the other.")
    ledger = Ledger([solid])
    for shape, role, there in ((maker.FirstShape(), "start", first is None), (maker.LastShape(), "end", last is None)):
        if there and not shape.IsNull():
            ledger.note(shape, Origin(role))
    for number, rows in enumerate(edges):
        for edge, name in rows:
            made = maker.GeneratedFace(edge)
            faces = [made] if not made.IsNull() else list(each(maker.Generated(edge))) if number == 0 else []
            for face in faces:
                ledger.note(face, Origin("side", (f"{name[0]}~{number + 1 if number else ''}{name[1]}".rstrip("~"),)))
    lines = []
    for index in range(len(pieces[0])):
        line = [loop.frame.point(_start(curves[index])) for loop, curves in zip(loops, pieces, strict=True)]
        lines.append(tuple(([first] if first else []) + line + ([last] if last else [])))
    return Lofted(ledger.made()[0], tuple(lines))


def _start(curve: Curve2) -> tuple[float, float]:
    x, y = curve.sampled(1)[0]
    return float(x), float(y)


def _names(curves: Sequence[Curve2]) -> list[tuple[str, str]]:
    """Entity of each piece, and `+1`, `+2` for further pieces of the same."""
    seen: dict[str, int] = {}
    names = []
    for curve in curves:
        count = seen.get(curve.entity, 0)
        seen[curve.entity] = count + 1
        names.append((curve.entity, f"+{count}" if count else ""))
    return names


def _loops(sections: Sequence[Section], first: Vec | None, last: Vec | None) -> list[_Loop]:
    """The outlines, all running round the same way, with the angles of their corners as seen along the loft."""
    drawn = [(list(region.outer), frame) for region, frame in sections]
    middles = [frame.space(np.concatenate([c.sampled(16)[:-1] for c in curves])).mean(axis=0) for curves, frame in drawn]
    ends = [np.array(first) if first else middles[0], np.array(last) if last else middles[-1]]
    direction = ends[1] - ends[0]
    if float(np.linalg.norm(direction)) < _APART:
        direction = np.array(drawn[0][1].normal)
    direction = direction / np.linalg.norm(direction)
    x = np.array(drawn[0][1].x)
    x = x - (x @ direction) * direction
    if float(np.linalg.norm(x)) < 1e-6:
        aside: Floats = np.eye(3)[int(np.argmin(np.abs(direction)))]
        x = np.cross(np.asarray(direction, float), aside)
    x /= np.linalg.norm(x)
    y = np.cross(direction, x)
    loops = []
    for (curves, frame), middle in zip(drawn, middles, strict=True):
        points = frame.space(np.concatenate([c.sampled(16)[:-1] for c in curves])) - middle
        u, v = points @ x, points @ y
        if float((u * np.roll(v, -1) - v * np.roll(u, -1)).sum()) < 0:
            curves = [curve.reversed() for curve in reversed(curves)]
        closed = len(curves) == 1 and isinstance(curves[0], (Circle2, Ellipse2))
        corners = np.zeros((0, 2)) if closed else np.array([_start(curve) for curve in curves])
        off = frame.space(corners) - middle
        loops.append(_Loop(curves, frame, middle, corners, np.arctan2(off @ y, off @ x), (x, y)))
    return loops


def _refuse_flat(loops: Sequence[_Loop], first: Vec | None, last: Vec | None) -> None:
    for number in range(1, len(loops)):
        step = loops[number].middle - loops[number - 1].middle
        before, after = loops[number - 1].frame.normal, loops[number].frame.normal
        parallel = math.hypot(*cross(before, after)) < 1e-6
        if float(np.abs(step).max()) < _APART or (parallel and abs(float(step @ np.array(after))) < _APART):
            raise KernelError(
                f"Outline {number + 1} lies in the plane of outline {number}: there is nothing between them.",
                "Draw them on planes apart from each other.",
            )
    for point, loop in ((first, loops[0]), (last, loops[-1])):
        if point is not None and abs(loop.frame.over(point)) < _APART:
            raise KernelError("The point lies in the plane of the outline.", "Choose a point off that plane.")


def _matched(loops: Sequence[_Loop], turn: int) -> list[list[Curve2]]:
    """Every outline in as many pieces as the one with the most corners, piece following piece."""
    most = max(loops, key=lambda loop: len(loop.corners))
    count = max(len(most.corners), 1)
    # All begin where the first outline does: its first corner, or, if it has none, the direction of the first of the most.
    wanted = most.angles if len(most.angles) else np.array([0.0])
    start = 0
    if loops[0] is not most and len(loops[0].corners):
        start = int(np.argmin(np.abs(_wrapped(wanted - loops[0].angles[0]))))
    wanted = np.roll(wanted, -start)
    matched = []
    for number, loop in enumerate(loops):
        shifted = np.roll(wanted, -turn * number) if number else wanted
        places = _places(loop, shifted, count)
        pieces = _cut(loop, places)
        matched.append(pieces)
    return matched


def _wrapped(angles: Floats) -> Floats:
    return (angles + math.pi) % _TURN - math.pi


def _places(loop: _Loop, wanted: Floats, count: int) -> list[tuple[int, float]]:
    """Where an outline is cut, as curve number and share along it, in order, one place for each wanted direction."""
    held = len(loop.corners)
    if held == 0:
        return [(0, _towards(loop, 0, float(angle))) for angle in wanted]
    # Each corner goes to a wanted direction, in cyclic order, so that the directions agree best.
    best: tuple[float, list[int]] | None = None
    for shift in range(held):
        order = [(shift + k) % held for k in range(held)]
        cost, chosen = _assigned(loop.angles[order], wanted)
        if best is None or cost < best[0] - 1e-9:
            rows: list[int] = [-1] * count
            for corner, slot in zip(order, chosen, strict=True):
                rows[slot] = corner
            best = cost, rows
    assert best is not None
    rows = best[1]
    places: list[tuple[int, float]] = []
    for slot in range(count):
        if rows[slot] >= 0:
            places.append((rows[slot], 0.0))
            continue
        before = next(k for k in range(1, count + 1) if rows[slot - k] >= 0)
        after = next(k for k in range(1, count + 1) if rows[(slot + k) % count] >= 0)
        places.append((rows[slot - before], before / (before + after)))
    return places


def _assigned(angles: Floats, wanted: Floats) -> tuple[float, list[int]]:
    """An increasing choice of slots for angles in order, with the least sum of squared turns; and that sum."""
    held, count = len(angles), len(wanted)
    misfit = _wrapped(angles[:, None] - wanted[None, :]) ** 2
    total = np.full((held, count), np.inf)
    came = np.zeros((held, count), int)
    total[0] = misfit[0]
    for row in range(1, held):
        for slot in range(row, count):
            best = int(np.argmin(total[row - 1, :slot]))
            total[row, slot] = total[row - 1, best] + misfit[row, slot]
            came[row, slot] = best
    slot = int(np.argmin(total[-1]))
    cost, chosen = float(total[-1, slot]), [slot]
    for row in range(held - 1, 0, -1):
        slot = int(came[row, slot])
        chosen.append(slot)
    return cost, chosen[::-1]


def _towards(loop: _Loop, index: int, angle: float) -> float:
    """The share of a closed curve at which it lies in a direction from its middle."""
    x, y = loop.axes
    shares = np.linspace(0.0, 1.0, 721)
    off = loop.frame.space(loop.curves[index].at(shares)) - loop.middle
    miss = _wrapped(np.arctan2(off @ y, off @ x) - angle)
    near = int(np.argmin(np.abs(miss[:-1])))
    low, high = shares[near] - 1 / 720, shares[near] + 1 / 720
    for _ in range(40):  # halving: the direction turns steadily past the one wanted
        middle = (low + high) / 2
        spot = loop.frame.space(loop.curves[index].at(np.array([middle % 1.0])))[0] - loop.middle
        turned = float(_wrapped(np.array([math.atan2(spot @ y, spot @ x) - angle]))[0])
        low, high = (middle, high) if turned < 0 else (low, middle)
    return float(((low + high) / 2) % 1.0)


def _cut(loop: _Loop, places: Sequence[tuple[int, float]]) -> list[Curve2]:
    """The outline's pieces between places that follow each other round it."""
    curves = loop.curves
    if len(loop.corners) == 0:
        curve = curves[0]
        shares = [share for _, share in places]
        ends = [*shares[1:], shares[0]]
        return [_part(curve, a, b if b > a + 1e-12 else b + 1.0) for a, b in zip(shares, ends, strict=True)]
    pieces: list[Curve2] = []
    for (index, a), (following, b) in zip(places, [*places[1:], places[0]], strict=True):
        stop = b if following == index and b > a else 1.0
        pieces.append(curves[index] if (a, stop) == (0.0, 1.0) else curves[index].part(a, stop))
    return pieces


def _part(curve: Curve2, a: float, b: float) -> Curve2:
    """A part of a closed curve, which may run over its seam."""
    if isinstance(curve, Circle2):
        return curve.part(a, b) if b - a < 1 - 1e-12 else curve
    assert isinstance(curve, Ellipse2)
    return Ellipse2(curve.entity, curve.centre, curve.major, curve.minor, curve.start + curve.sweep * a, curve.sweep * (b - a))
