"""The resins and casting materials a document may name.

Every figure is a common handbook range given from memory, none checked against a source: the grade's data sheet decides.
"""

from __future__ import annotations

from dataclasses import dataclass

from supplecast.errors import SuppleError

SOURCE = "common handbook range, from memory: check the grade's data sheet"
PRICE_SOURCE = "rough price of a bag, from memory: ask your supplier"

Span = tuple[float, float]


@dataclass(frozen=True)
class Injection:
    """What injection needs to know of a resin.

    Temperatures in °C: of the `melt`, the `mold`, and at which the part can be `eject`ed; thermal `diffusivity` in mm²/s; the
    `pressure` in the cavity in MPa; the longest `flow` as a multiple of the wall.
    """

    melt: Span
    mold: Span
    eject: float
    diffusivity: float
    pressure: Span
    flow: float


@dataclass(frozen=True)
class Resin:
    """Shrinkage range as ratios, density in g/cm³, wall range in mm (least, usual, most), least draft in degrees; `rib` is the
    most that a rib's root may be of the wall it stands on before it leaves a sink mark; `price` per kg. Materials cast by hand
    have no `injection`.
    """

    name: str
    shrinkage: Span
    density: float
    wall: tuple[float, float, float]
    draft: float
    rib: float
    price: float
    injection: Injection | None = None

    @property
    def usual_shrinkage(self) -> float:
        return sum(self.shrinkage) / 2


# name: shrinkage %, density, wall least/usual/most, draft, rib, price; melt, mold, eject, diffusivity, pressure, flow to wall
_INJECTED = """
ABS       0.4 0.7  1.05  1.0 2.3 3.5  1.0 0.6  2.4   210 260  40 80   85  0.09  30 50  150
PP        1.0 2.5  0.90  0.7 2.0 4.0  1.0 0.5  1.5   200 270  20 60   80  0.08  25 45  250
HDPE      1.5 3.0  0.95  0.8 2.0 4.0  1.0 0.5  1.5   190 270  20 60   75  0.10  25 45  200
LDPE      1.5 3.0  0.92  0.6 2.0 4.0  1.0 0.5  1.6   170 240  20 50   60  0.10  20 40  250
PS        0.3 0.7  1.05  0.8 2.0 4.0  1.0 0.5  1.7   190 250  20 60   75  0.08  25 45  200
PC        0.5 0.7  1.20  1.0 2.5 4.0  1.0 0.6  3.6   280 320  80 120  125 0.11  40 70  90
PC/ABS    0.5 0.7  1.13  1.0 2.5 3.5  1.0 0.6  3.3   240 280  60 90   105 0.10  35 60  120
PMMA      0.3 0.7  1.18  1.0 2.5 4.0  1.5 0.5  3.2   220 260  50 80   85  0.09  40 60  100
POM       1.8 2.2  1.41  0.8 2.0 3.0  0.5 0.5  2.8   190 215  60 110  115 0.09  40 70  140
PA6       0.8 1.5  1.13  0.6 2.0 3.0  0.5 0.5  3.0   240 270  60 90   110 0.10  35 60  180
PA66      1.0 2.0  1.14  0.6 2.0 3.0  0.5 0.5  3.6   270 300  70 95   130 0.10  35 60  180
PA66-GF30 0.2 1.0  1.37  0.8 2.0 3.0  1.0 0.5  3.8   280 300  80 110  160 0.13  45 70  130
PBT       1.3 2.0  1.31  0.8 2.0 3.0  0.5 0.5  3.3   230 270  60 90   125 0.09  35 60  150
PET       1.2 2.0  1.37  1.0 2.0 3.5  1.0 0.5  2.2   265 290  110 140 140 0.09  40 65  140
TPU       0.5 2.0  1.20  0.8 2.5 4.0  2.0 0.6  5.0   190 230  20 50   60  0.08  25 45  120
TPE       0.8 2.5  0.95  0.6 2.0 4.0  2.0 0.6  4.0   180 230  20 50   55  0.08  20 40  150
"""

_CAST = (
    Resin("PU casting", (0.001, 0.005), 1.10, (1.5, 2.5, 6.0), 1.0, 0.6, 14.0),
    Resin("Silicone", (0.001, 0.004), 1.15, (1.0, 3.0, 10.0), 0.0, 0.6, 22.0),
    Resin("Wax", (0.005, 0.02), 0.93, (2.0, 3.0, 12.0), 1.5, 0.6, 6.0),
    Resin("Low-melt alloy", (0.002, 0.005), 9.0, (1.5, 3.0, 10.0), 2.0, 0.6, 30.0),
    Resin("Plaster", (0.0, 0.002), 1.1, (4.0, 8.0, 40.0), 2.0, 0.6, 1.0),
)


def _injected(line: str) -> Resin:
    name, *figures = line.split()
    low, high, density, least, usual, most, draft, rib, price, *rest = (float(figure) for figure in figures)
    melt, mold, eject, diffusivity, pressure, flow = rest[0:2], rest[2:4], rest[4], rest[5], rest[6:8], rest[8]
    injection = Injection((melt[0], melt[1]), (mold[0], mold[1]), eject, diffusivity, (pressure[0], pressure[1]), flow)
    return Resin(name, (low / 100, high / 100), density, (least, usual, most), draft, rib, price, injection)


RESINS: dict[str, Resin] = {r.name: r for r in (*map(_injected, _INJECTED.strip().splitlines()), *_CAST)}


def resin(name: str) -> Resin:
    """The resin of this name. SuppleError if the table has none."""
    known = RESINS.get(name)
    if known is None:
        raise SuppleError(f"There is no resin “{name}”.", "Known: " + ", ".join(RESINS) + ".")
    return known


def required_draft(least: float, texture: float) -> float:
    """Degrees of draft that a resin and a texture of so many mm of depth ask for: 1° more for each 0.025 mm (common practice,
    no source).
    """
    return least + texture / 0.025
