"""Faces taken as a feature: the space between a solid with them and without them."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing

from supplecast.errors import KernelError
from supplecast.kernel import boolean, measure
from supplecast.kernel.history import FaceOf, Ledger, Made, Origin
from supplecast.kernel.shape import ShapeList, Solid, one

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
