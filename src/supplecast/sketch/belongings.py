"""What a sketch keeps besides curves and constraints: figures that were typed, copies in rows and rings, photos, and where
curves were taken from the model."""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from supplecast.text import Cleaned

Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_]{1,24}$")]
Coordinate = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]


class Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Size(Part):
    """One number of a figure: the constraint that carries it, and whether it may be `free` to be zero or negative."""

    constraint: Id
    free: bool = False


class Figure(Part):
    """A figure that was typed: its kind and its sizes, by the name the sheet shows."""

    kind: Literal["rectangle", "circle", "polygon", "slot"]
    note: Annotated[str, Cleaned, StringConstraints(max_length=60)] = ""
    sizes: dict[Id, Size]
    entities: tuple[Id, ...]


class Series(Part):
    """Copies in a row or a ring: of what, the curves of each copy in turn, and what they are spaced `by`: in a row a point and
    its first copy, in a ring the centre. A ring turns a `step` from one to the next, `even` if that is a full turn shared out.
    """

    kind: Literal["row", "ring"]
    of: tuple[Id, ...]
    copies: Annotated[tuple[tuple[Id, ...], ...], Field(max_length=200)] = ()
    by: tuple[Id, ...]
    step: Annotated[str, StringConstraints(max_length=400)] = ""
    even: bool = False
    group: Id | None = None
    label: tuple[Coordinate, Coordinate] | None = None

    @property
    def count(self) -> int:
        return len(self.copies) + 1

    def without(self, gone: Collection[str]) -> Series | None:
        """What is left of it without some points and curves; None where nothing is."""
        copies = tuple(tuple(name for name in copy if name not in gone) for copy in self.copies)
        whole = not any(name in gone for name in (*self.of, *self.by))
        return self.model_copy(update={"copies": copies}) if whole and any(copies) else None


class Photo(Part):
    """A picture under the sketch: the file it is kept in, its pixels, its middle, its width (mm), turn (degrees) and fade. Its
    height is as its pixels say, `stretch` times.
    """

    asset: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
    name: Annotated[str, Cleaned, StringConstraints(max_length=120)] = ""
    pixels: tuple[Annotated[int, Field(gt=0, le=100_000)], Annotated[int, Field(gt=0, le=100_000)]]
    at: tuple[Coordinate, Coordinate] = (0.0, 0.0)
    width: Annotated[float, Field(gt=0, le=1e5, allow_inf_nan=False)] = 100.0
    turn: Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)] = 0.0
    stretch: Annotated[float, Field(ge=0.01, le=100, allow_inf_nan=False)] = 1.0
    fade: Annotated[float, Field(ge=0.05, le=1)] = 0.5
    locked: bool = False


class Taken(Part):
    """Where an entity was taken from the model: an edge (its lasting reference), or the section or silhouette of a body."""

    edge: dict[str, Any] | None = None
    body: Annotated[str, StringConstraints(max_length=80)] | None = None
    how: Literal["edge", "section", "silhouette"] = "edge"
