"""What the parting line writes on the faces of the part, and how later steps read it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.geometry import Vec

if TYPE_CHECKING:
    from supplecast.kernel.molds.parting import Loop, Side

CORE, CAVITY, UNDERCUT = "core side", "cavity side", "undercut"
_SURFACES = (".land{", ".slope{", ".shut-off{")


def forms_part(tags: Sequence[str]) -> bool:
    """Whether a face of the tool lies against the part, the parting surface round it, or a shut-off."""
    return any(f".{side}" in tag for tag in tags for side in (CORE, CAVITY)) or any(s in tag for tag in tags for s in _SURFACES)


@dataclass(frozen=True)
class Parted:
    """A part whose faces are told to be the core's or the cavity's: the undercut each face is in by its mark, and the pull."""

    entry: Entry
    of: tuple[Side, ...]
    undercut: dict[int, str]
    pull: Vec

    @property
    def solid(self) -> kernel.shape.Solid:
        return self.entry.body.solid

    def loops(self, at: Builder, field: str) -> list[Loop]:
        return at.kernel(field, kernel.parting.loops, self.solid, self.of, self.pull)


def parted(at: Builder, part: str | None, field: str) -> Parted:
    """The part with its parting line. Refuses one that has none yet."""
    return parted_as(at, at.body(part, field, roles=("linked", "part")), field)


def parted_as(at: Builder, entry: Entry, field: str) -> Parted:
    """A part at hand with its parting line."""
    of: list[Side] = []
    undercut: dict[int, str] = {}
    for face, tags in enumerate(entry.body.tags):
        mine = [side for tag in tags for side in (CORE, CAVITY) if f".{side}" in tag]
        if not mine:
            at.fail(field, f"{entry.name} has no parting line yet.", "Add a parting line before this step.")
        of.append("core" if mine[-1] == CORE else "cavity")
        undercut.update((face, tag) for tag in tags if f".{UNDERCUT}[" in tag)
    return Parted(entry, tuple(of), undercut, entry.pull or (0.0, 0.0, 1.0))
