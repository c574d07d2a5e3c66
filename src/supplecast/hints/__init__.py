"""Rules that watch the build sheet and speak once, at the step they concern, with an edit that mends it where there is one.

A rule is a function in a module of this package marked with `rule`; it gets the watched sheet and yields hints. Each hint can
be muted in the document: by its rule and its step.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

from supplecast.document.edits import apply, read_edit
from supplecast.document.mentions import mentions
from supplecast.document.model import Document
from supplecast.document.rebuild import Built
from supplecast.document.state import Outcome
from supplecast.document.step import Step
from supplecast.errors import SuppleError
from supplecast.quantities import Kind
from supplecast.tooling.resins import Resin


@dataclass(frozen=True)
class Hint:
    """What a rule says of a step; `edit` mends it, and its button says `fix`. No edit: it is only said."""

    rule: str
    step: str
    words: str
    fix: str = ""
    edit: dict[str, Any] | None = None


@dataclass(frozen=True)
class Watched:
    """A document and what it was built to."""

    document: Document
    built: Built

    @cached_property
    def _places(self) -> dict[str, int]:
        return {step.id: place for place, step in enumerate(self.document.steps)}

    @property
    def resin(self) -> Resin | None:
        return self.document.material

    def working(self, *types: str) -> Iterator[tuple[Step, Outcome]]:
        """Steps of some types that were built."""
        for outcome in self.built.outcomes:
            step = self.document.steps[self._places[outcome.step]]
            if step.type in types and outcome.status == "ok":
                yield step, outcome

    def failed(self, *types: str) -> Iterator[tuple[Step, Outcome]]:
        for outcome in self.built.outcomes:
            step = self.document.steps[self._places[outcome.step]]
            if step.type in types and outcome.status == "failed":
                yield step, outcome

    def value(self, step: Step, field: str, kind: Kind) -> float | None:
        """What a field says, in mm, rad or as a number; None where it cannot be read."""
        try:
            return self.document.scope.evaluate(step.typed(field), kind)
        except SuppleError:
            return None

    def before(self, one: Step, other: Step) -> bool:
        return self._places[one.id] < self._places[other.id]

    def moved_before(self, step: Step, other: Step) -> dict[str, Any] | None:
        """The edit that moves a step directly before another; None where what it is built on comes later than that."""
        place = self._places[other.id]
        after = self.document.steps[place - 1].id if place else None
        edit = {"op": "move", "step": step.id, "after": after}
        try:
            apply(self.document, read_edit(edit))
        except SuppleError:
            return None
        return edit

    def makers(self, step: Step) -> set[str]:
        """The steps that one names: those that made what it picks."""
        return mentions(step, list(self._places))


Rule = Callable[[Watched], Iterator[Hint]]
_rules: list[Rule] = []


def rule(check: Rule) -> Rule:
    """Marks a rule."""
    _rules.append(check)
    return check


@lru_cache(maxsize=1)
def _load() -> None:
    for module in pkgutil.iter_modules(__path__):
        importlib.import_module(f"{__name__}.{module.name}")


def heard(document: Document, built: Built) -> list[Hint]:
    """All hints on a built document but those it has muted."""
    _load()
    watched = Watched(document, built)
    hints = [hint for each in _rules for hint in each(watched)]
    return [hint for hint in hints if f"{hint.rule}:{hint.step}" not in document.muted]
