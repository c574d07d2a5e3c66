"""How far one is in a lesson: told by the document as it is, what was built of it, and its gauges."""

from __future__ import annotations

import math
import re
from typing import Any

from supplecast.document.model import Document
from supplecast.document.step import Step
from supplecast.errors import DocumentError, SuppleError
from supplecast.lessons.lesson import Condition, Lesson, Task
from supplecast.wire.results import BuildResult, DrawnSketch, Gauges

_MEANT = re.compile(r"@(?P<nth>[1-9]?)(?P<type>[a-z_]+)!")


def done(lesson: Lesson, document: Document, build: BuildResult | None, gauges: Gauges | None) -> list[bool]:
    """Which tasks of a lesson are done: each with all before it."""
    found: list[bool] = []
    for task in lesson.tasks:
        so_far = found[-1] if found else True
        found.append(so_far and all(_holds(one, document, build, gauges) for one in task.done))
    return found


def is_known(lesson: Lesson, build: BuildResult | None, gauges: Gauges | None) -> bool:
    """Whether what the lesson asks of is built and judged: else nobody knows how far one is."""
    asks_gauges = any(one.gauge for task in lesson.tasks for one in task.done)
    return build is not None and (gauges is not None or not asks_gauges or not build.bodies)


def meant(document: Document, edit: Any) -> Any:
    """An edit with the last step of a type wherever it says `@` and the type, the first one for `@1`, the second for `@2`.
    DocumentError where one's own way has left no such step.
    """
    if isinstance(edit, dict):
        return {name: meant(document, value) for name, value in edit.items()}
    if isinstance(edit, list):
        return [meant(document, value) for value in edit]
    return _MEANT.sub(lambda found: _step(document, found), edit) if isinstance(edit, str) else edit


def _step(document: Document, found: re.Match[str]) -> str:
    steps = [step.id for step in document.steps if step.type == found["type"].replace("_", " ")]
    nth = int(found["nth"] or len(steps))
    if not 1 <= nth <= len(steps):
        raise DocumentError(f"There is no {found['type']} that this task could go on from.", "Do the task your own way.")
    return steps[nth - 1]


def lights(task: Task, document: Document) -> list[str]:
    """Where a task is done on the screen, as CSS selectors."""
    found = []
    for place in task.at:
        what, _, name = place.partition(" ")
        step, _, field = name.partition(".")
        held = _last(document, step)
        if what == "add":
            found += ["div:has(> #add)", f'[data-add="{name}"]']
        elif what == "field" and held:
            found.append(f'[data-step="{held}"][data-field="{field}"]')
        elif what == "draw" and held:
            found.append(f'[data-draw="{held}"]')
        elif what == "gauge":
            found.append(f'[data-gauge="{name}"]')
        elif what == "tool":
            found.append(f'[data-slot="{name}"]')
    return found


def _last(document: Document, kind: str) -> str | None:
    return next((step.id for step in reversed(document.steps) if step.type == kind), None)


def _holds(one: Condition, document: Document, build: BuildResult | None, gauges: Gauges | None) -> bool:
    if (one.resins and document.resin not in one.resins) or len(document.values) < one.named:
        return False
    if one.value and not _lies(one, document, document.values.get(one.value, "")):
        return False
    kind, _, field = one.field.partition(".")
    if one.field and not any(_within(one, document, step, field) for step in document.steps if step.type == kind):
        return False
    if one.gauge and not any(g.id == one.gauge and g.state == "good" for g in (gauges.gauges if gauges else ())):
        return False
    if not (one.steps or one.curves or one.volume):
        return True
    if build is None:
        return False
    if one.steps and sum(step.type in one.steps and step.status == "ok" for step in build.steps) < one.least:
        return False
    if one.curves and not any(_is_drawn(one, sketch) for sketch in build.sketches):
        return False
    low, high = one.volume or (0.0, math.inf)
    return low <= sum(body.volume for body in build.bodies if body.role in ("part", "core", "cavity")) <= high


def _is_drawn(one: Condition, sketch: DrawnSketch) -> bool:
    places = [place for line in sketch.lines for place in line]
    sides = [max(values) - min(values) for values in zip(*places, strict=True)]
    return len(sketch.lines) >= one.curves and one.across[0] <= max(sides, default=0.0) <= one.across[1]


def _within(one: Condition, document: Document, step: Step, field: str) -> bool:
    return _lies(one, document, step.held(field), is_angle=step.spec(field).kind == "angle")


def _lies(one: Condition, document: Document, text: str, *, is_angle: bool = False) -> bool:
    low, high = one.between or (-math.inf, math.inf)
    try:
        value = document.scope.evaluate(text, "angle" if is_angle else "length")
    except SuppleError:
        return False
    return low <= (math.degrees(value) if is_angle else value) <= high
