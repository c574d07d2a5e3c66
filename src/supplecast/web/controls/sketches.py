"""Sketches: one to choose, with its areas or as a path; several in an order; and steps that can be copied."""

from __future__ import annotations

import json
from collections.abc import Iterator

from supplecast.document.fields import Profile
from supplecast.web.controls import Control, Place, Token


class Areas(Control):
    """A sketch to choose and, where its areas count, a chip to choose those."""

    kinds = ("profile", "line")

    def tokens(self, place: Place) -> Iterator[Token]:
        value: Profile | None = place.value
        sketches = tuple((s.id, s.label) for s in place.document.steps if s.type == "sketch")
        settings = {sketch: {"sketch": sketch} for sketch, _ in sketches}
        if value is None:
            options = (("", "pick a sketch"), *sketches)
            yield Token("sketch", path=place.path, value="", options=options, settings=settings, template="select")
            return
        chosen = () if value.regions == "all" else value.regions
        count = f"{len(chosen)} area{'s' if len(chosen) != 1 else ''}" if chosen else "all areas"
        text = count if place.spec.kind == "profile" else ""
        yield Token("profile", text, place.path, value.sketch, sketches, chosen=chosen, settings=settings)


class Sketch(Control):
    """A sketch, or none."""

    kinds = ("sketch",)

    def tokens(self, place: Place) -> Iterator[Token]:
        sketches = [(s.id, s.label) for s in place.above if s.type == "sketch"]
        options = (("", "no sketch"), *sketches)
        settings = {value: value or None for value, _ in options}
        yield Token("sketch", path=place.path, value=place.value or "", options=options, settings=settings, template="select")


class Outlines(Control):
    """Several sketches, in an order."""

    kinds = ("profiles",)

    def tokens(self, place: Place) -> Iterator[Token]:
        options = tuple((json.dumps({"sketch": s.id}), s.label) for s in place.above if s.type == "sketch")
        chosen = tuple(json.dumps({"sketch": pick.sketch}) for pick in place.value)
        yield Token("toggles", path=place.path, value="in order", options=options, chosen=chosen)


class Steps(Control):
    """Steps that patterns and mirrors can do again."""

    kinds = ("steps",)

    def tokens(self, place: Place) -> Iterator[Token]:
        options = tuple((json.dumps(s.id), s.label) for s in place.above if s.repeats)
        yield Token("toggles", path=place.path, options=options, chosen=tuple(json.dumps(step) for step in place.value))
