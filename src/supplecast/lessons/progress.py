"""How far one is in a lesson: told by the document as it is, what was built of it, and its gauges."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from supplecast.document.edits import apply, read_edit
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document
from supplecast.errors import SuppleError
from supplecast.lessons.lesson import Condition, Lesson, Task
from supplecast.wire.results import BuildResult, DrawnSketch, Gauges

_ANGLES = ("draft", "angle", "lead", "catch", "lean")
"""Fields that are angles, in whatever step."""


def done(lesson: Lesson, document: Document, build: BuildResult | None, gauges: Gauges | None) -> list[bool]:
    """Which tasks of a lesson are done: each with all before it."""
    found: list[bool] = []
    for task in lesson.tasks:
        so_far = found[-1] if found else True
        found.append(so_far and all(_holds(one, document, build, gauges) for one in task.done))
    return found


def worked(document: Document, edit: dict[str, Any], parts: Sequence[LinkPick] = ()) -> Document:
    """The document with a lesson's edit made in it. SuppleError where one's own way has left no place for it."""
    changed, _ = apply(document, read_edit(meant(document, edit)), parts)
    return changed


def meant(document: Document, edit: Any) -> Any:
    """An edit with the last step of a type wherever it says `@` and the type, and the first one for `@1` and the type."""
    if isinstance(edit, dict):
        return {name: meant(document, value) for name, value in edit.items()}
    if isinstance(edit, list):
        return [meant(document, value) for value in edit]
    if isinstance(edit, str) and "@" in edit:
        for step in document.steps:
            word = f"{step.type.replace(' ', '_')}!"
            first = next(one.id for one in document.steps if one.type == step.type)
            edit = edit.replace(f"@1{word}", first).replace(f"@{word}", _last(document, step.type) or "")
    return edit


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
    if one.field and not any(_within(one, document, step.held) for step in document.steps if _of(one, step.type)):
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


def _of(one: Condition, kind: str) -> bool:
    return one.field.partition(".")[0] == kind


def _within(one: Condition, document: Document, held: Any) -> bool:
    name = one.field.partition(".")[2]
    try:
        return _lies(one, document, held(name), is_angle=name in _ANGLES)
    except AttributeError:
        return False


def _lies(one: Condition, document: Document, text: str, *, is_angle: bool = False) -> bool:
    low, high = one.between or (-math.inf, math.inf)
    try:
        value = document.scope.evaluate(text, "angle" if is_angle else "length")
    except SuppleError:
        return False
    return low <= (math.degrees(value) if is_angle else value) <= high
