"""How far an outline is raised: until it meets a body, or a face carried on beyond its edges."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset, BRepOffset_Status
from OCP.BRepTools import BRepTools
from OCP.Geom import Geom_RectangularTrimmedSurface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GeomAdaptor import GeomAdaptor_Surface
from OCP.GeomConvert import GeomConvert
from OCP.TopoDS import TopoDS, TopoDS_Face

from supplecast.errors import KernelError
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, traced_to
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean

_OWN_POLES = (GeomAbs_SurfaceType.GeomAbs_BSplineSurface, GeomAbs_SurfaceType.GeomAbs_BezierSurface)
_OPEN = KernelError("What is met does not close the way: the outline runs past its edge.", "Make it reach beyond the outline.")


def until_bodies(bar: Made, stops: Sequence[Solid]) -> Made:
    """A long bar ended where it first meets one of `stops`; new faces are `end` of the face they lie on.

    KernelError if nothing is met, if the bar begins inside a body, or if part of it passes by.
    """
    try:
        pieces = boolean.cut(bar.solid, list(stops), pieces=None)
    except KernelError as fault:
        raise KernelError("Nothing is met that way.", "Turn the direction round, or choose a distance.") from fault
    met = [[(Origin("end", (FaceOf(number, face),)),) for face in range(s.face_count)] for number, s in enumerate(stops)]
    return _first([traced_to(piece, [_long(bar), *met]) for piece in pieces])


def until_face(bar: Made, solid: Solid, face: int, gap: float, reach: float) -> Made:
    """A long bar ended at a face of a solid carried on beyond its edges by `reach` mm, or `gap` mm off it, out of the material.

    The new face is `end`.
    """
    maker = boolean.parted(bar.solid, [carried_on(solid, face, gap, reach)])
    pieces = checked(maker.Shape(), "the bar", expect=None)
    if len(pieces) < 2:
        raise KernelError("The face is not met that way.", "Turn the direction round, or pick another face.")
    ledger = Ledger(pieces)
    ledger.kept([bar.solid], maker.Modified)
    prisms = []
    known = _long(bar)
    for made in ledger.made():
        rows = []
        for row in made.origins:
            sources = [o.sources[0] for o in row]
            rows.append(tuple(o for s in sources if isinstance(s, FaceOf) for o in known[s.face]) or (Origin("end"),))
        prisms.append(Made(made.solid, tuple(rows)))
    return _first(prisms)


def _long(bar: Made) -> list[tuple[Origin, ...]]:
    """The origins of a bar that is to be ended sooner: its own end is the `far end`."""
    return [tuple(Origin("far end") if o.role == "end" else o for o in row) for row in bar.origins]


def _first(pieces: Sequence[Made]) -> Made:
    """The piece the bar begins with."""
    begun = [piece for piece in pieces if _has(piece, "start")]
    if not begun:
        raise KernelError("The outline begins inside the body it is to meet.", "Draw it on a plane outside.")
    if len(begun) > 1:
        raise KernelError("The outline begins on both sides of what it is to meet.", "Move it to one side.")
    if _has(begun[0], "far end"):
        raise _OPEN
    return begun[0]


def _has(piece: Made, role: str) -> bool:
    return any(origin.role == role for row in piece.origins for origin in row)


def carried_on(solid: Solid, face: int, gap: float, reach: float) -> Any:
    """A face of the kernel on the same surface, `gap` mm off it, reaching `reach` mm beyond its edges where it can."""
    surface = BRep_Tool.Surface_s(solid.face(face))
    if gap:
        _refuse_beyond_middle(solid, face, gap)
        sense = -1.0 if solid.face(face).Orientation().name == "TopAbs_REVERSED" else 1.0
        surface = moved(surface, sense * gap)
    kind = GeomAdaptor_Surface(surface).GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        return _about(solid, face, surface, reach)
    if kind in (GeomAbs_SurfaceType.GeomAbs_Sphere, GeomAbs_SurfaceType.GeomAbs_Torus):
        return BRepBuilderAPI_MakeFace(surface, 1e-6).Face()
    if kind in (GeomAbs_SurfaceType.GeomAbs_Cylinder, GeomAbs_SurfaceType.GeomAbs_Cone):
        return _round(solid, face, surface, reach, kind == GeomAbs_SurfaceType.GeomAbs_Cone)
    if gap:
        u0, u1, v0, v1 = BRepTools.UVBounds_s(solid.face(face))
        return BRepBuilderAPI_MakeFace(surface, u0, u1, v0, v1, 1e-6).Face()
    return widened(solid.face(face), reach, (True, True, True, True))


def widened(face: Any, reach: float, sides: tuple[bool, bool, bool, bool]) -> Any:
    """A face on a free surface carried on by `reach` mm beyond its low and high u, low and high v; else as it is."""
    bounds = BRepTools.UVBounds_s(face)
    surface = BRep_Tool.Surface_s(face)
    if BRepAdaptor_Surface(face).GetType() not in _OWN_POLES:  # drawn out or turned: the kernel leaves such as they are
        surface = GeomConvert.SurfaceToBSplineSurface_s(Geom_RectangularTrimmedSurface(surface, *bounds))
        face = TopoDS.Face(BRepBuilderAPI_MakeFace(surface, 1e-6).Face().Oriented(face.Orientation()))
    wider = TopoDS_Face()
    try:
        BRepLib.ExtendFace_s(face, reach, *sides, wider)
    except REFUSALS:
        return face
    return face if wider.IsNull() else wider


def _refuse_beyond_middle(solid: Solid, face: int, gap: float) -> None:
    """A round moved past its own middle comes out on the other side: the kernel makes that without a word."""
    bent = measure.bend(solid, face)
    if bent is not None and bent[1] == (gap < 0) and abs(gap) >= bent[0] - 1e-6:
        raise KernelError(
            f"The face is bent to a radius of {bent[0]:g} mm: {abs(gap):g} mm {'under' if gap < 0 else 'over'} it lies beyond "
            "its middle.",
            f"Stay under {bent[0]:g} mm.",
            sized=True,
        )


def moved(surface: Any, by: float) -> Any:
    """A surface of the kernel `by` mm off another along its normals; places keep their parameters."""
    form = GeomAdaptor_Surface(surface)
    # The kernel moves cones whose axes are left-handed the wrong way.
    turned = form.GetType() == GeomAbs_SurfaceType.GeomAbs_Cone and not form.Cone().Position().Direct()
    return BRepOffset.Surface_s(surface, -by if turned else by, BRepOffset_Status.BRepOffset_Good)


def _about(solid: Solid, face: int, surface: Any, reach: float) -> Any:
    u0, u1, v0, v1 = BRepTools.UVBounds_s(solid.face(face))
    return BRepBuilderAPI_MakeFace(surface, u0 - reach, u1 + reach, v0 - reach, v1 + reach, 1e-6).Face()


def _round(solid: Solid, face: int, surface: Any, reach: float, cone: bool) -> Any:
    u0, u1, v0, v1 = BRepTools.UVBounds_s(solid.face(face))
    low, high = v0 - reach, v1 + reach
    round_about = GeomAdaptor_Surface(surface)
    radius = round_about.Cone().RefRadius() if cone else round_about.Cylinder().Radius()
    spare = min(reach / max(abs(radius), 1e-6), (2 * math.pi - (u1 - u0)) / 2)
    if cone:  # not beyond the apex, where it would cross itself
        shape = round_about.Cone()
        tip = -shape.RefRadius() / math.sin(shape.SemiAngle())
        low, high = (max(low, tip + 1e-6), high) if tip < v0 else (low, min(high, tip - 1e-6))
    return BRepBuilderAPI_MakeFace(surface, u0 - spare, u1 + spare, low, high, 1e-6).Face()
