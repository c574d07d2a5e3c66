"""What a part weighs and whether it can be molded.

What measures bodies is loaded when it is first used (`molding.judge.skin_of(...)`), so that a process that only reads and
writes documents never loads the kernel or compiles the searches among triangles.
"""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from supplecast.molding import (
        clearances,
        estimates,
        flow,
        judge,
        lifting,
        opening,
        release,
        staying,
        sticking,
        travel,
        undercut,
    )

__all__ = [
    "clearances",
    "estimates",
    "flow",
    "judge",
    "lifting",
    "opening",
    "release",
    "staying",
    "sticking",
    "travel",
    "undercut",
]


def __getattr__(name: str) -> Any:
    if name in __all__:
        return importlib.import_module(f"{__name__}.{name}")
    raise AttributeError(name)
