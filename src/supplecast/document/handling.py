"""Where the numbers of a step can be taken hold of in the view."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast import kernel
from supplecast.curves import Region
from supplecast.document import placing
from supplecast.document.builder import Builder
from supplecast.document.fields import PlanePick
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, along, cross, dot, subtract, times, unit

_CHORDS = 12
_ARM = 15.0  # mm of an arc whose turn has no length of its own


def on_edge(at: Builder, field: str, solid: kernel.shape.Solid, edges: Sequence[int]) -> None:
    """What is taken off, or put into, edges: from the middle of the first, to between its two faces."""
    if not edges:
        return
    middle = kernel.edges.middle(solid, edges[0])
    normals = [_normal(solid, face, middle) for face in solid.faces_at_edges[edges[0]]]
    out = along(normals[0], normals[-1], 1.0)
    if dot(out, out) > 1e-6:
        inward = -1.0 if kernel.edges.bend(solid, edges[0]) == "convex" else 1.0
        at.handle(field, middle, times(unit(out), inward))


def on_face(at: Builder, field: str, solid: kernel.shape.Solid, faces: Sequence[int]) -> None:
    """How far faces go out of the material: from the middle of the first."""
    if not faces:
        return
    face = faces[0]
    spot = kernel.measure.point_inside(solid, face) or kernel.measure.face_middle(solid, face)
    at.handle(field, spot, _normal(solid, face, spot))


def inside_rim(at: Builder, field: str, solid: kernel.shape.Solid, opened: Sequence[int]) -> None:
    """A wall's thickness, from the middle of an open face's longest edge towards the face's middle."""
    if not opened:
        return
    face = opened[0]
    longest = max(kernel.edges.outer_loop(solid, face), key=lambda e: kernel.edges.length(solid, e))
    middle = kernel.edges.middle(solid, longest)
    normal = _normal(solid, face, middle)
    inward = cross(normal, kernel.edges.tangent_at(solid, longest, middle))
    sense = 1.0 if dot(inward, subtract(kernel.measure.face_middle(solid, face), middle)) > 0 else -1.0
    at.handle(field, middle, times(unit(inward), sense))


def raised(at: Builder, field: str, frame: Frame, regions: Sequence[Region], *, up: bool = True, rate: float = 1.0) -> None:
    """How high an outline is raised from its plane: from its middle, the outline going along."""
    outlines = [[frame.point((float(x), float(y))) for c in r.outer for x, y in c.sampled(_CHORDS)] for r in regions[:12]]
    direction = frame.normal if up else times(frame.normal, -1.0)
    at.handle(field, frame.point(regions[0].middle), direction, rate=rate, ghost=outlines)


def plane(at: Builder, field: str, pick: PlanePick) -> None:
    """How far a plane is moved along its normal and, once it is tilted, by how much."""
    flat = placing.base(at, field, pick)
    at.handle(f"{field}.offset", flat.origin, flat.normal)
    if pick.tilt != "0":
        moved = flat.shifted(at.length(f"{field}.offset", pick.offset, "any"))
        axis, arm = (moved.x, moved.y) if pick.about == "x" else (moved.y, moved.x)
        at.turning(f"{field}.tilt", moved.origin, axis, times(arm, _ARM))


def leaning(at: Builder, field: str, foot: Vec, out: Vec, pull: Vec) -> None:
    """How far a side leans inwards on its way along the pull, from a place at its foot; `out` looks out of the material."""
    axis = cross(pull, times(out, -1.0))
    if dot(axis, axis) > 1e-9:
        at.turning(field, foot, unit(axis), times(pull, _ARM))


def _normal(solid: kernel.shape.Solid, face: int, spot: Vec) -> Vec:
    try:
        return kernel.datums.normal_at(solid, face, spot)[1]
    except KernelError:
        return (0.0, 0.0, 1.0)
