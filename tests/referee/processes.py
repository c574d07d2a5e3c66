"""Which processes a process has begun."""

from __future__ import annotations

from pathlib import Path


def _parents() -> dict[int, int]:
    parents: dict[int, int] = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                parents[int(entry.name)] = int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1])
            except OSError:
                continue
    return parents


def descendants(pid: int) -> list[int]:
    """Its children, their children, and so on."""
    parents, known, young = _parents(), list[int](), [pid]
    while young:
        young = [child for child, parent in parents.items() if parent in young]
        known += young
    return known


def grandchildren(pid: int) -> list[int]:
    """The children of its children: the workers of an engine, which one process forks for it."""
    parents = _parents()
    children = {child for child, parent in parents.items() if parent == pid}
    return [child for child, parent in parents.items() if parent in children]
