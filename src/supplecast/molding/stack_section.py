"""A section through the stack of a tool as shops draw it: the fixed side above, the cut stepped so that parts, sprue and guides
are all seen.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from manifold3d import CrossSection
from shapely.geometry import Polygon

from supplecast.geometry import Floats, Frame, Point2, Vec
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import opening
from supplecast.molding.stack_drawing import Cut, Label, StackSection

_MIDDLE = 0.12  # of the length: the strip in the middle that is cut through the sprue
_LEAST = 0.5  # mm²: less is not drawn
_TINY = 0.02  # mm by which outlines may be off where they are thinned


def stack_section(
    bodies: Sequence[tuple[str, str, Solid]], pull: Vec, items: Mapping[str, int], through: tuple[Vec, Vec, Vec]
) -> StackSection | None:
    """Bodies, each with its id and role, cut along the pull and the longer side of the tool: to the left through the first of
    three places, in the middle through the second, to the right through the last. None if nothing is cut.
    """
    level = Frame.lying((0.0, 0.0, 0.0), pull)
    long, short = axes(level, [opening.meshed(solid).box for _, _, solid in bodies])
    turn = np.column_stack([long, -np.array(pull), short])  # x to the right, y up from the moving to the fixed side
    if np.linalg.det(turn) < 0:
        turn[:, 2] *= -1.0
    motion = np.hstack([turn.T, np.zeros((3, 1))])
    turned = {body: opening.meshed(solid).manifold.transform(motion) for body, _, solid in bodies}
    boxes = np.array([one.bounding_box() for one in turned.values()])
    low, high = boxes[:, :2].min(axis=0), boxes[:, 3:5].max(axis=0)
    strip = _MIDDLE * (high[0] - low[0]) / 2
    middle = (low[0] + high[0]) / 2
    ends = (low[0], middle - strip, middle + strip, high[0])
    zones = [(a, b, float(np.array(place) @ turn[:, 2])) for a, b, place in zip(ends, ends[1:], through, strict=False)]
    cuts = []
    for body, role, _ in bodies:
        whole = CrossSection()
        for start, end, across in zones:
            window = CrossSection([[(start, low[1]), (end, low[1]), (end, high[1]), (start, high[1])]])
            whole += turned[body].slice(across) ^ window
        loops = [loop - low for loop in whole.simplify(_TINY).to_polygons()]
        if loops and whole.area() > _LEAST:
            cuts.append(Cut(body, role, items.get(body, 0), [[(float(x), float(y)) for x, y in loop] for loop in loops]))
    if not cuts:
        return None
    return StackSection(float(high[0] - low[0]), float(high[1] - low[1]), cuts, _labels(cuts))


def axes(level: Frame, boxes: Sequence[tuple[Floats, Floats]]) -> tuple[Floats, Floats]:
    """The axes along the longer and the shorter side across the pull, of length 1."""
    low, high = np.min([box[0] for box in boxes], axis=0), np.max([box[1] for box in boxes], axis=0)
    x, y = np.array(level.x), np.array(level.y)
    first, second = abs((high - low) @ np.abs(x)), abs((high - low) @ np.abs(y))
    return (x, y) if first >= second else (y, x)


def _labels(cuts: Sequence[Cut]) -> list[Label]:
    """One for each item, in the largest piece of it that is seen."""
    best: dict[int, tuple[float, Point2]] = {}
    for cut in cuts:
        for loop in cut.loops:
            piece = Polygon(loop)
            if cut.item and piece.is_valid and piece.area > best.get(cut.item, (0.0, (0.0, 0.0)))[0]:
                spot = piece.representative_point()
                best[cut.item] = piece.area, (float(spot.x), float(spot.y))
    return [Label(item, place) for item, (_, place) in sorted(best.items())]
