"""What a rebuild remembers, put on disk: a worker that starts anew takes its shapes from there instead of making them.

For each document one JSON file lists the latest good trace of every step; the shapes lie beside it, named by what made
them. All of it can be thrown away: whatever is missing or damaged is built again.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

from pydantic import ConfigDict, Discriminator, TypeAdapter, ValidationError

from supplecast import kernel
from supplecast.atomic import write_atomically
from supplecast.document.coat import Coat, Motion
from supplecast.document.keys import Read, digest
from supplecast.document.rebuild import Built, Memory, Trace
from supplecast.document.state import Datum, Delta, Effect, Entry, Outcome, Role, SketchEntry
from supplecast.errors import KernelError
from supplecast.geometry import Box, Mass, Vec
from supplecast.naming import Body
from supplecast.tooling.stock import Stock

_VERSION = 12
Tags = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class StoredBody:
    """An `Entry`; its shape lies in the file `shape`. Mass and box, if they were known."""

    id: str
    name: str
    role: Role
    key: str
    pull: Vec | None
    tags: Tags
    shape: str
    mass: Mass | None
    box: Box | None
    group: tuple[str, ...]
    stock: Stock | None
    moved: tuple[tuple[str, Motion], ...]


@dataclass(frozen=True)
class StoredEffect:
    """An `Effect`; its tools, if it took any, lie together in the file `shapes`, and `tags` has a row for each."""

    target: str
    how: Literal["add", "cut", "dress"]
    key: str
    bores: int
    tags: tuple[Tags, ...]
    shapes: str


@dataclass(frozen=True)
class StoredTrace:
    """A `Trace`, its shapes by the names of their files. Members that a type does not know are refused, also in what it holds,
    so that an arc is never taken for a circle.
    """

    __pydantic_config__: ClassVar[ConfigDict] = ConfigDict(extra="forbid")

    key: str
    reads: tuple[Read, ...]
    targets: tuple[str, ...]
    outcome: Outcome
    bodies: tuple[StoredBody, ...]
    gone: tuple[str, ...]
    sketches: tuple[SketchEntry, ...]
    datums: tuple[Datum, ...]
    effect: StoredEffect | None
    coats: tuple[Annotated[Coat, Discriminator("what")], ...]

    @property
    def files(self) -> set[str]:
        """Names of the shape files it speaks of."""
        return {body.shape for body in self.bodies} | ({self.effect.shapes} if self.effect and self.effect.shapes else set())


_traces: TypeAdapter[StoredTrace] = TypeAdapter(StoredTrace)
_masses: TypeAdapter[Mass] = TypeAdapter(Mass)


def memory_name(document: str) -> str:
    return f"{digest('memory', document)}.memory"


def keep(built: Built, document: str, blobs: Path) -> int:
    """Put the traces that a build used on the shelf; returns how many shapes were written anew."""
    rows, written = {}, 0
    for outcome in built.outcomes:
        trace = built.traces.get(outcome.step)
        if trace is None or outcome.status != "ok":
            continue
        for entry in trace.delta.bodies:
            place = blobs / _shape_name(entry.body, entry.key)
            if not place.exists():
                write_atomically(place, sealed(kernel.blob.packed(entry.body.solid)))
                written += 1
        effect = trace.delta.effect
        if effect is not None and effect.tools and not (place := blobs / _tools_name(effect)).exists():
            write_atomically(place, sealed(kernel.blob.bundled([tool.solid for tool in effect.tools])))
            written += 1
        rows[outcome.step] = _traces.dump_python(_stored(trace), mode="json")
    text = json.dumps({"version": _VERSION, "steps": rows}, separators=(",", ":"))
    write_atomically(blobs / memory_name(document), sealed(text.encode()))
    return written


def recall(document: str, blobs: Path) -> Memory:
    """What was remembered of a document; empty if nothing sound is there."""
    memory = Memory()
    for step, row in traces_of(blobs / memory_name(document)).items():
        try:
            memory.keep(step, _trace(row, blobs))
        except ValueError:
            continue
    return memory


def traces_of(path: Path) -> Mapping[str, StoredTrace]:
    """The sound traces in a memory file by their step; none if it is damaged or of another version."""
    content = opened(path)
    data: dict[str, Any] = json.loads(content) if content else {}
    traces = {}
    for step, row in data["steps"].items() if data.get("version") == _VERSION else ():
        try:
            traces[step] = _traces.validate_python(row)
        except ValidationError:
            continue
    return traces


def opened(path: Path) -> bytes | None:
    """What a sealed file holds; None if it is missing, cut short or damaged."""
    try:
        content = path.read_bytes()
    except OSError:
        return None
    seal, inside = content[:32], content[32:]
    return inside if hashlib.sha256(inside).digest() == seal else None


def sealed(content: bytes) -> bytes:
    """A file that tells whether it is whole (`opened`)."""
    return hashlib.sha256(content).digest() + content


def keep_mass(entry: Entry, blobs: Path) -> None:
    """Put a body's exact mass on the shelf: whoever takes the body from there need not integrate it again."""
    known = kernel.measure.MASS.known(entry.body.solid)
    place = blobs / _mass_name(entry)
    if known is not None and not place.exists():
        write_atomically(place, sealed(_masses.dump_json(known)))


def recall_mass(entry: Entry, blobs: Path) -> None:
    """Let a body know its exact mass, if the shelf does."""
    content = opened(blobs / _mass_name(entry))
    if content is not None and kernel.measure.MASS.known(entry.body.solid) is None:
        kernel.measure.MASS.keep(entry.body.solid, _masses.validate_json(content))


def _mass_name(entry: Entry) -> str:
    return f"{digest('mass 1', entry.key)}.mass"


def _shape_name(body: Body, key: str) -> str:
    """Faces may be numbered otherwise in another process, so their order is part of the name."""
    order = "\x1e".join("\x1f".join(tags) for tags in body.tags)
    return f"{digest(key, order, 'shape 1')}.shape"


def _tools_name(effect: Effect) -> str:
    order = "\x1d".join("\x1e".join("\x1f".join(tags) for tags in tool.tags) for tool in effect.tools)
    return f"{digest(effect.key, order, 'tools 1')}.shape"


def _stored(trace: Trace) -> StoredTrace:
    delta = trace.delta
    return StoredTrace(
        trace.step_key,
        trace.reads,
        trace.targets,
        trace.outcome,
        tuple(_stored_body(entry) for entry in delta.bodies),
        delta.gone,
        delta.sketches,
        delta.datums,
        _stored_effect(delta.effect) if delta.effect else None,
        delta.coats,
    )


def _stored_body(entry: Entry) -> StoredBody:
    return StoredBody(
        entry.id,
        entry.name,
        entry.role,
        entry.key,
        entry.pull,
        entry.body.tags,
        _shape_name(entry.body, entry.key),
        kernel.measure.MASS.known(entry.body.solid),
        kernel.measure.BOX.known(entry.body.solid),
        entry.group,
        entry.stock,
        entry.moved,
    )


def _stored_effect(effect: Effect) -> StoredEffect:
    tags = tuple(tool.tags for tool in effect.tools)
    return StoredEffect(effect.target, effect.how, effect.key, effect.bores, tags, _tools_name(effect) if tags else "")


def _trace(row: StoredTrace, blobs: Path) -> Trace:
    """The trace with its shapes. ValueError if one of them is gone or damaged."""
    bodies = tuple(_entry(body, blobs) for body in row.bodies)
    effect = _effect(row.effect, blobs) if row.effect else None
    delta = Delta(bodies, row.gone, row.sketches, row.datums, effect, row.coats)
    return Trace(row.key, row.reads, delta, row.outcome, row.targets)


def _entry(stored: StoredBody, blobs: Path) -> Entry:
    try:
        solid = kernel.blob.stored(_content(stored.shape, blobs))
    except KernelError as fault:
        raise ValueError(fault.message) from fault
    if stored.mass:
        kernel.measure.MASS.keep(solid, stored.mass)
    if stored.box:
        kernel.measure.BOX.keep(solid, stored.box)
    body = Body(solid, stored.tags)
    where = (stored.pull, stored.group, stored.stock, stored.moved)
    return Entry(stored.id, stored.name, stored.role, body, stored.key, *where)


def _effect(stored: StoredEffect, blobs: Path) -> Effect:
    solids = kernel.blob.Bundle(_content(stored.shapes, blobs), len(stored.tags)) if stored.shapes else ()
    return Effect(stored.target, stored.how, _Tools(solids, stored.tags), stored.key, stored.bores)


class _Tools(Sequence[Body]):
    """The tools of an effect, unpacked when one is first needed."""

    def __init__(self, solids: Sequence[Any], tags: Sequence[Tags]) -> None:
        self._solids, self._tags = solids, tags

    def __len__(self) -> int:
        return len(self._tags)

    def __getitem__(self, index: Any) -> Any:
        if isinstance(index, slice):
            return [self[i] for i in range(*index.indices(len(self)))]
        return Body(self._solids[index], self._tags[index])


def _content(name: str, blobs: Path) -> bytes:
    content = opened(blobs / name)
    if content is None:
        raise ValueError("a stored shape is gone or damaged")
    return content
