"""A face marked with an outline, so that what lies inside can be picked apart."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepFeat import BRepFeat_SplitShape
from OCP.BRepGProp import BRepGProp
from OCP.BRepProj import BRepProj_Projection
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopoDS import TopoDS

from supplecast.curves import Region, winding
from supplecast.errors import KernelError
from supplecast.geometry import Floats, Frame, Vec, times
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, composed, unchanged
from supplecast.kernel.shapes.profile import as_dir, flat_wire
from supplecast.kernel.shapes.shape import Solid, xyz
from supplecast.kernel.shapes.soundness import one


def imprint(solid: Solid, face: int, region: Region, frame: Frame) -> Made:
    """Draw a region's loops on a face, straight along the normal of their plane. The volume does not change.

    Pieces inside the region are new, in the role `scored` of the face; the rest keeps its tags. KernelError if the outline
    misses the face.
    """
    first = _drawn(solid, face, region, frame)
    rows = []
    inside_any = False
    for index, row in enumerate(first.origins):
        source = row[0].sources[0] if row else None
        inside = isinstance(source, FaceOf) and source.face == face and _inside(first.solid, index, region, frame)
        inside_any = inside_any or inside
        rows.append((Origin("scored", (FaceOf(0, face),)),) if inside else row)
    if not inside_any:
        raise KernelError("The outline misses the face.", "Draw it over the face, as seen square to its plane.", faces=(face,))
    return Made(first.solid, tuple(rows))


def _drawn(solid: Solid, face: int, region: Region, frame: Frame) -> Made:
    """The solid with the face split along the loops of the region."""
    made = Made(solid, unchanged(solid))
    for loop in (region.outer, *region.holes):
        # Face numbers change with each split: the pieces are known by being among those of the scored face.
        pieces = (i for i, row in enumerate(made.origins) if Origin(None, (FaceOf(0, face),)) in row)
        lines = ((piece, _projected(made.solid, piece, loop, frame)) for piece in pieces)
        piece, line = next(((piece, line) for piece, line in lines if line is not None), (None, None))
        if piece is None:
            words = "The outline misses the face." if loop is region.outer else "A hole of the outline misses the face."
            raise KernelError(words, "Draw it over the face, as seen square to its plane.", faces=(face,))
        made = composed(made, _split(made.solid, piece, line))
    return made


def _projected(solid: Solid, face: int, loop: Any, frame: Frame) -> Any:
    """The wire the loop makes on a face: of several, the one nearest to the loop's plane."""
    wire, _ = flat_wire(tuple(loop), frame)
    projection = BRepProj_Projection(wire, solid.face(face), as_dir(times(frame.normal, -1.0)))
    best = None
    while projection.More():
        current = projection.Current()
        height = abs(frame.over(_middle(current)))
        if best is None or height < best[0]:
            best = height, current
        projection.Next()
    return best[1] if best else None


def _middle(wire: Any) -> Vec:
    line = GProp_GProps()
    BRepGProp.LinearProperties_s(wire, line)
    centre = line.CentreOfMass()
    return xyz(centre)


def _split(solid: Solid, face: int, wire: Any) -> Made:
    maker = BRepFeat_SplitShape(solid.shape)
    try:
        if wire.ShapeType() == TopAbs_EDGE:
            maker.Add(TopoDS.Edge(wire), solid.face(face))
        else:
            maker.Add(TopoDS.Wire(wire), solid.face(face))
        maker.Build()
        result = one(maker.Shape(), "the score")
    except KERNEL_FAULTS as fault:
        raise KernelError("The outline could not be drawn on the face.", "Let it not touch the face's edges.") from fault
    before, after = measure.volume(solid), measure.volume(result)
    if abs(after - before) > 1e-6 * before or result.face_count <= solid.face_count:
        raise KernelError("The outline does not part the face.", "Let it close inside the face, or cross it wholly.")
    ledger = Ledger([result])
    ledger.kept([solid], maker.Modified)
    return ledger.made()[0]


def _inside(solid: Solid, face: int, region: Region, frame: Frame) -> bool:
    """Whether a piece lies within the region, as seen square to its plane."""
    spot = measure.point_inside(solid, face) or measure.face_middle(solid, face)
    p: Floats = np.array(frame.flat(spot))
    within = winding(region.outer, p) != 0
    return bool(within and all(winding(hole, p) == 0 for hole in region.holes))
