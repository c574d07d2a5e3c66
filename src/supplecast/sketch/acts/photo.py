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
    """Size a photo so that two places on it lie a distance apart; the first stays where it is."""

    words = "Size a tracing photo"
    do: Literal["size photo"] = "size photo"
    name: Id
    a: Place
    b: Place
    distance: Text

    def on(self, pen: Pen) -> None:
        photo = _photo(pen, self.name)
        if photo.locked:
            raise SketchError("The photo is locked.", "Unlock it first.")
        distance, apart = pen.mm(self.distance, "distance"), math.dist(self.a, self.b)
        if apart < _CLOSE:
            raise SketchError("Both clicks lie in one place.", "Click two places far apart on the photo.")
        factor = distance / apart
        width: Coordinate = photo.width * factor
        if not 0.01 <= width <= 1e5:
            raise SketchError("The photo would be too small or too large.", "Check the distance and its unit.")
        at = tuple(self.a[i] + (photo.at[i] - self.a[i]) * factor for i in (0, 1))
        pen.drawing.photos[self.name] = photo.model_copy(update={"width": width, "at": at})


class RemovePhoto(Act):
    """Take a photo away."""

    words = "Remove a tracing photo"
    do: Literal["remove photo"] = "remove photo"
    name: Id

    def on(self, pen: Pen) -> None:
        _photo(pen, self.name)
        del pen.drawing.photos[self.name]
