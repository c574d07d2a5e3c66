"""What stands behind the core side: the plates of a mold base that ejector pins go through and stand on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.steps.tool.lying import Lying
from supplecast.tooling.base.pins import Levels


@dataclass(frozen=True)
class Behind:
    """The plates by the names that components go by, the levels there, and how far in plan the ejector plates reach to either
    side of the middle, mm.
    """

    plates: Mapping[str, Entry]
    levels: Levels
    reach: tuple[float, float]

    @property
    def support(self) -> Entry:
        return self.plates["support"]

    @property
    def retainer(self) -> Entry:
        return self.plates["retainer"]


_KINDS = {
    "support": "Support plate", "retainer": "Retainer plate", "ejectorplate": "Ejector plate",
    "movingclamp": "Moving clamping plate",
}  # fmt: skip


def needed(at: Builder, lying: Lying, field: str, words: str, otherwise: str = "") -> Behind:
    """The plates. Refused with `words` where there is no mold base yet; `otherwise` is what else would do."""
    base = behind(at, lying)
    if base is None:
        wayout = "Move this step below the mold base" if at.ahead("mold base") else "Add a mold base before this step"
        at.fail(field, words, f"{wayout}{otherwise}.")
    return base


def behind(at: Builder, lying: Lying) -> Behind | None:
    """The plates, if there is a mold base."""
    by_kind = {e.stock.kind: e for e in at.bodies() if e.role in ("moving base", "ejection") and e.stock}
    if not set(_KINDS.values()) <= by_kind.keys():
        return None
    plates = {name: by_kind[kind] for name, kind in _KINDS.items()}
    boxes = {name: kernel.measure.corner_box(entry.body.solid) for name, entry in plates.items()}
    ends = {name: lying.levels(box) for name, box in boxes.items()}
    levels = Levels(ends["support"][0], ends["retainer"][1], *ends["movingclamp"])
    size = boxes["retainer"].size
    return Behind(plates, levels, (size[lying.long] / 2, size[lying.short] / 2))
