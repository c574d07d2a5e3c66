"""Files read back by independent libraries."""

from __future__ import annotations

import io
import math
import struct
import zlib

import lib3mf
import numpy as np
import pygltflib
import pytest
import trimesh

from supplecast.document.rebuild import Built
from supplecast.errors import ExchangeError
from supplecast.exchange import handoff
from supplecast.exchange.picture import draw
from supplecast.exchange.triangles import Part
from supplecast.kernel import files, measure, mesh
from tests.conftest import bodies, circle, extrude, part


def test_stl_is_binary_watertight_and_within_tolerance(mold: Built) -> None:
    entry = mold.state.bodies["spl.core"]
    content = handoff.write([entry], "stl", handoff.Tolerance(0.01, 0.1))
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
        read = trimesh.load(io.BytesIO(handoff.write([entry], "stl", handoff.Tolerance(tolerance, 1.0))), file_type="stl")
        middles = read.triangles_center[np.abs(read.face_normals[:, 2]) < 0.5]
        assert 20 - np.linalg.norm(middles[:, :2], axis=1).min() < tolerance
    fine = handoff.write([entry], "stl", handoff.Tolerance(0.001, 1.0))
    assert len(fine) > len(handoff.write([entry], "stl", handoff.Tolerance(0.5, 1.0)))


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
    found = files.read_step(handoff.write(entries, "step"))
    assert [name for name, _ in found] == [entry.name for entry in entries]
    for (_, solid), entry in zip(found, entries, strict=True):
        assert measure.volume(solid) == pytest.approx(measure.volume(entry.body.solid), rel=1e-8)


def test_bad_orders_are_told(mold: Built) -> None:
    with pytest.raises(ExchangeError, match="no body"):
        handoff.write([], "stl")
    for tolerance in (0, -1, 50, math.nan):
        with pytest.raises(ExchangeError, match="out of range"):
            handoff.Tolerance(tolerance)


def test_file_names_are_plain() -> None:
    assert handoff.file_name("Käse/../x", "<b>", extension="stl") == "kase-x-b.stl"
    assert handoff.file_name("…", extension="step") == "body.step"


def test_pictures_are_png_with_something_on_them() -> None:
    entry = bodies(part([circle("s", "40"), extrude("e", "s", "5")]))["e"]
    content = draw([Part("Disc", "part", mesh.tessellate(entry.body.solid, 0.2, 0.3))], 60, 40)
    assert content.startswith(b"\x89PNG") and content[16:24] == struct.pack(">II", 60, 40)
    start = content.index(b"IDAT") + 4
    pixels = np.frombuffer(zlib.decompress(content[start : content.index(b"IEND") - 8]), np.uint8).reshape(40, 241)
    alpha = pixels[:, 1:].reshape(40, 60, 4)[..., 3]
    assert 0.2 < (alpha > 200).mean() < 0.8
