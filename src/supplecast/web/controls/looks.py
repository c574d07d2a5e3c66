"""How a colour is shown: a swatch to choose any, its number to type, and those that resins are near to."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast.art.look import RESIN_TINTS
from supplecast.web.controls import Control, Place, Token


class Colour(Control):
    """A swatch that opens the wheel, and the number."""

    kinds = ("colour",)

    def tokens(self, place: Place) -> Iterator[Token]:
        yield Token("colour", path=place.path, value=place.step.typed(place.path))


class Picture(Control):
    """The name of the picture, which chooses another one."""

    kinds = ("picture",)

    def tokens(self, place: Place) -> Iterator[Token]:
        yield Token("picture", place.value.file if place.value else "the check card", place.path)


class Put(Control):
    """What lets one put it with a click, and what takes it back to where it is by itself."""

    kinds = ("put",)

    def tokens(self, place: Place) -> Iterator[Token]:
        yield Token("put", "put it elsewhere by a click" if place.value else "put it by a click", place.path, template="spot")
        if place.value:
            yield Token("words", " or ")
            yield Token("set", "back to the middle", place.path, "null")


def near(path: str) -> Token:
    """The usual colours, one click each."""
    return Token("near", path=path, options=tuple((tint.colour, tint.name) for tint in RESIN_TINTS))
