"""Rows: further entries of one kind, each a clause of its own."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import replace

from supplecast.document.fields import Row, row_model
from supplecast.web.controls import Control, Place, Token, shown
from supplecast.web.controls.looks import near

_BRACES = re.compile(r"\{([a-zA-Z0-9_.]+)\}")


def sentence(text: str, place: Place) -> Iterator[Token]:
    """The pieces of a sentence with fields in braces; the path of `place` does not count."""
    at = 0
    for match in _BRACES.finditer(text):
        if match.start() > at:
            yield Token("words", text[at : match.start()])
        path = match.group(1)
        if path.endswith(".add"):
            yield _adding(path.removesuffix(".add"), place)
        elif path.endswith(".near"):
            yield near(path.removesuffix(".near"))
        else:
            yield from shown(replace(place, path=path))
        at = match.end()
    if at < len(text):
        yield Token("words", text[at:])


class Rows(Control):
    """Every row by its own sentence, with a way to take it out."""

    kinds = ("rows",)

    def tokens(self, place: Place) -> Iterator[Token]:
        path, rows = place.path, place.value
        held = _held(rows)
        for number, row in enumerate(rows):
            yield from sentence(_BRACES.sub(rf"{{{path}.{number}.\1}}", row.sentence), place)
            yield Token("set", "×", path, json.dumps(held[:number] + held[number + 1 :]))


def _adding(path: str, place: Place) -> Token:
    """The button that adds a row."""
    return Token("set", row_model(type(place.step), path).adding, path, json.dumps([*_held(place.step.held(path)), {}]))


def _held(rows: tuple[Row, ...]) -> list[dict[str, object]]:
    return [row.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for row in rows]
