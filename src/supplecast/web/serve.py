"""Starting the web application on a loopback address."""

from __future__ import annotations

import os
import signal
import socket
import sys
import tempfile
from multiprocessing.util import Finalize
from pathlib import Path

from supplecast.document.step import load_steps
from supplecast.errors import SuppleError
from supplecast.malloc import share_arenas
from supplecast.scratch import Scratch
from supplecast.store import doctor, opening
from supplecast.store.library import Library
from supplecast.web import demo as demo_project
from supplecast.web.app import create_app
from supplecast.web.entry import Entry
from supplecast.web.server import Server
from supplecast.workers.engine import Engine

_LAST = -200  # after multiprocessing has cleared away what it put there (-100)


def serve(data: Path, host: str, port: int, *, demo: bool, deadline: float, key: bool = True) -> int:
    """Serve until interrupted; prints the address. Takes the next free port if `port` is taken. Without a `key`, anybody on
    this machine may come in.
    """
    if host not in ("127.0.0.1", "localhost", "::1"):
        raise SuppleError(f"“{host}” is not this machine's own address.", "Use 127.0.0.1.")
    os.umask(0o077)
    share_arenas()
    load_steps()
    library = Library(data)
    opening.shut(data)
    doctor.tidy(data)
    if demo:
        demo_project.seed(library)
    scratch = Scratch()
    Finalize(None, scratch.close, exitpriority=_LAST)
    tempfile.tempdir = os.environ["TMPDIR"] = str(scratch.path)  # also of the workers
    engine = Engine(deadline=deadline)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))  # so that the workers are put away too
    try:
        port = _free(host, port)
        app = create_app(library, engine, port)
        server = Server(app, host, port)
        where = f"http://[{host}]:{port}" if ":" in host else f"http://{host}:{port}"
        if key:
            Entry(app, port, lambda path: print(f"Supple Cast is at {where}{path}   (Ctrl+C stops it)", flush=True))
        else:
            print(f"Supple Cast is at {where}/   (Ctrl+C stops it)", flush=True)  # it answers from here on
        server.run()
    except KeyboardInterrupt:
        pass
    finally:
        engine.close()
        library.close()
    return 0


def _free(host: str, port: int) -> int:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    for candidate in (*range(port, port + 20), 0):
        with socket.socket(family) as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, candidate))
            except (OSError, OverflowError):
                continue
            return int(probe.getsockname()[1])
    raise SuppleError(f"No free port was found on {host}.", "Name one with --port, or another --host.")
