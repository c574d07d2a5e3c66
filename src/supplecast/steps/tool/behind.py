"""What stands behind the core side: the plates of a mold base that ejector pins go through and stand on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.steps.tool.lying import Lying
from supplecast.tooling.base.places import Round


@dataclass(frozen=True)
class Behind:
    """The support, retainer, ejector and moving clamping plate; the levels where the core plate ends, where heads of pins rest
    on the ejector plate, and from where to where the clamping plate reaches; how far in plan the ejector plates reach
    to either side of the middle, mm; and all components that stand there, with the rounds they take.
    """

    support: Entry
    retainer: Entry
    ejector: Entry
    clamp: Entry
    back: float
    rest: float
    clamp_from: float
    clamp_to: float
    reach: tuple[float, float]
    others: tuple[tuple[Entry, tuple[Round, ...]], ...]

    @property
    def plates(self) -> Mapping[str, Entry]:
        """By the names that components go by."""
        return {"support": self.support, "retainer": self.retainer, "ejectorplate": self.ejector, "movingclamp": self.clamp}


def behind(at: Builder, lying: Lying) -> Behind | None:
    """The plates, if there is a mold base."""
    bodies = [e for e in at.bodies() if e.role in ("moving base", "ejection", "core pin") or is_sleeve(e)]
    plates = {e.stock.kind: e for e in bodies if e.stock}
    if not {"Support plate", "Retainer plate"} <= plates.keys():
        return None
    support, retainer = plates["Support plate"], plates["Retainer plate"]
    ejector, clamp = plates["Ejector plate"], plates["Moving clamping plate"]
    ends = lying.levels(kernel.measure.corner_box(clamp.body.solid))
    box = kernel.measure.corner_box(retainer.body.solid)
    others = tuple((e, rounds_of(e, lying)) for e in bodies if e.stock and e.stock.form != "plate")
    low = lying.levels(kernel.measure.corner_box(support.body.solid))[0]
    reach = (box.size[lying.long] / 2, box.size[lying.short] / 2)
    return Behind(support, retainer, ejector, clamp, low, lying.levels(box)[1], *ends, reach, others)


def is_sleeve(entry: Entry) -> bool:
    """Whether it is a sleeve round a core pin, which pushes as ejector pins do."""
    return entry.stock is not None and entry.stock.kind == "Ejector sleeve"


def rounds_of(entry: Entry, lying: Lying) -> tuple[Round, ...]:
    """What a turned component takes, by the boxes of its faces."""
    solid = entry.body.solid
    boxes = [kernel.measure.face_box(solid, face) for face in range(solid.face_count)]
    rows = [(box, lying.levels(box)) for box in boxes]
    return tuple(
        Round(lying.flat(box.centre), box.size[lying.long] / 2, *ends) for box, ends in rows if ends[1] - ends[0] > 1e-6
    )
