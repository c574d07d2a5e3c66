"""What would fit: the largest value of a failed step's field, found by trying, away from the edit that failed."""

from __future__ import annotations

import math
import time
from dataclasses import dataclass

from supplecast.document.builder import Outside
from supplecast.document.model import Document, read_step
from supplecast.document.rebuild import Memory, Run, rebuild, step_key
from supplecast.document.state import Outcome
from supplecast.errors import SuppleError
from supplecast.wording import show

_STEPS = {"length": 0.01, "angle": 0.05}
_UNITS = {"length": "mm", "angle": "deg"}


@dataclass(frozen=True)
class Advice:
    """`value` is what to type, blank if even the least tried does not fit; `words` say it for people."""

    step: str
    field: str
    value: str
    words: str


def largest(document: Document, outcome: Outcome, memory: Memory, outside: Outside, seconds: float = 3.0) -> Advice | None:
    """The largest value of the failed field that does build, by bisection to 0.01 mm or 0.05° or until the time is up.

    None where the step did not fail for a size, or where what it is built on fails itself. Whatever is said was built.
    """
    if not outcome.sized or outcome.status != "failed":
        return None
    place = document.position(outcome.step)
    step = document.steps[place]
    kind = step.spec_of(outcome.field).kind
    if kind not in _STEPS:
        return None
    before = rebuild(document.model_copy(update={"steps": document.steps[:place]}), memory, outside=outside)
    if not before.ok:
        return None
    run = Run(document, memory, outside)
    run.state = before.state
    given = run.builder(step, "").evaluate(outcome.field, step.typed(outcome.field), "angle" if kind == "angle" else "length")
    given = math.degrees(given) if kind == "angle" else given

    def fits(value: float) -> bool:
        trial = read_step(step.retyped(outcome.field, f"{value!r} {_UNITS[kind]}"))
        try:
            trial.build(run.builder(trial, step_key(trial)))
        except SuppleError:
            return False
        except Exception:  # whatever the kernel throws, the value does not fit
            return False
        return True

    deadline, good, bad = time.monotonic() + seconds, 0.0, given
    while abs(bad - good) > _STEPS[kind] and time.monotonic() < deadline:
        middle = (good + bad) / 2
        good, bad = (middle, bad) if fits(middle) else (good, middle)
    whole = math.trunc(good / _STEPS[kind]) * _STEPS[kind]
    if good == 0 and abs(bad) > _STEPS[kind]:
        return Advice(step.id, outcome.field, "", f"Nothing that fits was found in {seconds:g} s of trying.")
    if whole == 0 or not fits(whole):
        return Advice(step.id, outcome.field, "", "Not even a very small one fits here.")
    unit = "°" if kind == "angle" else " mm"
    value = f"{show(round(whole, 4))} {_UNITS[kind]}"
    exact = abs(bad - good) <= _STEPS[kind]
    return Advice(
        step.id,
        outcome.field,
        value,
        f"{'The largest that fits is' if exact else 'This much fits:'} {show(round(whole, 4))}{unit}.",
    )
