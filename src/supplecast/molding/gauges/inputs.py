"""What the figures of press and cycle come from, told beside them: pressure and margin, the wall and the temperatures."""

from __future__ import annotations

from supplecast.molding import estimates
from supplecast.molding.gauge import GaugeFigure
from supplecast.molding.wall import Walls
from supplecast.tooling.resins import Injection
from supplecast.wording import brief

MARGIN = 1.10  # of the clamp force (common practice, no source)
_COOLING = "s² / (π² a) · ln(4/π · (Tm − Tw) / (Te − Tw))"
_BOOKS = "Carslaw, Jaeger; Menges, Michaeli, Mohren"


def pressure(injection: Injection) -> float:
    """MPa in the cavity that the clamp force is reckoned with."""
    return sum(injection.pressure) / 2


def clamped(force: float, injection: Injection, source: str) -> tuple[GaugeFigure, ...]:
    """The clamp force in kN, and what it is made of."""
    least, most = injection.pressure
    return (
        GaugeFigure("clamp force", f"{brief(force)} kN", "p · A and a margin", "common practice"),
        GaugeFigure("pressure p", f"{pressure(injection):g} MPa", f"middle of {least:g} to {most:g} MPa", source),
        GaugeFigure("margin", f"{100 * (MARGIN - 1):.0f} %", source="common practice, no source"),
    )


def cooling_wall(walls: Walls) -> float:
    """Mm of the wall that is the last to cool."""
    return max(walls.most, walls.usual)


def cooled(walls: Walls, injection: Injection, source: str) -> tuple[GaugeFigure, ...]:
    """The time to cool in s, the wall it is of, and the temperatures."""
    wall, usual = cooling_wall(walls), walls.usual
    middle = [sum(ends) / 2 for ends in (injection.melt, injection.mold)]
    figures = [
        GaugeFigure("cooling", f"{brief(estimates.cooling_time(wall, injection))} s", _COOLING, _BOOKS),
        GaugeFigure("wall s that cools last", f"{brief(wall)} mm", "1 % of the skin is thicker"),
    ]
    if wall > 1.02 * usual:
        time = estimates.cooling_time(usual, injection)
        figures.append(GaugeFigure("the usual wall alone", f"{brief(time)} s for {brief(usual)} mm", _COOLING, _BOOKS))
    words = f"{middle[0]:g}, {middle[1]:g} and {injection.eject:g} °C"
    figures.append(GaugeFigure("melt Tm, mold Tw, ejection Te", words, "middle of the ranges", source))
    figures.append(GaugeFigure("diffusivity a", f"{injection.diffusivity:g} · 10⁻⁶ m²/s", source=source))
    return tuple(figures)
