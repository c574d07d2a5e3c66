"""Sketches drawn by acts, without pages."""

from __future__ import annotations

from typing import Any

from supplecast.quantities import Scope
from supplecast.sketch import regions
from supplecast.sketch.acts import read_act
from supplecast.sketch.model import Drawing
from supplecast.sketch.sizing import size_of
from supplecast.sketch.solver import solve
from supplecast.sketch.work import Done, perform


def pick(x: float, y: float, **snaps: Any) -> dict[str, Any]:
    return {"x": x, "y": y, "snaps": [{"type": kind, "on": [on] if on else []} for kind, on in snaps.items()]}


SCOPE = Scope()


def act(drawing: Drawing, *acts: dict[str, Any]) -> Done:
    return perform(drawing, [read_act(data) for data in acts], SCOPE)


def drawn(tool: str, *picks: dict[str, Any], on: Drawing | None = None, **sizes: str) -> Done:
    return act(on or Drawing(), {"do": "draw", "tool": tool, "picks": list(picks), "sizes": sizes})


def areas(drawing: Drawing) -> list[float]:
    found = regions.areas(regions.curves(drawing, solve(drawing, size_of(SCOPE))))
    return sorted(region.area for region in found.regions)
