"""Bodies of an assembly drawn apart: one behind the other along the axis along which they follow each other best."""

from __future__ import annotations

from collections.abc import Mapping

from supplecast.document.stroke import Leg, Stage, Stroke
from supplecast.geometry import AXES, Box, Vec, times

_BETWEEN = 0.12  # of the longest body: the room left between two of them


def drawn_apart(boxes: Mapping[str, Box]) -> Stroke | None:
    """Bodies of an assembly moved apart at once; None where there are less than two."""
    moved = apart(boxes)
    if len(moved) < 2:
        return None
    return Stroke([Stage("drawn apart", 1.0)], {name: [Leg(0.0, 1.0, by)] for name, by in moved.items()})


def apart(boxes: Mapping[str, Box]) -> dict[str, Vec]:
    """How far each body is moved, mm, so that no box meets another one; the middle of all of them stays where it is."""
    if len(boxes) < 2:
        return dict.fromkeys(boxes, (0.0, 0.0, 0.0))
    axis = max(range(3), key=lambda k: (_spread(boxes, k), k))
    order = sorted(boxes, key=lambda name: (boxes[name].centre[axis], boxes[name].size[axis]))
    room = _BETWEEN * max(box.size[axis] for box in boxes.values())
    low, high = min(box.low[axis] for box in boxes.values()), max(box.high[axis] for box in boxes.values())
    length = sum(boxes[name].size[axis] for name in order) + room * (len(order) - 1)
    at = (low + high - length) / 2
    moved = {}
    for name in order:
        moved[name] = times(AXES[axis], at - boxes[name].low[axis])
        at += boxes[name].size[axis] + room
    return {name: moved[name] for name in boxes}


def _spread(boxes: Mapping[str, Box], axis: int) -> float:
    """How far the middles lie apart along an axis, against how long the bodies are there."""
    middles = [box.centre[axis] for box in boxes.values()]
    return (max(middles) - min(middles)) / max(max(box.size[axis] for box in boxes.values()), 1e-9)
