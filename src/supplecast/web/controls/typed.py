"""What is typed: numbers with their units, counts, texts, names."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast.web.controls import Control, Place, Token


class Number(Control):
    """A number, or whatever else is typed into the sentence itself."""

    kinds = ("length", "angle", "percent", "count", "factor", "list", "words")

    def tokens(self, place: Place) -> Iterator[Token]:
        yield number(place.path, place.step.typed(place.path), place.spec.kind)


class Text(Control):
    """The name of a step."""

    kinds = ("text",)

    def tokens(self, place: Place) -> Iterator[Token]:
        yield Token("text", path=place.path, value=place.step.typed(place.path), text=place.step.word)


class File(Control):
    """The name of an imported file: said, not typed."""

    kinds = ("file",)

    def tokens(self, place: Place) -> Iterator[Token]:
        yield Token("words", f"“{place.step.typed(place.path)}”")


def number(path: str, value: str, kind: str) -> Token:
    """A number to type."""
    return Token("number", path=path, value=value, text=kind)
