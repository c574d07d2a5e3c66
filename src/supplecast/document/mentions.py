"""Which other steps a step names, and so cannot do without."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from supplecast.document.model import step_dict
from supplecast.document.step import Step

# Drawn geometry has ids of its own; the surroundings of a pick only help to tell it from others.
_NOT_NEEDED = frozenset(
    ("points", "entities", "constraints", "figures", "series", "numbers", "name", "id", "has", "lacks", "near", "also", "order")
)


def mentions(step: Step, ids: Sequence[str]) -> set[str]:
    """Which of `ids` a step cannot do without: those it names as a sketch, a body, or inside the tags of its picks."""
    known = set(ids)
    mentioned: set[str] = set()

    def look(value: Any) -> None:
        if isinstance(value, dict):
            for key, inner in value.items():
                if key not in _NOT_NEEDED:
                    look(inner)
        elif isinstance(value, list):
            for inner in value:
                look(inner)
        elif isinstance(value, str):
            mentioned.update(
                known.intersection(re.findall(r"[A-Za-z][A-Za-z0-9]*", value)) if "." in value else known & {value}
            )

    look(step_dict(step))
    return mentioned - {step.id}
