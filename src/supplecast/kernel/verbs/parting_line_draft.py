"""Walls leant about a parting line: a line of edges, level or not, that stays where it is.

The kernel leans faces about planes only. Here a surface of one slope is laid through the line: under each straight edge a
plane, under a bent one the surface that its planes of that slope envelop, and where two edges meet at a corner these end in
their common line. The body is cut along it, and what lies outside is taken away.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepFill import BRepFill
from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.Geom import Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Vec, dot, subtract, vec
from supplecast.kernel.measuring import datums, edges, measure
from supplecast.kernel.shapes import spline
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, composed, each, unchanged
from supplecast.kernel.shapes.profile import as_point
from supplecast.kernel.shapes.shape import Solid, Surface, listed, xyz
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean

_UPRIGHT = math.sin(math.radians(45))
_SLACK = 1e-4  # rad
_MORE = 1.1
_SAMPLES = 12
_SLANT = 1.05
_BEYOND = 1.0  # mm
_SAME, _TIGHT = 1e-9, 1e-6
_STEP = 1e-5
_SMOOTH, _ASKEW = 1e-5, 2e-3  # rad
_NEAR = 1e-3  # mm


def taper(body: Solid, line: Sequence[int], angle: float, directions: Sequence[Vec]) -> Made:
    """Lean the walls that go on from a line of edges, along each of `ways`, inwards by `angle` rad against that way.

    The walls keep their tags. KernelError if the edges make no line, or the line ends within a wall, or more hangs on the walls
    than the draft would take.
    """
    if not 0 < angle < math.radians(45):
        raise KernelError("From a parting line the draft must lie between 0° and 45°.", "Type 1° to 3°.")
    made = Made(body, unchanged(body))
    for direction in directions:
        here = _line_in(made, body, line)
        made = composed(made, _leant(made.solid, here, angle, direction))
    return made


def _line_in(made: Made, body: Solid, line: Sequence[int]) -> list[int]:
    """The edges of a body that lie on the line: they move in the count as the other side is cut."""
    if made.solid is body:
        return list(line)
    spots = [edges.middle(body, edge) for edge in line]
    count = range(made.solid.number_of_edges)
    return [index for index in count if any(edges.passes(made.solid, index, spot) for spot in spots)]


def _leant(body: Solid, line: Sequence[int], angle: float, direction: Vec) -> Made:
    runs = _runs(body, line, _walls(body, line, direction), angle, np.array(direction))
    strip = _strip(body, runs, np.array(direction))
    maker = boolean.parted(body, [strip.sheet.shape])
    pieces = checked(maker.Shape(), "the draft", expect=None)
    if len(pieces) < 2:
        raise KernelError("The line does not part the walls: it ends within one.", "Pick it on to where the walls end.")
    return _kept(body, pieces, maker, strip, angle, direction)


@dataclass(frozen=True)
class _Run:
    """An edge of the line in the sense in which the line runs: where the wanted surface lies at places along it.

    `at` are parameters of its curve, `spots` (n, 3) mm, `normals` of the surface and the `rulings` it is made of, of length 1.
    """

    edge: int
    wall: int
    curve: Any
    straight: bool
    at: Floats
    spots: Floats
    tangents: Floats
    normals: Floats
    rulings: Floats


def _runs(body: Solid, line: Sequence[int], walls: dict[int, int], angle: float, direction: Floats) -> list[_Run]:
    maker = BRepBuilderAPI_MakeWire()
    maker.Add(listed(body.nth_edge(edge) for edge in line))
    if not maker.IsDone():
        raise KernelError("The picked edges make no line.", "Pick edges that join end to end.")
    runs = []
    explorer = BRepTools_WireExplorer(maker.Wire())
    while explorer.More():
        edge = body.find_edge(explorer.Current())
        assert edge is not None
        runs.append(_run(edge, body, walls[edge], explorer.Orientation() == TopAbs_REVERSED, angle, direction))
        explorer.Next()
    return runs


def _run(edge: int, body: Solid, wall: int, back: bool, angle: float, direction: Floats) -> _Run:
    adaptor = BRepAdaptor_Curve(body.nth_edge(edge))
    straight = adaptor.GetType() == GeomAbs_CurveType.GeomAbs_Line
    # As a spline, since ruled faces pair the parameters of those.
    bounded = Geom_TrimmedCurve(
        BRep_Tool.Curve_s(body.nth_edge(edge), 0.0, 1.0), adaptor.FirstParameter(), adaptor.LastParameter()
    )
    curve = GeomConvert.CurveToBSplineCurve_s(bounded)
    at = np.linspace(curve.FirstParameter(), curve.LastParameter(), 2 if straight else _SAMPLES * (curve.NbKnots() - 1) + 1)
    at = at[::-1] if back else at
    place, first, second = gp_Pnt(), gp_Vec(), gp_Vec()
    spots, tangents, bends, outwards = [], [], [], []
    for t in at:
        curve.D2(float(t), place, first, second)
        size, sense = first.Magnitude(), -1.0 if back else 1.0
        spots.append(xyz(place))
        tangents.append(np.array(xyz(first)) * sense / size)
        bends.append(np.array(xyz(second)) / size**2)
        outwards.append(datums.normal_at(body, wall, spots[-1])[1])
    tangent, out = np.array(tangents), np.array(outwards)
    if (np.linalg.norm(np.cross(tangent, direction), axis=1) < math.sin(angle) * _SLANT).any():
        raise KernelError("The line runs too steeply for the draft.", "Let it rise less steeply there.", edges=(edge,))
    normals = _normals(tangent, out, angle, direction)
    across = np.cross(tangent, normals)
    if not straight:  # the surface of one slope through a bent line is made of the lines in which its planes follow each other
        step = _STEP * np.array(bends) / max(float(np.linalg.norm(bends, axis=1).max()), _SAME)
        ahead, behind = (_normals(tangent + sense * step, out, angle, direction) for sense in (1.0, -1.0))
        crease = np.cross(normals, ahead - behind)
        sizes = np.linalg.norm(crease, axis=1)[:, None]
        across = np.where(sizes > _SAME, crease / np.maximum(sizes, _SAME), across)
    return _Run(
        edge, wall, curve, straight, at, np.array(spots), tangent, normals, across * np.sign(across @ direction)[:, None]
    )


def _normals(along: Floats, out: Floats, angle: float, direction: Floats) -> Floats:
    """Normals of length 1, square to directions along the line, that lean by `angle` towards the way, (n, 3)."""
    t = along / np.linalg.norm(along, axis=1)[:, None]
    up = direction - (t @ direction)[:, None] * t
    upright = np.linalg.norm(up, axis=1)[:, None]
    share = math.sin(angle) / upright
    flat = np.cross(t, up / upright)
    flat *= np.sign((flat * out).sum(axis=1))[:, None]
    normals: Floats = share * up / upright + np.sqrt(1 - share**2) * flat
    return normals


@dataclass(frozen=True)
class _Strip:
    """The surface of the draft, its faces and for each the run it goes through."""

    sheet: Surface
    faces: list[Any]
    runs: list[_Run]


def _strip(body: Solid, runs: list[_Run], direction: Floats) -> _Strip:
    closed = len(runs) == 1 and bool(np.allclose(runs[0].spots[0], runs[0].spots[-1], atol=_NEAR))
    closed = closed or (len(runs) > 1 and bool(np.allclose(runs[0].spots[0], runs[-1].spots[-1], atol=_NEAR)))
    bottom = float((measure.corners(body) @ direction).max()) + _BEYOND
    sewing = BRepBuilderAPI_Sewing(_TIGHT)
    faces = []
    for number, run in enumerate(runs):
        before = runs[number - 1] if number or closed else None
        after = runs[(number + 1) % len(runs)] if number + 1 < len(runs) or closed else None
        first = (
            _ray(before, run, direction) if before else _Ray(run.spots[0], run.rulings[0]).beyond(run, -1, direction, bottom)
        )
        last = _ray(run, after, direction) if after else _Ray(run.spots[-1], run.rulings[-1]).beyond(run, 1, direction, bottom)
        faces.append(_face(body, run, first, last, direction, bottom))
        sewing.Add(faces[-1])
    sewing.Perform()
    kept = [face if (new := sewing.ModifiedSubShape(face)).IsNull() else new for face in faces]
    return _Strip(Surface(sewing.SewedShape()), kept, runs)


@dataclass(frozen=True)
class _Ray:
    spot: Floats
    direction: Floats

    def beyond(self, run: _Run, sense: int, direction: Floats, bottom: float) -> _Ray:
        """At a free end of a straight line: moved on by as much as the walls are high, so that the surface leaves them."""
        far = bottom - float(self.spot @ direction)
        return _Ray(self.spot + sense * run.tangents[0] * far, self.direction) if run.straight else self


def _ray(before: _Run, after: _Run, direction: Floats) -> _Ray:
    """Where the faces of two runs meet: from the vertex between them on."""
    a, b = before.normals[-1], after.normals[0]
    crease = np.cross(a, b)
    if np.linalg.norm(crease) > _SMOOTH:
        ray = crease / np.linalg.norm(crease) * np.sign(crease @ direction)
    else:
        ray = after.rulings[0] if before.straight else before.rulings[-1]
    for run, own in ((before, before.rulings[-1]), (after, after.rulings[0])):
        if not run.straight and np.linalg.norm(np.cross(own, ray)) > _ASKEW:
            raise KernelError(
                "The line has a corner beside a bent edge.", "Draft from a plane, or round the corner first.", edges=(run.edge,)
            )
    return _Ray(after.spots[0], ray)


def _face(body: Solid, run: _Run, first: _Ray, last: _Ray, direction: Floats, bottom: float) -> Any:
    tops = run.spots.copy()
    tops[0], tops[-1] = first.spot, last.spot
    rays = run.rulings.copy()
    rays[0], rays[-1] = first.direction, last.direction
    feet = tops + rays * ((bottom - tops @ direction) / (rays @ direction))[:, None]
    if ((np.diff(feet, axis=0) * np.diff(tops, axis=0)).sum(axis=1) <= 0).any():
        raise KernelError("The draft closes the wall before its end.", "Use less draft.", faces=(run.wall,), sized=True)
    if run.straight:
        outline = BRepBuilderAPI_MakePolygon()
        for spot in (tops[0], tops[1], feet[1], feet[0]):
            outline.Add(as_point(vec(spot)))
        outline.Close()
        return BRepBuilderAPI_MakeFace(outline.Wire()).Face()
    cone = _cone(body, run, tops[0], feet[0], direction)
    if cone is not None:
        return cone
    order = np.argsort(run.at)
    foot = spline.through(feet[order], run.at[order])
    return BRepFill.Face_s(BRepBuilderAPI_MakeEdge(run.curve).Edge(), BRepBuilderAPI_MakeEdge(foot).Edge())


def _cone(body: Solid, run: _Run, top: Floats, foot: Floats, direction: Floats) -> Any:
    """The face under a round edge that lies square to the pull; None for others."""
    curve = BRepAdaptor_Curve(body.nth_edge(run.edge))
    if curve.GetType() != GeomAbs_CurveType.GeomAbs_Circle:
        return None
    axis = curve.Circle().Axis()
    if abs(np.dot(xyz(axis.Direction()), direction)) < 1 - _SAME:
        return None
    ruling = BRepBuilderAPI_MakeEdge(as_point(vec(top)), as_point(vec(foot))).Edge()
    turn = curve.LastParameter() - curve.FirstParameter()
    if run.at[-1] < run.at[0]:
        axis.Reverse()
    return TopoDS.Face(BRepPrimAPI_MakeRevol(ruling, axis, turn).Shape())


def _walls(body: Solid, line: Sequence[int], direction: Vec) -> dict[int, int]:
    """For each edge of the line the face that goes on from it along the way."""
    wall_of = {}
    for edge in line:
        spot = edges.middle(body, edge)
        upright = [f for f in body.faces_at_edges[edge] if abs(dot(datums.normal_at(body, f, spot)[1], direction)) < _UPRIGHT]
        upright = [f for f in upright if dot(subtract(measure.face_middle(body, f), spot), direction) > _NEAR]
        if not upright:
            raise KernelError("No wall goes on from this edge along the pull.", "Leave it out.", edges=(edge,))
        wall_of[edge] = max(upright, key=lambda f: dot(subtract(measure.face_middle(body, f), spot), direction))
    return wall_of


def _kept(body: Solid, pieces: list[Solid], maker: Any, strip: _Strip, angle: float, direction: Vec) -> Made:
    ledger = Ledger(pieces)
    for run, face in zip(strip.runs, strip.faces, strict=True):
        for new in each(maker.Modified(face)):
            ledger.note(new, Origin(None, (FaceOf(0, run.wall),)))
    walls = {run.edge: run.wall for run in strip.runs}
    leant = [{index for index, row in enumerate(rows) if row} for rows in ledger.rows]
    ledger.kept([body], maker.Modified)
    largest = max(range(len(pieces)), key=lambda index: measure.rough_volume(pieces[index]))
    result = ledger.made()[largest]
    taken = sum(measure.rough_volume(piece) for index, piece in enumerate(pieces) if index != largest)
    corners = measure.corners(body)
    drop = max(float(((corners - edges.middle(body, edge)) @ np.array(direction)).max()) for edge in walls)
    room = drop * math.tan(angle) * sum(measure.face_area(body, face) for face in set(walls.values()))
    sound = all(_steep_enough(result.solid, face, angle, direction) for face in leant[largest])
    if taken > _MORE * room or not sound or not leant[largest]:
        raise KernelError(
            f"{math.degrees(angle):g}° of draft from this line crosses other parts of the body.",
            "Use less draft, or draft before what hangs on the walls is made.",
            edges=tuple(walls),
            sized=True,
        )
    return result


def _steep_enough(body: Solid, face: int, angle: float, direction: Vec) -> bool:
    spot = measure.point_inside(body, face)
    return spot is None or dot(datums.normal_at(body, face, spot)[1], direction) > math.sin(angle) - _SLACK
