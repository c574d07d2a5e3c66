"""What a page of the handbook holds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property


@dataclass(frozen=True)
class Field:
    """A number or choice of a step: its name, what may be given, and what a new one has, if that is a number or a word."""

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
class Told:
    """What modules tell: what they refuse, what they warn of, and the rules they hold."""

    refusals: tuple[Refusal, ...] = ()
    cautions: tuple[str, ...] = ()
    rules: tuple[Rule, ...] = ()


@dataclass(frozen=True)
class Topic:
    """A page: its id, title, what it is for in a line, paragraphs, and what else is known. `sentence` is how the sheet says it,
    `search` further words by which one may look for it, `step` the type of the step that it is about.
    """

    id: str
    chapter: str
    title: str
    purpose: str
    paragraphs: tuple[str, ...]
    search: str = ""
    sentence: str = ""
    fields: tuple[Field, ...] = ()
    step: str = ""
    picture: tuple[str, str] = ("", "")
    read: Callable[[], Told] = Told
    """Reads what its modules tell, which takes a moment: only the page that is opened asks."""

    @cached_property
    def told(self) -> Told:
        """What goes wrong with it, what it warns of, and the rules behind it."""
        return self.read()

    @property
    def words(self) -> str:
        """All by which one may look for it, in small letters."""
        return f"{self.title} {self.purpose} {self.search} {' '.join(self.paragraphs)}".lower()
