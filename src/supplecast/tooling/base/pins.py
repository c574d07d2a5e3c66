"""Pins in a mold base: ejector pins and sleeves, headed, held by the retainer plate, guided where the part is and loose behind;
and core pins that stand in the clamping plate, since a sleeve goes over them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from supplecast.geometry import Point2
from supplecast.tooling.base.component import Component, stepped
from supplecast.tooling.base.components import pin_head
from supplecast.tooling.screws import SCREWS, Size
from supplecast.tooling.stock import Stock, at_least

SLEEVES = (3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 14.0, 16.0, 18.0, 20.0)
"""Outer diameters of ejector sleeves, mm (ISO 8405, from memory)."""
PINS = (1.5, 2.0, 2.5, 3.0, 3.5, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0)
"""Diameters of core pins, mm (as ejector pins of ISO 6751, from memory)."""
SLEEVE_WALL = 0.75
"""Mm of wall that a sleeve has at least (common practice, no source)."""
_LOOSE, _HEAD = 0.5, 0.25  # mm a side in the support plate, and round pin and head in the retainer (common practice, no source)
_RELIEF, _THIN = 0.5, 0.3  # mm a side that a sleeve is wider behind its guide, and of wall left there (no source)
_SCREWED: tuple[Size, ...] = ("M10", "M8", "M6", "M5", "M4")
_SHOULDER = 1.0  # mm a side that a rod is wider than its thread at least (common practice, no source)
PLUG = 8.0
"""Mm of set screw behind a core pin's head (common practice, no source)."""
_THREADS = (5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 24.0, 30.0, 36.0)  # mm (ISO 4026, from memory)


def ejector_pin(name: str, at: Point2, tip: float, wide: float, back: float, rest: float) -> Component:
    """A pin of a diameter from its `tip` to the level `rest`, where the ejector plate begins; `back` is the core plate's. Its
    hole is that in support and retainer plate: the one in core and insert is its maker's.
    """
    head, high = pin_head(wide)
    r, under = wide / 2, rest - high
    return Component(
        name,
        "Ejector pin",
        "ejection",
        at,
        stepped((tip, under, r), (under, rest, head / 2)),
        Stock("Ejector pin", "round", (wide, at_least(rest - tip)), "X40CrMoV5-1", "ISO 6751", rest - tip),
        hole=stepped((back, under, r + _LOOSE), (under, rest, head / 2 + _HEAD)),
        through=("support", "retainer"),
    )


@dataclass(frozen=True)
class Levels:
    """Levels behind the core side, mm: where the core plate ends, where heads of pins rest on the ejector plate, and from where
    to where the moving clamping plate reaches.
    """

    back: float
    rest: float
    clamp: float
    end: float


def push_rod(name: str, at: Point2, back: float, wide: float, levels: Levels) -> Component:
    """A rod from the retainer plate that carries a stripper, whose back is at a level: screwed into it, and held as an ejector
    pin is.
    """
    pin = ejector_pin(name, at, back, wide, levels.back, levels.rest)
    size = next(size for size in _SCREWED if SCREWS[size].nominal <= wide - 2 * _SHOULDER or size == _SCREWED[-1])
    into = SCREWS[size].nominal
    long = round(levels.rest - back + into, 2)
    stock = Stock(f"Push rod {size}", "round", (wide, at_least(long)), pin.stock.material, "ISO 6751", long)
    outer = (*stepped((back - into, back, SCREWS[size].nominal / 2)), *pin.outer)
    return replace(pin, name="Push rod", stock=stock, outer=outer)


def ejector_sleeve(name: str, at: Point2, tip: float, wide: float, bore: float, guide: float, levels: Levels) -> Component:
    """A sleeve of an outer diameter from its `tip` on, sliding on a core pin that fits its `bore` over the length `guide`; held
    as an ejector pin is.
    """
    pin = ejector_pin(name, at, tip, wide, levels.back, levels.rest)
    fitting, inside = min(tip + guide, levels.rest), bore / 2
    loose = max(min(inside + _RELIEF, wide / 2 - _THIN), inside)
    long = round(levels.rest - tip, 2)
    stock = Stock("Ejector sleeve", "ring", (wide, bore, at_least(long)), pin.stock.material, "ISO 8405", long)
    inner = stepped((tip, fitting, inside), (fitting, levels.rest, loose))
    return replace(pin, name="Ejector sleeve", stock=stock, inner=inner)


def core_pin_shank(name: str, at: Point2, tip: float, start: float, wide: float, levels: Levels) -> tuple[Component, Component]:
    """What of a core pin with its `tip` at a level runs behind its sleeve: from `start` through all plates into the moving
    clamping plate, where a set screw holds its head; and that screw. The holes are those in ejector and clamping plate.
    """
    head, high = pin_head(wide)
    r, under, long = wide / 2, levels.end - PLUG - high, levels.end - PLUG - tip
    thread = next(size for size in _THREADS if size > head + 2 * _HEAD)
    pin = Component(
        name,
        "Core pin",
        "moving",
        at,
        stepped((start, under, r), (under, levels.end - PLUG, head / 2)),
        Stock("Core pin", "round", (wide, at_least(long)), "X40CrMoV5-1", "ISO 6751", round(long, 2)),
        hole=stepped(
            (levels.rest, levels.clamp, r + _LOOSE), (levels.clamp, under, r), (under, levels.end - PLUG, head / 2 + _HEAD)
        ),
        through=("ejectorplate", "movingclamp"),
    )
    screw = Component(
        f"{name}screw",
        "Set screw",
        "moving",
        at,
        stepped((levels.end - PLUG, levels.end, thread / 2)),
        Stock("Set screw", "screw", (thread, PLUG), "45H", "ISO 4026"),
        hole=stepped((levels.end - PLUG, levels.end, thread / 2)),
        through=("movingclamp",),
    )
    return pin, screw
