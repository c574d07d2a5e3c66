"""What a worker can do, by the names the engine gives it; the modules are loaded where they work, never in the web process."""

from __future__ import annotations

import importlib
from types import ModuleType
from typing import Any

from supplecast.workers import jobs
from supplecast.workers.jobs import Task

_ELSEWHERE = {
    "judge": "judging",
    "suggest_pull": "judging",
    "sheet_report": "judging",
    "section": "cutting",
    "section_file": "cutting",
    "compare_two": "comparing",
}


def work(order: tuple[str, Task]) -> dict[str, Any]:
    """Do what is asked for by name."""
    kind, task = order
    found: dict[str, Any] = getattr(_module(kind), kind)(task)
    return found


def load() -> None:
    """Load all modules ahead of the first order."""
    for kind in _ELSEWHERE:
        _module(kind)


def _module(kind: str) -> ModuleType:
    return importlib.import_module(f"supplecast.workers.{_ELSEWHERE[kind]}") if kind in _ELSEWHERE else jobs
