"""The demo tool made by bare calls of the geometry bindings: the yardstick that a rebuild is measured against.

The same operations on the same part, each result checked and measured once by the bindings' own means; no names, no
traces, no messages, no exact volumes.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse, BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp
from OCP.BRepOffset import BRepOffset_Mode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeThickSolid
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Ax2, gp_Dir, gp_Pln, gp_Pnt, gp_Trsf
from OCP.GProp import GProp_GProps

from supplecast.kernel.shapes.shape import ShapeList, Solid, solids_in


def checked(shape: Any) -> list[Any]:
    solids = [found.shape for found in solids_in(shape)]
    for solid in solids:
        assert BRepCheck_Analyzer(solid).IsValid()
        volume(solid)
    return solids


def volume(solid: Any) -> float:
    measured = GProp_GProps()
    BRepGProp.VolumeProperties_s(solid, measured)
    return float(measured.Mass())


def shelled(solid: Solid, opened: Iterable[int], wall: float) -> list[Any]:
    """A solid hollowed inwards, some of its faces left open."""
    faces = ShapeList()
    for face in opened:
        faces.Append(solid.face(face))
    maker = BRepOffsetAPI_MakeThickSolid()
    skin, arc = BRepOffset_Mode.BRepOffset_Skin, GeomAbs_JoinType.GeomAbs_Arc
    maker.MakeThickSolidByJoin(solid.shape, faces, -wall, 1e-3, skin, False, False, arc, False)
    return checked(maker.Shape())


def combine(maker: Any, target: Any, *tools: Any) -> list[Any]:
    arguments, listed = ShapeList(), ShapeList()
    arguments.Append(target)
    for tool in tools:
        listed.Append(tool)
    maker.SetArguments(arguments)
    maker.SetTools(listed)
    maker.Build()
    return checked(maker.Shape())


def axis(x: float, y: float, z: float, up: float) -> Any:
    return gp_Ax2(gp_Pnt(x, y, z), gp_Dir(0, 0, up))


def tool(part: Any) -> list[Any]:
    """Cavity, core and shot of the demo's back shell; numbers as in its document."""
    factor = 1 / (1 - 0.0055)
    transform = gp_Trsf()
    transform.SetScale(gp_Pnt(0, 0, 0), factor)
    (scaled,) = checked(BRepBuilderAPI_Transform(part, transform, True).Shape())
    x, y, low, high = 62 * factor + 24, 36 * factor + 24, -27 * factor - 24, 26.0
    (block,) = checked(BRepPrimAPI_MakeBox(gp_Pnt(-x, -y, low), gp_Pnt(x, y, high)).Shape())
    (space,) = combine(BRepAlgoAPI_Cut(), block, scaled)
    sheet = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), -400, 400, -400, 400).Face()
    below, plug, above = sorted(combine(BRepAlgoAPI_Splitter(), space, sheet), key=lambda s: (reach(s), volume(s)))
    (core,) = combine(BRepAlgoAPI_Fuse(), above, plug)
    corners = [(sx * (x - 11), sy * (y - 11)) for sx in (-1, 1) for sy in (-1, 1)]
    pins = []
    for px, py in corners:
        bar = BRepPrimAPI_MakeCylinder(axis(px, py, 0, -1), 4, 11.2).Shape()
        pins += combine(BRepAlgoAPI_Fuse(), bar, BRepPrimAPI_MakeCone(axis(px, py, -11.2, -1), 4, 3.2, 0.8).Shape())
    (core,) = combine(BRepAlgoAPI_Fuse(), core, *pins)
    holes = [BRepPrimAPI_MakeCylinder(axis(px, py, 0, -1), 4.1, 12.1).Shape() for px, py in corners]
    (cavity,) = combine(BRepAlgoAPI_Cut(), below, *holes)
    cone = BRepPrimAPI_MakeCone(axis(-8.5, 0, low, 1), 2, 3.36, 27.2).Shape()
    feed = combine(BRepAlgoAPI_Common(), cavity, cone)[0]
    (cavity,) = combine(BRepAlgoAPI_Cut(), cavity, feed)
    (shot,) = combine(BRepAlgoAPI_Fuse(), scaled, feed)
    return [cavity, core, shot]


def reach(solid: Any) -> float:
    """Rank of a piece: below and outside, enclosed, above."""
    from supplecast.kernel import measure
    from supplecast.kernel.shapes.shape import Solid

    box = measure.loose_box(Solid(solid))
    if box.high[2] > 1:
        return 2.0
    return 0.0 if box.low[2] < -40 else 1.0
