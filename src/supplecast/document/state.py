"""What a document has become after a number of steps: bodies and sketches, each with the key of its making."""

from __future__ import annotations

import dataclasses
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

from supplecast.curves import Curve2, Region
from supplecast.document.coat import Coat, Motion
from supplecast.geometry import Frame, Point2, Vec
from supplecast.naming import Body
from supplecast.tooling.stock import Stock

Role = Literal[
    "part", "block", "cavity", "core", "cavity insert", "core insert", "slide", "core slide", "insert", "ejector", "feed",
    "linked", "molded", "shot", "surface", "mesh", "neighbour", "fixed base", "moving base", "ejection", "core pin", "lifter",
    "stripper",
]  # fmt: skip
PARTS: tuple[Role, ...] = ("molded", "linked", "part")
"""What a tool molds: at its places, linked, or a part of its own."""
SLIDES: tuple[Role, ...] = ("slide", "core slide")
"""What leaves sideways: in the cavity half, and on the core half."""
STEEL: tuple[Role, ...] = (
    "cavity", "core", "cavity insert", "core insert", "slide", "core slide", "insert", "ejector", "block",
    "fixed base", "moving base", "ejection", "core pin", "lifter", "stripper",
)  # fmt: skip
"""What a tool is made of."""
BESIDE: tuple[Role, ...] = ("mesh", "neighbour")
"""What stands beside a part without being of it."""

Status = Literal["ok", "failed", "skipped", "held"]


@dataclass(frozen=True, eq=False)
class Entry:
    """A body in the document. `key` is a hash of everything that went into making it; `pull` the mold's opening; `group` the
    assemblies it is in, the outermost first; `stock` what it is ordered as, for components of a tool. `moved` says how the body
    has gone since a print was laid on its faces, by the print's mark.
    """

    id: str
    name: str
    role: Role
    body: Body
    key: str
    pull: Vec | None = None
    group: tuple[str, ...] = ()
    stock: Stock | None = None
    moved: tuple[tuple[str, Motion], ...] = ()

    def called(self, name: str) -> Entry:
        """The same body under another name."""
        return dataclasses.replace(self, name=name) if name != self.name else self

    @property
    def is_solid(self) -> bool:
        """Whether it encloses a volume by exact faces, as neither a surface nor a mesh does."""
        return self.body.solid.closed

    @property
    def is_own(self) -> bool:
        """Whether it is a solid of this document, and not only seen in it."""
        return self.is_solid and self.role not in BESIDE

    @property
    def is_mesh(self) -> bool:
        return self.body.solid.of_triangles

    @cached_property
    def stamp(self) -> str:
        return f"{self.id}={self.key}"


@dataclass(frozen=True)
class OpenOutline:
    """Why a sketch bounds no area, and what to do about it."""

    message: str
    hint: str


@dataclass(frozen=True, eq=False)
class SketchEntry:
    """A solved sketch in space. `fault` says why it bounds no area, where it does not; it may still serve as a path.

    `loose` names the entities that can still move, `filled` the areas that “all” stands for, `taken` where the points of what
    was taken from the model lie; `guides` are its construction curves, `marks` its points that no curve stands on.
    """

    id: str
    name: str
    frame: Frame
    regions: tuple[Region, ...]
    curves: tuple[Curve2, ...]
    freedoms: int
    lineage: Mapping[str, tuple[str, ...]]
    key: str
    fault: OpenOutline | None = None
    loose: frozenset[str] = frozenset()
    filled: frozenset[str] = frozenset()
    taken: Mapping[str, Point2] = field(default_factory=dict)
    guides: tuple[Curve2, ...] = ()
    marks: Mapping[str, Point2] = field(default_factory=dict)


@dataclass(frozen=True)
class Datum:
    """A plane, an axis or a point to build on. `frame` is the plane; an axis runs along its normal; a point is its origin."""

    id: str
    name: str
    kind: Literal["plane", "axis", "point"]
    frame: Frame
    key: str


@dataclass(frozen=True, eq=False)
class Effect:
    """What a step did to a body with tools of its own, kept so that a pattern or mirror can do it again elsewhere. The last
    `bores` of the tools are cut after the others were added. What was dressed, rounded or bevelled that is, took no tools.
    """

    target: str
    how: Literal["add", "cut", "dress"]
    tools: Sequence[Body]
    key: str
    bores: int = 0


@dataclass(frozen=True)
class Delta:
    """What one step changed: what it wrote, bodies it took away, with which tools, and what it put on faces."""

    bodies: tuple[Entry, ...] = ()
    gone: tuple[str, ...] = ()
    sketches: tuple[SketchEntry, ...] = ()
    datums: tuple[Datum, ...] = ()
    effect: Effect | None = None
    coats: tuple[Coat, ...] = ()


@dataclass(frozen=True)
class Repair:
    """What may take a flagged pick's place: references as JSON, and what to call it. No picks: the pick is dropped."""

    words: str
    picks: tuple[Mapping[str, Any], ...]


@dataclass(frozen=True)
class Flag:
    """A pick that needs a look: number `index` of a field, how it was found again, and what could be done."""

    field: str
    index: int
    status: str
    words: str
    repairs: tuple[Repair, ...] = ()


@dataclass(frozen=True)
class Reading:
    """A figure that a step shows in its own sentence, with how it stands against the rule it is held to."""

    words: str
    state: Literal["good", "near", "over"]


@dataclass(frozen=True)
class Handle:
    """Where a number of a step can be taken hold of in the view.

    A length reaches from `origin` along the unit vector `direction`, `rate` mm for each mm typed; an angle turns about the axis
    `direction` through `origin`, from where `arm` points. `value` is in mm or rad, `least` says how small it may be; `ghost`
    are lines that go along.
    """

    field: str
    kind: Literal["length", "angle"]
    origin: Vec
    direction: Vec
    value: float
    least: Literal["any", "zero", "positive"] = "any"
    rate: float = 1.0
    arm: Vec = (0.0, 0.0, 0.0)
    ghost: tuple[tuple[Vec, ...], ...] = ()


@dataclass(frozen=True)
class Travel:
    """The way that a `body` goes: `far` mm along the unit vector `direction`, or `far` rad about the axis through `origin`. It
    is `free` for so much of it, before it meets what is called `meets`; blank if it meets nothing.
    """

    body: str
    kind: Literal["slide", "turn"]
    origin: Vec
    direction: Vec
    far: float
    free: float
    meets: str = ""


@dataclass(frozen=True)
class Outcome:
    """How one step fared. `field`, `message` and `hint` tell of a failure; `flags` are picks that need a look.

    `culprits` are references to the faces or edges at fault; `sized` says that a smaller value in the field may fit; `lines`
    are drawn in the view while the step is being worked on, and `handles` can be dragged there;
    `offers` are bodies, by id and name, that the step could take instead; `travel` is shown in the view along with it.
    """

    step: str
    status: Status
    ms: float = 0.0
    field: str = ""
    message: str = ""
    hint: str = ""
    notes: tuple[str, ...] = ()
    readings: tuple[Reading, ...] = ()
    flags: tuple[Flag, ...] = ()
    culprits: tuple[Mapping[str, Any], ...] = ()
    sized: bool = False
    figures: Mapping[str, float] = dataclasses.field(default_factory=dict)
    lines: tuple[tuple[Vec, ...], ...] = ()
    handles: tuple[Handle, ...] = ()
    offers: tuple[tuple[str, str], ...] = ()
    travel: Travel | None = None
    reused: bool = False


@dataclass
class State:
    """Bodies and sketches after the steps so far, growing as steps are taken in.

    `names` are what bodies were given by hand, and from which step on, empty for always; `called` what each body was last
    called, those used up too; `renamed` what bodies were called before the steps from which on they have another name;
    `last_good` holds
    the last sound shape of bodies that a failed step would have changed, for showing only; `trail` every shape each body has
    had, with the step that gave it, so that a lost pick can be told from where it was last seen. `_taken` counts the names in
    use, `_tried` is where the search for a free number goes on: with hundreds of bodies it would cost more than the steps.
    """

    bodies: dict[str, Entry] = dataclasses.field(default_factory=dict)
    sketches: dict[str, SketchEntry] = dataclasses.field(default_factory=dict)
    datums: dict[str, Datum] = dataclasses.field(default_factory=dict)
    effects: dict[str, Effect] = dataclasses.field(default_factory=dict)
    coats: dict[str, Coat] = dataclasses.field(default_factory=dict)
    names: Mapping[str, tuple[str, str]] = dataclasses.field(default_factory=dict)
    renamed: list[tuple[str, str, str]] = dataclasses.field(default_factory=list)
    called: dict[str, str] = dataclasses.field(default_factory=dict)
    last_good: dict[str, Entry] = dataclasses.field(default_factory=dict)
    trail: list[tuple[str, Delta]] = dataclasses.field(default_factory=list)
    _taken: Counter[str] = dataclasses.field(default_factory=Counter, init=False)
    _begun: set[str] = dataclasses.field(default_factory=set, init=False)
    _tried: dict[str, int] = dataclasses.field(default_factory=dict, init=False)

    def take(self, delta: Delta, step: str) -> None:
        """Take in what a step changed."""
        for name in delta.gone:
            self._release(self.bodies.pop(name, None))
        for entry in delta.bodies:
            self._name(entry)
        for body, (_, since) in self.names.items():
            if since == step and body in self.bodies:
                before = self.bodies[body]
                self._begun.add(body)
                self._name(before)
                self.renamed.append((step, body, before.name))
        self.sketches.update((entry.id, entry) for entry in delta.sketches)
        self.datums.update((datum.id, datum) for datum in delta.datums)
        if delta.effect is not None:
            self.effects[step] = delta.effect
        self.coats.update((coat.step, coat) for coat in delta.coats)
        self.trail.append((step, delta))

    def _name(self, entry: Entry) -> None:
        self._release(self.bodies.get(entry.id))
        given, since = self.names.get(entry.id, ("", ""))
        if since and entry.id not in self._begun:
            given = ""
        name = self.called[entry.id] = given or self._free_name(entry.name)
        self.bodies[entry.id] = entry.called(name)
        self._taken[name] += 1

    def _release(self, entry: Entry | None) -> None:
        if entry is not None:
            self._taken[entry.name] -= 1
            self._tried.clear()

    def _free_name(self, name: str) -> str:
        """A body's name, with the lowest number that is free where another one has it already."""
        if not self._taken[name]:
            return name
        number = self._tried.get(name, 2)
        while self._taken[f"{name} {number}"]:
            number += 1
        self._tried[name] = number
        return f"{name} {number}"

    def bodies_key(self) -> str:
        """Which bodies there are, and what made them."""
        return ",".join([entry.stamp for entry in self.bodies.values()])

    def shown(self) -> Mapping[str, Entry]:
        """Bodies to show: the true ones, with the last good shapes standing in for what could not be built."""
        return {**self.bodies, **self.last_good}
