"""One entry of the build sheet: its data, its sentence and its build. Every step type is a subclass in `steps/`."""

from __future__ import annotations

import importlib
import pkgutil
import typing
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict

from supplecast.document.fields import FieldSpec, Label, StepId

if TYPE_CHECKING:
    from supplecast.document.builder import Builder


class Step(BaseModel):
    """A step of a document.

    A subclass sets `type` to a Literal, `word` to what the sheet calls it, `sheets` to where it belongs, and `sentence`
    to the words of the sheet, with fields in braces. `build` reads and writes only through the builder.
    """

    model_config = ConfigDict(extra="forbid")
    registry: ClassVar[dict[str, type[Step]]] = {}
    word: ClassVar[str] = ""
    about: ClassVar[str] = ""
    sheets: ClassVar[tuple[Literal["part", "tool"], ...]] = ("part", "tool")

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

    def build(self, at: Builder) -> None:
        raise NotImplementedError

    def needs(self) -> frozenset[str]:
        """Ids of the steps this one names outright, such as the sketch of its profile."""
        return frozenset()

    @classmethod
    def spec(cls, field: str) -> FieldSpec:
        """What kind of field this is; unmarked fields are choices among words."""
        for mark in cls.model_fields[field].metadata:
            if isinstance(mark, FieldSpec):
                return mark
        for inner in typing.get_args(cls.model_fields[field].annotation):
            for mark in getattr(inner, "__metadata__", ()):
                if isinstance(mark, FieldSpec):
                    return mark
        return FieldSpec("choice")

    @classmethod
    def choices(cls, field: str) -> tuple[str, ...]:
        return tuple(str(a) for a in typing.get_args(cls.model_fields[field].annotation))

    @property
    def label(self) -> str:
        return self.name or self.word


def load_steps(package: str = "supplecast.steps") -> dict[str, type[Step]]:
    """Import every module below the steps package, once; returns the registry."""
    root = importlib.import_module(package)
    for found in pkgutil.walk_packages(root.__path__, package + "."):
        importlib.import_module(found.name)
    return Step.registry
