"""How a surface looks and what it is etched with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

Kind = Literal["solid", "clear", "frosted", "metal"]
Grain = Literal["as the part", "none", "fine", "coarse"]


@dataclass(frozen=True)
class Look:
    """How a surface looks: its kind, its colour such as #2F6C76, its gloss and tint as shares of 1, and its grain."""

    kind: Kind = "solid"
    colour: str = "#D9C7A3"
    gloss: float = 0.35
    tint: float = 0.2
    grain: Grain = "none"

    @property
    def cover(self) -> float:
        """How much of what lies behind it hides: the view has the same."""
        covers: dict[Kind, float] = {"clear": 0.26, "frosted": 0.62}
        return covers.get(self.kind, 1.0)

    @property
    def roughness(self) -> float:
        """As materials of computer graphics have it, from 0, a mirror, to 1."""
        dull: float = (1 - self.gloss) ** 1.2
        return min(1.0, max(0.04, (1.1 if self.kind == "frosted" else 1.0) * dull))

    @property
    def shade(self) -> tuple[float, float, float]:
        """Its colour as shares of light; of what is clear white, tinted."""
        own = [linear(int(self.colour[k : k + 2], 16) / 255) for k in (1, 3, 5)]
        share = min(1.0, 0.25 + self.tint) if self.cover < 1 else 1.0
        red, green, blue = (1 + share * (one - 1) for one in own)
        return red, green, blue


def linear(channel: float) -> float:
    """A channel of a colour as a share of light (IEC 61966-2-1, sRGB)."""
    return channel / 12.92 if channel <= 0.04045 else float(((channel + 0.055) / 1.055) ** 2.4)


class Tint(NamedTuple):
    name: str
    colour: str


RESIN_TINTS = (
    Tint("natural", "#E9E2CF"),
    Tint("signal white", "#F2F1EC"),
    Tint("light grey", "#B9C0BE"),
    Tint("graphite", "#3A4042"),
    Tint("brick", "#A8443A"),
    Tint("moss", "#6F8F3E"),
    Tint("petrol", "#2F6C76"),
    Tint("ochre", "#D09A2C"),
)
"""Colours near to what resins are commonly sold in (invented, no colour system)."""
