"""What happens when everything goes wrong: a table of outcomes, and a failure if anything acknowledged was lost.

    python -m scripts.chaos [SERVER_KILLS] [WORKER_KILLS] [FULL_DISKS] [DAMAGES]

Server: killed in the middle of edits. Workers: killed while they build. Disk: filled on a small file system of its own, which
takes root. Database: copied and damaged. Each must end in a sentence, or as if nothing had happened.
"""

from __future__ import annotations

import contextlib
import io
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

from PIL import Image
from tests.conftest import TRAY, part
from tests.referee.desk import Desk
from tests.referee.processes import grandchildren

from supplecast.document.edits import apply, read_edit
from supplecast.errors import StoreError
from supplecast.store import backup, doctor, opening
from supplecast.store.library import Library
from supplecast.web.app import create_app
from supplecast.wire.options import Build
from supplecast.wire.task import Task
from supplecast.wire.verbs import BUILD
from supplecast.workers.engine import Engine

Outcomes = Counter[str]
_LOST = "LOST"
_ALL = (200, 200, 20, 50)


def wall(head: int) -> dict[str, object]:
    """An edit that differs from the one before."""
    return {"op": "set", "step": "shl", "field": "wall", "value": f"{1.5 + head % 9 / 10} mm"}


def killed_servers(folder: Path, count: int) -> Outcomes:
    """The edit path killed so many times: is every acknowledged revision there, and the store sound?"""
    library = Library(folder)
    card = library.add_document(library.create_project("P").id, part(TRAY))
    library.close()
    command = [sys.executable, "-m", "tests.referee.kills", str(folder), card.id, str(count)]
    kills, acknowledged, total = map(int, subprocess.run(command, capture_output=True, text=True, check=True).stdout.split())
    outcomes = Outcomes({f"killed after {total} acknowledged edits in all": kills})
    library = Library(folder)
    there = {past.number for past in library.history(card.id, limit=10**6)}
    library.close()
    if lost := set(range(1, acknowledged + 1)) - there:
        outcomes[f"{_LOST}: acknowledged revisions"] = len(lost)
    outcomes["faults that the doctor found afterwards"] = len(doctor.examine(folder))
    return outcomes


def killed_workers(folder: Path, count: int) -> Outcomes:
    """Workers killed while they build: how did the builds end, and does the last one give the shape that it must?"""
    rng, outcomes = random.Random(5), Outcomes()
    library = Library(folder)
    card = library.add_document(library.create_project("P").id, part(TRAY))
    engine, kills, head = Engine(slots=2), 0, 1
    try:
        while kills < count:
            changed, words = apply(library.head(card.id).document, read_edit(wall(head)))
            head = library.commit(card.id, head, changed, words).number
            task = Task(changed.to_json(), {}, str(library.assets), str(library.blobs))
            job = engine.submit(BUILD, card.id, task, Build())
            time.sleep(rng.uniform(0, 0.2))
            for pid in grandchildren(os.getpid())[: count - kills]:
                with contextlib.suppress(ProcessLookupError):
                    os.kill(pid, signal.SIGKILL)
                    kills += 1
            engine.wait(job.id, 60)
            outcomes[f"build {job.state}"] += 1
            if job.running:
                outcomes[f"{_LOST}: a build that never ended"] += 1
        again = engine.wait(engine.submit(BUILD, card.id, task, Build()).id, 120)
        outcomes["last build right" if again.state == "done" and again.result and again.result.ok else f"{_LOST}: shape"] += 1
        outcomes["workers killed"] = kills
        outcomes["edits kept"] = library.head(card.id).number - 1
    finally:
        engine.close()
        library.close()
    return outcomes


@contextlib.contextmanager
def small_disk(megabytes: int) -> Iterator[Path]:
    """A file system of its own that is soon full."""
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={megabytes}m", "tmpfs", folder], check=True)
        try:
            yield Path(folder)
        finally:
            subprocess.run(["umount", folder], check=True)


def full_disks(place: Path, count: int) -> Outcomes:
    """A disk filled to the brim, then freed: what do an edit, an upload and a backup answer, and does work go on?"""
    outcomes = Outcomes()
    library = Library(place / "data")
    engine = Engine(slots=1)
    desk = Desk(create_app(library, engine).test_client(), library)
    card = library.add_document(library.create_project("P").id, part(TRAY))
    photo = io.BytesIO()
    Image.frombytes("RGB", (300, 300), os.urandom(270_000)).save(photo, "PNG")
    head = 1
    for _ in range(count):
        fill(place / "filler")
        for _ in range(50):  # what the database still has room for in its files is kept, and counts
            answer = desk.post(f"/api/documents/{card.id}/edits", base=head, edit=wall(head))
            outcomes[f"edit {answer.status_code}: {answer.get_json().get('title', 'kept')}"] += 1
            if answer.status_code != 200:
                break
            head = answer.get_json()["revision"]
        sent = {"file": (io.BytesIO(photo.getvalue()), "p.png")}
        path = f"/api/documents/{card.id}/sketches/out/photos"
        answer = desk.client.post(path, data=sent, headers={"X-Token": desk.token})
        outcomes[f"upload {answer.status_code}: {answer.get_json().get('title', 'kept')}"] += 1
        job = desk.done(desk.post(f"/api/documents/{card.id}/exports", format="stl").get_json()["job"])
        outcomes[f"export {job['state']}: {job['message']}"] += 1
        try:
            backup.backup(place / "data", place / "b.zip")
        except StoreError as fault:
            outcomes[f"backup: {fault.message}"] += 1
        (place / "filler").unlink()
        if library.head(card.id).number != head:
            outcomes[f"{_LOST}: an acknowledged edit"] += 1
        answer = desk.post(f"/api/documents/{card.id}/edits", base=head, edit=wall(head))
        outcomes[f"once there is room, edit {answer.status_code}"] += 1
        head = answer.get_json()["revision"]
    engine.close()
    left = [path.name for path in (place / "data").rglob(".*")]
    outcomes["leftovers"] = len(left) + len(list(place.glob(".*")))
    library.close()
    outcomes["faults that the doctor found afterwards"] = len(doctor.examine(place / "data"))
    return outcomes


def fill(path: Path) -> None:
    """Take all the room that is left."""
    with contextlib.suppress(OSError), path.open("wb", buffering=0) as stream:
        for size in (1 << 16, 1 << 12, 1):
            with contextlib.suppress(OSError):
                while True:
                    stream.write(bytes(size))


def damaged(folder: Path, count: int) -> Outcomes:
    """A database damaged in so many ways: does a start say so, and is the good backup left alone?"""
    rng, outcomes = random.Random(8), Outcomes()
    library = Library(folder / "data")
    card = library.add_document(library.create_project("P").id, part(TRAY))
    for head in range(1, 40):
        changed, words = apply(library.head(card.id).document, read_edit(wall(head)))
        library.commit(card.id, head, changed, words)
    library.close()
    (folder / "data" / "secret").write_text("x")
    whole, kept = (folder / "data" / opening.DATABASE).read_bytes(), folder / "kept.zip"
    backup.backup(folder / "data", kept)
    good = kept.read_bytes()
    for number in range(count):
        (folder / "data" / opening.DATABASE).write_bytes(_SPOILS[number % len(_SPOILS)](bytearray(whole), rng))
        for what, act in (
            ("start", lambda: opening.check(folder / "data")),
            ("backup", lambda: backup.backup(folder / "data", kept)),
            ("doctor", lambda: doctor.examine(folder / "data", repair=False)),
        ):
            try:
                answer = act()
                outcomes[f"{what}: {'faults named' if what == 'doctor' and answer else 'as if nothing had happened'}"] += 1
            except StoreError:
                outcomes[f"{what}: refused in a sentence"] += 1
        if kept.read_bytes() != good:
            backup.restore(kept, folder / f"back{number}")  # StoreError if a worse copy took its place
            kept.write_bytes(good)
    return outcomes


_SPOILS: tuple[Callable[[bytearray, random.Random], bytes], ...] = (
    lambda content, rng: bytes(content[: rng.randrange(len(content))]),
    lambda content, rng: _zeroed(content, rng.randrange(len(content)), rng.randrange(1, 9000)),
    lambda content, rng: _noise(content, rng, rng.randrange(len(content)), rng.randrange(1, 400)),
    lambda content, rng: _noise(content, rng, 0, 100),
    lambda content, rng: bytes(content) + rng.randbytes(rng.randrange(1, 9000)),
)


def _zeroed(content: bytearray, at: int, size: int) -> bytes:
    size = min(size, len(content) - at)
    content[at : at + size] = bytes(size)
    return bytes(content)


def _noise(content: bytearray, rng: random.Random, at: int, size: int) -> bytes:
    size = min(size, len(content) - at)
    content[at : at + size] = rng.randbytes(size)
    return bytes(content)


def main() -> int:
    counts = [int(word) for word in sys.argv[1:]] + list(_ALL)[len(sys.argv) - 1 :]
    bad = 0
    for title, run, count in (
        ("Server killed in the middle of edits", killed_servers, counts[0]),
        ("Workers killed while they build", killed_workers, counts[1]),
        ("Disk filled, then freed", full_disks, counts[2]),
        ("Database damaged", damaged, counts[3]),
    ):
        began = time.monotonic()
        with small_disk(6) if run is full_disks else tempfile.TemporaryDirectory() as place:
            outcomes = run(Path(place), count)
        print(f"\n{title}: {count} times, {time.monotonic() - began:.0f} s", flush=True)
        for words, times in sorted(outcomes.items()):
            print(f"  {times:6d}  {words}")
        bad += sum(times for words, times in outcomes.items() if _LOST in words)
    print("\nNothing acknowledged was lost." if not bad else f"\n{bad} times something was LOST.")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
