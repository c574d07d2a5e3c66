"""Pictures of what the lessons end with, from real builds: `make handbook` writes them into the package."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from supplecast import kernel, lessons
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.document.rebuild import Memory, rebuild
from supplecast.document.state import Entry
from supplecast.document.step import load_steps
from supplecast.exchange.picture import draw
from supplecast.exchange.triangles import Part

TO = Path(lessons.__file__).parent
_FINE = 0.02  # mm
_APART = 0.45  # of its height that a tool is drawn open
_MOVING = ("core", "core insert", "core pin", "ejector", "moving base", "ejection")
_WIDE, _HIGH = 300, 285


def ended(name: str) -> tuple[Document, dict[str, Document]]:
    """The document that a lesson ends with, and those that it links, by id."""
    lesson = lessons.lessons()[name]
    linked = {lesson.of: ended(lesson.of)[0]} if lesson.of else {}
    parts = [LinkPick(document=other) for other in linked]
    return lessons.ended(lesson, parts).model_copy(update={"id": name}), linked


def _part(entry: Entry, apart: float) -> Part:
    mesh = kernel.mesh.tessellate(entry.body.solid, _FINE, 0.2)
    up = apart if entry.role in _MOVING else apart / 2 if entry.role in ("linked", "molded") else 0.0
    pull = np.array(entry.pull or (0.0, 0.0, 1.0))
    return Part(entry.name, entry.role, replace(mesh, points=mesh.points + up * pull))


def main() -> None:
    load_steps()
    for name in lessons.ORDER:
        document, linked = ended(name)
        outside = Project({(document.id, None): document, **{(other, None): d for other, d in linked.items()}})
        built = rebuild(document, Memory(), outside=outside)
        assert built.ok, [(o.step, o.message) for o in built.outcomes if o.status != "ok"]
        shown = [entry for entry in built.state.bodies.values() if entry.role != "feed"]
        spans = [kernel.measure.loose_box(entry.body.solid) for entry in shown]
        high = max(span.high[2] for span in spans) - min(span.low[2] for span in spans)
        (TO / f"{name}.png").write_bytes(draw([_part(entry, _APART * high) for entry in shown], _WIDE, _HIGH))


if __name__ == "__main__":
    main()
