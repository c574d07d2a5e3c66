"""How a surface looks and what it is etched with."""

from __future__ import annotations

from typing import Literal, NamedTuple

Kind = Literal["solid", "clear", "frosted", "metal"]
Grain = Literal["as the part", "none", "fine", "coarse"]


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
