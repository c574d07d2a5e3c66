"""A drawing as areas to be raised or sunk: the filled shapes of an SVG, their curves as chords, as letters have them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import numpy as np
from shapely import Polygon, unary_union
from shapely.affinity import affine_transform
from shapely.errors import GEOSException

from supplecast.curves import Line2, Region
from supplecast.errors import SketchError
from supplecast.geometry import Floats
from supplecast.sketch.letters import Align, Letter

_MOST_CORNERS = 3000
_MOST_AREAS = 200
_FINEST = 0.02  # mm that chords may be off, or a share of the height where that is more
_COARSE = 1 / 400
_SPECK = 1e-4  # of the height, squared: areas that no tool would cut
_STEPS = 24  # points along each curve, of which as few are taken as will do
_ARROW: Floats = np.array([[0, 50], [38, 0], [14, 0], [14, -50], [-14, -50], [-14, 0], [-38, 0]], dtype=float)


def emblem(content: bytes | None, height: float, align: Align = "centre", *, mirrored: bool = False) -> list[Letter]:
    """The filled areas of a drawing `height` mm high, standing on the x axis; an arrow where there is none. `align` puts the
    origin at its left end, its middle or its right end. SketchError for one that holds no areas, or too much.
    """
    shapes = [Polygon(_ARROW)] if content is None else list(_filled(content))
    try:
        whole = unary_union(shapes)
    except GEOSException as fault:
        raise SketchError("The shapes of the drawing cannot be put together.", "Simplify it and save it again.") from fault
    if whole.is_empty:
        raise SketchError("The drawing holds no filled shapes.", "Fill its outlines, or turn strokes into paths.")
    left, low, right, high = whole.bounds
    scale = height / max(high - low, 1e-9)
    shift = {"left": -left, "centre": -(left + right) / 2, "right": -right}[align]
    side = -1.0 if mirrored else 1.0
    laid = affine_transform(whole, [side * scale, 0, 0, scale, side * scale * shift, -low * scale])
    laid = laid.simplify(max(_FINEST, height * _COARSE) / 2)
    pieces = [p for p in getattr(laid, "geoms", [laid]) if p.area > _SPECK * height * height]
    corners = sum(len(ring.coords) for p in pieces for ring in (p.exterior, *p.interiors))
    if len(pieces) > _MOST_AREAS or corners > _MOST_CORNERS:
        raise SketchError(
            f"The drawing has {len(pieces)} areas with {corners} corners.", f"Simplify it to {_MOST_CORNERS} corners at most."
        )
    pieces.sort(key=lambda p: (round(p.centroid.x, 3), round(p.centroid.y, 3)))
    return [Letter(number, _region(piece, number)) for number, piece in enumerate(pieces, 1)]


def _filled(content: bytes) -> Iterator[Any]:
    """The filled shapes of an SVG, y upwards."""
    from defusedxml import ElementTree as ET
    from svgpathtools.document import flattened_paths

    try:
        root = ET.fromstring(content)
        paths = list(flattened_paths(root))
    except (ET.ParseError, ValueError, KeyError, IndexError, TypeError, AttributeError, AssertionError) as fault:
        raise SketchError("The drawing cannot be read as SVG.", "Save it again, as plain SVG.") from fault
    for path in paths:
        style = path.element.get("style", "")
        if path.element.get("fill") == "none" or re.search(r"fill\s*:\s*none", style):
            continue
        even = "evenodd" in (path.element.get("fill-rule", "") + style)
        yield _shape([ring for sub in path.continuous_subpaths() if len(ring := _ring(sub)) > 2], even=even)


def _ring(path: Any) -> Floats:
    """A subpath as its corners, (n, 2), y upwards."""
    places: list[complex] = []
    for piece in path:
        straight = type(piece).__name__ == "Line"
        steps = np.linspace(0, 1, 2 if straight else _STEPS + 1)[:-1]
        places += [piece.point(float(t)) for t in steps]
    return np.array([[z.real, -z.imag] for z in places]).reshape(-1, 2)


def _shape(rings: list[Floats], *, even: bool) -> Any:
    """What rings fill by the rule that counts crossings, or by that which counts turns (SVG 1.1, fill-rule)."""
    whole = Polygon()
    turns: list[tuple[Any, float]] = []
    for ring in rings:
        area = Polygon(ring).buffer(0)
        x, y = ring[:, 0], ring[:, 1]
        sense = float(np.sign((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()))
        if even:
            whole = whole.symmetric_difference(area)
        else:
            turns.append((area, sense))
    for area, sense in sorted(
        turns, key=lambda one: -one[0].area
    ):  # of rings within each other, those that turn back are holes
        within = sum(other for held, other in turns if held is not area and held.contains(area))
        whole = whole.difference(area) if within + sense == 0 else whole.union(area)
    return whole


def _region(piece: Any, number: int) -> Region:
    rings = [np.array(ring.coords)[:-1] for ring in (piece.exterior, *piece.interiors)]
    loops = [_loop(ring, f"t{number}c{k}", ccw=k == 0) for k, ring in enumerate(rings)]
    return Region(loops[0], tuple(loops[1:]))


def _loop(points: Floats, name: str, *, ccw: bool) -> tuple[Line2, ...]:
    x, y = points[:, 0], points[:, 1]
    runs_left = (x * np.roll(y, -1) - np.roll(x, -1) * y).sum() > 0
    ordered = points if runs_left == ccw else points[::-1]
    corners = [(float(px), float(py)) for px, py in ordered]
    pairs = zip(corners, [*corners[1:], corners[0]], strict=True)
    return tuple(Line2(f"{name}s{n}", a, b) for n, (a, b) in enumerate(pairs))
