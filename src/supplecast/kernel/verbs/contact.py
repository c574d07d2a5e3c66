"""Whether two solids share space, or touch along no more than an edge or a point."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal
from weakref import WeakKeyDictionary

from OCP.BRepAlgoAPI import BRepAlgoAPI_BuilderAlgo
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_VERTEX

from supplecast.geometry import Vec, subtract, unit
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.history import FaceOf
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.shape import ShapeList, Solid, mapped, solids_in
from supplecast.kernel.verbs import boolean

_NEAR = 1e-6
_SPARE = 1e-9  # of the smaller one's volume: less is rounding


@dataclass(frozen=True)
class Contact:
    """What two solids share: `space` of a volume in mm³, only an `edge`, or only a `point`; a place in it; and the way in which
    the second would have to go to come into the first.
    """

    kind: Literal["space", "edge", "point"]
    place: Vec
    volume: float
    direction: Vec


@dataclass(frozen=True)
class Overlap:
    """The space that two solids have in common: its volume in mm³, the centroid of its largest piece, and which faces of the
    one and of the other bound it.
    """

    volume: float
    place: Vec
    faces: tuple[tuple[int, ...], tuple[int, ...]]


_OVERLAPS: Memo[WeakKeyDictionary[Solid, Overlap | None]] = Memo("what it has in common with other bodies")


def overlap(first: Solid, second: Solid) -> Overlap | None:
    """What two solids have in common, remembered as long as both are there; None for nothing. KernelError if not found."""
    known = _OVERLAPS.of(first, WeakKeyDictionary)
    if second not in known:
        known[second] = _overlap(first, second)
    return known[second]


def _overlap(first: Solid, second: Solid) -> Overlap | None:
    pieces = boolean.common(first, [second])
    volume = sum(measure.volume(piece.solid) for piece in pieces)
    if volume <= _SPARE * min(measure.rough_volume(first), measure.rough_volume(second)):
        return None
    largest = max(pieces, key=lambda piece: measure.volume(piece.solid))
    sources = {s for piece in pieces for row in piece.origins for o in row for s in o.sources if isinstance(s, FaceOf)}
    own, others = (tuple(sorted(s.face for s in sources if s.body == body)) for body in (0, 1))
    return Overlap(volume, measure.mass(largest.solid).centroid, (own, others))


def between(first: Solid, second: Solid) -> Contact | None:
    """What is wrong between two solids; None if they stand apart or touch along a face, as neighbours may."""
    a, b = measure.loose_box(first), measure.loose_box(second)
    if any(a.high[i] < b.low[i] - _NEAR or b.high[i] < a.low[i] - _NEAR for i in range(3)):
        return None
    near = BRepExtrema_DistShapeShape(first.shape, second.shape)
    if not near.IsDone() or near.Value() > _NEAR:
        return None
    centres = measure.rough_centroid(first), measure.rough_centroid(second)
    shared = overlap(first, second)
    if shared is not None:
        return Contact("space", shared.place, shared.volume, _towards(centres[1], centres[0]))
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
