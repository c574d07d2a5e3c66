"""Choices among words."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast.web.controls import Control, Place, Token

_SAID = {
    "new": "as a new body",
    "add": "added",
    "cut": "cut",
    "by distance": "by",
    "+z": "up (+z)",
    "-z": "down (−z)",
    "+x": "along +x",
    "-x": "along −x",
    "+y": "along +y",
    "-y": "along −y",
}


class Choice(Control):
    """One of the words that the field's type lists."""

    kinds = ("choice",)

    def tokens(self, place: Place) -> Iterator[Token]:
        options = tuple((word, _SAID.get(word, word)) for word in place.step.choices(place.path))
        yield Token("choice", path=place.path, value=str(place.value), options=options, template="select")
