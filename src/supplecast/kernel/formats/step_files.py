"""Solids to and from STEP files."""

from __future__ import annotations

import contextlib
import datetime
import io
import os
import re
import sys
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from OCP import collections as oc
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy
from OCP.Geom import Geom_TrimmedCurve
from OCP.GeomAbs import GeomAbs_CurveType, GeomAbs_Shape
from OCP.GeomConvert import GeomConvert_ApproxCurve
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Message import Message_ProgressRange
from OCP.Quantity import Quantity_Color, Quantity_ColorRGBA, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Reader, STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_StepModelType
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from supplecast.errors import KernelError
from supplecast.kernel.formats import facets
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.shape import Solid, is_valid, solids_in
from supplecast.kernel.verbs import faceted
from supplecast.text import cleaned

Tint = tuple[str, float]
"""A colour such as #7A5BB5, and how much it hides of what lies behind, from 0 to 1."""


class Filed(NamedTuple):
    """A solid in a file, its name, and the assemblies it is in, the outermost first."""

    name: str
    solid: Solid
    group: tuple[str, ...] = ()


@contextlib.contextmanager
def _hushed() -> Iterator[None]:
    """Keep the kernel's own chatter off standard output."""
    sys.stdout.flush()
    saved = os.dup(1)
    void = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(void, 1)
        yield
    finally:
        os.dup2(saved, 1)
        os.close(saved)
        os.close(void)


def write_step(
    bodies: Sequence[tuple[str, Solid]],
    tints: Sequence[Tint] = (),
    groups: Sequence[tuple[str, ...]] = (),
    faces: Sequence[Mapping[int, Tint]] = (),
) -> bytes:
    """STEP (AP242, mm) of the named bodies, each a product of its own, in `tints` where they are given, single `faces` in their
    own, and in the assemblies that `groups` name, the outermost first.
    """
    document = TDocStd_Document(TCollection_ExtendedString("supplecast"))
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    paints = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    aside, assemblies = False, dict[tuple[str, ...], Any]()
    count = len(bodies)
    rows = zip(bodies, tints or [("", 1.0)] * count, groups or [()] * count, faces or [{}] * count, strict=True)
    for (name, solid), tint, group, own in rows:
        shape = _writable(solid)
        aside = aside or shape is not solid.shape
        label = shapes.AddShape(shape, False)
        if group:
            shapes.AddComponent(_assembly(shapes, assemblies, group), label, TopLoc_Location())
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(cleaned(name), True))
        if tint[0]:
            paints.SetColor(label, _colour(tint), XCAFDoc_ColorType.XCAFDoc_ColorGen)
        if shape is solid.shape:  # else its faces are others, and the whole keeps its one colour
            for face, other in own.items():
                paints.SetColor(
                    shapes.AddSubShape(label, solid.face(face)), _colour(other), XCAFDoc_ColorType.XCAFDoc_ColorSurf
                )
    shapes.UpdateAssemblies()
    with _hushed():
        writer = STEPCAFControl_Writer()
        Interface_Static.SetCVal_s("write.step.schema", "AP242DIS")
        Interface_Static.SetCVal_s("write.step.unit", "MM")
        # Where edges ran aside of others, their traces on the faces do too, and would lose the face: curves in space must do.
        Interface_Static.SetIVal_s("write.surfacecurve.mode", 0 if aside else 1)
        if not writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs):
            raise KernelError("The bodies could not be put into a STEP file.")
        stream = io.BytesIO()
        status = writer.WriteStream(stream)
    if status != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise KernelError("The STEP file could not be written.")
    content = stream.getvalue()
    if content.count(b"ADVANCED_FACE(") < sum(solid.face_count for _, solid in bodies):
        raise KernelError("Some faces cannot be written as STEP.", "Write the bodies as STL or 3MF, or simplify them.")
    return _signed(content)


def _colour(tint: Tint) -> Any:
    red, green, blue = (int(tint[0][k : k + 2], 16) / 255 for k in (1, 3, 5))
    return Quantity_ColorRGBA(Quantity_Color(red, green, blue, Quantity_TypeOfColor.Quantity_TOC_sRGB), tint[1])


def _assembly(shapes: Any, known: dict[tuple[str, ...], Any], group: tuple[str, ...]) -> Any:
    """The label of an assembly, made with those it is in if it is not there yet."""
    if group not in known:
        label = known[group] = shapes.NewShape()
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(cleaned(group[-1]), True))
        if group[:-1]:
            shapes.AddComponent(_assembly(shapes, known, group[:-1]), label, TopLoc_Location())
    return known[group]


def _writable(solid: Solid) -> Any:
    """The solid's shape with edges that run aside of another curve turned into splines: else the kernel drops their faces."""
    aside = [e for e in range(solid.number_of_edges) if not solid.degenerate_edges[e] and _runs_aside(solid.nth_edge(e))]
    if not aside:
        return solid.shape
    copier = BRepBuilderAPI_Copy(solid.shape)
    builder = BRep_Builder()
    for index in aside:
        edge = TopoDS.Edge(copier.ModifiedShape(solid.nth_edge(index)))
        curve, first, last = BRep_Tool.Curve_s(edge, 0.0, 1.0), *_ends(edge)
        fitted = GeomConvert_ApproxCurve(Geom_TrimmedCurve(curve, first, last), _CLOSE, GeomAbs_Shape.GeomAbs_C1, 200, 9)
        if not fitted.HasResult():
            raise KernelError("An edge cannot be written as STEP.", "Write the bodies as STL or 3MF.")
        builder.UpdateEdge(edge, fitted.Curve(), max(BRep_Tool.Tolerance_s(edge), fitted.MaxError()))
        builder.Range(edge, first, last)
    return copier.Shape()


def _runs_aside(edge: Any) -> bool:
    return bool(BRepAdaptor_Curve(edge).GetType() == GeomAbs_CurveType.GeomAbs_OffsetCurve)


def _ends(edge: Any) -> tuple[float, float]:
    curve = BRepAdaptor_Curve(edge)
    return float(curve.FirstParameter()), float(curve.LastParameter())


MOST_FACES, _MOST_ENTITIES = 12_000, 600_000
_CLOSE = 1e-6  # mm that a spline may be off the curve it stands for
_FILE_NAME = re.compile(rb"FILE_DESCRIPTION\(.*?FILE_SCHEMA", re.DOTALL)


def _signed(content: bytes) -> bytes:
    """The file with its header saying what wrote it; the kernel fills in placeholders."""
    stamp = datetime.datetime.now(datetime.UTC).strftime("%Y-%m-%dT%H:%M:%S").encode()
    header = (
        b"FILE_DESCRIPTION(('Solid bodies, mm'),'2;1');\n"
        b"FILE_NAME('supplecast.step','" + stamp + b"',(''),(''),'Supple Cast','Supple Cast','');\nFILE_SCHEMA"
    )
    return _FILE_NAME.sub(lambda _: header, content, count=1)


_KNOWN = (
    (b"\x89PNG", "a picture"),
    (b"\xff\xd8", "a picture"),
    (b"%PDF", "a PDF"),
    (b"GIF8", "a picture"),
    (b"{", "a document of JSON"),
    (b"\x7fELF", "a program"),
    (b"MZ", "a program"),
)


def read_bodies(content: bytes, scale: float = 1.0) -> list[Filed]:
    """The named solids of a STEP, 3MF, STL or OBJ file, told apart by what is in it and not by its name. STL and OBJ know no
    unit: theirs is `scale` mm.
    """
    if is_step(content):
        return read_step(content)
    start = content[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    for mark, words in _KNOWN:
        if start.startswith(mark):
            raise KernelError(f"This file is {words}, not a STEP, 3MF, STL or OBJ file.", "Choose a file of bodies.")
    if not facets.kind_of(content):
        raise KernelError("This is no STEP, 3MF, STL or OBJ file.", "Choose a file of bodies.")
    return [Filed(m.name, faceted.solid_of(m.points, m.triangles)) for m in facets.read_meshes(content, scale)]


def is_step(content: bytes) -> bool:
    """Whether a file says that it is one of STEP."""
    return content[:4096].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"ISO-10303-21")


def read_step(content: bytes) -> list[Filed]:
    """The solids in a STEP file, each by the name of its own product, in mm, in the order in which assemblies hold them.

    Raises KernelError for broken or empty files.
    """
    faces, entities = content.count(b"ADVANCED_FACE"), content.count(b"=")
    if faces > MOST_FACES or entities > _MOST_ENTITIES:  # counted first: reading them would take half a minute
        much = f"{faces} faces" if faces > MOST_FACES else f"about {entities} entries"
        raise KernelError(
            f"This STEP file holds {much}; up to {MOST_FACES if faces > MOST_FACES else _MOST_ENTITIES} can be read.",
            "Export fewer bodies at a time.",
        )
    document = TDocStd_Document(TCollection_ExtendedString("supplecast"))
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    try:
        with _hushed():
            status = reader.ReadStream("import.step", io.BytesIO(content))
            good = status == IFSelect_ReturnStatus.IFSelect_RetDone and reader.Transfer(document, Message_ProgressRange())
    except KERNEL_FAULTS as fault:
        raise KernelError("This STEP file cannot be read.", "Export it again from where it was made.") from fault
    if not good:
        raise KernelError("This STEP file cannot be read.", "Export it again from where it was made.")
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    labels = oc.Sequence_TDF_Label()
    shapes.GetFreeShapes(labels)
    named: list[Filed] = []
    for number in range(1, labels.Length() + 1):
        for name, group, shape in _products(labels.Value(number), _label_name(labels.Value(number)) or f"Body {number}"):
            for solid in solids_in(shape):
                if not is_valid(solid):
                    raise KernelError(f"The body “{name}” in this STEP file is not a sound solid.", "Repair it first.")
                named.append(Filed(name, solid, group))
    if not named:
        raise KernelError("This STEP file holds no solid.", "Export solids, not surfaces or drawings.")
    return named


def _products(
    label: Any, name: str, place: Any = None, group: tuple[str, ...] = ()
) -> Iterator[tuple[str, tuple[str, ...], Any]]:
    """The shapes under a label called `name` where they stand, with the names of their products and of the assemblies they are
    in, the second of one name with its number.
    """
    tool = XCAFDoc_ShapeTool
    place = place or TopLoc_Location()
    if not tool.IsAssembly_s(label):
        yield name, group, tool.GetShape_s(label).Moved(place)
        return
    parts = oc.Sequence_TDF_Label()
    tool.GetComponents_s(label, parts)
    like: Counter[str] = Counter()
    for number in range(1, parts.Length() + 1):
        product = TDF_Label()
        tool.GetReferredShape_s(parts.Value(number), product)
        called = _label_name(product) or name
        like[called] += 1
        if tool.IsAssembly_s(product) and like[called] > 1:
            called = f"{called} {like[called]}"
        yield from _products(product, called, place.Multiplied(tool.GetLocation_s(parts.Value(number))), (*group, name))


def _label_name(label: object) -> str:
    name = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), name):  # type: ignore[attr-defined]
        return ""
    return cleaned(str(name.Get().ToExtString())).strip()
