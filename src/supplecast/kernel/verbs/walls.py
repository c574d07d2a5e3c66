"""Hollowing a solid to a wall.

The kernel's thick-solid verb has three settings that fail in different places, and can return the untouched body or
inverted blends while calling itself done. So the settings are tried in order and every result is measured by `wallcheck`.
Where all of them fail, faces that cannot bear on the hollow (rounds tighter than the wall, thin posts, outside ribs) are
taken away first, and the hollow that is then found is cut out of the whole body.
"""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from supplecast.errors import KernelError
from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes import apart
from supplecast.kernel.shapes.faults import KERNEL_FAULTS, REFUSALS
from supplecast.kernel.shapes.history import (
    EdgeOf,
    FaceOf,
    Made,
    Origin,
    Row,
    Source,
    VertexOf,
    composed,
    traced_to,
    unchanged,
)
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs import boolean, feature, mouths, wall_check
from supplecast.kernel.verbs.mouths import Side
from supplecast.kernel.verbs.thick_solid import ARC, SHARP, attempt
from supplecast.kernel.verbs.wall_check import Corners, Room, Wanted

# Join, and whether intersections among the offset faces are computed: the order in which they are tried.
LADDER = ((ARC, False), (SHARP, False), (SHARP, True))
OUTWARD_LADDER = ((SHARP, False), (ARC, False))
_BEARS = 0.02  # share of a face's points that bear on the hollow, from which the face does
_LITTLE = 0.25
_TIMES = 6
_FAR = 0.05  # share of a body's size from which a wall is thick
_SECONDS, _LOOKING = 25.0, 6.0  # for the shell that is asked for, and for others that tell why it does not fit
_TRYING, _CLEARING = 4.0, 12.0  # for some faces to be taken away, and for all that are in the way


def shell(
    solid: Solid,
    open_faces: Sequence[int],
    wall: float,
    *,
    side: Side = "inwards",
    others: Mapping[int, float] | None = None,
    corners: Corners = "either",
) -> Made:
    """Hollow a solid to a `wall` in mm, leaving `open_faces` open; with none, the hollow is closed.

    `inwards` keeps the outside, `outwards` puts the wall round the solid, which becomes the hollow, `to both sides` half of it
    each. `others` are faces with a wall of their own; `corners` holds for walls that go inwards. Roles: `inner` or `outer`
    from the face the new skin runs along, from edges and corners too; `rim` for what is left of an open face.
    """
    others = dict(others or {})
    walls = {face: others.get(face, wall) for face in range(solid.face_count) if face not in set(open_faces)}
    if any(w <= 0 for w in (wall, *walls.values())):
        raise KernelError("The wall must be greater than zero.")
    if any(face >= solid.face_count for face in open_faces):
        raise KernelError("An open face does not belong to this body.")
    if not walls:
        raise KernelError("All faces are open: no wall would be left.", "Leave at least one closed.")
    smooth = _smooth_openings(solid, open_faces)
    if not all(measure.is_flat(solid, face) for face in smooth):
        raise KernelError(
            "A bent open face runs on smoothly into its neighbours, so that the wall there has no edge to end at.",
            "Shell before rounding that edge, or open the round as well.",
            faces=smooth,
            field="open",
        )
    if smooth:
        rest = [face for face in open_faces if face not in smooth]
        shut = shell(solid, rest, wall, side=side, others=others, corners=corners)
        return mouths.cut_square(solid, smooth, shut, wall, side)
    uneven = _uneven(solid, walls)
    if uneven:
        raise KernelError(
            "Faces that run into each other smoothly cannot have different walls.",
            "Give the whole chain of faces the other wall, or shell before rounding.",
            faces=uneven,
            field="others",
        )
    if side == "inwards":
        return _one_way(Wanted(solid, walls, tuple(open_faces), corners=corners), wall)
    if side == "outwards":
        return _one_way(Wanted(solid, walls, tuple(open_faces), outward=True), wall)
    halves = {face: w / 2 for face, w in walls.items()}
    outer = _one_way(Wanted(solid, halves, tuple(open_faces), outward=True), wall)
    inner = _one_way(Wanted(solid, halves, tuple(open_faces), corners=corners), wall)
    whole = boolean.fuse(outer.solid, [inner.solid])
    return traced_to(whole, [outer.origins, inner.origins])


def _one_way(wanted: Wanted, wall: float) -> Made:
    hollow = _hollowed(wanted)
    if not isinstance(hollow, str):
        return hollow
    reason = hollow.rstrip(".").lower()
    _refuse_what_else_is_at_fault(wanted, wall, reason)
    tight = Room(wanted).tight
    where = f"; faces rounded to less than that: {len(tight)}" if tight else ""
    gap = None if tight else edges.gap(wanted.solid, range(wanted.solid.number_of_edges))
    if gap is not None:
        edge, why = gap
        words = f"A wall of {wall:g} mm does not fit this body ({reason}); {why}."
        raise KernelError(words, "Use a thinner wall; a body that was imported can be taken healed.", edges=(edge,), sized=True)
    raise KernelError(
        f"A wall of {wall:g} mm does not fit this body ({reason}{where}).",
        "Use a thinner wall, or rounds larger than the wall. Handles and posts are better added after the shell.",
        faces=tight,
        sized=True,
    )


def _hollowed(wanted: Wanted) -> Made | str:
    """The shell, or what was wrong with the last of those that were tried.

    Walls thicker than some rounds, or than a good part of the body, can keep the kernel for ever: tried in a process apart.
    """
    room = Room(wanted)
    if not room.tight and wanted.least < _FAR * measure.loose_box(wanted.solid).diagonal:
        return _dug_or_tried(room)
    try:
        return apart.made(lambda: _only_made(room), _SECONDS, "the shell")
    except KernelError as fault:
        return fault.message


def _only_made(room: Room) -> Made:
    hollow = _dug_or_tried(room)
    if isinstance(hollow, str):
        raise KernelError(hollow)
    return hollow


def _dug_or_tried(room: Room) -> Made | str:
    wanted = room.wanted
    hollow = _tried(room)
    if isinstance(hollow, str):
        simple = None if wanted.outward else without_idle(room)
        dug = _dug(wanted, simple) if simple else None
        if dug is not None and not _wrong(room, dug):
            return dug
    return hollow


def _refuse_what_else_is_at_fault(wanted: Wanted, wall: float, reason: str) -> None:
    """KernelError where it is not the wall that does not fit, but the rule of its corners, another wall, or what is open."""

    def fits(**other: Any) -> bool:
        changed = Room(replace(wanted, **other))
        try:
            return apart.answer(lambda: not isinstance(_dug_or_tried(changed), str), _LOOKING, "the shell")
        except KernelError:
            return False

    re_entrant = _re_entrant(wanted) if wanted.corners != "either" else ()
    if re_entrant and fits(corners="either"):
        x, y, z = (round(c, 2) + 0.0 for c in edges.middle(wanted.solid, re_entrant[0]))
        more = f", and {len(re_entrant) - 1} more" if len(re_entrant) > 1 else ""
        raise KernelError(
            f"At this wall the hollow cannot be {wanted.corners} along the re-entrant edge at ({x:g}, {y:g}, {z:g}){more}.",
            f"Choose re-entrant edges {'sharp' if wanted.corners == 'rounded' else 'rounded'}.",
            edges=re_entrant,
            field="corners",
        )
    walls = list(wanted.walls.values())
    usual = max(set(walls), key=walls.count)
    if len(set(walls)) > 1 and fits(walls=dict.fromkeys(wanted.walls, usual)):
        raise KernelError(
            f"With {wall:g} mm all round the shell fits; with the other walls it does not ({reason}).",
            "Bring them nearer to the wall, or leave them out.",
            faces=tuple(face for face, w in wanted.walls.items() if w != usual),
            field="others",
        )
    if wanted.opened and fits(walls={**dict.fromkeys(wanted.opened, usual), **wanted.walls}, opened=()):
        raise KernelError(
            f"Closed, a wall of {wall:g} mm fits; with the picked faces open it does not ({reason}).",
            "Open other faces, or cut the opening after the shell.",
            faces=wanted.opened,
            field="open",
        )


def _tried(room: Room) -> Made | str:
    """The first sound shell that the kernel finds, or what was wrong with the last."""
    fault = "the kernel found no offset"
    for join, crossing in _ladder(room.wanted):
        try:
            made = attempt(room.wanted, join, crossing)
            reason = _wrong(room, made)
        except KERNEL_FAULTS:
            continue
        except KernelError as refusal:
            fault = refusal.message
            continue
        if not reason:
            return made
        fault = reason
    return fault


def _ladder(wanted: Wanted) -> Sequence[tuple[Any, bool]]:
    """What is tried in which order: one rule for the whole shell, where there is an edge at which it matters."""
    if wanted.outward:
        return OUTWARD_LADDER
    if wanted.corners == "either" or not _re_entrant(wanted):
        return LADDER
    join = ARC if wanted.corners == "rounded" else SHARP
    return [rung for rung in LADDER if rung[0] == join]


def _re_entrant(wanted: Wanted) -> tuple[int, ...]:
    """The edges between kept faces that stand in the hollow's way as corners do."""
    solid, walls = wanted.solid, wanted.walls
    kept = (e for e, faces in enumerate(solid.faces_at_edges) if len(faces) == 2 and all(face in walls for face in faces))
    return tuple(e for e in kept if edges.bend(solid, e) == "concave")


def _wrong(room: Room, made: Made) -> str:
    role = "outer" if room.wanted.outward else "inner"
    skin = [face for face, row in enumerate(made.origins) if any(origin.role == role for origin in row)]
    return wall_check.fault(room, made.solid, skin)


def without_idle(room: Room) -> Made | None:
    """The solid without the faces that do not bear on the hollow; None if there are none, or if they cannot be taken away.

    All at once, or else those that hang together; again, as long as what is left has idle faces and there is time.
    """
    ends = time.monotonic() + _CLEARING
    made = Made(room.wanted.solid, unchanged(room.wanted.solid))
    for _ in range(_TIMES):
        here = room if made.solid is room.wanted.solid else Room(_carried(room.wanted, made))
        wanted, (_, _, shares) = here.wanted, here.free(3000, 24)
        # The offset of a round as tight as the wall is the sharp corner that is left without it.
        idle = {face for face in wanted.walls if shares[face] < _BEARS or face in here.tight}
        # Patches in which rounds meet hold some of them fast; where they hardly bear, they may go too.
        patches = {
            face for one in idle for face in made.solid.neighbours[one] if face in wanted.walls and shares[face] < _LITTLE
        }
        less = _less(made.solid, [idle, idle | patches], ends)
        if less is None:
            break
        made = composed(made, less)
    return made if made.solid is not room.wanted.solid else None


def _less(solid: Solid, choices: Sequence[set[int]], ends: float) -> Made | None:
    """The solid without the first of some sets of faces that can be taken away whole, or else without an island of one; None
    if none is found until the clock says `ends`.
    """
    wholes = [tuple(sorted(faces)) for faces in choices if faces]
    for faces in dict.fromkeys((*wholes, *(island for whole in wholes for island in solid.islands(whole)))):
        if time.monotonic() > ends:
            break
        try:
            return feature.removed(solid, faces, _TRYING)
        except REFUSALS:
            continue
    return None


def _carried(wanted: Wanted, made: Made) -> Wanted:
    """The same walls and openings for a solid that was made of the wanted one."""
    faces = [_source(row) for row in made.origins]
    walls = {face: wanted.walls[source] for face, source in enumerate(faces) if source in wanted.walls}
    opened = tuple(face for face, source in enumerate(faces) if source in wanted.opened)
    return Wanted(made.solid, walls, opened, wanted.outward, wanted.corners)


def _source(row: Row) -> int:
    source = row[0].sources[0]
    assert isinstance(source, FaceOf)
    return source.face


def _dug(wanted: Wanted, simple: Made) -> Made | None:
    """The hollow found in the simpler solid, cut out of the whole one."""
    shelled = _tried(Room(_carried(wanted, simple)))
    if isinstance(shelled, str):
        return None
    try:
        hollows = boolean.cut(simple.solid, [shelled.solid], pieces=None)
        cavities = [_inner_of(simple, traced_to(h, [unchanged(simple.solid), shelled.origins])) for h in hollows]
        (whole,) = boolean.cut(wanted.solid, [hollow.solid for hollow in cavities])
    except REFUSALS:
        return None
    made = traced_to(whole, [unchanged(wanted.solid), *(hollow.origins for hollow in cavities)])
    rim = {Origin(None, (FaceOf(0, face),)): Origin("rim", (FaceOf(0, face),)) for face in wanted.opened}
    return Made(made.solid, tuple((*row, *(rim[o] for o in row if o in rim)) for row in made.origins))


def _inner_of(simple: Made, hollow: Made) -> Made:
    """A hollow's faces told by those of the whole solid; what was its mouth is told as nothing, since it will vanish."""
    rows = []
    for row in hollow.origins:
        origins = [Origin("inner", _faces(simple, origin)) for origin in row if origin.role == "inner"]
        rows.append(tuple(origins) or (Origin("mouth"),))
    return Made(hollow.solid, tuple(rows))


def _faces(simple: Made, origin: Origin) -> tuple[Source, ...]:
    """What an inner face grew from, as faces of the whole solid: of an edge, the faces beside it."""
    source = origin.sources[0]
    if isinstance(source, FaceOf):
        return (FaceOf(0, _source(simple.origins[source.face])),)
    if isinstance(source, EdgeOf):
        beside = set(simple.solid.faces_at_edges[source.edge])
    else:
        assert isinstance(source, VertexOf)
        beside = set(simple.solid.vertex_faces(source.vertex))
    return tuple(FaceOf(0, _source(simple.origins[face])) for face in sorted(beside))


def _smooth_openings(solid: Solid, open_faces: Sequence[int]) -> tuple[int, ...]:
    """Open faces tangent to a face that stays: the kernel makes self-crossing walls of them and calls them valid."""
    opened = set(open_faces)
    return tuple(face for face in open_faces if not opened.issuperset(measure.smooth_neighbours(solid, face)))


def _uneven(solid: Solid, walls: Mapping[int, float]) -> tuple[int, ...]:
    """Faces tangent to one with another wall: the kernel spreads one of the two over the whole chain, silently."""
    if len(set(walls.values())) < 2:
        return ()
    uneven: set[int] = set()
    for index, faces in enumerate(solid.faces_at_edges):
        kept = [face for face in faces if face in walls]
        if len({walls[face] for face in kept}) > 1 and measure.is_smooth(solid, index):
            uneven.update(kept)
    return tuple(sorted(uneven))
