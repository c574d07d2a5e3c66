"""Which areas a solved drawing bounds, how they are named, joined and found again.

An area is named by the entities round it and the side of each on which it lies: a sign that outlives edits of sizes and most
edits of shape. Areas picked together are joined: what lies between two of them vanishes from the outline.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Loop, Region, green, interpolated, winding
from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.model import Arc, Circle, Drawing, Ellipse, Line, Spline
from supplecast.sketch.planar import Gap, PlanarMap, arranged, ends_of
from supplecast.sketch.solver import Solution

_SEAM = 1e-5


@dataclass(frozen=True)
class Areas:
    """The areas of a drawing, which of them “all” fills, and its open ends."""

    regions: tuple[Region, ...]
    filled: tuple[Region, ...]
    gaps: tuple[Gap, ...]


def curve(name: str, drawing: Drawing, points: Mapping[str, Point2], radii: Mapping[str, float]) -> Curve2:
    """One entity as a curve, at given places."""
    match drawing.entities[name]:
        case Line(a=a, b=b):
            return Line2(name, points[a], points[b])
        case Circle(c=c):
            return Circle2(name, points[c], radii[name])
        case Arc(c=c, a=a, b=b, cw=cw):
            return Arc2(name, points[c], points[a], points[b], not cw)
        case Ellipse(c=c, a=a, start=start, end=end, cw=cw):
            whole = Ellipse2(name, points[c], points[a], radii[name])
            return whole if start is None or end is None else whole.between(points[start], points[end], ccw=not cw)
        case Spline(through=through, first=first, last=last, spans=spans):
            return interpolated(name, [points[p] for p in through], points[first], points[last], spans)


def curves(drawing: Drawing, solution: Solution, *, construction: bool = False) -> list[Curve2]:
    """The drawn curves at their solved places; with `construction`, only the construction ones."""
    return [
        curve(name, drawing, solution.points, solution.radii)
        for name, entity in drawing.entities.items()
        if entity.construction == construction
    ]


def areas(drawn: Sequence[Curve2]) -> Areas:
    """Every bounded area of some curves, ordered by name."""
    planar: PlanarMap = arranged(drawn)
    named: list[tuple[str, Region, bool]] = []
    alike: Counter[str] = Counter()
    for face in sorted(planar.faces, key=lambda f: (f.sides, f.area)):
        key = ",".join(name if left else f"{name}-" for name, left in face.sides)
        alike[key] += 1
        if alike[key] > 1:
            key = f"{key}#{alike[key]}"
        named.append((key, Region(face.outer, face.holes, key), face.depth % 2 == 0))
    return Areas(tuple(r for _, r, _ in named), tuple(r for _, r, fill in named if fill), planar.gaps)


def refusal(planar: Areas, drawn: Sequence[Curve2]) -> SketchError | None:
    """Why a drawing bounds nothing; None if it does."""
    if planar.regions:
        return None
    if not drawn:
        return SketchError("The sketch is empty.", "Draw an outline, or add a figure such as a rectangle.")
    if not planar.gaps:
        return SketchError("The outline encloses nothing.", "Draw a closed outline.")
    gap = planar.gaps[0]
    words = f", {gap.width:.3g} mm from the next open end" if math.isfinite(gap.width) else ""
    return SketchError(
        f"The outline is open at ({gap.at[0]:.2f}, {gap.at[1]:.2f}){words}.", "Join its ends, then it can be used."
    )


def picked(key: str, regions: Sequence[Region], lineage: Mapping[str, Sequence[str]]) -> Region | None:
    """The area a name means: the one so named, else the one that shares most of its entities, if no other shares as many.

    Entities that were split count as what they came from. None if it cannot be told.
    """
    exact = next((region for region in regions if region.key == key), None)
    if exact is not None:
        return exact
    wanted = _roots(key, lineage)
    scores = sorted(((_likeness(wanted, _roots(region.key, lineage)), region) for region in regions), key=lambda s: -s[0])
    if not scores or scores[0][0] < 0.5 or (len(scores) > 1 and scores[1][0] >= scores[0][0] - 1e-9):
        return None
    return scores[0][1]


def _roots(key: str, lineage: Mapping[str, Sequence[str]]) -> set[str]:
    roots = set()
    for token in key.split("#")[0].split(","):
        name, side = token.removesuffix("-"), "-" if token.endswith("-") else ""
        elders = lineage.get(name, ())
        roots.add((elders[-1] if elders else name) + side)
    return roots


def _likeness(a: set[str], b: set[str]) -> float:
    return len(a & b) / len(a | b)


def joined(regions: Sequence[Region]) -> list[Region]:
    """Areas with what lies between them taken out, largest first.

    SketchError where the joined areas touch in a single point: raised, that would be an edge on which a body hangs.
    """
    chosen = [loop for region in regions for loop in (region.outer, *region.holes)]
    if len(regions) == 1:
        _refuse_touching(chosen)
        return list(regions)
    pieces = [piece for loop in chosen for piece in loop]
    between = _between(pieces)
    if not between:
        _refuse_touching(chosen)
        return sorted(regions, key=lambda region: -region.area)
    rest = [piece for index, piece in enumerate(pieces) if index not in between]
    loops = _chained(rest)
    _refuse_touching(loops)
    outers = sorted((loop for loop in loops if _area(loop) > 0), key=_area)
    holes: dict[int, list[Loop]] = defaultdict(list)
    for loop in loops:
        if _area(loop) <= 0:
            point = np.array(ends_of(loop[0])[0])
            holder = next((i for i, outer in enumerate(outers) if winding(outer, point)), None)
            if holder is not None:
                holes[holder].append(loop)
    keys = ",".join(sorted(region.key for region in regions))
    return [Region(outer, tuple(holes[i]), keys) for i, outer in reversed(list(enumerate(outers)))]


def _area(loop: Loop) -> float:
    return sum(green(piece) for piece in loop)


def _spot(p: Point2) -> tuple[int, int]:
    return (round(p[0] / _SEAM), round(p[1] / _SEAM))


def _between(pieces: Sequence[Curve2]) -> set[int]:
    """Pieces that are run through both ways: they lie between two of the areas."""
    there: dict[tuple[object, ...], list[int]] = defaultdict(list)
    for index, piece in enumerate(pieces):
        a, b = (_spot(end) for end in ends_of(piece))
        x, y = piece.at(np.array([0.5]))[0]
        there[(piece.entity, min(a, b), max(a, b), _spot((float(x), float(y))))].append(index)
    return {index for pair in there.values() if len(pair) == 2 for index in pair}


def _chained(pieces: Sequence[Curve2]) -> list[Loop]:
    starts: dict[tuple[int, int], list[int]] = defaultdict(list)
    for index, piece in enumerate(pieces):
        starts[_spot(ends_of(piece)[0])].append(index)
    left = dict.fromkeys(range(len(pieces)))
    loops = []
    while left:
        index = next(iter(left))
        chain: list[Curve2] = []
        while index in left:
            del left[index]
            chain.append(pieces[index])
            index = next((i for i in _around(starts, ends_of(pieces[index])[1]) if i in left), -1)
        loops.append(tuple(chain))
    return loops


def _around(starts: Mapping[tuple[int, int], list[int]], p: Point2) -> list[int]:
    x, y = _spot(p)
    return [i for dx in (0, -1, 1) for dy in (0, -1, 1) for i in starts.get((x + dx, y + dy), ())]


def _refuse_touching(loops: Sequence[Loop]) -> None:
    spots: Counter[tuple[int, int]] = Counter(_spot(ends_of(piece)[0]) for loop in loops for piece in loop)
    for (x, y), count in spots.items():
        if count > 1:
            raise SketchError(
                f"At ({x * _SEAM:.2f}, {y * _SEAM:.2f}) the outline touches or crosses itself in a single point.",
                "Pull it apart or overlap it there, or pick fewer of its areas.",
            )
