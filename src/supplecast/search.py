"""Search among triangles: the nearest point, the first hit of a ray, the largest ball inside. Compiled, on one core.

A tree of boxes is built over the triangles once; each question walks it. All sizes are in mm, all arrays float64.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numba import njit

from supplecast.geometry import Bools, Box, Floats, Rows, vec

_LEAF = 4
_FACING = -0.5  # a ball is stopped by skin that faces its own place by more than 120°, not by that beside a convex edge
_DEEP = 64
_ROUNDS = 40


@dataclass(frozen=True)
class Nearest:
    """For each place the nearest triangle (-1 if none is near enough), the distance and the foot."""

    triangles: Rows
    away: Floats
    feet: Floats


class Triangles:
    """Triangles, (n, 3, 3) mm, counter-clockwise from outside, ready to be searched."""

    def __init__(self, corners: Floats) -> None:
        self.corners = np.ascontiguousarray(corners, dtype=np.float64)

    @cached_property
    def normals(self) -> Floats:
        """Of length 1, out of the material; zero for a triangle without area, (n, 3)."""
        a, b, c = (self.corners[:, k] for k in range(3))
        cross = np.cross(b - a, c - a)
        normals: Floats = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-300)
        return normals

    @cached_property
    def areas(self) -> Floats:
        a, b, c = (self.corners[:, k] for k in range(3))
        areas: Floats = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
        return areas

    @cached_property
    def box(self) -> Box:
        """Round all of them; there must be some."""
        points = self.corners.reshape(-1, 3)
        return Box(vec(points.min(axis=0)), vec(points.max(axis=0)))

    @cached_property
    def _tree(self) -> tuple[Floats, Rows, Rows]:
        a, b, c = (self.corners[:, k] for k in range(3))  # far quicker than along an axis of three
        return _build(np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c))  # type: ignore[no-any-return]

    def nearest(self, places: Floats, within: Floats | float = np.inf) -> Nearest:
        """The nearest triangle to each of (k, 3) places, looked for no further off than `within`: one for all, or one each."""
        places = np.ascontiguousarray(places, dtype=np.float64)
        which, away, feet = np.full(len(places), -1), np.full(len(places), np.inf), np.zeros((len(places), 3))
        if len(self.corners) and len(places):
            limits = np.array(np.broadcast_to(within, len(places)), dtype=np.float64)
            _nearest(*self._tree, self.corners, places, limits, which, away, feet)
        return Nearest(which, away, feet)

    def hits(self, places: Floats, directions: Floats, limit: float = np.inf) -> tuple[Rows, Floats]:
        """The first triangle that a ray from each place meets, from either side, and how far off; -1 and inf if none.

        `ways` (k, 3), or one for all, need not be of length 1: distances count in their lengths.
        """
        places = np.ascontiguousarray(places, dtype=np.float64)
        directions = np.array(
            np.broadcast_to(directions, places.shape), dtype=np.float64
        )  # a copy: what is read-only is compiled anew
        which, away = np.full(len(places), -1), np.full(len(places), np.inf)
        if len(self.corners) and len(places):
            _first_hits(*self._tree, self.corners, places, directions, limit, which, away)
        return which, away

    def crossed(self, starts: Floats, ends: Floats) -> Bools:
        """Whether anything lies between the points of each pair."""
        _, away = self.hits(starts, ends - starts, 1.0)
        inside: Bools = away < 1.0
        return inside

    def balls(self, places: Floats, normals: Floats, most: Floats) -> tuple[Floats, Floats]:
        """Diameters of the largest balls inside that touch the skin at places on it, no larger than `most` each, and the
        points where they touch it again.

        The ball is shrunk until nothing that faces the place lies in it (Ma, Bae, Choi 2012, 3D medial axis point approximation
        using nearest neighbors and the normal field), with the nearest points of triangles in the place of samples.
        """
        places, normals = np.ascontiguousarray(places), np.ascontiguousarray(normals)
        sizes, touched = np.array(most, dtype=np.float64), places.copy()
        if len(self.corners) and len(places):
            _balls(*self._tree, self.corners, self.normals, places, normals, sizes, touched)
        return sizes, touched


def warm() -> None:
    """Compile everything, or load what was compiled before: once, ahead of the first question."""
    one = Triangles(np.array([[[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]]] * 6))
    place = np.array([[0.2, 0.2, 1.0]])
    one.nearest(place)
    one.hits(place, np.array([0.0, 0.0, -1.0]))
    one.balls(place, np.array([[0.0, 0.0, 1.0]]), np.array([3.0]))


@njit(cache=True)
def _halve(order, values, first, last, half):  # type: ignore[no-untyped-def]
    """Put the rows order[first..last] so that those with the least values come before place `half` (Hoare's selection)."""
    while first < last:
        pivot = values[order[(first + last) // 2]]
        i, j = first, last
        while i <= j:
            while values[order[i]] < pivot:
                i += 1
            while values[order[j]] > pivot:
                j -= 1
            if i <= j:
                order[i], order[j] = order[j], order[i]
                i += 1
                j -= 1
        if half <= j:
            last = j
        elif half >= i:
            first = i
        else:
            break


@njit(cache=True)
def _build(low, high):  # type: ignore[no-untyped-def]
    """Boxes (m, 6); for each node its first child, or minus its count of triangles; and where its triangles begin."""
    count = low.shape[0]
    order = np.arange(count)
    middle = (low + high) / 2
    boxes = np.empty((2 * count + 2, 6))
    child = np.zeros(2 * count + 2, dtype=np.int64)
    begin = np.zeros(2 * count + 2, dtype=np.int64)
    end = np.zeros(2 * count + 2, dtype=np.int64)
    begin[0], end[0], used = 0, count, 1
    stack = np.zeros(_DEEP * 4, dtype=np.int64)
    top = 1
    while top > 0:
        top -= 1
        node = stack[top]
        a, b = begin[node], end[node]
        if b - a <= _LEAF:
            child[node] = -(b - a)
            continue
        best, width = 0, -1.0
        for axis in range(3):
            lowest, highest = np.inf, -np.inf
            for k in range(a, b):
                lowest = min(lowest, middle[order[k], axis])
                highest = max(highest, middle[order[k], axis])
            if highest - lowest > width:
                best, width = axis, highest - lowest
        half = (a + b) // 2
        _halve(order, middle[:, best], a, b - 1, half)
        child[node] = used
        begin[used], end[used], begin[used + 1], end[used + 1] = a, half, half, b
        stack[top], stack[top + 1] = used, used + 1
        top += 2
        used += 2
    for node in range(used - 1, -1, -1):  # children come after their parents
        for axis in range(3):
            lowest, highest = np.inf, -np.inf
            if child[node] > 0:
                first = child[node]
                lowest = min(boxes[first, axis], boxes[first + 1, axis])
                highest = max(boxes[first, 3 + axis], boxes[first + 1, 3 + axis])
            else:
                for k in range(begin[node], end[node]):
                    lowest = min(lowest, low[order[k], axis])
                    highest = max(highest, high[order[k], axis])
            boxes[node, axis], boxes[node, 3 + axis] = lowest, highest
    # A leaf tells where its triangles begin in the order; a node needs only its first child.
    return boxes[:used].copy(), np.stack((child[:used], begin[:used]), axis=1), order


@njit(cache=True)
def _gap2(box, x, y, z):  # type: ignore[no-untyped-def]
    dx = max(box[0] - x, 0.0, x - box[3])
    dy = max(box[1] - y, 0.0, y - box[4])
    dz = max(box[2] - z, 0.0, z - box[5])
    return dx * dx + dy * dy + dz * dz


@njit(cache=True)
def _closest(t, p, foot):  # type: ignore[no-untyped-def]
    """Puts the point of a triangle nearest to p into foot (Ericson, Real-Time Collision Detection, 5.1.5); its distance
    squared. Spelled out, since small arrays cost more than the sums in them.
    """
    ax, ay, az = t[0, 0], t[0, 1], t[0, 2]
    ux, uy, uz = t[1, 0] - ax, t[1, 1] - ay, t[1, 2] - az
    vx, vy, vz = t[2, 0] - ax, t[2, 1] - ay, t[2, 2] - az
    px, py, pz = p[0] - ax, p[1] - ay, p[2] - az
    d1, d2 = ux * px + uy * py + uz * pz, vx * px + vy * py + vz * pz
    uu, uv, vv = ux * ux + uy * uy + uz * uz, ux * vx + uy * vy + uz * vz, vx * vx + vy * vy + vz * vz
    d3, d4, d5, d6 = d1 - uu, d2 - uv, d1 - uv, d2 - vv
    vc, vb, va = d1 * d4 - d3 * d2, d5 * d2 - d1 * d6, d3 * d6 - d5 * d4
    b, c = 0.0, 0.0
    if d1 <= 0 and d2 <= 0:
        pass
    elif d3 >= 0 and d4 <= d3:
        b = 1.0
    elif vc <= 0 and d1 >= 0 and d3 <= 0:
        b = d1 / uu if uu > 0 else 0.0
    elif d6 >= 0 and d5 <= d6:
        c = 1.0
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        c = d2 / vv if vv > 0 else 0.0
    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        side = (d4 - d3) + (d5 - d6)
        c = (d4 - d3) / side if side > 0 else 0.0
        b = 1.0 - c
    else:
        whole = va + vb + vc
        if whole != 0:
            b, c = vb / whole, vc / whole
    fx, fy, fz = b * ux + c * vx, b * uy + c * vy, b * uz + c * vz
    foot[0], foot[1], foot[2] = ax + fx, ay + fy, az + fz
    return (px - fx) ** 2 + (py - fy) ** 2 + (pz - fz) ** 2


@njit(cache=True)
def _find(boxes, nodes, order, corners, p, most2, foot, normals, against, stack):  # type: ignore[no-untyped-def]
    """The nearest triangle nearer than the root of most2 whose normal, if `against` has a length, faces that; -1 if none."""
    nearest, best = -1, most2
    ax, ay, az = against[0], against[1], against[2]
    facing = ax != 0 or ay != 0 or az != 0
    on = np.empty(3)
    top = 1
    stack[0] = 0
    while top > 0:
        top -= 1
        node = stack[top]
        if _gap2(boxes[node], p[0], p[1], p[2]) >= best:
            continue
        first = nodes[node, 0]
        if first <= 0:
            for k in range(nodes[node, 1], nodes[node, 1] - first):
                index = order[k]
                if facing and normals[index, 0] * ax + normals[index, 1] * ay + normals[index, 2] * az > _FACING:
                    continue
                away = _closest(corners[index], p, on)
                if away < best:
                    best, nearest = away, index
                    foot[0], foot[1], foot[2] = on[0], on[1], on[2]
            continue
        near, far = first, first + 1
        if _gap2(boxes[far], p[0], p[1], p[2]) < _gap2(boxes[near], p[0], p[1], p[2]):
            near, far = far, near
        stack[top], stack[top + 1] = far, near
        top += 2
    return nearest


@njit(cache=True)
def _nearest(boxes, nodes, order, corners, places, within, which, away, feet):  # type: ignore[no-untyped-def]
    none = np.zeros(3)
    stack = np.zeros(_DEEP * 2, dtype=np.int64)
    foot = np.zeros(3)
    unasked = np.zeros((0, 3))
    for k in range(places.shape[0]):
        p = places[k]
        which[k] = _find(boxes, nodes, order, corners, p, within[k] * within[k], foot, unasked, none, stack)
        if which[k] >= 0:
            feet[k, 0], feet[k, 1], feet[k, 2] = foot[0], foot[1], foot[2]
            away[k] = np.sqrt((p[0] - foot[0]) ** 2 + (p[1] - foot[1]) ** 2 + (p[2] - foot[2]) ** 2)


@njit(cache=True)
def _enters(box, p, inverse, limit):  # type: ignore[no-untyped-def]
    low, high = 0.0, limit
    for axis in range(3):
        a = (box[axis] - p[axis]) * inverse[axis]
        b = (box[3 + axis] - p[axis]) * inverse[axis]
        if a > b:
            a, b = b, a
        # A ray that runs along a side of the box gives 0 times infinity there, which bounds nothing.
        if a == a:
            low = max(low, a)
        if b == b:
            high = min(high, b)
    return low if low <= high else np.inf


@njit(cache=True)
def _meets(t, p, direction):  # type: ignore[no-untyped-def]
    """How far along a ray it meets a triangle; -1 if not (Moeller, Trumbore 1997). Edges are widened by a rounding error, so
    that no ray slips between two triangles.
    """
    ax, ay, az = t[0, 0], t[0, 1], t[0, 2]
    ux, uy, uz = t[1, 0] - ax, t[1, 1] - ay, t[1, 2] - az
    vx, vy, vz = t[2, 0] - ax, t[2, 1] - ay, t[2, 2] - az
    wx, wy, wz = direction[0], direction[1], direction[2]
    hx, hy, hz = wy * vz - wz * vy, wz * vx - wx * vz, wx * vy - wy * vx
    det = ux * hx + uy * hy + uz * hz
    if det == 0.0:
        return -1.0
    sx, sy, sz = p[0] - ax, p[1] - ay, p[2] - az
    u = (sx * hx + sy * hy + sz * hz) / det
    if u < -1e-9 or u > 1 + 1e-9:
        return -1.0
    qx, qy, qz = sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux
    v = (wx * qx + wy * qy + wz * qz) / det
    if v < -1e-9 or u + v > 1 + 1e-9:
        return -1.0
    return (vx * qx + vy * qy + vz * qz) / det


@njit(cache=True)
def _first_hits(boxes, nodes, order, corners, places, directions, limit, which, away):  # type: ignore[no-untyped-def]
    stack = np.zeros(_DEEP * 2, dtype=np.int64)
    inverse = np.zeros(3)
    for k in range(places.shape[0]):
        p, direction = places[k], directions[k]
        for axis in range(3):
            inverse[axis] = 1.0 / direction[axis] if direction[axis] != 0 else np.inf
        best, nearest = limit, -1
        top = 1
        stack[0] = 0
        while top > 0:
            top -= 1
            node = stack[top]
            if _enters(boxes[node], p, inverse, best) == np.inf:
                continue
            first = nodes[node, 0]
            if first <= 0:
                for m in range(nodes[node, 1], nodes[node, 1] - first):
                    t = _meets(corners[order[m]], p, direction)
                    if 0 < t < best:
                        best, nearest = t, order[m]
                continue
            near, far = first, first + 1
            if _enters(boxes[far], p, inverse, best) < _enters(boxes[near], p, inverse, best):
                near, far = far, near
            stack[top], stack[top + 1] = far, near
            top += 2
        which[k] = nearest
        away[k] = best if nearest >= 0 else np.inf


@njit(cache=True)
def _balls(boxes, nodes, order, corners, normals, places, outwards, sizes, touched):  # type: ignore[no-untyped-def]
    stack = np.zeros(_DEEP * 2, dtype=np.int64)
    foot, centre = np.zeros(3), np.zeros(3)
    for k in range(places.shape[0]):
        p, n = places[k], outwards[k]
        r = sizes[k] / 2
        for _ in range(_ROUNDS):
            centre[0], centre[1], centre[2] = p[0] - r * n[0], p[1] - r * n[1], p[2] - r * n[2]
            inner = r - 1e-9 - 1e-7 * r
            triangle = _find(boxes, nodes, order, corners, centre, inner * inner, foot, normals, n, stack)
            if triangle < 0:
                break
            gx, gy, gz = p[0] - foot[0], p[1] - foot[1], p[2] - foot[2]
            deep = n[0] * gx + n[1] * gy + n[2] * gz
            if deep <= 1e-12:
                break
            smaller = (gx * gx + gy * gy + gz * gz) / (2 * deep)
            if smaller >= r:
                break
            r = smaller
            touched[k, 0], touched[k, 1], touched[k, 2] = foot[0], foot[1], foot[2]
        sizes[k] = 2 * r
