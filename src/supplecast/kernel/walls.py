"""Hollowing a solid to a wall.

The kernel's thick-solid verb has three settings that fail in different places, and can return the untouched body or
inverted blends while calling itself done. So the settings are tried in order and every result is measured: it must be
one sound solid of less volume, and its inner faces must stand at least the wall away from the outside.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from OCP.BRepOffset import BRepOffset_Mode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeThickSolid
from OCP.GeomAbs import GeomAbs_JoinType

from supplecast.errors import KernelError
from supplecast.kernel import boolean, measure
from supplecast.kernel.faults import KERNEL_FAULTS
from supplecast.kernel.history import EdgeOf, FaceOf, Ledger, Made, Origin, VertexOf, each, told_by, unchanged
from supplecast.kernel.shape import ShapeList, Solid, checked

ARC, SHARP = GeomAbs_JoinType.GeomAbs_Arc, GeomAbs_JoinType.GeomAbs_Intersection
# Join, and whether intersections among the offset faces are computed: the order in which they are tried.
LADDER = ((ARC, False), (SHARP, False), (SHARP, True))


def shell(solid: Solid, open_faces: Sequence[int], wall: float) -> Made:
    """Hollow a solid inwards to a `wall` in mm, leaving `open_faces` open; with none, the hollow is closed.

    Roles: `inner` from the face it runs along, `rim` for what is left of an open face, `inner` from edges and corners too.
    """
    if wall <= 0:
        raise KernelError("The wall must be greater than zero.")
    if any(face >= solid.face_count for face in open_faces):
        raise KernelError("An open face does not belong to this body.")
    smooth = _smooth_openings(solid, open_faces)
    if smooth:
        raise KernelError(
            "An open face runs on smoothly into its neighbours, so that the wall there has no edge to end at.",
            "Shell before rounding that edge, or open the round as well.",
            faces=smooth,
        )
    fault = "the kernel found no offset"
    for join, crossing in LADDER:
        try:
            made = _attempt(solid, open_faces, wall, join, crossing)
            reason = _wrong(solid, open_faces, wall, made)
        except KERNEL_FAULTS:
            continue
        except KernelError as refusal:
            fault = refusal.message
            continue
        if not reason:
            return made
        fault = reason
    tight = measure.tighter_than(solid, wall)
    where = f"; {len(tight)} of its rounds are tighter than that" if tight else ""
    raise KernelError(
        f"A wall of {wall:g} mm does not fit this body ({fault.rstrip('.').lower()}{where}).",
        "Use a thinner wall, or rounds larger than the wall.",
        faces=tight,
        sized=True,
    )


def _smooth_openings(solid: Solid, open_faces: Sequence[int]) -> tuple[int, ...]:
    """Open faces tangent to a face that stays: the kernel makes self-crossing walls of them and calls them valid."""
    opened = set(open_faces)
    return tuple(face for face in open_faces if not opened.issuperset(measure.smooth_neighbours(solid, face)))


def _attempt(solid: Solid, open_faces: Sequence[int], wall: float, join: Any, crossing: bool) -> Made:
    faces = ShapeList()
    for face in open_faces:
        faces.Append(solid.face(face))
    maker = BRepOffsetAPI_MakeThickSolid()
    mode = BRepOffset_Mode.BRepOffset_Skin
    maker.MakeThickSolidByJoin(solid.shape, faces, -wall, 1e-3, mode, crossing, False, join, False)
    if not maker.IsDone():
        raise KernelError("the kernel found no offset")
    result = checked(maker.Shape(), "the shell")[0]
    if not open_faces:
        return _closed_hollow(solid, result, maker)
    ledger = Ledger([result])
    opened = set(open_faces)
    for index in range(solid.face_count):
        face = solid.face(index)
        source = (FaceOf(0, index),)
        ledger.note(face, Origin(None, source))
        for new in each(maker.Modified(face)):
            ledger.note(new, Origin(None, source))
            if index in opened:
                ledger.note(new, Origin("rim", source))
        for new in each(maker.Generated(face)):
            ledger.note(new, Origin("inner", source))
    _note_joins(ledger, solid, maker)
    return ledger.made()[0]


def _note_joins(ledger: Ledger, solid: Solid, maker: Any) -> None:
    for index in range(solid.number_of_edges):
        for new in each(maker.Generated(solid.nth_edge(index))):
            ledger.note(new, Origin("inner", (EdgeOf(0, index),)))
    for index in range(solid.vertex_count):
        for new in each(maker.Generated(solid.vertex(index))):
            ledger.note(new, Origin("inner", (VertexOf(0, index),)))


def _closed_hollow(solid: Solid, cavity: Solid, maker: Any) -> Made:
    """Without an open face the verb returns the cavity itself, so the hollow body is what is left around it."""
    ledger = Ledger([cavity])
    for index in range(solid.face_count):
        for new in each(maker.Generated(solid.face(index))):
            ledger.note(new, Origin("inner", (FaceOf(0, index),)))
    _note_joins(ledger, solid, maker)
    inside = ledger.made()[0]
    hollow = boolean.cut(solid, [cavity])[0]
    return told_by(hollow, [unchanged(solid), inside.origins])


def _wrong(solid: Solid, open_faces: Sequence[int], wall: float, made: Made) -> str:
    """Why a shell is not one, or nothing: measured, since the kernel calls wrong ones done."""
    before, after = measure.rough_volume(solid), measure.rough_volume(made.solid)
    if not 0 < after < before * (1 - 1e-3):
        return "no cavity is possible at this wall"
    kept = tuple(face for face in range(solid.face_count) if face not in set(open_faces))
    if not any(origin.role == "inner" for origins in made.origins for origin in origins):
        return "no cavity is possible at this wall"
    slack = max(0.01 * wall, 0.004)
    for face, origins in enumerate(made.origins):
        if not any(origin.role == "inner" for origin in origins):
            continue
        spot = measure.point_inside(made.solid, face)
        if spot is None:
            continue
        distance = measure.distance_to_faces(solid, kept, spot)
        if distance < wall - slack:
            return f"the wall would be {distance:.2f} mm in places"
        if distance > 1.75 * wall + slack:
            return "material would be left inside"
    return ""
