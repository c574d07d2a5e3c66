"""Letters laid round a cylinder or a cone as a label would be: what is straight on paper runs evenly round and along it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepFill import BRepFill
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools
from OCP.GC import GC_MakeSegment2d
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GeomAdaptor import GeomAdaptor_Surface
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.ShapeFix import ShapeFix_Face

from supplecast.curves import Region
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Point2, Vec
from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes.history import Made, Origin
from supplecast.kernel.shapes.shape import Solid, Surface, xyz
from supplecast.kernel.verbs import extent
from supplecast.kernel.verbs.solid import extrude
from supplecast.kernel.verbs.surface import sewn

_KINDS = (GeomAbs_SurfaceType.GeomAbs_Cylinder, GeomAbs_SurfaceType.GeomAbs_Cone)
_BOTH_ENDS = np.array([0.0, 1.0])
_SAME = 1e-6  # mm
_CLOSE = 1e-5  # mm: helices are fitted to their places on the face


@dataclass(frozen=True)
class Label:
    """A round or conical face as a flat sheet: x runs round it, y along it and upwards, z out of the material.

    Its origin is the middle of the face. `per_mm` is how far one mm goes in the face's own parameters; on a cone that of x
    holds at the origin.
    """

    surface: Any
    middle: Point2
    per_mm: Point2
    outwards: float

    @classmethod
    def of(cls, solid: Solid, face: int) -> Label:
        """KernelError for a face of another kind."""
        surface = BRep_Tool.Surface_s(solid.face(face))
        form = GeomAdaptor_Surface(surface)
        if form.GetType() not in _KINDS:
            raise KernelError(
                f"This face is {measure.surface_word(solid, face)}.", "Write on a flat, round or conical face.", faces=(face,)
            )
        u0, u1, v0, v1 = BRepTools.UVBounds_s(solid.face(face))
        middle = ((u0 + u1) / 2, (v0 + v1) / 2)
        place, round_about, along = gp_Pnt(), gp_Vec(), gp_Vec()
        form.D1(*middle, place, round_about, along)
        outwards = -1.0 if solid.face(face).Orientation().name == "TopAbs_REVERSED" else 1.0
        up = _upwards(xyz(along))
        return cls(surface, middle, (up * outwards / round_about.Magnitude(), up), outwards)

    def at(self, p: Point2) -> Any:
        if abs(self.per_mm[0] * p[0]) > math.pi:
            raise KernelError("The letters run all the way round.", "Make them smaller.", sized=True)
        return gp_Pnt2d(*(m + s * c for m, s, c in zip(self.middle, self.per_mm, p, strict=True)))

    def raised(self, height: float) -> Any:
        """The face's surface moved by so much out of the material; places keep their parameters."""
        moved = extent.moved(self.surface, self.outwards * height)
        if GeomAdaptor_Surface(moved).GetType() not in _KINDS:
            raise KernelError("The letters are deeper than the face is round.", "Make them shallower.", sized=True)
        return moved


def _upwards(direction: Vec) -> float:
    """The sense in which a direction is upwards; one that lies level goes away from the viewer, or else to the right."""
    for axis in (2, 1, 0):
        if abs(direction[axis]) > 1e-6:
            return math.copysign(1.0, direction[axis])
    return 1.0


def wrapped(region: Region, place: Frame, label: Label, depth: float, *, up: bool, draft: float) -> Made:
    """A letter on a label, `place` being its own coordinates on that sheet, raised by `depth` mm or sunk.

    `draft` rad leans its sides inwards. Roles as those of an extrusion. KernelError if the draft closes the letter.
    """
    head = _heads(extrude(region, Frame(), depth, up=up, draft=draft).solid) if draft else _same
    top = label.raised(depth if up else -depth)
    pieces: list[tuple[Any, Origin]] = []
    feet: list[list[Any]] = []
    heads: list[list[Any]] = []
    for loop in (region.outer, *region.holes):
        feet.append([])
        heads.append([])
        for line in loop:
            a, b = ((float(x), float(y)) for x, y in line.at(_BOTH_ENDS))
            feet[-1].append(_line(label, label.surface, place, a, b))
            heads[-1].append(_line(label, top, place, head(a), head(b)))
            pieces.append((BRepFill.Face_s(feet[-1][-1], heads[-1][-1]), Origin("side", (line.entity,))))
    pieces += [(_area(label.surface, feet), Origin("start")), (_area(top, heads), Origin("end"))]
    whole = sewn([Surface(shape) for shape, _ in pieces], _CLOSE)
    rows = tuple(tuple(pieces[o.sources[0].body][1] for o in row) for row in whole.origins)  # type: ignore[union-attr]
    return Made(whole.solid, rows)


def _same(foot: Point2) -> Point2:
    return foot


def _heads(prism: Solid) -> Callable[[Point2], Point2]:
    """Where a corner of a drafted prism's foot, on the plane z = 0, has its other end."""
    pairs = []
    for edge in range(prism.number_of_edges):
        a, b = sorted((measure.vertex_point(prism.vertex(v)) for v in edges.end_vertices(prism, edge)), key=lambda p: abs(p[2]))
        if abs(a[2]) < _SAME < abs(b[2]):
            pairs.append((*a[:2], *b[:2]))
    known = np.array(pairs)

    def head(foot: Point2) -> Point2:
        _, _, x, y = known[np.abs(known[:, :2] - foot).sum(axis=1).argmin()]
        return (float(x), float(y))

    return head


def _line(label: Label, surface: Any, place: Frame, a: Point2, b: Point2) -> Any:
    """The edge on a surface that is a straight line on its label."""
    ends = (label.at(place.point(p)[:2]) for p in (a, b))
    edge = BRepBuilderAPI_MakeEdge(GC_MakeSegment2d(*ends).Value(), surface).Edge()
    BRepLib.BuildCurve3d_s(edge)
    return edge


def _area(surface: Any, loops: Sequence[Sequence[Any]]) -> Any:
    wires = []
    for loop in loops:
        maker = BRepBuilderAPI_MakeWire()
        for edge in loop:
            maker.Add(edge)
        wires.append(maker.Wire())
    face = BRepBuilderAPI_MakeFace(surface, wires[0])
    for wire in wires[1:]:
        face.Add(wire)
    fixed = ShapeFix_Face(face.Face())
    fixed.FixOrientation()
    return fixed.Face()
