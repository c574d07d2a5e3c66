"""The stack: which plates a mold base has, how thick they are, and at which level each begins."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from supplecast.tooling import stiffness
from supplecast.tooling.stock import THICK, WIDE, Stock, at_least

Side = Literal["fixed", "moving", "ejection"]
PlateId = Literal[
    "fixedclamp", "between", "cavity", "core", "support", "spacer1", "spacer2", "retainer", "ejectorplate", "movingclamp"
]  # fmt: skip

GIVE = 0.02  # mm that the support may give way (common practice, from memory: less than a flash gap)
RESERVE = 5.0  # mm that the ejector plates could go on after their stroke (common practice, no source)
OFF = 5.0  # mm that a part is pushed on after it is off its core (common practice, no source)
BUTTON = 4.0  # mm of stop buttons under the ejector plates (common practice, no source)
_CLAMP, _RAIL, _RETAINER, _EJECTOR = 1 / 9, 1 / 6, 1 / 20, 1 / 14  # of the width (common practice, no source)
_THIN, _THIN_EJECTOR = 20.0, 12.0  # mm at least
_RAIL_LEAST = 16.0  # mm
_AIR = 1.0  # mm between ejector plates and spacers
PLATE_STEEL = "C45U"  # ISO 4957 (from memory)


@dataclass(frozen=True)
class Asked:
    """What a base is laid out for, mm and N: the plates that hold the halves, how high cores stand over the parting plane, the
    force that pushes the core plate back, the steel left behind its pockets, how much of the width the ejector plates must
    cover, how far clamping plates stand out, and how far a part must be lifted to be off its core; `propped` by pillars in
    the middle. What is None follows.
    """

    length: float
    width: float
    cavity: float
    core: float
    stands: float
    force: float
    floor: float
    covers: float
    edge: float
    lifted: float
    stroke: float | None = None
    clamp: float | None = None
    support: float | None = None
    spacer: float | None = None
    rail: float | None = None
    retainer: float | None = None
    ejector: float | None = None
    propped: bool = False
    between: float = 0.0
    """How thick a plate of the feed is that lies between cavity and clamping plate."""
    clamp_least: float = 0.0
    """Of the fixed clamping plate."""


@dataclass(frozen=True)
class Plate:
    """A plate from corner to corner, each (u, v, level)."""

    id: PlateId
    name: str
    side: Side
    low: tuple[float, float, float]
    high: tuple[float, float, float]

    @property
    def thick(self) -> float:
        return self.high[2] - self.low[2]

    @property
    def stock(self) -> Stock:
        long, wide = sorted((self.high[0] - self.low[0], self.high[1] - self.low[1]), reverse=True)
        return Stock(self.name, "plate", (long, wide, self.thick), PLATE_STEEL, "ISO 6753")


@dataclass(frozen=True)
class Stack:
    """The plates by id, the stroke of the ejector plates, and by how much the support gives way at its middle, mm. Cavity and
    core plate are among them, as they lie.
    """

    plates: dict[PlateId, Plate]
    stroke: float
    gives: float

    def __getitem__(self, plate: PlateId) -> Plate:
        return self.plates[plate]

    @property
    def height(self) -> float:
        """From clamping face to clamping face, mm."""
        return self["movingclamp"].high[2] - self["fixedclamp"].low[2]

    @property
    def span(self) -> float:
        """Between the spacers, mm."""
        return self["spacer2"].low[1] - self["spacer1"].high[1]

    @property
    def room(self) -> float:
        """How far the ejector plates can go, mm."""
        return self["retainer"].low[2] - self["support"].high[2]


def stack(asked: Asked) -> Stack:
    """The plates for what is asked."""
    width = asked.width
    clamp = asked.clamp or at_least(max(_CLAMP * width, _THIN))
    fixed = asked.clamp or max(clamp, at_least(asked.clamp_least))
    rail = asked.rail or _rail(asked)
    span = width - 2 * rail
    needed = _stiff_enough(asked, span)
    support = asked.support or at_least(max(needed**3 - asked.floor**3, _THIN**3) ** (1 / 3))
    retainer = asked.retainer or at_least(max(_RETAINER * width, _THIN_EJECTOR))
    ejector = asked.ejector or at_least(max(_EJECTOR * width, _THIN_EJECTOR))
    stroke = asked.stroke or math.ceil(asked.lifted + OFF - 1e-6)
    spacer = asked.spacer or at_least(BUTTON + ejector + retainer + stroke + RESERVE, WIDE)
    half, edge, inside = width / 2, width / 2 + asked.edge, span / 2 - _AIR
    back = asked.core + support
    base, front = back + spacer, -asked.cavity - asked.between
    rest = base - BUTTON  # where the ejector plates lie while the tool is shut

    def plate(id: PlateId, name: str, side: Side, v: tuple[float, float], levels: tuple[float, float]) -> Plate:
        across = asked.length / 2
        return Plate(id, name, side, (-across, v[0], levels[0]), (across, v[1], levels[1]))

    plates = (
        plate("fixedclamp", "Fixed clamping plate", "fixed", (-edge, edge), (front - fixed, front)),
        plate("cavity", "Cavity plate", "fixed", (-half, half), (-asked.cavity, 0.0)),
        plate("core", "Core plate", "moving", (-half, half), (0.0, asked.core)),
        plate("support", "Support plate", "moving", (-half, half), (asked.core, back)),
        plate("spacer1", "Spacer", "moving", (-half, rail - half), (back, base)),
        plate("spacer2", "Spacer", "moving", (half - rail, half), (back, base)),
        plate("retainer", "Retainer plate", "ejection", (-inside, inside), (rest - ejector - retainer, rest - ejector)),
        plate("ejectorplate", "Ejector plate", "ejection", (-inside, inside), (rest - ejector, rest)),
        plate("movingclamp", "Moving clamping plate", "moving", (-edge, edge), (base, base + clamp)),
    )
    gives = GIVE * needed**3 / (support**3 + asked.floor**3)
    return Stack({plate.id: plate for plate in plates}, stroke, gives)


def _stiff_enough(asked: Asked, span: float) -> float:
    """The thickness that the support and the floor of the core plate must have between them: they bend together, so that their
    third powers add. Props in the middle make two spans of one, each under half the force.
    """
    share = 0.5 if asked.propped else 1.0
    return stiffness.thickness_between(share * asked.force, share * span, asked.length, GIVE)


def _rail(asked: Asked) -> float:
    """The width of a spacer: about a sixth of the plates', less where the ejector plates would not reach under the parts."""
    usual = at_least(_RAIL * asked.width)
    most = (asked.width - asked.covers) / 2 - _AIR
    fitting = [size for size in THICK if _RAIL_LEAST <= size <= most]
    return min(usual, fitting[-1]) if fitting else _RAIL_LEAST
