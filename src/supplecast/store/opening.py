"""Whether a data directory can be opened at all, before anything is done with it: each fault in a sentence."""

from __future__ import annotations

import contextlib
import os
import sqlite3
from functools import cache
from pathlib import Path

from alembic.script import ScriptDirectory

from supplecast.errors import StoreError

DATABASE = "supplecast.db"
SECRET = "secret"
"""Written at the first start: where it is, there has been a database."""
_MEND = "Look at it with “supplecast doctor”, or put back a backup with “supplecast restore”."


def check(directory: Path) -> None:
    """Make the folders of a data directory, and see that its database is whole, ours, not too new, and can be written.

    StoreError says which of these it is not.
    """
    try:
        for folder in (directory, directory / "assets", directory / "blobs"):
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        if not os.access(directory, os.W_OK | os.X_OK):
            raise PermissionError(13, "Permission denied")
    except OSError as fault:
        words = f"The data directory “{directory}” cannot be used: {fault.strerror or fault}."
        raise StoreError(words, "Name another one with --data.") from fault
    database = directory / DATABASE
    if database.exists():
        _check_database(database)
    elif (directory / SECRET).exists():
        _refuse_blank(database, "gone")


def shut(directory: Path) -> None:
    """Take from others what an older program left open to them: what is designed here is nobody else's to read."""
    with contextlib.suppress(PermissionError):
        for path in (directory, *directory.iterdir()):
            path.chmod(0o700 if path.is_dir() else 0o600)


def _refuse_blank(database: Path, how: str) -> None:
    words = f"The database “{database}” is {how}, though this directory was used before."
    raise StoreError(words, "Put back a backup; to begin anew, name another data directory with --data.")


def _check_database(database: Path) -> None:
    try:
        connection = sqlite3.connect(database, timeout=20, isolation_level=None)
        try:
            fault = faults_of(connection)
            if fault:
                raise StoreError(f"The database “{database}” is damaged ({fault}).", _MEND)
            _check_version(connection, database)
            connection.execute("BEGIN IMMEDIATE")
            connection.execute("ROLLBACK")
        finally:
            connection.close()
    except sqlite3.OperationalError as fault:
        words = f"The database “{database}” cannot be written ({fault})."
        hint = "See who may write there, whether the disk is full, and that no other program holds it."
        raise StoreError(words, hint) from fault
    except sqlite3.DatabaseError as fault:
        raise StoreError(f"The database “{database}” is damaged ({fault}).", _MEND) from fault


def faults_of(connection: sqlite3.Connection) -> str:
    """The first fault that SQLite's own quick check tells; blank if there is none."""
    row = connection.execute("PRAGMA quick_check(1)").fetchone()
    return "" if row is None or row[0] == "ok" else " ".join(str(row[0]).replace("*", "").split())


def _check_version(connection: sqlite3.Connection, database: Path) -> None:
    tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if not tables:
        if (database.parent / SECRET).exists():
            _refuse_blank(database, "empty")
        return  # nothing is in it yet
    if "alembic_version" not in tables or not {"project", "document", "revision"} <= tables:
        raise StoreError(f"“{database}” is no database of Supple Cast.", "Name another data directory with --data.")
    versions = [version for (version,) in connection.execute("SELECT version_num FROM alembic_version")]
    unknown = next((version for version in versions if version not in _known_versions()), None)
    if unknown is not None or not versions:
        words = f"The database “{database}” was made by a newer version of this program ({unknown or 'unknown'})."
        raise StoreError(words, "Start it with that version, or name another data directory with --data.")


@cache
def _known_versions() -> frozenset[str]:
    script = ScriptDirectory(str(Path(__file__).parent / "migrations"))
    return frozenset(revision.revision for revision in script.walk_revisions())
