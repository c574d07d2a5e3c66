"""Further bodies that go with a first one."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from supplecast.document.state import Entry


def several(seek: Callable[[str, str], Entry], first: Entry, also: Sequence[str]) -> list[Entry]:
    """A body and those that its step names in `also`, each once; `seek` reads them, to be changed or not."""
    return [first, *(seek(body, "also") for body in also if body != first.id)]
