"""How near bodies come to each other: face by face, those whose boxes are nearest first.

The kernel's own distance between whole bodies looks at all pairs of faces; a box for each face leaves most of them out, and of
many faces their triangles tell which of them can come nearest at all. A pair of cylinders takes it longest, so that round bars
are told by their axis, less their radius.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt

from supplecast.errors import KernelError
from supplecast.geometry import Bar, Box, Floats, Rows, Vec, vec
from supplecast.kernel.measuring import measure, probing
from supplecast.kernel.meshing import mesh
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid, xyz
from supplecast.search import Triangles

_MET = 1e-7  # mm
_MANY = 3  # pairs of faces that are asked before their triangles are
_DEFLECTION, _ANGLE = 0.1, 0.5  # mm and rad of the triangles
_FINE, _LEVELS, _MOST = 0.3, 9, 30_000  # mm, times and triangles to which they are parted
_BOXES: Memo[Floats] = Memo("boxes of the faces")
_TRIANGLES: Memo[tuple[Triangles, Rows] | None] = Memo("triangles for distances, with their faces")


def between(a: Solid, b: Solid) -> float:
    """Least distance between two bodies, mm: 0 where they meet, or one holds the other."""
    least = _nearest(a, b)[0]
    return 0.0 if least <= _MET or _within(a, b) or _within(b, a) else least


def nearest_places(a: Solid, b: Solid) -> tuple[Vec, Vec]:
    """Where the skins of two bodies come nearest to each other, on each of them."""
    return _nearest(a, b)[1:]


def between_faces(a: Solid, face: int, b: Solid, other: int) -> tuple[float, Vec, Vec]:
    """Least distance between a face of one body and one of another, mm, and where that is on each."""
    nearest = BRepExtrema_DistShapeShape(a.face(face), b.face(other))
    return float(nearest.Value()), xyz(nearest.PointOnShape1(1)), xyz(nearest.PointOnShape2(1))


def nearest_of(bodies: Sequence[Solid], others: Sequence[Solid]) -> float:
    """The least distance between any of some bodies and any of others, mm; pairs that cannot come nearer are left out."""
    boxes = [measure.loose_box(solid) for solid in bodies], [measure.loose_box(solid) for solid in others]
    pairs = sorted((_apart(boxes[0][i], boxes[1][j]), i, j) for i in range(len(bodies)) for j in range(len(others)))
    least = math.inf
    for gap, i, j in pairs:
        if gap >= least:
            break
        least = min(least, between(bodies[i], others[j]))
    return least


def bars_to(bars: Sequence[Bar], skins: Iterable[tuple[Solid, Sequence[int]]]) -> float:
    """The least distance of round bars, whose ends count as round too, to some faces of bodies, mm; below 0 where they meet."""
    least = math.inf
    lines = [_line(bar) for bar in bars]
    for solid, faces in skins:
        boxes = face_boxes(solid, faces)
        for bar, line in zip(bars, lines, strict=True):
            ends = np.array(bar[:2])
            off = np.maximum(boxes[:, :3] - ends.max(axis=0), ends.min(axis=0) - boxes[:, 3:])
            gaps = np.linalg.norm(np.maximum(off, 0.0), axis=1) - bar.radius
            for k in np.argsort(gaps, kind="stable"):
                if gaps[k] >= least:
                    break
                away = float(BRepExtrema_DistShapeShape(line, solid.face(faces[int(k)])).Value()) - bar.radius
                least = min(least, away)
    return least


def bars_apart(bars: Iterable[Bar], others: Sequence[Bar]) -> float:
    """The least distance between round bars and others, mm; below 0 where they meet."""
    lines = [(_line(other), other.radius) for other in others]
    return min(
        (
            float(BRepExtrema_DistShapeShape(_line(bar), line).Value()) - bar.radius - radius
            for bar in bars
            for line, radius in lines
        ),
        default=math.inf,
    )


def _line(bar: Bar) -> Any:
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*bar.start), gp_Pnt(*bar.end)).Edge()


def skin(solid: Solid) -> tuple[Solid, Sequence[int]]:
    """A body with all its faces."""
    return solid, range(solid.face_count)


def boxes_apart(a: Solid, b: Solid) -> float:
    """How far the boxes of two bodies are from each other, mm: they themselves are no nearer."""
    return _apart(measure.loose_box(a), measure.loose_box(b))


def face_boxes(solid: Solid, faces: Iterable[int]) -> Floats:
    """Boxes that surely hold some faces, (n, 6): low and high corner."""
    rows: Floats = _boxes(solid)[list(faces)].reshape(-1, 6)
    return rows


def _boxes(solid: Solid) -> Floats:
    return _BOXES.of(solid, lambda: np.array([_flat(measure.loose_face_box(solid, f)) for f in range(solid.face_count)]))


def _flat(box: Box) -> tuple[float, ...]:
    return (*box.low, *box.high)


def _nearest(a: Solid, b: Solid) -> tuple[float, Vec, Vec]:
    best: tuple[float, Vec, Vec] = (math.inf, (0.0, 0.0, 0.0), (0.0, 0.0, 0.0))
    near, asked = None, 0
    for gap, i, j in _pairs(_boxes(a), _boxes(b)):
        if gap >= best[0] or best[0] <= _MET:
            break
        if asked == _MANY:
            near = _faces_near(a, b)
        asked += 1
        if near is not None and not (near[0][i] and near[1][j]):
            continue
        found = between_faces(a, i, b, j)
        best = found if found[0] < best[0] else best
    return best


def _faces_near(a: Solid, b: Solid) -> tuple[Rows, Rows] | None:
    """Which faces of either body can be those that come nearest to the other, each as a row of yes and no; None if that is not
    known.
    """
    first, second = _triangles(a), _triangles(b)
    if first is None or second is None:
        return None
    least, mine = _survivors(*first, second[0], math.inf)
    _, others = _survivors(*second, first[0], least)
    found = np.zeros(a.face_count, dtype=bool), np.zeros(b.face_count, dtype=bool)
    found[0][mine], found[1][others] = True, True
    return found


def _triangles(solid: Solid) -> tuple[Triangles, Rows] | None:
    def made() -> tuple[Triangles, Rows] | None:
        if isinstance(solid, MeshBody):
            return None
        try:
            laid = mesh.tessellate(solid, _DEFLECTION, _ANGLE, edges=False)
        except KernelError:
            return None
        return Triangles(laid.points[laid.triangles]), laid.faces

    return _TRIANGLES.of(solid, made)


def _survivors(triangles: Triangles, faces: Rows, others: Triangles, least: float) -> tuple[float, Rows]:
    """The least distance found between some triangles and others, and the faces whose triangles may come as near: parted into
    ever smaller ones, of which none has a place farther from its middle than its corners are.
    """
    corners, slack = triangles.corners, 4 * _DEFLECTION
    for _ in range(_LEVELS):
        middles = corners.mean(axis=1)
        reach = np.linalg.norm(corners - middles[:, None], axis=2).max(axis=1)
        away = others.nearest(middles).away
        least = min(least, float(away.min()))
        keep = away - reach <= least + slack
        corners, faces, reach = corners[keep], faces[keep], reach[keep]
        large = reach > _FINE
        if not large.any() or len(corners) + 3 * int(large.sum()) > _MOST:
            break
        p, q, r = (corners[large][:, k] for k in range(3))
        pq, qr, rp = (p + q) / 2, (q + r) / 2, (r + p) / 2
        parted = [np.stack(three, axis=1) for three in ((p, pq, rp), (pq, q, qr), (rp, qr, r), (pq, qr, rp))]
        corners = np.concatenate([corners[~large], *parted])
        faces = np.concatenate([faces[~large], *([faces[large]] * 4)])
    return least, np.unique(faces)


def _pairs(first: Floats, second: Floats) -> Iterator[tuple[float, int, int]]:
    """All pairs of boxes by how far they are apart; of those that overlap, small ones first."""
    off = np.maximum(first[:, None, :3] - second[None, :, 3:], second[None, :, :3] - first[:, None, 3:])
    gaps = np.linalg.norm(np.maximum(off, 0.0), axis=2)
    sizes = [np.linalg.norm(rows[:, 3:] - rows[:, :3], axis=1) for rows in (first, second)]
    order = np.lexsort([np.add.outer(*sizes).reshape(-1), gaps.reshape(-1)])
    for number in order:
        i, j = divmod(int(number), len(second))
        yield float(gaps[i, j]), i, j


def _within(a: Solid, b: Solid) -> bool:
    """Whether a body whose skin is clear of another's lies inside of that."""
    return b.closed and probing.covers(b, vec(measure.corners(a)[0]))


def _apart(a: Box, b: Box) -> float:
    """How far two boxes are from each other, mm."""
    gaps = (max(a.low[k] - b.high[k], b.low[k] - a.high[k], 0.0) for k in range(3))
    return math.sqrt(sum(gap * gap for gap in gaps))
