"""Where a step may stand: every place in the sheet tried, with what would go wrong there."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass

from supplecast.document.builder import Outside
from supplecast.document.edits import apply
from supplecast.document.edits.sheet import MoveStep
from supplecast.document.model import Document
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.errors import DocumentError

_QUIET = frozenset({"ordered", "caution"})


@dataclass(frozen=True)
class Place:
    """Directly after step `after` (None: first). `why` says what would go wrong there; blank where the step may stand."""

    after: str | None
    why: str = ""


def places(document: Document, step_id: str, memory: Memory, outside: Outside, seconds: float = 10.0) -> list[Place]:
    """Every other place for a step, in order of the sheet. Each is built, nearest first, as long as the time allows."""
    now = document.position(step_id)
    others = [step.id for step in document.steps if step.id != step_id]
    gaps = [index for index in range(len(others) + 1) if index != now]
    base = rebuild(document, _copied(memory), outside=outside)
    deadline = time.monotonic() + seconds
    allowed: dict[int, Place] = {}
    for index in sorted(gaps, key=lambda i: abs(i - now)):
        after = others[index - 1] if index else None
        try:
            moved, _ = apply(document, MoveStep(op="move", step=step_id, after=after))
        except DocumentError as fault:
            allowed[index] = Place(after, fault.message)
            continue
        if time.monotonic() > deadline:
            allowed[index] = Place(after, "Not tried: building this document takes too long.")
            continue
        trouble = next(_worse(base, rebuild(moved, _copied(memory), outside=outside), moved), "")
        allowed[index] = Place(after, trouble)
    return [allowed[index] for index in gaps]


def _copied(memory: Memory) -> Memory:
    """Trials must not push out what the document itself is remembered by."""
    return Memory({step: list(traces) for step, traces in memory.traces.items()}, dict(memory.good), memory.keys)


def _worse(base: Built, moved: Built, document: Document) -> Iterator[str]:
    """Steps that were built and no longer are, and picks that are no longer found beyond doubt."""
    for number, outcome in enumerate(moved.outcomes, 1):
        before = base.outcome(outcome.step)
        label = f"Step {number}, “{document.step(outcome.step).label}”"
        if outcome.status == "failed" and before.status == "ok":
            yield f"{label}: {outcome.message}"
        known = {flag.field for flag in before.flags}
        for flag in outcome.flags:
            if flag.status not in _QUIET and flag.field not in known:
                yield f"{label}: {flag.words}"
