"""The kinds of field a step may have. A field's type says all that the sheet, the schema and the builder need to know."""

from __future__ import annotations

import typing
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal, TypeVar

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints

from supplecast.errors import DocumentError
from supplecast.naming import EdgeRef, FaceRef, Rule
from supplecast.naming.reference import Order, Tag
from supplecast.text import Cleaned
from supplecast.wording import show, with_points

_Picks = TypeVar("_Picks", bound=tuple[Any, ...])
FieldKind = Literal[
    "length",
    "angle",
    "percent",
    "count",
    "factor",
    "choice",
    "text",
    "words",
    "faces",
    "edges",
    "profile",
    "line",
    "profiles",
    "plane",
    "axis",
    "spots",
    "steps",
    "sketch",
    "things",
    "list",
    "rows",
    "body",
    "bodies",
    "link",
    "file",
    "colour",
    "picture",
    "put",
]

KIND_WORDS: Mapping[FieldKind, str] = {
    "length": "length",
    "angle": "angle",
    "percent": "percentage",
    "factor": "plain number",
    "list": "numbers as text, such as `3, 2-5`",
    "count": "whole number",
    "choice": "one of the words",
    "text": "text",
    "file": "name of a file kept beside the document",
    "colour": "colour such as `#2F6C76`",
    "put": "place on the model, mm",
    "picture": "PNG, JPEG or SVG kept beside the document, by name and SHA-256",
    "rows": "rows",
    "words": "text",
    "faces": "picked faces or rules",
    "edges": "picked edges or rules",
    "profile": "areas of a sketch",
    "line": "the open line of a sketch",
    "profiles": "areas of several sketches, in order",
    "plane": "plane, datum plane or flat face",
    "axis": "axis, datum axis, sketch line, edge or round face",
    "spots": "points: corners, places on edges, centres, datum points",
    "steps": "steps",
    "sketch": "sketch",
    "things": "picked faces, edges and points",
    "body": "body",
    "bodies": "bodies",
    "link": "body of another document",
}
"""What a field of each kind holds, as the pages about the format say it."""


@dataclass(frozen=True)
class FieldSpec:
    """Marks a field: its kind, and for sizes the least value (`above` zero, `from` zero, or any). `blank` is what the sheet
    says where nothing is chosen, `lead` the words before a field that only sometimes is shown.
    """

    kind: FieldKind
    least: Literal["any", "zero", "positive"] = "any"
    blank: str = ""
    lead: str = ""


def _as_typed(value: Any) -> Any:
    """Numbers in JSON are taken as if they had been typed."""
    if isinstance(value, bool):
        raise ValueError("a size is text such as “2.2 mm”, or a number")
    if isinstance(value, (int, float)):
        return show(float(value), 12)
    return with_points(value.strip()) if isinstance(value, str) else value


def _as_numbers(value: Any) -> Any:
    """A list of numbers as it is typed, such as `2, 5, 2-3`, or as JSON."""
    words = value.replace(",", " ").split() if isinstance(value, str) else value
    if not isinstance(words, (list, tuple)):
        raise ValueError("a list of numbers such as “2, 5”, or “2-3” for the third of the second row")
    return list(dict.fromkeys(str(word) for word in words))


def _as_colour(value: Any) -> Any:
    """A colour as people type it: #2f6c76, 2F6C76 or #37a."""
    if not isinstance(value, str):
        raise ValueError("a colour is text such as “#2F6C76”")
    plain = value.strip().lstrip("#").upper()
    if len(plain) == 3:
        plain = "".join(2 * one for one in plain)
    if len(plain) != 6 or set(plain) - set("0123456789ABCDEF"):
        raise ValueError("a colour is six digits from 0 to F, such as “#2F6C76”")
    return f"#{plain}"


def _catching(kind: Literal["faces", "edges"]) -> Callable[[_Picks], _Picks]:
    """A check that the rules among picks catch what the field is for."""

    def checked(picks: _Picks) -> _Picks:
        wrong = next((pick for pick in picks if isinstance(pick, Rule) and pick.catches != kind), None)
        if wrong is not None:
            raise ValueError(f"the rule “{wrong.rule}” catches {wrong.catches}, and {kind} are wanted here")
        return picks

    return checked


_Expression = Annotated[str, BeforeValidator(_as_typed), StringConstraints(max_length=400)]

Length = Annotated[_Expression, FieldSpec("length", "positive")]
LengthFromZero = Annotated[_Expression, FieldSpec("length", "zero")]
AnyLength = Annotated[_Expression, FieldSpec("length")]
Angle = Annotated[_Expression, FieldSpec("angle")]
Count = Annotated[int, Field(ge=1, le=400), FieldSpec("count")]
Numbers = Annotated[
    tuple[Annotated[str, StringConstraints(pattern=r"^[1-9]\d{0,3}(-[1-9]\d{0,3})?$")], ...],
    BeforeValidator(_as_numbers),
    Field(max_length=1000),
    FieldSpec("list"),
]
"""Copies by their number, or by row and number: `3, 2-5`."""
Factor = Annotated[_Expression, FieldSpec("factor", "positive")]
Percent = Annotated[_Expression, FieldSpec("percent", "zero")]
Label = Annotated[str, Cleaned, StringConstraints(max_length=80, strip_whitespace=True), FieldSpec("text")]
StepId = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9]{0,15}$")]
BodyId = Annotated[str, StringConstraints(max_length=80)]

Faces = Annotated[tuple[FaceRef | Rule, ...], AfterValidator(_catching("faces")), FieldSpec("faces")]
Edges = Annotated[tuple[EdgeRef | Rule, ...], AfterValidator(_catching("edges")), FieldSpec("edges")]
BodyPick = Annotated[BodyId | None, FieldSpec("body")]
OnlyBody = Annotated[BodyId | None, FieldSpec("body", blank="the only body")]
MetBody = Annotated[BodyId | None, FieldSpec("body", blank="the body it meets")]
NextBody = Annotated[BodyId | None, FieldSpec("body", blank="whatever is met")]
BodyPicks = Annotated[tuple[BodyId, ...], FieldSpec("bodies")]
FurtherBodies = Annotated[tuple[BodyId, ...], FieldSpec("bodies", lead=", also ")]
Colour = Annotated[str, BeforeValidator(_as_colour), StringConstraints(pattern=r"^#[0-9A-F]{6}$"), FieldSpec("colour")]
FileName = Annotated[str, Cleaned, StringConstraints(min_length=1, max_length=200), FieldSpec("file")]


class PictureFile(BaseModel):
    """A picture kept beside the document: what its file is called, and its SHA-256."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    file: Annotated[str, Cleaned, StringConstraints(min_length=1, max_length=200)]
    asset: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]


_Coordinate = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
PutField = Annotated[tuple[_Coordinate, _Coordinate, _Coordinate] | None, FieldSpec("put")]
"""Where on the model something is put; None: where it is by itself."""
PictureField = Annotated[PictureFile | None, FieldSpec("picture")]


class Row(BaseModel):
    """One of several alike entries of a step, such as a further radius with its edges; `sentence` is how the sheet prints it,
    with the row's fields in braces, and `adding` what the button says that adds one: `{others.add}` stands for it in a step's
    sentence.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    sentence: ClassVar[str] = ""
    adding: ClassVar[str] = ""


def spec_in(model: type[BaseModel], field: str) -> FieldSpec:
    """What kind of field this is; unmarked fields are choices among words."""
    for mark in model.model_fields[field].metadata:
        if isinstance(mark, FieldSpec):
            return mark
    for inner in typing.get_args(model.model_fields[field].annotation):
        for mark in getattr(inner, "__metadata__", ()):
            if isinstance(mark, FieldSpec):
                return mark
    return FieldSpec("choice")


def row_model(model: type[BaseModel], field: str) -> type[Row]:
    """The kind of row that a field of rows holds."""
    return next(arg for arg in typing.get_args(model.model_fields[field].annotation) if isinstance(arg, type))


class Profile(BaseModel):
    """Areas of a sketch: all of them, or those whose keys are listed."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    sketch: StepId
    regions: Literal["all"] | tuple[str, ...] = "all"


ProfileField = Annotated[Profile, FieldSpec("profile")]
LineField = Annotated[Profile, FieldSpec("line")]
"""A sketch taken as the chain its curves make: no areas are chosen of it."""


class _Place(BaseModel):
    """A place that may be picked on the model: what planes, axes and points have in common."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    directions: ClassVar[tuple[str, ...]] = ()
    word: ClassVar[str] = "place"

    datum: StepId | None = None
    face: Tag | None = None
    body: str | None = None
    has: tuple[Tag, ...] = ()
    lacks: tuple[Tag, ...] = ()
    near: tuple[Tag, ...] = ()
    also: tuple[Tag, ...] = ()
    wide: bool = False
    order: Order | None = None

    def model_post_init(self, context: Any) -> None:
        if sum(getattr(self, direction) is not None for direction in self.directions) != 1:
            raise ValueError(f"a {self.word} is given by one of: {', '.join(self.directions)}")

    @property
    def on_model(self) -> bool:
        """Whether it was picked on a body."""
        return self.face is not None or getattr(self, "edge", None) is not None

    def reference(self) -> FaceRef | EdgeRef:
        model = FaceRef if self.face is not None else EdgeRef
        if not self.on_model:
            raise DocumentError(f"This {self.word} was not picked on the model.")
        return model.model_validate({name: getattr(self, name) for name in model.model_fields})


class PlanePick(_Place):
    """A standard plane, a datum plane, or a flat face of a body, moved along its normal by `offset`, then tilted about its
    x or y.
    """

    directions = ("plane", "datum", "face")
    word = "plane"

    plane: Literal["top", "front", "side"] | None = None
    offset: _Expression = "0"
    tilt: _Expression = "0"
    about: Literal["x", "y"] = "x"


PlaneField = Annotated[PlanePick, FieldSpec("plane")]


class AxisPick(_Place):
    """An axis of the document (`+x` is short for it), a datum axis, a straight line of a sketch, a straight or round edge, or
    a round face; of a flat face its normal.
    """

    directions = ("axis", "datum", "sketch", "edge", "face")
    word = "axis"

    axis: Literal["x", "y", "z"] | None = None
    sketch: StepId | None = None
    line: Annotated[str, StringConstraints(max_length=24)] = ""
    edge: tuple[Tag, Tag] | None = None


def _as_axis(value: Any) -> Any:
    return {"axis": value[-1]} if value in ("+x", "+y", "+z", "x", "y", "z") else value


AxisField = Annotated[AxisPick, BeforeValidator(_as_axis), FieldSpec("axis")]


class Spot(_Place):
    """A point: the document's origin, a datum point, a point of a sketch, a place at a `share` of an edge's length or its
    centre, or the middle of a face. 0 % and 100 % of an edge are its corners.
    """

    directions = ("origin", "datum", "sketch", "edge", "face")
    word = "point"

    origin: Literal[True] | None = None
    sketch: StepId | None = None
    point: Annotated[str, StringConstraints(max_length=24)] = ""
    edge: tuple[Tag, Tag] | None = None
    at: Literal["along", "centre"] = "along"
    share: _Expression = "50 %"


Spots = Annotated[tuple[Spot, ...], FieldSpec("spots")]
SpotField = Annotated[Spot | None, FieldSpec("spots")]
Profiles = Annotated[tuple[Profile, ...], FieldSpec("profiles")]
Things = Annotated[tuple[FaceRef | EdgeRef | Spot, ...], FieldSpec("things")]
SketchPick = Annotated[StepId | None, FieldSpec("sketch")]
StepPicks = Annotated[tuple[StepId, ...], FieldSpec("steps")]


class LinkPick(BaseModel):
    """A body of another document; `revision` None follows it as it stands. Blank `body`: its only or first part. With it come
    the bodies in `also`, or `every` one there is.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    document: Annotated[str, StringConstraints(min_length=1, max_length=80)]
    body: str | None = None
    revision: int | None = None
    also: tuple[BodyId, ...] = ()
    every: bool = False


LinkField = Annotated[LinkPick, FieldSpec("link")]
