"""Where the curves of a sketch cut each other: parameters on each curve, found pair by pair in batches.

Lines, arcs and circles are cut analytically; a touch within the tolerance counts as one cut. Ellipses and splines are cut by
their chords, refined by Newton. Ends that lie on another curve cut it there, so that T-joints and overlaps come out as well.
Weak case: ellipses and splines that touch without crossing are found only within about a thousandth of a millimetre.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from supplecast import budget
from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2
from supplecast.geometry import Floats

CLOSE = 1e-6
"""Two places nearer than this are one, mm."""

_CHORDS = 48
_PAIR, _CHORD_PAIR = 0.05, 0.12  # work units: of seeing whether two curves are near, and whether two chords cross
Indices = NDArray[np.int64]


@dataclass(frozen=True)
class Cuts:
    """Curve indices (k,) and the parameters (k,) at which they are cut."""

    curve: Indices
    at: Floats


def cuts(curves: Sequence[Curve2], only: int | None = None) -> Cuts:
    """Every cut of every curve by the others; with `only`, the cuts of that one curve."""
    budget.spend(_PAIR * len(curves) * (len(curves) if only is None else 1))
    table = _Table(curves)
    first, second = _near_pairs(table, only)
    rows: list[tuple[Indices, Floats]] = []

    def note(curve: Indices, at: Floats, good: NDArray[np.bool_]) -> None:
        rows.append((curve[good], at[good]))

    kinds_first, kinds_second = table.kind[first], table.kind[second]
    for a_kind, b_kind, cut in (("l", "l", _line_line), ("l", "a", _line_round), ("a", "a", _round_round)):
        straight = (kinds_first == a_kind) & (kinds_second == b_kind)
        i, k = first[straight], second[straight]
        if a_kind != b_kind:
            crossed = (kinds_first == b_kind) & (kinds_second == a_kind)
            i, k = np.concatenate([i, second[crossed]]), np.concatenate([k, first[crossed]])
        if len(i):
            for t, u, good in cut(table, i, k):
                note(i, t, good)
                note(k, u, good)
    bent = (kinds_first == "s") | (kinds_second == "s")
    for one, other in zip(first[bent].tolist(), second[bent].tolist(), strict=True):
        t, u = _by_chords(curves[one], curves[other])
        every = np.ones(len(t), bool)
        note(np.full(len(t), one), t, every)
        note(np.full(len(u), other), u, every)
    for index, curve in enumerate(curves):
        if table.kind[index] == "s" and not isinstance(curve, Ellipse2) and only in (None, index):
            t, u = _by_chords(curve, curve)
            note(np.full(2 * len(t), index), np.concatenate([t, u]), np.ones(2 * len(t), bool))
    note(*_ends_on(table, curves, first, second))
    which = np.concatenate([row[0] for row in rows]).astype(np.int64)
    at = np.concatenate([row[1] for row in rows])
    mine = slice(None) if only is None else which == only
    return Cuts(which[mine], at[mine])


class _Table:
    """The curves as arrays: ends, centres, radii, angles, boxes. Kinds: l line, a round, s ellipse or spline."""

    def __init__(self, curves: Sequence[Curve2]) -> None:
        n = len(curves)
        self.kind = np.array(
            ["l" if isinstance(c, Line2) else "a" if isinstance(c, (Arc2, Circle2)) else "s" for c in curves], dtype="U1"
        )
        self.a, self.b, self.centre = np.zeros((n, 2)), np.zeros((n, 2)), np.zeros((n, 2))
        self.radius, self.start, self.sweep = np.ones(n), np.zeros(n), np.ones(n)
        self.low, self.high, self.length = np.zeros((n, 2)), np.zeros((n, 2)), np.ones(n)
        self.closed = np.zeros(n, bool)
        for index, curve in enumerate(curves):
            if isinstance(curve, Line2):
                self.a[index], self.b[index] = curve.a, curve.b
            elif isinstance(curve, Circle2):
                self.centre[index], self.radius[index], self.sweep[index] = curve.centre, curve.radius, curve.sweep
                self.closed[index] = True
            elif isinstance(curve, Arc2):
                self.a[index], self.b[index], self.centre[index] = curve.a, curve.b, curve.centre
                self.radius[index], self.start[index], self.sweep[index] = curve.radius, curve.start, curve.sweep
            else:
                self.closed[index] = isinstance(curve, Ellipse2) and curve.closed
                points = curve.sampled(48)
                self.a[index], self.b[index] = points[0], points[-1]
                spare = float(np.hypot(*np.diff(points, axis=0).T).max())
                self.low[index], self.high[index] = points.min(axis=0) - spare, points.max(axis=0) + spare
                self.length[index] = np.hypot(*np.diff(points, axis=0).T).sum()
        lines, rounds = self.kind == "l", self.kind == "a"
        self.low[lines] = np.minimum(self.a[lines], self.b[lines])
        self.high[lines] = np.maximum(self.a[lines], self.b[lines])
        self.low[rounds] = self.centre[rounds] - self.radius[rounds, None]
        self.high[rounds] = self.centre[rounds] + self.radius[rounds, None]
        self.length[lines] = np.hypot(*(self.b - self.a)[lines].T)
        self.length[rounds] = np.abs(self.sweep[rounds]) * self.radius[rounds]

    def round_at(self, index: Indices, points: Floats) -> tuple[Floats, NDArray[np.bool_]]:
        """Parameters on rounds of points that lie on their circles, and whether they lie on the arcs."""
        away = points - self.centre[index]
        sign = np.sign(self.sweep[index])
        turn = sign * (np.arctan2(away[..., 1], away[..., 0]) - self.start[index])
        turn = np.mod(turn, 2 * np.pi)
        whole = np.abs(self.sweep[index])
        slack = 4 * CLOSE / self.radius[index]
        turn = np.where(turn > 2 * np.pi - slack, turn - 2 * np.pi, turn)
        t = turn / whole
        return np.clip(t, 0.0, 1.0), self.closed[index] | (turn <= whole + slack)


def _near_pairs(table: _Table, only: int | None) -> tuple[Indices, Indices]:
    low, high = table.low - CLOSE, table.high + CLOSE
    if only is not None:
        near = ((low <= high[only]) & (high >= low[only])).all(axis=1)
        near[only] = False
        others = np.nonzero(near)[0]
        return np.full(len(others), only), others
    near = ((low[:, None] <= high[None]) & (high[:, None] >= low[None])).all(axis=2)
    first, second = np.nonzero(np.triu(near, 1))
    return first, second


_Found = tuple[Floats, Floats, NDArray[np.bool_]]


def _line_line(table: _Table, i: Indices, k: Indices) -> list[_Found]:
    p, q = table.a[i], table.a[k]
    u, v = table.b[i] - p, table.b[k] - q
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    parallel = np.abs(cross) <= 1e-12 * table.length[i] * table.length[k]
    safe = np.where(parallel, 1.0, cross)
    away = q - p
    t = (away[:, 0] * v[:, 1] - away[:, 1] * v[:, 0]) / safe
    s = (away[:, 0] * u[:, 1] - away[:, 1] * u[:, 0]) / safe
    good = ~parallel & _within(t, table.length[i]) & _within(s, table.length[k])
    return [(np.clip(t, 0, 1), np.clip(s, 0, 1), good)]


def _within(t: Floats, length: Floats) -> NDArray[np.bool_]:
    slack = CLOSE / np.maximum(length, CLOSE)
    return (t >= -slack) & (t <= 1 + slack)


def _line_round(table: _Table, i: Indices, k: Indices) -> list[_Found]:
    p, direction, length = table.a[i], table.b[i] - table.a[i], np.maximum(table.length[i], 1e-12)
    u = direction / length[:, None]
    away = table.centre[k] - p
    along = (away * u).sum(axis=1)
    off = u[:, 0] * away[:, 1] - u[:, 1] * away[:, 0]
    short = table.radius[k] ** 2 - off**2
    touch = np.abs(np.abs(off) - table.radius[k]) <= CLOSE
    half = np.sqrt(np.maximum(np.where(touch, 0.0, short), 0.0))
    hits = []
    for side in (-1.0, 1.0):
        at = along + side * half
        points = p + at[:, None] * u
        s, on = table.round_at(k, points)
        good = ((short >= 0) | touch) & _within(at / length, length) & on
        hits.append((np.clip(at / length, 0, 1), s, good & ~(touch & (side > 0))))
    return hits


def _round_round(table: _Table, i: Indices, k: Indices) -> list[_Found]:
    c1, c2, r1, r2 = table.centre[i], table.centre[k], table.radius[i], table.radius[k]
    between = c2 - c1
    d = np.hypot(between[:, 0], between[:, 1])
    apart = d > CLOSE
    u = between / np.where(apart, d, 1.0)[:, None]
    touch = apart & ((np.abs(d - r1 - r2) <= CLOSE) | (np.abs(d - np.abs(r1 - r2)) <= CLOSE))
    along = (d**2 + r1**2 - r2**2) / (2 * np.where(apart, d, 1.0))
    along = np.where(touch, np.sign(along) * r1, along)
    short = r1**2 - along**2
    half = np.sqrt(np.maximum(np.where(touch, 0.0, short), 0.0))
    normal = np.column_stack([-u[:, 1], u[:, 0]])
    hits = []
    for side in (-1.0, 1.0):
        points = c1 + along[:, None] * u + side * half[:, None] * normal
        t, on_first = table.round_at(i, points)
        s, on_second = table.round_at(k, points)
        good = apart & ((short >= 0) | touch) & on_first & on_second & ~(touch & (side > 0))
        hits.append((t, s, good))
    return hits


def _by_chords(first: Curve2, second: Curve2) -> tuple[Floats, Floats]:
    """Parameters where two curves, or one and itself, cross: chords that cross are refined by Newton."""
    t, u = _chord_parameters(first), _chord_parameters(second)
    budget.spend(_CHORD_PAIR * len(t) * len(u))
    p, q = first.at(t), second.at(u)
    a, da = p[:-1, None], (p[1:] - p[:-1])[:, None]
    b, db = q[None, :-1], (q[1:] - q[:-1])[None]
    cross = da[..., 0] * db[..., 1] - da[..., 1] * db[..., 0]
    safe = np.where(np.abs(cross) < 1e-15, 1.0, cross)
    away = b - a
    x = (away[..., 0] * db[..., 1] - away[..., 1] * db[..., 0]) / safe
    y = (away[..., 0] * da[..., 1] - away[..., 1] * da[..., 0]) / safe
    slack = 0.05
    hit = (np.abs(cross) > 1e-15) & (x > -slack) & (x < 1 + slack) & (y > -slack) & (y < 1 + slack)
    if first is second:
        i, k = np.indices(hit.shape)
        hit &= k - i > 1
    rows, columns = np.nonzero(hit)
    near = np.zeros_like(hit) if first is second else _grazing(first, second, t, u, p, q)
    near_rows, near_columns = np.nonzero(near)
    seeds_first = [t[rows] + x[rows, columns] * (t[rows + 1] - t[rows]), t[near_rows], t[near_rows + 1]]
    along = (da[near_rows, 0] * db[0, near_columns]).sum(axis=1) >= 0
    seeds_second = [
        u[columns] + y[rows, columns] * (u[columns + 1] - u[columns]),
        np.where(along, u[near_columns], u[near_columns + 1]),
        np.where(along, u[near_columns + 1], u[near_columns]),
    ]
    start, other = np.concatenate(seeds_first), np.concatenate(seeds_second)
    return _refined(first, second, start, other) if len(start) else (start, other)


def _grazing(first: Curve2, second: Curve2, t: Floats, u: Floats, p: Floats, q: Floats) -> NDArray[np.bool_]:
    """Chord pairs that come nearer than what their curves may bulge: they may cross twice where the chords do not."""

    def bulge(curve: Curve2, at: Floats, ends: Floats) -> tuple[Floats, Floats]:
        middle = (ends[1:] + ends[:-1]) / 2
        return middle, np.hypot(*(curve.at((at[1:] + at[:-1]) / 2) - middle).T)

    (m, sag), (n, other_sag) = bulge(first, t, p), bulge(second, u, q)
    length, other_length = np.hypot(*np.diff(p, axis=0).T), np.hypot(*np.diff(q, axis=0).T)
    unit = np.diff(p, axis=0) / np.maximum(length, 1e-12)[:, None]
    away = n[None] - m[:, None]
    off = np.abs(unit[:, None, 0] * away[..., 1] - unit[:, None, 1] * away[..., 0])
    reach = (length[:, None] + other_length) / 2
    turn = np.diff(q, axis=0) / np.maximum(other_length, 1e-12)[:, None]
    slant = np.abs(unit[:, None, 0] * turn[None, :, 1] - unit[:, None, 1] * turn[None, :, 0])
    return np.asarray(
        (off < 2 * (sag[:, None] + other_sag) + slant * reach) & (slant < 0.3) & ((away**2).sum(axis=2) < reach**2)
    )


def _refined(first: Curve2, second: Curve2, t: Floats, u: Floats) -> tuple[Floats, Floats]:
    h = 1e-6
    # Each seed may move by two chords at most, or two crossings that lie close would be found as one.
    t_near, u_near = 2 / (len(_chord_parameters(first)) - 1), 2 / (len(_chord_parameters(second)) - 1)
    t_seed, u_seed = t, u
    for _ in range(12):
        gap = second.at(u) - first.at(t)
        da = (first.at(t + h) - first.at(t - h)) / (2 * h)
        db = (second.at(u + h) - second.at(u - h)) / (2 * h)
        cross = da[:, 0] * db[:, 1] - da[:, 1] * db[:, 0]
        safe = np.where(np.abs(cross) < 1e-12, np.inf, cross)
        t = np.clip(t + (gap[:, 0] * db[:, 1] - gap[:, 1] * db[:, 0]) / safe, t_seed - t_near, t_seed + t_near)
        u = np.clip(u + (gap[:, 0] * da[:, 1] - gap[:, 1] * da[:, 0]) / safe, u_seed - u_near, u_seed + u_near)
    t, u = np.clip(t, 0, 1), np.clip(u, 0, 1)
    close = np.hypot(*(second.at(u) - first.at(t)).T) < CLOSE
    if first is second:
        close &= np.abs(t - u) > 1e-4
    return t[close], u[close]


def _chord_parameters(curve: Curve2) -> Floats:
    if isinstance(curve, Line2):
        return np.array([0.0, 1.0])
    pieces = len(getattr(curve, "spans", (1, 1, 1)))
    return np.linspace(0.0, 1.0, _CHORDS * pieces + 1)


def _ends_on(
    table: _Table, curves: Sequence[Curve2], first: Indices, second: Indices
) -> tuple[Indices, Floats, NDArray[np.bool_]]:
    """Curves cut by ends of others that lie on them, looked for where their boxes meet."""
    owners, onto = np.concatenate([first, second]), np.concatenate([second, first])
    open_ = ~table.closed[owners]
    owners, onto = owners[open_], onto[open_]
    ends, onto = np.concatenate([table.a[owners], table.b[owners]]), np.concatenate([onto, onto])
    rows: list[tuple[Indices, Floats]] = []
    straight = table.kind[onto] == "l"
    if straight.any():
        k, p = onto[straight], ends[straight]
        away, direction = p - table.a[k], table.b[k] - table.a[k]
        t = np.clip((away * direction).sum(axis=1) / np.maximum((direction**2).sum(axis=1), 1e-18), 0, 1)
        near = ((away - t[:, None] * direction) ** 2).sum(axis=1) < CLOSE**2
        rows.append((k[near], t[near]))
    rounds = table.kind[onto] == "a"
    if rounds.any():
        k, p = onto[rounds], ends[rounds]
        away = p - table.centre[k]
        near = np.abs(np.hypot(away[:, 0], away[:, 1]) - table.radius[k]) < CLOSE
        t, on = table.round_at(k[near], p[near])
        rows.append((k[near][on], t[on]))
    for index in np.unique(onto[table.kind[onto] == "s"]).tolist():
        p = ends[onto == index]
        t = nearest(curves[index], p)
        near = np.hypot(*(curves[index].at(t) - p).T) < CLOSE
        rows.append((np.full(int(near.sum()), index), t[near]))
    curve = np.concatenate([row[0] for row in rows]) if rows else np.empty(0, np.int64)
    at = np.concatenate([row[1] for row in rows]) if rows else np.empty(0)
    return curve, at, np.ones(len(at), bool)


def nearest(curve: Curve2, points: Floats) -> Floats:
    """Parameters on a curve nearest to points (k, 2)."""
    t = _chord_parameters(curve) if not isinstance(curve, Line2) else np.linspace(0, 1, 33)
    samples = curve.at(t)
    best = t[((samples[None] - points[:, None]) ** 2).sum(axis=2).argmin(axis=1)]
    h = 1e-5
    for _ in range(12):
        here, ahead, behind = curve.at(best), curve.at(best + h), curve.at(best - h)
        slope, bend = (ahead - behind) / (2 * h), (ahead - 2 * here + behind) / h**2
        off = here - points
        change = (off * slope).sum(axis=1)
        steep = (slope**2).sum(axis=1) + (off * bend).sum(axis=1)
        steep = np.where(steep > 1e-12, steep, (slope**2).sum(axis=1) + 1e-12)
        best = np.clip(best - np.clip(change / steep, -0.05, 0.05), 0.0, 1.0)
    return np.asarray(best)
