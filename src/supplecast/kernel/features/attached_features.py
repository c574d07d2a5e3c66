"""What stands on a body: webs and posts that run down to whatever is there, and take its shape where they meet it."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast.errors import MissedError
from supplecast.geometry import Vec
from supplecast.kernel.measuring import edges, probing
from supplecast.kernel.shapes.history import FaceOf, Made, Origin, traced_to
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs import boolean

PAST = "past "
"""Roles that begin so are faces beyond where a web should have met the body: a piece that still has one runs past it."""


def settled(body: Solid, web: Made, marks: Sequence[Vec]) -> list[Made]:
    """The pieces of a web, made too long, that lie outside `body`, hold one of `marks` and end on it all round.

    Faces where they meet the body are `foot`. None where the web runs past the body; KernelError where it lies wholly in it.
    """
    try:
        pieces = boolean.cut(web.solid, [body], pieces=None)
    except MissedError:
        return []
    met = [(Origin("foot", (FaceOf(0, face),)),) for face in range(body.face_count)]
    named = [traced_to(piece, [web.origins, met]) for piece in pieces]
    landed = [piece for piece in named if not any(str(o.role).startswith(PAST) for row in piece.origins for o in row)]
    return [piece for piece in landed if any(probing.holds(piece.solid, mark) for mark in marks)]


def root_edges(solid: Solid, flanks: Sequence[int], added: Sequence[int]) -> list[int]:
    """Hollow edges along which `flanks` meet faces that were not `added`: where what was added stands on the body."""
    mine, ours = set(flanks), set(added)
    return [
        index
        for index, faces in enumerate(solid.faces_at_edges)
        if mine & set(faces) and not ours.issuperset(faces) and edges.bend(solid, index) == "concave"
    ]
