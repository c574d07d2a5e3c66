"""The command line as a batch user meets it: files in, files and a report out, exit codes."""

from __future__ import annotations

import hashlib
import json
import math
from pathlib import Path
from typing import Any

import pytest

from supplecast.kernel import measure, solid, step_files
from tests.conftest import CRASHING, MOLD, STEPS, TRAY, circle, extrude, part, rectangle, tool
from tests.referee.commands import run


def written(folder: Path, name: str, document: Any) -> str:
    target = folder / name
    target.write_text(document if isinstance(document, str) else document.to_json())
    return str(target)


def test_linked_documents_build_to_files_and_a_report(tmp_path: Path) -> None:
    paths = [written(tmp_path, "tool.supple.json", tool(MOLD)), written(tmp_path, "part.supple.json", part(TRAY))]
    out, report = tmp_path / "out", tmp_path / "report.json"
    ran = run("build", *paths, "--out", str(out), "--formats", "step,stl,3mf,glb", "--report", str(report))
    assert (ran.status, ran.err) == (0, "")
    documents = json.loads(report.read_text())["documents"]
    assert [s["status"] for d in documents for s in d["steps"]] == ["ok"] * (len(MOLD) + len(TRAY))
    found = {body["id"]: body for d in documents for body in d["bodies"]}
    assert set(found) == {"ext", "lnk", "spl.cavity", "spl.core", "fee", "sho"}
    core = found["spl.core"]
    assert core["valid"] and core["solids"] == 1 and core["role"] == "core" and core["name"] == "Core half"
    assert set(core) == {
        "id", "name", "role", "volume_mm3", "area_mm2", "centroid_mm", "second_mm5", "bbox_mm", "solids", "faces", "valid",
    }  # fmt: skip
    assert len(list(out.iterdir())) == 4 * len(found)
    (_, read, _), *_ = step_files.read_step((out / "tool-core-half-spl-core.step").read_bytes())
    assert measure.volume(read) == pytest.approx(core["volume_mm3"], rel=1e-8)


def test_every_name_can_be_said_in_a_reference(tmp_path: Path) -> None:
    """A box with a bore: faces and edges told by kind, size and place; references taken from there work in steps."""
    steps: STEPS = [*BOX, circle("c", "8"), extrude("x", "c", "5", result="cut")]
    ended = run("names", written(tmp_path, "box.json", part(steps)))
    assert (ended.status, ended.err) == (0, "")
    (body,) = json.loads(ended.out)["bodies"]
    assert body["id"] == "e" and (body["low"], body["high"]) == ([-20, -15, 0], [20, 15, 5])
    assert sorted(face["kind"] for face in body["faces"]) == ["flat"] * 6 + ["round"]
    (bore,) = [face for face in body["faces"] if face["kind"] == "round"]
    assert bore["size"] == pytest.approx(8 * math.pi * 5, abs=1e-6) and bore["middle"] == [0, 0, 2.5]
    assert bore["words"] == "side of step 4"
    rim = next(edge for edge in body["edges"] if edge["kind"] == "round" and edge["middle"][2] == 5)
    assert rim["size"] == pytest.approx(8 * math.pi, abs=1e-6)
    more = [{"id": "f", "type": "chamfer", "edges": [rim["reference"]], "distance": "0.5"}]
    more += [{"id": "n", "type": "nudge", "faces": [bore["reference"]], "distance": "-1"}]
    for step in more:
        built_ = run("build", written(tmp_path, "more.json", part([*steps, step])))
        assert built_.status == 0, built_.err


DEEP = '{"rule":"not","rules":[' * 80 + '{"rule":"every"}' + "]}" * 80
BOX: STEPS = [rectangle("s", "40", "30"), extrude("e", "s", "5")]


@pytest.mark.parametrize(
    ("steps", "fields", "status", "words"),
    [
        ([BOX[0], extrude("e", "s", "1e-12")], {}, 1, "field distance: The distance is under a millionth"),
        ([circle("s", "0")], {}, 2, "steps[0].draw[0].diameter: the diameter must be greater"),
        ([BOX[0], extrude("e", "s", "9" * 390)], {}, 1, f"“{'9' * 30}…” (390 characters)"),
        ([BOX[0], extrude("e", "s", "9" * 402)], {}, 2, "steps[1].distance: is longer than 400 characters"),
        (BOX, {"resin": "Unobtainium"}, 1, "the resin “Unobtainium” is not known. Known: ABS"),
        (
            [*BOX, {"id": "f", "type": "fillet", "edges": [json.loads(DEEP)]}],
            {},
            2,
            "steps[2].edges: more than 60 things lie inside",
        ),
    ],
)
def test_what_cannot_be_is_named_with_its_place(
    tmp_path: Path, steps: STEPS, fields: dict[str, Any], status: int, words: str
) -> None:
    data = {"id": "trial", "kind": "part", "name": "Trial", "steps": steps, **fields}  # format and version may be left out
    path = tmp_path / "trial.json"
    path.write_text(json.dumps(data))
    ended = run("build", str(path))
    assert ended.status == status and words in ended.err
    assert len(ended.err) < 700 and "Standard_" not in ended.err


def test_a_failed_step_exits_1_and_says_why(tmp_path: Path) -> None:
    steps = [*TRAY[:-1], {**TRAY[-1], "wall": "60 mm"}]
    ended = run("build", written(tmp_path, "a.json", part(steps)))
    assert ended.status == 1
    assert "step 5 “Shell” (shl), field wall" in ended.err
    assert json.loads(ended.out)["steps"][4]["status"] == "failed"


@pytest.mark.parametrize(
    ("text", "words"),
    [("{", "not sound JSON"), ('{"format": "supplecast", "version": 1, "steps": [{"id": "a", "type": "x"}]}', "steps[0].type")],
)
def test_unusable_input_exits_2(tmp_path: Path, text: str, words: str) -> None:
    ran = run("build", written(tmp_path, "a.json", text))
    assert ran.status == 2 and words in ran.err
    assert run("build", str(tmp_path / "none.json")).status == 2
    assert run("build", written(tmp_path, "b.json", part(TRAY)), "--formats", "dwg").status == 2


def test_export_of_one_body(tmp_path: Path) -> None:
    document = written(tmp_path, "a.json", part([circle("s", "10"), extrude("e", "s", "4")]))
    assert run("export", document, "--to", str(tmp_path / "a.stp"), "--body", "e").status == 0
    (_, read, _), *_ = step_files.read_step((tmp_path / "a.stp").read_bytes())
    assert measure.volume(read) == pytest.approx(100 * math.pi, rel=1e-6)
    assert run("export", document, "--to", str(tmp_path / "a.stl"), "--body", "zz").status == 2


def test_imported_file_is_found_beside_the_document(tmp_path: Path) -> None:
    content = step_files.write_step([("Insert", solid.box((0, 0, 0), (1, 2, 3)).solid)])
    (tmp_path / "insert.step").write_bytes(content)
    step = {"id": "m", "type": "import", "file": "insert.step", "asset": hashlib.sha256(content).hexdigest()}
    report = tmp_path / "r.json"
    assert run("build", written(tmp_path, "a.json", part([step])), "--report", str(report)).status == 0
    assert json.loads(report.read_text())["bodies"][0]["volume_mm3"] == pytest.approx(6)
    (tmp_path / "insert.step").write_bytes(content + b" ")
    assert run("build", str(tmp_path / "a.json"), "--report", str(report)).status == 1


def test_a_crash_of_the_kernel_is_said_not_suffered(tmp_path: Path) -> None:
    ran = run("build", written(tmp_path, "a.json", part(CRASHING)))
    assert ran.status == 1 and "crashed at step 3 of 5, “Shell”" in ran.err


def test_schema_is_json() -> None:
    ran = run("schema")
    assert ran.status == 0 and json.loads(ran.out)["properties"]["steps"]["items"]["oneOf"]
