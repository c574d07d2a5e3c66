"""Random documents, a fixed number: no fault that is not told, no unsound solid accepted, no hang past the deadline."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from scripts.fuzz import judged

from supplecast.geometry import Mass
from supplecast.kernel import check, measure, solid
from supplecast.workers.engine import Engine
from tests.documents import documents

COUNT = 120


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = Engine(slots=1, more=("tests.worker_verbs",))
    yield made
    made.close()


def test_random_documents_are_built_or_refused_with_words(engine: Engine, tmp_path: Path) -> None:
    tally: Counter[str] = Counter()
    statuses: Counter[str] = Counter()

    @settings(
        max_examples=COUNT, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck)
    )
    @given(documents())
    def one(content: dict[str, Any]) -> None:
        word, job = judged(engine, content, tmp_path)
        tally[word] += 1
        assert word not in ("wrong", "unhandled"), (job.message, job.result, content)
        for kind, status in job.result.steps if job.result else ():
            statuses[f"{kind} {status}"] += 1

    one()
    assert tally["sound"] > 60 and statuses["extrude ok"] > 60, (tally, statuses)
    # The kernel itself may crash or hang now and then; workers contain it, and it must stay rare.
    assert tally["died"] + tally["too long"] <= 0.02 * sum(tally.values()) + 1, tally


def test_the_second_look_sees_what_it_should() -> None:
    """The judge of the fuzzing has teeth: a solid told a wrong weight is found out, a sound one is not accused."""
    box = solid.box((0, 0, 0), (30, 20, 10)).solid
    assert check.faults(box) == []
    measure.MASS.keep(box, Mass(6001.0 * 1.2, 2200.0, (15.0, 10.0, 5.0)))
    assert any("weighs" in words for words in check.faults(box))
