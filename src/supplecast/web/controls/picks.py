"""Chips that say what is picked on the model; a click picks anew."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast.document import words
from supplecast.web.controls import Control, Place, Token


class Picks(Control):
    """Faces, edges, or things to measure."""

    kinds = ("faces", "edges", "things")

    def tokens(self, place: Place) -> Iterator[Token]:
        kind = place.spec.kind
        say = words.things_words if kind == "things" else words.picks_words
        picks = [pick.model_dump(mode="json", exclude_none=True) for pick in place.value]
        yield Token("picks", say(place.value, place.document.steps), place.path, kind, picks=picks)
