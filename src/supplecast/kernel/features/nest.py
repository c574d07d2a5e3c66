"""Nests: room in a body for others that it holds, open along the way by which they come in, and a wall about them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from supplecast.errors import KernelError, MissedError
from supplecast.geometry import Vec
from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes.history import Between, FaceOf, Made, Origin, Row, composed, traced_to, unchanged
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs import blend, boolean, clearance, coarse, feature, outside, passage
from supplecast.kernel.verbs.clearance import Corners, Edges
from supplecast.kernel.verbs.coarse import Coarse

_PAST = 1.0
Taken = Literal["as they are", "only their outside", "without some faces"]


@dataclass(frozen=True)
class Fit:
    """How the room stands off what lies in it: by `gap` mm, its convex edges `corners`; open along the unit vector `way`, or
    closed all round without one. What is hollow in the held body may be left out, or the faces `without`.
    """

    gap: float
    corners: Edges = "rounded"
    way: Vec | None = None
    taken: Taken = "as they are"
    without: tuple[int, ...] = ()


@dataclass(frozen=True)
class Room:
    """What a held body needs, and what a wall about it fills, if there is to be one; faces are `clear` of those of the body.
    `spare` is what of it only lies on the way past undercuts, mm³; `flats` tells how far those are off, if it is of such;
    `simpler` says that something of the held body was left out, as asked.
    """

    clear: Made
    filling: Made | None
    spare: float
    flats: Coarse | None = None
    simpler: bool = False


def room(held: Solid, body: Solid, fit: Fit, wall: float = 0.0) -> Room:
    """The room for `held` in `body`, and for a wall of so many mm about it. KernelError where it is not found."""
    plain, way = _simpler(held, fit), fit.way
    length = max(measure.span(body, way)[1] - measure.span(held, way)[0], 0.0) + 2 * (fit.gap + wall) + _PAST if way else 0.0
    by_triangles = fit.corners == "of flats" or isinstance(held, MeshBody)
    made = (_of_flats if by_triangles else _exact)(plain, fit, wall, length)
    return replace(made, simpler=plain.solid.face_count < held.face_count)


def _exact(plain: Made, fit: Fit, wall: float, length: float) -> Room:
    way, corners = fit.way, fit.corners
    assert corners != "of flats"
    led = _swept(plain, way, length) if way else plain

    def clear_by(gap: float) -> Made:
        try:
            return _clear(_grown(led, gap, corners))
        except KernelError as fault:
            if way is None:
                raise
            try:  # what is grown first and led out then comes to the same
                return _clear(_swept(_grown(plain, gap, corners), way, length))
            except KernelError:
                raise fault from None

    spare = passage.undercut(plain.solid, led, way, length) if way else 0.0
    return Room(clear_by(fit.gap), clear_by(fit.gap + wall) if wall else None, spare)


def _of_flats(plain: Made, fit: Fit, wall: float, length: float) -> Room:
    """The same of flats, by triangles."""
    clear = coarse.grown(plain.solid, fit.gap, fit.way, length)
    filling = coarse.grown(plain.solid, fit.gap + wall, fit.way, length).made if wall else None
    told = [_clear(clearance.told_by(plain, one)) if one else None for one in (clear.made, filling)]
    assert told[0] is not None
    return Room(told[0], told[1], clear.spare, clear)


def _simpler(held: Solid, fit: Fit) -> Made:
    whole = Made(held, unchanged(held))
    if isinstance(held, MeshBody) and fit.taken != "as they are":
        raise KernelError("A mesh can only be taken as it is.", "Choose “as they are”.", field="taken")
    if fit.taken == "only their outside":
        return _told(whole, outside.filled, "taken")
    if fit.taken == "without some faces":
        return _told(whole, lambda solid: feature.removed(solid, fit.without), "without")
    return whole


def _swept(made: Made, way: Vec, length: float) -> Made:
    return _told(made, lambda solid: passage.swept(solid, way, length), "way")


def _grown(made: Made, gap: float, corners: Corners) -> Made:
    return _told(made, lambda solid: clearance.grown(solid, gap, corners), "") if gap else made


def _told(made: Made, verb: Callable[[Solid], Made], field: str) -> Made:
    """What a verb makes of a body, and its refusal, told by what that was made from."""
    try:
        return clearance.told_by(made, verb(made.solid))
    except KernelError as fault:
        elders = {s.face for face in fault.faces for o in made.origins[face] for s in o.sources if isinstance(s, FaceOf)}
        where = fault.field or field
        raise KernelError(fault.message, fault.hint, faces=tuple(sorted(elders)), sized=fault.sized, field=where) from fault


def _clear(made: Made) -> Made:
    return Made(made.solid, tuple(_in_role(row, "clear", 0) for row in made.origins))


def nested(body: Solid, rooms: Sequence[Room], within: Solid | None = None, root: float = 0.0) -> Made:
    """A body less the `rooms` in it, after their walls are grown in it. Roles: `clear`, `wall` and `root`; what they are clear
    of, or stand about, is told as faces of the held bodies, numbered from 1. MissedError where one lies beside the body.
    """
    fillings = [room.filling for room in rooms if room.filling]
    first = _walled(body, fillings, within, root) if fillings else Made(body, unchanged(body))
    return composed(first, clearance.cut_out(first.solid, [room.clear for room in rooms]))


def _walled(body: Solid, fillings: Sequence[Made], within: Solid | None, root: float) -> Made:
    """A body with walls grown inside it: what the `fillings` share with its outside, or with the body `within`, joined to it,
    and rounded by `root` mm where they stand on it.

    Roles: `wall` of the faces of the held bodies, numbered from 1. MissedError where no wall would be in the body.
    """
    limit = Made(within, unchanged(within)) if within else _told(Made(body, unchanged(body)), outside.filled, "within")
    pieces = boolean.common(limit.solid, [filling.solid for filling in fillings])
    if not pieces:
        raise MissedError("No wall would be inside the body.", "Move what it holds into the body, or choose what it is within.")
    bound = [(Origin("wall"),)] * limit.solid.face_count if within else limit.origins
    parts = [bound, *(_as_walls(filling, number) for number, filling in enumerate(fillings, 1))]
    told = [traced_to(piece, parts) for piece in pieces]
    joined = boolean.fuse(body, [piece.solid for piece in told])
    whole = traced_to(joined, [unchanged(body), *(piece.origins for piece in told)])
    return _rounded(whole, root) if root else whole


def _rounded(whole: Made, root: float) -> Made:
    """Rounded where the walls stand on the body. KernelError names the edges, as for a fillet."""
    solid = whole.solid
    own = [any(o.role == "wall" for o in row) for row in whole.origins]
    feet = [
        index
        for index, beside in enumerate(solid.faces_at_edges)
        if len(beside) == 2 and own[beside[0]] != own[beside[1]] and edges.bend(solid, index) == "concave"
    ]
    if not feet:
        return whole
    made = _told(Made(solid, unchanged(solid)), lambda body: blend.fillet(body, feet, root), "root")
    told = Made(made.solid, tuple(tuple(o if o.role is None else Origin("root") for o in row) for row in made.origins))
    return composed(whole, told)


def _as_walls(filling: Made, number: int) -> list[Row]:
    return [_in_role(row, "wall", number) for row in filling.origins]


def _in_role(row: Row, role: str, body: int) -> Row:
    """The same origins, all in one role, told as of another body."""
    sources = dict.fromkeys(s for origin in row for s in origin.sources if isinstance(s, (FaceOf, Between)))
    return tuple(Origin(role, (source._replace(body=body),)) for source in sources)
