"""Thousands of generated requests, one after another on the same document, as its description allows them and as it does not.

    python -m scripts.requests [COUNT] [SEED]

Each builds on what came before: edits name the revision that stands, jobs are those that were begun, steps those that there
are. No answer may be a fault of the server's, and no worker's answer one of its inside.
"""

from __future__ import annotations

import random
import re
import sys
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from tests.conftest import TRAY, part

from supplecast.store.library import Library
from supplecast.web.app import create_app
from supplecast.workers.engine import Engine

_A_ROUND = 20


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
        self.faults: list[str] = []
        self.jobs: list[str] = []

    def cases(self) -> st.SearchStrategy[Any]:
        """Any request that the description knows, and some that it does not."""
        modes = (schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE)
        operations = [found.ok() for found in self.description.get_all_operations()]
        return st.one_of([operation.as_strategy(generation_mode=mode) for operation in operations for mode in modes])

    def play(self, cases: list[Any], rng: random.Random) -> None:
        """Send requests one after another to a new document."""
        document = self.library.add_document(self.project, part(TRAY)).id
        for case in cases:
            self._send(case, document, rng)
        for job in self.jobs:
            self.engine.cancel(job)
        self.jobs.clear()

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
        answer = case.call(**self.signed)
        self.answers[answer.status_code] += 1
        if answer.status_code >= 500:
            self.faults.append(f"{case.method} {case.path} {answer.status_code} {case.body!r:.300}")
        told = answer.json() if "json" in answer.headers.get("Content-Type", [""])[0] else None
        if isinstance(told, dict) and isinstance(told.get("job"), str):
            self._ended(told["job"], case)

    def _ended(self, name: str, case: Any) -> None:
        job = self.engine.wait(name, 0.5)
        self.jobs.append(name)
        if "went wrong inside" in job.message:
            self.faults.append(f"{case.method} {case.path}: {job.message:.200} {case.body!r:.300}")


def run(folder: Path, engine: Engine, count: int, number: int) -> Rounds:
    """So many requests, in rounds of some to a document."""
    rounds, rng = Rounds(folder, engine), random.Random(number)

    @seed(number)
    @settings(
        max_examples=max(1, count // _A_ROUND),
        derandomize=False,
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(st.lists(rounds.cases(), min_size=_A_ROUND, max_size=_A_ROUND))
    def play(cases: list[Any]) -> None:
        rounds.play(cases, rng)

    play()
    return rounds


def main() -> int:
    count, number = (int(word) for word in (*sys.argv[1:], *("5000", "1")[len(sys.argv) - 1 :]))
    engine = Engine(slots=1)
    with tempfile.TemporaryDirectory() as folder:
        try:
            rounds = run(Path(folder), engine, count, number)
        finally:
            engine.close()
    print(f"{sum(rounds.answers.values())} requests: " + ", ".join(f"{n} × {s}" for s, n in sorted(rounds.answers.items())))
    for fault in dict.fromkeys(rounds.faults):
        print(fault)
    return 1 if rounds.faults else 0


if __name__ == "__main__":
    sys.exit(main())
