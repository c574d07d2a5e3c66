"""The mouth of a mold base: the sprue bush that leads from the press's nozzle to the sprue, and the ring that centres it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from supplecast.geometry import Point2
from supplecast.tooling.base.component import Component, stepped
from supplecast.tooling.base.components import NoRoomError, socket_screw
from supplecast.tooling.base.places import Plan, Round
from supplecast.tooling.base.stack import Stack
from supplecast.tooling.screws import SCREWS, Size
from supplecast.tooling.stock import Stock

RINGS = (60.0, 80.0, 100.0, 110.0, 125.0, 160.0)
"""Outside diameters of locating rings, mm (ISO 10907, from memory: what the press has counts)."""
SHANKS = ((12.0, 28.0, 13.0), (16.0, 32.0, 13.0), (20.0, 38.0, 15.0), (25.0, 44.0, 18.0), (32.0, 54.0, 20.0))
"""Of sprue bushes: shank, head and height of the head, mm (ISO 10072, from memory)."""
CUP = 15.5
"""Radius of the nozzle's seat, mm (ISO 10072, from memory)."""
_DEEP = 2.5  # mm of the seat
_SEAT, _RING_HIGH = 4.0, 12.0  # mm of the ring in the plate, and in all
_RIM = 2.0  # mm of the ring beside the heads of its screws (common practice, no source)
_ROUND_SPRUE = 2.5  # mm of steel round the sprue at least (common practice, no source)
_HEATED, _AIR = 4.0, 3.0  # mm of steel and heater round a heated bore, and of air round that (common practice, no source)
_THINNEST = 2.0  # mm: a narrower sprue freezes in the nozzle (common practice, no source)


@dataclass(frozen=True)
class Sprue:
    """A sprue as it comes out of the cavity plate: where, how wide there, how much wider it grows for each mm inwards (of
    radius), the level where it ends, and the body it is of.
    """

    at: Point2
    radius: float
    slope: float
    end: float
    feed: str = ""

    def radius_at(self, level: float, back: float) -> float:
        return self.radius + self.slope * (level - back)


@dataclass(frozen=True)
class Inlet:
    """Where the press's nozzle feeds what is hot: the place, the level, and the radius of the bore there, mm."""

    at: Point2
    level: float
    radius: float


@dataclass(frozen=True)
class Mouth:
    """The ring, its screws, and the bush where there is one; `cone` is what it adds to the feed: level, radius of each end."""

    components: tuple[Component, ...]
    cone: tuple[float, float, float, float] | None = None
    whole: bool = False


def mouth(stack: Stack, plan: Plan, sprue: Sprue | Inlet | None, wide: float | None) -> Mouth:
    """The ring and, where there is a sprue, its bush: through the cavity plate to the parting plane if the sprue goes there and
    there is room, else to the clamping plate's back. What is hot is fed by a heated bush.
    """
    clamp, back = stack["fixedclamp"], stack["fixedclamp"].high[2]
    at = sprue.at if sprue else (0.0, 0.0)
    ring = wide or max((r for r in RINGS if r <= 0.6 * plan.width), default=RINGS[0])
    if ring / 2 + abs(at[1]) > plan.width / 2 or ring / 2 + abs(at[0]) > plan.length / 2:
        raise NoRoomError("ring", f"A locating ring of {ring:g} mm goes over the edge of its plate.", "Use a smaller one.")
    if not sprue:
        return Mouth(tuple(_ring(stack, at, ring, 0.35 * ring)))
    if isinstance(sprue, Inlet):
        return _heated(stack, plan, sprue, ring)
    through = sprue.end > -1e-6
    widest = sprue.radius_at(0.0 if through else back, back)
    shank, head, high = _shank(stack, widest + _ROUND_SPRUE, ring, "sprue")
    through = through and plan.is_free(Round(at, shank / 2, back, 0.0), sprue.feed)
    seat = clamp.low[2] + _SEAT
    cup = seat + _DEEP
    for _ in range(3):  # where the sprue comes out of the ball, which is a little nearer than its bottom
        nozzle = sprue.radius_at(cup, back)
        cup = seat + _DEEP - CUP + math.sqrt(CUP**2 - min(nozzle, 0.9 * CUP) ** 2)
    if 2 * nozzle < _THINNEST:
        raise NoRoomError(
            "clamp",
            f"The sprue would be {2 * nozzle:.1f} mm wide at the nozzle, less than {_THINNEST:g}.",
            "Make it wider outside, or give it less taper, in the step that makes the feed.",
        )
    end = 0.0 if through else back
    body = stepped((seat, seat + high, head / 2), (seat + high, end, shank / 2))
    through_plates = ("fixedclamp", "cavity") if through else ("fixedclamp",)
    length = end - seat
    bush = Component(
        "spruebush",
        "Sprue bush",
        "fixed",
        at,
        body,
        Stock("Sprue bush", "round", (shank, 5.0 * math.ceil(length / 5.0)), "X40CrMoV5-1", "ISO 10072", length),
        hole=body,
        through=through_plates,
        cup=(seat, CUP, _DEEP),
    )
    plan.take(bush.rounds)
    return Mouth((*_ring(stack, at, ring, head / 2 - 3.0), bush), (cup, nozzle, back, sprue.radius), through)


def _shank(stack: Stack, least: float, ring: float, what: str) -> tuple[float, float, float]:
    """Shank, head and height of the head, mm, of the bush whose shank has a radius of at least so many mm."""
    shank, head, high = next((s for s in SHANKS if s[0] / 2 >= least), SHANKS[-1])
    if high + _SEAT > stack["fixedclamp"].thick - 1.0:
        words = f"The {what} bush's head is {high:g} mm high, too much for the clamping plate."
        raise NoRoomError("clamp", words, f"Use one of {high + _SEAT + 1.0:g} mm or more.")
    if head + 8.0 > ring:
        words = f"The bush's head of {head:g} mm does not fit under the ring."
        raise NoRoomError("ring", words, f"Use a ring of {head + 8.0:g} mm or more.")
    return shank, head, high


def _heated(stack: Stack, plan: Plan, inlet: Inlet, ring: float) -> Mouth:
    """The bush through which the press's nozzle feeds what is hot, with air round it."""
    clamp = stack["fixedclamp"]
    shank, head, high = _shank(stack, inlet.radius + _HEATED, ring, "heated")
    seat = clamp.low[2] + _SEAT
    body = stepped((seat, seat + high, head / 2), (seat + high, inlet.level, shank / 2))
    long = inlet.level - seat
    bush = Component(
        "spruebush",
        "Heated bush",
        "fixed",
        inlet.at,
        body,
        Stock("Heated bush", "ring", (shank, 2 * inlet.radius, round(long, 2)), "X37CrMoV5-1"),
        inner=stepped((seat, inlet.level, inlet.radius)),
        hole=stepped((seat, seat + high, head / 2), (seat + high, clamp.high[2], shank / 2 + _AIR)),
        through=("fixedclamp",),
        cup=(seat, CUP, _DEEP),
    )
    plan.take(bush.rounds)
    return Mouth((*_ring(stack, inlet.at, ring, head / 2 - 3.0), bush))


def _ring(stack: Stack, at: Point2, wide: float, bore: float) -> list[Component]:
    face, clamp = stack["fixedclamp"].low[2], stack["fixedclamp"].thick
    low, high = face + _SEAT - _RING_HIGH, face + _SEAT
    ring = Component(
        "ring",
        "Locating ring",
        "fixed",
        at,
        stepped((low, high, wide / 2)),
        Stock("Locating ring", "ring", (wide, 2 * bore, _RING_HIGH), "C45U", "ISO 10907"),
        inner=stepped((low, high, bore)),
        hole=stepped((face - 1.0, high, wide / 2)),
        through=("fixedclamp",),
    )
    off = (wide / 2 + bore) / 2
    size: Size = "M6" if wide / 2 - bore > SCREWS["M6"].head + 2 * _RIM else "M5"
    screw = socket_screw("ringscrew", "locating ring", size, "fixed", low, high, 1, ("ring", "fixedclamp"), clamp - _SEAT - 2.0)
    return [ring, *(replace(screw, id=f"ringscrew{k}", at=(at[0], at[1] + sign * off)) for k, sign in ((1, -1), (2, 1)))]
