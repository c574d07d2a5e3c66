"""The doctor: looks through a data directory, says what is wrong, and repairs what can be derived from the rest.

Damage it repairs: broken or needless blobs (thrown away, they are made again) · a head or tip that leads nowhere (set to the
newest revision) · leftovers of writes cut short · imported files that no document uses (thrown away). Damage it only reports:
a database that fails SQLite's own check, revisions that cannot be read, imported files that are missing or changed. Weak case:
a revision whose content was changed by hand and still reads is taken for sound.
"""

from __future__ import annotations

import contextlib
import re
import sqlite3
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from supplecast.document.model import parse_document
from supplecast.errors import StoreError, SuppleError
from supplecast.store import shelf
from supplecast.store.backup import digest_of
from supplecast.store.opening import DATABASE

_UNDER_WAY = 600.0  # seconds after which a write that is not finished never will be
_TAKEN = 24 * 3600.0  # after which a file that was written to be taken away has been
_UNUSED = 24 * 3600.0  # after which a file that no document uses never will be
_WRITTEN = re.compile(r"^[0-9a-f]{24}\.\w+$")  # the name of a file to be taken away; what can be found again has a longer one
_DIGEST = re.compile(r"\b[0-9a-f]{64}\b")


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong, and whether it has been repaired."""

    words: str
    repaired: bool


def examine(directory: Path, *, repair: bool = True) -> list[Finding]:
    """Everything wrong in a data directory; nothing when all is well. StoreError if there is no database at all."""
    path = directory / DATABASE
    if not path.is_file():
        raise StoreError(f"There is no Supple Cast database in “{directory}”.", "Name the data directory with --data.")
    findings: list[Finding] = []
    with contextlib.closing(sqlite3.connect(path, timeout=20)) as connection:
        try:
            findings += _database(connection)
            if not findings:
                for look in (
                    _documents(connection, repair),
                    _assets(connection, directory),
                    _unused(connection, directory, repair),
                ):
                    findings += look
            connection.commit()
        except sqlite3.DatabaseError as fault:
            findings.append(Finding(f"The database cannot be read ({fault}). Put back a backup.", False))
    for search in (_blobs(directory / "blobs", repair), _leftovers(directory, repair)):
        try:
            findings += search
        except OSError as fault:
            findings.append(Finding(f"{fault.filename or directory}: {fault.strerror or fault}.", False))
    return findings


def tidy(directory: Path) -> None:
    """What a start clears away without a word: leftovers of writes cut short, and files that were written to be taken away."""
    with contextlib.suppress(OSError):
        for _ in _leftovers(directory, repair=True):
            pass
        latest = time.time() - _TAKEN
        for path in (directory / "blobs").iterdir():
            if _WRITTEN.match(path.name) and path.stat().st_mtime < latest:
                path.unlink()


def _database(connection: sqlite3.Connection) -> Iterator[Finding]:
    for (words,) in connection.execute("PRAGMA integrity_check"):
        if words != "ok":
            yield Finding(f"The database is damaged: {words}. Put back a backup.", False)
    for row in connection.execute("PRAGMA foreign_key_check"):
        yield Finding(f"A row of the table {row[0]} belongs to nothing.", False)


def _documents(connection: sqlite3.Connection, repair: bool) -> Iterator[Finding]:
    for document, name, head, tip in connection.execute("SELECT id, name, head, tip FROM document").fetchall():
        rows = connection.execute("SELECT number, parent, content FROM revision WHERE document_id = ?", (document,)).fetchall()
        numbers = {number for number, _, _ in rows}
        for number, parent, content in rows:
            try:
                parse_document(content)
            except SuppleError as fault:
                yield Finding(f"“{name}”, revision {number} cannot be read: {fault}", False)
            if parent is not None and (parent not in numbers or parent >= number):
                yield Finding(f"“{name}”, revision {number} was made from revision {parent}, which is not there.", False)
        if not numbers:
            yield Finding(f"“{name}” has no revision at all.", False)
            continue
        for what, value in (("head", head), ("tip", tip)):
            if value not in numbers:
                if repair:
                    connection.execute(f"UPDATE document SET {what} = ? WHERE id = ?", (max(numbers), document))
                newest = f"set to the newest, {max(numbers)}" if repair else f"the newest is {max(numbers)}"
                yield Finding(f"“{name}” stood at revision {value}, which is not there; {newest}.", repair)


def _assets(connection: sqlite3.Connection, directory: Path) -> Iterator[Finding]:
    for digest, name in connection.execute("SELECT digest, name FROM asset"):
        path = directory / "assets" / str(digest)
        if not path.is_file():
            yield Finding(f"The imported file “{name}” is missing ({digest[:12]}…).", False)
        elif digest_of(path) != digest:
            yield Finding(f"The imported file “{name}” has changed ({digest[:12]}…).", False)


def _unused(connection: sqlite3.Connection, directory: Path, repair: bool) -> Iterator[Finding]:
    """Imported files that no revision of any document mentions, such as photos never put under a sketch."""
    rows = connection.execute("SELECT digest, name FROM asset").fetchall()
    spare = {str(digest) for digest, _ in rows}
    for (content,) in connection.execute("SELECT content FROM revision"):
        spare -= set(_DIGEST.findall(content))
    latest = time.time() - _UNUSED
    for digest, name in rows:
        path = directory / "assets" / str(digest)
        if digest in spare and path.is_file() and path.stat().st_mtime < latest:
            if repair:
                connection.execute("DELETE FROM asset WHERE digest = ?", (digest,))
                path.unlink()
            yield Finding(f"The imported file “{name}” is used by no document ({str(digest)[:12]}…).", repair)


def _blobs(folder: Path, repair: bool) -> Iterator[Finding]:
    if not folder.is_dir():
        if repair:
            folder.mkdir(mode=0o700)
        yield Finding("The folder of stored results is missing; they are made again when they are needed.", repair)
        return
    wanted: set[str] = set()
    for path in sorted(folder.glob("*.memory")):
        if shelf.opened(path) is None:
            yield from _thrown(path, "is damaged", repair)
        else:
            wanted |= set().union(*(trace.files for trace in shelf.traces_of(path).values()))
    for path in sorted(folder.glob("*.shape")):
        if shelf.opened(path) is None:
            yield from _thrown(path, "is damaged", repair)
        elif path.name not in wanted:
            yield from _thrown(path, "is no longer used", repair)
    for path in sorted(folder.glob("*.mass")):
        if shelf.opened(path) is None:
            yield from _thrown(path, "is damaged", repair)
    heads = {".glb": b"glTF", ".png": b"\x89PNG"}
    for path in sorted(folder.iterdir()):
        head = heads.get(path.suffix)
        if head is not None:
            with path.open("rb") as stream:
                sound = stream.read(4) == head
            if not sound:
                yield from _thrown(path, "is damaged", repair)


def _thrown(path: Path, words: str, repair: bool) -> Iterator[Finding]:
    if repair:
        path.unlink()
    yield Finding(f"The stored result {path.name[:12]}…{path.suffix} {words}; it is made again when it is needed.", repair)


def _leftovers(directory: Path, repair: bool) -> Iterator[Finding]:
    latest = time.time() - _UNDER_WAY
    for folder in (directory, directory / "assets", directory / "blobs"):
        for path in sorted(folder.glob(".*.*")):
            if path.is_file() and path.stat().st_mtime < latest:
                if repair:
                    path.unlink()
                yield Finding(f"A write to {folder.name} was cut short; its leftover {path.name} was of no use.", repair)
