"""Bodies as the view shows them: where their meshes lie, what they measure, and what their faces wear."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.document.model import Look
from supplecast.geometry import Vec


@dataclass(frozen=True)
class ShownFinish:
    """How a body or faces look, as shares of 1: `step` says which step's doing it is; blank where the material looks so."""

    step: str
    name: str
    kind: str
    colour: str
    gloss: float
    tint: float
    grain: str


@dataclass(frozen=True)
class FinishedFaces:
    finish: ShownFinish
    faces: Sequence[int]


@dataclass(frozen=True)
class ShownPrint:
    """A print cut to what it covers, as a blob of corners (place, normal, place in the picture, stretch: nine floats), and the
    `picture`'s; `strained` shows the stretch instead of the picture.
    """

    step: str
    skin: str
    picture: str
    strained: bool


@dataclass(frozen=True)
class ShownBody:
    """A body as the view shows it; `solid` unless it is a surface or a mesh of triangles; `mass` in g where the resin is known,
    `stale` where it is a last good shape, `pull` the way it leaves the mold, `group` the assemblies it is in. `mesh` is missing
    where drawing it is known to hang. `finish` is what all of it wears, `areas` what some faces wear instead.
    """

    id: str
    name: str
    role: str
    solid: bool
    mesh: str | None
    volume: float
    area: float
    mass: float | None
    low: Vec
    high: Vec
    faces: int
    pull: Vec | None
    stale: bool
    look: Look
    group: Sequence[str]
    finish: ShownFinish | None
    areas: Sequence[FinishedFaces]
    prints: Sequence[ShownPrint]
