"""Shut-offs: patches across the openings of a part, on which the halves of the mold meet.

The ways to close a loop are tried in order: flat; on the surface of the face it runs round; a level band inwards with a flat
middle; a fitted surface. The first that can be seen from ahead everywhere is taken.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepFill import BRepFill
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeFilling
from OCP.GeomAbs import GeomAbs_Shape
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, vec
from supplecast.kernel.measuring import facing, measure
from supplecast.kernel.molds import offset_matching, parting
from supplecast.kernel.molds.parting import UPRIGHT, Loop, Sampled
from supplecast.kernel.molds.parting_surface import forward, strung
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import EdgeOf, Made, Origin
from supplecast.kernel.shapes.shape import Solid, Surface, is_valid, listed
from supplecast.kernel.verbs.sewing import Piece, joined

_BANDS = (4.0, 2.0, 1.2, 0.8, 0.5)
_LOOSE = 1e-3  # mm that a fitted surface may be off the loop


@dataclass(frozen=True)
class ShutOff:
    """A patch, in the role `shut-off` of the edges of its loop, how it was made, its area in mm² and its least angle to the
    pull, rad.
    """

    made: Made
    direction: str
    area: float
    angle: float


def shut_off(part: Solid, loop: Loop, pull: Vec) -> ShutOff:
    """The patch across a loop. KernelError, naming the loop's edges, if every way fails."""
    for direction, maker in _WAYS:
        for pieces in _tried(maker, part, loop, pull):
            try:
                made = joined(pieces, ahead=pull)
                drafts = facing.drafts(made.solid, pull)
            except REFUSALS:
                continue
            area = sum(measure.face_area(made.solid, face) for face in range(made.solid.face_count))
            if area > 1e-6 and drafts[:, 0].min() >= -UPRIGHT and is_valid(made.solid) and _bordered(made.solid, loop):
                return ShutOff(made, direction, area, float(max(drafts[:, 0].min(), 0.0)))
    points = Sampled(part, loop).points
    x, y, z = vec(points.mean(axis=0))
    raise KernelError(
        f"The opening at ({x:.1f}, {y:.1f}, {z:.1f}) cannot be shut off along the pull: any patch across it would be undercut.",
        "Free it with a slide, or draft its walls.",
        edges=tuple(edge for edge, _ in loop.edges),
    )


def _bordered(sheet: Solid, loop: Loop) -> bool:
    """Whether the patch has as many free edges as its loop has edges: none left open within, none lost."""
    free = sum(len(faces) == 1 and not sheet.degenerate_edges[edge] for edge, faces in enumerate(sheet.faces_at_edges))
    seams = sum(_is_seam(sheet, number) for number in range(sheet.number_of_edges))
    return free - seams == len(loop.edges)


def _is_seam(sheet: Solid, number: int) -> bool:
    faces = sheet.faces_at_edges[number]
    return len(faces) == 1 and bool(BRep_Tool.IsClosed_s(sheet.nth_edge(number), sheet.face(faces[0])))


Way = Callable[[Solid, Loop, Vec], Iterator[Sequence[Piece]]]


def _tried(maker: Way, part: Solid, loop: Loop, pull: Vec) -> Iterator[Sequence[Piece]]:
    with suppress(*REFUSALS):
        yield from maker(part, loop, pull)


def _origin(loop: Loop) -> Origin:
    return Origin("shut-off", tuple(EdgeOf(0, edge) for edge in sorted(edge for edge, _ in loop.edges)))


def _wire(part: Solid, loop: Loop) -> Any:
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed(part.nth_edge(edge) for edge, _ in loop.edges))
    if not maker.IsDone():
        raise KernelError("The loop does not close.")
    return maker.Wire()


def _plain(part: Solid, loop: Loop, pull: Vec) -> Iterator[Sequence[Piece]]:
    maker = BRepBuilderAPI_MakeFace(_wire(part, loop), True)
    if maker.IsDone():
        yield [Piece(maker.Face(), _origin(loop))]


def _beside(part: Solid, loop: Loop, pull: Vec) -> Iterator[Sequence[Piece]]:
    """On the surface of a face that all of the loop runs round, if there is one on either side."""
    common = set.intersection(*(set(part.faces_at_edges[edge]) for edge, _ in loop.edges))
    for face in sorted(common):
        maker = BRepBuilderAPI_MakeFace(BRep_Tool.Surface_s(part.face(face)), _wire(part, loop), True)
        if not maker.IsDone():
            continue
        fixed = ShapeFix_Face(maker.Face())
        fixed.Perform()
        if measure.face_area(Surface(fixed.Face()), 0) > 0:
            yield [Piece(fixed.Face(), _origin(loop))]


def _banded(part: Solid, loop: Loop, pull: Vec) -> Iterator[Sequence[Piece]]:
    """A level band inwards, and a flat or fitted middle."""
    run, plan = Sampled(part, loop), Frame.lying((0.0, 0.0, 0.0), pull)
    heights = run.points @ np.array(pull)
    outline = parting.flat(run.points, plan)
    rises = np.abs(np.roll(heights, -1) - heights)
    level = float(heights.mean())
    for width in _BANDS:
        inner = offset_matching.matched(outline, width, rises, inwards=True)
        if inner is None:
            continue
        rows = plan.space(inner) + level * np.array(plan.normal)
        rim = strung(run, rows)
        pieces = [Piece(BRepFill.Face_s(forward(part.nth_edge(edge)), low), _origin(loop))
                  for (edge, _), low in zip(loop.edges, rim, strict=True)]  # fmt: skip
        wire = BRepBuilderAPI_MakeWire()
        wire.Add(listed(rim))
        if wire.IsDone():
            middle = BRepBuilderAPI_MakeFace(wire.Wire(), True)
            if middle.IsDone():
                yield [*pieces, Piece(middle.Face(), _origin(loop))]


def _fitted(part: Solid, loop: Loop, pull: Vec) -> Iterator[Sequence[Piece]]:
    maker = BRepOffsetAPI_MakeFilling()
    for edge, _ in loop.edges:
        maker.Add(part.nth_edge(edge), GeomAbs_Shape.GeomAbs_C0)
    maker.Build()
    if maker.IsDone() and maker.G0Error() < _LOOSE:
        yield [Piece(TopoDS.Face(maker.Shape()), _origin(loop))]


_WAYS: tuple[tuple[str, Way], ...] = (
    ("flat", _plain),
    ("on its neighbour's surface", _beside),
    ("by a band", _banded),
    ("fitted", _fitted),
)
