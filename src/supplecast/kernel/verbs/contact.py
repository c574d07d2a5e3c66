"""Whether two solids share space, or touch along no more than an edge or a point."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from OCP.BRepAlgoAPI import BRepAlgoAPI_BuilderAlgo
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_VERTEX

from supplecast.geometry import Vec, subtract, unit
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.shape import ShapeList, Solid, mapped, solids_in
from supplecast.kernel.verbs import boolean

_NEAR = 1e-6


@dataclass(frozen=True)
class Contact:
    """What two solids share: `space` of a volume in mm³, only an `edge`, or only a `point`; a place in it; and the way in which
    the second would have to go to come into the first.
    """

    kind: Literal["space", "edge", "point"]
    place: Vec
    volume: float
    direction: Vec


def between(first: Solid, second: Solid) -> Contact | None:
    """What is wrong between two solids; None if they stand apart or touch along a face, as neighbours may."""
    a, b = measure.loose_box(first), measure.loose_box(second)
    if any(a.high[i] < b.low[i] - _NEAR or b.high[i] < a.low[i] - _NEAR for i in range(3)):
        return None
    near = BRepExtrema_DistShapeShape(first.shape, second.shape)
    if not near.IsDone() or near.Value() > _NEAR:
        return None
    centres = measure.rough_centroid(first), measure.rough_centroid(second)
    shared = boolean.common(first, [second])
    if shared:
        largest = max(shared, key=lambda made: measure.rough_volume(made.solid))
        volume = sum(measure.rough_volume(made.solid) for made in shared)
        if volume > 1e-9 * min(measure.rough_volume(first), measure.rough_volume(second)):
            return Contact("space", measure.mass(largest.solid).centroid, volume, _towards(centres[1], centres[0]))
    kind, place = _shared(first, second)
    return None if kind == "face" else Contact(kind, place, 0.0, _towards(place, centres[0]))


def _towards(start: Vec, end: Vec) -> Vec:
    direction = subtract(end, start)
    return unit(direction) if any(abs(c) > 1e-9 for c in direction) else (1.0, 0.0, 0.0)


def _shared(first: Solid, second: Solid) -> tuple[Literal["face", "edge", "point"], Vec]:
    """The largest kind of thing that lies in both, found by cutting each along the other, and a place in it."""
    maker = BRepAlgoAPI_BuilderAlgo()
    both = ShapeList()
    both.Append(first.shape)
    both.Append(second.shape)
    maker.SetArguments(both)
    maker.Build()
    parts = solids_in(maker.Shape())
    kinds: list[tuple[Literal["face", "edge", "point"], object]] = [
        ("face", TopAbs_FACE),
        ("edge", TopAbs_EDGE),
        ("point", TopAbs_VERTEX),
    ]
    for kind, what in kinds:
        held = [mapped(part.shape, what) for part in parts]
        for number, mine in enumerate(held):
            for other in held[number + 1 :]:
                for index in range(1, int(mine.Extent()) + 1):
                    if other.Contains(mine.FindKey(index)):
                        corner = mapped(mine.FindKey(index), TopAbs_VERTEX)
                        return kind, measure.vertex_point(Solid.as_vertex(corner.FindKey(1)))
    return "face", (0.0, 0.0, 0.0)
