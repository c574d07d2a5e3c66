"""Lips and grooves along the rim of a hollow body: rings between one loop of the rim and a line at a distance from it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepFill import BRepFill
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeOffset
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Vec
from OCP.GProp import GProp_GProps
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_EDGE, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS
from scipy.optimize import minimize_scalar

from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, along, cross, dot, subtract, times, unit
from supplecast.kernel.measuring import edges, measure, probing
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import EdgeOf, Ledger, Made, Origin, composed, each
from supplecast.kernel.shapes.profile import plane
from supplecast.kernel.shapes.shape import Solid, Surface, faces_of, listed, mapped, xyz
from supplecast.kernel.shapes.soundness import checked, one
from supplecast.kernel.verbs import boolean, draft, move

Where = Literal["inner", "outer", "middle"]


_Drawn = tuple[Any, EdgeOf]
"""An edge of the kernel, and the edge of the body it follows."""


@dataclass(frozen=True)
class Rim:
    """A flat rim: its face, the loop round its outside and the one round the hollow (as wires of the kernel), and its wall."""

    solid: Solid
    face: int
    outer: Any
    inner: Any
    wall: float
    frame: Frame


@dataclass(frozen=True)
class Section:
    """Of a ring, in mm and rad: from which loop it is measured, how far its two flanks are from it, how high it is, and its
    draft; `way` is the direction it goes. Along some edges only, it goes on `longer` mm beyond their ends.
    """

    where: Where
    near: float
    far: float
    height: float
    draft: float
    direction: Vec
    longer: float = 0.0


def rim(solid: Solid, face: int) -> Rim:
    """The rim of a hollow. KernelError if the face is not flat or does not run round a hollow."""
    frame = measure.flat_frame(solid, face)
    shape = solid.face(face)
    outer = BRepTools.OuterWire_s(shape)
    wires = mapped(shape, TopAbs_WIRE)
    rings = [TopoDS.Wire(wires.FindKey(number)) for number in range(1, int(wires.Extent()) + 1)]
    holes = [wire for wire in rings if not wire.IsSame(outer)]
    if not holes:
        raise KernelError("This face does not run round a hollow.", "Pick the rim of a shelled body.", faces=(face,))
    inner = max(holes, key=length)
    wall = BRepExtrema_DistShapeShape(outer, inner)
    return Rim(solid, face, outer, inner, float(wall.Value()), frame)


def ring(at: Rim, section: Section) -> Made:
    """The ring a section draws along the rim. Roles `near` and `far` from the rim's edges, `foot`, `top`.

    KernelError where it does not fit into the wall, or where the line at a distance closes or comes apart.
    """
    base, sense = (at.inner, 1.0) if section.where == "inner" else (at.outer, -1.0)
    loops = [(aside(at, base, sense * by), role) for by, role in ((section.near, "near"), (section.far, "far"))]
    (outside, inside) = (loops[1], loops[0]) if section.where == "inner" else (loops[0], loops[1])
    face = BRepBuilderAPI_MakeFace(plane(at.frame), outside[0].wire)
    face.Add(TopoDS.Wire(inside[0].wire.Reversed()))
    fixed = ShapeFix_Face(face.Face())
    fixed.FixOrientation()
    rise = section.height / abs(dot(section.direction, at.frame.normal))
    prism = BRepPrimAPI_MakePrism(fixed.Face(), gp_Vec(*times(section.direction, rise)))
    made = one(prism.Shape(), "the ring")
    ledger = Ledger([made])
    for loop, role in loops:
        for edge, source in loop.edges:
            for side in each(prism.Generated(edge)):
                ledger.note(side, Origin(role, (source,)))
    ledger.note(prism.FirstShape(), Origin("foot"))
    ledger.note(prism.LastShape(), Origin("top"))
    result = ledger.made()[0]
    if not section.draft:
        return result
    flanks = [i for i, row in enumerate(result.origins) if row and row[0].role in ("near", "far")]
    try:
        return composed(result, draft.taper(made, flanks, at.frame, section.draft, section.direction))
    except KernelError:  # flanks along curves that are neither lines nor arcs, as where leant walls are rounded
        return _ruled(at, section, loops)


def along_edges(at: Rim, section: Section, whole: Made, chosen: Sequence[int]) -> list[Made]:
    """The parts of a ring beside some edges of the rim, cut off square where those end. New faces are `end`.

    KernelError for edges that are not of the rim.
    """
    ends: dict[int, list[int]] = {}
    for index in chosen:
        if at.face not in at.solid.faces_at_edges[index]:
            raise KernelError("An edge is not one of the rim's.", "Pick edges of the rim.", edges=(index,))
        for vertex in edges.end_vertices(at.solid, index):
            ends.setdefault(vertex, []).append(index)
    knives = [_knife(at, vertex, held[0], section.longer) for vertex, held in ends.items() if len(held) == 1]
    if not knives:
        return [whole]
    maker = boolean.parted(whole.solid, knives)
    ledger = Ledger(checked(maker.Shape(), "the lip", expect=None))
    ledger.kept([whole.solid], maker.Modified)
    pieces = [
        Made(made.solid, tuple(row or (Origin("end"),) for row in composed(whole, made).origins)) for made in ledger.made()
    ]
    spots = [_beside(at, section, edge) for edge in chosen]
    return [piece for piece in pieces if any(probing.holds(piece.solid, spot) for four in spots for spot in four)]


def _knife(at: Rim, vertex: int, index: int, longer: float) -> Any:
    """A small face across the wall at an end of an edge, square to it, or so much further on."""
    spot = measure.vertex_point(at.solid.vertex(vertex))
    direction = edges.tangent_at(at.solid, index, spot)
    onward = 1.0 if dot(subtract(spot, edges.middle(at.solid, index)), direction) > 0 else -1.0
    spot = along(spot, direction, onward * longer)
    size = 1.5 * at.wall
    return BRepBuilderAPI_MakeFace(plane(Frame.lying(spot, direction)), -size, size, -size, size).Face()


def _beside(at: Rim, section: Section, index: int) -> list[Vec]:
    """Places half way up the ring beside the middle of an edge, on whichever side and of whichever loop it may be."""
    middle = edges.middle(at.solid, index)
    across = unit(cross(edges.tangent_at(at.solid, index, middle), at.frame.normal))
    off = (section.near + section.far) / 2
    up = along(middle, section.direction, section.height / 2)
    return [along(up, across, sign * by) for sign in (1, -1) for by in (off, at.wall - off)]


def apart(first: Solid, faces: Sequence[int], second: Solid, others: Sequence[int]) -> float:
    """The least distance between some faces of one body and some of another, mm."""
    measured = BRepExtrema_DistShapeShape(faces_of(first, faces), faces_of(second, others))
    return float(measured.Value())


def _ruled(at: Rim, section: Section, feet: Sequence[tuple[Loop, str]]) -> Made:
    """A leant ring whose flanks are ruled between its loops at the foot and those at its top, sewn together."""
    inset = section.height * math.tan(section.draft)
    base, sense = (at.inner, 1.0) if section.where == "inner" else (at.outer, -1.0)
    rise = section.height / abs(dot(section.direction, at.frame.normal))
    motion = move.shift(times(section.direction, rise))
    sides: list[tuple[Any, Origin]] = []
    caps: dict[str, list[Any]] = {"foot": [], "top": []}
    for (foot, role), by in zip(feet, (section.near + inset, section.far - inset), strict=True):
        top = [(move.edge(edge, motion), source) for edge, source in aside(at, base, sense * by).edges]
        pairs = _paired(foot.edges, top)
        sides += [(BRepFill.Face_s(low, high), Origin(role, (source,))) for low, high, source in pairs]
        caps["foot"].append(_joined([low for low, _, _ in pairs]))
        caps["top"].append(_joined([high for _, high, _ in pairs]))
    for role, wires in caps.items():
        long, short = sorted(wires, key=length, reverse=True)
        maker = BRepBuilderAPI_MakeFace(long, True)
        maker.Add(TopoDS.Wire(short.Reversed()))
        fixed = ShapeFix_Face(maker.Face())
        fixed.FixOrientation()
        sides.append((fixed.Face(), Origin(role)))
    sewing = BRepBuilderAPI_Sewing(1e-5)
    for face, _ in sides:
        sewing.Add(face)
    sewing.Perform()
    if sewing.NbFreeEdges():
        raise KernelError("The leant lip does not close.", "Use less draft.")
    whole = BRepBuilderAPI_MakeSolid(Surface(sewing.SewedShape()).shape).Solid()
    BRepLib.OrientClosedSolid_s(whole)
    made = one(whole, "the leant lip")
    ledger = Ledger([made])
    for face, origin in sides:
        new = sewing.ModifiedSubShape(face)
        ledger.note(face if new.IsNull() else new, origin)
    return ledger.made()[0]


def _paired(feet: Sequence[_Drawn], tops: Sequence[_Drawn]) -> list[tuple[Any, Any, EdgeOf]]:
    """Edges at the foot with those over them. Bent ones come in pieces where they bend most, but for the rim's own edge itself,
    which is cut there too.
    """
    paired = []
    sources = list(dict.fromkeys(source for _, source in feet))
    for source in sources:
        low = [edge for edge, of in feet if of == source]
        high = [edge for edge, of in tops if of == source]
        if len(low) == 1 and len(high) > 1:
            low = _cut_under(low[0], high)
        if len(low) != len(high):
            raise KernelError("The draft closes a corner of the rim.", "Use less draft, or less height.")
        for edge in low:
            over = min(high, key=lambda h, e=edge: math.dist(_middle(h), _middle(e)))  # type: ignore[misc]
            paired.append((edge, over if _along(edge, over) else TopoDS.Edge(over.Reversed()), source))
    return paired


def _along(edge: Any, other: Any) -> bool:
    """Whether two edges, one over the other, run the same way."""
    start = measure.vertex_point(TopExp.FirstVertex_s(edge, True))
    ends = [measure.vertex_point(vertex(other, True)) for vertex in (TopExp.FirstVertex_s, TopExp.LastVertex_s)]
    return math.dist(start, ends[0]) < math.dist(start, ends[1])


def _cut_under(edge: Any, over: Sequence[Any]) -> list[Any]:
    """An edge cut where the pieces over it meet."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    ends = [BRepAdaptor_Curve(piece) for piece in over]
    spots = [c.Value(t) for c in ends for t in (c.FirstParameter(), c.LastParameter())]
    shares = np.linspace(first, last, 2001)[1:-1]
    points = np.array([xyz(curve.Value(float(t))) for t in shares])
    inner = set()
    for n, spot in enumerate(spots):
        if any(m != n and spot.Distance(other) < 1e-6 for m, other in enumerate(spots)):
            near = float(shares[np.linalg.norm(points - np.array(xyz(spot)), axis=1).argmin()])
            low, high = near - (last - first) / 2000, near + (last - first) / 2000
            nearest = minimize_scalar(lambda t, s=spot: curve.Value(float(t)).Distance(s), bounds=(low, high), method="bounded",
                                    options={"xatol": 1e-10})  # fmt: skip
            inner.add(round(float(nearest.x), 9))
    whole = curve.Curve().Curve().Transformed(curve.Trsf())
    stops = [first, *sorted(inner), last]
    parts = [BRepBuilderAPI_MakeEdge(whole, a, b).Edge() for a, b in zip(stops, stops[1:], strict=False)]
    backwards = edge.Orientation() == TopAbs_REVERSED
    return [TopoDS.Edge(part.Reversed()) for part in parts] if backwards else parts


def _middle(edge: Any) -> Vec:
    curve = BRepAdaptor_Curve(edge)
    return xyz(curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2))


def _joined(parts: Sequence[Any]) -> Any:
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed(parts))
    if not maker.IsDone():
        raise KernelError("The line of the lip does not close.", "Use less draft.")
    return maker.Wire()


@dataclass(frozen=True)
class Loop:
    wire: Any
    edges: tuple[_Drawn, ...]


def aside(at: Rim, wire: Any, by: float) -> Loop:
    """A loop at a distance from one of the rim's, outwards if positive, with the edge of the body each of its edges follows."""
    held = mapped(wire, TopAbs_EDGE)
    own = [TopoDS.Edge(held.FindKey(number)) for number in range(1, int(held.Extent()) + 1)]
    sources = [EdgeOf(0, index) if (index := at.solid.find_edge(edge)) is not None else EdgeOf(0, 0) for edge in own]
    if abs(by) < 1e-9:
        return Loop(wire, tuple(zip(own, sources, strict=True)))
    straight = all(edges.line(at.solid, source.edge) is not None for source in sources)
    maker = BRepOffsetAPI_MakeOffset()
    maker.Init(GeomAbs_JoinType.GeomAbs_Intersection if straight else GeomAbs_JoinType.GeomAbs_Arc, False)
    maker.AddWire(wire)
    refusal = KernelError(
        f"A line {abs(by):g} mm from the edge of the rim closes or comes apart.", "Make it narrower.", sized=True
    )
    try:
        maker.Perform(by, 0.0)
        rings = mapped(maker.Shape(), TopAbs_WIRE)
    except REFUSALS as fault:
        raise refusal from fault
    if int(rings.Extent()) != 1:
        raise refusal
    new = TopoDS.Wire(rings.FindKey(1))
    if abs(float(BRepExtrema_DistShapeShape(wire, new).Value()) - abs(by)) > 1e-5 * max(1.0, abs(by)):
        raise refusal
    pairs = [
        (TopoDS.Edge(made), source) for edge, source in zip(own, sources, strict=True) for made in each(maker.Generated(edge))
    ]
    return Loop(new, tuple(pairs))


def length(wire: Any) -> float:
    measured = GProp_GProps()
    BRepGProp.LinearProperties_s(wire, measured)
    return float(measured.Mass())
