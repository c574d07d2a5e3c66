"""The server itself: who may come in, how much may wait, what is too large or too slow, and what a kill leaves behind."""

from __future__ import annotations

import errno
import http.client
import io
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from concurrent.futures import CancelledError
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from playwright.sync_api import Page
from scripts import chaos
from sqlalchemy import event

from supplecast.errors import BusyError
from supplecast.scratch import Scratch, sweep
from supplecast.store.library import Library
from supplecast.web import context
from supplecast.web.app import create_app
from supplecast.wire.options import Nothing
from supplecast.wire.task import Task
from supplecast.wire.verbs import BUILD, CHECK_FILE, EXPORT, PICTURE
from supplecast.workers.engine import Engine
from supplecast.workers.slot import Slot
from tests.conftest import TRAY, part
from tests.referee.browser import opened
from tests.referee.desk import Desk
from tests.referee.kills import NoEngine
from tests.referee.processes import descendants
from tests.worker_verbs import FILL, SLEEP, Seconds

ROOT = Path(__file__).parents[1]


@dataclass
class Running:
    """The program, started as people start it."""

    process: subprocess.Popen[str]
    port: int
    path: str
    temporary: Path

    def get(self, path: str, **headers: str) -> tuple[int, bytes, dict[str, str]]:
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        connection.request("GET", path, headers=headers)
        answer = connection.getresponse()
        return answer.status, answer.read(), dict(answer.getheaders())


def _started(data: Path, temporary: Path, *options: str) -> Running:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [sys.executable, "-m", "supplecast.cli", "serve", "--data", str(data), "--port", str(port), *options]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env={**os.environ, "TMPDIR": str(temporary)})
    assert process.stdout
    said = re.search(rf"http://127.0.0.1:{port}(/\S*)", process.stdout.readline())
    assert said
    return Running(process, port, said[1], temporary)


@pytest.fixture
def running(tmp_path: Path) -> Iterator[Running]:
    temporary = tempfile.TemporaryDirectory(prefix="t")  # a short name: sockets are put there
    library = Library(tmp_path / "data")
    library.add_document(library.create_project("P").id, part(TRAY, id="tray"))
    library.close()
    made = _started(tmp_path / "data", Path(temporary.name))
    yield made
    made.process.kill()
    made.process.wait(20)
    temporary.cleanup()


def test_only_who_was_given_the_address_comes_in_and_each_address_works_once(running: Running) -> None:
    assert running.get("/")[0] == running.get("/api/documents/tray")[0] == running.get("/?key=wrong")[0] == 403
    assert b"open only to who started it" in running.get("/")[1]
    status, _, headers = running.get(running.path)
    assert (status, headers["Location"]) == (302, "/") and "HttpOnly" in headers["Set-Cookie"]
    cookie = headers["Set-Cookie"].split(";")[0]
    assert running.get("/", Cookie=cookie)[0] == running.get("/documents/tray", Cookie=cookie)[0] == 200
    assert running.get(running.path)[0] == 403  # used
    assert running.process.stdout
    following = re.search(r"http://\S+?(/\?key=\S+)", running.process.stdout.readline())
    assert following and running.get(following[1])[0] == 302
    assert running.get("/static/favicon.svg")[0] == 200


def test_what_says_it_is_too_large_is_refused_before_it_is_read(running: Running) -> None:
    with socket.create_connection(("127.0.0.1", running.port)) as connection:
        connection.sendall(
            b"POST /api/documents/tray/imports HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 500000000\r\n\r\nsome of it"
        )
        answer = connection.makefile("rb").read()
    assert answer.startswith(b"HTTP/1.1 413") and b"larger than 64 MB" in answer


def test_half_sent_requests_do_not_keep_others_from_being_answered(running: Running) -> None:
    held = []
    for _ in range(700):
        half = socket.create_connection(("127.0.0.1", running.port))
        half.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n")
        held.append(half)
    assert running.get(running.path)[0] == 302
    for half in held:
        half.close()


def test_a_killed_server_leaves_no_worker_and_its_folder_goes_at_the_next_start(running: Running, tmp_path: Path) -> None:
    status, _, headers = running.get(running.path)
    cookie = headers["Set-Cookie"].split(";")[0]
    _, page, headers = running.get("/documents/tray", Cookie=cookie)
    token = re.search(rb'name="token" content="([^"]+)"', page)
    assert status == 302 and token
    cookie = f"{cookie}; {headers['Set-Cookie'].split(';')[0]}"
    connection = http.client.HTTPConnection("127.0.0.1", running.port, timeout=60)
    sent = {"Cookie": cookie, "X-Token": token[1].decode(), "Content-Type": "application/json"}
    connection.request("POST", "/api/documents/tray/build", "{}", sent)
    assert connection.getresponse().status == 200
    while len(descendants(running.process.pid)) < 2:  # the one that forks, and a worker
        time.sleep(0.05)
    workers = descendants(running.process.pid)
    running.process.send_signal(signal.SIGKILL)
    running.process.wait(20)
    while any(_lives(pid) for pid in workers):  # the suite's own limit ends this if one stays
        time.sleep(0.05)
    left = list(running.temporary.glob("supplecast-*"))
    assert len(left) == 1
    second = _started(tmp_path / "data", running.temporary)
    assert not left[0].exists() and len(list(running.temporary.glob("supplecast-*"))) == 1
    second.process.terminate()
    assert second.process.wait(30) == 0 and not list(running.temporary.glob("supplecast-*"))


def _lives(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


def test_a_folder_in_use_is_not_swept_and_one_without_a_lock_is_not_ours(tmp_path: Path) -> None:
    mine, other = Scratch(tmp_path), tmp_path / "supplecast-other"
    other.mkdir()
    sweep(tmp_path)
    assert mine.path.is_dir() and other.is_dir()
    mine.close()
    assert not mine.path.exists()


# --- waiting -------------------------------------------------------------------------------------------------------


class Patient(NoEngine):
    """Notes how long it was asked to wait."""

    def __init__(self) -> None:
        super().__init__()
        self.waits: list[float] = []

    def wait(self, job_id: str, seconds: float) -> Any:
        self.waits.append(seconds)
        return super().wait(job_id, 0)


def test_only_a_share_of_the_threads_waits_for_workers(tmp_path: Path) -> None:
    engine = Patient()
    client = create_app(Library(tmp_path), engine).test_client()
    places = [context.waiting() for _ in range(20)]
    given = [place.__enter__() for place in places]
    try:
        assert 0 < sum(given) < 20
        assert client.get("/api/jobs/x?wait=10").status_code == 404 and engine.waits == [0]
    finally:
        for place in places:
            place.__exit__(None, None, None)
    assert client.get("/api/jobs/x?wait=10").status_code == 404 and engine.waits == [0, 10]


def test_so_much_may_wait_and_no_more_but_for_the_build_of_what_was_kept(tmp_path: Path) -> None:
    engine = Engine(slots=1, more=("tests.worker_verbs",))
    library = Library(tmp_path)
    desk = Desk(create_app(library, engine).test_client(), library)
    document = library.add_document(library.create_project("P").id, part(TRAY)).id
    try:
        with desk.client.application.app_context():
            task = context.task(library.head(document).document)
        with pytest.raises(BusyError, match="wait already"):
            for _ in range(100):
                engine.submit(SLEEP, document, task, Seconds(60))
        answer = desk.post(f"/api/documents/{document}/milestones", revision=1, name="x")
        assert answer.status_code == 200
        refused = [desk.post(f"/api/documents/{document}/picture") for _ in range(3)][-1]  # one may just have begun
        assert refused.status_code == 429 and "Wait until some" in refused.get_json()["detail"]
        wall = {"op": "set", "step": "shl", "field": "wall", "value": "2 mm"}
        kept = desk.post(f"/api/documents/{document}/edits", base=1, edit=wall)
        assert kept.status_code == 200 and engine.job(kept.get_json()["job"]).state == "waiting"
    finally:
        engine.close()


def test_builds_go_before_what_is_for_later_and_files_have_a_worker_of_their_own() -> None:
    assert BUILD.room == "own" and not BUILD.later and PICTURE.later
    assert EXPORT.room == CHECK_FILE.room == "files"

    class Noted(Slot):
        """Does nothing but note the order, once it may begin."""

        may, order = threading.Event(), list[str]()

        def _done(self, name: str, work: Any) -> tuple[Any, BaseException | None]:
            self.may.wait()
            self.order.append(name)
            return None, CancelledError()

    slot = Noted(lambda: None)  # type: ignore[arg-type,return-value]
    over = threading.Event()
    for name, later, first in (("running", False, False), ("picture", True, False), ("build", False, False),
                               ("picture 2", True, False), ("build 2", False, False), ("again", False, True)):  # fmt: skip
        slot.put(name, (print, None, 1), lambda *_: None, lambda: None, later=later, first=first)
        while name == "running" and slot._waiting:
            time.sleep(0.01)
    slot.put("last", (print, None, 1), lambda *_: over.set(), lambda: None, later=True)
    slot.may.set()
    over.wait()
    assert slot.order == ["running", "again", "build", "build 2", "picture", "picture 2", "last"]
    slot.close()


@pytest.fixture
def engine() -> Iterator[Engine]:
    made = Engine(slots=1)
    yield made
    made.close()


def test_files_are_kept_only_once_they_were_read_and_found_good(tmp_path: Path, engine: Engine) -> None:
    library = Library(tmp_path)
    desk = Desk(create_app(library, engine).test_client(), library)
    document = library.add_document(library.create_project("P").id, part(TRAY)).id
    for path, name in (("imports", "a.step"), ("sketches/out/outlines", "a.svg"), ("sketches/out/photos", "a.png")):
        sent = {"file": (io.BytesIO(b"ISO-10303-21; nonsense"), name)}
        answer = desk.client.post(f"/api/documents/{document}/{path}", data=sent, headers={"X-Token": desk.token})
        if job := answer.get_json().get("job"):
            assert desk.done(job)["state"] == "failed"
        else:
            assert answer.status_code == 422
    assert list(library.assets.iterdir()) == [] and not list(engine.folder.glob("*.file"))


# --- no room ---------------------------------------------------------------------------------------------------------


def test_a_full_disk_is_told_and_nothing_half_written_stays(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    library = Library(tmp_path)
    desk = Desk(create_app(library, NoEngine()).test_client(), library)
    document = library.add_document(library.create_project("P").id, part(TRAY)).id
    pages = [0]
    event.listen(library.engine, "begin", lambda held: held.exec_driver_sql(f"PRAGMA max_page_count = {pages[0] or 10**9}"))
    pages[0] = 1  # no page more than there are
    wide = {"op": "value", "name": "a", "text": "1 + " * 90 + "1"}
    head, answers = 1, []
    while not answers or answers[-1].status_code == 200:  # until what is free in the file is used up
        answers.append(desk.post(f"/api/documents/{document}/edits", base=head, edit=wide | {"name": f"a{head}"}))
        head += answers[-1].status_code == 200
    assert answers[-1].status_code == 507 and answers[-1].get_json()["title"] == "The disk is full; the change was not kept."
    pages[0] = 0
    assert library.head(document).number == head
    assert desk.post(f"/api/documents/{document}/edits", base=head, edit=wide | {"name": "z"}).status_code == 200

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)
    picture = io.BytesIO()
    Image.new("RGB", (2, 2)).save(picture, "PNG")
    sent = {"file": (io.BytesIO(picture.getvalue()), "p.png")}
    path = f"/api/documents/{document}/sketches/out/photos"
    assert desk.client.post(path, data=sent, headers={"X-Token": desk.token}).status_code == 507
    assert list(library.assets.iterdir()) == []


def test_a_worker_without_room_says_so(tmp_path: Path) -> None:
    engine = Engine(slots=1, more=("tests.worker_verbs",))
    try:
        job = engine.wait(engine.submit(FILL, "d", Task("{}", {}, str(tmp_path), str(tmp_path)), Nothing()).id, 300)
        assert (job.state, job.message) == ("failed", "The disk is full; nothing was written.")
    finally:
        engine.close()


def test_chaos_in_little(tmp_path: Path) -> None:
    for run, count in ((chaos.killed_servers, 3), (chaos.damaged, 15)):
        place = tmp_path / run.__name__
        place.mkdir()
        outcomes = run(place, count)
        assert not [words for words in outcomes if "LOST" in words] and outcomes["faults that the doctor found afterwards"] == 0


# --- the page ------------------------------------------------------------------------------------------------------


def test_a_page_whose_token_is_old_fetches_a_new_one_and_loses_nothing(address: str) -> None:
    with opened(address, "403") as page:
        _typed_into_an_old_page(page)


def _typed_into_an_old_page(page: Page) -> None:
    page.goto("/")
    page.context.clear_cookies()  # as after a month, or when the clock was set back
    page.evaluate("performance.now = () => 3_600_000")
    page.fill("[name=name]", "Stale")
    page.keyboard.press("Enter")
    section = page.get_by_role("region", name="Stale")
    section.get_by_role("button", name="New part").click()
    page.wait_for_url("**/documents/*")
    page.evaluate("atRest()")
    page.context.clear_cookies()
    name = page.locator(".document-name")
    name.fill("Kept all the same")
    name.press("Enter")
    page.get_by_text("name Kept all the same").wait_for()
    page.reload()
    assert page.locator(".document-name").input_value() == "Kept all the same"


def test_two_instances_share_no_cookie(tmp_path: Path) -> None:
    names = set()
    for port in (8001, 8002):
        client = create_app(Library(tmp_path / str(port)), NoEngine(), port).test_client()
        names.add(client.get("/").headers["Set-Cookie"].split("=")[0])
    assert names == {"supplecast_8001", "supplecast_8002"}


# --- what docs/security.md promises --------------------------------------------------------------------------------


def test_what_is_kept_is_its_owners_alone(running: Running, tmp_path: Path) -> None:
    assert running.get("/")[0] == 403
    for path in (tmp_path / "data").iterdir():
        assert path.stat().st_mode & 0o077 == 0, path


def test_refusals_at_the_door_are_logged(tmp_path: Path, caplog: pytest.LogCaptureFixture) -> None:
    client = create_app(Library(tmp_path), NoEngine()).test_client()
    client.post("/api/documents/a%0Ab/undo", json={}, headers={"X-Token": "x"})
    (record,) = caplog.records
    assert record.getMessage() == "Not let in: POST '/api/documents/a\\nb/undo'"


def test_no_process_is_begun_by_a_shell() -> None:
    for path in (ROOT / "src").rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        assert not re.search(r"\bos\.(system|popen)\b|shell=True|\beval\(|\bexec\(", text), path


def test_every_package_is_pinned_by_its_hash() -> None:
    for lock in ROOT.glob("requirements*.lock"):
        rows = lock.read_text().replace("\\\n", " ").splitlines()
        assert rows and all("==" in row and "--hash=sha256:" in row for row in rows), lock


def test_the_page_on_security_names_tests_that_there_are() -> None:
    named = set(re.findall(r"`(test_\w+)`", (ROOT / "docs" / "security.md").read_text(encoding="utf-8")))
    there = set()
    for path in (ROOT / "tests").glob("test_*.py"):
        there |= set(re.findall(r"^def (test_\w+)", path.read_text(encoding="utf-8"), re.MULTILINE))
    assert len(named) > 30 and named <= there, named - there
