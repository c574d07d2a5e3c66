"""The model's own edges behind a sketch, as the pointer sees them: snapped to, and taken only when they are used."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from supplecast.errors import SketchError
from supplecast.quantities import Scope
from supplecast.sketch.acts.take import Take, TakenCurve
from supplecast.sketch.inference import Sights
from supplecast.sketch.model import ORIGIN, Drawing, stands_on
from supplecast.sketch.pen import Pen
from supplecast.sketch.picks import Snap
from supplecast.sketch.work import copied

_curves: TypeAdapter[list[TakenCurve]] = TypeAdapter(list[TakenCurve])


@dataclass(frozen=True)
class Ghosts:
    """What is seen with the model's edges among the drawing's own: `drawing` holds both, `owner` tells of each of their curves
    which row it is; their points are those of these curves.
    """

    drawing: Drawing
    sights: Sights
    owner: Mapping[str, int]

    def takes(self, real: Drawing, snaps: Sequence[Snap]) -> tuple[tuple[int, str], ...]:
        """Rows to be taken for snaps to hold, each with the name its curve has here."""
        wanted: dict[str, int] = {}
        for snap in snaps:
            for part in snap.on if snap.type not in ("level", "plumb") else ():
                if part in real.points or part in real.entities or part == ORIGIN:
                    continue
                standing = (name for name in self.owner if part in stands_on(self.drawing.entities[name]))
                name = part if part in self.owner else next(standing, "")
                wanted |= {name: self.owner[name]} if name else {}
        return tuple((row, name) for name, row in wanted.items())


def seen(drawing: Drawing, rows: Sequence[Mapping[str, Any]]) -> Ghosts:
    """A drawing with the model's edges over it. Rows that are taken already, or are none, are left out."""
    pen, curves = Pen(copied(drawing), Scope()), _curves.validate_python(list(rows))
    with contextlib.suppress(SketchError):  # all of them may be taken already
        Take.model_construct(curves=tuple(curves), real=False).on(pen)
    row = {id(curve.source): number for number, curve in enumerate(curves)}
    owner = {name: row[id(pen.drawing.taken[name])] for name in pen.made}
    return Ghosts(pen.drawing, Sights(pen.drawing), owner)
