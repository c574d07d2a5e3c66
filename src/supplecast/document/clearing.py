"""Room kept clear about bodies used as tools: exact where they are, of flats about meshes and where that is asked for."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.wording import brief

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made
    from supplecast.kernel.verbs.clearance import Edges
    from supplecast.kernel.verbs.coarse import Coarse


def kept_clear(at: Builder, tool: Entry, gap: float, edges: Edges) -> Made:
    """A tool grown by a gap in mm, named by the fields `gap` and `tools`; what is of flats is told with its error."""
    solid = tool.body.solid
    if edges == "of flats" or not tool.is_solid:
        made = at.kernel("gap" if tool.is_solid else "tools", kernel.coarse.grown, solid, gap)
        tell(at, tool, made, gap, edges)
        return made.made
    if gap:
        return at.kernel("gap", kernel.clearance.grown, solid, gap, edges)
    return kernel.history.Made(solid, kernel.history.unchanged(solid))


def tell(at: Builder, tool: Entry, made: Coarse, gap: float, edges: Edges) -> None:
    """Say how far off a tool the flats about it are, and where its edges are not as asked."""
    if gap and edges == "sharp":
        at.note(f"{tool.name} is a mesh: its edges are rounded about, not kept sharp.")
    if not gap:
        at.note(f"Of flats, within {brief(made.most)} mm of {tool.name}.")
    elif made.most == math.inf:
        at.note(f"Of flats about {tool.name}: at least {brief(made.least)} mm off it.")
    else:
        at.note(f"Of flats about {tool.name}: {brief(made.least)} mm to {brief(made.most)} mm off it.")
