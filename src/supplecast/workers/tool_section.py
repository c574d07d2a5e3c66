"""The section through a tool's stack: which bodies, and through what it is laid."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast import kernel
from supplecast.document.parts_list import parts_list
from supplecast.document.state import PARTS, STEEL, Entry
from supplecast.geometry import Vec
from supplecast.molding.stack_drawing import StackSection
from supplecast.molding.stack_section import stack_section


def stack_of(entries: Sequence[Entry]) -> StackSection | None:
    """The section through parts, sprue and guides, its items numbered as in the parts list; None before there are halves."""
    pull = next((e.pull for e in entries if e.role == "core" and e.pull), None)
    if pull is None:
        return None
    shown = [e for e in entries if e.role in (*STEEL, *PARTS, "feed")]
    items = {body: item.number for item in parts_list(entries) for body in item.bodies}
    part = _middle([e for e in shown if e.role in PARTS] or shown) or (0.0, 0.0, 0.0)
    guide = _middle([e for e in shown if e.stock and e.stock.kind == "Guide pillar"]) or part
    sprue = _middle([e for e in shown if (e.stock and e.stock.kind == "Sprue bush") or e.role == "feed"]) or part
    return stack_section([(e.id, e.role, e.body.solid) for e in shown], pull, items, (part, sprue, guide))


def _middle(entries: Sequence[Entry]) -> Vec | None:
    """The middle of the first body, if there is one."""
    return kernel.measure.box(entries[0].body.solid).centre if entries else None
