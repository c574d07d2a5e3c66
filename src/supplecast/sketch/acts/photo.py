"""Tracing photos under the sketch: put there, sized by two points and a distance, moved, turned, faded, locked."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from supplecast.errors import SketchError
from supplecast.sketch.acts import Act, Text
from supplecast.sketch.acts.draw import Place
from supplecast.sketch.belongings import Coordinate, Id, Photo
from supplecast.sketch.pen import Pen

_CLOSE = 1e-6


def _photo(pen: Pen, name: str) -> Photo:
    photo = pen.drawing.photos.get(name)
    if photo is None:
        raise SketchError("That photo is no longer under the sketch.", "Bring it in again.")
    return photo


class AddPhoto(Act):
    """Put a photo under the sketch, its middle at the origin."""

    words = "Tracing photo"
    do: Literal["add photo"] = "add photo"
    photo: Photo

    def on(self, pen: Pen) -> None:
        name = pen.fresh("i")
        pen.drawing.photos[name] = self.photo
        pen.made.append(name)


class SetPhoto(Act):
    """Move, turn, fade or lock a photo."""

    words = "Tracing photo"
    do: Literal["set photo"] = "set photo"
    name: Id
    at: Place | None = None
    turn: Text | None = None
    fade: Annotated[float, Field(ge=0.05, le=1)] | None = None
    locked: bool | None = None

    def on(self, pen: Pen) -> None:
        photo = _photo(pen, self.name)
        if photo.locked and self.locked is not False and (self.at is not None or self.turn is not None):
            raise SketchError("The photo is locked.", "Unlock it first.")
        turn = photo.turn if self.turn is None else math.degrees(pen.radians(self.turn))
        given = {"at": self.at, "fade": self.fade, "locked": self.locked}
        changes = {key: value for key, value in given.items() if value is not None}
        pen.drawing.photos[self.name] = photo.model_copy(update={**changes, "turn": turn})


class SizePhoto(Act):
    """Size a photo so that two places on it lie a distance apart, or one across and another up, which may stretch it; the first
    stays where it is.
    """

    words = "Size a tracing photo"
    do: Literal["size photo"] = "size photo"
    name: Id
    a: Place
    b: Place
    distance: Text = ""
    across: Text = ""
    up: Text = ""

    def on(self, pen: Pen) -> None:
        photo = _photo(pen, self.name)
        if photo.locked:
            raise SketchError("The photo is locked.", "Unlock it first.")
        if math.dist(self.a, self.b) < _CLOSE:
            raise SketchError("Both clicks lie in one place.", "Click two places far apart on the photo.")
        cos, sin = math.cos(math.radians(photo.turn)), math.sin(math.radians(photo.turn))

        def along(p: Place, q: Place) -> tuple[float, float]:  # from one place to another, as the photo lies
            dx, dy = q[0] - p[0], q[1] - p[1]
            return (dx * cos + dy * sin, dy * cos - dx * sin)

        fx, fy = self._factors(pen, along(self.a, self.b))
        width: Coordinate = photo.width * fx
        stretch = photo.stretch * fy / fx
        if not (0.01 <= width <= 1e5 and 0.01 <= stretch <= 100):
            raise SketchError("The photo would be too small, too large or too narrow.", "Check the distance and its unit.")
        x, y = along(self.a, photo.at)
        at = (self.a[0] + x * fx * cos - y * fy * sin, self.a[1] + x * fx * sin + y * fy * cos)
        pen.drawing.photos[self.name] = photo.model_copy(update={"width": width, "at": at, "stretch": stretch})

    def _factors(self, pen: Pen, apart: tuple[float, float]) -> tuple[float, float]:
        """How much wider and how much higher the photo is to be."""
        if self.distance.strip() and (self.across.strip() or self.up.strip()):
            raise SketchError("Too much is typed.", "Type the distance, or how far across and up, not both.")
        if self.distance.strip():
            factor = pen.mm(self.distance, "distance") / math.hypot(*apart)
            return factor, factor
        factors: list[float | None] = []
        for label, text, span in (("across", self.across, abs(apart[0])), ("up", self.up, abs(apart[1]))):
            if text.strip() and span < 0.02 * math.hypot(*apart):
                raise SketchError(f"Both places lie too near to each other {label}.", "Click two places on a slant.")
            factors.append(pen.mm(text, label) / span if text.strip() else None)
        fx, fy = factors
        if fx is None and fy is None:
            raise SketchError("No distance is typed.", "Type how far apart the two places are.")
        return fx or fy or 1.0, fy or fx or 1.0


class RemovePhoto(Act):
    """Take a photo away."""

    words = "Remove a tracing photo"
    do: Literal["remove photo"] = "remove photo"
    name: Id

    def on(self, pen: Pen) -> None:
        _photo(pen, self.name)
        del pen.drawing.photos[self.name]
