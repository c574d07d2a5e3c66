"""A solid cut apart along a plane, a surface or a face carried on."""

from __future__ import annotations

from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace

from supplecast.errors import KernelError
from supplecast.geometry import Frame
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.history import Ledger, Made, Origin
from supplecast.kernel.shapes.profile import plane
from supplecast.kernel.shapes.shape import Solid, solids_in
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean, extent


def by_plane(solid: Solid, frame: Frame) -> list[Made]:
    """The pieces of a solid on both sides of a plane, two or more; new faces have the role `split`.

    Raises KernelError if the plane misses.
    """
    reach = 2 * measure.loose_box(solid).diagonal + 10
    sheet = BRepBuilderAPI_MakeFace(plane(frame), -reach, reach, -reach, reach).Face()
    return _split(solid, sheet, "The split plane misses the body.", "Move the plane into the body.")


def by_sheet(solid: Solid, sheet: Solid) -> list[Made]:
    """The pieces of a solid on both sides of a surface, which must reach through it; new faces have the role `split`."""
    return _split(
        solid,
        sheet.shape,
        "The surface does not cut the body apart: it misses it, or ends inside it.",
        "Extend the surface so that it reaches through the whole body.",
    )


def by_face(solid: Solid, other: Solid, face: int) -> list[Made]:
    """The pieces of a solid on both sides of a face of a body, carried on beyond its edges."""
    reach = 2 * measure.loose_box(solid).diagonal + measure.loose_box(other).diagonal
    wider = extent.carried_on(other, face, 0.0, reach)
    return _split(solid, wider, "The face, carried on, does not cut the body apart.", "Pick another face, or use a plane.")


def _split(solid: Solid, sheet: Any, missed: str, hint: str) -> list[Made]:
    maker = boolean.parted(solid, [sheet])
    if len(solids_in(maker.Shape())) < 2:  # asked first: a surface that ends inside leaves a slit, which is not sound either
        raise KernelError(missed, hint)
    pieces = checked(maker.Shape(), "the split", expect=None)
    ledger = Ledger(pieces)
    ledger.kept([solid], maker.Modified)
    return [Made(made.solid, tuple(row if row else (Origin("split"),) for row in made.origins)) for made in ledger.made()]


def height(solid: Solid, frame: Frame) -> float:
    """Signed height in mm of a solid's centroid over a plane: tells on which side a piece lies."""
    return frame.over(measure.rough_centroid(solid))
