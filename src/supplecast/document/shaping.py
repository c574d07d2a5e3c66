"""What raised, turned and swept outlines do with the bodies there are: stand alone, add to them, cut or intersect them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.curves import Curve2
from supplecast.document.builder import Builder
from supplecast.document.fields import FieldSpec, FurtherBodies, MetBody, PlanePick
from supplecast.document.several import several
from supplecast.document.state import Entry, SketchEntry
from supplecast.document.step import Before, Step
from supplecast.errors import DocumentError
from supplecast.geometry import Box, Frame, Point2
from supplecast.naming import Body
from supplecast.sketch.paths import path

Result = Literal["new", "add", "cut", "intersect"]
Tools = Sequence[tuple[str, Body]]
_ONTO = {"new": "", "add": " to {body}", "cut": " from {body}", "intersect": " with {body}"}


class Shaping(Step):
    """A step that makes bodies of outlines. `also` are further bodies: joined to the first by what is added, cut or
    intersected like it.
    """

    result: Result = "new"
    body: MetBody = None
    also: FurtherBodies = ()

    @property
    def repeats(self) -> bool:
        return self.result in ("add", "cut")

    def spec_of(self, path: str) -> FieldSpec:
        """What is not filled is drawn along a line: no areas are chosen then."""
        line = path == "profile" and getattr(self, "fill", "filled") != "filled"
        return FieldSpec("line") if line else super().spec_of(path)

    def onto(self) -> str:
        """The end of the sentence: what becomes of the shape."""
        return f", {{result}}{_ONTO[self.result]}{'' if self.result == 'new' else '{also}'}"

    def drawn_on(self, before: Before) -> PlanePick | None:
        """The plane out of which it is raised, if it has a `direction` to be raised in."""
        return None

    def along_with(self, path: str, value: Any, before: Before) -> dict[str, Any]:
        """What lies on a face is added outwards and cut inwards: so its direction turns with the result."""
        plane = self.drawn_on(before)
        natural = {True: "down", False: "up"}
        if path != "result" or plane is None or plane.face is None:
            return {}
        stands = getattr(self, "direction", "") == natural[self.result == "cut"]
        return {"direction": natural[value == "cut"]} if stands else {}

    def meant(self, at: Builder, among: Sequence[Entry]) -> Entry | None:
        """The body that the sketch, or the plane it begins in, was picked on; else the newest that lies along it."""
        own = [entry for entry in among if entry.role != "linked"] or list(among)
        lying = at.lying()
        if lying is not None:
            return lying if lying.role != "linked" or own == list(among) else None
        outline = at.outline()
        met = [entry for entry in own if outline is None or _along(outline, kernel.measure.loose_box(entry.body.solid))]
        entry = (met or own)[-1]
        at.note(f"{entry.name} is meant, the newest{' it meets' if met else '; it meets none'}")
        return entry

    def targets(self, at: Builder) -> list[Entry]:
        """The bodies that are about to be changed: none for a new one."""
        if self.result == "new":
            return []
        return several(at.target, at.target(self.body), self.also)

    def combine(self, at: Builder, targets: Sequence[Entry], tools: Tools, field: str = "profile") -> None:
        """Write `tools` (each with the lasting key of its outline) as bodies, or use them on `targets`."""
        if not targets:
            for key, tool in tools:
                at.new(tool, "part", self.name or "Body", key if len(tools) > 1 else "")
            return
        bodies = [tool for _, tool in tools]
        first, *others = targets
        if self.result == "add":
            joined = [*bodies, *(entry.body for entry in others)]
            made = at.kernel(field, kernel.boolean.fuse, first.body.solid, [tool.solid for tool in joined])
            at.replace(first, at.named(made, first.body, *joined))
            for entry in others:
                at.remove(entry)
        else:
            for entry in targets:
                self._reduce(at, entry, bodies, field)
        if self.result == "add" or self.result == "cut":
            at.did(self.result, first, bodies)

    def _reduce(self, at: Builder, entry: Entry, bodies: Sequence[Body], field: str) -> None:
        verb = kernel.boolean.cut if self.result == "cut" else kernel.boolean.shared
        made = at.kernel(field, verb, entry.body.solid, [body.solid for body in bodies])
        if len(made) != 1:
            words = f"What {entry.name} shares with the outline falls into {len(made)} pieces."
            at.fail(field, words, "Move it so that one is left, or split the body first.")
        at.replace(entry, at.named(made[0], entry.body, *bodies))


def _along(outline: tuple[Frame, Sequence[Point2]], box: Box) -> bool:
    """Whether a box lies over or under an outline, seen along the normal of its plane."""
    frame, points = outline
    if not points:
        return True
    shadow = [frame.flat(corner) for corner in box.corners]
    return all(
        min(p[i] for p in points) < max(s[i] for s in shadow) and max(p[i] for p in points) > min(s[i] for s in shadow)
        for i in (0, 1)
    )


def open_chain(at: Builder, field: str, sketch: SketchEntry) -> list[Curve2]:
    """The open chain a sketch holds, for walls and surfaces along it; a closed outline will not do."""
    return at.kernel(field, path, sketch.curves)


def newest_sketches(before: Before, count: int, word: str, or_else: str = "") -> list[str]:
    """Ids of the last `count` sketches. DocumentError if a document has fewer, saying what the `word` needs, `or_else`."""
    sketches = [step.id for step in before.steps if step.type == "sketch"]
    if len(sketches) < count:
        need = "a sketch" if count == 1 else f"{count} sketches on different planes"
        need += f", or {or_else}" if or_else else ""
        raise DocumentError(f"{word} needs {need}.", "Add what is missing first.")
    return sketches[-count:]


def ends_loose(step: Step) -> bool:
    """Whether a sketch's drawn curves leave ends that meet no other: then it is more likely a path than an outline."""
    ends: Counter[str] = Counter()
    for entity in getattr(step, "entities", {}).values():
        if not entity.construction:
            ends.update(name for name in (getattr(entity, "a", None), getattr(entity, "b", None)) if isinstance(name, str))
    return any(count == 1 for count in ends.values())


def usual_result(before: Before) -> Result:
    """What a new step most likely does: add to the body there is, or make the first one."""
    # What is linked belongs to another document: what is built beside it is a body of its own.
    return "add" if any(getattr(step, "result", "") == "new" or _is_filed(step) for step in before.steps) else "new"


def _is_filed(step: Step) -> bool:
    """Whether a step brings in solids of a file; a mesh is nothing that could be added to."""
    return step.type == "import" and step.held("taken") != "as mesh"
