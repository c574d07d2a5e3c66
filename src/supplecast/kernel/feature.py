"""Faces taken as a feature: the space between a solid with them and without them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing
from OCP.TopAbs import TopAbs_VERTEX

from supplecast.errors import KernelError
from supplecast.geometry import Frame, dot, times
from supplecast.kernel import boolean, measure, nudge, split
from supplecast.kernel.history import FaceOf, Ledger, Made, Origin, composed
from supplecast.kernel.shape import ShapeList, Solid, mapped, one

_ALIKE = 1e-9


def removed(solid: Solid, faces: Sequence[int]) -> Made:
    """The solid without some faces, their neighbours carried on until they meet. Kept faces keep their tags.

    KernelError names the faces that the neighbours do not close over.
    """
    refusal = KernelError(
        "The faces around do not meet when they are carried on, so that the gap cannot be closed.",
        "Pick all faces of the feature, its rounds too, or cut it away instead.",
        faces=tuple(faces),
    )
    maker = BRepAlgoAPI_Defeaturing()
    maker.SetShape(solid.shape)
    gone = ShapeList()
    for face in faces:
        gone.Append(solid.face(face))
    maker.AddFacesToRemove(gone)
    maker.Build()
    if not maker.IsDone():
        raise refusal
    result = one(maker.Shape(), "removing the faces")
    ledger = Ledger([result])
    ledger.kept([solid], maker.Modified)
    made = ledger.made()[0]
    before, after = measure.volume(solid), measure.volume(result)
    left = {o.sources[0].face for row in made.origins for o in row if isinstance(o.sources[0], FaceOf)}
    if left & set(faces) or abs(after - before) <= _ALIKE * before:
        raise refusal
    return made


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
    corners = [measure.vertex_point(Solid.as_vertex(v)) for v in _corners(solid, face)]
    # How far each corner, moved along the face's normal, is below the plane; the face must first stand over all of it.
    rise = max(-plane.over(p) for p in corners) / abs(lean)
    spare = 0.1 * measure.loose_box(solid).diagonal
    grown = nudge.nudge(solid, [face], rise + spare) if rise > 1e-9 else None
    body = grown.solid if grown else solid
    pieces = split.by_plane(body, plane)
    below = [made for made in pieces if split.height(made.solid, plane) < 0]
    if len(below) != 1:
        words = f"Cut off at the plane, the body falls into {len(below)} pieces."
        raise KernelError(words, "Pick another plane, or split the body.", faces=(face,))
    kept = composed(grown, below[0]) if grown else below[0]
    rows = tuple(tuple(Origin(None, (FaceOf(0, face),)) if o.role == "split" else o for o in row) for row in kept.origins)
    return Made(kept.solid, rows)


def _corners(solid: Solid, face: int) -> list[Any]:
    found = mapped(solid.face(face), TopAbs_VERTEX)
    return [found.FindKey(number) for number in range(1, int(found.Extent()) + 1)]


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
    own = 0 if out else 1
    rows = []
    for row in pieces[0].origins:
        sources = [o.sources[0] for o in row]
        mine = tuple(Origin(None, (FaceOf(0, s.face),)) for s in sources if isinstance(s, FaceOf) and s.body == own)
        rows.append(tuple(o for o in mine if isinstance(o.sources[0], FaceOf) and o.sources[0].face in set(faces)))
    return Made(pieces[0].solid, tuple(row or (Origin("foot"),) for row in rows)), out
