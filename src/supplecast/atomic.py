"""Files that are there entirely or not at all."""

from __future__ import annotations

import contextlib
import errno
import os
import secrets
from pathlib import Path


def write_atomically(target: Path, content: bytes, *, lasting: bool = False, private: bool = False) -> None:
    """Write a file under another name first, then give it its own. `lasting` waits until the disk has it; what is `private`
    nobody else may read.
    """
    part = target.with_name(f".{target.name}.{secrets.token_hex(4)}")
    try:
        with open(part, "wb", opener=lambda path, flags: os.open(path, flags, 0o600 if private else 0o666)) as stream:
            stream.write(content)
            if lasting:
                stream.flush()
                os.fsync(stream.fileno())
        part.replace(target)
    except OSError:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)
        raise


def is_full(fault: OSError) -> bool:
    """Whether a write failed for want of room: a full disk, a quota, a limit on files."""
    return fault.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
