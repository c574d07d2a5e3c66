"""Hints on walls: what is too thin for the resin, and what is so thick that it sinks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from supplecast.document.step import Step
from supplecast.hints import Hint, Watched, rule
from supplecast.wording import show

_LIP_MOST = 0.6  # share of the wall that a lip may take before the rim beside it gets too thin (common practice, no source)


def _set(watched: Watched, step: Step, field: str, mm: float) -> dict[str, Any]:
    """The edit that types a length: into the named value that stands in the field alone, else into the field."""
    text = step.typed(field)
    value = f"{show(round(mm, 3))} mm"
    if text in watched.document.values:
        return {"op": "value", "name": text, "text": value}
    return {"op": "set", "step": step.id, "field": field, "value": value}


@rule
def rib_thicker_than_the_rule(watched: Watched) -> Iterator[Hint]:
    for step, outcome in watched.working("rib"):
        figures = outcome.figures
        if not {"root", "wall", "most"} <= set(figures):
            continue
        root, wall, most = figures["root"], figures["wall"], figures["most"]
        if root <= most * wall * (1 + 1e-6):
            continue
        thickness = watched.value(step, "thickness", "length")
        if thickness is None:
            continue
        fits = int((most * wall - (root - thickness)) * 20) / 20  # to 0.05 mm, downwards
        words = f"The rib's foot is {root / wall:.0%} of its wall; over {most:.0%} it leaves a sink mark."
        if fits > 0:
            edit = {"op": "set", "step": step.id, "field": "thickness", "value": f"{show(fits)} mm"}
            yield Hint("rib over the rule", step.id, words, f"make it {show(fits)} mm", edit)
        else:
            yield Hint("rib over the rule", step.id, f"{words} Use less draft or a lower rib.")


@rule
def boss_with_a_thick_foot(watched: Watched) -> Iterator[Hint]:
    """A pilot that ends above the wall leaves a lump of material at the boss's foot."""
    for step, outcome in watched.working("boss"):
        solid_foot = outcome.figures.get("solid foot", 0.0)
        if solid_foot > 1e-6:
            words = f"Under the pilot {show(round(solid_foot, 2))} mm more than the wall stay solid: a thick spot that sinks."
            edit = {"op": "set", "step": step.id, "field": "deep", "value": "leaving a floor"}
            yield Hint("thick foot", step.id, words, "core it down to a floor", edit)


@rule
def wall_below_the_resin(watched: Watched) -> Iterator[Hint]:
    resin = watched.resin
    for step, _ in watched.working("shell"):
        wall = watched.value(step, "wall", "length")
        if resin is not None and wall is not None and wall < resin.wall[0] - 1e-9:
            least = resin.wall[0]
            words = f"{resin.name} wants walls of at least {least:g} mm to fill."
            yield Hint("thin wall", step.id, words, f"make it {least:g} mm", _set(watched, step, "wall", least))


@rule
def lip_wider_than_the_wall_allows(watched: Watched) -> Iterator[Hint]:
    for step, _ in watched.working("lip"):
        share = watched.value(step, "share", "factor")
        if share is not None and share > _LIP_MOST + 1e-9:
            words = f"A lip of {share:.0%} leaves only {1 - share:.0%} of the wall for its groove."
            edit = {"op": "set", "step": step.id, "field": "share", "value": "50 %"}
            yield Hint("wide lip", step.id, words, "make it 50 %", edit)
