"""The library of projects: everything is read and written through it.

An edit is acknowledged only after its revision is committed. Undo and redo move a document's head along its revisions;
nothing is overwritten and nothing deleted, only marked as gone.
"""

from __future__ import annotations

import hashlib
import secrets
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event, func, select
from sqlalchemy.orm import Session

from supplecast.atomic import write_atomically
from supplecast.document.model import Document, known_document, new_id
from supplecast.errors import ConflictError, StoreError
from supplecast.store import opening
from supplecast.store.models import AssetRow, DocumentRow, GradeRow, MilestoneRow, ProjectRow, RevisionRow, now
from supplecast.store.opening import DATABASE
from supplecast.text import cleaned
from supplecast.tooling.grades import Grade

CONNECTIONS = 24
_CACHED = 500  # KB of pages that each connection remembers; the system remembers the file anyway
"""How many may be open to the database: the server has as many threads."""


@dataclass(frozen=True)
class DocumentCard:
    """A document as lists show it."""

    id: str
    project: str
    kind: str
    name: str
    head: int
    changed: datetime


@dataclass(frozen=True)
class ProjectCard:
    id: str
    name: str
    documents: tuple[DocumentCard, ...]


@dataclass(frozen=True)
class Revision:
    """One state of a document. `undo` and `redo` tell how many steps lead back, and whether one leads forward."""

    number: int
    document: Document
    change: str
    undo: int
    redo: bool


@dataclass(frozen=True)
class Past:
    """A revision as the history lists it; `milestone` is the name given to it, if any."""

    number: int
    change: str
    made: datetime
    milestone: str
    is_head: bool
    parent: int | None


class Library:
    """A data directory: `supplecast.db`, `assets/` with imported files, `blobs/` with what can be made again."""

    def __init__(self, directory: Path) -> None:
        self.directory = directory
        self.assets = directory / "assets"
        self.blobs = directory / "blobs"
        opening.check(directory)
        self.engine = create_engine(f"sqlite:///{directory / DATABASE}", connect_args={"timeout": 20}, pool_size=CONNECTIONS)
        self._reader = self.engine.execution_options(reading=True)
        self._writing = threading.Lock()
        event.listen(self.engine, "connect", _prepare)
        event.listen(self.engine, "begin", _begin)
        self._migrate()

    def _migrate(self) -> None:
        with self.engine.begin() as connection:
            command.upgrade(migrations(connection), "head")

    def close(self) -> None:
        self.engine.dispose()

    @contextmanager
    def _session(self) -> Iterator[Session]:
        """To write in: one at a time, in the order they came. SQLite itself would let them sleep and try again."""
        with self._writing, Session(self.engine) as session, session.begin():
            yield session

    @contextmanager
    def _reading(self) -> Iterator[Session]:
        """To read in, while others read and write."""
        with Session(self._reader) as session, session.begin():
            yield session

    # --- projects ------------------------------------------------------------------------------------------------

    def projects(self) -> list[ProjectCard]:
        with self._reading() as session:
            rows = session.scalars(select(ProjectRow).where(~ProjectRow.gone).order_by(ProjectRow.made))
            return [_project(row) for row in rows]

    def project(self, project_id: str) -> ProjectCard:
        with self._reading() as session:
            return _project(self._project_row(session, project_id))

    def create_project(self, name: str) -> ProjectCard:
        with self._session() as session:
            row = ProjectRow(id=secrets.token_hex(4), name=_clean(name, "project"), documents=[], gone=False)
            session.add(row)
            session.flush()
            return _project(row)

    def set_gone(self, project_id: str, gone: bool = True) -> None:
        """Take a project off the list, or put it back; nothing of it is deleted."""
        with self._session() as session:
            row = session.get(ProjectRow, project_id)
            if row is None:
                raise StoreError("There is no such project.", "Go back to the list of projects.")
            row.gone = gone

    def _project_row(self, session: Session, project_id: str) -> ProjectRow:
        row = session.get(ProjectRow, project_id)
        if row is None or row.gone:
            raise StoreError("There is no such project.", "Go back to the list of projects.")
        return row

    # --- documents -----------------------------------------------------------------------------------------------

    def add_document(self, project_id: str, document: Document, change: str = "New") -> DocumentCard:
        """Put a document into a project. Its id is kept if it is free, else a new one is given."""
        with self._session() as session:
            self._project_row(session, project_id)
            free = document.id != "untitled" and session.get(DocumentRow, document.id) is None
            document = document.model_copy(update={"id": document.id if free else f"d{new_id(8)}"})
            row = DocumentRow(
                id=document.id, project_id=project_id, kind=document.kind, name=document.name, head=1, tip=1, gone=False
            )
            session.add(row)
            session.flush()
            session.add(_revision(document, 1, None, change))
            session.flush()
            return _card(row)

    def document(self, document_id: str) -> DocumentCard:
        with self._reading() as session:
            return _card(self._row(session, document_id))

    def head(self, document_id: str) -> Revision:
        with self._reading() as session:
            row = self._row(session, document_id)
            return self._loaded(session, row, row.head)

    def head_number(self, document_id: str) -> int:
        """The number of a document's newest revision, without reading it."""
        with self._reading() as session:
            return self._row(session, document_id).head

    def revision(self, document_id: str, number: int) -> Document:
        with self._reading() as session:
            row = self._revision_row(session, document_id, number)
            return known_document(row.content)

    def commit(self, document_id: str, base: int, document: Document, change: str, *, instead: bool = False) -> Revision:
        """Write a new revision made from revision `base`; or `instead` of that one, made from the one before it: undoing passes
        over it then, and a document that is as it was before is that one again. ConflictError if another was written meanwhile.
        """
        with self._session() as session:
            row = self._row(session, document_id)
            if row.head != base:
                raise ConflictError(
                    f"This document was changed elsewhere meanwhile (revision {row.head}; yours began at {base}).",
                    "Reload the page, then make the change again.",
                )
            parent = self._revision_row(session, document_id, base).parent if instead else None
            if parent is not None:
                before = self._show(session, row, parent)
                if before.document == document:
                    row.tip = parent
                    return self._loaded(session, row, parent, document)
                base = parent
            last = session.scalar(select(func.max(RevisionRow.number)).where(RevisionRow.document_id == document_id))
            number = int(last or 0) + 1
            session.add(_revision(document, number, base, change))
            row.head = row.tip = number
            row.name, row.kind, row.changed = document.name, document.kind, now()
            session.flush()
            return self._loaded(session, row, number, document)

    def undo(self, document_id: str) -> Revision:
        with self._session() as session:
            row = self._row(session, document_id)
            parent = self._revision_row(session, document_id, row.head).parent
            if parent is None:
                raise StoreError("There is nothing to undo.")
            return self._show(session, row, parent)

    def redo(self, document_id: str) -> Revision:
        with self._session() as session:
            row = self._row(session, document_id)
            following = _following(self._parents(session, row.id), row)
            if following is None:
                raise StoreError("There is nothing to redo.")
            return self._show(session, row, following)

    def history(self, document_id: str, limit: int = 200, before: int | None = None) -> list[Past]:
        """The newest revisions, or the newest before one, newest first."""
        with self._reading() as session:
            head = self._row(session, document_id).head
            chosen = select(RevisionRow).where(RevisionRow.document_id == document_id)
            if before is not None:
                # No revision has a number as large as that; the database takes no larger one.
                chosen = chosen.where(RevisionRow.number < max(0, min(before, 2**53)))
            rows = session.scalars(chosen.order_by(RevisionRow.number.desc()).limit(limit))
            names = self._milestones(session, document_id)
            return [Past(r.number, r.change, r.made, names.get(r.number, ""), r.number == head, r.parent) for r in rows]

    def _milestones(self, session: Session, document_id: str) -> dict[int, str]:
        rows = session.scalars(select(MilestoneRow).where(MilestoneRow.document_id == document_id))
        return {row.number: row.name for row in rows}

    def set_milestone(self, document_id: str, number: int, name: str) -> None:
        """Name a revision; a blank name takes the name away."""
        with self._session() as session:
            self._row(session, document_id)
            self._revision_row(session, document_id, number)
            chosen = (MilestoneRow.document_id == document_id, MilestoneRow.number == number)
            row = session.scalar(select(MilestoneRow).where(*chosen))
            text = " ".join(cleaned(name).split())[:80]
            if row is not None and not text:
                session.delete(row)
            elif row is not None:
                row.name = text
            elif text:
                session.add(MilestoneRow(document_id=document_id, number=number, name=text))

    def restore(self, document_id: str, number: int) -> Revision:
        """Make an old revision the newest one again, as a new revision: nothing that came after it is lost."""
        with self._session() as session:
            row = self._row(session, document_id)
            old = known_document(self._revision_row(session, document_id, number).content)
            name = self._milestones(session, document_id).get(number)
            head, words = row.head, f"Restore revision {number}" + (f", “{name}”" if name else "")
        return self.commit(document_id, head, old, words)

    def _show(self, session: Session, row: DocumentRow, number: int) -> Revision:
        row.head = number
        revision = self._loaded(session, row, number)
        row.name, row.changed = revision.document.name, now()
        return revision

    def _loaded(self, session: Session, row: DocumentRow, number: int, document: Document | None = None) -> Revision:
        """A revision and what lies about it; its `document`, if that is at hand already."""
        stored = self._revision_row(session, row.id, number)
        parents = self._parents(session, row.id)
        depth, at = 0, number
        while (parent := parents[at]) is not None:
            depth, at = depth + 1, parent
        document = document or known_document(stored.content)
        return Revision(number, document, stored.change, depth, _following(parents, row) is not None)

    def _parents(self, session: Session, document_id: str) -> dict[int, int | None]:
        """For every revision of a document the one it was made from."""
        rows = session.execute(select(RevisionRow.number, RevisionRow.parent).where(RevisionRow.document_id == document_id))
        return {row.number: row.parent for row in rows}

    def _row(self, session: Session, document_id: str) -> DocumentRow:
        row = session.get(DocumentRow, document_id)
        if row is None or row.gone:
            raise StoreError("There is no such document.", "Go back to the list of projects.")
        return row

    def _revision_row(self, session: Session, document_id: str, number: int) -> RevisionRow:
        row = session.scalar(select(RevisionRow).where(RevisionRow.document_id == document_id, RevisionRow.number == number))
        if row is None:
            raise StoreError(f"This document has no revision {number}.", "Reload the page.")
        return row

    # --- grades ---------------------------------------------------------------------------------------------------

    def grades(self) -> list[Grade]:
        """The grades that users keep, by name."""
        with self._reading() as session:
            rows = session.scalars(select(GradeRow).order_by(GradeRow.name))
            return [Grade.model_validate_json(row.content) for row in rows]

    def keep_grade(self, grade: Grade) -> None:
        """Keep a grade, in the place of one of the same name."""
        with self._session() as session:
            session.merge(GradeRow(name=grade.name, content=grade.model_dump_json(), changed=now()))

    def drop_grade(self, name: str) -> None:
        """Forget a grade; documents that use it keep its figures."""
        with self._session() as session:
            row = session.get(GradeRow, name)
            if row is None:
                raise StoreError(f"There is no grade “{name}”.", "Reload the page.")
            session.delete(row)

    # --- imported files ------------------------------------------------------------------------------------------

    def add_asset(self, name: str, content: bytes) -> str:
        """Keep a file; returns its SHA-256. The bytes are on disk before the row is."""
        digest = hashlib.sha256(content).hexdigest()
        target = self.assets / digest
        if not target.exists():
            write_atomically(target, content, lasting=True)
        with self._session() as session:
            if session.get(AssetRow, digest) is None:
                session.add(AssetRow(digest=digest, name=cleaned(name)[:200], size=len(content)))
        return digest


def migrations(connection: Any) -> Config:
    """What Alembic needs to know to run the migrations on a connection."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["connection"] = connection
    return config


def _following(parents: dict[int, int | None], row: DocumentRow) -> int | None:
    """The revision that redo leads to: the ancestor of the tip that was made from the head."""
    at: int | None = row.tip
    while at is not None and at != row.head:
        if parents[at] == row.head:
            return at
        at = parents[at]
    return None


def _prepare(connection: Any, _: Any) -> None:
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL", f"cache_size=-{_CACHED}"):
        connection.execute(f"PRAGMA {pragma}")


def _begin(connection: Any) -> None:
    # Who writes takes the lock at once: two edits that both read the head first would otherwise clash at commit.
    connection.exec_driver_sql("BEGIN" if connection.get_execution_options().get("reading") else "BEGIN IMMEDIATE")


def _revision(document: Document, number: int, parent: int | None, change: str) -> RevisionRow:
    return RevisionRow(
        document_id=document.id, number=number, parent=parent, content=document.to_json(), change=cleaned(change)[:200]
    )


def _project(row: ProjectRow) -> ProjectCard:
    documents: Sequence[DocumentRow] = [d for d in row.documents if not d.gone]
    return ProjectCard(row.id, row.name, tuple(_card(d) for d in documents))


def _card(row: DocumentRow) -> DocumentCard:
    return DocumentCard(row.id, row.project_id, row.kind, row.name, row.head, row.changed)


def _clean(name: str, what: str) -> str:
    text = " ".join(cleaned(name).split())[:120]
    if not text:
        raise StoreError(f"The {what} needs a name.", "Type one.")
    return text
