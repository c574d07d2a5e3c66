"""What stands behind the core side: the plates of a mold base that ejector pins go through and stand on."""

from __future__ import annotations

from dataclasses import dataclass

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.steps.tool.lying import Lying
from supplecast.tooling.base.places import Round


@dataclass(frozen=True)
class Behind:
    """The support and retainer plate, the level where the pins' heads come to rest on the ejector plate, from where to where in
    plan these plates reach to either side of the middle, mm; and all components that stand there, with the rounds they take.
    """

    support: Entry
    retainer: Entry
    back: float
    rest: float
    reach: tuple[float, float]
    others: tuple[tuple[Entry, tuple[Round, ...]], ...]


def behind(at: Builder, lying: Lying) -> Behind | None:
    """The plates, if there is a mold base."""
    bodies = [e for e in at.bodies() if e.role in ("moving base", "ejection")]
    plates = {e.stock.kind: e for e in bodies if e.stock}
    if not {"Support plate", "Retainer plate"} <= plates.keys():
        return None
    support, retainer = plates["Support plate"], plates["Retainer plate"]
    box = kernel.measure.corner_box(retainer.body.solid)
    others = tuple((e, rounds_of(e, lying)) for e in bodies if e.stock and e.stock.form != "plate")
    low = lying.levels(kernel.measure.corner_box(support.body.solid))[0]
    reach = (box.size[lying.long] / 2, box.size[lying.short] / 2)
    return Behind(support, retainer, low, lying.levels(box)[1], reach, others)


def rounds_of(entry: Entry, lying: Lying) -> tuple[Round, ...]:
    """What a turned component takes, by the boxes of its faces."""
    solid = entry.body.solid
    boxes = [kernel.measure.face_box(solid, face) for face in range(solid.face_count)]
    rows = [(box, lying.levels(box)) for box in boxes]
    return tuple(
        Round(lying.flat(box.centre), box.size[lying.long] / 2, *ends) for box, ends in rows if ends[1] - ends[0] > 1e-6
    )
