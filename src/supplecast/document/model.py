"""The document and its JSON: read with care, written in one form.

The same JSON is the project file (`.supple.json`). Anything unknown in it is refused with the path to the fault.
"""

from __future__ import annotations

import json
import math
import secrets
from collections import OrderedDict
from collections.abc import Mapping
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    SerializeAsAny,
    StringConstraints,
    ValidationError,
    field_validator,
    model_validator,
)

from supplecast.document.fields import LinkPick
from supplecast.document.step import Step
from supplecast.errors import DocumentError, QuantityError
from supplecast.expressions import quoted
from supplecast.geometry import Vec, unit
from supplecast.quantities import Scope, check_name
from supplecast.text import Cleaned, read_json
from supplecast.tooling.grades import Grade
from supplecast.tooling.made_of import MadeOf
from supplecast.tooling.resins import Resin

FORMAT = "supplecast"
VERSION = 1
_LARGEST = 20_000_000
_DEEPEST = 60

Kind = Literal["part", "tool", "assembly"]
Unit = Literal["mm", "cm", "m", "in"]


class Look(BaseModel):
    """What a body is called and looks like; blank where it is left to the step that makes it. Its name holds from the step
    `since` on: a piece named after the body was cut up leaves the whole its name.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    name: Annotated[str, Cleaned, StringConstraints(max_length=80, strip_whitespace=True)] = ""
    since: Annotated[str, StringConstraints(max_length=40)] = ""
    colour: Annotated[str, StringConstraints(pattern=r"^(#[0-9A-Fa-f]{6})?$")] = ""
    hidden: bool = False
    clear: bool = False


class Cut(BaseModel):
    """A section kept under a name: a point of its plane and the way it looks, mm."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    name: Annotated[str, Cleaned, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
    origin: tuple[float, float, float]
    normal: tuple[float, float, float]


_SPARE = ("looks", "muted", "pull", "texture", "gate", "grade", "cuts", "lesson")  # left out of the JSON while they say nothing


class Document(BaseModel):
    """A part or a tool: named values, an ordered list of steps, and the looks of bodies by their id.

    `pull` is the direction in which the core half leaves the part, `texture` how deep its surface is etched, and `gate` the
    place where the resin enters, in mm: what the part is judged by. `grade` holds the figures of a resin not of the table,
    `lesson` names the lesson that is worked on in it.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    format: Literal["supplecast"] = "supplecast"
    version: Literal[1] = 1
    id: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$")] = "untitled"
    kind: Kind = "part"
    name: Annotated[str, Cleaned, StringConstraints(min_length=1, max_length=120, strip_whitespace=True)] = "Untitled"
    unit: Unit = "mm"
    resin: Annotated[str, StringConstraints(max_length=80)] = "ABS"
    values: dict[str, Annotated[str, StringConstraints(max_length=400)]] = Field(default_factory=dict, max_length=500)
    looks: dict[Annotated[str, StringConstraints(max_length=80)], Look] = Field(default_factory=dict, max_length=1000)
    pull: tuple[float, float, float] = (0.0, 0.0, 1.0)
    texture: Annotated[str, StringConstraints(max_length=400)] = "0 mm"
    gate: tuple[float, float, float] | None = None
    grade: Grade | None = None
    cuts: list[Cut] = Field(default_factory=list, max_length=100)
    lesson: Annotated[str, StringConstraints(pattern=r"^[a-z]{0,40}$")] = ""
    muted: list[Annotated[str, StringConstraints(max_length=80)]] = Field(default_factory=list, max_length=2000)
    steps: list[SerializeAsAny[Step]] = Field(default_factory=list, max_length=2000)

    @field_validator("pull")
    @classmethod
    def _has_a_way(cls, pull: Vec) -> Vec:
        if not all(map(math.isfinite, pull)) or math.hypot(*pull) < 1e-9:
            raise ValueError("the pull needs a direction")
        return unit(pull)

    @field_validator("values")
    @classmethod
    def _names(cls, values: dict[str, str]) -> dict[str, str]:
        for name in values:
            try:
                check_name(name)
            except QuantityError as fault:
                raise ValueError(str(fault)) from fault
        return values

    @model_validator(mode="after")
    def _ids_differ(self) -> Document:
        seen: set[str] = set()
        for step in self.steps:
            if step.id in seen:
                raise ValueError(f"two steps have the id “{step.id}”")
            seen.add(step.id)
        return self

    @property
    def made_of(self) -> MadeOf:
        """What the document's resin is, by its own grade or the tables."""
        own = self.grade if self.grade is not None and self.grade.name == self.resin else None
        return MadeOf(self.resin, own)

    @property
    def material(self) -> Resin | None:
        """The figures of the document's resin; None if nothing knows it, or it is not molded."""
        return self.made_of.figures

    @property
    def texture_depth(self) -> float:
        """How deep its surface is etched, mm; 0 where what is typed is no length."""
        try:
            return self.scope.evaluate(self.texture, "length")
        except QuantityError:
            return 0.0

    @property
    def scope(self) -> Scope:
        return Scope(self.values, self.unit)

    def position(self, step_id: str) -> int:
        """Index of a step. DocumentError if there is none with this id."""
        for index, step in enumerate(self.steps):
            if step.id == step_id:
                return index
        raise DocumentError(f"There is no step “{step_id}” in this document.", "It may have been deleted: reload the page.")

    def step(self, step_id: str) -> Step:
        return self.steps[self.position(step_id)]

    @property
    def links(self) -> list[LinkPick]:
        """What the document links of others."""
        return [pick for step in self.steps for pick in step.links]

    def unused_id(self) -> str:
        """An id that no step of this document has."""
        taken = {step.id for step in self.steps}
        return next(i for i in iter(new_id, "") if i not in taken)

    def altered(self, **fields: Any) -> Document:
        """The document with some fields changed, checked as if it had been read. DocumentError if it must not be so."""
        whole = {name: getattr(self, name) for name in type(self).model_fields}
        try:
            return type(self).model_validate({**whole, **fields})
        except ValidationError as fault:
            raise unreadable(fault, "") from fault

    def with_step(self, step: Step) -> Document:
        """The document with one step in the place of the one that has its id."""
        at = self.position(step.id)
        return self.altered(steps=[*self.steps[:at], step, *self.steps[at + 1 :]])

    def to_json(self, *, pretty: bool = False) -> str:
        return json.dumps(self.to_dict(), ensure_ascii=False, indent=1 if pretty else None)

    @property
    def colours(self) -> dict[str, str]:
        """The colours bodies were given by hand, by body."""
        return {body: look.colour for body, look in self.looks.items() if look.colour}

    def to_dict(self) -> dict[str, Any]:
        """The document's JSON. The steps in it are shared with others who ask: replace them, do not change them."""
        fields = type(self).model_fields
        idle = {name for name in _SPARE if getattr(self, name) == fields[name].get_default(call_default_factory=True)}
        data = self.model_dump(mode="json", exclude={"steps", *idle})
        data["steps"] = [step_dict(step) for step in self.steps]
        return data


class _Known:
    """Steps and their JSON, so that a long document is not read and written anew for an edit of one of its steps.

    Steps are never changed once they are read. Known are the JSON of a step object, the step of a JSON object that was
    handed out here, and the step of a text. The oldest are forgotten first, large sketches sooner: `most` counts points, and a
    step for ten of them.
    """

    def __init__(self, most: int) -> None:
        self.most = most
        self._weight = 0
        self._rows: OrderedDict[int, tuple[Step, dict[str, Any], str]] = OrderedDict()
        self._of_data: dict[int, Step] = {}
        self._of_text: dict[str, Step] = {}

    def data(self, step: Step) -> dict[str, Any] | None:
        row = self._rows.get(id(step))
        return row[1] if row is not None else None

    def step(self, data: Any) -> Step | None:
        """The step of a JSON object that was handed out here."""
        return self._of_data.get(id(data))

    def read(self, text: str) -> Step | None:
        return self._of_text.get(text)

    def keep(self, step: Step, data: dict[str, Any]) -> None:
        text = json.dumps(data, ensure_ascii=False)
        self._rows[id(step)] = (step, data, text)
        self._of_data[id(data)] = step
        self._of_text[text] = step
        self._weight += _weight(step)
        while self._weight > self.most and len(self._rows) > 1:
            _, (old, old_data, old_text) = self._rows.popitem(last=False)
            self._of_data.pop(id(old_data), None)
            self._of_text.pop(old_text, None)
            self._weight -= _weight(old)


def _weight(step: Step) -> int:
    return 10 + len(getattr(step, "points", ()))


_known = _Known(40_000)


def step_dict(step: Step) -> dict[str, Any]:
    """A step's JSON without fields left at their default, `id` and `type` first. It is shared: do not change it."""
    known = _known.data(step)
    if known is not None:
        return known
    whole = step.model_dump(mode="json", exclude={"id", "type"})
    kept = {
        name: _trimmed(value)
        for name, value in whole.items()
        if getattr(step, name) != type(step).model_fields[name].get_default(call_default_factory=True)
    }
    data = {"id": step.id, "type": step.type, **kept}
    _known.keep(step, data)
    return data


def _trimmed(value: Any) -> Any:
    """JSON without the members that say nothing: null, false, empty lists."""
    if isinstance(value, dict):
        return {
            key: _trimmed(inner) for key, inner in value.items() if inner is not None and inner is not False and inner != []
        }
    return [_trimmed(inner) for inner in value] if isinstance(value, list) else value


def _refuse_depth(step: Mapping[str, Any], path: str) -> None:
    """DocumentError for a field in which more things lie inside each other than can be read safely."""
    for name, value in step.items():
        level = [value]
        for _ in range(_DEEPEST):
            holders = (one for one in level if isinstance(one, (list, dict)))
            level = [inner for one in holders for inner in (one.values() if isinstance(one, dict) else one)]
        if level:
            words = f"more than {_DEEPEST} things lie inside each other"
            raise DocumentError(words, "Take some of them out.", path=f"{path}.{name}")


def read_step(data: Any, path: str = "") -> Step:
    """A step from its JSON. DocumentError with the path to the fault."""
    if not isinstance(data, Mapping):
        raise DocumentError("a step must be an object", path=path)
    known_step = _known.step(data)
    if known_step is not None:
        return known_step
    kind = Step.registry.get(str(data.get("type")))
    if kind is None:
        known = ", ".join(sorted(Step.registry))
        raise DocumentError(
            f"there is no step type {quoted(str(data.get('type')))}", f"Known types: {known}.", path=f"{path}.type"
        )
    known_step = _known.read(_text_of(data))
    if type(known_step) is kind:
        return known_step
    _refuse_depth(data, path)
    try:
        step = kind.model_validate(data)
    except ValidationError as fault:
        raise unreadable(fault, path) from fault
    step_dict(step)  # known from now on, also by its text
    return step


def _text_of(data: Any) -> str:
    """The text of a step's JSON; blank for what is no JSON, which the model then refuses."""
    try:
        return json.dumps(data, ensure_ascii=False)
    except (TypeError, ValueError, RecursionError):
        return ""


def read_document(data: Any) -> Document:
    """A document from its parsed JSON. DocumentError with the path to the fault."""
    if not isinstance(data, dict):
        raise DocumentError("A document is a JSON object.", "Open a .supple.json file.")
    if data.get("format", FORMAT) != FORMAT or not data.keys() & {"format", "steps"}:
        raise DocumentError("this is not a Supple Cast document", "Open a .supple.json file.", path="format")
    version = data.get("version", VERSION)
    if version != VERSION:
        raise DocumentError(
            f"version {quoted(str(version))} cannot be read by this program", f"It reads version {VERSION}.", path="version"
        )
    steps = data.get("steps", [])
    if not isinstance(steps, list):
        raise DocumentError("the steps must be a list", path="steps")
    read = [read_step(step, f"steps[{index}]") for index, step in enumerate(steps)]
    try:
        return Document.model_validate({**data, "steps": read})
    except ValidationError as fault:
        raise unreadable(fault, "") from fault


def parse_document(text: str | bytes) -> Document:
    """A document from the text of its file."""
    if len(text) > _LARGEST:
        raise DocumentError("The file is too large to be a document.")
    try:
        data = read_json(text)
    except DocumentError as fault:
        raise DocumentError(f"The file cannot be read: {fault.message}", fault.hint or "Open a .supple.json file.") from fault
    return read_document(data)


@lru_cache(maxsize=64)
def known_document(text: str) -> Document:
    """As `parse_document`, for what is read over and over: each of the newest texts is parsed once, since no document is ever
    changed in place.
    """
    return parse_document(text)


def new_id(length: int = 4) -> str:
    """A short random id that starts with a letter."""
    letters = "abcdefghijkmnpqrstuvwxyz"
    return secrets.choice(letters) + "".join(secrets.choice(letters + "23456789") for _ in range(length - 1))


def unreadable(fault: ValidationError, path: str) -> DocumentError:
    """What is wrong with JSON that a model refused, in words, with the path to it."""
    first = fault.errors()[0]
    for place in first["loc"]:
        if isinstance(place, int):
            path += f"[{place}]"
        elif not str(place).endswith("]"):
            path += f".{place}" if path else str(place)
    path += getattr(first.get("ctx", {}).get("error"), "path", "")
    message = str(first["msg"]).removeprefix("Value error, ")
    if first["type"] in ("string_too_long", "too_long") and isinstance(first["input"], str):
        message = f"is longer than {first['ctx']['max_length']} characters"
    return DocumentError(message[:1].lower() + message[1:], path=path)


def schema() -> dict[str, Any]:
    """JSON Schema of the document, every step type included."""
    whole = Document.model_json_schema()
    definitions: dict[str, Any] = whole.setdefault("$defs", {})
    choices = []
    for _, kind in sorted(Step.registry.items()):
        one = kind.model_json_schema(ref_template="#/$defs/{model}")
        definitions.update(one.pop("$defs", {}))
        definitions[kind.__name__] = one
        choices.append({"$ref": f"#/$defs/{kind.__name__}"})
    definitions.pop("Step", None)
    whole["properties"]["steps"] = {"type": "array", "maxItems": 2000, "items": {"oneOf": choices}}
    return whole
