"""What lies on faces without changing them: pictures, how they are laid on, how surfaces look. Nothing here needs the kernel.

What cuts, unrolls and draws is loaded when first used, so that a process that only reads and writes documents does not load
compiled code.
"""

from __future__ import annotations

import importlib
from types import ModuleType
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from supplecast.art import decal, ladder, picture, unroll

__all__ = ["decal", "ladder", "picture", "unroll"]


def __getattr__(name: str) -> ModuleType:
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return importlib.import_module(f"{__name__}.{name}")
