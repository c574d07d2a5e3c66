"""Starting the web application on a loopback address."""

from __future__ import annotations

import signal
import socket
import sys
from pathlib import Path

import waitress

from supplecast.document.step import load_steps
from supplecast.errors import SuppleError
from supplecast.store.library import Library
from supplecast.web import demo as demo_project
from supplecast.web.app import create_app
from supplecast.workers.engine import Engine


def serve(data: Path, host: str, port: int, *, demo: bool, deadline: float) -> int:
    """Serve until interrupted; prints the address. Takes the next free port if `port` is taken."""
    if host not in ("127.0.0.1", "localhost", "::1"):
        raise SuppleError(f"“{host}” is not this machine's own address.", "Use 127.0.0.1.")
    load_steps()
    library = Library(data)
    if demo:
        demo_project.seed(library)
    engine = Engine(deadline=deadline)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))  # so that the workers are put away too
    try:
        port = _free(host, port)
        app = create_app(library, engine)
        server = waitress.create_server(app, host=host, port=port, threads=16, ident="Supple Cast", max_request_body_size=2**30)
        print(f"Supple Cast is at http://{host}:{port}/   (Ctrl+C stops it)", flush=True)  # it answers from here on
        server.run()
    except KeyboardInterrupt:
        pass
    finally:
        engine.close()
        library.close()
    return 0


def _free(host: str, port: int) -> int:
    for candidate in (*range(port, port + 20), 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, candidate))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise SuppleError("No free port was found.", "Name one with --port.")
