"""The web application without a browser: the API, its guards, and the engine's workers behind it."""

from __future__ import annotations

import io
import re
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from supplecast.kernel import solid, step_files
from supplecast.store.library import Library
from supplecast.web import demo
from supplecast.web.app import LARGEST_UPLOAD
from supplecast.wire.options import Build, Nothing
from supplecast.wire.task import Task
from supplecast.wire.verbs import BUILD
from supplecast.workers.engine import Engine
from tests.conftest import TRAY, part, tool
from tests.referee.desk import Desk
from tests.worker_verbs import DIE, SLEEP, Seconds


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = Engine(more=("tests.worker_verbs",))
    yield made
    made.close()


@pytest.fixture
def tray_id(desk: Desk) -> str:
    return desk.library.add_document(desk.library.create_project("P").id, part(TRAY)).id


def test_the_web_process_never_loads_the_kernel(tmp_path: Path) -> None:
    script = (
        "import sys; from pathlib import Path; from supplecast.store.library import Library;"
        "from supplecast.workers.engine import Engine; from supplecast.web.app import create_app;"
        "from supplecast.web import demo; from supplecast.document.step import load_steps; load_steps();"
        "library = Library(Path(sys.argv[1])); demo.seed(library);"
        "engine = Engine(); client = create_app(library, engine).test_client();"
        "assert client.get('/').status_code == 200;"
        "assert client.get('/documents/dusk-back-shell').status_code == 200;"
        "engine.close(); sys.exit(any(name == 'OCP' or name.startswith('OCP.') for name in sys.modules))"
    )
    target = tmp_path / "run.py"
    target.write_text(f"if __name__ == '__main__':\n    {script}\n")
    assert subprocess.run([sys.executable, str(target), str(tmp_path / "data")], timeout=90).returncode == 0


def test_an_edit_is_kept_built_and_undone(desk: Desk, tray_id: str) -> None:
    answer = desk.post(
        f"/api/documents/{tray_id}/edits", base=1, edit={"op": "set", "step": "shl", "field": "wall", "value": "3 mm"}
    )
    assert answer.status_code == 200 and answer.get_json()["undo"] == 1
    job = desk.done(answer.get_json()["job"])
    assert job["state"] == "done" and job["result"]["ok"]
    mesh = job["result"]["bodies"][0]["mesh"]
    fetched = desk.client.get(f"/api/blobs/{mesh}")
    assert fetched.data[:4] == b"glTF" and "immutable" in fetched.headers["Cache-Control"]
    undone = desk.post(f"/api/documents/{tray_id}/undo").get_json()
    volume = desk.done(undone["job"])["result"]["bodies"][0]["volume"]
    assert volume < job["result"]["bodies"][0]["volume"]
    again = desk.post(f"/api/documents/{tray_id}/edits", base=2, edit={"op": "skip", "step": "shl"})
    assert again.status_code == 409 and again.content_type == "application/problem+json"
    assert "changed elsewhere" in again.get_json()["title"]


def test_what_was_last_shown_is_there_at_once_and_never_of_another_state(desk: Desk, tray_id: str) -> None:
    """Kept by content: nothing before the first build, nothing for an edit that was not built, again after undo; a damaged
    file, or a mesh that is gone, is as if nothing were kept. Of the gauges, maps that are gone are left out.
    """

    def look() -> dict[str, Any]:
        return dict(desk.client.get(f"/api/documents/{tray_id}/look").get_json())

    assert look() == {"build": None, "gauges": None}
    built = desk.done(desk.post(f"/api/documents/{tray_id}/build").get_json()["job"])["result"]
    judged = desk.done(desk.post(f"/api/documents/{tray_id}/gauges").get_json()["job"])["result"]
    assert look() == {"build": built, "gauges": judged}
    edit = {"op": "set", "step": "shl", "field": "wall", "value": "3 mm"}
    answer = desk.post(f"/api/documents/{tray_id}/edits", base=1, edit=edit)
    desk.client.delete(f"/api/jobs/{answer.get_json()['job']}", headers={"X-Token": desk.token})
    assert look()["gauges"] is None
    desk.done(desk.post(f"/api/documents/{tray_id}/undo").get_json()["job"])
    assert [body["volume"] for body in look()["build"]["bodies"]] == [body["volume"] for body in built["bodies"]]
    blobs = desk.library.blobs
    (blobs / judged["skins"][0]["maps"]["wall"]).unlink()
    assert look()["gauges"]["skins"] == [] and len(look()["gauges"]["gauges"]) == len(judged["gauges"])
    (blobs / built["bodies"][0]["mesh"]).unlink()
    assert look()["build"] is None
    for path in blobs.glob("*.look"):
        path.write_bytes(path.read_bytes()[:-9])
    assert look() == {"build": None, "gauges": None}


def test_a_preview_changes_nothing(desk: Desk, tray_id: str) -> None:
    answer = desk.post(f"/api/documents/{tray_id}/preview", edit={"op": "set", "step": "shl", "field": "wall", "value": "90"})
    job = desk.done(answer.get_json()["job"])
    assert [s["status"] for s in job["result"]["steps"]][-1] == "failed"
    assert desk.library.head(tray_id).number == 1


def test_picks_become_references_and_come_back_lit(desk: Desk, tray_id: str) -> None:
    built = desk.done(desk.post(f"/api/documents/{tray_id}/build").get_json()["job"])["result"]["bodies"][0]
    pick = {"body": "ext", "mesh": built["mesh"], "face": 0}
    answer = desk.done(desk.post(f"/api/documents/{tray_id}/references", picked=[pick]).get_json()["job"])
    reference = answer["result"]["picks"][0]["pick"]
    lit = desk.done(desk.post(f"/api/documents/{tray_id}/build", picks=[reference]).get_json()["job"])
    assert lit["result"]["picks"][0]["faces"] == [0]
    stale = desk.post(f"/api/documents/{tray_id}/references", picked=[{**pick, "mesh": "0.glb"}]).get_json()
    assert "Pick again" in desk.done(stale["job"])["hint"]


def test_a_body_is_measured_by_one_thing_and_by_two(desk: Desk, tray_id: str) -> None:
    """The tray's bottom: flat, and 27 mm from its rim."""

    def measured(*picked: dict[str, Any]) -> dict[str, Any]:
        return desk.done(desk.post(f"/api/documents/{tray_id}/measures", upto="ext", picked=list(picked)).get_json()["job"])

    everything = [measured({"body": "ext", "face": face})["result"] for face in range(6)]
    by_face = {shown["picks"][0]["face"]: shown for shown in everything}
    assert list(by_face).count("ext.start") == 1
    (area,) = [f["value"] for f in by_face["ext.start"]["figures"] if f["name"] == "area"]
    assert area == pytest.approx(124 * 72)
    ends = [{"body": "ext", "face": everything.index(by_face[name])} for name in ("ext.start", "ext.end")]
    (gap,) = [f["value"] for f in measured(*ends)["result"]["figures"] if f["name"] == "least distance"]
    assert gap == pytest.approx(27)
    for wrong in ({"face": 99}, {"edge": -1}, {}):
        assert "no longer there" in measured({"body": "ext", **wrong})["message"]
    refused = desk.post(f"/api/documents/{tray_id}/measures", picked=[{"body": "ext", "face": "0"}])
    assert refused.status_code == 422 and "picked.0.face" in refused.get_json()["title"]


def test_another_unit_is_foretold_both_ways(desk: Desk, tray_id: str) -> None:
    answer = desk.done(desk.post(f"/api/documents/{tray_id}/units", unit="in").get_json()["job"])["result"]
    assert answer["size"]["size"] == ["4.8819", "2.8346", "1.063"] and answer["size"]["ok"] and not answer["size"]["warning"]
    assert desk.library.head(tray_id).document.unit == "mm"


def test_exports_come_as_files_with_sensible_names(desk: Desk, tray_id: str) -> None:
    answer = desk.post(f"/api/documents/{tray_id}/exports", format="stl", bodies=["ext"], tolerance="0.1").get_json()
    result = desk.done(answer["job"])["result"]
    fetched = desk.client.get(f"/api/blobs/{result['blob']}?as={result['name']}")
    assert "filename=part-body.stl" in fetched.headers["Content-Disposition"]
    assert len(fetched.data) == result["bytes"]
    for bad in ({"format": "exe"}, {"format": "stl", "tolerance": "fine"}):
        assert desk.post(f"/api/documents/{tray_id}/exports", **bad).status_code == 422
    refused = desk.post(f"/api/documents/{tray_id}/exports", format="stl", tolerance=99).get_json()
    assert "out of range" in desk.done(refused["job"])["message"]


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("edits", {"base": 1, "edit": {"op": "melt"}}),
        ("edits", {"base": 1, "edit": None}),
        ("edits", {"base": "x", "edit": {"op": "skip", "step": "shl"}}),
        ("edits", {"base": 1, "edit": {"op": "set", "step": "zz", "field": "wall", "value": "1"}}),
        ("build", {"upto": "zz"}),
        ("references", {"picked": "x"}),
        ("references", {"picked": [3]}),
        ("measures", {"picked": []}),
        ("measures", {"picked": [{"body": "ext", "face": n} for n in range(3)]}),
        ("units", {"unit": "furlong"}),
    ],
)
def test_nonsense_is_answered_with_words(desk: Desk, tray_id: str, path: str, body: dict[str, Any]) -> None:
    answer = desk.post(f"/api/documents/{tray_id}/{path}", **body)
    assert 400 <= answer.status_code < 500
    assert answer.content_type == "application/problem+json" and answer.get_json()["title"]


# --- guards ------------------------------------------------------------------------------------------------------


def test_writes_need_the_token_and_this_host(desk: Desk, tray_id: str) -> None:
    assert desk.client.post(f"/api/documents/{tray_id}/undo", json={}).status_code == 403
    assert desk.client.post("/projects", data={"name": "x"}).status_code == 403
    assert desk.client.get("/", headers={"Host": "evil.example"}).status_code == 421
    assert desk.client.get("/", headers={"Host": "localhost:8765"}).status_code == 200


def test_every_answer_carries_a_strict_policy(desk: Desk) -> None:
    for path in ("/", "/nowhere", "/static/app.css"):
        policy = desk.client.get(path).headers["Content-Security-Policy"]
        assert "default-src 'none'" in policy and "unsafe" not in policy


def test_hostile_names_are_escaped_everywhere(desk: Desk) -> None:
    hostile = "<script>alert(1)</script>\"'&"
    project = desk.library.create_project(hostile)
    steps = [{**TRAY[0], "name": hostile[:80]}, {**TRAY[1], "name": hostile[:80]}, *TRAY[2:]]
    card = desk.library.add_document(project.id, part(steps, name=hostile, values={"w": hostile}))
    for path in ("/", f"/documents/{card.id}", f"/documents/{card.id}/sheet", f"/documents/{card.id}/handoff"):
        page = desk.client.get(path).data.decode()
        assert "<script>alert" not in page and "&lt;script&gt;alert" in page


@pytest.mark.parametrize("name", ["../supplecast.db", "..%2Fsecret", "x.glb", "0" * 32 + ".exe", "0" * 32 + ".glb"])
def test_only_blobs_are_served(desk: Desk, name: str) -> None:
    assert desk.client.get(f"/api/blobs/{name}").status_code == 404


# --- uploads -----------------------------------------------------------------------------------------------------


def upload(desk: Desk, name: str, content: bytes) -> Any:
    project = desk.library.create_project("Imports").id
    form = {"token": desk.token, "file": (io.BytesIO(content), name)}
    return desk.client.post(f"/projects/{project}/import", data=form)


def test_step_files_become_parts(desk: Desk) -> None:
    content = step_files.write_step([("Insert", solid.box((0, 0, 0), (1, 2, 3)).solid)])
    answer = upload(desk, "insert.step", content)
    assert answer.status_code == 302
    document = answer.headers["Location"].rsplit("/", 1)[1]
    job = desk.done(desk.post(f"/api/documents/{document}/build").get_json()["job"])
    assert job["result"]["bodies"][0]["volume"] == pytest.approx(6)


def test_step_files_become_steps_of_a_part(desk: Desk, tray_id: str) -> None:
    content = step_files.write_step([("Insert", solid.box((0, 0, 0), (1, 2, 3)).solid)])
    form = {"file": (io.BytesIO(content), "insert.step")}
    answer = desk.client.post(f"/api/documents/{tray_id}/imports", data=form, headers={"X-Token": desk.token}).get_json()
    assert {b["name"] for b in desk.done(answer["job"])["result"]["bodies"]} == {"Body", "Insert"}
    assert answer["undo"] == 1


def test_documents_come_in_as_they_went_out(desk: Desk, tray_id: str) -> None:
    sent = desk.client.get(f"/api/documents/{tray_id}/file")
    assert 'filename="part.supple.json"' in sent.headers["Content-Disposition"]
    assert upload(desk, "part.supple.json", sent.data).status_code == 302


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("a.step", b"not a step file", "STEP"),
        ("a.json", b"{broken", "JSON"),
        ("a.step", b"%PDF-1.7", "a PDF"),
        ("a.json", b'{"format": "supplecast", "version": 1, "steps": [{"type": "x"}]}', "steps[0].type"),
        ("a.step", b"\x89PNG", "a picture"),
    ],
)
def test_broken_files_are_refused_with_a_page(desk: Desk, name: str, content: bytes, words: str) -> None:
    answer = upload(desk, name, content)
    assert answer.status_code == 422 and words in answer.data.decode()


def test_a_300_mb_upload_is_refused(desk: Desk) -> None:
    """The length alone is enough to refuse it; the bytes are never read."""
    project = desk.library.create_project("Imports").id
    answer = desk.client.post(
        f"/projects/{project}/import", headers={"X-Token": desk.token}, content_type="multipart/form-data; boundary=x",
        input_stream=io.BytesIO(b"--x"), environ_overrides={"CONTENT_LENGTH": str(300 * 2**20)},
    )  # fmt: skip
    assert answer.status_code == 413 and f"{LARGEST_UPLOAD // 2**20} MB" in answer.data.decode()


# --- hostile names ------------------------------------------------------------------------------------------------

EVIL = '"><script>alert(1)</script><img src=x onerror=alert(2)>{{7*7}}\u202e'


def test_names_are_text_wherever_they_appear(desk: Desk) -> None:
    """A project, a document, steps, a value, a milestone and a file named to do harm: pages hold them as text only."""
    project = desk.library.create_project(EVIL)
    steps = [{**step, "name": EVIL[:80]} for step in TRAY]
    card = desk.library.add_document(project.id, part(steps, name=EVIL[:120], values={"r": "2"}))
    desk.library.set_milestone(card.id, 1, EVIL)
    imported = {"id": "m1", "type": "import", "file": EVIL, "asset": "9" * 64, "name": EVIL[:80]}
    other = desk.library.add_document(project.id, part([imported], name=EVIL[:120]), EVIL)
    tool_steps = [{"id": "l1", "type": "link", "part": {"document": EVIL[:80]}, "name": EVIL[:80]}]
    bad = desk.library.add_document(project.id, tool(tool_steps, name=EVIL[:120]))
    paths = ["/"]
    for document in (card, other, bad):
        built = desk.post(f"/api/documents/{document.id}/build").get_json()["job"]
        desk.done(built)
        paths += [f"/documents/{document.id}", f"/documents/{document.id}/handoff", f"/documents/{document.id}/history"]
        paths.append(f"/documents/{document.id}/sheet?job={built}")
    for path in paths:
        html = desk.client.get(path).data.decode()
        assert "alert(1)" in html and "<script>alert" not in html and "<img src=x" not in html, path
        assert "49" not in re.findall(r"onerror=alert\(2\)[^{]{0,5}", html)
    name = f"/api/blobs/{'0' * 24}.glb?as=" + "..%2f..%2f%0d%0aSet-Cookie:%20x=1.glb"
    assert "Set-Cookie: x=1" not in str(desk.client.get(name).headers)
    answer = desk.client.get(f"/api/documents/{card.id}/file").headers["Content-Disposition"]
    assert "<" not in answer and "\n" not in answer
    missing = desk.client.get(f"/documents/{EVIL}")
    assert missing.status_code == 404 and b"<script>alert" not in missing.data


def test_every_answer_carries_the_guards(desk: Desk, tray_id: str) -> None:
    for path in ("/", f"/documents/{tray_id}", f"/api/documents/{tray_id}", "/nowhere", "/api/nowhere", "/static/app.css"):
        headers = desk.client.get(path).headers
        policy = headers["Content-Security-Policy"]
        assert "unsafe" not in policy and "default-src 'none'" in policy and "frame-ancestors 'none'" in policy
        assert headers["X-Content-Type-Options"] == "nosniff"
        assert headers["Cross-Origin-Resource-Policy"] == "same-origin" and "camera=()" in headers["Permissions-Policy"]
    assert desk.client.get("/nowhere").content_type.startswith("text/html")
    assert desk.client.get("/api/nowhere").content_type == "application/problem+json"


def test_a_fault_of_our_own_is_told_without_its_inside(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Library, "head", lambda *_: 1 / 0)
    desk.client.application.config.update(TESTING=False, PROPAGATE_EXCEPTIONS=False)
    page, answer = desk.client.get("/documents/x"), desk.client.get("/api/documents/x")
    assert page.status_code == answer.status_code == 500
    assert b"ZeroDivision" not in page.data + answer.data and answer.content_type == "application/problem+json"


# --- workers -----------------------------------------------------------------------------------------------------


def a_task(desk: Desk) -> Task:
    library = desk.library
    return Task(part(TRAY).to_json(), {}, str(library.assets), str(library.blobs))


def test_a_crash_costs_nothing_but_time(desk: Desk, engine: Engine, tray_id: str) -> None:
    crashed = engine.submit(DIE, tray_id, a_task(desk), Nothing())
    assert engine.wait(crashed.id, 120).state == "died" and "replaced" in crashed.message
    again = desk.done(desk.post(f"/api/documents/{tray_id}/build").get_json()["job"])
    assert again["state"] == "done" and again["result"]["ok"]


def test_deadlines_and_cancel(desk: Desk, engine: Engine) -> None:
    slow = engine.submit(SLEEP, "doc-a", a_task(desk), Seconds(3600), deadline=0.5)
    assert engine.wait(slow.id, 120).state == "too long" and "too long" in slow.message
    held = engine.submit(SLEEP, "doc-a", a_task(desk), Seconds(3600))
    while held.state == "waiting":
        time.sleep(0.01)
    assert desk.client.delete(f"/api/jobs/{held.id}", headers={"X-Token": desk.token}).status_code == 200
    assert engine.wait(held.id, 120).state == "cancelled"


def test_newer_work_takes_the_place_of_work_not_begun(desk: Desk, engine: Engine) -> None:
    before = engine.submit(SLEEP, "doc-b", a_task(desk), Seconds(3600))
    first, second = (engine.submit(BUILD, "doc-b", a_task(desk), Build()) for _ in range(2))
    assert engine.wait(first.id, 120).state == "cancelled"
    engine.cancel(before.id)
    assert engine.wait(second.id, 120).state == "done"


def test_progress_tells_the_step(desk: Desk, engine: Engine) -> None:
    job = engine.submit(BUILD, "doc-c", replace(a_task(desk), upto="ext"), Build())
    result = engine.wait(job.id, 120).result
    assert result is not None and [step.id for step in result.steps] == ["out", "ext"]
    assert job.progress is not None and job.progress.id == "draw ext"


@pytest.mark.slow
def test_the_tool_knows_that_its_part_has_moved_on(desk: Desk) -> None:
    project = demo.add(desk.library)
    back, tool, *_ = project.documents
    assert "has moved on" not in desk.client.get(f"/documents/{tool.id}").data.decode()
    desk.post(f"/api/documents/{back.id}/edits", base=1, edit={"op": "set", "step": "shl", "field": "wall", "value": "2 mm"})
    page = desk.client.get(f"/documents/{tool.id}").data.decode()
    assert "<bdi>Back shell</bdi> has moved on" in page and 'data-revision="2"' in page
    before, after = (
        desk.done(desk.post(f"/api/documents/{tool.id}/preview", edit=edit).get_json()["job"])["result"]["bodies"][0]["volume"]
        for edit in (
            {"op": "rename", "step": "lnk", "name": "x"},
            {"op": "set", "step": "lnk", "field": "part", "value": {"document": back.id, "body": "ext", "revision": 2}},
        )
    )
    assert after < before
