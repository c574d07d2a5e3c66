"""What stands behind the core side: the plates of a mold base that ejector pins go through and stand on."""

from __future__ import annotations

from dataclasses import dataclass

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.steps.tool.lying import Lying


@dataclass(frozen=True)
class Behind:
    """The support and retainer plate, the level where the pins' heads come to rest on the ejector plate, from where to where in
    plan these plates reach to either side of the middle, mm; and all components that stand between.
    """

    support: Entry
    retainer: Entry
    back: float
    rest: float
    reach: tuple[float, float]
    others: tuple[Entry, ...]


def behind(at: Builder, lying: Lying) -> Behind | None:
    """The plates, if there is a mold base."""
    bodies = [e for e in at.bodies() if e.role in ("moving base", "ejection")]
    plates = {e.stock.kind: e for e in bodies if e.stock}
    if not {"Support plate", "Retainer plate"} <= plates.keys():
        return None
    support, retainer = plates["Support plate"], plates["Retainer plate"]
    box = kernel.measure.corner_box(retainer.body.solid)
    others = tuple(e for e in bodies if e.stock and e.stock.form != "plate")
    low = lying.levels(kernel.measure.corner_box(support.body.solid))[0]
    reach = (box.size[lying.long] / 2, box.size[lying.short] / 2)
    return Behind(support, retainer, low, lying.levels(box)[1], reach, others)
