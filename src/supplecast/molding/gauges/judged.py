"""What gauges are made from: what is asked of a part, and what was measured of its bodies."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from supplecast import kernel
from supplecast.geometry import Floats, Vec, vec
from supplecast.molding.flow import Flow
from supplecast.molding.gauge import Offender
from supplecast.molding.judge import Pulled
from supplecast.tooling.resins import SOURCE, Resin, required_draft

MOST_OFFENDERS = 200


@dataclass(frozen=True)
class Asked:
    """What a part is judged by: its resin and where its figures are from, the pull, how deep its texture is in mm, and where it
    is gated.
    """

    resin: Resin | None
    pull: Vec
    texture: float = 0.0
    gate: Vec | None = None
    source: str = SOURCE


@dataclass(frozen=True)
class Judged:
    """A body with its id and name and what was measured of it; `flow` where there is a gate. `etched` says how deep each face
    is, in mm, where faces have textures of their own.
    """

    id: str
    name: str
    pulled: Pulled
    flow: Flow | None = None
    etched: tuple[float, ...] = ()

    def needed(self, asked: Asked) -> Floats:
        """Degrees of draft that each face needs by the resin and its texture, (faces,)."""
        depths = self.etched or (asked.texture,) * self.pulled.skin.solid.face_count
        least = asked.resin.draft if asked.resin else 1.0
        return np.array([required_draft(least, depth) for depth in depths])

    @property
    def volume(self) -> float:
        return kernel.measure.volume(self.pulled.skin.solid)


def offender(words: str, place: Vec, body: Judged, faces: tuple[int, ...]) -> Offender:
    """An offender on a body's skin, which looks the way the skin does there."""
    near = body.pulled.skin.places.whole.nearest(np.array([place])).triangles[0]
    return Offender(words, place, vec(body.pulled.skin.places.whole.normals[near]), body.id, faces)


def largest(bodies: Sequence[Judged]) -> Judged:
    """The body that speaks for the part."""
    return max(bodies, key=lambda body: body.volume)
