"""Kills the server's own edit path again and again in the middle of its writing.

    python -m tests.referee.kills FOLDER DOCUMENT COUNT

A process of its own, so that its children are forked from one without threads. Prints the kills, the newest revision that
was acknowledged, and how many were.
"""

from __future__ import annotations

import os
import random
import re
import signal
import sys
import tempfile
import time
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from supplecast.document.step import load_steps
from supplecast.store.library import Library
from supplecast.web.app import create_app
from supplecast.workers.engine import Engine


class NoEngine(Engine):
    """Takes jobs and does nothing, so that only the store is under test."""

    def __init__(self) -> None:
        self._jobs = {}
        self._temporary = tempfile.TemporaryDirectory()
        self.folder = Path(self._temporary.name)

    def submit(self, *_: object, brought: Path | None = None, **__: object) -> Any:
        if brought is not None:
            brought.unlink()
        return SimpleNamespace(id="none")


def serve(folder: Path, document: str, out: int) -> None:
    """Edit as fast as it goes; every acknowledged revision number is written to a pipe."""
    client = create_app(Library(folder), NoEngine()).test_client()
    found = re.search(rb'name="token" content="([^"]+)"', client.get("/").data)
    assert found
    token = found.group(1).decode()
    head = client.get(f"/api/documents/{document}").get_json()["revision"]
    while True:
        edit = {"op": "set", "step": "shl", "field": "wall", "value": f"{1 + head % 9} mm"}
        body = {"base": head, "edit": edit}
        answer = client.post(f"/api/documents/{document}/edits", json=body, headers={"X-Token": token})
        if answer.status_code == 200:
            head = answer.get_json()["revision"]
            os.write(out, head.to_bytes(4, "big"))


def one(folder: Path, document: str, pause: float) -> list[int]:
    reader, writer = os.pipe()
    child = os.fork()
    if child == 0:
        try:
            serve(folder, document, writer)
        finally:
            os._exit(9)
    os.close(writer)
    losses = os.read(reader, 4)  # it works by now
    time.sleep(pause)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    while more := os.read(reader, 4096):
        losses += more
    os.close(reader)
    return [int.from_bytes(losses[i : i + 4], "big") for i in range(0, len(losses) - len(losses) % 4, 4)]


def main() -> None:
    folder, document, count = Path(sys.argv[1]), sys.argv[2], int(sys.argv[3])
    load_steps()
    rng, losses = random.Random(3), []
    for _ in range(count):
        losses += one(folder, document, rng.uniform(0, 0.03))
    print(count, max(losses), len(losses))


if __name__ == "__main__":
    main()
