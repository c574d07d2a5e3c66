"""Random documents against the whole core, each in a process that may be killed.

    python -m scripts.fuzz [SECONDS] [SEED]

Looks for unhandled faults, unsound or misweighed solids that were accepted, and builds past the deadline. A kernel crash or
hang is contained by the workers, so it is counted and its document kept, but is no failure of ours. What is found is written
to fuzz-found/ as documents to be opened or to become tests.
"""

from __future__ import annotations

import json
import sys
import time
from collections import Counter
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, Phase, given, seed, settings
from tests.documents import documents
from tests.worker_verbs import VERIFY, Verified

from supplecast.wire.options import Nothing
from supplecast.wire.task import Task
from supplecast.workers.engine import Engine, Job

FOUND = Path("fuzz-found")
DEADLINE = 20.0


def judged(engine: Engine, content: dict[str, Any], folder: Path) -> tuple[str, Job[Verified]]:
    """How the engine fared with a document: a word, and the job."""
    task = Task(json.dumps({**content, "id": "fuzz"}), {}, str(folder), str(folder))
    job = engine.submit(VERIFY, "fuzz", task, Nothing(), deadline=DEADLINE)
    engine.wait(job.id, 3 * DEADLINE)
    if job.state == "done" and job.result is not None:
        return ("wrong" if job.result.wrong else "sound"), job
    if job.state == "failed":
        # A document that cannot be read is refused with words; anything else is a fault of ours.
        return ("refused" if "went wrong inside" not in job.message else "unhandled"), job
    return job.state, job


def main() -> int:
    budget = float(sys.argv[1]) if len(sys.argv) > 1 else 600.0
    number = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    engine = Engine(slots=1, more=("tests.worker_verbs",))
    FOUND.mkdir(exist_ok=True)
    tally: Counter[str] = Counter()
    steps: Counter[str] = Counter()
    ends = time.monotonic() + budget

    @seed(number)
    @settings(
        max_examples=10**6, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
    )
    @given(documents())
    def one(content: dict[str, Any]) -> None:
        if time.monotonic() > ends:
            raise KeyboardInterrupt
        word, job = judged(engine, content, FOUND)
        tally[word] += 1
        if job.result:
            for kind, status in job.result.steps:
                steps[f"{kind} {status}"] += 1
        if word not in ("sound", "refused"):
            name = FOUND / f"{word.replace(' ', '-')}-{number}-{sum(tally.values())}.supple.json"
            name.write_text(json.dumps({**content, "id": "fuzz"}, indent=1))
            print(word, name, job.message, job.result.wrong if job.result else "", flush=True)

    try:
        one()
    except KeyboardInterrupt:
        pass
    finally:
        engine.close()
        for blob in (*FOUND.glob("*.memory"), *FOUND.glob("*.shape")):
            blob.unlink()
    print(dict(tally))
    print(dict(sorted(steps.items())))
    return 1 if tally["wrong"] or tally["unhandled"] else 0


if __name__ == "__main__":
    sys.exit(main())
