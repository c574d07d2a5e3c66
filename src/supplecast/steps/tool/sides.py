"""The sides of a mold base: what role its bodies have there, and the assemblies under which they are listed and handed off."""

from __future__ import annotations

from collections.abc import Mapping

from supplecast.document.state import Entry, Role
from supplecast.geometry import Vec, along, dot, unit
from supplecast.tooling.base.stack import Side

ROLES: Mapping[Side, Role] = {"fixed": "fixed base", "moving": "moving base", "ejection": "ejection"}
_OF_ROLE: Mapping[Role, Side] = {
    "cavity": "fixed", "cavity insert": "fixed", "slide": "fixed", "core": "moving", "core insert": "moving",
    "core slide": "moving", "core pin": "moving", "ejector": "ejection", "lifter": "ejection",
    "stripper": "ejection",
}  # fmt: skip
GROUPS: Mapping[Side, str] = {"fixed": "Fixed side", "moving": "Moving side", "ejection": "Ejection"}


def sideways(axis: Vec, pull: Vec) -> Vec:
    """What of a leaning way goes square to the pull."""
    return unit(along(axis, pull, -dot(axis, pull)))


def assembly(entry: Entry) -> tuple[str, ...]:
    """The assemblies that a body of a tool is handed off under: its own, else that of the side it moves with."""
    side = _OF_ROLE.get(entry.role)
    return entry.group or ((GROUPS[side],) if side else ())
