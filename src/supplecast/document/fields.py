"""The kinds of field a step may have. A field's type says all that the sheet, the schema and the builder need to know."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints

from supplecast.errors import DocumentError
from supplecast.naming import EdgeRef, FaceRef, Rule
from supplecast.naming.reference import Order, Tag
from supplecast.quantities import show

FieldKind = Literal[
    "length",
    "angle",
    "percent",
    "count",
    "choice",
    "text",
    "faces",
    "edges",
    "profile",
    "plane",
    "body",
    "bodies",
    "link",
]


@dataclass(frozen=True)
class FieldSpec:
    """Marks a field: its kind, and for sizes the least value (`above` zero, `from` zero, or any)."""

    kind: FieldKind
    least: Literal["any", "zero", "positive"] = "any"


def _as_typed(value: Any) -> Any:
    """Numbers in JSON are taken as if they had been typed."""
    if isinstance(value, bool):
        raise ValueError("a size is text such as “2.2 mm”, or a number")
    if isinstance(value, (int, float)):
        return show(float(value), 12)
    return value.strip() if isinstance(value, str) else value


_Expression = Annotated[str, BeforeValidator(_as_typed), StringConstraints(max_length=400)]

Length = Annotated[_Expression, FieldSpec("length", "positive")]
LengthFromZero = Annotated[_Expression, FieldSpec("length", "zero")]
AnyLength = Annotated[_Expression, FieldSpec("length")]
Angle = Annotated[_Expression, FieldSpec("angle")]
Count = Annotated[int, Field(ge=1, le=400), FieldSpec("count")]
Percent = Annotated[_Expression, FieldSpec("percent", "zero")]
Label = Annotated[str, StringConstraints(max_length=80, strip_whitespace=True), FieldSpec("text")]
StepId = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9]{0,15}$")]
BodyId = Annotated[str, StringConstraints(max_length=80)]

Faces = Annotated[tuple[FaceRef, ...], FieldSpec("faces")]
Edges = Annotated[tuple[EdgeRef | Rule, ...], FieldSpec("edges")]
BodyPick = Annotated[BodyId | None, FieldSpec("body")]
BodyPicks = Annotated[tuple[BodyId, ...], FieldSpec("bodies")]


class Profile(BaseModel):
    """Areas of a sketch: all of them, or those whose keys are listed."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    sketch: StepId
    regions: Literal["all"] | tuple[str, ...] = "all"


ProfileField = Annotated[Profile, FieldSpec("profile")]


class PlanePick(BaseModel):
    """A standard plane, or a flat face of a body, moved along its normal by `offset`, then tilted about its x or y."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    plane: Literal["top", "front", "side"] | None = None
    face: Tag | None = None
    body: str | None = None
    has: tuple[Tag, ...] = ()
    lacks: tuple[Tag, ...] = ()
    near: tuple[Tag, ...] = ()
    also: tuple[Tag, ...] = ()
    wide: bool = False
    order: Order | None = None
    offset: _Expression = "0"
    tilt: _Expression = "0"
    about: Literal["x", "y"] = "x"

    def model_post_init(self, context: Any) -> None:
        if (self.plane is None) == (self.face is None):
            raise ValueError("a plane is either a standard plane or a face")

    def reference(self) -> FaceRef:
        if self.face is None:
            raise DocumentError("This plane is not a face.")
        return FaceRef.model_validate({name: getattr(self, name) for name in FaceRef.model_fields})


PlaneField = Annotated[PlanePick, FieldSpec("plane")]


class LinkPick(BaseModel):
    """A body of another document; `revision` None follows it as it stands. Blank `body`: its only or first part."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    document: Annotated[str, StringConstraints(min_length=1, max_length=80)]
    body: str | None = None
    revision: int | None = None


LinkField = Annotated[LinkPick, FieldSpec("link")]
