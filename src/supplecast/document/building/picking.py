"""Picking: where planes, axes, points, faces and edges that a step names are found now, and how sure that is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from supplecast.document import placing
from supplecast.document.builder import Blocked
from supplecast.document.building.reading import Reading
from supplecast.document.fields import PlanePick, Profile
from supplecast.document.keys import order_key
from supplecast.document.mend import lost_to, repairs
from supplecast.document.state import Entry, Flag
from supplecast.document.words import pick_words
from supplecast.errors import StepError
from supplecast.geometry import Axis, Frame, Point2, Vec
from supplecast.naming import STOPPING, Body, EdgeRef, FaceRef, Resolution, Rule, resolve, resolve_edges, resolve_faces
from supplecast.naming.tag import made_by, maker

if TYPE_CHECKING:
    from supplecast.kernel.measuring.gauge import Thing


class Picking(Reading):
    """A builder that also finds again what was picked."""

    def frame(self, field: str) -> Frame:
        return placing.plane(self, field, self.step.held(field))

    def axis(self, field: str) -> Axis:
        return placing.axis(self, field, self.step.held(field))

    def spots(self, field: str) -> list[Vec]:
        held = self.step.held(field)
        picks = held if isinstance(held, tuple) else [held] if held is not None else []
        return [placing.spot(self, field, pick, index) for index, pick in enumerate(picks)]

    def things(self, field: str) -> list[Thing]:
        from supplecast.kernel.measuring.gauge import Thing

        picked = []
        for index, pick in enumerate(self.step.held(field)):
            if isinstance(pick, FaceRef):
                entry, face = self.face(pick, field, index)
                picked.append(Thing(entry.body.solid, face=face))
            elif isinstance(pick, EdgeRef):
                entry, edge = self.one_edge(pick, field, index)
                picked.append(Thing(edge=edge, solid=entry.body.solid))
            else:
                picked.append(Thing(point=placing.spot(self, field, pick, index)))
        return picked

    def face(self, reference: FaceRef | Rule, field: str, index: int = 0) -> tuple[Entry, int]:
        entry, faces = self.resolved(reference, field, index)
        if len(faces) > 1:
            how = "The rule catches" if isinstance(reference, Rule) else "The picked face has come apart into"
            self.fail(field, f"{how} {len(faces)} faces; one is needed.", "Pick the one that is meant.")
        return entry, faces[0]

    def only_face(self, field: str, hint: str) -> tuple[Entry, int]:
        picks = self.step.held(field)
        if len(picks) != 1:
            self.fail(field, f"One face is needed; {len(picks)} are picked.", hint)
        return self.face(picks[0], field)

    def one_edge(self, reference: EdgeRef, field: str, index: int = 0) -> tuple[Entry, int]:
        entry, edges = self.resolved(reference, field, index)
        if len(edges) > 1:
            self.fail(field, f"The picked edge has come apart into {len(edges)}.", "Pick the one that is meant.")
        return entry, edges[0]

    def resolved(
        self, pick: FaceRef | EdgeRef | Rule, field: str, index: int = 0, *, whole: bool = False
    ) -> tuple[Entry, tuple[int, ...]]:
        entry = self._holder(pick, field)
        resolution = resolve(entry.body, pick)
        if whole and resolution.status == "split":
            return entry, resolution.items
        return entry, self._taken(entry, pick, resolution, field, index)

    def faces(self, field: str, entry: Entry) -> list[int]:
        return self._all_taken(field, entry, resolve_faces)

    def edges(self, field: str, entry: Entry) -> list[int]:
        return self._all_taken(field, entry, resolve_edges)

    def seek_edge(self, reference: EdgeRef, field: str) -> tuple[Entry, int] | None:
        try:
            entry = self._holder(reference, field)
        except StepError:
            return None
        resolution = resolve_edges(entry.body, reference)
        return (entry, resolution.items[0]) if resolution.status not in STOPPING and len(resolution.items) == 1 else None

    def _meant(self, among: Sequence[Entry]) -> Entry | None:
        return self.step.meant(self, among)

    def lying(self) -> Entry | None:
        own = [self.step.held(name) for name in self._fields("plane")]
        drawn = [getattr(step, "on", None) for step in self.steps if step.id == self._sketch_id()]
        for pick in (*own, *drawn):
            if isinstance(pick, PlanePick) and pick.face is not None:
                try:
                    return self._holder(pick.reference(), "body")
                except StepError:
                    continue  # the body is gone by now
        return None

    def outline(self) -> tuple[Frame, Sequence[Point2]] | None:
        sketch_id = self._sketch_id()
        if sketch_id is None:
            return None
        sketch = self.sketch(sketch_id, "body")
        curved = [(float(x), float(y)) for curve in sketch.curves for x, y in curve.sampled(16)]
        return sketch.frame, [*curved, *sketch.marks.values()]

    def _sketch_id(self) -> str | None:
        """The sketch that the step is drawn in."""
        held = [self.step.held(name) for name in self._fields("profile", "line", "sketch")]
        sketches = (pick.sketch if isinstance(pick, Profile) else pick for pick in held)
        return next((sketch for sketch in sketches if isinstance(sketch, str)), None)

    def _fields(self, *kinds: str) -> list[str]:
        """The step's fields of some kinds."""
        return [name for name in type(self.step).model_fields if self.step.spec(name).kind in kinds]

    def _all_taken(self, field: str, entry: Entry, resolve: Callable[[Body, Any], Resolution]) -> list[int]:
        """What the picks of a field lead to, each once, in their order."""
        taken: dict[int, None] = {}
        for index, pick in enumerate(self.step.held(field)):
            taken.update(dict.fromkeys(self._taken(entry, pick, resolve(entry.body, pick), field, index)))
        return list(taken)

    def need_picks(self, field: str, hint: str) -> None:
        if self.step.held(field):
            return
        if not self.bodies():
            self.body(None, field)  # which says that there is none yet
        self.fail(field, f"No {self.step.spec_of(field).kind.removesuffix('s')} is picked.", hint)

    def holder(self, field: str, body_id: str | None, *, changes: bool = True) -> Entry:
        picks: Sequence[FaceRef | EdgeRef | Rule] = self.step.held(field)
        if "body" not in type(self.step).model_fields:
            self.need_picks(field, f"Click the {self.step.spec_of(field).kind} in the view.")
        entry = self._holder(picks[0], field) if body_id is None and picks else self.body(body_id)
        entry = self.exact(entry, "body" if "body" in type(self.step).model_fields else field)
        if changes:
            self.targets.append(entry.id)
        return entry

    def _holder(self, pick: FaceRef | EdgeRef | Rule, field: str) -> Entry:
        """The body a pick speaks of: the one it names, else the only one that carries its first tag."""
        if pick.body is not None:
            return self.body(pick.body, field)
        names = pick.names() if isinstance(pick, Rule) else [pick.face] if isinstance(pick, FaceRef) else list(pick.edge)
        if not names:  # a rule such as “convex” speaks of whatever body there is
            return self.body(None, field)
        name = names[0]
        holders = [
            entry for entry in self.bodies() if name in entry.body.faces_by_tag or made_by(tuple(entry.body.faces_by_tag), name)
        ]
        if len(holders) == 1:
            return holders[0]
        if not holders:
            step = maker(name)
            if step in self.invalidated:
                raise Blocked(self.invalidated[step])
            only = self.state.bodies
            if len(only) == 1:
                return next(iter(only.values()))
            self.fail(field, f"What was picked no longer exists: {pick_words(pick, self.steps)}.", "Pick it again.")
        parts = [entry for entry in holders if entry.role in ("part", "linked")]
        if len(parts) == 1:
            return parts[0]
        listed = ", ".join(entry.name for entry in holders)
        self.fail(field, f"Several bodies carry the picked face: {listed}.", "Pick it again on the one that is meant.")

    def _taken(
        self, entry: Entry, pick: FaceRef | EdgeRef | Rule, resolution: Resolution, field: str, index: int
    ) -> tuple[int, ...]:
        """What a pick leads to, flagged with its repairs unless beyond doubt. Stops the step where nothing can be used."""
        if resolution.status == "ok":
            return resolution.items
        self._note_read("order", "", order_key(self.steps))  # the words number the steps
        words = resolution.words
        if resolution.status == "lost":
            words = f"{words} {lost_to(self.state, entry, pick, self.steps)}".strip()
        self.flags.append(Flag(field, index, resolution.status, words, repairs(entry, pick, resolution)))
        if resolution.status in STOPPING:
            which = f"Pick {index + 1}, {pick_words(pick, self.steps)}: {words}"
            self.fail(field, which, "Pick it again, or take one of the repairs.")
        return resolution.items
