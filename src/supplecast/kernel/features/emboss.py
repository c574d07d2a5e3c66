"""Letters and other small areas raised on a face or sunk into it.

A boolean with many letters takes seconds. Where each of them lies wholly inside the face, the face is punched instead: the
outline of every letter becomes a hole in it, and the letter's own sides and cap are sewn in. The result is measured; where it
is not what it should be, the boolean does the work.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_WIRE
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, traced_to, unchanged
from supplecast.kernel.shapes.shape import Solid, Surface, mapped
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean

_ALIKE = 1e-3  # of the letters' volume, roughly weighed: what goes wrong is a letter turned over, or one that is left out
_TIGHT = 1e-5  # mm: edges of a letter and of its hole are the same, so that they need no reach to meet


def named_by_letter(letter: Made, number: int) -> Made:
    """A letter's faces told by its number in the text."""
    return Made(letter.solid, tuple(tuple(Origin(o.role, (f"{number}",)) for o in row) for row in letter.origins))


def embossed(solid: Solid, face: int, letters: Sequence[Made], *, raised: bool) -> Made:
    """A solid with letters, prisms that stand on (or in) one of its faces with their `start`, raised or sunk.

    KernelError if a letter runs over the edge of the face and the boolean refuses it too.
    """
    try:
        made = _sewn(solid, face, letters)
        expected = sum(measure.rough_volume(letter.solid) for letter in letters) * (1.0 if raised else -1.0)
        if all(made.origins) and abs(_change(solid, face, made) - expected) <= _ALIKE * abs(expected):
            return _one_face(made, face)
    except REFUSALS:
        pass
    try:
        return _one_face(_combined(solid, letters, raised), face)
    except REFUSALS as fault:
        raise KernelError(
            "The letters run over the edge of the face.", "Make them smaller, or move them.", faces=(face,), sized=True
        ) from fault


def _change(solid: Solid, face: int, made: Made) -> float:
    """How much a solid grew, mm³, when one of its faces was written on."""
    kept = {Origin(None, (FaceOf(0, index),)) for index in range(solid.face_count) if index != face}
    new = [index for index, row in enumerate(made.origins) if row[0] not in kept]
    about = measure.face_middle(solid, face)  # from where a flat face weighs nothing, with or without holes
    return measure.rough_space(made.solid, new, about) - measure.rough_space(solid, [face], about)


def _one_face(made: Made, face: int) -> Made:
    """The face keeps its name; what is left of it inside letters is `island`, so that a pick of the face stays one face."""
    whole = Origin(None, (FaceOf(0, face),))
    pieces = [index for index, row in enumerate(made.origins) if whole in row]
    if len(pieces) < 2:
        return made
    largest = max(pieces, key=lambda index: measure.face_area(made.solid, index))
    island = Origin("island", whole.sources)
    rows = list(made.origins)
    for index in set(pieces) - {largest}:
        rows[index] = tuple(island if origin == whole else origin for origin in rows[index])
    return Made(made.solid, tuple(rows))


def _combined(solid: Solid, letters: Sequence[Made], raised: bool) -> Made:
    solids = [letter.solid for letter in letters]
    made = boolean.fuse(solid, solids) if raised else boolean.cut(solid, solids)[0]
    return traced_to(made, [unchanged(solid), *(letter.origins for letter in letters)])


def _sewn(solid: Solid, face: int, letters: Sequence[Made]) -> Made:
    bases = [_base(letter) for letter in letters]
    rim = [solid.nth_edge(edge) for edge in solid.face_edges[face]]
    outlines = [BRepTools.OuterWire_s(base) for base in bases]
    if any(_touch(outline, edge) for outline in outlines for edge in rim):
        raise KernelError("A letter touches the edge of the face.")
    punched, islands = _punched(solid, face, bases, outlines)
    sewing = BRepBuilderAPI_Sewing(_TIGHT)
    kept = [(solid.face(index), Origin(None, (FaceOf(0, index),))) for index in range(solid.face_count) if index != face]
    kept += [(shape, Origin(None, (FaceOf(0, face),))) for shape in (punched, *islands)]
    for letter, base in zip(letters, bases, strict=True):
        for index, row in enumerate(letter.origins):
            if not letter.solid.face(index).IsSame(base):
                kept.append((letter.solid.face(index), row[0]))
    for shape, _ in kept:
        sewing.Add(shape)
    sewing.Perform()
    if sewing.NbFreeEdges() or sewing.NbMultipleEdges():
        raise KernelError("The letters do not close.")
    whole = BRepBuilderAPI_MakeSolid(Surface(sewing.SewedShape()).shape).Solid()
    BRepLib.OrientClosedSolid_s(whole)
    (result,) = checked(whole, "the lettering")
    ledger = Ledger([result])
    for shape, origin in kept:
        new = sewing.ModifiedSubShape(shape)
        ledger.note(shape if new.IsNull() else new, origin)
    return ledger.made()[0]


def _touch(outline: Any, edge: Any) -> bool:
    """Whether an outline and an edge come nearer than 1e-4 mm; their boxes mostly tell at once that they do not."""
    boxes = []
    for shape in (outline, edge):
        box = Bnd_Box()
        BRepBndLib.Add_s(shape, box, False)
        boxes.append(box)
    return not boxes[0].IsOut(boxes[1]) and bool(BRepExtrema_DistShapeShape(outline, edge).Value() < 1e-4)


def _base(letter: Made) -> Any:
    (index,) = [index for index, row in enumerate(letter.origins) if row[0].role == "start"]
    return letter.solid.face(index)


def _punched(solid: Solid, face: int, bases: Sequence[Any], outlines: Sequence[Any]) -> tuple[Any, list[Any]]:
    """The face with a hole for each letter, and the islands of it that stay inside their counters."""
    maker = BRepBuilderAPI_MakeFace(solid.face(face))
    for outline in outlines:
        maker.Add(TopoDS.Wire(outline.Reversed()))
    fixed = ShapeFix_Face(maker.Face())
    fixed.FixOrientation()
    islands = []
    surface = BRep_Tool.Surface_s(solid.face(face))
    for base, outline in zip(bases, outlines, strict=True):
        wires = mapped(base, TopAbs_WIRE)
        for number in range(1, int(wires.Extent()) + 1):
            wire = TopoDS.Wire(wires.FindKey(number))
            if not wire.IsSame(outline):
                island = ShapeFix_Face(BRepBuilderAPI_MakeFace(surface, wire).Face())
                island.FixOrientation()
                islands.append(island.Face())
    return fixed.Face(), islands
