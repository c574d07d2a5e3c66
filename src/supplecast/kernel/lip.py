"""Lips and grooves along the rim of a hollow body: rings between one loop of the rim and a line at a distance from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeOffset
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Vec
from OCP.GProp import GProp_GProps
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_EDGE, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, along, cross, dot, gap, times, unit
from supplecast.kernel import boolean, edges, lean, measure
from supplecast.kernel.faults import REFUSALS
from supplecast.kernel.history import EdgeOf, Ledger, Made, Origin, composed, each
from supplecast.kernel.profile import plane
from supplecast.kernel.shape import Solid, checked, faces_of, mapped, one

Where = Literal["inner", "outer", "middle"]


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
    way: Vec
    longer: float = 0.0


def rim(solid: Solid, face: int) -> Rim:
    """The rim of a hollow. KernelError if the face is not flat or does not run round a hollow."""
    frame = measure.flat_frame(solid, face)
    shape = solid.face(face)
    outer = BRepTools.OuterWire_s(shape)
    wires = mapped(shape, TopAbs_WIRE)
    found = [TopoDS.Wire(wires.FindKey(number)) for number in range(1, int(wires.Extent()) + 1)]
    holes = [wire for wire in found if not wire.IsSame(outer)]
    if not holes:
        raise KernelError("This face does not run round a hollow.", "Pick the rim of a shelled body.", faces=(face,))
    inner = max(holes, key=_length)
    wall = BRepExtrema_DistShapeShape(outer, inner)
    return Rim(solid, face, outer, inner, float(wall.Value()), frame)


def ring(at: Rim, section: Section) -> Made:
    """The ring a section draws along the rim. Roles `near` and `far` from the rim's edges, `foot`, `top`.

    KernelError where it does not fit into the wall, or where the line at a distance closes or comes apart.
    """
    base, sense = (at.inner, 1.0) if section.where == "inner" else (at.outer, -1.0)
    loops = [(_aside(at, base, sense * by), role) for by, role in ((section.near, "near"), (section.far, "far"))]
    (outside, inside) = (loops[1], loops[0]) if section.where == "inner" else (loops[0], loops[1])
    face = BRepBuilderAPI_MakeFace(plane(at.frame), outside[0].wire)
    face.Add(TopoDS.Wire(inside[0].wire.Reversed()))
    fixed = ShapeFix_Face(face.Face())
    fixed.FixOrientation()
    rise = section.height / abs(dot(section.way, at.frame.normal))
    prism = BRepPrimAPI_MakePrism(fixed.Face(), gp_Vec(*times(section.way, rise)))
    made = one(prism.Shape(), "the ring")
    ledger = Ledger([made])
    for loop, role in loops:
        for edge, source in loop.edges:
            for side in each(prism.Generated(edge)):
                ledger.note(side, Origin(role, (source,)))
    ledger.note(prism.FirstShape(), Origin("foot"))
    ledger.note(prism.LastShape(), Origin("top"))
    result = ledger.made()[0]
    if section.draft:
        flanks = [i for i, row in enumerate(result.origins) if row and row[0].role in ("near", "far")]
        result = composed(result, lean.lean(made, flanks, at.frame, section.draft, section.way))
    return result


def along_edges(at: Rim, section: Section, whole: Made, chosen: Sequence[int]) -> list[Made]:
    """The parts of a ring beside some edges of the rim, cut off square where those end. New faces are `end`.

    KernelError for edges that are not of the rim.
    """
    ends: dict[int, list[int]] = {}
    for edge in chosen:
        if at.face not in at.solid.faces_at_edges[edge]:
            raise KernelError("An edge is not one of the rim's.", "Pick edges of the rim.", edges=(edge,))
        for vertex in edges.end_vertices(at.solid, edge):
            ends.setdefault(vertex, []).append(edge)
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
    return [piece for piece in pieces if any(measure.holds(piece.solid, spot) for four in spots for spot in four)]


def _knife(at: Rim, vertex: int, edge: int, longer: float) -> Any:
    """A small face across the wall at an end of an edge, square to it, or so much further on."""
    spot = measure.vertex_point(at.solid.vertex(vertex))
    way = edges.tangent_at(at.solid, edge, spot)
    onward = 1.0 if dot(gap(spot, edges.middle(at.solid, edge)), way) > 0 else -1.0
    spot = along(spot, way, onward * longer)
    size = 1.5 * at.wall
    return BRepBuilderAPI_MakeFace(plane(Frame.lying(spot, way)), -size, size, -size, size).Face()


def _beside(at: Rim, section: Section, edge: int) -> list[Vec]:
    """Places half way up the ring beside the middle of an edge, on whichever side and of whichever loop it may be."""
    middle = edges.middle(at.solid, edge)
    across = unit(cross(edges.tangent_at(at.solid, edge, middle), at.frame.normal))
    off = (section.near + section.far) / 2
    up = along(middle, section.way, section.height / 2)
    return [along(up, across, sign * by) for sign in (1, -1) for by in (off, at.wall - off)]


def apart(first: Solid, faces: Sequence[int], second: Solid, others: Sequence[int]) -> float:
    """The least distance between some faces of one body and some of another, mm."""
    measured = BRepExtrema_DistShapeShape(faces_of(first, faces), faces_of(second, others))
    return float(measured.Value())


@dataclass(frozen=True)
class _Loop:
    wire: Any
    edges: tuple[tuple[Any, EdgeOf], ...]


def _aside(at: Rim, wire: Any, by: float) -> _Loop:
    """A loop at a distance from one of the rim's, outwards if positive, with the edge of the body each of its edges follows."""
    held = mapped(wire, TopAbs_EDGE)
    own = [TopoDS.Edge(held.FindKey(number)) for number in range(1, int(held.Extent()) + 1)]
    sources = [EdgeOf(0, index) if (index := at.solid.find_edge(edge)) is not None else EdgeOf(0, 0) for edge in own]
    if abs(by) < 1e-9:
        return _Loop(wire, tuple(zip(own, sources, strict=True)))
    straight = all(edges.line(at.solid, source.edge) is not None for source in sources)
    maker = BRepOffsetAPI_MakeOffset()
    maker.Init(GeomAbs_JoinType.GeomAbs_Intersection if straight else GeomAbs_JoinType.GeomAbs_Arc, False)
    maker.AddWire(wire)
    refusal = KernelError(
        f"A line {abs(by):g} mm from the edge of the rim closes or comes apart.", "Make it narrower.", sized=True
    )
    try:
        maker.Perform(by, 0.0)
        found = mapped(maker.Shape(), TopAbs_WIRE)
    except REFUSALS as fault:
        raise refusal from fault
    if int(found.Extent()) != 1:
        raise refusal
    new = TopoDS.Wire(found.FindKey(1))
    if abs(float(BRepExtrema_DistShapeShape(wire, new).Value()) - abs(by)) > 1e-5 * max(1.0, abs(by)):
        raise refusal
    pairs = [
        (TopoDS.Edge(made), source) for edge, source in zip(own, sources, strict=True) for made in each(maker.Generated(edge))
    ]
    return _Loop(new, tuple(pairs))


def _length(wire: Any) -> float:
    measured = GProp_GProps()
    BRepGProp.LinearProperties_s(wire, measured)
    return float(measured.Mass())
