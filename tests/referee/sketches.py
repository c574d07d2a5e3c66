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


SCOPE = Scope({"wall": "2 mm"})


def act(drawing: Drawing, *acts: dict[str, Any]) -> Done:
    return perform(drawing, [read_act(data) for data in acts], SCOPE)


def drawn(tool: str, *picks: dict[str, Any], on: Drawing | None = None, **sizes: str) -> Done:
    return act(on or Drawing(), {"do": "draw", "tool": tool, "picks": list(picks), "sizes": sizes})


def areas(drawing: Drawing) -> list[float]:
    found = regions.areas(regions.curves(drawing, solve(drawing, size_of(SCOPE))))
    return sorted(region.area for region in found.regions)


def chain(*places: tuple[float, float], closed: bool = False) -> tuple[Drawing, list[str], list[str]]:
    """A chain of lines; its points and lines in order."""
    drawing, points, lines = Drawing(), [], []
    done = drawn("line", pick(*places[0]), pick(*places[1]))
    lines.append(done.made[0])
    first = done.drawing.entities[lines[0]]
    points += [first.a, first.b]
    for place in places[2:]:
        done = drawn("line", pick(*points_at(done, points[-1]), coincident=points[-1]), pick(*place), on=done.drawing)
        lines.append(done.made[0])
        points.append(done.drawing.entities[lines[-1]].b)
    if closed:
        ends = [pick(*points_at(done, p), coincident=p) for p in (points[-1], points[0])]
        done = drawn("line", *ends, on=done.drawing)
        lines.append(done.made[0])
    drawing = done.drawing
    return drawing, points, lines


def points_at(done: Done, point: str) -> tuple[float, float]:
    return done.drawing.points[point]
