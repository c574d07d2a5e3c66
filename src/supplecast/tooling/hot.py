"""Hot drops: heated nozzles that keep the melt molten up to the part, the manifold that feeds them, and what they stand on."""

from __future__ import annotations

import math
from dataclasses import dataclass

from supplecast.geometry import Point2
from supplecast.tooling.base.component import Component, stepped
from supplecast.tooling.runners import SHEAR
from supplecast.tooling.stock import Stock, at_least

GAP = 8.0
"""Mm of air between what is hot and the plates round it (common practice, from memory: 6 to 10)."""
SEAT = 6.0
"""Mm that a nozzle's head stands in the back of the cavity plate (common practice, no source)."""
SHOULDER = 4.0
"""Mm of a nozzle's shank behind its seal at least (common practice, no source)."""
_SEAL, _SEALED = 5.0, 2.0  # mm long, and narrower a side than the shank (common practice, no source)
_AIR, _HEAD_FIT = 2.0, 0.25  # mm a side round a nozzle's shank and head (common practice, no source)
_TIP = 0.5  # mm of steel round the melt at a nozzle's tip (common practice, no source)
_FINEST = 0.8  # mm: a finer gate shears most melts too hard (common practice, from memory)
_THIN_BEAM, _BEAM = 25.0, 4.0  # mm, and channels that a beam is thick at least (common practice, no source)
_BESIDE = 3.0  # mm that a beam is wider than a nozzle's head, each side (common practice, no source)
_PAD, _SPIGOT, _DEEP = 24.0, 10.0, 5.0  # mm: a support pad, the pin under the middle one and how deep it stands (no source)
STEEL = "X37CrMoV5-1"  # ISO 4957 (from memory)
EXPANSION = 12.0e-6
"""1/K of steel (common handbook value, from memory)."""


@dataclass(frozen=True)
class Nozzle:
    """Diameters in mm of a heated nozzle's shank, head and melt bore, of the channel that feeds it, and the grams a shot that
    it is used for at most.

    What nozzles there are differs by maker; these are round figures between them (common practice, no source).
    """

    shank: float
    head: float
    melt: float
    channel: float
    most: float

    @property
    def seal(self) -> float:
        """Radius of what fits the steel in front."""
        return self.shank / 2 - _SEALED


NOZZLES = (
    Nozzle(16.0, 30.0, 5.0, 6.0, 20.0),
    Nozzle(22.0, 36.0, 7.0, 8.0, 60.0),
    Nozzle(28.0, 42.0, 9.0, 10.0, 180.0),
    Nozzle(36.0, 52.0, 12.0, 14.0, 600.0),
    Nozzle(45.0, 64.0, 16.0, 18.0, math.inf),
)


def nozzle_for(grams: float) -> Nozzle:
    """The narrowest nozzle for a shot of so many grams through it."""
    return next(one for one in NOZZLES if grams <= one.most)


def gate(flow: float) -> float:
    """Diameter in mm of a round gate that lets `flow` mm³/s through without shearing it harder than is usual, rounded up to
    0.1: 32 Q / (π d³) at the wall of a round bore.
    """
    return max(_FINEST, math.ceil(10 * math.cbrt(32 * flow / (math.pi * SHEAR)) - 1e-9) / 10)


def shear_rate(flow: float, gate: float) -> float:
    """1/s at the wall of a round gate, `flow` in mm³/s, its diameter in mm."""
    return 32 * flow / (math.pi * gate**3)


def cone(nozzle: Nozzle, gate: float) -> float:
    """How long a nozzle's tip is, mm: it leans by 45°, so that steel stays between it and the part."""
    return nozzle.seal - (gate / 2 + _TIP)


def least(nozzle: Nozzle, gate: float) -> float:
    """The least length in mm of what of a nozzle stands in the cavity side."""
    return SEAT + SHOULDER + _SEAL + cone(nozzle, gate)


def drop(name: str, at: Point2, back: float, tip: float, nozzle: Nozzle, gate: float, proud: float) -> Component:
    """A nozzle from its tip at a level to its head, which stands `proud` mm behind the cavity plate's `back`. Its hole is that
    in the cavity side.
    """
    leaning, seal = cone(nozzle, gate), nozzle.seal
    seated, sealed = back + SEAT, tip - leaning - _SEAL
    point = gate / 2 + _TIP
    outer = (
        *stepped((back - proud, seated, nozzle.head / 2), (seated, sealed, nozzle.shank / 2), (sealed, tip - leaning, seal)),
        (tip, point),
    )
    hole = (
        *stepped((back, seated, nozzle.head / 2 + _HEAD_FIT), (seated, sealed, nozzle.shank / 2 + _AIR)),
        *stepped((sealed, tip - leaning, seal)),
        (tip, point),
    )
    narrowing = tip - (nozzle.melt - gate)  # half as steep as the tip
    long = tip - back + proud
    stock = Stock("Hot nozzle", "ring", (nozzle.shank, nozzle.melt, round(long, 2)), STEEL)
    inner = ((back - proud, nozzle.melt / 2), (narrowing, nozzle.melt / 2), (tip, gate / 2))
    return Component(name, "Hot nozzle", "fixed", at, outer, stock, inner=inner, hole=hole, through=("cavity",))


@dataclass(frozen=True)
class Beams:
    """The manifold behind a cavity plate's `back`, mm: how wide and thick its beams are, and the plate that it lies in."""

    back: float
    wide: float
    thick: float
    plate: float

    @property
    def low(self) -> float:
        return self.back - GAP

    @property
    def high(self) -> float:
        """The level of its face towards the clamping plate."""
        return self.low - self.thick

    @property
    def channels(self) -> float:
        """The level of the middle of its channels."""
        return self.low - self.thick / 2

    @property
    def end(self) -> float:
        """The level at which its plate ends."""
        return self.back - self.plate


def beams(back: float, nozzle: Nozzle, plate: float | None) -> Beams:
    """The manifold for nozzles of a size, in a plate so thick or as thick as is needed."""
    thick = at_least(max(_BEAM * nozzle.channel, _THIN_BEAM))
    return Beams(back, nozzle.head + 2 * _BESIDE, thick, plate or at_least(2 * GAP + thick))


def pad(name: str, at: Point2, beams: Beams) -> Component:
    """What holds the manifold down onto a nozzle, from the clamping plate."""
    body = stepped((beams.end, beams.high, _PAD / 2))
    stock = Stock("Support pad", "round", (_PAD, beams.high - beams.end), "TiAl6V4", cut=beams.high - beams.end)
    return Component(name, "Support pad", "fixed", at, body, stock)


def middle_pad(name: str, at: Point2, beams: Beams) -> Component:
    """What the manifold stands on under its inlet, with a pin into either that centres it."""
    low, high = beams.low, beams.back
    pin = _SPIGOT / 2
    body = stepped((low - _DEEP, low, pin), (low, high, _PAD / 2), (high, high + _DEEP, pin))
    hole = stepped((low - _DEEP, low, pin), (high, high + _DEEP, pin))
    stock = Stock("Middle pad", "round", (_PAD, round(high - low + 2 * _DEEP, 2)), "TiAl6V4")
    return Component(name, "Middle pad", "fixed", at, body, stock, hole=hole, through=("manifold", "cavity"))


def grown(length: float, melt: float, plates: float) -> float:
    """How many mm longer a beam of so many mm is at the melt's temperature than the plates it lies in at theirs, °C."""
    return length * EXPANSION * (melt - plates)
