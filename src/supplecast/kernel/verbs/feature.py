"""Faces taken as a feature: the space between a solid with them and without them."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing

from supplecast.errors import KernelError
from supplecast.geometry import Frame, dot, times
from supplecast.kernel.measuring import datums, edges, measure
from supplecast.kernel.shapes import apart
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, composed
from supplecast.kernel.shapes.shape import Solid, listed
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import boolean, move_face, split

_ALIKE = 1e-9


def removed(solid: Solid, faces: Sequence[int], seconds: float = 10.0) -> Made:
    """The solid without some faces, their neighbours carried on until they meet. Kept faces keep their tags.

    What does not simply stand out is done in a process of its own, for so many seconds: where neighbours meet nowhere, the
    kernel may look for ever. KernelError names the faces that the neighbours do not close over.
    """
    if _stands_out(solid, faces):
        return _removed(solid, faces)
    return apart.made(lambda: _removed(solid, faces), seconds, "removing the faces")


def _stands_out(solid: Solid, faces: Sequence[int]) -> bool:
    """Whether faces are those of bosses or ribs: re-entrant wherever they meet others."""
    chosen = set(faces)
    rims = (e for e, beside in enumerate(solid.faces_at_edges) if len(chosen.intersection(beside)) == 1 < len(set(beside)))
    return all(edges.bend(solid, rim) == "concave" for rim in rims)


def _removed(solid: Solid, faces: Sequence[int]) -> Made:
    refusal = KernelError(
        "The faces around do not meet when they are carried on, so that the gap cannot be closed.",
        "Pick all faces of the feature, its rounds too, or cut it away instead.",
        faces=tuple(faces),
    )
    maker = BRepAlgoAPI_Defeaturing()
    maker.SetShape(solid.shape)
    maker.AddFacesToRemove(listed(solid.face(face) for face in faces))
    maker.Build()
    if not maker.IsDone():
        raise refusal
    result = one(maker.Shape(), "removing the faces")
    ledger = Ledger([result])
    ledger.kept([solid], maker.Modified)
    made = ledger.made()[0]
    before, after = measure.volume(solid), measure.volume(result)
    left = {o.sources[0].face for row in made.origins for o in row if isinstance(o.sources[0], FaceOf)}
    if left & set(faces) or abs(after - before) <= _ALIKE * before or _turned(solid, faces, made):
        raise refusal
    return made


def _turned(solid: Solid, faces: Sequence[int], made: Made) -> bool:
    """Whether a face beside the removed ones has got its material on the other side, as when the wall of a boss that has
    lost its top is carried on downwards, where the kernel makes it the wall of a hole.
    """
    beside = {other for face in faces for other in solid.neighbours[face]} - set(faces)
    for index, row in enumerate(made.origins):
        for origin in row:
            source = origin.sources[0]
            spot = measure.point_inside(made.solid, index)
            if spot is None or not isinstance(source, FaceOf) or source.face not in beside:
                continue
            was, now = datums.normal_at(solid, source.face, spot)[1], datums.normal_at(made.solid, index, spot)[1]
            if dot(was, now) < 0:
                return True
    return False


def replaced(solid: Solid, face: int, plane: Frame) -> Made:
    """The solid with a flat face laid into another plane: its neighbours are carried on until the plane is reached, and what
    then stands over it is cut off. The face keeps its tags.

    The plane may lean, as long as it looks to the same side as the face.
    """
    was = measure.flat_frame(solid, face)
    lean = dot(was.normal, plane.normal)
    if abs(lean) < 0.05:
        raise KernelError("The plane stands square on the face.", "Pick one that lies more like the face.", faces=(face,))
    if lean < 0:
        plane = Frame(plane.origin, plane.x, times(plane.normal, -1.0))
    outline = [v for v in range(solid.vertex_count) if face in solid.vertex_faces(v)]
    corners = [measure.vertex_point(solid.vertex(v)) for v in outline]
    # How far each corner, moved along the face's normal, is below the plane; the face must first stand over all of it.
    rise = max(-plane.over(p) for p in corners) / abs(lean)
    spare = 0.1 * measure.loose_box(solid).diagonal
    grown = move_face.offset(solid, [face], rise + spare) if rise > 1e-9 else None
    body = grown.solid if grown else solid
    pieces = split.by_plane(body, plane)
    below = [made for made in pieces if split.height(made.solid, plane) < 0]
    if len(below) != 1:
        words = f"Cut off at the plane, the body falls into {len(below)} pieces."
        raise KernelError(words, "Pick another plane, or split the body.", faces=(face,))
    kept = composed(grown, below[0]) if grown else below[0]
    rows = tuple(tuple(Origin(None, (FaceOf(0, face),)) if o.role == "split" else o for o in row) for row in kept.origins)
    return Made(kept.solid, rows)


def lifted(solid: Solid, faces: Sequence[int]) -> tuple[Made, bool]:
    """The feature that some faces bound as a solid of its own, and whether it stands out (a boss) or goes in (a hole).

    Its faces are told as those of `solid` where they were picked; where it borders on the rest they are `foot`.
    """
    bare = removed(solid, faces)
    out = measure.volume(solid) > measure.volume(bare.solid)
    whole, less = (solid, bare.solid) if out else (bare.solid, solid)
    pieces = boolean.cut(whole, [less], pieces=None)
    if len(pieces) != 1:
        words = f"The picked faces belong to {len(pieces)} separate features."
        raise KernelError(words, "Pick those of one feature, or copy them one after another.", faces=tuple(faces))
    picked = {FaceOf(0 if out else 1, face): Origin(None, (FaceOf(0, face),)) for face in faces}
    rows = [tuple(picked[s] for o in row for s in o.sources if s in picked) for row in pieces[0].origins]
    return Made(pieces[0].solid, tuple(row or (Origin("foot"),) for row in rows)), out
