"""The formats that bodies are handed off in. A new format is one module here that says what it is in `FORMAT`."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache

from supplecast import kernel
from supplecast.document.state import Entry
from supplecast.errors import ExchangeError
from supplecast.exchange.triangles import Part
from supplecast.exchange.wardrobe import Wardrobe

FINEST = 0.001


@dataclass(frozen=True)
class Tolerance:
    """How far triangles may leave the surface in mm, and the angle between neighbouring ones in rad."""

    deflection: float = 0.02
    angle: float = 0.2

    def __post_init__(self) -> None:
        if not FINEST <= self.deflection <= 5:
            raise ExchangeError(f"A tolerance of {self.deflection:g} mm is out of range.", f"Type one from {FINEST:g} to 5 mm.")


Write = Callable[[Sequence[Entry], Tolerance, Wardrobe], bytes]


@dataclass(frozen=True)
class FileFormat:
    """A format: its `name` is the file's extension, `about` what the handoff says of it, `order` its place there.

    `write` makes the file of bodies in what they wear. `exact` formats hold surfaces and know no tolerance.
    """

    name: str
    media: str
    about: str
    order: int
    write: Write
    exact: bool = False


@cache
def formats() -> dict[str, FileFormat]:
    """Every format by its name, in the order of the handoff."""
    known = [importlib.import_module(f"{__name__}.{module.name}").FORMAT for module in pkgutil.iter_modules(__path__)]
    return {one.name: one for one in sorted(known, key=lambda one: one.order)}


def of_triangles(write: Callable[[Sequence[Part]], bytes]) -> Write:
    """The writer of a format that holds closed triangles, from one that writes meshed bodies."""

    def written(entries: Sequence[Entry], tolerance: Tolerance, wardrobe: Wardrobe) -> bytes:
        fine = (tolerance.deflection, tolerance.angle)
        return write([wardrobe.part(entry, kernel.mesh.tessellate(entry.body.solid, *fine)) for entry in entries])

    return written
