"""Where the points of an outline go when it is widened or narrowed: each to a place on the other outline, in order.

Strips drawn between the two must not cross, so the places are found by a monotone fit: every point would like to go straight
across, along the bisector of its corner, but none may overtake the one before it.
"""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.optimize import isotonic_regression
from shapely.geometry.polygon import orient

from supplecast.geometry import Floats

_SHARE = 0.15  # of its own share of the new outline: the least that a piece keeps
_STRAYED = 0.05  # of the width: a place that far off the new outline hardly counts
_RISE = math.tan(math.radians(7))  # the strip beside a piece that stands upright opens out by this
_SAME = 1e-9
_TILES = 1e-6


def matched(outline: Floats, width: float, rises: Floats, *, inwards: bool = False) -> Floats | None:
    """The place of each point (n, 2) of a closed outline, run counter-clockwise, on the one `width` mm outside or inside of it.

    `rises` (n,) mm are the heights of pieces, each from its point to the next, that have no length in this view. None where
    the new outline comes apart, or where strips would cross.
    """
    shape = shapely.Polygon(outline)
    if not shape.is_valid:
        return None
    wide = shape.buffer(-width if inwards else width, quad_segs=16)
    if wide.geom_type != "Polygon" or wide.is_empty:
        return None
    ring = shapely.LinearRing(orient(shapely.Polygon(wide.exterior)).exterior)
    targets = outline + (-width if inwards else width) * _bisectors(outline)
    spots = shapely.points(targets)
    wishes = shapely.line_locate_point(ring, spots)
    weights = np.where(shapely.distance(ring, spots) < _STRAYED * width, 1.0, 0.05)
    sound = np.flatnonzero(weights == 1.0)
    if not len(sound):
        return None
    first = int(sound[outline[sound, 0].argmax()])
    places = _in_order(np.roll(outline, -first, axis=0), np.roll(wishes, -first), np.roll(weights, -first),
                       np.roll(rises, -first), ring.length)  # fmt: skip
    if places is None:
        return None
    at = (places + wishes[first]) % ring.length
    offset = np.roll(shapely.get_coordinates(shapely.line_interpolate_point(ring, at)), first, axis=0)
    return offset if _tiles(outline, offset, -1.0 if inwards else 1.0) else None


def _in_order(outline: Floats, wishes: Floats, weights: Floats, rises: Floats, length: float) -> Floats | None:
    """Places along the new outline from that of the first point on: as near to the wishes as their order allows."""
    steps = np.linalg.norm(np.roll(outline, -1, axis=0) - outline, axis=1)
    share = length * steps / steps.sum()
    expected = np.concatenate([[0.0], np.cumsum(share)])[:-1]
    gaps = np.where(steps > _SAME, _SHARE * share, rises * _RISE)
    if gaps.sum() >= length:
        return None
    before = np.concatenate([[0.0], np.cumsum(gaps)])
    wished = wishes - wishes[0]
    wished += length * np.round((expected - wished) / length)
    goals = np.concatenate([wished, [length]]) - before
    held = np.concatenate([weights, [1e6]])
    held[0] = 1e6
    places: Floats = (isotonic_regression(goals, weights=held).x + before)[:-1]
    return places


def outwards(outline: Floats) -> Floats:
    """The direction out of a counter-clockwise outline at each of its points, (n, 2)."""
    return _bisectors(outline)


def _bisectors(outline: Floats) -> Floats:
    """Unit vectors out of a counter-clockwise outline at each point, between those of the pieces before and after it."""
    ahead = _directions(outline)
    behind = -_directions(outline[::-1])[::-1]
    out = np.column_stack([ahead[:, 1] + behind[:, 1], -ahead[:, 0] - behind[:, 0]])
    sizes = np.linalg.norm(out, axis=1, keepdims=True)
    straight = np.column_stack([ahead[:, 1], -ahead[:, 0]])
    bisectors: Floats = np.where(sizes > 1e-6, out / np.maximum(sizes, 1e-12), straight)
    return bisectors


def _directions(outline: Floats) -> Floats:
    """The direction from each point to the next one that lies elsewhere."""
    count = len(outline)
    directions = np.zeros_like(outline)
    for turn in range(1, count):
        step = np.roll(outline, -turn, axis=0) - outline
        size = np.linalg.norm(step, axis=1)
        open_ = (np.abs(directions).sum(axis=1) == 0) & (size > _SAME)
        directions[open_] = step[open_] / size[open_, None]
        if (np.abs(directions).sum(axis=1) > 0).all():
            break
    return directions


def _tiles(inner: Floats, outer: Floats, sense: float) -> bool:
    """Whether the strips between two outlines all lie the right way round and cover nothing twice."""
    quads = np.stack([inner, outer, np.roll(outer, -1, axis=0), np.roll(inner, -1, axis=0)], axis=1)
    if sense < 0:
        quads = quads[:, ::-1]
    shapes = shapely.polygons(quads)
    areas = shapely.area(shapes)
    turns = _signed(quads)
    if (turns < -_SAME).any() or not shapely.is_valid(shapes[areas > _SAME]).all():
        return False
    return bool(abs(shapely.union_all(shapes[areas > _SAME]).area - turns.sum()) < _TILES * turns.sum())


def _signed(quads: Floats) -> Floats:
    x, y = quads[:, :, 0], quads[:, :, 1]
    areas: Floats = (x * np.roll(y, -1, axis=1) - np.roll(x, -1, axis=1) * y).sum(axis=1) / 2
    return areas
