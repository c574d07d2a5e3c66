"""Openings of a shell whose rim is rounded: the wall ends square to the open face, where its outline is."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from supplecast.kernel.shapes.history import FaceOf, Made, Origin, traced_to
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs import boolean, move_face

_PAST = 1.01  # how far the cut goes, in walls: a little into the hollow, so that no two faces lie in one plane

Side = Literal["inwards", "outwards", "to both sides"]


def cut_square(solid: Solid, faces: Sequence[int], shelled: Made, wall: float, side: Side) -> Made:
    """A shell of `solid` that is closed at some flat faces, opened there through its wall in mm. What is new is `rim` of the
    face that was opened.
    """
    ways = {"inwards": (-wall,), "outwards": (wall,), "to both sides": (-wall / 2, wall / 2)}[side]
    bars = []
    for face in faces:
        bar, *more = (move_face.prism(solid, face, _PAST * way).solid for way in ways)
        bars.append(boolean.fuse(bar, more).solid if more else bar)
    (whole,) = boolean.cut(shelled.solid, bars)
    rims = [[(Origin("rim", (FaceOf(0, face),)),)] * bar.face_count for face, bar in zip(faces, bars, strict=True)]
    return traced_to(whole, [shelled.origins, *rims])
