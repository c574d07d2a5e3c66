"""Slides: the part of a cavity half that leaves sideways to free an undercut, before the half itself opens.

All of a slide lies in the way from the undercut out through the block's side, widening as it goes, and reaches up to the
parting surface: steel left over it would hang on what the undercut holds.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from supplecast.curves import Line2, Region
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, along, cross, times, unit, vec
from supplecast.kernel.measuring import measure, probing
from supplecast.kernel.meshing import mesh
from supplecast.kernel.shapes.history import FaceOf, Made, Origin, composed, traced_to
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs import boolean, solid, split
from supplecast.search import Triangles

_DEEPER = 0.5  # mm that the cutter begins behind the undercut, where there is nothing of the half
_PAST = 1.0
_ON = 1e-3  # mm


@dataclass(frozen=True)
class Slide:
    """The slide and what it leaves of the half, told by the half's faces (input 0); new faces are `slide` in the role of the
    side they bound. `depth` is how far it must move, mm, before the undercut is free.
    """

    slide: Made
    half: Made
    depth: float


@dataclass(frozen=True)
class Lock:
    """A wedge of the other half that holds a slide shut: the slide without it, and the other half with it (inputs: the slide's
    own half 0, the other one 1).
    """

    slide: Made
    other: Made


def slide(half: Solid, undercut: Triangles, direction: Vec, pull: Vec, margin: float, lean: float) -> Slide:
    """Cut the slide for an undercut, given as triangles of its skin, out of the half below the parting surface.

    It leaves along the unit vector `way`, square to the pull; `margin` mm lie round the undercut, and its sides lean outwards
    by `lean` rad. KernelError where it does not reach the side of the block.
    """
    across = unit(cross(pull, direction))
    points = undercut.corners.reshape(-1, 3)
    deep, side, high = (points @ np.array(axis) for axis in (direction, across, pull))
    out, top = measure.beyond(half, vec(points.mean(axis=0))), measure.span(half, pull)[1] + _PAST
    start = float(deep.min()) - _DEEPER
    outline = (float(side.min()) - margin, float(side.max()) + margin, float(high.min()) - margin, top)
    tool = _tool(direction, across, pull, start, out, outline, lean)
    pieces = boolean.common(half, [tool.solid])
    left_at = _way_out(half, vec(points.mean(axis=0)), direction)
    mine = [made for made in pieces if _holds(made.solid, left_at) and _forms(made, undercut)]
    if len(mine) != 1:
        raise KernelError(
            "The slide does not run clear from the undercut to the side of the block.",
            "Turn its direction, or make the block larger.",
        )
    (left,) = boolean.cut(half, [mine[0].solid])
    rename = {Origin(None, (FaceOf(1, face),)): Origin("slide", ("way",)) for face in range(tool.solid.face_count)}
    piece = Made(mine[0].solid, tuple(tuple(rename.get(o, o) for o in row) for row in mine[0].origins))
    return Slide(piece, traced_to(left, [_own(half), _seat(piece)]), float(deep.max() - deep.min()))


def _own(half: Solid) -> list[tuple[Origin, ...]]:
    return [(Origin(None, (FaceOf(0, face),)),) for face in range(half.face_count)]


def _seat(piece: Made) -> list[tuple[Origin, ...]]:
    """The pocket's faces: where the slide was cut off it is the `pocket`."""
    return [(Origin("pocket"),) if row[0].role == "slide" else row for row in piece.origins]


def _tool(
    direction: Vec, across: Vec, pull: Vec, start: float, length: float, outline: tuple[float, float, float, float], lean: float
) -> Made:
    left, right, low, top = outline
    frame = Frame(times(direction, start), across, direction)  # its y is way × across = pull
    corners = [(left, low), (right, low), (right, top), (left, top)]
    assert np.allclose(frame.y, pull)
    sides = tuple(Line2(f"s{k}", corners[k], corners[(k + 1) % 4]) for k in range(4))
    return solid.extrude(Region(sides), frame, length, draft=-lean)


def _way_out(half: Solid, place: Vec, direction: Vec) -> Vec:
    """Where a way from an undercut leaves the half: a slide that runs clear holds that place, through slanted walls too."""
    far = measure.beyond(half, place)
    back = probing.first_hit(half, along(place, direction, far), times(direction, -1.0))
    if back is None:
        raise KernelError("Nothing of the half lies before the undercut.", "Turn the direction of the slide.")
    return along(place, direction, far - back)


def _holds(piece: Solid, place: Vec) -> bool:
    return probing.distance_to_faces(piece, tuple(range(piece.face_count)), place) < _ON


def _forms(piece: Made, undercut: Triangles) -> bool:
    """Whether a piece bounds the undercut."""
    spots = (measure.point_inside(piece.solid, face) for face in range(piece.solid.face_count))
    places = np.array([spot for spot in spots if spot is not None])
    return bool(len(places) and (undercut.nearest(places).away < 0.05).any())


def locked(piece: Made, other: Solid, direction: Vec, pull: Vec, thick: float, lean: float) -> Lock:
    """A wedge taken off a slide's outer end and joined to the other half: `thick` mm at the parting surface, its face leaning
    by `lean` rad so that closing the mold drives the slide home.
    """
    out, top = measure.span(piece.solid, direction)[1], measure.span(piece.solid, pull)[1]
    origin = along(times(direction, out - thick), pull, top)
    normal = unit(vec(np.array(direction) * math.cos(lean) + np.array(pull) * math.sin(lean)))
    frame = Frame.lying(origin, normal)
    try:
        pieces = split.by_plane(piece.solid, frame)
    except KernelError as fault:
        raise KernelError("The wedge takes all of the slide.", "Make the lock thinner.", sized=True) from fault
    inner = [made for made in pieces if split.height(made.solid, frame) < 0]
    outer = [made for made in pieces if split.height(made.solid, frame) >= 0]
    if len(inner) != 1 or len(outer) != 1:
        raise KernelError("The wedge cuts the slide apart.", "Make the lock thinner.", sized=True)
    parts = [Made(m.solid, tuple(tuple(Origin("lock") if o.role == "split" else o for o in row) for row in m.origins))
             for m in (*inner, *outer)]  # fmt: skip
    shut, wedge = (composed(piece, part) for part in parts)
    whole = boolean.fuse(other, [wedge.solid])
    other_rows = [(Origin(None, (FaceOf(1, face),)),) for face in range(other.face_count)]
    return Lock(shut, traced_to(whole, [other_rows, wedge.origins]))


def skin(part: Solid, faces: Sequence[int]) -> Triangles:
    """Some faces of a part as triangles."""
    triangulated = mesh.tessellate(part, 0.05, 0.3, edges=False)
    return Triangles(triangulated.points[triangulated.triangles[np.isin(triangulated.faces, list(faces))]])
