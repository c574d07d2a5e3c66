"""What workers are asked beside the document, one class a verb. Picked things are given by number, on a mesh by its name."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from supplecast.geometry import Vec
from supplecast.wire.task import Task

"""The formats in which bodies are handed off."""


@dataclass(frozen=True)
class Nothing:
    """Nothing but the document."""


@dataclass(frozen=True)
class Build:
    """`preview`: while a number is being typed the shape counts, not the last digits. `exact` weighs steel to the last digit
    too. `picks` are references to be lit.
    """

    preview: bool = False
    exact: bool = False
    picks: Sequence[Mapping[str, Any]] = ()


@dataclass(frozen=True)
class PickedThing:
    """A face or an edge of a body by number in the view, on which mesh, and where it was clicked."""

    body: str
    mesh: str | None = None
    face: int | None = None
    edge: int | None = None
    point: Vec | None = None


@dataclass(frozen=True)
class Judge:
    """`every`: all gauges, also of what is not molded."""

    every: bool = False


@dataclass(frozen=True)
class Refer:
    """`spots`: of edges, also which point on them is meant; `loops`: a face stands for the edges round it; `rules`: with the
    rules that would catch what is picked and more.
    """

    picked: Sequence[PickedThing]
    spots: bool = False
    loops: bool = False
    rules: bool = False


@dataclass(frozen=True)
class InPlace:
    """A body of an assembly."""

    body: str


@dataclass(frozen=True)
class Measure:
    """One or two things."""

    picked: Sequence[PickedThing]


@dataclass(frozen=True)
class Units:
    unit: str


@dataclass(frozen=True)
class Take:
    """What to lay into the plane of a sketch: an edge or all edges of a face, a body's section or silhouette, or all its
    edges to be snapped to.
    """

    sketch: str
    picked: PickedThing
    how: Literal["edge", "section", "silhouette", "all"]


@dataclass(frozen=True)
class AtStep:
    step: str


@dataclass(frozen=True)
class Section:
    """Cut by the plane through `origin` across `normal`, without the `hidden` bodies; `spot` asks for the wall there."""

    origin: Vec
    normal: Vec
    hidden: Sequence[str] = ()
    spot: Vec | None = None


@dataclass(frozen=True)
class SectionFile:
    origin: Vec
    normal: Vec
    format: Literal["dxf", "svg"]
    hidden: Sequence[str] = ()


@dataclass(frozen=True)
class Compare:
    """The other side."""

    other: Task


@dataclass(frozen=True)
class Report:
    """Which revision is reported on."""

    revision: int


@dataclass(frozen=True)
class Export:
    """All bodies where none are named; `tolerance` in mm for triangles."""

    format: str
    bodies: Sequence[str] | None = None
    tolerance: float = 0.02


@dataclass(frozen=True)
class Draw:
    """The name the picture is to have."""

    name: str


@dataclass(frozen=True)
class Shoot:
    """A picture, or a film in which everything turns once round: size in pixels, yaw and pitch in rad, what is behind, whether
    all is seen through, how far it is drawn apart or opened as a share, and how long the film takes in s.
    """

    width: int
    height: int
    yaw: float
    pitch: float
    background: Literal["none", "bench", "paper", "dusk"] = "none"
    see_through: bool = False
    apart: float = 0.0
    film: Literal["png", "webp", "gif"] = "png"
    seconds: float = 4.0


@dataclass(frozen=True)
class ReadFile:
    path: str


@dataclass(frozen=True)
class TracePhoto:
    """A photo's file, and how it lies under the sketch."""

    path: str
    photo: Mapping[str, Any]
