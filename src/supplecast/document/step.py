"""One entry of the build sheet: its data, its sentence and its build. Every step type is a subclass in `steps/`."""

from __future__ import annotations

import importlib
import pkgutil
import typing
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict

from supplecast.document.builder import Builder
from supplecast.document.fields import FieldSpec, Label, LinkPick, StepId, row_model, spec_in
from supplecast.document.state import Entry
from supplecast.errors import DocumentError
from supplecast.geometry import Vec


class Step(BaseModel):
    """A step of a document.

    A subclass sets `type` to a Literal, `word` to what the sheet calls it, `purpose` to what it is for, `search` to further
    words by which one may look for it, `follows` to the type of the step after which it stands in the list of steps (“” for
    the first), `document_kinds` to where it belongs, `takes_meshes` where it can change a body of triangles, and `sentence` to
    the words of the sheet, with fields in braces.
    `picture` are two SVG paths in a box of 32 × 24, what is there and what the step makes; `suits` says what can be picked
    first, `cuts_up` which field names a body that falls into pieces. `build` reads and writes only through the builder.
    """

    model_config = ConfigDict(extra="forbid")
    registry: ClassVar[dict[str, type[Step]]] = {}
    word: ClassVar[str] = ""
    purpose: ClassVar[str] = ""
    search: ClassVar[str] = ""
    follows: ClassVar[str | None] = None
    picture: ClassVar[tuple[str, str]] = ("", "")
    cuts_up: ClassVar[str] = ""
    suits: ClassVar[tuple[Literal["faces", "edges"], ...]] = ()
    document_kinds: ClassVar[tuple[Literal["part", "tool", "assembly"], ...]] = ("part", "tool")
    takes_meshes: ClassVar[bool] = False

    id: StepId
    type: str
    name: Label = ""
    skip: bool = False

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        names = typing.get_args(cls.model_fields["type"].annotation)
        if names:
            Step.registry[str(names[0])] = cls

    def sentence(self) -> str:
        """The sheet's words, fields in braces; may depend on the values, so that idle fields stay out of sight."""
        raise NotImplementedError

    def more(self) -> str:
        """Fields that mostly stay as they are, in words: shown while the step is open."""
        return ""

    def build(self, at: Builder) -> None:
        raise NotImplementedError

    def details(self) -> list[tuple[str, str]]:
        """Further lines of the sheet, each with an id of its own: the figures of a sketch, for instance."""
        return []

    def held(self, path: str) -> Any:
        """The value of a field by its path in the sentence, such as `wall`, `neutral.offset` or `others.0.wall`, or None."""
        value: Any = self
        for part in path.split("."):
            if part.isdigit():
                value = value[int(part)] if isinstance(value, tuple) and int(part) < len(value) else None
            else:
                value = getattr(value, part, None)
        return value

    def typed(self, path: str) -> str:
        """What stands in a field of the sheet, by its path in the sentence."""
        value = self.held(path)
        if isinstance(value, tuple):
            return ", ".join(str(one) for one in value)
        return "" if value is None else str(value)

    def retyped(self, path: str, value: Any) -> dict[str, Any]:
        """The step's JSON with one field of its sentence changed."""
        whole = self.model_dump(mode="json")
        holder: Any = whole
        *direction, last = path.split(".")
        for part in direction:
            if isinstance(holder, list):
                holder = holder[int(part)] if part.isdigit() and int(part) < len(holder) else {}
            else:
                holder = holder.get(part, {}) if isinstance(holder, dict) else {}
        if not isinstance(holder, dict) or last not in holder or path in ("id", "type"):
            raise DocumentError(f"The step “{self.label}” has no field “{path}”.", "Reload the page.")
        holder[last] = value
        return whole

    def meant(self, at: Builder, among: Sequence[Entry]) -> Entry | None:
        """The body meant where the sheet leaves it open and there are several, newest last; None where that cannot be told."""
        return None

    def along_with(self, path: str, value: Any, before: Before) -> dict[str, Any]:
        """Further fields that change with one, by name: what nobody would want otherwise."""
        return {}

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        """First values for a step added after those `before` it, from what is picked in the view, as JSON of references."""
        return {}

    @classmethod
    def spec(cls, field: str) -> FieldSpec:
        """What kind of field this is; unmarked fields are choices among words."""
        return spec_in(cls, field)

    def spec_of(self, path: str) -> FieldSpec:
        """The kind of a field of the sentence, by its path."""
        rows, *direction = path.split(".")
        if direction and self.spec(rows).kind == "rows":
            return spec_in(row_model(type(self), rows), direction[-1])
        return self.spec(path)

    @classmethod
    def choices(cls, path: str) -> tuple[str, ...]:
        """The words a choice offers."""
        rows, *direction = path.split(".")
        model, field = (row_model(cls, rows), direction[-1]) if direction else (cls, path)
        return tuple(str(a) for a in typing.get_args(model.model_fields[field].annotation))

    @property
    def repeats(self) -> bool:
        """Whether patterns and mirrors can do it again elsewhere: it tells its builder what it did to a body."""
        return False

    @property
    def links(self) -> tuple[LinkPick, ...]:
        """The bodies of other documents that it brings in."""
        part = getattr(self, "part", None)
        return (part,) if isinstance(part, LinkPick) else ()

    @property
    def surfaces_made(self) -> tuple[str, ...]:
        """The surfaces it makes, by their ids as bodies."""
        return ()

    @property
    def spent(self) -> tuple[str, ...]:
        """The bodies it is told to use up, as far as the sheet says."""
        return ()

    @property
    def label(self) -> str:
        return self.name or self.word


@dataclass(frozen=True)
class Before:
    """What a new step is added to: the steps above it, the document's named values, the parts of the same project that it may
    link, each at its newest revision, the direction of the pull, and the `draft` in degrees that resin and texture ask for, 0
    where that is not known; where the one who adds it sees them, also the solid `bodies` there are, oldest first, the `meshes`,
    and the `spot` of the model that was clicked last, mm.
    """

    steps: Sequence[Step]
    values: Mapping[str, str] = field(default_factory=dict)
    parts: Sequence[LinkPick] = ()
    bodies: Sequence[str] = ()
    pull: Vec = (0.0, 0.0, 1.0)
    meshes: Sequence[str] = ()
    draft: float = 0.0
    spot: Vec | None = None

    @property
    def last(self) -> Step | None:
        """The step right above, if it is used."""
        return self.steps[-1] if self.steps and not self.steps[-1].skip else None

    def pair(self, picked: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
        """A body and the tool that is used on it, for steps on two bodies: the picked ones in their order, else the oldest of
        this document's own and the newest other; nothing where there are not two.
        """
        named = list(dict.fromkeys(pick["body"] for pick in picked if pick.get("body")))
        if len(named) < 2:
            linked = {step.id for step in self.steps if step.type == "link"}
            own = [body for body in self.bodies if body not in linked] or list(self.bodies)
            named = [own[0], *[body for body in (*self.bodies, *self.meshes) if body != own[0]][-1:]] if own else []
        return {"body": named[0], "tools": named[1:]} if len(named) > 1 else {}

    def surfaces(self) -> list[str]:
        """The surfaces that steps above made and none has used up, by their ids."""
        spent = {body for step in self.steps for body in step.spent}
        return [one for step in self.steps for one in step.surfaces_made if one not in spent and not step.skip]

    def step(self, step_id: str) -> Step:
        """A step above. StopIteration if there is none with this id."""
        return next(step for step in self.steps if step.id == step_id)


def in_order() -> list[tuple[str, type[Step]]]:
    """Every type of step with its class, in order of work: each right after the one it follows; those that follow none last."""
    behind: dict[str | None, list[str]] = {}
    for name in sorted(Step.registry):
        behind.setdefault(Step.registry[name].follows, []).append(name)
    ordered: dict[str, type[Step]] = {}
    waiting = behind.get("", [])[::-1]
    while waiting:
        name = waiting.pop()
        ordered[name] = Step.registry[name]
        waiting += behind.get(name, [])[::-1]
    return list({**ordered, **Step.registry}.items())


def load_steps(package: str = "supplecast.steps") -> dict[str, type[Step]]:
    """Import every module below the steps package, once; returns the registry."""
    root = importlib.import_module(package)
    for module in pkgutil.walk_packages(root.__path__, package + "."):
        importlib.import_module(module.name)
    return Step.registry
