"""Short ways to a part's volume and to the fault of a step."""

from __future__ import annotations

from supplecast.kernel import measure
from tests.conftest import STEPS, bodies, built, part


def volume(steps: STEPS, body: str = "e1") -> float:
    return measure.volume(bodies(part(steps))[body].body.solid)


def fault(steps: STEPS) -> tuple[str, str, str]:
    """Field, message and hint of the last step, which must fail."""
    outcome = built(part(steps)).outcomes[-1]
    assert outcome.status == "failed", outcome.notes
    return outcome.field, outcome.message, outcome.hint
