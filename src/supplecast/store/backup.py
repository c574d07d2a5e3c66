"""A copy of a data directory in one file, taken while the program runs, and put back from it.

The database is copied by SQLite's own online backup, so that it is whole whatever is written meanwhile. Blobs are left out:
they can be made again. Imported files are added to the database only after they lie on disk, so none can be missing.
"""

from __future__ import annotations

import hashlib
import sqlite3
import tempfile
import zipfile
from pathlib import Path

from supplecast.errors import StoreError

DATABASE = "supplecast.db"
_LARGEST = 64 * 2**30


def backup(directory: Path, target: Path) -> int:
    """Write a backup of a data directory to a zip file; returns the number of imported files in it."""
    source = directory / DATABASE
    if not source.is_file():
        raise StoreError(f"There is no Supple Cast database in “{directory}”.", "Name the data directory with --data.")
    part = target.with_name(f".{target.name}.part")
    try:
        with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
            copy = Path(folder) / DATABASE
            with sqlite3.connect(source, timeout=30) as live, sqlite3.connect(copy) as still:
                live.backup(still)
            still.close()
            live.close()
            archive.write(copy, DATABASE)
            names = _assets(copy)
            for name in names:
                archive.write(directory / "assets" / name, f"assets/{name}")
        part.replace(target)
    except OSError as fault:
        part.unlink(missing_ok=True)
        raise StoreError(f"The backup could not be written: {fault.strerror or fault}.", "Choose another place.") from fault
    return len(names)


def restore(archive_path: Path, directory: Path) -> int:
    """Put a backup into a data directory that does not exist yet or is empty; returns the number of imported files."""
    if directory.exists() and any(directory.iterdir()):
        raise StoreError(f"“{directory}” is not empty.", "Name a new directory with --data; nothing is overwritten.")
    try:
        with zipfile.ZipFile(archive_path) as archive:
            names = archive.namelist()
            wrong = [name for name in names if name != DATABASE and not _is_asset(name)]
            if DATABASE not in names or wrong or sum(info.file_size for info in archive.infolist()) > _LARGEST:
                raise StoreError("This file is not a backup of Supple Cast.", "Choose a file made by “supplecast backup”.")
            archive.extractall(directory)
    except (OSError, zipfile.BadZipFile) as fault:
        raise StoreError("This backup cannot be read.", "Choose a file made by “supplecast backup”.") from fault
    return len(names) - 1


def _is_asset(name: str) -> bool:
    folder, _, digest = name.partition("/")
    return folder == "assets" and len(digest) == 64 and all(c in "0123456789abcdef" for c in digest)


def _assets(database: Path) -> list[str]:
    connection = sqlite3.connect(database)
    try:
        return [str(row[0]) for row in connection.execute("SELECT digest FROM asset ORDER BY digest")]
    finally:
        connection.close()


def digest_of(path: Path) -> str:
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()
