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
    if edges != "of flats" and tool.is_solid:
        solid = tool.body.solid
        return (
            at.kernel("gap", kernel.clearance.grown, solid, gap, edges)
            if gap
            else kernel.history.Made(solid, kernel.history.unchanged(solid))
        )
    made = at.kernel("gap" if tool.is_solid else "tools", kernel.coarse.grown, tool.body.solid, gap)
    tell(at, tool, made, gap)
    return made.made


def tell(at: Builder, tool: Entry, made: Coarse, gap: float) -> None:
    """Say how far off a tool the flats about it are."""
    if not gap:
        at.note(f"Of flats, within {brief(made.most)} mm of {tool.name}.")
    elif made.most == math.inf:
        at.note(f"Of flats about {tool.name}: at least {brief(made.least)} mm off it.")
    else:
        at.note(f"Of flats about {tool.name}: {brief(made.least)} mm to {brief(made.most)} mm off it.")
