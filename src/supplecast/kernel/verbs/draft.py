"""Faces of a body leant to a draft angle about a neutral plane."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle

from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, dot, times
from supplecast.kernel.measuring import datums, measure
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, composed, each, traced_to, unchanged
from supplecast.kernel.shapes.profile import as_dir, plane
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import boolean, split

_STEEP = math.radians(30)  # a face that leans more than that against the pull is no side


def taper(solid: Solid, faces: Sequence[int], neutral: Frame, angle: float, pull: Vec | None = None) -> Made:
    """Draft `faces`, and what runs on from them smoothly, by `angle` rad against `pull` (the plane's normal if None).

    Faces keep their outline where they meet the neutral plane; a positive angle takes material away above it. They keep
    their tags. KernelError names the faces that cannot be leant.
    """
    if abs(angle) >= math.radians(89):
        raise KernelError("The draft must stay under 89°.")
    if angle == 0:
        raise KernelError("The draft must not be zero.")
    direction = as_dir(pull or neutral.normal)
    before = measure.rough_volume(solid)
    maker = BRepOffsetAPI_DraftAngle(solid.shape)
    for index in faces:
        maker.Add(solid.face(index), direction, angle, plane(neutral))
        if not maker.AddDone():
            raise _unfit(solid, faces, index, angle)
    try:
        maker.Build()
        if not maker.IsDone():
            raise _too_much(angle, faces)
        result = one(maker.Shape(), "the draft")
    except KERNEL_FAULTS as fault:
        raise _too_much(angle, faces) from fault
    except KernelError as fault:  # a cone that closes before the end comes back done, and unsound
        raise _too_much(angle, faces) from fault
    after = measure.rough_volume(result)
    still = after == before and _surfaces(result) == _surfaces(solid)
    if result.face_count != solid.face_count or not 0 < after < measure.loose_box(solid).diagonal ** 3 or still:
        raise _too_much(angle, faces)
    ledger = Ledger([result])
    for index in range(solid.face_count):
        face = solid.face(index)
        origin = Origin(None, (FaceOf(0, index),))
        # A leant face is told as generated, its neighbours as modified; some are told as both.
        noted = [ledger.note(new, origin) for new in (*each(maker.Generated(face)), *each(maker.Modified(face)))]
        if not any(noted):
            ledger.note(face, origin)
    return ledger.made()[0]


def both_ways(solid: Solid, faces: Sequence[int], neutral: Frame, angle: float) -> Made:
    """Draft faces by `angle` rad away from a plane through them, to both of its sides, so that they part there.

    The body is cut along the plane and joined again. Faces keep their tags on both sides. KernelError where the plane misses.
    """
    halves = []
    for piece in split.by_plane(solid, neutral):
        above = split.height(piece.solid, neutral) > 0
        wanted = {face for face, row in enumerate(piece.origins) if any(_is_of(o, faces) for o in row)}
        direction = neutral.normal if above else times(neutral.normal, -1.0)
        leant = (
            taper(piece.solid, sorted(wanted), neutral, angle, direction)
            if wanted
            else Made(piece.solid, unchanged(piece.solid))
        )
        halves.append(composed(piece, leant))
    whole = boolean.fuse(halves[0].solid, [half.solid for half in halves[1:]])
    return traced_to(whole, [half.origins for half in halves])


def _is_of(origin: Origin, faces: Sequence[int]) -> bool:
    return origin.role is None and isinstance(origin.sources[0], FaceOf) and origin.sources[0].face in faces


def sides(solid: Solid, pull: Vec) -> list[int]:
    """The faces that can be leant against a pull: flat, round and conical ones that stand more along it than across it."""
    draftable = []
    for face in range(solid.face_count):
        if measure.surface_word(solid, face) not in ("flat", "round", "conical"):
            continue
        spot = measure.point_inside(solid, face)
        if spot is None:
            continue
        axis = datums.face_axis(solid, face).direction
        upright = measure.is_flat(solid, face) or abs(dot(axis, pull)) > math.cos(_STEEP)
        if upright and abs(dot(datums.normal_at(solid, face, spot)[1], pull)) < math.sin(_STEEP):
            draftable.append(face)
    return draftable


def _surfaces(solid: Solid) -> set[object]:
    return {measure.surface_key(solid, face) for face in range(solid.face_count)}


def _too_much(angle: float, faces: Sequence[int]) -> KernelError:
    return KernelError(
        f"{math.degrees(angle):g}° of draft closes or crosses the faces before their end.",
        "Use less draft.",
        faces=tuple(faces),
        sized=True,
    )


def _unfit(solid: Solid, faces: Sequence[int], at: int, angle: float) -> KernelError:
    """The face could not even be taken up: flat across the pull, or rounded at its foot already."""
    smooth = measure.smooth_neighbours(solid, at)
    if smooth and any(face not in faces for face in smooth):
        return KernelError(
            "This face is rounded where it ends, so that it cannot be leant.",
            "Draft first and round its edges afterwards: move this step up.",
            faces=(at,),
        )
    return KernelError("This face cannot be leant.", "Leave it out, or pick a side face.", faces=(at,))
