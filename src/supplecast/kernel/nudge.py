"""Faces moved along their normals, their neighbours following."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.GeomAbs import GeomAbs_JoinType

from supplecast.errors import KernelError
from supplecast.kernel import measure
from supplecast.kernel.faults import REFUSALS
from supplecast.kernel.history import FaceOf, Ledger, Made, Origin, each
from supplecast.kernel.shape import Solid, one


def nudge(solid: Solid, faces: Sequence[int], distance: float) -> Made:
    """Move faces by `distance` mm out of the material (into it if negative); neighbours are carried on or cut back.

    All faces keep their tags. Faces that run into the picked ones smoothly must be picked too. KernelError where a face would
    vanish or the body would cross itself.
    """
    if distance == 0:
        raise KernelError("The distance must not be zero.", "Type how far the faces are to move.")
    chosen = set(faces)
    smooth = {f for face in faces for f in measure.smooth_neighbours(solid, face) if f not in chosen}
    if smooth:
        raise KernelError(
            "A picked face runs on smoothly into others that would stay behind.",
            "Pick those as well, or nudge before rounding the edge.",
            faces=tuple(sorted(smooth)),
        )
    refusal = KernelError(
        f"{distance:g} mm is too far: a face would vanish, or the body would cross itself.",
        "Move them less far.",
        faces=tuple(faces),
        sized=True,
    )
    maker = BRepOffset_MakeOffset()
    sharp = GeomAbs_JoinType.GeomAbs_Intersection
    maker.Initialize(solid.shape, 0.0, 1e-4, BRepOffset_Mode.BRepOffset_Skin, False, False, sharp, False)
    for face in faces:
        maker.SetOffsetOnFace(solid.face(face), distance)
    try:
        maker.MakeOffsetShape()
        if not maker.IsDone():
            raise refusal
        result = one(maker.Shape(), "the nudge")
    except REFUSALS as fault:
        raise refusal from fault
    ledger = Ledger([result])
    for index in range(solid.face_count):
        origin = Origin(None, (FaceOf(0, index),))
        found = [ledger.note(new, origin) for new in each(maker.Generated(solid.face(index)))]
        if not any(found):
            ledger.note(solid.face(index), origin)
    made = ledger.made()[0]
    before, after = measure.volume(solid), measure.volume(result)
    if (
        result.face_count != solid.face_count
        or not all(made.origins)
        or after <= 0
        or (after - before) * distance <= 0
        or not _moved(solid, made, faces, distance)
    ):
        raise refusal
    return made


def _moved(solid: Solid, made: Made, faces: Sequence[int], distance: float) -> bool:
    """Whether flat faces now lie where they should, and those left alone still lie where they were."""
    chosen = set(faces)
    for face, row in enumerate(made.origins):
        source = row[0].sources[0]
        assert isinstance(source, FaceOf)
        if not measure.is_flat(solid, source.face):
            continue
        if not measure.is_flat(made.solid, face):
            return False
        was = measure.flat_frame(solid, source.face)
        want = distance if source.face in chosen else 0.0
        if abs(was.over(measure.flat_frame(made.solid, face).origin) - want) > 1e-5:
            return False
    return True
