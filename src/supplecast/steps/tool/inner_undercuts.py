"""Undercuts inside of a part, which the core forms: where each lies, and how a lifter goes to free it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from supplecast import kernel, molding
from supplecast.document.state import Entry
from supplecast.geometry import Vec, cross, dot
from supplecast.steps.tool.marks import CORE, UNDERCUT

LEAN = math.radians(12.0)
"""How much lifters lean where the stroke can follow (common practice, no source)."""


@dataclass(frozen=True)
class Inner:
    """The way a lifter goes sideways, where what hangs over lies along that and across, and how high, mm along the pull from
    the document's origin; `depth` is how far the lifter must go.
    """

    way: Vec
    along: tuple[float, float]
    across: tuple[float, float]
    shelf: float
    depth: float


def groups(part: Entry) -> Mapping[str, list[int]]:
    """The faces of each undercut inside, by its number, whatever copy of the part it is."""
    found: dict[str, list[int]] = {}
    for face, tags in enumerate(part.body.tags):
        mark = next((tag for tag in tags if f".{UNDERCUT}[" in tag), None)
        if mark and any(f".{CORE}" in tag for tag in tags):
            found.setdefault(mark.partition(f".{UNDERCUT}[")[2].partition("]")[0], []).append(face)
    return found


def inner(part: Entry, faces: list[int], pull: Vec) -> Inner | None:
    """How a lifter frees an undercut, by those of its faces that look the way the part is pushed off; None if none does."""
    solid = part.body.solid
    found = molding.lifting.freed_by_lifter(solid, faces, pull)
    if found is None:
        return None
    drafts = kernel.facing.drafts(solid, pull, faces)
    over = [face for face, (low, _) in zip(faces, drafts, strict=True) if low < -kernel.parting.UPRIGHT]
    corners = [corner for face in over for corner in kernel.measure.face_box(solid, face).corners]

    def reach(axis: Vec) -> tuple[float, float]:
        return min(dot(c, axis) for c in corners), max(dot(c, axis) for c in corners)

    along = reach(found.way)
    return Inner(found.way, along, reach(cross(found.way, pull)), reach(pull)[1], along[1] - along[0])
