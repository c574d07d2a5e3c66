"""Free surfaces that are plane, cylinder, cone, ball or ring after all, and free edges that are straight or round, made so.

Affine maps, other programs' files, offsets and sewing leave splines behind where a known form would do. Later steps ask for
the form: a sketch for a flat face, a hole for a round one. What is recognised lies within `CLOSE` of the body's size.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy, BRepBuilderAPI_MakeFace
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools
from OCP.Geom import Geom_Plane
from OCP.Geom2d import Geom2d_Line
from OCP.gp import gp_Dir2d, gp_Pnt, gp_Pnt2d, gp_Vec2d
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.ShapeFix import ShapeFix_Edge, ShapeFix_Wire
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_SHELL
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Iterator, TopoDS_Shell, TopoDS_Solid, TopoDS_Wire

from supplecast.kernel.measuring import edges, forms, measure
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import Made
from supplecast.kernel.shapes.shape import ShapeMap, Solid, Surface, is_valid

CLOSE = 1e-7
"""How far a form may be off the free surface it stands for, as a share of the body's size."""
_TURN = 2 * math.pi


def recognised(made: Made) -> Made:
    """The same body with its free faces as the forms that they are, in the same order and with the same origins."""
    return Made(with_forms(made.solid), made.origins)


def with_forms(solid: Solid, close: float | None = None) -> Solid:
    """The same body with its free faces as the forms that they are, in the same order; a face that would not be sound so
    stays free. `close` is how far a form may be off, mm; `CLOSE` of the size if it is not said.
    """
    free = [face for face in range(solid.face_count) if measure.surface_word(solid, face) == "free"]
    if not free:
        return solid
    close = close or CLOSE * measure.loose_box(solid).diagonal
    try:
        known = {face: form for face in free if (form := forms.of_face(solid.face(face), close)) is not None}
        while known:
            result = _rebuilt(solid, known, close)
            if _is_sound(result, solid):
                return result
            known = _without_culprits(known, result)
    except KERNEL_FAULTS:
        return solid
    return solid


def _is_sound(result: Solid, solid: Solid) -> bool:
    if result.face_count != solid.face_count or not is_valid(result):
        return False
    # The kernel's own integral is off by 1 % on free faces that close on themselves: this only finds what is inside out.
    return not solid.closed or abs(measure.rough_volume(result) / measure.rough_volume(solid) - 1) < 0.1


def _without_culprits(known: Mapping[int, Any], result: Solid) -> dict[int, Any]:
    """The forms without those of faces that are unsound, or border on ones that are; none where that cannot be told."""
    unsound = {face for face in range(result.face_count) if not BRepCheck_Analyzer(result.face(face)).IsValid()}
    beside = unsound | {other for face in unsound for other in result.neighbours[face]}
    rest = {face: form for face, form in known.items() if face not in beside}
    return rest if len(rest) < len(known) else {}


def _rebuilt(solid: Solid, known: Mapping[int, Any], close: float) -> Solid:
    """The body with some of its faces on other surfaces, over the same edges."""
    copier = BRepBuilderAPI_Copy(solid.shape)
    copied = [TopoDS.Face(copier.ModifiedShape(solid.face(face))) for face in range(solid.face_count)]
    whole = {face for face in known if forms.is_whole(solid.face(face))}
    moved = {e for face in known if face not in whole for e in solid.face_edges[face]}
    changed = {e for e in moved if _straightened(TopoDS.Edge(copier.ModifiedShape(solid.nth_edge(e))), close)}
    faces = {
        # A whole ball or ring has no neighbours: it takes the seams and poles of its new surface.
        face: BRepBuilderAPI_MakeFace(form, 1e-7).Face() if face in whole else _laid_on(copied[face], form, close)
        for face, form in known.items()
    }
    flats = {face for face, form in known.items() if isinstance(form, Geom_Plane)}
    for index in moved:
        edge = TopoDS.Edge(copier.ModifiedShape(solid.nth_edge(index)))
        at = solid.faces_at_edges[index]
        if index in changed and flats.issuperset(at):  # on planes an edge is its own trace, in step with itself
            BRep_Builder().SameParameter(edge, True)
        elif index in changed:
            BRep_Builder().SameParameter(edge, False)
            BRepLib.SameParameter_s(edge, 1e-7)
        for face in at:
            if face in faces:  # how far the edge may be off its trace there is told anew
                BRep_Builder().UpdateEdge(edge, 1.01 * edges.off_face(edge, faces[face]))
    return _assembled(copier.Shape(), copied, faces)


def _straightened(edge: Any, close: float) -> bool:
    """Give a free edge the line or circle that it runs along; False if it has none."""
    form = forms.of_edge(edge, close)
    if form is None:
        return False
    curve, low, high = form
    builder = BRep_Builder()
    builder.UpdateEdge(edge, curve, BRep_Tool.Tolerance_s(edge))
    builder.SameRange(edge, False)
    builder.SameParameter(edge, False)
    builder.Range(edge, low, high, True)
    BRepLib.SameRange_s(edge)
    return True


def _laid_on(face: Any, form: Any, close: float) -> Any:
    """A face on another surface over the same edges, whose traces on it are found anew."""
    laid, builder = TopoDS_Face(), BRep_Builder()
    builder.MakeFace(laid, form, BRep_Tool.Tolerance_s(face))
    forward = TopoDS.Face(face.Oriented(TopAbs_FORWARD))
    chart = _Chart(form, forward, close)
    for wire in _inside(forward):
        path = TopoDS_Wire()
        builder.MakeWire(path)
        for edge in map(TopoDS.Edge, _inside(wire)):
            if BRep_Tool.Degenerated_s(edge):  # where the new surface has a pole is another matter
                continue
            builder.Add(path, edge)
            if BRep_Tool.IsClosed_s(edge, forward):
                if edge.Orientation() == TopAbs_FORWARD:
                    chart.seam(edge)
            else:
                ShapeFix_Edge().FixAddPCurve(edge, laid, False, 1e-9)
                chart.shift(edge, laid)
        fixer = ShapeFix_Wire(path, laid, close)
        fixer.FixDegenerated()
        path = fixer.Wire()
        path.Closed(wire.Closed())
        builder.Add(laid, path)
    return laid


class _Chart:
    """The parameters of a periodic surface that a face is drawn in: from its seam on, else half a turn to either side of it."""

    def __init__(self, form: Any, face: Any, close: float) -> None:
        self.form, self.close = form, close
        self.finder = ShapeAnalysis_Surface(form)
        surface = BRepAdaptor_Surface(face)
        low_u, high_u, low_v, high_v = (float(bound) for bound in BRepTools.UVBounds_s(face))
        middle = self.at(surface.Value((low_u + high_u) / 2, (low_v + high_v) / 2))
        self.low = [middle[0] - math.pi, middle[1] - math.pi]
        for edge in forms.seams(face):
            axis, start, _ = self.run(edge)
            self.low[1 - axis] = start[1 - axis]

    def at(self, spot: Any) -> tuple[float, float]:
        place = self.finder.ValueOfUV(spot, self.close)
        return float(place.X()), float(place.Y())

    def run(self, edge: Any) -> tuple[int, tuple[float, float], float]:
        """Along which parameter an edge runs, from where, and in which sense."""
        first, second = (self.at(gp_Pnt(*spot.tolist())) for spot in forms.along(edge, np.array([0.0, 1e-3])))
        steps = [math.remainder(b - a, _TURN) for a, b in zip(first, second, strict=True)]
        axis = 0 if abs(steps[0]) > abs(steps[1]) else 1
        return axis, first, math.copysign(1.0, steps[axis])

    def seam(self, edge: Any) -> None:
        """Give an edge along which the face closes on itself its two traces, a turn apart.

        With the face to its left, a run along +v has it at the end of u's turn, and one along +u at the beginning of v's.
        """
        axis, start, sense = self.run(edge)
        length = BRepAdaptor_Curve(edge).LastParameter() - BRepAdaptor_Curve(edge).FirstParameter()
        begin = start[axis] + self.turns(axis, start[axis] + sense * length / 2)
        low = self.low[1 - axis]
        places = [low, low + _TURN] if (axis == 0) == (sense > 0) else [low + _TURN, low]
        traces = [
            Geom2d_Line(gp_Pnt2d(begin, at), gp_Dir2d(sense, 0.0))
            if axis == 0
            else Geom2d_Line(gp_Pnt2d(at, begin), gp_Dir2d(0.0, sense))
            for at in places
        ]
        BRep_Builder().UpdateEdge(edge, *traces, self.form, TopLoc_Location(), BRep_Tool.Tolerance_s(edge))

    def turns(self, axis: int, at: float) -> float:
        """By how much a parameter must be moved to lie where the face is drawn: whole turns, nothing where there are none."""
        periodic = (self.form.IsUPeriodic, self.form.IsVPeriodic)[axis]()
        return -_TURN * math.floor((at - self.low[axis]) / _TURN) if periodic else 0.0

    def shift(self, edge: Any, laid: Any) -> None:
        """Move an edge's trace by whole turns to where the face is drawn."""
        drawn = BRepAdaptor_Curve2d(edge, laid)
        middle = drawn.Value((drawn.FirstParameter() + drawn.LastParameter()) / 2)
        turns = self.turns(0, middle.X()), self.turns(1, middle.Y())
        BRep_Tool.CurveOnSurface_s(edge, laid, 0.0, 1.0).Translate(gp_Vec2d(*turns))


def _assembled(shape: Any, copied: Sequence[Any], faces: Mapping[int, Any]) -> Solid:
    """A solid or shell with some of its faces replaced, all in their order."""
    builder = BRep_Builder()
    numbers = ShapeMap()
    for face in copied:
        numbers.Add(face)

    def shell_of(old: Any) -> Any:
        shell = TopoDS_Shell()
        builder.MakeShell(shell)
        for face in _inside(old):
            number = int(numbers.FindIndex(face)) - 1
            builder.Add(shell, faces[number].Oriented(face.Orientation()) if number in faces else face)
        shell.Closed(old.Closed())
        return shell

    if shape.ShapeType() == TopAbs_SHELL:
        return Surface(shell_of(shape))
    body = TopoDS_Solid()
    builder.MakeSolid(body)
    for shell in _inside(shape):
        builder.Add(body, shell_of(shell))
    return Solid(body)


def _inside(shape: Any) -> Iterator[Any]:
    """What a shape of the kernel is directly made of."""
    parts = TopoDS_Iterator(shape)
    while parts.More():
        yield parts.Value()
        parts.Next()
