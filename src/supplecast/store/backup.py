"""A copy of a data directory in one file, taken while the program runs, and put back from it.

The database is copied by SQLite's own online backup, so that it is whole whatever is written meanwhile; the copy is checked
before it takes the place of an older one. Blobs are left out: they can be made again. Imported files are added to the database
only after they lie on disk, so none can be missing. What is put back is unpacked aside, checked whole, and only then given its
name.
"""

from __future__ import annotations

import contextlib
import hashlib
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from supplecast.errors import StoreError
from supplecast.store import opening
from supplecast.store.opening import DATABASE

_LARGEST = 64 * 2**30
_MOST_RATIO = 200  # how much a file may unpack to; text of documents is packed to a tenth
_NOT_ONE = "Choose a file made by “supplecast backup”."


def backup(directory: Path, target: Path) -> int:
    """Write a backup of a data directory to a zip file; returns the number of imported files in it.

    StoreError, with an older file of that name left as it was, where the database is damaged, a file is missing or changed, or
    nothing can be written.
    """
    source = directory / DATABASE
    if not source.is_file():
        raise StoreError(f"There is no Supple Cast database in “{directory}”.", "Name the data directory with --data.")
    part = target.with_name(f".{target.name}.part")
    try:
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / DATABASE
            _copy(source, copy)
            names = _assets(copy)
            for name in names:
                _check_asset(directory / "assets" / name)
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.write(copy, DATABASE)
                for name in names:
                    archive.write(directory / "assets" / name, f"assets/{name}")
        part.replace(target)
    except sqlite3.DatabaseError as fault:
        words = f"The database in “{directory}” is damaged ({fault}): nothing was backed up."
        raise StoreError(words, "Look at it with “supplecast doctor”. An older backup was left as it was.") from fault
    except OSError as fault:
        raise StoreError(f"The backup could not be written: {fault.strerror or fault}.", "Choose another place.") from fault
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)
    return len(names)


def _copy(source: Path, copy: Path) -> None:
    """A copy of a live database that has passed SQLite's own check. sqlite3.DatabaseError if it does not."""
    with contextlib.closing(sqlite3.connect(source, timeout=30)) as live, contextlib.closing(sqlite3.connect(copy)) as still:
        live.backup(still)
        fault = opening.faults_of(still)
    if fault:
        raise sqlite3.DatabaseError(fault)


def _check_asset(path: Path) -> None:
    if not path.is_file() or digest_of(path) != path.name:
        words = f"The imported file {path.name[:12]}… is missing or has changed: nothing was backed up."
        raise StoreError(words, "Look at it with “supplecast doctor”. An older backup was left as it was.")


def restore(archive_path: Path, directory: Path) -> int:
    """Put a backup into a data directory that does not exist yet or is empty; returns the number of imported files.

    All of it is there afterwards, or nothing: StoreError says why.
    """
    if directory.is_file() or (directory.exists() and any(directory.iterdir())):
        raise StoreError(f"“{directory}” is not empty.", "Name a new directory with --data; nothing is overwritten.")
    aside = directory.with_name(f".{directory.name or 'data'}.restoring")
    try:
        shutil.rmtree(aside, ignore_errors=True)
        with _opened(archive_path) as archive:
            names = _sound_names(archive, archive_path.stat().st_size)
            aside.mkdir(parents=True, mode=0o700)
            archive.extractall(aside)
        for folder in ("assets", "blobs"):
            (aside / folder).mkdir(exist_ok=True)
        _check_unpacked(aside, names)
        if directory.exists():
            directory.rmdir()
        aside.rename(directory)
    except OSError as fault:
        words = f"The backup could not be put into “{directory}”: {fault.strerror or fault}."
        raise StoreError(words, "Choose another place with --data, and see that there is room.") from fault
    finally:
        shutil.rmtree(aside, ignore_errors=True)
    return len(names)


@contextlib.contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    if not path.is_file():
        raise StoreError(f"There is no file “{path}”.", _NOT_ONE)
    try:
        with zipfile.ZipFile(path) as archive:
            yield archive
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError) as fault:
        raise StoreError("This backup is damaged and cannot be read.", "Choose another one.") from fault


def _sound_names(archive: zipfile.ZipFile, size: int) -> list[str]:
    """The imported files in a backup. StoreError for what is no backup, or would unpack to far more than it holds."""
    infos = archive.infolist()
    names = [info.filename for info in infos]
    doubled = [name for name, count in Counter(names).items() if count > 1]
    if DATABASE not in names or doubled or not all(name == DATABASE or _is_asset(name) for name in names):
        raise StoreError("This file is not a backup of Supple Cast.", _NOT_ONE)
    whole = sum(info.file_size for info in infos)
    if whole > _LARGEST or whole > _MOST_RATIO * size:
        raise StoreError("This backup would unpack to far more than it holds.", _NOT_ONE)
    return [name for name in names if name != DATABASE]


def _check_unpacked(folder: Path, names: list[str]) -> None:
    """That the database is ours and whole, and every imported file is what its name says."""
    try:
        opening.check(folder)
        wanted = set(_assets(folder / DATABASE))
    except (StoreError, sqlite3.DatabaseError) as fault:
        words = fault.message if isinstance(fault, StoreError) else f"Its database is damaged ({fault})."
        words = words.replace(f"“{folder / DATABASE}”", "in it")
        raise StoreError(f"This backup is of no use. {words}", "Choose another one.") from fault
    changed = [name for name in names if digest_of(folder / name) != Path(name).name]
    missing = wanted - {Path(name).name for name in names}
    if changed or missing:
        words = f"{len(changed) + len(missing)} imported files in this backup are missing or have changed."
        raise StoreError(words, "Choose another one.")


def _is_asset(name: str) -> bool:
    folder, _, digest = name.partition("/")
    return folder == "assets" and len(digest) == 64 and all(c in "0123456789abcdef" for c in digest)


def _assets(database: Path) -> list[str]:
    with contextlib.closing(sqlite3.connect(database)) as connection:
        return [str(row[0]) for row in connection.execute("SELECT digest FROM asset ORDER BY digest")]


def digest_of(path: Path) -> str:
    with path.open("rb") as stream:
        return hashlib.file_digest(stream, "sha256").hexdigest()
