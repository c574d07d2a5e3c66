"""The Flask application: what every page shares, its guards, and how faults are told."""

from __future__ import annotations

import hmac
import secrets
from pathlib import Path
from typing import Any

from flask import Flask, Response, abort, current_app, g, jsonify, render_template, request, session
from sqlalchemy.exc import OperationalError
from werkzeug.exceptions import HTTPException

from supplecast import budget
from supplecast.atomic import is_full, write_atomically
from supplecast.document.step import load_steps
from supplecast.errors import BusyError, ConflictError, SketchError, StoreError, SuppleError
from supplecast.exchange.triangles import ROLE_COLOURS
from supplecast.expressions import LENGTH_UNITS
from supplecast.sketch.work import Clash
from supplecast.store.library import Library
from supplecast.store.opening import SECRET
from supplecast.web import context, demo, habits, pages
from supplecast.web.api import api
from supplecast.web.entry import LockedError
from supplecast.web.guide import guide
from supplecast.web.handbook import book
from supplecast.web.lessons import lessons
from supplecast.web.spoken import MASS_UNITS, said
from supplecast.workers.engine import Engine

LARGEST_UPLOAD = 64 * 1024 * 1024
LARGEST_JSON = 4 * 1024 * 1024
MOST_WORK = 2.5e6  # of one request, in units of `budget`
_FACTS = {"units": LENGTH_UNITS, "masses": MASS_UNITS, "colours": ROLE_COLOURS}
"""What scripts need to know that the server knows: said once, on every page."""
LOCAL = ("127.0.0.1", "localhost", "[::1]")


def create_app(library: Library, engine: Engine, port: int = 0) -> Flask:
    """The application. Browsers know hosts but no ports apart, so the cookies of each `port` have a name of their own."""
    load_steps()
    app = Flask(__name__)
    app.config.update(
        SECRET_KEY=_secret(library.directory),
        MAX_CONTENT_LENGTH=LARGEST_UPLOAD,
        MAX_FORM_MEMORY_SIZE=2 * 1024 * 1024,
        SESSION_COOKIE_NAME=f"supplecast_{port}",
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        SEND_FILE_MAX_AGE_DEFAULT=3600,
        LIBRARY=library,
        ENGINE=engine,
    )
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.before_request(lambda: budget.begin(MOST_WORK))
    app.before_request(_guard)
    app.teardown_request(lambda _: budget.end())
    app.after_request(_harden)
    app.context_processor(lambda: {"nonce": _nonce, "token": _token, "facts": _FACTS | habits.facts(), "theme": habits.theme})
    app.jinja_env.globals["demo_parts"] = demo.parts
    app.jinja_env.filters["typed"] = lambda text: habits.voice().typed(text)
    app.add_url_rule("/token", "token", lambda: jsonify(token=_token()))
    app.register_blueprint(pages.pages)
    app.register_blueprint(book)
    app.register_blueprint(lessons)
    app.register_blueprint(guide)
    app.register_blueprint(api)
    app.register_error_handler(SuppleError, _refused)
    app.register_error_handler(OSError, _unwritten)
    app.register_error_handler(OperationalError, _unwritten)
    app.register_error_handler(HTTPException, _http)
    return app


def _secret(directory: Path) -> str:
    kept = directory / SECRET
    if not kept.exists():
        write_atomically(kept, secrets.token_hex(32).encode(), lasting=True, private=True)
    return kept.read_text()


def _nonce() -> str:
    if "nonce" not in g:
        g.nonce = secrets.token_urlsafe(16)
    return str(g.nonce)


def _token() -> str:
    if "token" not in session:
        session["token"] = secrets.token_urlsafe(24)
    return str(session["token"])


def _guard() -> None:
    host = request.host.rsplit(":", 1)[0] if not request.host.endswith("]") else request.host
    if host not in LOCAL:
        abort(421, "This program answers only on this machine's own address.")
    if request.is_json and (request.content_length or 0) > LARGEST_JSON:
        abort(413)
    if request.method not in ("GET", "HEAD", "OPTIONS"):
        given = request.headers.get("X-Token") or request.form.get("token", "")
        if not given or not hmac.compare_digest(given.encode(), str(session.get("token", "")).encode()):
            raise StaleError("The page is out of date.", "Reload it, then try again.")


def _harden(response: Response) -> Response:
    nonce = _nonce()
    response.headers["Content-Security-Policy"] = (
        f"default-src 'none'; script-src 'self' 'nonce-{nonce}'; style-src 'self'; img-src 'self' data: blob:; "
        "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
    )
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
    response.headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=(), usb=(), payment=()"
    if response.mimetype in ("text/html", "application/json", "application/problem+json"):
        response.headers.setdefault("Cache-Control", "no-store")
    return response


class StaleError(SuppleError):
    """A page whose token is not, or no longer, that of its browser: it may fetch a new one and try again."""


_STATUS = ((StaleError, 403), (LockedError, 403), (ConflictError, 409), (StoreError, 404), (BusyError, 429))


def _refused(fault: SuppleError) -> tuple[Any, int]:
    status = next((status for kind, status in _STATUS if isinstance(fault, kind)), 422)
    if status == 403:
        current_app.logger.warning("Not let in: %s %r", request.method, request.path)
    more: dict[str, Any] = {}
    if status == 403:
        more = {"stale": isinstance(fault, StaleError), "locked": isinstance(fault, LockedError)}
    elif isinstance(fault, SketchError):
        more = {"lit": fault.lit, "drive": isinstance(fault, Clash) and fault.drive}
    voice = habits.voice(context.unit_of((request.view_args or {}).get("document_id", "")))
    return _problem(status, said(fault.message, voice), said(fault.hint, voice), **more), status


def _unwritten(fault: OSError | OperationalError) -> tuple[Any, int]:
    """A full disk, in words; other faults of that kind are ours."""
    if is_full(fault) if isinstance(fault, OSError) else "is full" in str(fault.orig):
        current_app.logger.error("The disk is full: %s", fault)
        return _problem(507, "The disk is full; the change was not kept.", "Make room, then try again."), 507
    raise fault


def _http(fault: HTTPException) -> tuple[Any, int]:
    status = fault.code or 500
    most = LARGEST_JSON if request.is_json else LARGEST_UPLOAD
    plain = {
        404: ("There is no such page.", "Go back to the list of projects."),
        405: ("That cannot be done here.", "Go back to the list of projects."),
        413: (f"What was sent is larger than {most // 2**20} MB.", "Save it smaller, or send only what is needed."),
    }
    message, hint = plain.get(status, (str(fault.description or fault.name), ""))
    return _problem(status, message, hint), status


def _problem(status: int, message: str, hint: str, **more: Any) -> Any:
    """RFC 9457 problem details for the API, a page for people."""
    if request.path.startswith("/api/") or request.is_json:
        response = jsonify({"type": "about:blank", "status": status, "title": message, "detail": hint, **more})
        response.content_type = "application/problem+json"
        return response
    return render_template("problem.html", status=status, message=message, hint=hint, **more)
