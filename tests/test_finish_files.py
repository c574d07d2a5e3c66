"""Finishes and prints in files, read back by independent readers, and in the pictures that are drawn of them."""

from __future__ import annotations

import io
import json
import re
import subprocess
import zipfile
from pathlib import Path
from typing import Any

import lib3mf
import numpy as np
import pygltflib
import pytest
import trimesh
from PIL import Image

from supplecast.art.look import Look
from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.exchange import handoff
from supplecast.exchange.picture import Shot, render, turning
from supplecast.exchange.triangles import Part
from supplecast.exchange.wardrobe import Wardrobe
from supplecast.kernel import mesh
from tests.test_finish import ART, BOX, RED, WHOLE, with_art

RULES = Path(__file__).parents[1] / "frontend" / "node_modules" / "gltf-validator"


def _parts(folder: Path) -> tuple[Document, Project, list[Any]]:
    steps = [*BOX, {**WHOLE, "kind": "metal", "gloss": "60 %"}, RED, {**ART, "turn": "0", "x": "0"}]
    document, project = with_art(folder, *steps)
    return document, project, list(project.build(document.id).state.bodies.values())


def test_glb_carries_finishes_and_prints(tmp_path: Path) -> None:
    document, project, entries = _parts(tmp_path)
    wardrobe = Wardrobe(document, project.build(document.id).coats, project.asset)
    content = handoff.write(entries, "glb", None, wardrobe)
    read = pygltflib.GLTF2().load_from_bytes(content)
    faces, top, _, print_ = read.meshes[0].primitives
    metal, red, inked = (read.materials[one.material].pbrMetallicRoughness for one in (faces, top, print_))
    assert metal.metallicFactor == 1.0 and red.metallicFactor == 0.0 and red.roughnessFactor == pytest.approx(0.2**1.2)
    assert red.baseColorFactor == pytest.approx([0.5271, 0.0144, 0.0144, 1.0], abs=1e-4)  # sRGB of #C02020 as light
    image = read.images[read.textures[inked.baseColorTexture.index].source]
    assert image.mimeType == "image/png" and read.materials[print_.material].alphaMode == "BLEND"
    view = read.bufferViews[image.bufferView]
    held = Image.open(io.BytesIO(read.binary_blob()[view.byteOffset : view.byteOffset + view.byteLength]))
    assert held.size == (80, 40) and held.getpixel((10, 10)) == (220, 30, 30, 255)
    scene = trimesh.load(io.BytesIO(content), file_type="glb")
    laid = next(g for g in scene.geometry.values() if getattr(getattr(g, "visual", None), "uv", None) is not None)
    left = laid.vertices[:, 0] < -9.9
    assert np.allclose(laid.visual.uv[left][:, 0], 0, atol=1e-3) and laid.area == pytest.approx(20 * 10, rel=1e-6)


def test_3mf_carries_colours_and_pictures_and_stays_sound(tmp_path: Path) -> None:
    document, project, entries = _parts(tmp_path)
    wardrobe = Wardrobe(document, project.build(document.id).coats, project.asset)
    content = handoff.write(entries, "3mf", None, wardrobe)
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(content)
    assert reader.GetWarningCount() == 0
    groups = model.GetBaseMaterialGroups()
    groups.MoveNext()
    base = groups.GetCurrentBaseMaterialGroup()
    colours = [base.GetDisplayColor(n) for n in base.GetAllPropertyIDs()]
    assert [(c.Red, c.Green, c.Blue) for c in colours] == [(0x20, 0x60, 0xC0), (0xC0, 0x20, 0x20)]
    objects = model.GetMeshObjects()
    objects.MoveNext()
    solid = objects.GetCurrentMeshObject()
    textures = model.GetTexture2DGroups()
    textures.MoveNext()
    group = textures.GetCurrentTexture2DGroup()
    inked = [solid.GetTriangleProperties(t) for t in range(solid.GetTriangleCount())]
    ids = [one.ResourceID for one in inked]
    assert solid.IsManifoldAndOriented() and ids.count(group.GetResourceID()) == 2 and ids.count(base.GetResourceID()) == 10
    top = [t for t, one in enumerate(inked) if one.ResourceID == group.GetResourceID()]
    for t in top:  # 20 × 10 mm in the middle of 40 × 30: the corners of the face lie a whole picture off
        for corner, place in zip(solid.GetTriangle(t).Indices, inked[t].PropertyIDs, strict=True):
            x, y, _ = solid.GetVertex(corner).Coordinates
            at = group.GetTex2Coord(place)
            assert pytest.approx(x / 20 + 0.5) == (at.U * 82 - 1) / 80 and pytest.approx(y / 10 + 0.5) == (at.V * 42 - 1) / 40
    with zipfile.ZipFile(io.BytesIO(content)) as package:
        name = next(n for n in package.namelist() if n.endswith(".png"))
        held = Image.open(io.BytesIO(package.read(name))).convert("RGB")
    assert held.size == (82, 42) and held.getpixel((0, 0)) == (0xC0, 0x20, 0x20) and held.getpixel((5, 5)) == (220, 30, 30)
    assert held.getpixel((60, 35)) == (0xC0, 0x20, 0x20)  # where nothing is printed the face is seen


def test_step_carries_the_colour_of_each_face(tmp_path: Path) -> None:
    document, project, entries = _parts(tmp_path)
    text = handoff.write(entries, "step", None, Wardrobe(document, project.build(document.id).coats, project.asset)).decode()
    reds = sorted(float(rgb.split(",")[0]) for rgb in re.findall(r"COLOUR_RGB\('',([^)]*)\)", text))
    assert reds == pytest.approx([0x20 / 255, 0xC0 / 255], abs=2e-3)
    styled = re.findall(r"STYLED_ITEM\('[^']*',\([^)]*\),(#\d+)[,)]", text)
    kinds = [re.search(rf"{one} ?= ?(\w+)", text)[1] for one in styled]  # type: ignore[index]
    assert kinds.count("ADVANCED_FACE") == 1 and len(kinds) == 2


def test_pictures_show_bodies_in_what_they_wear(tmp_path: Path) -> None:
    document, project, entries = _parts(tmp_path)
    wardrobe = Wardrobe(document, project.build(document.id).coats, project.asset)
    dressed = [wardrobe.part(entry, mesh.tessellate(entry.body.solid, 0.1, 0.3)) for entry in entries]
    seen = render(dressed, Shot(400, 320, 0.0, 1.5707))
    scale = 0.86 * min(400 / 40, 320 / 30)

    def at(x: float, y: float) -> tuple[int, ...]:
        return tuple(int(c) for c in seen[round(160 - scale * y), round(200 + scale * x)])

    (red, _, _), (green, _, _), (blue, _, _) = at(-5, 3)[:3], at(5, 3)[:3], at(-5, -3)[:3]
    assert at(-5, 3)[0] > 2 * at(-5, 3)[1] and at(5, 3)[1] > 2 * at(5, 3)[0] and at(-5, -3)[2] > 2 * at(-5, -3)[0]
    assert red > green and blue < red
    bare, face = at(5, -3), at(15, 10)  # where the picture lets through the face is seen
    assert np.abs(np.array(bare) - face).max() <= 6 and face[0] > 3 * face[1] and seen[2, 2, 3] == 0
    clear = Part("Pane", "part", dressed[0].mesh, (Look("clear", "#FFFFFF"),))
    through = render([clear.moved((0.0, 0.0, 30.0)), dressed[0]], Shot(200, 160, 0.0, 1.5707, background="paper"))
    pixel = through[40, 155].astype(int)
    assert pixel[0] > pixel[1] + 25 and through[2, 2].tolist()[3] == 255
    film = Image.open(io.BytesIO(turning(dressed, Shot(120, 90, background="dusk"), 6, "webp", 1.0)))
    assert film.n_frames == 6 and film.size == (120, 90)


@pytest.mark.skipif(not RULES.is_dir(), reason="where npm is not, only the other readers look")
def test_glb_keeps_the_rules_of_those_who_made_the_format(tmp_path: Path) -> None:
    """By the format's own validator, which is there wherever the scripts are checked."""
    document, project, entries = _parts(tmp_path)
    wardrobe = Wardrobe(document, project.build(document.id).coats, project.asset)
    (tmp_path / "a.glb").write_bytes(handoff.write(entries, "glb", None, wardrobe))
    script = (
        "const v = require(process.argv[1]); const fs = require('fs');"
        "v.validateBytes(new Uint8Array(fs.readFileSync(process.argv[2]))).then((r) => console.log(JSON.stringify(r.issues)));"
    )
    found = subprocess.run(
        ["node", "-e", script, str(RULES), str(tmp_path / "a.glb")], capture_output=True, text=True, check=True, timeout=60
    )
    issues = json.loads(found.stdout)
    assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"]
