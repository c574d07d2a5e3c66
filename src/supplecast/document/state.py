"""What a document has become after a number of steps: bodies and sketches, each with the key of its making."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from supplecast.geometry import Curve2, Frame, Region, Vec
from supplecast.naming import Body

Role = Literal["part", "block", "cavity", "core", "insert", "feed", "linked", "shot"]
Status = Literal["ok", "failed", "skipped", "held"]


@dataclass(frozen=True, eq=False)
class Entry:
    """A body in the document. `key` is a hash of everything that went into making it; `pull` the mold's opening."""

    id: str
    name: str
    role: Role
    body: Body
    key: str
    pull: Vec | None = None


@dataclass(frozen=True, eq=False)
class SketchEntry:
    """A solved sketch in space."""

    id: str
    name: str
    frame: Frame
    regions: tuple[Region, ...]
    curves: tuple[Curve2, ...]
    freedoms: int
    key: str


@dataclass(frozen=True)
class Delta:
    """What one step changed: bodies and sketches written, and bodies taken away."""

    bodies: tuple[Entry, ...] = ()
    gone: tuple[str, ...] = ()
    sketches: tuple[SketchEntry, ...] = ()


@dataclass(frozen=True)
class Outcome:
    """How one step fared. `field`, `message` and `hint` tell of a failure; `flags` are picks that need a look."""

    step: str
    status: Status
    ms: float = 0.0
    field: str = ""
    message: str = ""
    hint: str = ""
    notes: tuple[str, ...] = ()
    flags: tuple[str, ...] = ()
    figures: Mapping[str, float] = dataclasses.field(default_factory=dict)
    reused: bool = False


@dataclass(frozen=True)
class State:
    """Bodies and sketches after the steps so far; never changed, only replaced.

    `last_good` holds the last sound shape of bodies that a failed step would have changed, for showing only.
    """

    bodies: Mapping[str, Entry] = dataclasses.field(default_factory=dict)
    sketches: Mapping[str, SketchEntry] = dataclasses.field(default_factory=dict)
    last_good: Mapping[str, Entry] = dataclasses.field(default_factory=dict)

    def after(self, delta: Delta) -> State:
        bodies = {key: entry for key, entry in self.bodies.items() if key not in delta.gone}
        bodies.update((entry.id, entry) for entry in delta.bodies)
        sketches = {**self.sketches, **{entry.id: entry for entry in delta.sketches}}
        return replace(self, bodies=bodies, sketches=sketches)

    def shown(self) -> Mapping[str, Entry]:
        """Bodies to show: the true ones, with the last good shapes standing in for what could not be built."""
        return {**self.bodies, **self.last_good}
