"""Exact measures of solids: volume, area, centroid, box, nearest distance.

One function, `mass`, serves every gate and every report (see `integrate` for why it is not the kernel's own).
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BOPTools import BOPTools_AlgoTools3D
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepGProp import BRepGProp, BRepGProp_Domain, BRepGProp_Face, BRepGProp_Vinert
from OCP.BRepLib import BRepLib
from OCP.GeomAbs import GeomAbs_Shape, GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.GProp import GProp_GProps
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_IN, TopAbs_VERTEX
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.geometry import Box, Floats, Frame, Mass, Vec, vec
from supplecast.kernel.measuring import edges, face_reach, integrate
from supplecast.kernel.measuring.integrate import moments
from supplecast.kernel.shapes.memo import Memo
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid, mapped, xyz

MASS: Memo[Mass] = Memo("mass")
"""The exact mass."""
BOX: Memo[Box] = Memo("box")
"""The exact box."""
_ROUGH: Memo[tuple[float, Vec]] = Memo("rough volume and centroid")


def mass(solid: Solid) -> Mass:
    """Volume, area and centroid, remembered on the solid."""
    if isinstance(solid, MeshBody):
        return MASS.of(solid, solid.mass)
    return MASS.of(solid, lambda: _mass(solid) if solid.closed else _skin(solid))


def _mass(solid: Solid) -> Mass:
    known = moments(solid)
    return Mass(known.volume, known.area, vec(known.centroid))


def second_moments(solid: Solid) -> tuple[Vec, Vec, Vec]:
    """Rows of ∫ r rᵀ dV about the centroid, mm⁵; the inertia about x is the density times yy + zz. Nothing for a surface."""
    if not solid.closed:
        return (0.0, 0.0, 0.0), (0.0, 0.0, 0.0), (0.0, 0.0, 0.0)
    x, y, z = moments(solid).second
    return vec(x), vec(y), vec(z)


def _skin(sheet: Solid) -> Mass:
    """A surface has an area and the centroid of that, and no volume."""
    area, middle = integrate.skin(sheet)
    return Mass(0.0, area, vec(middle))


def rough_mass(solid: Solid) -> Mass:
    """The kernel's own integrals: a tenth of the time, off by up to 3e-4."""
    if MASS.known(solid) or not solid.closed:
        return mass(solid)
    volume, centroid = _rough(solid)
    skin = GProp_GProps()
    BRepGProp.SurfaceProperties_s(solid.shape, skin)
    return Mass(volume, float(skin.Mass()), centroid)


def volume(solid: Solid) -> float:
    return mass(solid).volume


def rough_volume(solid: Solid) -> float:
    """The kernel's own integral, ten times quicker and off by up to 3e-4: for guards that only need the order of size."""
    return _rough(solid)[0]


def rough_centroid(solid: Solid) -> Vec:
    """Where a solid lies, near enough to tell on which side of something."""
    return _rough(solid)[1]


def _rough(solid: Solid) -> tuple[float, Vec]:
    if MASS.known(solid) or not solid.closed:
        return mass(solid).volume, mass(solid).centroid
    known = _ROUGH.known(solid)
    if known is None:
        volume, middle = integrate.rough(solid)
        known = _ROUGH.keep(solid, (volume, vec(middle)))
    return known


def rough_space(solid: Solid, faces: Iterable[int], about: Vec) -> float:
    """What lies between some faces and a point, mm³, counted by which way they look: for guards, as `rough_volume`."""
    total = 0.0
    for face in faces:
        domain = BRepGProp_Domain(solid.face(face))
        total += float(BRepGProp_Vinert(BRepGProp_Face(solid.face(face)), domain, gp_Pnt(*about)).Mass())
    return total


def is_inside_out(solid: Solid) -> bool:
    """Whether a solid encloses all of space but itself: a tenth of the time that a volume takes to tell."""
    classifier = BRepClass3d_SolidClassifier(solid.shape)
    classifier.PerformInfinitePoint(1e-6)
    return bool(classifier.State() == TopAbs_IN)


_FEW = 12  # faces: of so few the rough volume is found in no time


def handy_volume(solid: Solid) -> float:
    """The exact volume where it is nearly known already, which then is quicker too; else the rough one."""
    known = MASS.known(solid) is not None or not solid.closed
    if not known and solid.face_count > _FEW:
        known = integrate.unknown_faces(solid) <= max(6, solid.face_count // 10)
    return volume(solid) if known else rough_volume(solid)


def face_area(solid: Solid, face: int) -> float:
    """Of one face, mm²."""
    if isinstance(solid, MeshBody):
        return solid.face_area(face)
    return integrate.face_area(solid, face)


def box(solid: Solid) -> Box:
    """The exact box of the solid, remembered on it.

    The kernel's exact box takes up to half a second on a tray, nearly all of it on faces well inside. So it is asked only
    about edges and faces whose quick, loose box sticks out of what is already certain.
    """
    if isinstance(solid, MeshBody):
        return BOX.of(solid, solid.box)
    known = BOX.known(solid)
    if known is None:
        points = corners(solid)
        low, high = points.min(axis=0), points.max(axis=0)
        curved = [solid.nth_edge(e) for e in range(solid.number_of_edges) if edges.line(solid, e) is None]
        faces = [solid.face(f) for f in range(solid.face_count) if not is_flat(solid, f)]
        for shapes, inside in ((curved, False), (faces, True)):  # edges first: faces reach beyond them seldom
            for shape in shapes:
                low, high = _widened(low, high, shape, inside)
        known = BOX.keep(solid, Box(vec(low), vec(high)))
    return known


def face_box(solid: Solid, face: int) -> Box:
    """The exact box of one face."""
    if isinstance(solid, MeshBody):
        return solid.face_box(face)
    ends = mapped(solid.face(face), TopAbs_VERTEX)
    numbers = range(1, int(ends.Extent()) + 1)
    points = np.array([vertex_point(TopoDS.Vertex(ends.FindKey(n))) for n in numbers] or [face_middle(solid, face)])
    low, high = points.min(axis=0), points.max(axis=0)
    for curve in solid.face_edges[face]:
        if edges.line(solid, curve) is None and not solid.degenerate_edges[curve]:
            low, high = _widened(low, high, solid.nth_edge(curve), False)
    if not is_flat(solid, face):
        low, high = _widened(low, high, solid.face(face), True)
    return Box(vec(low), vec(high))


def reaches(solid: Solid, face: int, axis: int, *, high: bool) -> bool:
    """Whether a face reaches one side of the solid's box, to a millionth of a mm. The quick box rules most of them out."""
    whole = box(solid)

    def falls_short(mine: Box) -> bool:
        return (mine.high[axis] - whole.high[axis] if high else whole.low[axis] - mine.low[axis]) < -1e-6

    return not falls_short(loose_face_box(solid, face)) and not falls_short(face_box(solid, face))


def _widened(low: Floats, high: Floats, shape: Any, inside: bool) -> tuple[Floats, Floats]:
    """A box widened by what a shape reaches; of a face that is said to go beyond it, by what it reaches `inside` its edges."""
    bounds = Bnd_Box()
    BRepBndLib.Add_s(shape, bounds, False)
    loose = _box(bounds)
    if (np.array(loose.low) >= low - 1e-9).all() and (np.array(loose.high) <= high + 1e-9).all():
        return low, high
    bounds = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, bounds, False, False)
    tight = _box(bounds)  # the kernel widens even its exact boxes by its confusion distance
    least, most = np.array(tight.low) + 1e-7, np.array(tight.high) - 1e-7
    if inside and ((least < low - 1e-7).any() or (most > high + 1e-7).any()):
        inner = face_reach.reach(shape)
        if inner is None:
            return low, high
        # Where both find the same, the kernel's is the exact one.
        least = np.where(np.abs(inner[0] - least) < 1e-6, least, np.maximum(inner[0], least))
        most = np.where(np.abs(inner[1] - most) < 1e-6, most, np.minimum(inner[1], most))
    return np.minimum(low, least), np.maximum(high, most)


def corner_box(solid: Solid) -> Box:
    """The box of the solid's vertices: exact for blocks and whatever is cut from their inside."""
    points = corners(solid)
    return Box(vec(points.min(axis=0)), vec(points.max(axis=0)))


def corners(solid: Solid) -> Floats:
    """The solid's vertices, (n, 3) mm."""
    if isinstance(solid, MeshBody):
        return solid.points
    rows = np.empty((solid.vertex_count, 3))
    for index in range(solid.vertex_count):
        at = BRep_Tool.Pnt_s(solid.vertex(index))
        rows[index] = xyz(at)
    return rows


def span(solid: Solid, direction: Vec) -> tuple[float, float]:
    """From where to where the solid's vertices lie along a unit vector, mm."""
    places = corners(solid) @ np.array(direction)
    return float(places.min()), float(places.max())


def loose_box(solid: Solid) -> Box:
    """A box that surely holds the solid, in about a millisecond."""
    return box(solid) if isinstance(solid, MeshBody) else _loose(solid.shape)


def loose_face_box(solid: Solid, face: int) -> Box:
    """A box that surely holds one face, at once."""
    return solid.face_box(face) if isinstance(solid, MeshBody) else _loose(solid.face(face))


def beyond(solid: Solid, place: Vec) -> float:
    """Surely further than a solid goes, seen from a place, mm."""
    return 2 * ((around := loose_box(solid)).diagonal + math.dist(around.centre, place))


def _loose(shape: Any) -> Box:
    bounds = Bnd_Box()
    BRepBndLib.Add_s(shape, bounds, False)
    return _box(bounds)


def _box(bounds: Any) -> Box:
    bounds.SetGap(0.0)
    low, high = bounds.CornerMin(), bounds.CornerMax()
    return Box(xyz(low), xyz(high))


def flat_frame(solid: Solid, face: int) -> Frame:
    """The frame of a planar face: normal out of the material.

    The origin is the document's origin dropped onto the plane, so that typed places are the part's own. The in-plane x
    runs along the world's x (or y, where the normal is x) as nearly as the plane allows, so that a sketch
    on the face lies as people expect. Raises KernelError if the face is not planar.
    """
    if isinstance(solid, MeshBody):
        return solid.flat_frame(face)
    surface = BRepAdaptor_Surface(solid.face(face))
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_Plane:
        raise KernelError("This face is not flat.", "Pick a flat face.", faces=(face,))
    axis = surface.Plane().Axis().Direction()
    flip = -1.0 if solid.face(face).Orientation().name == "TopAbs_REVERSED" else 1.0
    if not surface.Plane().Direct():
        flip = -flip
    n = (axis.X() * flip, axis.Y() * flip, axis.Z() * flip)
    place = surface.Plane().Location()
    height = place.X() * n[0] + place.Y() * n[1] + place.Z() * n[2]
    return Frame.lying((n[0] * height, n[1] * height, n[2] * height), n)


def is_flat(solid: Solid, face: int) -> bool:
    if isinstance(solid, MeshBody):
        return solid.forms[face].kind == "flat"
    return bool(BRepAdaptor_Surface(solid.face(face)).GetType() == GeomAbs_SurfaceType.GeomAbs_Plane)


def surface_word(solid: Solid, face: int) -> str:
    """What people call the surface: flat, round, conical, ball, ring or free."""
    if isinstance(solid, MeshBody):
        return solid.forms[face].kind
    words = {
        GeomAbs_SurfaceType.GeomAbs_Plane: "flat",
        GeomAbs_SurfaceType.GeomAbs_Cylinder: "round",
        GeomAbs_SurfaceType.GeomAbs_Cone: "conical",
        GeomAbs_SurfaceType.GeomAbs_Sphere: "ball",
        GeomAbs_SurfaceType.GeomAbs_Torus: "ring",
    }
    return words.get(BRepAdaptor_Surface(solid.face(face)).GetType(), "free")


def face_middle(solid: Solid, face: int) -> Vec:
    """Centre of area of a face."""
    if isinstance(solid, MeshBody):
        return solid.face_middle(face)
    return rough_face(solid, face)[1]


def rough_face(solid: Solid, face: int) -> tuple[float, Vec]:
    """Area in mm² and its centre by the kernel's own integral: a tenth of the time of the exact one."""
    skin = GProp_GProps()
    BRepGProp.SurfaceProperties_s(solid.face(face), skin)
    return float(skin.Mass()), xyz(skin.CentreOfMass())


def point_inside(solid: Solid, face: int) -> Vec | None:
    """Some point of a face, well inside its outline; None where the kernel finds none, as on the thinnest slivers."""
    spot = gp_Pnt()
    missed = BOPTools_AlgoTools3D.PointInFace_s(solid.face(face), spot, gp_Pnt2d(), IntTools_Context())
    return None if missed else xyz(spot)


def vertex_point(vertex: Any) -> Vec:
    at = BRep_Tool.Pnt_s(vertex)
    return xyz(at)


def ends_at(solid: Solid, index: int, point: Vec, near: float = 1e-4) -> bool:
    """Whether an edge has an end at a point, to `near` mm."""
    curve = BRepAdaptor_Curve(solid.nth_edge(index))
    ends = (curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter()))
    return any(gp_Pnt(*point).Distance(end) < near for end in ends)


def is_smooth(solid: Solid, index: int) -> bool:
    """Whether the two faces of an edge run into each other without a crease (to 0.001 rad)."""
    faces = solid.faces_at_edges[index]
    if len(faces) < 2 or solid.degenerate_edges[index]:
        return True
    if isinstance(solid, MeshBody):
        return False
    meeting = BRepLib.ContinuityOfFaces_s(solid.nth_edge(index), solid.face(faces[0]), solid.face(faces[1]), 1e-3)
    return bool(meeting != GeomAbs_Shape.GeomAbs_C0)


def smooth_neighbours(solid: Solid, face: int) -> tuple[int, ...]:
    """The faces a face runs into smoothly."""
    neighbours = {other for e in solid.face_edges[face] if is_smooth(solid, e) for other in solid.faces_at_edges[e]}
    return tuple(sorted(neighbours - {face}))


def surface_key(solid: Solid, face: int) -> tuple[object, ...] | None:
    """Tells whether two faces lie on the same surface, to about 1e-5 mm; None for surfaces without a plain formula."""
    if isinstance(solid, MeshBody):
        return None
    surface = BRepAdaptor_Surface(solid.face(face))
    kind = surface.GetType()
    sizes: tuple[float, ...] = ()
    match kind:
        case GeomAbs_SurfaceType.GeomAbs_Plane:
            axis, place = surface.Plane().Axis(), surface.Plane().Location()
        case GeomAbs_SurfaceType.GeomAbs_Cylinder:
            axis, place, sizes = surface.Cylinder().Axis(), None, (surface.Cylinder().Radius(),)
        case GeomAbs_SurfaceType.GeomAbs_Cone:
            axis, place, sizes = surface.Cone().Axis(), surface.Cone().Apex(), (abs(surface.Cone().SemiAngle()),)
        case GeomAbs_SurfaceType.GeomAbs_Sphere:
            centre = surface.Sphere().Location()
            return (kind.name, *_rounded(centre.X(), centre.Y(), centre.Z(), surface.Sphere().Radius()))
        case _:
            return None
    direction = axis.Direction()
    n = np.array([direction.X(), direction.Y(), direction.Z()])
    n *= -1.0 if n[np.argmax(np.abs(n) > 1e-6)] < 0 else 1.0
    at = axis.Location()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        where = [float(n @ [place.X(), place.Y(), place.Z()])]
    elif place is not None:
        where = [place.X(), place.Y(), place.Z()]
    else:
        foot = np.array([at.X(), at.Y(), at.Z()])
        where = [float(c) for c in foot - (foot @ n) * n]
    return (kind.name, *_rounded(*n, *where, *sizes))


def _rounded(*values: float) -> tuple[float, ...]:
    return tuple(round(float(v), 5) + 0.0 for v in values)


def bend(solid: Solid, face: int) -> tuple[float, bool] | None:
    """The radius in mm that a cylinder, ball or ring is bent to, and whether outwards, its middle in the material."""
    if isinstance(solid, MeshBody):
        form = solid.forms[face]
        return (form.radius, form.outward) if form.kind == "round" else None
    surface = BRepAdaptor_Surface(solid.face(face))
    match surface.GetType():
        case GeomAbs_SurfaceType.GeomAbs_Cylinder:
            shape, radius = surface.Cylinder(), surface.Cylinder().Radius()
        case GeomAbs_SurfaceType.GeomAbs_Torus:
            shape, radius = surface.Torus(), surface.Torus().MinorRadius()
        case GeomAbs_SurfaceType.GeomAbs_Sphere:
            shape, radius = surface.Sphere(), surface.Sphere().Radius()
        case _:
            return None
    return float(radius), bool(shape.Direct()) != (solid.face(face).Orientation().name == "TopAbs_REVERSED")
