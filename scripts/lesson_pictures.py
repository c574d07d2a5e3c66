"""Pictures of what the lessons end with, from real builds: `make handbook` writes them into the package."""

from __future__ import annotations

from pathlib import Path

from supplecast import kernel, lessons
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.document.rebuild import Memory, rebuild
from supplecast.document.state import Entry
from supplecast.document.step import load_steps
from supplecast.document.stroke import Stroke
from supplecast.exchange.picture import draw
from supplecast.exchange.triangles import Part
from supplecast.exchange.wardrobe import Wardrobe
from supplecast.geometry import Vec
from supplecast.steps.tool.stroke import stroke_of

TO = Path(lessons.__file__).parent
_FINE = 0.02  # mm
_WIDE, _HIGH = 300, 285


def ended(name: str) -> tuple[Document, dict[str, Document]]:
    """The document that a lesson ends with, and those that it links, by id."""
    lesson = lessons.lessons()[name]
    linked = {lesson.of: ended(lesson.of)[0]} if lesson.of else {}
    parts = [LinkPick(document=other) for other in linked]
    return lessons.ended(lesson, parts).model_copy(update={"id": name}), linked


def _part(entry: Entry, off: Vec, wardrobe: Wardrobe) -> Part:
    return wardrobe.part(entry, kernel.mesh.tessellate(entry.body.solid, _FINE, 0.2)).moved(off)


def main() -> None:
    load_steps()
    for name in lessons.ORDER:
        document, linked = ended(name)
        outside = Project({(document.id, None): document, **{(other, None): d for other, d in linked.items()}})
        built = rebuild(document, Memory(), outside=outside)
        assert built.ok, [(o.step, o.message) for o in built.outcomes if o.status != "ok"]
        wardrobe = Wardrobe(document, built.coats)
        stroke = stroke_of(list(built.state.bodies.values())) or Stroke((), {})
        shown = [entry for entry in built.state.bodies.values() if entry.id not in stroke.aside]
        picture = draw([_part(e, stroke.off(e.id), wardrobe) for e in shown], _WIDE, _HIGH, up=stroke.up or (0.0, 0.0, 1.0))
        (TO / f"{name}.png").write_bytes(picture)


if __name__ == "__main__":
    main()
