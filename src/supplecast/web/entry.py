"""Who may come in: whoever has been given the address that the program printed at its start, and nobody else on the machine.

The key in that address works once; what it leaves is a cookie that holds for this data directory. Whenever a key is used, the
next one is printed, for another browser.
"""

from __future__ import annotations

import hashlib
import hmac
import secrets
from collections.abc import Callable

from flask import Flask, redirect, request, url_for
from werkzeug.wrappers import Response

from supplecast.errors import SuppleError

_A_YEAR = 400 * 24 * 3600
_OPEN = ("static", "pages.favicon")


class LockedError(SuppleError):
    """Somebody who has not come in."""


class Entry:
    """Guards an application. `say` is told the path to come in by, now and whenever it changes."""

    def __init__(self, app: Flask, port: int, say: Callable[[str], None]) -> None:
        self._cookie = f"supplecast_in_{port}"
        self._pass = hmac.new(str(app.secret_key).encode(), b"entered", hashlib.sha256).hexdigest()
        self._say = say
        self._renew()
        app.before_request(self._check)

    def _renew(self) -> None:
        self._key = secrets.token_urlsafe(16)
        self._say(f"/?key={self._key}")

    def _check(self) -> Response | None:
        if request.endpoint in _OPEN:
            return None
        given = request.args.get("key", "")
        if given and hmac.compare_digest(given.encode(), self._key.encode()):
            self._renew()
            return self._marked(redirect(url_for("pages.projects")))
        if hmac.compare_digest(request.cookies.get(self._cookie, "").encode(), self._pass.encode()):
            return redirect(url_for("pages.projects")) if given else None
        raise LockedError(
            "This program is open only to who started it.",
            "Open the address that stands in the terminal where it runs. Each works once; the next one is printed then.",
        )

    def _marked(self, response: Response) -> Response:
        response.set_cookie(self._cookie, self._pass, max_age=_A_YEAR, httponly=True, samesite="Strict")
        return response
