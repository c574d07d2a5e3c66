"""The faces that triangles stand for: flats, rounds, and what lies between creases.

Triangles in one plane are put together first. Strips of such, side by side, whose corners lie on one circle seen along their
common direction are a round: programs that write meshes put the corners on the surface. What is neither is parted at creases.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from supplecast.geometry import Bools, Floats, Ints, Rows, Vec, vec
from supplecast.kernel.shapes.mesh_body import Form, MeshBody

_CLOSE = 1e-5  # of the size: how far corners may lie off a form; numbers of 32 bits are good to a hundredth of that
_CREASE, _SHARP, _STRIP = (math.cos(math.radians(a)) for a in (30.0, 15.0, 46.0))
_LEAN = 0.05  # rad between triangles in one plane
_FLAT_SHARE = 2e-3  # of all area: a flat as large as that counts though it runs on smoothly
_LEAST_STRIPS, _FEW_STRIPS = 3, 5
_LEAST_TURN = math.radians(12.0)  # between the first strip and the last
_SQUARE = 1e-3
_ALIKE = 0.02
_MOST_GROUPS = 20_000  # of more, as a scan has, rounds are not looked for


def as_body(points: Floats, triangles: Ints, tight: bool) -> MeshBody:
    """Triangles as a mesh body with its faces: points (n, 3) mm, triangles (m, 3) that share their points."""
    finding = _Finding(points, triangles)
    labels, forms = finding.found()
    order = np.argsort(labels, kind="stable")
    ends = np.cumsum(np.bincount(labels, minlength=len(forms)))
    return MeshBody(points, triangles[order], ends.astype(np.int32), forms, tight)


@dataclass
class _Round:
    """A round and the groups of triangles that lie on it."""

    groups: list[int]
    form: Form


class _Finding:
    def __init__(self, points: Floats, triangles: Ints) -> None:
        self.points, self.triangles = points, triangles
        self.close = _CLOSE * float(np.linalg.norm(np.ptp(points, axis=0)))
        a, b, c = (points[triangles[:, k]] for k in range(3))
        doubled = np.cross(b - a, c - a)
        lengths = np.linalg.norm(doubled, axis=1)
        self.areas = lengths / 2
        self.normals = doubled / np.maximum(lengths, 1e-300)[:, None]
        self.pairs = _beside(triangles)

    def found(self) -> tuple[Rows, list[Form]]:
        """The region of each triangle, and the form of each region."""
        self.group = self._planar()
        self.count = int(self.group.max()) + 1
        self._describe()
        links = np.unique(np.sort(self.group[self.pairs], axis=1), axis=0)
        self.links = links[links[:, 0] != links[:, 1]]
        self.turn = np.einsum("ij,ij->i", self.facing[self.links[:, 0]], self.facing[self.links[:, 1]])
        label = np.full(self.count, -1)
        forms = list[Form]()
        for one in self._rounds():
            label[one.groups] = len(forms)
            forms.append(one.form)
        for group in np.flatnonzero(self._flats(label < 0)).tolist():
            label[group] = len(forms)
            forms.append(Form("flat", vec(self.middle[group]), vec(self.facing[group]), off=float(self.off[group])))
        rest = np.flatnonzero(label < 0)
        if len(rest):
            smooth = self.links[(self.turn > _CREASE) & (label[self.links] < 0).all(axis=1)]
            _, parts = _joined(self.count, smooth)
            _, names = np.unique(parts[rest], return_inverse=True)
            label[rest] = len(forms) + names
            forms += [Form("free")] * (int(names.max()) + 1)
        labels: Rows = label[self.group]
        return labels, forms

    def _planar(self) -> Rows:
        """Groups of triangles that lie in one plane."""
        a, b = self.pairs[:, 0], self.pairs[:, 1]
        larger = np.where(self.areas[a] >= self.areas[b], a, b)
        smaller = np.where(self.areas[a] >= self.areas[b], b, a)
        off = self.points[self.triangles[smaller]] - self.points[self.triangles[larger, 0]][:, None]
        away = np.abs(np.einsum("ijk,ik->ij", off, self.normals[larger])).max(axis=1)
        facing = np.einsum("ij,ij->i", self.normals[a], self.normals[b])
        thin = self.areas[smaller] < self.close**2 * 100  # its own normal says nothing
        level = (away < self.close) & ((facing > math.cos(_LEAN)) | thin)
        _, groups = _joined(len(self.triangles), self.pairs[level])
        # A gentle bend may have run on from plane to plane: such groups fall apart again.
        count = int(groups.max()) + 1
        normal = _summed(groups, self.normals * self.areas[:, None], count)
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
        middle = self._middles(groups, count)
        high = np.einsum("ijk,ik->ij", self.points[self.triangles] - middle[groups][:, None], normal[groups])
        worst = np.zeros(count)
        np.maximum.at(worst, groups, np.abs(high).max(axis=1))
        bent = worst[groups] > 4 * self.close
        if bent.any():
            groups = np.where(bent, count + np.arange(len(groups)), groups)
            groups = np.unique(groups, return_inverse=True)[1].reshape(-1)
        rows: Rows = groups.astype(np.int64)
        return rows

    def _middles(self, groups: Rows, count: int) -> Floats:
        weights = np.maximum(self.areas, 1e-300)
        middles = self.points[self.triangles].mean(axis=1) * weights[:, None]
        found: Floats = _summed(groups, middles, count) / np.bincount(groups, weights, count)[:, None]
        return found

    def _describe(self) -> None:
        """Area, normal and middle of each group, the corners of all groups one after the other, and how flat each is."""
        self.area = np.bincount(self.group, self.areas, self.count)
        normal = _summed(self.group, self.normals * self.areas[:, None], self.count)
        self.facing = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
        self.middle = self._middles(self.group, self.count)
        self.size = np.bincount(self.group, minlength=self.count)
        rows = np.unique(np.stack([np.repeat(self.group, 3), self.triangles.reshape(-1)], axis=1), axis=0)
        self.corner, self.first = rows[:, 1], np.searchsorted(rows[:, 0], np.arange(self.count + 1))
        high = np.einsum("ij,ij->i", self.points[rows[:, 1]] - self.middle[rows[:, 0]], self.facing[rows[:, 0]])
        self.off = np.zeros(self.count)
        np.maximum.at(self.off, rows[:, 0], np.abs(high))

    def _of(self, groups: Sequence[int]) -> Floats:
        """The corners of some groups, (k, 3)."""
        rows = np.concatenate([self.corner[self.first[g] : self.first[g + 1]] for g in groups])
        corners: Floats = self.points[np.unique(rows)]
        return corners

    def _flats(self, open_: Bools) -> Bools:
        """Which groups are flats of their own: large ones, and those with a crease all round."""
        sharp = np.ones(self.count, dtype=bool)
        smooth = self.links[self.turn > _SHARP]
        sharp[smooth.reshape(-1)] = False
        return np.asarray(open_ & (((self.size > 1) & (self.area > _FLAT_SHARE * self.area.sum())) | sharp))

    def _rounds(self) -> list[_Round]:
        if self.count > _MOST_GROUPS:
            return []
        bends = (self.turn > _STRIP) & (self.turn < 1 - 1e-9)
        beside: list[list[int]] = [[] for _ in range(self.count)]
        for a, b in self.links[bends].tolist():
            beside[a].append(b)
            beside[b].append(a)
        taken: set[int] = set()
        rounds = []
        strips = (self.size[self.links] > 1).all(axis=1) & bends
        for a, b in self.links[strips].tolist():
            if a in taken or b in taken:
                continue
            one = self._grown(a, b, beside, taken)
            if one is not None:
                taken.update(one.groups)
                rounds.append(one)
        slices = self._slices(rounds) if rounds else ()
        return [one for number, one in enumerate(rounds) if number not in slices]

    def _slices(self, rounds: Sequence[_Round]) -> set[int]:
        """Those that are slices of a ring or a ball: they run smoothly into others as wide, about as long, and askew; and those
        of few or short strips that run smoothly into what is neither flat nor round.
        """
        owner = np.full(self.count, -1)
        for number, one in enumerate(rounds):
            owner[one.groups] = number
        axes = np.array([one.form.direction for one in rounds]).reshape(-1, 3)
        sizes = np.array([one.form.radius for one in rounds])
        lengths = np.array([np.ptp(self._of(one.groups) @ one.form.direction) for one in rounds])
        few = np.array([len(one.groups) < _FEW_STRIPS for one in rounds])
        # Strips that are no longer than three times their width.
        widths = np.array([float(self.area[one.groups].mean()) for one in rounds]) / np.maximum(lengths, 1e-300)
        short = lengths < 3 * widths
        smooth = self.links[self.turn > _CREASE]
        pairs = owner[smooth]
        loose = (pairs < 0) & ~self._flats(owner < 0)[smooth]
        beside = np.concatenate([pairs[:, 0][loose[:, 1]], pairs[:, 1][loose[:, 0]]])
        counts = np.bincount(beside[beside >= 0], minlength=len(rounds))
        strips = np.array([len(one.groups) for one in rounds])
        found = set(np.flatnonzero((counts > 0) & (few | (short & (counts >= strips)))).tolist())
        pairs = pairs[(pairs >= 0).all(axis=1) & (pairs[:, 0] != pairs[:, 1])]
        askew = np.abs(np.einsum("ij,ij->i", axes[pairs[:, 0]], axes[pairs[:, 1]])) < 1 - _SQUARE**2
        alike = np.abs(sizes[pairs[:, 0]] - sizes[pairs[:, 1]]) < _ALIKE * sizes[pairs[:, 0]]
        for a, b in pairs[askew & alike].tolist():
            found |= {one for one, other in ((a, b), (b, a)) if lengths[one] < 2 * lengths[other]}
        for a, b in pairs[askew].tolist():
            found |= {one for one in (a, b) if few[one]}
        return found

    def _grown(self, a: int, b: int, beside: Sequence[Sequence[int]], taken: set[int]) -> _Round | None:
        """The round that two strips beside each other lie on, as far as it goes; None if they lie on none."""
        axis = np.cross(self.facing[a], self.facing[b])
        axis /= np.linalg.norm(axis)
        x = self.facing[a]
        y = np.cross(axis, x)
        plan = np.stack([x, y], axis=1)
        circle = self._circle(self._of((a, b)) @ plan)
        if circle is None:
            return None
        groups, waiting = [a, b], [a, b]
        while waiting:
            for other in beside[waiting.pop()]:
                if other in groups or other in taken or abs(float(self.facing[other] @ axis)) > _SQUARE:
                    continue
                flat = self._of((other,)) @ plan
                if np.abs(np.linalg.norm(flat - circle[0], axis=1) - circle[1]).max() < 2 * self.close + 1e-5 * circle[1]:
                    groups.append(other)
                    waiting.append(other)
        turned = np.sort(np.arctan2(self.facing[groups] @ y, self.facing[groups] @ x))
        if len(groups) < _LEAST_STRIPS or turned[-1] - turned[0] < _LEAST_TURN:
            return None
        # Now that there are many, their common direction and circle are known better.
        weights = self.area[groups][:, None]
        axis = np.linalg.svd(self.facing[groups] * weights)[2][2]
        plan = np.stack([x - axis * (x @ axis), np.cross(axis, x)], axis=1)
        plan /= np.linalg.norm(plan, axis=0)
        corners = self._of(groups)
        circle = self._circle(corners @ plan)
        if circle is None:
            return None
        centre, radius = circle
        away = float(np.abs(np.linalg.norm(corners @ plan - centre, axis=1) - radius).max())
        point = plan @ centre + axis * float((corners @ axis).mean())
        out = self.middle[groups] @ plan - centre
        outward = bool((np.einsum("ij,ij->i", out, self.facing[groups] @ plan) * self.area[groups]).sum() > 0)
        direction: Vec = vec(axis if axis[np.abs(axis).argmax()] > 0 else -axis)
        return _Round(groups, Form("round", vec(point), direction, radius, outward, away))

    def _circle(self, flat: Floats) -> tuple[Floats, float] | None:
        """The circle through places (k, 2), by least squares (Kåsa 1976); None if they do not lie on it."""
        middle = flat.mean(axis=0)
        near = flat - middle
        rows = np.hstack([2 * near, np.ones((len(near), 1))])
        solved, _, rank, _ = np.linalg.lstsq(rows, (near**2).sum(axis=1), rcond=1e-9)
        if rank < 3:
            return None
        radius = math.sqrt(max(float(solved[2] + solved[:2] @ solved[:2]), 0.0))
        away = np.abs(np.linalg.norm(near - solved[:2], axis=1) - radius).max()
        return (middle + solved[:2], radius) if away < 2 * self.close else None


def _beside(triangles: Ints) -> Rows:
    """Pairs of triangles that share a side with no third one, (k, 2)."""
    sides = np.sort(np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2).reshape(-1, 2), axis=1)
    order = np.lexsort((sides[:, 1], sides[:, 0]))
    sides, of = sides[order], order // 3
    starts = np.flatnonzero(np.concatenate([[True], (sides[1:] != sides[:-1]).any(axis=1)]))
    twice = starts[np.diff(np.append(starts, len(sides))) == 2]
    return np.stack([of[twice], of[twice + 1]], axis=1)


def _joined(count: int, links: Rows) -> tuple[int, Rows]:
    graph = coo_matrix((np.ones(len(links)), (links[:, 0], links[:, 1])), shape=(count, count))
    number, labels = connected_components(graph, directed=False)
    return int(number), labels.astype(np.int64)


def _summed(groups: Rows, rows: Floats, count: int) -> Floats:
    return np.stack([np.bincount(groups, rows[:, k], count) for k in range(rows.shape[1])], axis=1)
