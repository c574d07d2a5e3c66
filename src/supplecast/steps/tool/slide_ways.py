"""Ways of slides: how far the part that they form reaches along them, and how far they go, to the stop pin before each."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast import kernel
from supplecast.document.state import Entry
from supplecast.geometry import cross, dot, unit
from supplecast.steps.tool.marks import forms_part

CLEAR = 3.0
"""Mm that a slide moves on once its undercut is free (common practice, no source)."""
_LEAST = 0.01  # mm


def forming(slide: Entry) -> tuple[float, float]:
    """From where to where along a slide's way the faces lie that form the part, mm; where none does, its inner end."""
    way, solid = slide.pull or (1.0, 0.0, 0.0), slide.body.solid
    formed = [face for face, tags in enumerate(slide.body.tags) if forms_part(tags)]
    reached = [dot(corner, way) for face in formed for corner in kernel.measure.face_box(solid, face).corners]
    inner = kernel.measure.span(solid, way)[0]
    return min(reached, default=inner), max(reached, default=inner)


def stroke_to_stop(bodies: Sequence[Entry], slide: Entry) -> float | None:
    """Mm from the outer end of a slide to the stop pin before it; None where there is none."""
    way = slide.pull or (1.0, 0.0, 0.0)
    end = kernel.measure.span(slide.body.solid, way)[1]
    found = []
    for stop in (e for e in bodies if e.stock and e.stock.kind == "Stop pin" and e.pull):
        across = unit(cross(stop.pull or way, way))
        low, high = kernel.measure.span(slide.body.solid, across)
        middle = kernel.measure.box(stop.body.solid).centre
        if stop.stock and low < dot(middle, across) < high:
            gap = dot(middle, way) - stop.stock.sizes[0] / 2 - end
            found += [gap] if gap > _LEAST else []
    return min(found, default=None)
