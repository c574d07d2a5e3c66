"""What a page of the handbook holds."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Field:
    """A number or choice of a step: its name, what may be given, and what it is when left out; blank for nothing."""

    name: str
    takes: str
    left_out: str


@dataclass(frozen=True)
class Refusal:
    """What may go wrong, with “…” for what depends on the case, and what would do."""

    words: str
    mend: str


@dataclass(frozen=True)
class Rule:
    """A rule of thumb or a figure of a standard, with its source: the value as the code has it, and what it is."""

    value: str
    words: str


@dataclass(frozen=True)
class Topic:
    """A page: its id, title, what it is for in a line, paragraphs, and what else is known. `sentence` is how the sheet says it,
    `search` further words by which one may look for it, `steps` the type of the step that it is about.
    """

    id: str
    chapter: str
    title: str
    purpose: str
    paragraphs: tuple[str, ...]
    search: str = ""
    sentence: str = ""
    fields: tuple[Field, ...] = ()
    rules: tuple[Rule, ...] = ()
    refusals: tuple[Refusal, ...] = ()
    cautions: tuple[str, ...] = ()
    step: str = ""
    picture: tuple[str, str] = ("", "")

    @property
    def words(self) -> str:
        """All by which one may look for it, in small letters."""
        return f"{self.title} {self.purpose} {self.search} {' '.join(self.paragraphs)}".lower()
