"""A folder for what a running program needs only while it runs, swept away by the next one if it was killed."""

from __future__ import annotations

import fcntl
import os
import shutil
import tempfile
from pathlib import Path

_LOCK = ".lock"
_PREFIX = "supplecast-"
_LONGEST = 50  # of 108 bytes that the name of a socket may have (unix(7))


class Scratch:
    """A folder that is this process's own; a lock on a file in it lasts as long as the process lives, however it ends."""

    def __init__(self, base: Path | None = None) -> None:
        base = base or _base()
        sweep(base)
        self.path = Path(tempfile.mkdtemp(prefix=_PREFIX, dir=base))
        self._held = os.open(self.path / _LOCK, os.O_CREAT | os.O_RDWR, 0o600)
        fcntl.flock(self._held, fcntl.LOCK_EX)

    def close(self) -> None:
        shutil.rmtree(self.path, ignore_errors=True)
        os.close(self._held)


def _base() -> Path:
    """Where temporary files go; not where that is so deep down that no socket could be given a name there."""
    usual = Path(tempfile.gettempdir())
    return usual if len(str(usual)) <= _LONGEST else Path("/tmp")


def sweep(base: Path) -> None:
    """Remove the folders of programs that are gone: nobody holds their lock. Those of other users are left alone."""
    for folder in base.glob(f"{_PREFIX}*"):
        try:
            held = os.open(folder / _LOCK, os.O_RDWR)
        except OSError:
            continue
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
            shutil.rmtree(folder, ignore_errors=True)
        except OSError:
            continue  # it is in use
        finally:
            os.close(held)
