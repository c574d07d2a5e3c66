"""The HTTP server: as large, as slow and as many as requests may be, so that nobody can keep the others from being answered."""

from __future__ import annotations

import json
import resource
import time
from typing import Any

from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.utilities import RequestEntityTooLarge

from supplecast.store.library import CONNECTIONS
from supplecast.web.app import LARGEST_UPLOAD

_MOST_CONNECTED = 600
_OPEN_FILES = 4096
_LOOK = 2  # seconds between looks at what comes in too slowly
_IDLE = 60
_SLOWEST_HEAD, _SLOWEST_BODY = 10.0, 120.0
_SPARE = 2**20  # what a form wraps round a file


class _TooLarge(RequestEntityTooLarge):  # type: ignore[misc]
    """A body that says of itself that it is too large: refused before it is read."""

    def __init__(self, path: str) -> None:
        super().__init__("")
        self.path = path

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        title = f"What was sent is larger than {LARGEST_UPLOAD // 2**20} MB."
        hint = "Save it smaller, or send only what is needed."
        if self.path.startswith("/api/"):
            problem = {"type": "about:blank", "status": self.code, "title": title, "detail": hint}
            return "413 Too large", [("Content-Type", "application/problem+json")], json.dumps(problem).encode()
        return "413 Too large", [("Content-Type", "text/plain; charset=utf-8")], f"{title} {hint}".encode()


class _Parser(HTTPRequestParser):  # type: ignore[misc]
    error: Any

    def __init__(self, adj: Any) -> None:
        super().__init__(adj)
        self.began = time.time()

    def received(self, data: bytes) -> int:
        consumed: int = super().received(data)
        if isinstance(self.error, RequestEntityTooLarge) and not isinstance(self.error, _TooLarge):
            self.error = _TooLarge(self.path)
        return consumed

    def is_slow(self, now: float) -> bool:
        """Whether it has been coming in for too long."""
        most = _SLOWEST_BODY if self.headers_finished else _SLOWEST_HEAD
        return not self.completed and now - self.began > most


class _Channel(HTTPChannel):  # type: ignore[misc]
    parser_class = _Parser


class Server(TcpWSGIServer):  # type: ignore[misc]
    """Serves an application on one address until it is interrupted."""

    channel_class = _Channel

    def __init__(self, application: Any, host: str, port: int) -> None:
        soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
        if soft < _OPEN_FILES:
            resource.setrlimit(resource.RLIMIT_NOFILE, (min(_OPEN_FILES, hard), hard))
        super().__init__(
            application,
            host=host,
            port=port,
            threads=CONNECTIONS,
            ident="Supple Cast",
            max_request_body_size=LARGEST_UPLOAD + _SPARE,
            max_request_header_size=64 * 1024,
            connection_limit=_MOST_CONNECTED,
            channel_timeout=_IDLE,
            cleanup_interval=_LOOK,
            asyncore_use_poll=True,
        )

    def maintenance(self, now: float) -> None:
        """Close connections that are idle, and those whose request comes in too slowly."""
        super().maintenance(now)
        for channel in self.active_channels.values():
            if channel.request is not None and channel.request.is_slow(now):
                channel.will_close = True

    def readable(self) -> bool:
        """Whether another connection is taken: where there are too many, the oldest that asks for nothing makes room."""
        if len(self._map) >= self.adj.connection_limit:
            spare = [channel for channel in self.active_channels.values() if not channel.requests and not channel.will_close]
            if spare:
                min(spare, key=lambda channel: channel.creation_time).will_close = True
        return bool(super().readable())
