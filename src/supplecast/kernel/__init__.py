"""The geometry kernel behind small verbs on solids: the only package that imports the geometry bindings.

Its modules lie in rooms by topic and are called by their own name, whichever room they are in: `kernel.walls.shell(...)`.
They are loaded when first used, so that a process that only reads and writes documents never loads the bindings. What a type
checker needs to know of them is in `__init__.pyi`, written by `make docs`.
"""

from __future__ import annotations

import importlib
from pathlib import Path
from types import ModuleType

ROOMS = {path.stem: path.parent.name for path in sorted(Path(__file__).parent.glob("*/[a-z]*.py"))}
"""The room of each module."""


def __getattr__(name: str) -> ModuleType:
    if name not in ROOMS:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    module = importlib.import_module(f"{__name__}.{ROOMS[name]}.{name}")
    globals()[name] = module
    return module


def preload() -> None:
    """Load every module, so that a process forked from this one starts warm."""
    for name in ROOMS:
        __getattr__(name)
