"""What the figures of press and cycle come from, told beside them: pressure and margin, the wall and the temperatures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from supplecast.molding import estimates
from supplecast.molding.gauge import GaugeFigure
from supplecast.molding.wall import Walls
from supplecast.tooling.resins import Injection
from supplecast.wording import brief

MARGIN = 0.10
"""Of the clamp force more, for safety (common practice, no source)."""
_COOLING = "s² / (π² a) · ln(4/π · (Tm − Tw) / (Te − Tw))"
_BOOKS = "Carslaw, Jaeger; Menges, Michaeli, Mohren"


@dataclass(frozen=True)
class Typed:
    """Figures of a tool that its sheet may state: the tool's cost in ¤ and the pieces that share it, the press's rate an hour
    and the margin over its clamp force, the s that it does not cool, and the wall in mm that cools last. What is None follows.
    """

    tool: float = 0.0
    pieces: float = 0.0
    margin: float = MARGIN
    press: float | None = None
    idle: float | None = None
    wall: float | None = None

    @classmethod
    def of(cls, figures: Mapping[str, float]) -> Typed:
        """By the figures that the steps of a sheet have told."""
        get = figures.get
        return cls(
            get("tool_cost", 0.0),
            get("tool_pieces", 0.0),
            get("press_margin", MARGIN),
            get("press_press"),
            get("press_idle"),
            get("cooling_wall"),
        )


def clamped(force: float, injection: Injection, source: str, margin: float) -> tuple[GaugeFigure, ...]:
    """The clamp force in kN, and what it is made of."""
    least, most = injection.pressure
    return (
        GaugeFigure("clamp force", f"{brief(force)} kN", "p · A and a margin", "common practice"),
        GaugeFigure("pressure p", f"{estimates.pressure(injection):g} MPa", f"middle of {least:g} to {most:g} MPa", source),
        GaugeFigure("margin", f"{100 * margin:.3g} %", source="common practice, no source"),
    )


def cooled(walls: Walls, injection: Injection, source: str, typed: float | None = None) -> tuple[GaugeFigure, ...]:
    """The time to cool in s, the wall it is of, and the temperatures."""
    wall, usual = typed or estimates.cooling_wall(walls), walls.usual
    middle = [sum(ends) / 2 for ends in (injection.melt, injection.mold)]
    figures = [
        GaugeFigure("cooling", f"{brief(estimates.cooling_time(wall, injection))} s", _COOLING, _BOOKS),
        GaugeFigure("wall s that cools last", f"{brief(wall)} mm", "as typed" if typed else "1 % of the skin is thicker"),
    ]
    if wall > 1.02 * usual:
        time = estimates.cooling_time(usual, injection)
        figures.append(GaugeFigure("the usual wall alone", f"{brief(time)} s for {brief(usual)} mm", _COOLING, _BOOKS))
    words = f"{middle[0]:g}, {middle[1]:g} and {injection.eject:g} °C"
    figures.append(GaugeFigure("melt Tm, mold Tw, ejection Te", words, "middle of the ranges", source))
    figures.append(GaugeFigure("diffusivity a", f"{injection.diffusivity:g} · 10⁻⁶ m²/s", source=source))
    return tuple(figures)
