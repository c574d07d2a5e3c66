"""Documents that belong together: reading their files and letting one link the bodies of another."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path

from supplecast.document.coat import Coat, under
from supplecast.document.fields import LinkPick
from supplecast.document.keys import digest
from supplecast.document.model import Document, parse_document
from supplecast.document.rebuild import Built, Memory, Progress, Seen, rebuild
from supplecast.document.state import Entry
from supplecast.errors import DocumentError

_DEEPEST = 25
_NOT_LINKED = ("surface", "neighbour")
_BROKEN = "The linked document does not build: "
_LARGEST_ASSET = 64_000_000


@dataclass
class Project:
    """Documents by id and revision, built on demand, each once.

    `revisions` maps (document id, revision) to a document; revision None is the one as it stands. `memories` lets builds
    be remembered between projects, and `recall` fetches what is remembered elsewhere. `assets` is where imported files lie,
    by their SHA-256 or their name; `stuck` names steps not to be tried.
    """

    revisions: Mapping[tuple[str, int | None], Document]
    assets: Path | None = None
    memories: dict[str, Memory] = field(default_factory=dict)
    recall: Callable[[str], Memory] = lambda document: Memory()
    stuck: Mapping[str, str] = field(default_factory=dict)
    _built: dict[tuple[str, int | None], Built] = field(default_factory=dict)
    _asking: list[str] = field(default_factory=list)

    def build(
        self, document: str, revision: int | None = None, progress: Progress | None = None, seen: Seen | None = None
    ) -> Built:
        """Build a document and, first, what it links. DocumentError for circular links or a document not at hand."""
        key = (document, revision)
        if key not in self.revisions and (document, None) in self.revisions and revision is not None:
            key = (document, None)
        cached = self.revisions.get(key)
        if cached is None:
            raise DocumentError(f"The linked document “{document}” is not at hand.", "Give it along with this one.")
        if document in self._asking:
            raise self._circle([*self._asking, document])
        if key not in self._built:
            self._asking.append(document)
            try:
                if document not in self.memories:
                    self.memories[document] = self.recall(document)
                # Only the document that was asked for reports its steps; those it links are built on the way.
                stuck = self.stuck if len(self._asking) == 1 else {}
                memory = self.memories[document]
                built = rebuild(cached, memory, outside=self, stuck=stuck, progress=progress, seen=seen)
                self._built[key] = replace(built, coats={**self._brought_along(cached), **built.coats})
            finally:
                self._asking.pop()
        return self._built[key]

    def _brought_along(self, document: Document) -> dict[str, Coat]:
        """What faces of linked bodies wear, by the link they came through."""
        coats: dict[str, Coat] = {}
        for step in document.steps:
            for pick in step.links if not step.skip else ():
                with suppress(DocumentError):  # a link that fails says so itself
                    coats |= under(step.id, self.build(pick.document, pick.revision).coats)
        return coats

    def linked(self, pick: LinkPick) -> list[Entry]:
        way = self._way_back(pick)
        if way:
            raise self._circle(way)
        if len(self._asking) > _DEEPEST:
            raise DocumentError(f"More than {_DEEPEST} documents link one another in a row.", "Link the first of them itself.")
        built = self.build(pick.document, pick.revision)
        if not built.ok:
            bad = next(o for o in built.outcomes if o.status not in ("ok", "skipped"))
            words = bad.message.removeprefix(_BROKEN)  # of a chain of links, what is wrong is said once
            raise DocumentError(f"{_BROKEN}{words}", "Open it and mend that step.")
        bodies = built.state.bodies
        here = [entry for entry in bodies.values() if entry.role != "neighbour"]
        parts = [entry for entry in here if entry.role == "part"] or here
        if not parts:
            raise DocumentError("The linked document has no body yet.", "Build a body in it first.")
        if pick.every:
            wanted = [entry.id for entry in bodies.values() if entry.role not in _NOT_LINKED]
        else:
            wanted = list(dict.fromkeys((pick.body or parts[0].id, *pick.also)))
        for body in wanted:
            if body not in bodies:
                words = built.state.called.get(body, body)
                raise DocumentError(f"The linked document has no body “{words}” any more.", "Pick another body.")
        return [self._called(bodies[body], pick, bodies) for body in wanted]

    def linkable(self, pick: LinkPick) -> Sequence[tuple[str, str]]:
        bodies = self.build(pick.document, pick.revision).state.bodies
        return [(entry.id, entry.name) for entry in bodies.values() if entry.role not in _NOT_LINKED]

    def _called(self, entry: Entry, pick: LinkPick, bodies: Mapping[str, Entry]) -> Entry:
        """A linked body by the name of its part; where that has several bodies, also by its own, and grouped under it."""
        key = (pick.document, pick.revision)
        part = self.revisions.get(key) or self.revisions[(pick.document, None)]
        if sum(other.role not in _NOT_LINKED for other in bodies.values()) == 1:
            return replace(entry, name=part.name)
        return replace(entry, name=f"{part.name}, {entry.name}", group=(part.name, *entry.group))

    def _way_back(self, pick: LinkPick) -> list[str]:
        """The documents through which a link leads back to where it starts, with that at both ends; none if it does not."""
        start = self._asking[-1] if self._asking else pick.document
        if self._asking and pick.document == start:
            return [start, start]
        came: dict[str, str] = {pick.document: start}  # from which document each was reached first
        waiting = [pick]
        while waiting:
            here = waiting.pop(0)
            other = self.revisions.get((here.document, here.revision)) or self.revisions.get((here.document, None))
            for inner in other.links if other else ():
                if inner.document == start:
                    way = [here.document]
                    while way[0] != pick.document:
                        way.insert(0, came[way[0]])
                    return [*([start] if start != pick.document else []), *way, start]
                if inner.document not in came:
                    came[inner.document] = here.document
                    waiting.append(inner)
        return []

    def _circle(self, way: list[str]) -> DocumentError:
        names = {key: document.name for (key, _), document in self.revisions.items()}
        circle = " → ".join(f"“{names.get(document, document)}”" for document in way)
        return DocumentError(f"Documents link each other in a circle: {circle}.", "Take one of these links out.")

    def linked_key(self, pick: LinkPick) -> str:
        try:
            entries = self.linked(pick)
        except DocumentError as fault:
            return f"fault {fault.message}"
        return digest(*(part for entry in entries for part in (entry.key, entry.name)))

    def asset(self, digest: str, name: str) -> bytes:
        if self.assets is not None:
            for path in (self.assets / digest, self.assets / Path(name).name):
                if path.is_file() and path.stat().st_size <= _LARGEST_ASSET:
                    content = path.read_bytes()
                    if hashlib.sha256(content).hexdigest() == digest:
                        return content
        raise DocumentError(f"The imported file “{name}” is not at hand or has changed.", "Import it again.")


def read_files(paths: list[Path]) -> Project:
    """A project from document files; imported files are looked for beside the first."""
    revisions: dict[tuple[str, int | None], Document] = {}
    for path in paths:
        try:
            text = path.read_bytes()
        except OSError as fault:
            raise DocumentError(f"“{path.name}” cannot be read: {fault.strerror}.", "Check its path.") from fault
        try:
            document = parse_document(text)
        except DocumentError as fault:
            raise DocumentError(f"{path.name}: {fault.message}", fault.hint) from fault
        if (document.id, None) in revisions:
            raise DocumentError(f"Two of the files hold the document “{document.id}”.", "Give each document once.")
        revisions[(document.id, None)] = document
    return Project(revisions, assets=paths[0].resolve().parent if paths else None)
