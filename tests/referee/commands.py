"""The command line run in a process of its own, forked from one that has the kernel loaded: not from the tests' own process,
whose threads a fork would not survive.
"""

from __future__ import annotations

import multiprocessing
import os
import sys
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Ran:
    """How a command ended and what it said."""

    status: int
    out: str
    err: str


def run(*arguments: str) -> Ran:
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["supplecast.workers.warm"])
    with tempfile.TemporaryDirectory() as folder:
        said = [Path(folder) / name for name in ("out", "err")]
        process = context.Process(target=_main, args=(arguments, said))
        process.start()
        process.join()
        assert process.exitcode is not None
        return Ran(process.exitcode, *(path.read_text() for path in said))


def _main(arguments: Sequence[str], said: Sequence[Path]) -> None:
    from supplecast.cli import main

    for stream, path in zip((1, 2), said, strict=True):
        os.dup2(os.open(path, os.O_WRONLY | os.O_CREAT), stream)
    sys.stdout, sys.stderr = os.fdopen(1, "w"), os.fdopen(2, "w")
    status = main(list(arguments))
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)
