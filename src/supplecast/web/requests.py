"""What pages and programs ask of the API: the body of each request. What is not named here is ignored."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    ValidationError,
    WithJsonSchema,
    model_validator,
)

from supplecast.document.edits import Edit, read_edit
from supplecast.errors import DocumentError, SuppleError
from supplecast.exchange.formats import formats
from supplecast.expressions import LENGTH_UNITS
from supplecast.naming import read_pick
from supplecast.sketch.picks import Text
from supplecast.tooling.grades import Grade
from supplecast.wire import options

JsonObject = dict[str, Any]
Whole = Annotated[int, Field(strict=True, ge=-(2**53), le=2**53)]
Coordinate = Annotated[float, Field(gt=-1e6, lt=1e6, allow_inf_nan=False)]
Place = tuple[Coordinate, Coordinate]
Place3 = tuple[Coordinate, Coordinate, Coordinate]
EditField = Annotated[
    Edit,
    BeforeValidator(read_edit, json_schema_input_type=Any),
    WithJsonSchema({"allOf": [{"$ref": "#/components/schemas/Edit"}]}),
]


class Request(BaseModel):
    """The body of a request."""

    model_config = ConfigDict(frozen=True, arbitrary_types_allowed=True)


def _a_format(name: Any) -> str:
    if not isinstance(name, str) or name not in formats():
        raise DocumentError("There is no such format.", "Known: " + ", ".join(formats()) + ".")
    return name


def _a_unit(name: str) -> str:
    if name not in LENGTH_UNITS:
        raise DocumentError(f"There is no unit “{name}”.", f"Known: {', '.join(LENGTH_UNITS)}.")
    return name


def _a_tolerance(value: Any) -> float:
    try:
        return float(value or 0.02)
    except (TypeError, ValueError, OverflowError) as fault:
        raise SuppleError("The tolerance is not a number.", "Type one such as 0.02.") from fault


def _looking(normal: Place3) -> Place3:
    if not any(abs(c) > 1e-9 for c in normal):
        raise DocumentError("The plane looks no way.", "Choose the plane again.")
    return normal


def _a_pick(pick: JsonObject) -> JsonObject:
    try:
        read_pick(pick)
    except ValidationError as fault:
        raise ValueError(f"it is no pick: {fault.errors()[0]['msg']}") from fault
    if not isinstance(pick.get("share", ""), str):
        raise ValueError("it is no pick: its share is text, such as “50 %”")
    return pick


class UpTo(Request):
    """The step up to and including which the document is meant; all of it where none is named."""

    upto: str | None = None


class GaugesRequest(UpTo):
    """`every`: all gauges, also of what is not molded."""

    every: bool = False


class InPlaceRequest(Request):
    """A body of an assembly."""

    body: str


class EditRequest(UpTo):
    """An edit of revision `base`; `instead` of it where that one was refused and the same field is typed again."""

    base: Whole
    edit: EditField
    instead: bool = False


class BeginningRequest(Request):
    """What an empty part begins with, from revision `base`."""

    base: Whole
    like: Annotated[str, Field(min_length=1, max_length=80)]


class PreviewRequest(UpTo):
    edit: EditField


class BuildRequest(UpTo):
    """`before` gives the model as it stood before a step; `picks` are references to be lit; `exact` weighs steel to the last
    digit too.
    """

    before: str | None = None
    picks: list[Annotated[JsonObject, AfterValidator(_a_pick)]] = Field(default_factory=list, max_length=2000)
    exact: bool = False


class PickedRequest(Request):
    """A face or an edge of a body by number in the view, on which mesh, and where it was clicked."""

    body: str
    mesh: str | None = None
    face: Whole | None = None
    edge: Whole | None = None
    point: Place3 | None = None

    @property
    def thing(self) -> options.PickedThing:
        return options.PickedThing(self.body, self.mesh, self.face, self.edge, self.point)


class ReferencesRequest(UpTo):
    """`spots`: of edges, also which point on them is meant; `loops`: a face stands for the edges round it; `rules`: with the
    rules that would catch what is picked and more.
    """

    picked: list[PickedRequest] = Field(max_length=400)
    before: str | None = None
    spots: bool = False
    loops: bool = False
    rules: bool = False


class MeasuresRequest(UpTo):
    picked: list[PickedRequest] = Field(min_length=1, max_length=2)


class CompareRequest(Request):
    """Another document, or this one; revisions of both, or as they stand."""

    other: str | None = None
    first: Whole | None = None
    second: Whole | None = None


class PlaneRequest(Request):
    origin: Place3
    normal: Annotated[Place3, AfterValidator(_looking)]


class SectionsRequest(UpTo):
    """The plane to cut by; the wall at a `spot`, or a file of a `format`; without the `hidden` bodies."""

    plane: PlaneRequest
    spot: Place3 | None = None
    format: Literal["dxf", "svg"] | None = None
    hidden: list[str] = Field(default_factory=list, max_length=1000)


class UnitsRequest(Request):
    unit: Annotated[str, AfterValidator(_a_unit), WithJsonSchema({"enum": list(LENGTH_UNITS)})]


class AdviceRequest(Request):
    """Which step failed, after an edit that is not kept, if there is one."""

    step: str
    edit: EditField | None = None


class PlacesRequest(Request):
    step: str


class ExportRequest(Request):
    """All bodies where none are named; the tolerance in mm, for triangles."""

    format: Annotated[str, BeforeValidator(_a_format), WithJsonSchema({"enum": list(formats())})]
    bodies: list[str] | None = None
    tolerance: Annotated[
        float, BeforeValidator(_a_tolerance), WithJsonSchema({"type": ["number", "string", "null"], "default": 0.02})
    ] = 0.02


class ShotRequest(Request):
    """A picture or film: its size in pixels, from where in rad, what is behind, how far things are drawn apart (0 to 1), and
    the seconds of a film.
    """

    width: Annotated[int, Field(ge=64, le=4096)] = 1280
    height: Annotated[int, Field(ge=64, le=4096)] = 800
    yaw: Annotated[float, Field(ge=-100, le=100)] = -0.62
    pitch: Annotated[float, Field(ge=-1.5708, le=1.5708)] = 0.62
    background: Literal["none", "bench", "paper", "dusk"] = "bench"
    see_through: bool = False
    apart: Annotated[float, Field(ge=0, le=1)] = 0.0
    film: Literal["png", "webp", "gif"] = "png"
    seconds: Annotated[float, Field(ge=1, le=12)] = 4.0

    @model_validator(mode="after")
    def _no_endless_film(self) -> ShotRequest:
        if self.film != "png" and self.width * self.height > 1_200_000:
            raise DocumentError("A film is at most 1.2 million pixels large.", "Choose a smaller size, or a still picture.")
        return self


class RevisionRequest(Request):
    revision: Whole


class PictureRequest(Request):
    """A picture of a revision, or of the document as it stands."""

    revision: Whole | None = None


class MilestoneRequest(Request):
    """A blank name takes the name away."""

    revision: Whole
    name: str = ""


class GradeRequest(Grade):
    """A grade of one's own, new or in the place of the one `was`."""

    was: str = ""

    @property
    def grade(self) -> Grade:
        return Grade.model_validate({name: getattr(self, name) for name in Grade.model_fields})


class ActsRequest(Request):
    """Acts on a sketch of revision `base`; with `try`, only to see what they would give."""

    base: Whole | None = None
    acts: list[Any] = Field(min_length=1, max_length=100)
    attempt: bool = Field(default=False, alias="try")


class GuessRequest(Request):
    """What the pointer means: where it is, how many mm a pixel is, which tool draws with which clicks and typed sizes, which
    entities were woken by resting on them, and whether it is to be free of all; or the place that was `typed`. `ghosts` are
    jobs that have laid the model's edges into the plane.
    """

    cursor: Place
    unit: Annotated[float, Field(gt=0, lt=1e6)] = 0.1
    tool: str | None = None
    picks: list[JsonObject] = Field(default_factory=list, max_length=400)
    sizes: dict[str, Any] = Field(default_factory=dict)
    woken: list[str] = Field(default_factory=list, max_length=400)
    free: bool = False
    typed: tuple[Text, Text] | None = None
    ghosts: list[str] = Field(default_factory=list, max_length=8)


class TraceRequest(Request):
    """Which photo under the sketch is to be traced."""

    photo: str


class TakeRequest(Request):
    """What to lay into the sketch's plane."""

    how: Literal["edge", "section", "silhouette", "all"]
    picked: PickedRequest


class TrimRequest(Request):
    entity: str
    at: Place


class DragRequest(Request):
    """`name` is pulled from where it was grabbed to where the pointer is; `begin` starts anew."""

    name: str
    grabbed: Place = Field(alias="from")
    to: Place
    begin: bool = False


class JobQuery(Request):
    """How many seconds to wait for the job's end."""

    wait: Annotated[float, Field(ge=0, le=10)] = 0.0


class HistoryQuery(Request):
    """The newest revisions before one."""

    before: int | None = None


class BlobQuery(Request):
    """The name to offer the file by."""

    offered: str | None = Field(default=None, alias="as")


class SketchFileQuery(Request):
    format: Literal["dxf", "svg"] = "dxf"
