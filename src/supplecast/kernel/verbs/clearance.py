"""A body grown all round by a gap: what must be kept free about it, so that it fits into another.

The kernel's offset fails in different places by different settings, and may call a body sound that stands off by less than it
should. So a ladder of ways is tried, and every result is measured by `wall_check` from many points: the offset of the outside
itself; that of the body without faces that do not bear on it (narrow slots and holes, which the gap closes anyway); and, where
the body can be cut at its re-entrant edges, the pieces grown one by one and joined, since growing a union is the union of what
is grown (Minkowski, 1903).
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import Any, Literal

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepClass3d import BRepClass3d
from OCP.BRepLib import BRepLib
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError, MissedError
from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes import apart
from supplecast.kernel.shapes.faults import KERNEL_FAULTS, REFUSALS
from supplecast.kernel.shapes.history import (
    Between,
    EdgeOf,
    FaceOf,
    Ledger,
    Made,
    Origin,
    Row,
    composed,
    traced_to,
    unchanged,
)
from supplecast.kernel.shapes.shape import Solid, as_shell, mapped, solids_in
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean, coarse, order, outside, split, tidy, wall_check, walls
from supplecast.kernel.verbs.thick_solid import ARC, SHARP, note_skin
from supplecast.kernel.verbs.wall_check import Room, Wanted

Corners = Literal["rounded", "sharp"]
"""Whether the convex edges of the body are rounded about by the gap, as what lies everywhere as far off is, or kept sharp."""
Edges = Literal["rounded", "sharp", "of flats"]
"""The same, or all of it of flats by triangles (`coarse`), which is less exact and always found."""

_CLOSE = 1e-4
_SECONDS, _TRYING = 20.0, 5.0  # for all that is tried, and for one offset of a body on which the kernel may not end
_MANY = 60
_EASY = ("flat", "round", "conical", "ball")
_MOST_PIECES = 24
_MORE = (1.0, 1.05)  # a slot that the gap closes just so is neither open nor filled: then a little more is

_WORDS = {
    "part of the hollow would be missing": "part of it would be missing",
    "no cavity is possible at this wall": "it would lie on the wrong side",
    "material would be left where there should be none": "it would be too wide in places",
}
"""What the check of a wall finds, said of a gap."""


def grown(solid: Solid, gap: float, corners: Corners = "rounded") -> Made:
    """A body larger by `gap` mm all round; hollows inside it are filled. Roles: `clear` of the face, edge or corner that it is
    clear of.

    KernelError with the faces at fault where no way is found, or where the other `corners` would do.
    """
    if gap <= 0:
        raise KernelError("The gap must be greater than zero.", "Type a larger number, or leave the gap out.")
    whole, ends = _outside(solid), time.monotonic() + _SECONDS
    try:
        return _climbed(whole, gap, corners, ends)
    except KernelError as fault:
        other: Corners = "sharp" if corners == "rounded" else "rounded"
        try:
            _climbed(whole, gap, other, ends)
        except KernelError:
            raise _told_of_ways_out(fault, whole.solid, gap) from None
        words = f"A gap of {gap:g} mm does not fit round this body with its edges {corners}."
        raise KernelError(words, f"Keep its edges {other}.", field="corners") from fault


def _told_of_ways_out(fault: KernelError, solid: Solid, gap: float) -> KernelError:
    """The refusal, with what can be done: the gap of flats, and where the body has holes and hollows, without them."""
    try:
        simpler = outside.filled(solid).solid.face_count < solid.face_count
    except KernelError:
        simpler = False
    hint = f"{fault.hint} Edges of flats leave a little more, about {coarse.MORE * gap:.2g} mm."
    hint = f"{hint} Nest can take only its outside." if simpler else hint
    return KernelError(fault.message, hint, faces=fault.faces, sized=fault.sized)


def cut_out(target: Solid, tools: Sequence[Made]) -> Made:
    """A body less others that were grown: the faces of the gap are told by the bodies they are clear of.

    KernelError for what the cut leaves, or does not leave, names the gap; MissedError the tools.
    """
    try:
        (made,) = boolean.cut(target, [tool.solid for tool in tools])
    except MissedError:
        raise
    except KernelError as fault:
        raise KernelError(fault.message, fault.hint or "Use a smaller gap.", field="gap", sized=True) from fault
    return traced_to(made, [unchanged(target), *(_of_body(tool.origins, number) for number, tool in enumerate(tools, 1))])


def _of_body(rows: Sequence[Row], number: int) -> list[Row]:
    """Origins told by the first body, told by another one."""
    return [tuple(Origin(o.role, tuple(_moved(source, number) for source in o.sources)) for o in row) for row in rows]


def _moved(source: Any, number: int) -> Any:
    return source if isinstance(source, str) else source._replace(body=number)


def _climbed(whole: Made, gap: float, corners: Corners, ends: float) -> Made:
    """The first way that holds, tried in order until the clock says `ends`."""
    join = ARC if corners == "rounded" else SHARP
    room, said = Room(_all_round(whole.solid, gap)), ""
    for crossing in (False, True):
        try:
            return told_by(whole, _held(room, gap, join, crossing, ends))
        except KernelError as fault:
            said = said or fault.message.rstrip(".").lower()
    for more in _MORE:
        made = _filled_first(room, gap, more, join, ends)
        if made:
            return told_by(whole, made)
    joined = _piece_by_piece(whole.solid, gap, join, ends) if corners == "rounded" else None
    if joined and not wall_check.fault(room, joined.solid, _skin(joined)):
        return told_by(whole, joined)
    free = _free(whole.solid)
    if free:
        raise KernelError(
            f"A gap of {gap:g} mm cannot be carried round this body ({said}): {len(free)} of its faces are free surfaces.",
            "Use a smaller gap, or a simpler body.",
            faces=tuple(dict.fromkeys(elder for face in free for elder in _faces(whole.origins[face]))),
            sized=True,
        )
    raise KernelError(
        f"A gap of {gap:g} mm does not fit round this body ({said}).",
        "Use a smaller gap, or fill its narrow holes and slots first.",
        sized=True,
    )


def _held(room: Room, gap: float, join: Any, crossing: bool, ends: float) -> Made:
    """The kernel's offset by these settings, found right. KernelError says what is wrong with it.

    Free surfaces, rings, and many faces, can keep the kernel for ever: those are tried in a process apart.
    """
    solid = room.wanted.solid

    def tried() -> Made:
        made = _offset(solid, gap, join, crossing)
        fault = wall_check.fault(room, made.solid, _skin(made))
        if fault:
            raise KernelError(_WORDS.get(fault, fault.replace("the wall would be", "it would be")))
        return made

    if solid.face_count <= _MANY and all(measure.surface_word(solid, face) in _EASY for face in range(solid.face_count)):
        return tried()
    left = min(ends - time.monotonic(), _TRYING)
    if left <= 0:
        raise KernelError("there was no time left to try")
    return apart.made(tried, left, "the offset")


def _filled_first(room: Room, gap: float, more: float, join: Any, ends: float) -> Made | None:
    """The offset of the body without the faces that do not bear on a gap `more` times as large: slots and holes it closes."""
    solid = room.wanted.solid
    if time.monotonic() > ends:
        return None
    simple = walls.without_idle(Room(_all_round(solid, gap * more)))
    if simple is None or measure.rough_volume(simple.solid) < measure.rough_volume(solid) * (1 - 1e-6):
        return None
    filled = Room(_all_round(simple.solid, gap))
    for crossing in (False, True):
        try:
            made = _held(filled, gap, join, crossing, ends)
        except KernelError:
            continue
        if not wall_check.too_near(room, made.solid, _skin(made)):
            return told_by(simple, made)
    return None


def _all_round(solid: Solid, gap: float) -> Wanted:
    return Wanted(solid, dict.fromkeys(range(solid.face_count), gap), (), outward=True)


def _free(solid: Solid) -> tuple[int, ...]:
    return tuple(face for face in range(solid.face_count) if measure.surface_word(solid, face) == "free")


def _outside(solid: Solid) -> Made:
    """The body without what is hollow inside it, flush faces joined: the kernel offsets neither."""
    outer = BRepClass3d.OuterShell_s(TopoDS.Solid(solid.shape))
    if int(mapped(solid.shape, TopAbs_SHELL).Extent()) > 1:
        filled = Solid(BRepBuilderAPI_MakeSolid(outer).Solid())
        ledger = Ledger([filled])
        ledger.kept([solid], lambda face: ())
        made = ledger.made()[0]
    else:
        made = Made(solid, unchanged(solid))
    try:
        return tidy.unified(made, "joining flush faces")
    except REFUSALS:
        return made


def _offset(solid: Solid, gap: float, join: Any, crossing: bool) -> Made:
    """The kernel's own offset outwards. KernelError where it makes none; whether it is right is another matter."""
    maker = BRepOffset_MakeOffset()
    try:
        maker.Initialize(solid.shape, gap, _CLOSE, BRepOffset_Mode.BRepOffset_Skin, crossing, False, join, False)
        maker.MakeOffsetShape()
        if not maker.IsDone():
            raise KernelError("the kernel found no offset")
        result = checked(_closed(maker.Shape()), "the offset")[0]
    except KERNEL_FAULTS as fault:
        raise KernelError("the kernel found no offset") from fault
    ledger = Ledger([result])
    note_skin(ledger, solid, maker, "clear")
    made = ledger.made()[0]
    if not all(made.origins) or measure.rough_volume(result) <= measure.rough_volume(solid):
        raise KernelError("the offset came out wrong")
    return order.settled(made)


def _closed(shape: Any) -> Any:
    """A solid of what the kernel's offset gives: a bare shell, or one that is inside out."""
    found = solids_in(shape)
    if len(found) > 1:
        raise KernelError("the offset falls into pieces")
    solid = TopoDS.Solid(found[0].shape) if found else BRepBuilderAPI_MakeSolid(TopoDS.Shell(as_shell(shape))).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def _skin(made: Made) -> list[int]:
    return list(range(made.solid.face_count))


def told_by(first: Made, second: Made) -> Made:
    """What `second` says of the body that `first` made, told by what that was made from: edges by the faces beside them."""
    rows = []
    for row in second.origins:
        told: list[Origin] = []
        for origin in row:
            told.append(Origin(origin.role, tuple(_elder(first, source) for source in origin.sources)))
        rows.append(tuple(dict.fromkeys(told)))
    return Made(second.solid, tuple(rows))


def _elder(first: Made, source: Any) -> Any:
    """What something on the body that `first` made came from: edges and corners from what lay between faces."""
    solid = first.solid
    match source:
        case FaceOf():
            return first.origins[source.face][0].sources[0]
        case Between():
            beside = set(source.faces)
        case EdgeOf():
            beside = set(solid.faces_at_edges[source.edge])
        case _:
            beside = set(solid.vertex_faces(source.vertex))
    elders = {face for one in beside for face in _faces(first.origins[one])}
    return FaceOf(0, elders.pop()) if len(elders) == 1 else Between(0, tuple(sorted(elders)))


def _faces(row: Row) -> tuple[int, ...]:
    """The faces that the first of some origins tells of."""
    source = row[0].sources[0]
    if isinstance(source, Between):
        return source.faces
    assert isinstance(source, FaceOf)
    return (source.face,)


def _piece_by_piece(solid: Solid, gap: float, join: Any, ends: float) -> Made | None:
    """The body cut at its re-entrant edges into pieces that have none, each grown by itself, and all of them joined."""
    try:
        pieces = _convex_pieces(Made(solid, unchanged(solid)))
        if len(pieces) < 2:
            return None
        larger = [told_by(p, _held(Room(_all_round(p.solid, gap)), gap, join, False, ends)) for p in pieces]
        whole = boolean.fuse(larger[0].solid, [one.solid for one in larger[1:]], simplify=False)
        return tidy.unified(traced_to(whole, [one.origins for one in larger]), "joining flush faces")
    except REFUSALS:
        return None


def _convex_pieces(whole: Made) -> list[Made]:
    """Pieces without re-entrant edges, cut along the flat and round faces that meet there. KernelError for too many."""
    done, left = list[Made](), [whole]
    while left:
        piece = left.pop()
        face = _cutting_face(piece.solid)
        if face is None:
            done.append(piece)
        else:
            left += [_piece_of(piece, part, face) for part in split.by_face(piece.solid, piece.solid, face)]
        if len(done) + len(left) > _MOST_PIECES:
            raise KernelError("The body falls into too many pieces.")
    return done


def _cutting_face(solid: Solid) -> int | None:
    """The flat or round face at which the most re-entrant edges are; None where there are none."""
    counts: dict[int, int] = {}
    for index, faces in enumerate(solid.faces_at_edges):
        if len(faces) == 2 and edges.bend(solid, index) == "concave":
            for face in faces:
                if measure.surface_word(solid, face) in ("flat", "round"):
                    counts[face] = counts.get(face, 0) + 1
    return max(counts, key=lambda face: (counts[face], measure.surface_word(solid, face) == "flat"), default=None)


def _piece_of(whole: Made, piece: Made, face: int) -> Made:
    """A piece told by the body it was cut from; the cut itself by the face along which it runs."""
    rows = tuple(row if row[0].role is None else (Origin(None, (FaceOf(0, face),)),) for row in piece.origins)
    return composed(whole, Made(piece.solid, rows))
