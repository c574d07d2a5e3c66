"""Tags for bodies without history: by kind of surface and by place, weaker than tags by history."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from supplecast import kernel
from supplecast.naming.body import Body

if TYPE_CHECKING:
    from supplecast.kernel.shapes.shape import Solid


def by_place(solid: Solid, step: str) -> Body:
    """Tags such as `m1.face[flat 12.0 0.0 3.5]`: the kind of surface and its middle to 0.1 mm; like ones are numbered."""
    seen: Counter[str] = Counter()
    rows = []
    for face in range(solid.face_count):
        x, y, z = (round(c, 1) + 0.0 for c in kernel.measure.face_middle(solid, face))
        name = f"{kernel.measure.surface_word(solid, face)} {x} {y} {z}"
        seen[name] += 1
        suffix = f" #{seen[name]}" if seen[name] > 1 else ""
        rows.append((f"{step}.face[{name}{suffix}]",))
    return Body(solid, tuple(rows))
