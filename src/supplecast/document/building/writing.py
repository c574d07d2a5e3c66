"""Writing: bodies, sketches and datums, and what is said of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, Literal

from supplecast.curves import Curve2, Region
from supplecast.document.building.base import Base
from supplecast.document.building.carried import since
from supplecast.document.coat import Coat, Motion
from supplecast.document.keys import digest, steps_ahead
from supplecast.document.state import Datum, Delta, Effect, Entry, Flag, Reading, Role, SketchEntry, Travel
from supplecast.geometry import Frame, Vec
from supplecast.naming import Body
from supplecast.tooling.stock import Stock


class Writing(Base):
    """The half of a builder that changes the document."""

    def new(
        self,
        body: Body,
        role: Role,
        name: str,
        suffix: str = "",
        pull: Vec | None = None,
        group: tuple[str, ...] = (),
        stock: Stock | None = None,
    ) -> None:
        body_id = f"{self.step.id}.{suffix}" if suffix else self.step.id
        moved = self._moved(body)
        self._bodies[body_id] = Entry(body_id, name, role, body, self._key(body_id), pull, group, stock, moved)

    def replace(self, entry: Entry, body: Body, role: Role | None = None, pull: Vec | None = None, name: str = "") -> None:
        key = self._key(entry.id)
        self._bodies[entry.id] = Entry(
            entry.id, name or entry.name, role or entry.role, body, key, pull or entry.pull, entry.group, entry.stock,
            self._moved(body),
        )  # fmt: skip

    def wear(self, entry: Entry, faces: Sequence[int], coat: Coat) -> None:
        mark, worn = f"{self.step.id}.coat", set(faces)
        body = entry.body
        tags = tuple((*row, mark) if face in worn else row for face, row in enumerate(body.tags))
        names = sorted("\x1f".join(body.names[face]) for face in worn)
        key = digest(entry.key, mark, *names)
        self._bodies[entry.id] = replace(entry, body=Body(body.solid, tags), key=key)
        if coat not in self._coats:
            self._coats.append(coat)

    def _moved(self, body: Body) -> tuple[tuple[str, Motion], ...]:
        """How a written body has gone since prints were laid on it: as it was carried, after what its source had gone."""
        if not body.coats:
            return ()
        return since(body, [*self.state.bodies.values(), *self._brought])

    def written(self, entry: Entry) -> Entry:
        return self._bodies.get(entry.id, entry)

    def ahead(self, kind: str) -> int:
        count = steps_ahead(self.steps, self.step.id, kind)
        self._note_read("ahead", f"{self.step.id} {kind}", str(count))
        return count

    def spend(self, tools: Sequence[Entry], keep: bool) -> None:
        if not keep:
            self.note(f"Used up: {', '.join(tool.name for tool in tools)}.")
            for tool in tools:
                self.remove(tool)

    def remove(self, entry: Entry) -> None:
        self._gone.append(entry.id)

    def drawn(self, frame: Frame, regions: Sequence[Region], curves: Sequence[Curve2], freedoms: int, **more: Any) -> None:
        key = self._key("sketch")
        self._sketches.append(
            SketchEntry(self.step.id, more.pop("name"), frame, tuple(regions), tuple(curves), freedoms, key=key, **more)
        )

    def place(self, kind: Literal["plane", "axis", "point"], frame: Frame) -> None:
        name = self.step.name or self.step.word
        self._datums.append(Datum(self.step.id, name, kind, frame, self._key("datum")))

    def did(self, how: Literal["add", "cut"], target: Entry, tools: Sequence[Body], bores: Sequence[Body] = ()) -> None:
        self._effect = Effect(target.id, how, (*tools, *bores), self._key("effect"), len(bores))

    def dressed(self, target: Entry) -> None:
        self._effect = Effect(target.id, "dress", (), self._key("effect"))

    def caution(self, field: str, words: str) -> None:
        self.flags.append(Flag(field, 0, "caution", words))

    def note(self, words: str) -> None:
        self.notes.append(words)

    def reading(self, words: str, value: float, most: float) -> None:
        state: Literal["good", "near", "over"] = "good" if value <= most else "near" if value <= 1.15 * most else "over"
        self.readings.append(Reading(words, state))

    def figure(self, name: str, value: float) -> None:
        self.figures[name] = value

    def travels(self, travel: Travel) -> None:
        self.travel = travel

    def lines(self, lines: Sequence[Sequence[Vec]]) -> None:
        self.drawn_lines = tuple(tuple(line) for line in lines)

    def _key(self, what: str) -> str:
        return digest(self._step_key, what, *("|".join(read) for read in self.reads))

    def delta(self) -> Delta:
        bodies = tuple(self._bodies.values())
        sketches, datums = tuple(self._sketches), tuple(self._datums)
        return Delta(bodies, tuple(self._gone), sketches, datums, self._effect, tuple(self._coats))
