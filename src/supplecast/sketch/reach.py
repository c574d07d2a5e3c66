"""Large changes of sizes: whether the shape keeps its turns, and how far it can be taken where it does not.

A solved drawing may satisfy every equation and still have turned a corner inside out. So the turns of its corners and the sense
of its arcs are compared with those it had; where they differ, or nothing is found, the sizes are changed in stages.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence

import numpy as np

from supplecast.errors import SketchError
from supplecast.geometry import Point2
from supplecast.sketch.model import ANGLES, ORIGIN, Arc, Constraint, Drawing, Line
from supplecast.wording import show

_FLAT = 1e-3
Places = Mapping[str, Point2]
Turns = dict[tuple[str, ...], int]


def turns(drawing: Drawing, points: Places) -> Turns:
    """For each corner of two lines the sense of its turn, for each short arc that of its sweep; 0 where it is nearly flat."""
    at: dict[str, list[str]] = defaultdict(list)
    senses: Turns = {}
    for name, entity in drawing.entities.items():
        if isinstance(entity, Line):
            at[entity.a].append(name)
            at[entity.b].append(name)
        elif isinstance(entity, Arc):
            senses[(name,)] = _sense(points, entity.c, entity.a, entity.c, entity.b, ahead=True)
    for corner, lines in at.items():
        if len(lines) == 2 and corner != ORIGIN:
            first, second = (drawing.entities[name] for name in lines)
            assert isinstance(first, Line) and isinstance(second, Line)
            others = [line.b if line.a == corner else line.a for line in (first, second)]
            senses[(corner, *lines)] = _sense(points, corner, others[0], corner, others[1])
    return senses


def _sense(points: Places, a: str, b: str, c: str, d: str, *, ahead: bool = False) -> int:
    """Sign of the turn from a–b to c–d; with `ahead`, only where both point the same way."""
    u, v = (np.subtract(points.get(end, (0.0, 0.0)), points.get(start, (0.0, 0.0))) for start, end in ((a, b), (c, d)))
    size = math.hypot(*u) * math.hypot(*v)
    if size < 1e-12 or (ahead and float(u @ v) < 0):
        return 0
    sine = float(u[0] * v[1] - u[1] * v[0]) / size
    return 0 if abs(sine) < _FLAT else int(math.copysign(1, sine))


def turned_over(before: Turns, after: Turns) -> list[tuple[str, ...]]:
    """Corners and arcs whose sense has changed."""
    return [place for place, sense in before.items() if sense * after.get(place, 0) < 0]


Guards = dict[str, tuple[float, float]]


def guards(drawing: Drawing, points: Places, radii: Mapping[str, float]) -> Guards:
    """For each line its way (mm), for each round its radius: what must not run through nothing."""
    guarded: Guards = {}
    for name, entity in drawing.entities.items():
        if isinstance(entity, Line):
            (ax, ay), (bx, by) = (points.get(p, (0.0, 0.0)) for p in (entity.a, entity.b))
            guarded[name] = (bx - ax, by - ay)
        elif name in radii:
            guarded[name] = (radii[name], 0.0)
    return guarded


def reversed_lines(before: Guards, after: Guards) -> bool:
    """Whether a line points the other way round than a stage ago: it has gone through nothing in between."""
    return any(u[0] * after[name][0] + u[1] * after[name][1] < 0 for name, u in before.items())


def vanishes(seen: Sequence[tuple[float, Guards]]) -> tuple[float, str]:
    """By the last two stages: the share at which the first line or radius would be gone, and which; infinite if none."""
    if len(seen) < 2 or seen[-1][0] <= seen[0][0]:
        return math.inf, ""
    (s0, first), (s1, last) = seen[0], seen[-1]
    best = (math.inf, "")
    for name, u in first.items():
        size = math.hypot(*u)
        if size < 1e-12:
            continue
        now = (u[0] * last[name][0] + u[1] * last[name][1]) / size
        if now < size - 1e-12:
            best = min(best, (s1 + now * (s1 - s0) / (size - now), name))
    return best


def unreached(constraint: Constraint, value: float, target: float, vanishing: str = "") -> SketchError:
    """The refusal that says how far a size can be taken, and what would be gone there."""
    angle = constraint.type in ANGLES
    shown = f"{show(math.degrees(value), 1)}°" if angle else f"{show(value, 2)} mm"
    direction = "up" if abs(target) > abs(value) else "down"
    end = f": there {vanishing} is gone" if vanishing else ""
    return SketchError(
        f"{constraint.type.capitalize()} {constraint.value} cannot be reached, only {direction} to about {shown}{end}.",
        "Change what else holds the shape, or choose a value before that.",
    )
