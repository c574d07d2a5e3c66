"""Bodies of a built document as files, named sensibly."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Sequence

from supplecast.document.state import Entry
from supplecast.errors import ExchangeError
from supplecast.exchange.formats import Tolerance, formats
from supplecast.exchange.wardrobe import Wardrobe


def file_name(*words: str, extension: str) -> str:
    """A file name that every system takes: plain letters, digits, - and _."""
    text = unicodedata.normalize("NFKD", " ".join(w for w in words if w)).encode("ascii", "ignore").decode()
    text = re.sub(r"[^A-Za-z0-9]+", "-", text).strip("-").lower()[:100]
    return f"{text or 'body'}.{extension}"


def writable(entries: Iterable[Entry], format: str) -> list[Entry]:
    """Those bodies that a format can hold: surfaces only go into exact ones, meshes only into those of triangles."""
    exact = formats()[format].exact
    return [entry for entry in entries if entry.is_solid or exact == (entry.role == "surface")]


def write(entries: Sequence[Entry], format: str, tolerance: Tolerance | None = None, wardrobe: Wardrobe | None = None) -> bytes:
    """One file that holds those of the given bodies that it can; `wardrobe` is what they wear."""
    if not entries:
        raise ExchangeError("There is no body to write.", "Pick at least one body.")
    fitting = writable(entries, format)
    if not fitting:
        exact, rest = (" or ".join(one.name.upper() for one in formats().values() if one.exact is e) for e in (True, False))
        if any(entry.role == "surface" for entry in entries):
            raise ExchangeError(f"Surfaces can only be written as {exact}.", f"Choose {exact}, or thicken them first.")
        raise ExchangeError(f"Meshes can only be written as {rest}.", f"Choose {rest}, or import them healed, as solids.")
    entries = fitting
    return formats()[format].write(entries, tolerance or Tolerance(), wardrobe or Wardrobe())
