"""Which half of a mold forms each face of a part, and the loops of edges along which that changes.

The part must have no face that turns over (see `silhouette`). A face that is seen from ahead, along the pull, is formed by the
core; one seen from behind by the cavity. Upright faces go with what they hang on; where that is both, either would do.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.TopExp import TopExp

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Vec, vec
from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes.shape import Solid, xyz

Side = Literal["core", "cavity"]
UPRIGHT = math.radians(0.05)  # a face that leans less stands along the pull
_SHORTER = 0.99
_STEP = 1.5  # mm between samples of a curved edge
_FEWEST, _MOST = 6, 80


@dataclass(frozen=True)
class Sides:
    """Which half forms each face, and the groups of upright faces that either half could form."""

    of: tuple[Side, ...]
    either: tuple[tuple[int, ...], ...]


@dataclass(frozen=True)
class Loop:
    """Edges of a solid that follow each other round, each with whether it is run along its own direction; `outer` is the one
    that surrounds the part seen along the pull, the others are shut off.
    """

    edges: tuple[tuple[int, bool], ...]
    outer: bool = False


def sides(solid: Solid, drafts: Floats, *, given: Mapping[int, Side] | None = None, wanted: Iterable[int] = ()) -> Sides:
    """Who forms each face, by the least and greatest draft of each, (faces, 2) rad.

    `given` faces go where they say. Along `wanted` edges upright faces are parted: a group of them that hangs on one side only
    across such an edge goes to the other. Groups that hang on both sides go where the parting line becomes shorter, and to the
    cavity where that makes no difference: the walls of a tray are then formed outside.
    """
    given, border = dict(given or {}), set(wanted)
    assigned: dict[int, Side] = {}
    for face, (low, high) in enumerate(drafts.tolist()):
        if face in given:
            assigned[face] = given[face]
        elif low >= -UPRIGHT and high > UPRIGHT:
            assigned[face] = "core"
        elif high <= UPRIGHT and low < -UPRIGHT:
            assigned[face] = "cavity"
        elif high > UPRIGHT:
            raise KernelError("A face is seen from both sides.", "Split it where it turns over.", faces=(face,))
    either = []
    for group in _groups(solid, set(range(solid.face_count)) - assigned.keys(), border):
        near: dict[Side, float] = {}
        across: set[Side] = set()
        for face in group:
            for rim in solid.face_edges[face]:
                other = sum(solid.faces_at_edges[rim]) - face if len(solid.faces_at_edges[rim]) == 2 else face
                if other in group or other not in assigned:
                    continue
                if rim in border:
                    across.add(assigned[other])
                else:
                    near[assigned[other]] = near.get(assigned[other], 0.0) + edges.length(solid, rim)
        if len(near) == 1:
            (side,) = near
        elif not near and len(across) == 1:
            side = "cavity" if across.pop() == "core" else "core"
        else:
            side = "core" if near.get("cavity", 0.0) < _SHORTER * near.get("core", 0.0) else "cavity"
            either.append(group)
        assigned.update(dict.fromkeys(group, side))
    return Sides(tuple(assigned[face] for face in range(solid.face_count)), tuple(either))


def _groups(solid: Solid, faces: set[int], border: set[int]) -> list[tuple[int, ...]]:
    """Faces that hang together by edges that are not of the border."""
    left, groups = set(faces), []
    while left:
        group: set[int] = set()
        edge = {left.pop()}
        while edge:
            group |= edge
            beside = {
                other
                for face in edge
                for line in solid.face_edges[face]
                if line not in border
                for other in solid.faces_at_edges[line]
            }
            edge = beside & left
            left -= edge
        groups.append(tuple(sorted(group)))
    return sorted(groups)


def loops(solid: Solid, of: Sequence[Side], pull: Vec) -> list[Loop]:
    """The loops between the halves' faces, the outer one first; each runs counter-clockwise seen against the pull.

    KernelError where a loop branches, or where there is none.
    """
    border = [
        edge
        for edge, faces in enumerate(solid.faces_at_edges)
        if len(faces) == 2 and of[faces[0]] != of[faces[1]] and not solid.degenerate_edges[edge]
    ]
    if not border:
        raise KernelError(
            "There is no parting line: every face is formed by the same half.", "Turn the part, or choose another pull."
        )
    chains = _chained(solid, border)
    plan = Frame.lying((0.0, 0.0, 0.0), pull)
    areas = []
    closed = []
    for chain in chains:
        area = _area(flat(Sampled(solid, Loop(chain)).points, plan))
        areas.append(abs(area))
        closed.append(Loop(chain if area >= 0 else tuple((edge, not ahead) for edge, ahead in reversed(chain))))
    order = np.argsort(areas)[::-1]
    return [Loop(closed[k].edges, outer=number == 0) for number, k in enumerate(order)]


def _chained(solid: Solid, border: Sequence[int]) -> list[tuple[tuple[int, bool], ...]]:
    at: dict[int, list[int]] = defaultdict(list)
    ends: dict[int, tuple[int, int]] = {}
    for edge in border:
        shape = solid.nth_edge(edge)
        ends[edge] = solid.find_vertex(TopExp.FirstVertex_s(shape, False)), solid.find_vertex(TopExp.LastVertex_s(shape, False))
        for vertex in set(ends[edge]):
            at[vertex].append(edge)
    for vertex, meeting in at.items():
        if len(meeting) != 2 and not (len(meeting) == 1 and len(set(ends[meeting[0]])) == 1):
            x, y, z = measure.vertex_point(solid.vertex(vertex))
            words = "branches" if len(meeting) > 2 else "ends"
            raise KernelError(
                f"The parting line {words} at ({x:.2f}, {y:.2f}, {z:.2f}).",
                "Give one of the faces there to the other half.",
                edges=tuple(meeting),
            )
    left, chains = set(border), []
    while left:
        first = min(left)
        left.discard(first)
        chain, (begin, here) = [(first, True)], ends[first]
        while here != begin:
            edge = next(edge for edge in at[here] if edge in left)
            left.discard(edge)
            ahead = ends[edge][0] == here
            chain.append((edge, ahead))
            here = ends[edge][1 if ahead else 0]
        chains.append(tuple(chain))
    return chains


class Sampled:
    """A loop as points: those of each edge with their parameters on it, in the loop's order."""

    def __init__(self, solid: Solid, loop: Loop) -> None:
        self.solid, self.loop = solid, loop
        rows, params, straight = [], [], []
        for number, ahead in loop.edges:
            at, points, is_line = _along(solid, number)
            rows.append(points if ahead else points[::-1])
            params.append(at if ahead else at[::-1])
            straight.append(is_line)
        self.rows: tuple[Floats, ...] = tuple(rows)
        self.params: tuple[Floats, ...] = tuple(params)
        self.straight: tuple[bool, ...] = tuple(straight)

    @cached_property
    def points(self) -> Floats:
        """(n, 3) mm, once round."""
        return np.concatenate([row[:-1] for row in self.rows])

    def finely(self, step: float) -> Floats:
        """Points along the loop no more than `step` mm apart, (n, 3)."""
        rows = []
        points = self.points
        for a, b in zip(points, np.roll(points, -1, axis=0), strict=True):
            count = max(math.ceil(float(np.linalg.norm(b - a)) / step), 1)
            rows.append(a + (b - a) * (np.arange(count) / count)[:, None])
        return np.concatenate(rows)

    @cached_property
    def starts(self) -> tuple[int, ...]:
        """The row in `points` at which each edge begins."""
        return tuple(np.concatenate([[0], np.cumsum([len(row) - 1 for row in self.rows])])[:-1].astype(int).tolist())


def _along(solid: Solid, number: int) -> tuple[Floats, Floats, bool]:
    curve = BRepAdaptor_Curve(solid.nth_edge(number))
    first, last = float(curve.FirstParameter()), float(curve.LastParameter())
    straight = curve.GetType() == GeomAbs_CurveType.GeomAbs_Line
    count = 2
    if not straight:
        rough = np.array([xyz(curve.Value(float(t))) for t in np.linspace(first, last, 12)])
        length = float(np.linalg.norm(np.diff(rough, axis=0), axis=1).sum())
        count = int(min(max(math.ceil(length / _STEP) + 1, _FEWEST), _MOST))
    at = np.linspace(first, last, count)
    return at, np.array([xyz(curve.Value(float(t))) for t in at]), straight


def flat(points: Floats, plan: Frame) -> Floats:
    """Points (n, 3) as seen along a frame's normal, (n, 2)."""
    off = points - np.array(plan.origin)
    return np.column_stack([off @ np.array(plan.x), off @ np.array(plan.y)])


def _area(outline: Floats) -> float:
    x, y = outline[:, 0], outline[:, 1]
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def seen_area(solid: Solid, loop: Loop, pull: Vec) -> float:
    """The area in mm² that a loop surrounds, seen along the pull."""
    return abs(_area(flat(Sampled(solid, loop).points, Frame.lying((0.0, 0.0, 0.0), pull))))


def drawn(solid: Solid, outlines: Sequence[Loop]) -> list[list[Vec]]:
    """The loops as closed lines in space."""
    lines = []
    for loop in outlines:
        points = Sampled(solid, loop).points
        lines.append([vec(p) for p in (*points, points[0])])
    return lines


def heights(solid: Solid, loop: Loop, pull: Vec) -> Floats:
    """How high the points of a loop lie along the pull, mm."""
    levels: Floats = Sampled(solid, loop).points @ np.array(pull)
    return levels


def steep(solid: Solid, loop: Loop, pull: Vec, least: float) -> list[int]:
    """The straight edges of a loop that stand nearer to the pull than `least` rad: the halves meet there with no more draft."""
    lines = ((number, edges.line(solid, number)) for number, _ in loop.edges)
    return [number for number, line in lines if line is not None and abs(float(np.dot(line[1], pull))) > math.cos(least)]
