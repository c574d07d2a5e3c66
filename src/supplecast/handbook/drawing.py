"""Pages of the drawing tools."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from functools import partial
from pathlib import Path

from supplecast.handbook.told import told
from supplecast.handbook.topic import Field, Topic
from supplecast.sketch.tools import tools


def drawing_topics() -> Iterator[Topic]:
    """A page for each tool of the belt."""
    for name, tool in tools().items():
        module = sys.modules[tool.lay.__module__]
        clicks = f"Click {', then '.join(tool.clicks)}." + (" Further clicks like the last may follow." if tool.more else "")
        typed = f"Typed instead of clicked: {', '.join(tool.sizes)}." if tool.sizes else ""
        about = " ".join((module.__doc__ or "").split())
        yield Topic(
            f"drawing/{name.replace(' ', '-')}",
            "Drawing",
            name.capitalize(),
            f"{len(tool.clicks)} clicks" if len(tool.clicks) > 1 else "one click",
            tuple(part for part in (clicks, typed, about) if part),
            tool.family,
            fields=tuple(Field(size, "a number with its unit, or a formula", "as the pointer lies") for size in tool.sizes),
            read=partial(told, Path(module.__file__ or "")),
        )
