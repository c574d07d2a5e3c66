"""How the fields of a sentence are shown, one class a kind of field. A class says which kinds it shows; nothing lists them.

What a control is printed with is the template of its tokens, in `templates/controls`. Scripts know no kinds: what choosing an
entry of a list sets, or what it lets one pick in the view, comes along with the entry.
"""

from __future__ import annotations

import importlib
import pkgutil
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from typing import Any, ClassVar

from supplecast.document.fields import FieldSpec
from supplecast.document.model import Document
from supplecast.document.step import Step
from supplecast.naming.tag import maker
from supplecast.store.library import DocumentCard
from supplecast.wire.reports import BuiltStep


@dataclass(frozen=True)
class Around:
    """What the sheet knows of the world: bodies of the last build and the names of those used up, documents, outcomes."""

    bodies: tuple[tuple[str, str], ...] = ()
    called: Mapping[str, str] = field(default_factory=dict)
    renamed: tuple[tuple[str, str, str], ...] = ()
    documents: tuple[DocumentCard, ...] = ()
    outcomes: Mapping[str, BuiltStep] = field(default_factory=dict)


@dataclass(frozen=True)
class Entry:
    """A further entry of a list that does something of its own: sets a value, or lets one pick in the view."""

    value: str
    words: str
    set: Any = None
    pick: Mapping[str, Any] | None = None


@dataclass(frozen=True)
class Token:
    """A piece of a sentence: plain text, or a field with all that its control needs. `settings` are what choosing an option
    sets, by its value, where that is not the value itself; `spoken` is the piece as one would read it aloud. Before bodies
    that may be none, `text` is what leads up to them.
    """

    kind: str
    text: str = ""
    path: str = ""
    value: str = ""
    options: tuple[tuple[str, str], ...] = ()
    chosen: tuple[str, ...] = ()
    picks: Sequence[Mapping[str, Any]] = ()
    settings: Mapping[str, Any] = field(default_factory=dict)
    entries: tuple[Entry, ...] = ()
    template: str = ""

    @property
    def spoken(self) -> str:
        match self.kind:
            case "words" | "text" | "set":
                return {"words": self.text, "set": ""}.get(self.kind, self.value)
            case "near" | "put":
                return ""
            case "picture":
                return self.text
            case "number":
                return self.value or "by rule"
            case "bodies" | "toggles":
                names = dict(self.options)
                chosen = " and ".join(names.get(one, one) for one in self.chosen)
                return (f"{self.text}{chosen}" if chosen else "") if self.text else chosen or "nothing"
            case "profile":
                return " ".join([dict(self.options).get(self.value, ""), self.text]).strip()
            case "picks" | "spots":
                return self.text
            case _:
                return dict(self.options).get(self.value, self.value)

    @property
    def printed_by(self) -> str:
        return f"controls/{self.template or self.kind}.html"


@dataclass(frozen=True)
class Place:
    """A field where it stands: by its path in which step of which document."""

    path: str
    step: Step
    document: Document
    around: Around

    @property
    def value(self) -> Any:
        return self.step.held(self.path)

    @property
    def spec(self) -> FieldSpec:
        return self.step.spec_of(self.path)

    @property
    def above(self) -> list[Step]:
        return self.document.steps[: self.document.position(self.step.id)]

    @property
    def bodies(self) -> dict[str, str]:
        """Names of the bodies of the last build that the step may name, by id: those made by the steps above it."""
        above = {step.id for step in self.above}
        return {body: self._once(body, name) for body, name in self.around.bodies if maker(body) in above}

    def _once(self, body: str, name: str) -> str:
        """What a body is called where the step stands: a piece may have another name than the whole had."""
        above = {step.id for step in self.above}
        return next((before for step, one, before in self.around.renamed if one == body and step not in above), name)

    def body_name(self, body: str) -> str:
        """What to call a body that is used up by now: what it was called or, before any build, the step that made it."""
        label = next((step.label for step in self.document.steps if step.id == maker(body)), "a body no longer there")
        return self._once(body, self.around.called.get(body) or label)


class Control(ABC):
    """Shows fields of some kinds."""

    kinds: ClassVar[tuple[str, ...]] = ()

    @abstractmethod
    def tokens(self, place: Place) -> Iterator[Token]:
        """The pieces that a field is printed as."""


@cache
def controls() -> Mapping[str, Control]:
    """The control of every kind."""
    for module in pkgutil.iter_modules(__path__):
        importlib.import_module(f"{__name__}.{module.name}")
    return {name: kind() for kind in Control.__subclasses__() for name in kind.kinds}


def shown(place: Place) -> Iterator[Token]:
    """The pieces of a field."""
    return controls()[place.spec.kind].tokens(place)
