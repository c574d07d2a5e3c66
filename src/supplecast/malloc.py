"""The C library's allocator."""

from __future__ import annotations

import ctypes

_M_ARENA_MAX = -8  # of mallopt(3)
_ARENAS = 2


def share_arenas() -> None:
    """Let the threads of this process share what they have freed. Each has a heap of its own otherwise, which keeps what one
    large answer took, so that a server of many threads seems to grow for an hour. Call it before threads begin.
    """
    tune = getattr(ctypes.CDLL(None), "mallopt", None)  # glibc has it; other C libraries need no telling
    if tune is not None:
        tune(_M_ARENA_MAX, _ARENAS)
