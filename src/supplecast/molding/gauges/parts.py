"""The gauge of parts: what an assembly is put together from, and what it weighs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.molding.gauge import Gauge, GaugeFigure
from supplecast.molding.mass import grams
from supplecast.wording import brief, plural


@dataclass(frozen=True)
class Part:
    """A body of an assembly: its name, what it is of (a body of a document at a revision), its volume in mm³, its density in
    g/cm³ where that is known, and what it is made of.
    """

    name: str
    of: tuple[object, ...]
    volume: float
    density: float | None
    material: str


def parts(bodies: Sequence[Part]) -> Gauge:
    """How many bodies there are and what they weigh together; each kind once, with how many there are of it."""
    kinds = defaultdict[tuple[object, ...], list[Part]](list)
    for body in bodies:
        kinds[body.of].append(body)
    weights = [grams(body.volume, body.density) for body in bodies if body.density]
    unknown = len(bodies) - len(weights)
    figures = []
    for group in kinds.values():
        one, count = group[0], len(group)
        weight = f"{brief(grams(one.volume, one.density))} g" if one.density else f"{brief(one.volume / 1000)} cm³"
        each = " each" if count > 1 else ""
        figures.append(GaugeFigure(f"{count} × {one.name}", f"{weight}{each}, {one.material}"))
    total = f"{brief(sum(weights))} g" + (
        f" without {plural(unknown, 'body', 'bodies')} of unknown material" if unknown else ""
    )
    return Gauge("parts", "Parts", str(len(bodies)), "bodies", "none", total, figures=tuple(figures))
