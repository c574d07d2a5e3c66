"""Cavity and core half sewn from what bounds them: the part's faces, the parting surface, the shut-offs and the block's walls.

Nothing is cut, so that the halves share their surfaces with the part exactly; the step `halves` proves them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.geometry import Vec
from supplecast.kernel.molds.parting import Side
from supplecast.kernel.molds.parting_surface import split_at
from supplecast.kernel.shapes.history import FaceOf, Made, Origin
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs.sewing import Piece, closed


@dataclass(frozen=True)
class Halves:
    """Both halves; inputs of their origins are the part (0), the block (1), and then the surfaces in their order."""

    core: Made
    cavity: Made


def sewn(part: Solid, of: Sequence[Side], block: Solid, surfaces: Sequence[Solid], pull: Vec, level: float) -> Halves:
    """The halves of a mold; `level` is where the parting surface meets the block's walls. KernelError where one stays open."""
    above, below = split_at(block, pull, level)
    shared = [
        Piece(sheet.face(face), Origin(None, (FaceOf(number, face),)))
        for number, sheet in enumerate(surfaces, 2)
        for face in range(sheet.face_count)
    ]
    return Halves(
        _half(part, of, "core", above, shared, "the core half"), _half(part, of, "cavity", below, shared, "the cavity half")
    )


def _half(part: Solid, of: Sequence[Side], side: Side, stock: Made, shared: Sequence[Piece], doing: str) -> Made:
    formed = [Piece(part.face(f), Origin(None, (FaceOf(0, f),))) for f in range(part.face_count) if of[f] == side]
    walls = []
    for face, row in enumerate(stock.origins):
        source = row[0].sources[0] if row[0].sources else None
        if isinstance(source, FaceOf):
            walls.append(Piece(stock.solid.face(face), Origin(None, (FaceOf(1, source.face),))))
    return closed([*formed, *shared, *walls], doing)
