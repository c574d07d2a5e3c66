"""Who does which verb: functions say so by a decorator, and a worker hands its orders to them."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable
from typing import Any, TypeVar

from supplecast.wire.task import Task
from supplecast.wire.verbs import Verb

A = TypeVar("A")
R = TypeVar("R")
Order = tuple[str, Task, Any]
"""The name of a verb, the task, and the verb's options."""

_doers: dict[str, Callable[[Task, Any], Any]] = {}


def does(verb: Verb[A, R]) -> Callable[[Callable[[Task, A], R]], Callable[[Task, A], R]]:
    """Marks the function that does a verb."""

    def marked(doer: Callable[[Task, A], R]) -> Callable[[Task, A], R]:
        _doers[verb.name] = doer
        return doer

    return marked


def work(order: Order) -> Any:
    """Do what is asked for by name."""
    name, task, options = order
    return _doers[name](task, options)


def load(package: str = "supplecast.workers.verbs") -> None:
    """Load every module of a package, or a single module, ahead of the first order."""
    loaded = importlib.import_module(package)
    for module in pkgutil.iter_modules(getattr(loaded, "__path__", ())):
        importlib.import_module(f"{package}.{module.name}")
