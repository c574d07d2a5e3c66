"""Recesses and pads whose floor follows a curved face: the layer of an outline's prism between the face and its offset."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace

from supplecast.errors import KernelError
from supplecast.geometry import Frame, vec
from supplecast.kernel.measuring import measure
from supplecast.kernel.meshing.face_samples import is_plain
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, each
from supplecast.kernel.shapes.profile import plane
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean, extent

_LITTLE = 1.0  # mm


def layer(bar: Made, start: Frame, solid: Solid, face: int, floor: float | Frame, reach: float) -> Made:
    """What of a bar lies between a face, carried on beyond its edges, and its `floor`: so many mm off it, out of the material
    if positive, or a plane. Where the bar meets the face twice, that next to the plane it `start`s in. Roles of the new faces:
    `mouth` and `floor`; the bar's own keep theirs.

    KernelError where the bar does not run through both of them.
    """
    # Free surfaces carried on far cross themselves; the outline has to lie on them.
    beyond = reach if is_plain(solid, face) else _LITTLE
    mouth = extent.carried_on(solid, face, 0.0, beyond)
    if isinstance(floor, Frame):
        ground = BRepBuilderAPI_MakeFace(plane(floor), -reach, reach, -reach, reach).Face()
    else:
        ground = extent.carried_on(solid, face, floor, beyond)
    maker = boolean.parted(bar.solid, [mouth, ground])
    pieces = checked(maker.Shape(), "the layer", expect=None)
    ledger = Ledger(pieces)
    for sheet, role in ((mouth, "mouth"), (ground, "floor")):
        for part in each(maker.Modified(sheet)):
            ledger.note(part, Origin(role))
    ledger.kept([bar.solid], maker.Modified)
    bars = []
    for made in ledger.made():
        roles = {origin.role for row in made.origins for origin in row}
        if {"mouth", "floor"} <= roles:
            bars.append(Made(made.solid, tuple(_row(bar, row) for row in made.origins)))
    if not bars:
        raise KernelError(
            "The outline does not run through the face and its floor.", "Draw it over the face, seen along its plane."
        )
    return min(bars, key=lambda made: abs(start.over(measure.rough_centroid(made.solid))))


def depth_under(made: Made, frame: Frame) -> float:
    """How far a layer reaches from a plane, on whichever side of it, mm."""
    return max(abs(frame.over(vec(corner))) for corner in measure.corners(made.solid))


def _row(bar: Made, row: tuple[Origin, ...]) -> tuple[Origin, ...]:
    origins: list[Origin] = []
    for origin in row:
        source = origin.sources[0] if origin.sources else None
        origins += bar.origins[source.face] if isinstance(source, FaceOf) else [origin]
    return tuple(dict.fromkeys(origins))
