"""A body grown by a gap in triangles: for meshes, which have nothing more exact, and as the last way for bodies round which no
exact gap is found. It stands off by no less than the gap, and by how much more at the most is told.

The body's triangles are thinned, each is summed with a ball of flats that holds the true one (Minkowski, 1903), and the union
of all that is thinned again; the ball is larger by what thinning may take away.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import Error, Manifold, Mesh, Mesh64, OpType

from supplecast.errors import KernelError
from supplecast.geometry import Floats, Ints, Rows, Vec
from supplecast.kernel.measuring import measure
from supplecast.kernel.meshing import mending, mesh
from supplecast.kernel.shapes.history import FaceOf, Made, Origin
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs import faceted
from supplecast.search import Triangles
from supplecast.wording import brief

MORE = 0.25
"""Of the gap: about as much more than it is left in places."""
_MANY, _MOST = 2500, 8000  # triangles that are grown, after thinning: if it can be in a few seconds, at most in twenty
_SLACKS = (0.02, 0.05, 0.1, 0.2, 0.4)  # mm by which thinning may move the skin, the least that will do
_MOST_SLACK = 0.2  # of the gap
_THIN, _NEAR = 1e-3, 1e-4  # mm
_NOTHING = 1e-5
_PASSES = 5
_LEAN = 1e-3  # rad: what leans less than that leaves nothing but slivers behind it
_FINE, _COARSE, _FEW = 16, 12, 2000  # flats round the ball, and up to how many triangles the finer one is taken
_SAMPLES = 40_000


@dataclass(frozen=True)
class Coarse:
    """A body of flats about another, its faces told as `clear` of the faces nearest to them, and from how near to how far it
    stands off, mm; `spare` is what of it only lies on the way past undercuts, mm³.
    """

    made: Made
    least: float
    most: float
    spare: float = 0.0


def grown(solid: Solid, gap: float, way: Vec | None = None, length: float = 0.0) -> Coarse:
    """A body of triangles larger by at least `gap` mm all round, led `length` mm along the unit vector `way` if there is one.

    It is thinned out no more than it takes to be handled. KernelError for meshes that are not tight and for too many triangles.
    """
    for share, slack in enumerate(_SLACKS):
        last = share == len(_SLACKS) - 1 or _SLACKS[share + 1] > max(_SLACKS[1], _MOST_SLACK * gap)
        skin, corners, faces = _skin(solid, slack)
        body = Manifold(skin).simplify(slack / 2)
        if body.num_tri() > (faceted.MOST if not gap else _MOST if last else _MANY):
            if last:
                words = f"This body has {body.num_tri()} triangles, thinned out by {brief(slack / 2)} mm"
                raise KernelError(f"{words}; up to {_MOST} can be grown.", "Use a larger gap, or a simpler body.")
            continue
        spare, led = 0.0, body
        if way is not None:  # led on first and grown then: what is grown looks every way, and would be led on in slivers
            led = _whole(_led(body, way, length).simplify(slack / 4))
            spare = (led ^ _led(body, (-way[0], -way[1], -way[2]), length)).volume() - body.volume()
        larger = led.minkowski_sum(_ball(gap + slack, led.num_tri())) if gap else led
        larger = larger.simplify(slack / 2)
        if larger.num_tri() <= faceted.MOST or last:
            break
    points, triangles = _without_slivers(_whole(larger), slack / 2)
    least, most = _between(points[triangles], corners, way is not None)
    if least < gap - _NEAR:  # thinned over and over it may have come nearer: a sound body is not yet a right one
        words = f"A gap of flats would come within {brief(least)} mm of this body"
        raise KernelError(f"{words}, not {brief(gap)}.", "Use another gap, or a simpler body.")
    return Coarse(_told(faceted.solid_of(points, triangles), corners, faces), least, most, spare)


def _whole(body: Manifold) -> Manifold:
    """The one piece that a body is of, without hollows in it and without what has no volume. KernelError for several."""
    pieces = sorted(body.decompose(), key=lambda piece: -piece.volume())
    apart = [piece for piece in pieces[1:] if piece.volume() > _NOTHING * pieces[0].volume()]
    if apart:
        raise KernelError(f"It falls into {1 + len(apart)} pieces that do not touch.", "Import each in a file of its own.")
    return pieces[0]


def _without_slivers(body: Manifold, slack: float) -> tuple[Floats, Ints]:
    """Points and triangles of a body, none of them so narrow that it makes no face, as far as that can be had."""
    for _ in range(_PASSES):
        held = body.to_mesh64()
        points = np.asarray(held.vert_properties, dtype=np.float64)[:, :3]
        points, triangles = mending.without_slivers(points, np.asarray(held.tri_verts, dtype=np.int32), _THIN)
        if not len(mending.slivers(points, triangles, _THIN)):
            break
        again = Manifold(Mesh64(np.array(points, order="C"), np.array(triangles, dtype=np.uint64, order="C")))  # its own copies
        if again.status() != Error.NoError:
            break
        body = again.simplify(slack)
    return points, triangles


def _skin(solid: Solid, off: float) -> tuple[Mesh, Triangles, Rows]:
    """A body's triangles, and the face of each; those of exact faces within `off` / 4 mm of them."""
    if isinstance(solid, MeshBody):
        if not solid.tight:
            raise KernelError(
                "This mesh has gaps or crosses itself: what is inside it cannot be told.", "Mend it where it was made."
            )
        points, triangles, faces = solid.points, solid.triangles, solid.regions
        corners = Triangles(solid.corners)
    else:
        fine = mesh.tessellate(solid, off / 4, 0.4, edges=False)
        corners, faces = Triangles(fine.points[fine.triangles]), fine.faces
        points, triangles = fine.welded()
    return Mesh(points.astype(np.float32), triangles.astype(np.uint32)), corners, faces


def _ball(radius: float, count: int) -> Manifold:
    """A ball of flats that holds the true one of that radius in mm."""
    plain = Manifold.sphere(1.0, _FINE if count <= _FEW else _COARSE)
    held = plain.to_mesh()
    corners = np.asarray(held.vert_properties, dtype=np.float64)[:, :3][held.tri_verts]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    inner = float(np.einsum("ij,ij->i", normals, corners[:, 0]).min())
    scale = radius / inner
    return plain.scale((scale, scale, scale))


def _led(body: Manifold, way: Vec, length: float) -> Manifold:
    """The space that a body takes on its way: itself, and a prism over each triangle that looks that way."""
    held = body.to_mesh()
    corners = np.asarray(held.vert_properties, dtype=np.float64)[:, :3][held.tri_verts]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    ahead = corners[normals @ np.array(way) > _LEAN]
    prisms = [Manifold.hull_points(np.concatenate([three, three + length * np.array(way)])) for three in ahead]
    return Manifold.batch_boolean([body, *prisms], OpType.Add)


def _told(solid: Solid, skin: Triangles, faces: Rows) -> Made:
    """Each face told by the face of the body that its middle is nearest to."""
    middles = np.array(
        [measure.point_inside(solid, face) or measure.face_middle(solid, face) for face in range(solid.face_count)]
    )
    own = faces[skin.nearest(middles).triangles]
    return Made(solid, tuple((Origin("clear", (FaceOf(0, int(face)),)),) for face in own))


def _between(corners: Floats, skin: Triangles, led: bool) -> tuple[float, float]:
    """From how near to how far triangles stand off a body, by many places of them; of one that was led on, only the least."""
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    drawn = np.random.default_rng(1)
    of = drawn.choice(len(corners), _SAMPLES, p=areas / areas.sum())
    u, v = np.sqrt(drawn.random((_SAMPLES, 1))), drawn.random((_SAMPLES, 1))
    three = corners[of]
    inside = three[:, 0] * (1 - u) + three[:, 1] * u * (1 - v) + three[:, 2] * u * v
    away = skin.nearest(np.concatenate([inside, corners.reshape(-1, 3), corners.mean(axis=1)])).away
    return float(away.min()), float(np.inf if led else away.max())
