"""How the one at this browser writes numbers (decimal sign, masses, currency), and likes the screen: light or dark. Kept with
them, in a cookie.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal
from urllib.parse import parse_qsl, urlencode

from flask import g, request
from werkzeug.wrappers import Response

from supplecast.web.spoken import MASS_UNITS, Voice

_COOKIE = "habits"
_YEAR = 365 * 24 * 3600
Theme = Literal["system", "light", "dark"]
THEMES: tuple[Theme, ...] = ("system", "light", "dark")
_LONGEST = 6
"""Characters of a currency's sign: enough for “US-$”."""


def voice(unit: str = "mm") -> Voice:
    """How to speak to the one who asks, of a document in a unit. What no page of ours has set is left aside."""
    if "habits" not in g:  # asked for by every number of a page
        g.habits = _voice(_kept(), "mm")
    kept: Voice = g.habits
    return replace(kept, unit=unit)


def theme() -> Theme:
    """Whether the screen is light or dark, or as the system has it."""
    return _theme(_kept())


def facts() -> dict[str, str]:
    """What scripts need to know of how the reader writes."""
    kept = voice()
    return {"decimal": kept.decimal, "mass": kept.mass}


def keep(answer: Response) -> Response:
    """Keep what the form of habits says, with the answer to it."""
    new = _voice(request.form, "mm")
    kept = {"decimal": new.decimal, "mass": new.mass, "currency": new.currency, "theme": _theme(request.form)}
    text = urlencode(kept)
    answer.set_cookie(_COOKIE, text, max_age=_YEAR, httponly=True, samesite="Strict")
    return answer


def _kept() -> dict[str, str]:
    return dict(parse_qsl(request.cookies.get(_COOKIE, "")[:200]))


def _theme(given: Mapping[str, str]) -> Theme:
    return next((known for known in THEMES if known == given.get("theme")), "system")


def _voice(given: Mapping[str, str], unit: str) -> Voice:
    decimal, mass, currency = (given.get(name, "") for name in ("decimal", "mass", "currency"))
    printable = "".join(sign for sign in currency.strip() if sign.isprintable() and sign not in "“”¤<>&")[:_LONGEST]
    return Voice(unit, "," if decimal == "," else ".", mass if mass in MASS_UNITS else "", printable)
