"""Mesh bodies: triangles of another's model, in regions that stand for its faces.

A mesh body is seen, moved, linked, cut by planes, measured and used as a tool, but has no exact surface: whatever needs one
asks for its `shape` and is refused in words. Its regions are what people pick: flats and rounds that its triangles lie on, and
what is left between creases. The lines between them are for looking at.
"""

from __future__ import annotations

import io
import zlib
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np

from supplecast.errors import KernelError
from supplecast.geometry import Axis, Box, Floats, Frame, Ints, Mass, Rows, Vec, unit, vec
from supplecast.kernel.shapes.shape import Solid

MARK = b"mesh 1\n"


@dataclass(frozen=True)
class Form:
    """What a region of triangles lies on: a `flat` through `point` with the normal `direction`, a `round` of `radius` mm about
    that axis, its material inside it or not, or nothing plain. `off` is the most that a corner lies off it, mm.
    """

    kind: Literal["flat", "round", "free"]
    point: Vec = (0.0, 0.0, 0.0)
    direction: Vec = (0.0, 0.0, 1.0)
    radius: float = 0.0
    outward: bool = True
    off: float = 0.0


class MeshBody(Solid):
    """Triangles: points (n, 3) mm, triangles (m, 3) counter-clockwise from outside and sorted by region, `ends` (regions,) the
    number of triangles up to each, and the form of each region. `tight` says that they enclose a volume without a gap.
    """

    closed = False
    of_triangles = True

    def __init__(self, points: Floats, triangles: Ints, ends: Ints, forms: Sequence[Form], tight: bool) -> None:
        self.points = np.ascontiguousarray(points, dtype=np.float64)
        self.triangles = np.ascontiguousarray(triangles, dtype=np.int32)
        self.ends = np.asarray(ends, dtype=np.int32)
        self.forms = tuple(forms)
        self.tight = tight

    @property
    def shape(self) -> Any:
        raise KernelError(
            "This is a mesh: it has triangles and no exact surfaces.",
            "Use it as a tool, or import its file healed, as a solid of plain forms.",
        )

    @property
    def encloses(self) -> bool:
        return self.tight

    @property
    def face_count(self) -> int:
        return len(self.forms)

    @property
    def vertex_count(self) -> int:
        return 0

    @property
    def number_of_edges(self) -> int:
        return len(self.borders)

    @cached_property
    def faces_at_edges(self) -> tuple[tuple[int, ...], ...]:
        return tuple(faces for faces, _ in self.borders)

    @cached_property
    def degenerate_edges(self) -> tuple[bool, ...]:
        return (False,) * len(self.borders)

    @cached_property
    def lines(self) -> tuple[Floats, ...]:
        """The lines between regions, and round its gaps, (k, 3) mm each, in the order of its edges."""
        return tuple(self.points[list(run)] for _, run in self.borders)

    @cached_property
    def borders(self) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
        """Lines between two regions, or round a gap, by the regions and the points they run through."""
        sides = np.stack([self.triangles, np.roll(self.triangles, -1, axis=1)], axis=2).reshape(-1, 2)
        keys = np.sort(sides, axis=1)
        regions = np.repeat(self.regions, 3)
        order = np.lexsort((regions, keys[:, 1], keys[:, 0]))
        keys, regions = keys[order], regions[order]
        first = np.concatenate([[True], (keys[1:] != keys[:-1]).any(axis=1)]) if len(keys) else np.zeros(0, dtype=bool)
        starts = np.flatnonzero(first)
        counts = np.diff(np.append(starts, len(keys)))
        low, high = regions[starts], regions[starts + counts - 1]
        pieces: dict[tuple[int, ...], list[tuple[int, int]]] = defaultdict(list)
        for at in np.flatnonzero((low != high) | (counts == 1)).tolist():
            a, b = keys[starts[at]].tolist()
            pair = (int(low[at]),) if counts[at] == 1 else (int(low[at]), int(high[at]))
            pieces[pair].append((a, b))
        return [(pair, run) for pair, some in sorted(pieces.items()) for run in _runs(some)]

    @cached_property
    def regions(self) -> Rows:
        """The region of each triangle, (m,)."""
        return np.repeat(np.arange(len(self.ends)), np.diff(self.ends, prepend=0))

    @cached_property
    def corners(self) -> Floats:
        """(m, 3, 3) mm."""
        return self.points[self.triangles]

    @cached_property
    def _doubled(self) -> Floats:
        """The normal of each triangle, as long as twice its area, (m, 3)."""
        a, b, c = (self.corners[:, k] for k in range(3))
        return np.asarray(np.cross(b - a, c - a))

    @cached_property
    def areas(self) -> Floats:
        """Of each triangle, (m,) mm²."""
        return np.asarray(np.linalg.norm(self._doubled, axis=1) / 2)

    def rows(self, face: int) -> slice:
        """The triangles of a region."""
        return slice(int(self.ends[face - 1]) if face else 0, int(self.ends[face]))

    def mass(self) -> Mass:
        """Volume, where it is tight, area, and the centroid of the one or the other."""
        area, middle = float(self.areas.sum()), self.corners.mean(axis=1)
        if not self.tight:
            return Mass(0.0, area, vec((middle * self.areas[:, None]).sum(axis=0) / max(area, 1e-300)))
        about = self.points.mean(axis=0)
        a, b, c = (self.corners[:, k] - about for k in range(3))
        volumes = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
        whole = float(volumes.sum())
        return Mass(whole, area, vec(about + ((a + b + c) / 4 * volumes[:, None]).sum(axis=0) / whole))

    def box(self) -> Box:
        return Box(vec(self.points.min(axis=0)), vec(self.points.max(axis=0)))

    def face_box(self, face: int) -> Box:
        corners = self.corners[self.rows(face)].reshape(-1, 3)
        return Box(vec(corners.min(axis=0)), vec(corners.max(axis=0)))

    def face_area(self, face: int) -> float:
        return float(self.areas[self.rows(face)].sum())

    def face_middle(self, face: int) -> Vec:
        rows = self.rows(face)
        weights = self.areas[rows]
        return vec((self.corners[rows].mean(axis=1) * weights[:, None]).sum(axis=0) / max(float(weights.sum()), 1e-300))

    def flat_frame(self, face: int) -> Frame:
        """The frame of a flat region, as `measure.flat_frame` lays it. KernelError for others."""
        form = self.forms[face]
        if form.kind != "flat":
            raise KernelError("This face is not flat.", "Pick a flat face.", faces=(face,))
        height = float(np.dot(form.point, form.direction))
        return Frame.lying(vec(height * np.array(form.direction)), form.direction)

    def face_axis(self, face: int) -> Axis:
        """The axis of a round region at its middle, or the normal of a flat one there. KernelError for others."""
        form = self.forms[face]
        if form.kind == "free":
            raise KernelError("This face has no axis.", "Pick a round face.", faces=(face,))
        if form.kind == "flat":
            return Axis(self.face_middle(face), form.direction)
        return Axis(Axis(form.point, form.direction).nearest(self.face_middle(face)), form.direction)

    def moved(self, matrix: Floats, factor: float = 1.0) -> MeshBody:
        """The same carried by a matrix (3, 4) that keeps all angles and makes every length `factor` times as long."""
        turn, shift = matrix[:, :3], matrix[:, 3]
        triangles = self.triangles if np.linalg.det(turn) > 0 else self.triangles[:, ::-1]
        forms = [
            Form(f.kind, vec(turn @ np.array(f.point) + shift), unit(vec(turn @ np.array(f.direction))), f.radius * factor,
                 f.outward, f.off * factor)
            for f in self.forms
        ]  # fmt: skip
        return MeshBody(self.points @ turn.T + shift, triangles, self.ends, forms, self.tight)

    def packed(self) -> bytes:
        """As bytes that `unpacked` reads."""
        stream = io.BytesIO()
        rows = [(f.kind, *f.point, *f.direction, f.radius, f.outward, f.off) for f in self.forms]
        kinds = np.array([("flat", "round", "free").index(row[0]) for row in rows], dtype=np.int8)
        sizes = np.array([[float(value) for value in row[1:]] for row in rows]).reshape(-1, 9)
        np.savez(
            stream, points=self.points, triangles=self.triangles, ends=self.ends, kinds=kinds, sizes=sizes, tight=self.tight
        )
        return MARK + zlib.compress(stream.getvalue(), 1)


def unpacked(content: bytes) -> MeshBody:
    """The mesh body in bytes made by `MeshBody.packed`. KernelError for anything else."""
    try:
        held = np.load(io.BytesIO(zlib.decompress(content[len(MARK) :])), allow_pickle=False)
        forms = []
        for kind, sizes in zip(held["kinds"].tolist(), held["sizes"].tolist(), strict=True):
            word: Literal["flat", "round", "free"] = ("flat", "round", "free")[kind]
            forms.append(Form(word, vec(sizes[:3]), vec(sizes[3:6]), sizes[6], bool(sizes[7]), sizes[8]))
        return MeshBody(held["points"], held["triangles"], held["ends"], forms, bool(held["tight"]))
    except (zlib.error, ValueError, KeyError, IndexError, OSError, EOFError) as fault:
        raise KernelError("A stored shape cannot be read.") from fault


def _runs(pieces: Sequence[tuple[int, int]]) -> list[tuple[int, ...]]:
    """Pieces from point to point put together to lines as long as they go without branching."""
    beside: dict[int, list[int]] = defaultdict(list)
    for number, (a, b) in enumerate(pieces):
        beside[a].append(number)
        beside[b].append(number)
    left, runs = dict.fromkeys(range(len(pieces))), []
    ends = [number for number, (a, b) in enumerate(pieces) if len(beside[a]) != 2 or len(beside[b]) != 2]
    for begin in [*ends, *range(len(pieces))]:
        if begin not in left:
            continue
        a, b = pieces[begin]
        run = [a, b] if len(beside[a]) != 2 or len(beside[b]) == 2 else [b, a]
        del left[begin]
        while len(beside[run[-1]]) == 2:
            further = next((number for number in beside[run[-1]] if number in left), None)
            if further is None:
                break
            del left[further]
            a, b = pieces[further]
            run.append(b if a == run[-1] else a)
        runs.append(tuple(run))
    return runs
