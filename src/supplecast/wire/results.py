"""What workers answer, one class a verb. Lengths in mm, areas mm², volumes mm³; a `blob` or `mesh` is a file's name in the
blob directory; a pick is the JSON of a lasting reference.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from supplecast.document.advise import Advice
from supplecast.document.fields import LinkPick
from supplecast.document.order import Place
from supplecast.document.parts_list import Item
from supplecast.document.stroke import Stroke
from supplecast.document.surface_list import SurfaceMark
from supplecast.geometry import Point2, Vec
from supplecast.molding.gauge import Gauge
from supplecast.molding.stack_drawing import StackSection
from supplecast.wire.bodies import ShownBody
from supplecast.wire.reports import BuiltStep

Pick = Mapping[str, Any]
Line = Sequence[Vec]


# --- building -------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class DrawnSketch:
    """A sketch as lines in space, with which of them are loose; `used` if a step builds on it."""

    id: str
    name: str
    lines: Sequence[Line]
    loose: Sequence[bool]
    freedoms: int
    used: bool


@dataclass(frozen=True)
class DrawnDatum:
    """A datum as lines in space, as large as the model."""

    id: str
    name: str
    kind: str
    lines: Sequence[Line]


@dataclass(frozen=True)
class BodyContact:
    """Two bodies that share space, or touch along no more than an edge or a point, as `kernel.contact` tells it."""

    bodies: tuple[str, str]
    names: tuple[str, str]
    kind: str
    place: Vec
    volume: float
    direction: Vec


@dataclass(frozen=True)
class LitPick:
    """Where a pick lies now: faces or edges of a body by number, or the point that it stands for; and its words."""

    body: str
    pick: Pick
    status: str
    words: str
    faces: Sequence[int] = ()
    edges: Sequence[int] = ()
    point: Vec | None = None


@dataclass(frozen=True)
class SketchFrame:
    """Where a sketch lies: its origin and its unit directions."""

    origin: Vec
    x: Vec
    y: Vec
    normal: Vec


@dataclass(frozen=True)
class BuildResult:
    """A built document. `called` are the names of all bodies, those used up too; `renamed` what a body was called before a
    step, with that step and body; `lines` what a step draws while it is worked
    on; `taken` where points taken from the model lie, by sketch; `picks` where the picks handed along lie; `stroke` how a tool
    opens, or an assembly is drawn apart.
    """

    document: str
    ok: bool
    steps: Sequence[BuiltStep]
    bodies: Sequence[ShownBody]
    called: Mapping[str, str]
    renamed: Sequence[tuple[str, str, str]]
    sketches: Sequence[DrawnSketch]
    datums: Sequence[DrawnDatum]
    lines: Mapping[str, Sequence[Line]]
    contacts: Sequence[BodyContact]
    taken: Mapping[str, Mapping[str, Point2]]
    frames: Mapping[str, SketchFrame]
    ms: float
    picks: Sequence[LitPick]
    stroke: Stroke | None


@dataclass(frozen=True)
class Shelved:
    """How many shapes were written anew."""

    written: int


# --- picking and measuring ------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class OfferedRule:
    """A rule that catches what was picked and more: in words, and what, by number."""

    rule: Pick
    words: str
    items: Sequence[int]


@dataclass(frozen=True)
class Reference:
    """The lasting reference to what was picked, and in `words`, with the rules that would catch it and more; of a face whether
    it is `flat`, and its `area`. Where a face stands for its edges and has no name of its own, the `further` ones beside the
    first.
    """

    pick: Pick
    word: str
    flat: bool | None = None
    area: float | None = None
    rules: Sequence[OfferedRule] = ()
    further: Sequence[Pick] = ()
    words: str = ""


@dataclass(frozen=True)
class References:
    picks: Sequence[Reference]


@dataclass(frozen=True)
class MeasuredFigure:
    """A figure in words, in the document's unit; `value` in mm, mm² or rad."""

    name: str
    words: str
    value: float


@dataclass(frozen=True)
class Measured:
    """What one or two picked things measure; `line` joins the nearest places of two."""

    picks: Sequence[Pick]
    line: tuple[Vec, Vec] | None
    figures: Sequence[MeasuredFigure]


@dataclass(frozen=True)
class InUnit:
    """The model's size in words in a new unit, a warning where that looks wrong, and whether it builds."""

    size: Sequence[str]
    warning: str
    ok: bool


@dataclass(frozen=True)
class UnitChange:
    """What the ways of changing the unit would give: the `size` kept, or the `numbers`; and where some are typed `with_units`,
    those that keep their size, and what it would give to take `all_numbers`.
    """

    size: InUnit
    numbers: InUnit
    all_numbers: InUnit
    with_units: Sequence[str]


@dataclass(frozen=True)
class TakenCurves:
    """Curves laid into a sketch's plane, as the act `take` reads them."""

    curves: Sequence[Mapping[str, Any]]


# --- advice ---------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class AdviceResult:
    advice: Advice | None


@dataclass(frozen=True)
class PlacesResult:
    places: Sequence[Place]


# --- judging --------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class OnTheWay:
    """The bodies after the `number`th step, shown while the steps after it are being built."""

    number: int
    bodies: Sequence[ShownBody]


@dataclass(frozen=True)
class JudgedSkin:
    """A body's skin as a blob of triangles (nine coordinates and a normal each) and the blobs of its maps, one value a
    triangle; `traces` are lines along which faces turn over, or the axes of coolant bores.
    """

    body: str
    mesh: str
    skin: str
    maps: Mapping[str, str]
    triangles: int
    traces: Sequence[Line]


@dataclass(frozen=True)
class Gauges:
    """The gauges of a part or tool; `why` says why there are none. `short`: it is not molded, and not judged."""

    gauges: Sequence[Gauge] = ()
    skins: Sequence[JudgedSkin] = ()
    gate: Vec | None = None
    why: str = ""
    short: bool = False


@dataclass(frozen=True)
class Pull:
    """A pull and the share of the skin it would leave hidden."""

    direction: Vec
    hidden: float


@dataclass(frozen=True)
class Pulls:
    """Pulls, the best first."""

    pulls: Sequence[Pull]


@dataclass(frozen=True)
class CaptionedPicture:
    words: str
    blob: str


@dataclass(frozen=True)
class ReportResult:
    """What the report says of the shape: gauges, size, pictures, and in words what `failed` and what steps ask to look at; of a
    tool also its parts list and the section through its stack. `surfaces` are what the toolmaker does to them.
    """

    gauges: Sequence[Gauge]
    size: Sequence[float]
    pictures: Sequence[CaptionedPicture]
    failed: Sequence[str]
    cautions: Sequence[str]
    items: Sequence[Item] = ()
    stack: StackSection | None = None
    surfaces: Sequence[SurfaceMark] = ()


# --- sections and comparisons ---------------------------------------------------------------------------------------


@dataclass(frozen=True)
class CutBody:
    """The outlines in which a plane cuts a body, as lines in space."""

    body: str
    name: str
    lines: Sequence[Line]


@dataclass(frozen=True)
class CutWall:
    """The wall across a cut: of which body, where it begins and ends, and its thickness."""

    body: str
    ends: tuple[Vec, Vec]
    wall: float


@dataclass(frozen=True)
class Section:
    bodies: Sequence[CutBody]
    wall: CutWall | None


# --- files ----------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class WrittenFile:
    """A file in the blob directory, the name to offer it by, and its size."""

    blob: str
    name: str
    bytes: int


@dataclass(frozen=True)
class Picture:
    """A picture of the bodies; none where there is no body."""

    blob: str | None


@dataclass(frozen=True)
class PlacedBody:
    """A body of another document, and how it is carried to its place: turn and shift in mm, by rows of a matrix (3, 4)."""

    part: LinkPick
    placed: Sequence[float]


@dataclass(frozen=True)
class Placed:
    """The document of a part in an assembly, what stands around it, and the names of what cannot be told."""

    document: str
    around: Sequence[PlacedBody]
    left: Sequence[str]


@dataclass(frozen=True)
class FileBodies:
    """Names of the bodies in a file, and how it is best taken."""

    bodies: Sequence[str]
    taken: str


@dataclass(frozen=True)
class PictureFacts:
    """What kind of picture a file holds, and its size: in pixels, or a drawing's own units."""

    kind: str
    width: float
    height: float


@dataclass(frozen=True)
class OutlineCurves:
    """Curves of a file, as the act `bring in` reads them, notes on what was left out, and how far (mm) they may be off."""

    curves: Sequence[Mapping[str, Any]]
    notes: Sequence[str] = field(default=())
    off: float = 0.0
