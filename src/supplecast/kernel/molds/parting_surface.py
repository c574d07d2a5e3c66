"""The parting surface round a part: a level land along its outer loop, a slope from there down or up to one plane, and that
plane out to the block's walls.

Everything is decided in plan, seen along the pull: the land's outer outline is the loop widened, and every sample of the loop
has its place there (see `outset`). Rulings are level, so that the surface can be seen from ahead everywhere.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepFill import BRepFill
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Vec, times, vec
from supplecast.kernel.measuring import facing
from supplecast.kernel.molds import offset_matching, parting
from supplecast.kernel.molds.parting import UPRIGHT, Loop, Sampled
from supplecast.kernel.shapes import spline
from supplecast.kernel.shapes.history import EdgeOf, Made, Origin
from supplecast.kernel.shapes.profile import as_point
from supplecast.kernel.shapes.shape import Solid, listed, xyz
from supplecast.kernel.verbs import split
from supplecast.kernel.verbs.sewing import Piece, joined

_NARROWER = (0.7, 0.5, 0.3, 0.2, 0.1, 0.05)
_LEVEL = 1e-6
_COMMON = 0.3  # share of the loop's length that makes its usual level the plane's
_UNDER = 0.5  # mm: else the plane lies that much under the loop
_LEAST_SLOPE = 1.0  # mm


class FoldedError(KernelError):
    """A surface that cannot be seen from ahead everywhere."""


@dataclass(frozen=True)
class PartingSurface:
    """A parting surface: its faces in the roles `land`, `slope` (of the edge of the part they follow) and `plane`; the plane's
    level along the pull; how wide the land came out, mm, 0 where none is needed; and the least angle between the surface and
    the pull, rad.
    """

    made: Made
    level: float
    width: float
    least: float


def surface(part: Solid, loop: Loop, block: Solid, pull: Vec, width: float, slope: float) -> PartingSurface:
    """The parting surface from a part's outer loop to the walls of its block, `width` mm of land, the slope at `slope` rad to
    the pull at its steepest. KernelError with what would do where it does not fit.
    """
    run = Sampled(part, loop)
    plan = Frame.lying((0.0, 0.0, 0.0), pull)
    heights = run.points @ np.array(pull)
    level = _level(run, heights)
    if float(heights.max() - heights.min()) < _LEVEL:
        own = [part.nth_edge(edge) for edge, _ in loop.edges]
        pieces = [_plane(block, pull, level, own, parting.flat(run.points, plan), plan)]
        return PartingSurface(_checked(pieces, pull), level, 0.0, math.pi / 2)
    if not shapely.Polygon(parting.flat(run.points, plan)).is_valid:
        raise KernelError(
            "Seen along the pull, the parting line crosses itself.",
            "Draft the walls where it does, or part the part along other edges.",
            edges=tuple(edge for edge, _ in loop.edges),
        )
    shape = _Shape(part, block, pull, run, plan, heights, level, max(_LEAST_SLOPE, _tallest(heights, level) * math.tan(slope)))
    made = _with_land(shape, width)
    if made is None:
        fits = next((share * width for share in _NARROWER if _with_land(shape, share * width) is not None), None)
        raise KernelError(
            f"A land of {width:g} mm crosses itself: the parting line leaves too narrow a gap for it.",
            f"{fits:.2g} mm would do." if fits else "Fill the gap on the part, or part it along other edges.",
            edges=tuple(edge for edge, _ in loop.edges),
            sized=fits is not None,
        )
    least = float(facing.drafts(made.solid, pull)[:, 0].min())
    return PartingSurface(made, level, width, max(least, 0.0))


@dataclass(frozen=True)
class _Shape:
    """What the surface hangs on; `down` is how far the slope reaches in plan, mm."""

    part: Solid
    block: Solid
    pull: Vec
    run: Sampled
    plan: Frame
    heights: Floats
    level: float
    down: float


def _tallest(heights: Floats, level: float) -> float:
    return float(np.abs(heights - level).max())


def _with_land(shape: _Shape, width: float) -> Made | None:
    """The surface with so wide a land; None where it would cross or fold."""
    outline = parting.flat(shape.run.points, shape.plan)
    rises = np.abs(np.roll(shape.heights, -1) - shape.heights)
    rim = offset_matching.matched(outline, width, rises)
    foot = None if rim is None else offset_matching.matched(rim, shape.down, np.zeros(len(rises)))
    if rim is None or foot is None:
        return None
    pieces, feet = _skirt(shape, rim, foot)
    pieces.append(_plane(shape.block, shape.pull, shape.level, feet, foot, shape.plan))
    try:
        return _checked(pieces, shape.pull)
    except FoldedError:
        return None


def _level(run: Sampled, heights: Floats) -> float:
    """The height at which most of the loop lies, if that is much of it; else a little under all of it."""
    sizes = [float(np.linalg.norm(np.diff(row, axis=0), axis=1).sum()) for row in run.rows]
    at: dict[float, float] = {}
    exact: dict[float, float] = {}  # a plane that lies off the loop by as little as its rounding would be unsound
    for start, size, row in zip(run.starts, sizes, run.rows, strict=True):
        own = np.append(heights[start : start + len(row) - 1], heights[(start + len(row) - 1) % len(heights)])
        if float(own.max() - own.min()) < _LEVEL:
            height = round(float(own[0]), 6)
            at[height] = at.get(height, 0.0) + size
            exact.setdefault(height, float(own[0]))
    best = max(at, key=lambda height: at[height], default=None)
    if best is not None and at[best] > _COMMON * sum(sizes):
        return exact[best]
    return float(heights.min()) - _UNDER


def _skirt(shape: _Shape, rim: Floats, foot: Floats) -> tuple[list[Piece], list[Any]]:
    """Land and slope beside every edge of the loop, and the edges at the slope's foot."""
    part, run, up = shape.part, shape.run, np.array(shape.plan.normal)
    outer = shape.plan.space(rim) + shape.heights[:, None] * up
    lower = shape.plan.space(foot) + shape.level * up
    pieces, feet = [], strung(run, lower)
    for (edge, _), far, low in zip(run.loop.edges, strung(run, outer), feet, strict=True):
        pieces.append(Piece(BRepFill.Face_s(forward(part.nth_edge(edge)), far), Origin("land", (EdgeOf(0, edge),))))
        pieces.append(Piece(BRepFill.Face_s(far, low), Origin("slope", (EdgeOf(0, edge),))))
    return pieces, feet


def strung(run: Sampled, points: Floats) -> list[Any]:
    """Beside every edge of a loop one of the kernel's, run the same way, through the places that its samples have in `points`
    (n, 3).
    """
    strings = []
    for (_, ahead), start, row, params, straight in zip(
        run.loop.edges, run.starts, run.rows, run.params, run.straight, strict=True
    ):
        places = points[np.arange(start, start + len(row)) % len(points)]
        strings.append(_through(places, params, straight) if ahead else _through(places[::-1], params[::-1], straight))
    return strings


def forward(edge: Any) -> Any:
    """An edge of the kernel run along its own direction."""
    return TopoDS.Edge(edge.Oriented(TopAbs_Orientation.TopAbs_FORWARD))


def _through(points: Floats, params: Floats, straight: bool) -> Any:
    """An edge through points (n, 3): a line between the ends, or a smooth curve at the given parameters."""
    if straight:
        return BRepBuilderAPI_MakeEdge(as_point(vec(points[0])), as_point(vec(points[-1]))).Edge()
    return BRepBuilderAPI_MakeEdge(spline.steady(points, params)).Edge()


def _plane(block: Solid, pull: Vec, level: float, rim: Sequence[Any], outline: Floats, plan: Frame) -> Piece:
    """The block's section at the plane's level, with the skirt's foot as a hole."""
    above = split_at(block, pull, level)[0]
    (cut,) = [face for face, row in enumerate(above.origins) if row[0].role == "split"]
    section = above.solid.face(cut)
    border = shapely.Polygon(parting.flat(_corners(section), plan))
    inside = shapely.Polygon(outline)
    if not border.buffer(-1e-6).contains(inside):
        low, high = np.array(inside.bounds[:2]), np.array(inside.bounds[2:])
        over = max(float((np.array(border.bounds[:2]) - low).max()), float((high - np.array(border.bounds[2:])).max()), 0.0)
        raise KernelError(
            f"The parting surface reaches past the block by {over:.1f} mm.",
            "Make the block's margins larger, or the land narrower.",
        )
    wire = BRepBuilderAPI_MakeWire()
    wire.Add(listed(rim))
    if not wire.IsDone():
        raise KernelError("The foot of the parting surface does not close.", "Make the land narrower.")
    maker = BRepBuilderAPI_MakeFace(BRepAdaptor_Surface(section).Plane(), BRepTools.OuterWire_s(section), True)
    maker.Add(wire.Wire())
    fixed = ShapeFix_Face(maker.Face())
    fixed.FixOrientation()
    return Piece(fixed.Face(), Origin("plane"))


def split_at(block: Solid, pull: Vec, level: float) -> list[Made]:
    """The block above and below a level along the pull. KernelError if the level lies outside."""
    frame = Frame.lying(times(pull, level), pull)
    try:
        pieces = split.by_plane(block, frame)
    except KernelError as fault:
        raise KernelError("The block does not reach across the parting line.", "Make its margins larger.") from fault
    return sorted(pieces, key=lambda made: -split.height(made.solid, frame))


def _corners(face: Any) -> Floats:
    """Points along a face's outer wire, (n, 3)."""
    rows = []
    explorer = BRepTools_WireExplorer(BRepTools.OuterWire_s(face), face)
    while explorer.More():
        curve = BRepAdaptor_Curve(explorer.Current())
        ts = np.linspace(curve.FirstParameter(), curve.LastParameter(), 17)[:-1]
        if explorer.Current().Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
            ts = np.linspace(curve.LastParameter(), curve.FirstParameter(), 17)[:-1]
        rows += [xyz(curve.Value(float(t))) for t in ts]
        explorer.Next()
    return np.array(rows)


def _checked(pieces: Sequence[Piece], pull: Vec) -> Made:
    """The pieces joined, all looking ahead. KernelError where one does not."""
    made = joined(pieces, ahead=pull)
    wrong = [face for face, (low, _) in enumerate(facing.drafts(made.solid, pull)) if low < -UPRIGHT]
    if wrong:
        raise FoldedError("The parting surface folds back on itself.", "Make the land narrower, or part along other edges.")
    return made
