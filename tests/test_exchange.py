"""Files read back by independent libraries."""

from __future__ import annotations

import io
import math
import struct
import zipfile

import lib3mf
import numpy as np
import pygltflib
import pytest
import trimesh
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_StepModelType
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_DocumentTool
from PIL import Image

from supplecast.document.rebuild import Built
from supplecast.errors import ExchangeError, KernelError
from supplecast.exchange import handoff
from supplecast.exchange.formats import Tolerance
from supplecast.exchange.picture import draw
from supplecast.exchange.triangles import Part
from supplecast.exchange.wardrobe import Wardrobe
from supplecast.geometry import Vec
from supplecast.kernel import measure, mesh, move, solid, step_files
from supplecast.kernel.shapes.shape import Solid
from tests.conftest import bodies, circle, extrude, part, rectangle


def assembled(parts: dict[str, Solid], places: list[tuple[str, Vec]]) -> bytes:
    """A STEP file of an assembly in an assembly, by the kernel alone: parts where they are placed, all 100 mm further on."""
    document = TDocStd_Document(TCollection_ExtendedString("trial"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    outer, inner = tool.NewShape(), tool.NewShape()
    labels = {}
    for name, body in parts.items():
        labels[name] = tool.AddShape(body.shape, False)
    for label, name in ((outer, "Press"), (inner, "Joint"), *((label, name) for name, label in labels.items())):
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))
    for name, at in places:
        tool.AddComponent(inner, labels[name], TopLoc_Location(move.shift(at).trsf))
    tool.AddComponent(outer, inner, TopLoc_Location(move.shift((100, 0, 0)).trsf))
    tool.UpdateAssemblies()
    writer, stream = STEPCAFControl_Writer(), io.BytesIO()
    writer.SetNameMode(True)
    assert writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs)
    writer.WriteStream(stream)
    return stream.getvalue()


def test_parts_of_an_assembly_keep_their_names_and_places() -> None:
    """A plate, and a bolt that stands in it twice."""
    parts = {"Plate": solid.box((0, 0, 0), (40, 20, 5)).solid, "Bolt": solid.box((0, 0, 0), (6, 6, 30)).solid}
    content = assembled(parts, [("Plate", (0, 0, 0)), ("Bolt", (5, 7, -10)), ("Bolt", (29, 7, -10))])
    read = step_files.read_step(content)
    assert [one.name for one in read] == ["Plate", "Bolt", "Bolt"]
    assert len({one.group for one in read}) == 1 and len(read[0].group) == 2
    lows = [measure.box(one.solid).low for one in read]
    assert lows == [pytest.approx(low, abs=1e-6) for low in ((100, 0, 0), (105, 7, -10), (129, 7, -10))]
    assert [measure.volume(one.solid) for one in read] == pytest.approx([4000, 1080, 1080])


def test_stl_is_binary_watertight_and_within_tolerance(mold: Built) -> None:
    entry = mold.state.bodies["spl.core"]
    content = handoff.write([entry], "stl", Tolerance(0.01, 0.1))
    assert not content.startswith(b"solid")
    assert len(content) == 84 + 50 * struct.unpack("<I", content[80:84])[0]
    read = trimesh.load(io.BytesIO(content), file_type="stl")
    assert read.is_watertight and read.is_winding_consistent
    assert read.volume == pytest.approx(measure.volume(entry.body.solid), rel=1e-4)
    box = measure.box(entry.body.solid)
    assert np.allclose(read.bounds, (box.low, box.high), atol=1e-3)


def test_tolerance_is_kept() -> None:
    """Chord error of a circle: facets stay within the tolerance of the true cylinder."""
    entry = bodies(part([circle("s", "40"), extrude("e", "s", "5")]))["e"]
    for tolerance in (0.5, 0.01):
        read = trimesh.load(io.BytesIO(handoff.write([entry], "stl", Tolerance(tolerance, 1.0))), file_type="stl")
        middles = read.triangles_center[np.abs(read.face_normals[:, 2]) < 0.5]
        assert 20 - np.linalg.norm(middles[:, :2], axis=1).min() < tolerance
    fine = handoff.write([entry], "stl", Tolerance(0.001, 1.0))
    assert len(fine) > len(handoff.write([entry], "stl", Tolerance(0.5, 1.0)))


def test_3mf_is_read_by_its_reference_library(mold: Built) -> None:
    entries = [mold.state.bodies[name] for name in ("spl.cavity", "spl.core", "sho")]
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(handoff.write(entries, "3mf"))
    assert reader.GetWarningCount() == 0
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    found = model.GetMeshObjects()
    names = []
    while found.MoveNext():
        mesh_object = found.GetCurrentMeshObject()
        names.append(mesh_object.GetName())
        assert mesh_object.IsManifoldAndOriented()
        entry = entries[len(names) - 1]
        points = np.array([list(v.Coordinates) for v in mesh_object.GetVertices()])
        triangles = np.array([list(t.Indices) for t in mesh_object.GetTriangleIndices()])
        a, b, c = (points[triangles[:, i]] for i in range(3))
        assert np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6 == pytest.approx(measure.volume(entry.body.solid), rel=1e-3)
    assert names == ["Cavity half", "Core half", "Trial shot"]


def test_glb_is_read_by_an_independent_reader(mold: Built) -> None:
    entry = mold.state.bodies["sho"]
    content = handoff.write([entry], "glb")
    read = pygltflib.GLTF2().load_from_bytes(content)
    assert read.asset.version == "2.0" and read.meshes[0].name == "Trial shot"
    triangles, lines = read.meshes[0].primitives
    assert len(triangles.extras["faceEnds"]) == entry.body.solid.face_count
    assert len(lines.extras["edgeEnds"]) == entry.body.solid.number_of_edges
    scene = trimesh.load(io.BytesIO(content), file_type="glb")
    size = measure.box(entry.body.solid).size
    assert np.allclose(sorted(scene.extents), sorted(s / 1000 for s in size), atol=1e-5)


def test_step_of_all_bodies_keeps_names_and_volumes(mold: Built) -> None:
    entries = list(mold.state.bodies.values())
    found = step_files.read_step(handoff.write(entries, "step"))
    assert [one.name for one in found] == [entry.name for entry in entries]
    for one, entry in zip(found, entries, strict=True):
        assert measure.volume(one.solid) == pytest.approx(measure.volume(entry.body.solid), rel=1e-8)


# --- coming in --------------------------------------------------------------------------------------------------------


def zipped(*files_in: tuple[str, bytes]) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files_in:
            archive.writestr(name, content)
    return stream.getvalue()


def test_our_own_triangles_come_back_as_solids() -> None:
    entry = bodies(part([rectangle("s", "40", "30"), extrude("e", "s", "20"), circle("c", "8"),
                         extrude("h", "c", "20", result="cut")]))["e"]  # fmt: skip
    written = {format: handoff.write([entry], format, Tolerance(0.5, 1.0)) for format in ("stl", "3mf")}
    twin = trimesh.load(io.BytesIO(written["stl"]), file_type="stl")
    for content in written.values():
        ((_, read, _),) = step_files.read_bodies(content)
        assert measure.box(read).size == pytest.approx((40, 30, 20), abs=1e-4)
        assert measure.volume(read) == pytest.approx(twin.volume, rel=1e-6)
        assert sum(measure.is_flat(read, f) for f in range(read.face_count)) == read.face_count < 60


def test_a_3mf_of_another_program_keeps_its_unit_and_name() -> None:
    """Made with lib3mf, the format's reference library."""
    wrapper = lib3mf.Wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.Inch)
    mesh_object = model.AddMeshObject()
    mesh_object.SetName("Wedge")
    corners = [(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)]
    points = [_position(c) for c in corners]
    faces = [_triangle(t) for t in ((0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3))]
    mesh_object.SetGeometry(points, faces)
    model.AddBuildItem(mesh_object, wrapper.GetIdentityTransform())
    content = bytes(model.QueryWriter("3mf").WriteToBuffer())
    ((name, read, _),) = step_files.read_bodies(content)
    assert name == "Wedge" and measure.volume(read) == pytest.approx(25.4**3 / 6, rel=1e-6)


def _position(corner: tuple[float, ...]) -> lib3mf.Position:
    made = lib3mf.Position()
    made.Coordinates[:] = corner
    return made


def _triangle(corners: tuple[int, ...]) -> lib3mf.Triangle:
    made = lib3mf.Triangle()
    made.Indices[:] = corners
    return made


MODEL = b'<model unit="millimeter"><resources><object id="1"><mesh><vertices>%s</vertices></mesh></object></resources></model>'
BOMBS = {
    "one file of zeros": (zipped(("3D/a.model", bytes(170 * 2**20))), "unpack to far more"),
    "a file that packs too well": (zipped(("3D/a.model", b" " * 9_000_000)), "unpack to far more"),
    "many files": (zipped(*[(f"{n}.txt", b"x") for n in range(1200)]), "unpack to far more"),
    "entities that multiply": (
        zipped(("3D/a.model", b'<!DOCTYPE x [<!ENTITY a "aaaaaaaa"><!ENTITY b "&a;&a;&a;">]><model>&b;</model>')),
        "entities",
    ),
    "no mesh": (zipped(("3D/a.model", b"<model/>"), ("x.bin", b"12345678")), "no mesh"),
    "cut short": (zipped(("3D/a.model", MODEL))[:-60], "broken"),
    "not a number": (zipped(("3D/a.model", MODEL % b'<vertex x="n" y="0" z="0"/>')), "broken"),
    "a corner that is not there": (
        zipped(("3D/a.model", MODEL % b'<vertex x="1" y="0" z="0"/><triangle v1="0" v2="1" v3="9"/>')),
        "broken",
    ),
}


@pytest.mark.parametrize("name", BOMBS)
def test_bombs_and_broken_zips_are_refused(name: str) -> None:
    content, words = BOMBS[name]
    with pytest.raises(KernelError, match=words):
        step_files.read_bodies(content)


def test_a_zip_that_lies_about_its_size_is_refused() -> None:
    content = bytearray(zipped(("3D/a.model", b"<model>" + b"x" * 4000 + b"</model>")))
    at = content.rindex(b"PK\x01\x02")
    content[at + 24 : at + 28] = (40).to_bytes(4, "little")
    with pytest.raises(KernelError):
        step_files.read_bodies(bytes(content))


def test_open_and_large_meshes_are_refused() -> None:
    head = bytes(80)
    one = struct.pack("<12fH", 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0)
    with pytest.raises(KernelError, match="do not close"):
        step_files.read_bodies(head + struct.pack("<I", 1) + one)
    with pytest.raises(KernelError, match="7000 triangles"):
        step_files.read_bodies(head + struct.pack("<I", 7000) + one * 7000)
    with pytest.raises(KernelError, match="broken"):
        step_files.read_bodies(b"solid x\nvertex 1 2 nan\n")


def test_bad_orders_are_told(mold: Built) -> None:
    with pytest.raises(ExchangeError, match="no body"):
        handoff.write([], "stl")
    for tolerance in (0, -1, 50, math.nan):
        with pytest.raises(ExchangeError, match="out of range"):
            Tolerance(tolerance)


def test_surfaces_are_written_as_step_alone() -> None:
    line = {
        "id": "k",
        "type": "sketch",
        "points": {"a": [0, 0], "b": [30, 0]},
        "entities": {"L": {"type": "line", "a": "a", "b": "b"}},
    }
    made = bodies(part([circle("s", "40"), extrude("e", "s", "5"), line, extrude("sf", "k", "4", fill="as a surface")]))
    both = list(made.values())
    with pytest.raises(ExchangeError, match="only be written as STEP"):
        handoff.write([made["sf"]], "3mf")
    read = trimesh.load(io.BytesIO(handoff.write(both, "stl")), file_type="stl")
    assert read.is_watertight and read.volume == pytest.approx(2000 * math.pi, rel=1e-2)
    step = handoff.write(both, "step").decode()
    assert "SHELL_BASED_SURFACE_MODEL" in step and "MANIFOLD_SOLID_BREP" in step


def test_a_colour_given_by_hand_is_in_the_file() -> None:
    document = part([circle("s", "40"), extrude("e", "s", "5")], looks={"e": {"colour": "#3E7C8F"}})
    content = handoff.write(list(bodies(document).values()), "3mf", None, Wardrobe(document))
    model = zipfile.ZipFile(io.BytesIO(content)).read("3D/3dmodel.model").decode()
    assert 'displaycolor="#3E7C8FFF"' in model


def test_file_names_are_plain() -> None:
    assert handoff.file_name("Käse/../x", "<b>", extension="stl") == "kase-x-b.stl"
    assert handoff.file_name("…", extension="step") == "body.step"


def test_pictures_are_png_with_something_on_them() -> None:
    entry = bodies(part([circle("s", "40"), extrude("e", "s", "5")]))["e"]
    content = draw([Part("Disc", "part", mesh.tessellate(entry.body.solid, 0.2, 0.3))], 60, 40)
    with Image.open(io.BytesIO(content), formats=["PNG"]) as picture:
        assert picture.size == (60, 40) and picture.mode == "RGBA"
        alpha = np.asarray(picture)[..., 3]
    assert 0.2 < (alpha > 200).mean() < 0.8
