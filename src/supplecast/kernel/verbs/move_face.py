"""Faces moved along their normals, their neighbours following.

The kernel's offset with a distance of its own for each face does it in one go and exactly, but sets up the whole body anew: one
awkward face anywhere is enough for it to fail. Then each face is moved by itself: the space between it and where it goes,
bounded by its neighbours carried on, is added to the body or cut from it.
"""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_IN

from supplecast.errors import KernelError
from supplecast.geometry import Vec, times
from supplecast.kernel.measuring import datums, edges, measure
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, composed, each, traced_to, unchanged
from supplecast.kernel.shapes.shape import Solid, Surface, solids_in
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import boolean, extent, surface

_LARGE = 40  # faces from which it is quicker to leave the rest of the body alone


def offset(solid: Solid, faces: Sequence[int], distance: float) -> Made:
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
            "Pick those as well, or nudge before rounding the edge. To raise an area of a face, extrude its outline.",
            faces=tuple(sorted(smooth)),
        )
    directions = (_at_once, _one_by_one) if solid.face_count < _LARGE else (_one_by_one, _at_once)
    for direction in directions:
        try:
            made = direction(solid, faces, distance)
        except REFUSALS:
            continue
        if _sound(solid, made, faces, distance):
            return made
    gap = edges.gap(solid, {index for face in faces for index in solid.face_edges[face]})
    if gap is not None:
        edge, why = gap
        words = f"The faces cannot be moved by {distance:g} mm; {why}."
        raise KernelError(words, "Move them less far; a body that was imported can be taken healed.", edges=(edge,), sized=True)
    raise KernelError(
        f"{distance:g} mm is too far: a face would vanish, or the body would cross itself.",
        "Move them less far.",
        faces=tuple(faces),
        sized=True,
    )


def _at_once(solid: Solid, faces: Sequence[int], distance: float) -> Made:
    maker = BRepOffset_MakeOffset()
    sharp = GeomAbs_JoinType.GeomAbs_Intersection
    maker.Initialize(solid.shape, 0.0, 1e-4, BRepOffset_Mode.BRepOffset_Skin, False, False, sharp, False)
    for face in faces:
        maker.SetOffsetOnFace(solid.face(face), distance)
    maker.MakeOffsetShape()
    if not maker.IsDone():
        raise KernelError("The kernel found no offset.")
    result = one(maker.Shape(), "the nudge")
    ledger = Ledger([result])
    for index in range(solid.face_count):
        origin = Origin(None, (FaceOf(0, index),))
        noted = [ledger.note(new, origin) for new in each(maker.Generated(solid.face(index)))]
        if not any(noted):
            ledger.note(solid.face(index), origin)
    return ledger.made()[0]


def _one_by_one(solid: Solid, faces: Sequence[int], distance: float) -> Made:
    made = Made(solid, unchanged(solid))
    for face in faces:
        wanted = Origin(None, (FaceOf(0, face),))
        (here,) = [index for index, row in enumerate(made.origins) if row[0] == wanted]
        made = composed(made, _moved_alone(made.solid, here, distance))
    return made


def _moved_alone(solid: Solid, face: int, distance: float) -> Made:
    """One face moved: the space it sweeps is added or cut, with the face's tags on its far side."""
    space = _swept_space(solid, face, distance)
    if distance > 0:
        whole = boolean.fuse(solid, [piece.solid for piece in space])
    else:
        (whole,) = boolean.cut(solid, [piece.solid for piece in space])
    return traced_to(whole, [unchanged(solid), *(piece.origins for piece in space)])


def _swept_space(solid: Solid, face: int, distance: float) -> list[Made]:
    """What lies between a face and where it goes, in pieces whose faces are told as the body's that they carry on."""
    if _stands_square(solid, face):
        return [prism(solid, face, distance)]
    reach = 3 * abs(distance) + 0.01 * measure.loose_box(solid).diagonal
    neighbours = sorted(solid.neighbours[face])
    tools = [extent.carried_on(solid, other, 0.0, reach) for other in neighbours]
    slab = surface.thickened(Surface(extent.carried_on(solid, face, 0.0, reach)), distance)
    maker = boolean.parted(slab.solid, tools)
    pieces = solids_in(maker.Shape())
    ledger = Ledger(pieces)
    ledger.kept([slab.solid], maker.Modified)
    for other, tool in zip(neighbours, tools, strict=True):
        for part in each(maker.Modified(tool)):
            ledger.note(part, Origin("beside", (FaceOf(0, other),)))
    spaces = []
    for made in ledger.made():
        rows, lies_over = [], False
        for index, row in enumerate(made.origins):
            near = any(o.role is None and slab.origins[_face(o)][0].role is None for o in row)
            spot = measure.point_inside(made.solid, index) if near and not lies_over else None
            lies_over = lies_over or (spot is not None and _within(solid, face, spot))
            beside = next((o.sources for o in row if o.role == "beside"), (FaceOf(0, face),))
            rows.append((Origin(None, beside),))
        if lies_over:
            spaces.append(Made(made.solid, tuple(rows)))
    if not spaces:
        raise KernelError("The faces around do not bound the space.")
    return spaces


def _stands_square(solid: Solid, face: int) -> bool:
    """Whether a face is flat and all its neighbours run along its normal, so that its outline is the same wherever it goes."""
    return measure.is_flat(solid, face) and all(
        datums.runs_along(solid, other, measure.flat_frame(solid, face).normal) for other in solid.neighbours[face]
    )


def prism(solid: Solid, face: int, distance: float) -> Made:
    """What a flat face sweeps along its normal; sides are told as the faces beside it, all else as the face."""
    direction = times(measure.flat_frame(solid, face).normal, distance)
    maker = BRepPrimAPI_MakePrism(solid.face(face), gp_Vec(*direction))
    space = one(maker.Shape(), "the nudge")
    ledger = Ledger([space])
    for edge, beside in enumerate(solid.faces_at_edges):
        if face in beside:
            (other,) = set(beside) - {face} or {face}
            for side in each(maker.Generated(solid.nth_edge(edge))):
                ledger.note(side, Origin(None, (FaceOf(0, other),)))
    rows = [tuple(row) or (Origin(None, (FaceOf(0, face),)),) for row in ledger.rows[0]]
    return Made(space, tuple(rows))


def _face(origin: Origin) -> int:
    source = origin.sources[0]
    assert isinstance(source, FaceOf)
    return source.face


def _within(solid: Solid, face: int, p: Vec) -> bool:
    return bool(BRepClass_FaceClassifier(solid.face(face), gp_Pnt(*p), 1e-6).State() == TopAbs_IN)


def _sound(solid: Solid, made: Made, faces: Sequence[int], distance: float) -> bool:
    before, after = measure.handy_volume(solid), measure.handy_volume(made.solid)
    if made.solid.face_count != solid.face_count or not all(made.origins) or after <= 0:
        return False
    return (after - before) * distance > 0 and _moved(solid, made, faces, distance)


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
