"""Thousands of generated requests, one after another on the same document, as its description allows them and as it does not.

    python -m scripts.api [COUNT] [SEED]

Each builds on what came before: edits name the revision that stands, jobs are those that were begun, steps those that there
are. No answer may be a fault of the server's, and no worker's answer one of its inside.
"""

from __future__ import annotations

import contextlib
import logging
import random
import re
import sys
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis.errors import Unsatisfiable
from tests.conftest import TRAY, part

from supplecast.store.library import Library
from supplecast.web.app import create_app
from supplecast.workers.engine import Engine

_A_DOCUMENT = 60  # requests


def _pick(rng: random.Random) -> dict[str, float]:
    return {"x": rng.uniform(-50, 50), "y": rng.uniform(-50, 50)}


class Rounds:
    """A document under random requests: what was asked, what was answered, and what must not have been."""

    def __init__(self, folder: Path, engine: Engine) -> None:
        self.library, self.engine = Library(folder), engine
        self.project = self.library.create_project("P").id
        self.app = create_app(self.library, engine)
        self.description = schemathesis.openapi.from_wsgi("/api/openapi.json", self.app)
        page = self.app.test_client().get("/")
        token = re.search(rb'name="token" content="([^"]+)"', page.data)
        assert token
        name, _, value = page.headers["Set-Cookie"].split(";")[0].partition("=")
        self.signed = {"headers": {"X-Token": token[1].decode(), "Host": "localhost"}, "cookies": {name: value}}
        self.answers: Counter[int] = Counter()
        self.accepted: Counter[tuple[str, str]] = Counter()
        self.faults: list[str] = []
        self.jobs: list[str] = []
        self.sent, self.document = 0, ""

    def cases(self, count: int, number: int) -> list[Any]:
        """So many requests, as many of each kind: such as the description allows, and such as it does not; mixed."""
        modes = (schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE)
        kinds = [(found.ok(), mode) for found in self.description.get_all_operations() for mode in modes]
        gathered: list[Any] = []
        for operation, mode in kinds:
            chosen = settings(
                max_examples=-(-count // len(kinds)),
                derandomize=False,
                deadline=None,
                database=None,
                phases=[Phase.generate],
                suppress_health_check=list(HealthCheck),
            )

            @seed(number)
            @chosen
            @given(operation.as_strategy(generation_mode=mode))
            def gather(case: Any) -> None:
                gathered.append(case)

            with contextlib.suppress(Unsatisfiable):  # there is nothing to say wrong
                gather()
        random.Random(number).shuffle(gathered)
        return gathered[:count]

    def play(self, case: Any, rng: random.Random) -> None:
        """Send a request to the document that there is; every so often to a new one."""
        if self.sent % _A_DOCUMENT == 0:
            self.document = self.library.add_document(self.project, part(TRAY)).id
            for job in self.jobs:
                self.engine.cancel(job)
            self.jobs.clear()
        self.sent += 1
        try:
            self._send(case, self.document, rng)
        except Exception as fault:  # Flask raises what it would answer by 500
            self.faults.append(f"{case.method} {case.path} {type(fault).__name__}: {fault} {case.body!r:.300}")

    def _send(self, case: Any, document: str, rng: random.Random) -> None:
        ids = case.path_parameters
        if "document_id" in ids and rng.random() < 0.95:
            ids["document_id"] = document
        if "step" in ids and rng.random() < 0.9:
            ids["step"] = "out"
        if "job_id" in ids and self.jobs and rng.random() < 0.9:
            ids["job_id"] = rng.choice(self.jobs)
        if isinstance(case.body, dict) and "base" in case.body and rng.random() < 0.9:
            case.body["base"] = self.library.head(document).number
            if rng.random() < 0.5 and "edit" in case.body:
                case.body["edit"] = {"op": "set", "step": "shl", "field": "wall", "value": f"{rng.uniform(1, 4):.2f} mm"}
            elif rng.random() < 0.5 and "acts" in case.body:
                case.body["acts"] = [{"do": "draw", "tool": "circle", "picks": [_pick(rng), _pick(rng)]}]
        answer = case.call(**self.signed)
        self.answers[answer.status_code] += 1
        self.accepted[case.method, case.path] += answer.status_code < 300
        if answer.status_code >= 500:
            self.faults.append(f"{case.method} {case.path} {answer.status_code} {case.body!r:.300}")
        try:
            told = answer.json()
        except ValueError:  # a file, a picture
            told = None
        if isinstance(told, dict) and isinstance(told.get("job"), str):
            self._ended(told["job"], case)

    def _ended(self, name: str, case: Any) -> None:
        job = self.engine.wait(name, 0.5)
        self.jobs.append(name)
        if "went wrong inside" in job.message:
            self.faults.append(f"{case.method} {case.path}: {job.message:.200} {case.body!r:.300}")


def run(folder: Path, engine: Engine, count: int, number: int) -> Rounds:
    """So many requests, every tenth an edit that can be kept."""
    rounds, rng = Rounds(folder, engine), random.Random(number)
    for case in rounds.cases(count, number):
        rounds.play(case, rng)
    return rounds


def main() -> int:
    logging.disable(logging.WARNING)  # who is not let in, thousands of times
    count, number = (int(word) for word in (*sys.argv[1:], *("5200", "1")[len(sys.argv) - 1 :]))
    engine = Engine(slots=1)
    with tempfile.TemporaryDirectory() as folder:
        try:
            rounds = run(Path(folder), engine, count, number)
        finally:
            engine.close()
    for (method, path), number in sorted(rounds.accepted.items()):
        print(f"{number:6d} accepted  {method} {path}")
    print(f"{sum(rounds.answers.values())} requests: " + ", ".join(f"{n} × {s}" for s, n in sorted(rounds.answers.items())))
    for fault in dict.fromkeys(rounds.faults):
        print(fault)
    return 1 if rounds.faults else 0


if __name__ == "__main__":
    sys.exit(main())
