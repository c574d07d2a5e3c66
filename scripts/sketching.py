"""How long the drawing sheet takes to think, in CPU time of one process.

Sketches of rounded rectangles, sized and half loose, at 50 and 200 entities; a hundred pairs mirrored about one free axis.
Limits in ms: a typed size 5 at 50 and 12 at 200, a new topology 20, a step of a drag 8 (95 of 100), areas 25, a guess 2; the
value at which a shape breaks is named within 60 at 50.
"""

from __future__ import annotations

import itertools
import statistics
import time
from collections.abc import Callable

import numpy as np

from supplecast.errors import SketchError
from supplecast.quantities import Scope
from supplecast.sketch import regions
from supplecast.sketch.banded import Band
from supplecast.sketch.live import Live
from supplecast.sketch.model import Drawing
from supplecast.sketch.scene import scene
from supplecast.sketch.sizing import size_of
from supplecast.sketch.solver import solve
from supplecast.sketch.system import System

SCOPE = Scope()
SIZE = size_of(SCOPE)


def rounded(count: int) -> Drawing:
    """`count` entities in rounded rectangles, every other one with a height."""
    points: dict[str, tuple[float, float]] = {}
    entities: dict[str, object] = {}
    constraints: dict[str, object] = {}
    w, h, r = 28.0, 20.0, 4.0
    for i in range(count // 8):
        x, y = (i % 6) * 40.0, (i // 6) * 30.0
        places = [(r, 0), (w - r, 0), (w, r), (w, h - r), (w - r, h), (r, h), (0, h - r), (0, r)]
        centres = [(w - r, r), (w - r, h - r), (r, h - r), (r, r)]
        for k, (px, py) in enumerate(places):
            points[f"p{i}_{k}"] = (x + px, y + py)
        for k, (px, py) in enumerate(centres):
            points[f"c{i}_{k}"] = (x + px, y + py)
        for k in range(4):
            a, b, after = f"p{i}_{2 * k}", f"p{i}_{2 * k + 1}", f"p{i}_{(2 * k + 2) % 8}"
            entities[f"L{i}_{k}"] = {"type": "line", "a": a, "b": b}
            entities[f"A{i}_{k}"] = {"type": "arc", "c": f"c{i}_{k}", "a": b, "b": after}
            constraints[f"d{i}_{k}"] = {"type": "vertical" if k % 2 else "horizontal", "on": [f"L{i}_{k}"]}
            constraints[f"s{i}_{k}"] = {"type": "tangent", "on": [f"L{i}_{k}", f"A{i}_{k}", b]}
            constraints[f"t{i}_{k}"] = {"type": "tangent", "on": [f"L{i}_{(k + 1) % 4}", f"A{i}_{k}", after]}
            if k:
                constraints[f"e{i}_{k}"] = {"type": "equal", "on": [f"A{i}_0", f"A{i}_{k}"]}
        constraints[f"r{i}"] = {"type": "radius", "on": [f"A{i}_0"], "value": "4"}
        constraints[f"w{i}"] = {"type": "distance", "on": [f"c{i}_0", f"L{i}_3"], "value": "24"}
        if i % 2:
            constraints[f"h{i}"] = {"type": "distance", "on": [f"c{i}_1", f"L{i}_0"], "value": "16"}
    return Drawing.model_validate({"points": points, "entities": entities, "constraints": constraints})


def mirrored(pairs: int) -> Drawing:
    points: dict[str, tuple[float, float]] = {"s": (0, -10), "e": (0, 2.0 * pairs)}
    entities: dict[str, object] = {"axis": {"type": "line", "a": "s", "b": "e"}}
    constraints: dict[str, object] = {}
    for i in range(pairs):
        for sign, side in ((1, "r"), (-1, "l")):
            points |= {f"{side}a{i}": (sign * 5, 2 * i), f"{side}b{i}": (sign * (12 + i % 5), 2 * i + 1)}
            entities[f"{side}{i}"] = {"type": "line", "a": f"{side}a{i}", "b": f"{side}b{i}"}
        for end in "ab":
            constraints[f"s{end}{i}"] = {"type": "symmetric", "on": [f"r{end}{i}", f"l{end}{i}", "axis"]}
    return Drawing.model_validate({"points": points, "entities": entities, "constraints": constraints})


def cpu(run: Callable[[], object], times: int = 9) -> float:
    """Median CPU time in ms."""
    found = []
    for _ in range(times):
        began = time.process_time()
        run()
        found.append(time.process_time() - began)
    return statistics.median(found) * 1000


def drag(live: Live, name: str) -> float:
    """The CPU time, in ms, that 95 of 100 steps of a drag stay below."""
    x, y = live.drawing.points[name]
    offsets, found = live.grabbed(name, (x, y)), []
    for i in range(100):
        began = time.process_time()
        live.dragged(offsets, (x + 8 * np.sin(i / 9), y + 6 * np.sin(i / 13)))
        found.append(time.process_time() - began)
    return float(np.percentile(found, 95)) * 1000


def broken(drawing: Drawing) -> None:
    """Ask for a width that squeezes the sides between two rounds to nothing."""
    held = drawing.constraints["w0"].model_copy(update={"value": "3"})
    try:
        solve(drawing.model_copy(update={"constraints": {**drawing.constraints, "w0": held}}), SIZE)
    except SketchError as fault:
        assert "cannot be reached" in fault.message, fault
    else:
        raise AssertionError("the shape should break")


def main() -> int:
    """Print the figures and return how many miss their limit."""
    rows: list[tuple[str, float, float]] = []
    for count, typed in ((48, 5.0), (200, 12.0)):
        drawing = rounded(count)
        live = Live(drawing, SIZE)
        values = itertools.cycle(("23", "25", "24.5"))
        held = [live]

        def retype(held: list[Live] = held, values: itertools.cycle[str] = values) -> None:
            changed = held[0].retyped("w0", next(values))
            assert changed is not None
            held[0] = changed

        rows.append((f"typed size, {count} entities", cpu(retype), typed))
        live = Live(drawing, SIZE)

        def compiled(drawing: Drawing = live.drawing) -> None:
            system = System(drawing, SIZE)
            Band(system.entry_rows, system.entry_columns, system.count, len(system.z))

        rows.append((f"new topology, {count}", cpu(compiled), 20.0))
        rows.append((f"drag, 95 of 100, {count}", drag(live, "p0_4"), 8.0))
        rows.append(
            (f"areas, {count}", cpu(lambda live=live: regions.areas(regions.curves(live.drawing, live.solution))), 25.0)
        )
        rows.append((f"guess, {count}", cpu(lambda live=live: live.sights.guess((33.0, 11.0), 0.2)), 2.0))
        rows.append((f"whole scene, {count}", cpu(lambda live=live: scene(live, SCOPE)), float("inf")))
        if count < 100:
            rows.append((f"named limit, {count}", cpu(lambda drawing=live.drawing: broken(drawing), 3), 60.0))
    rows.append(("drag, 95 of 100, 100 mirrored pairs", drag(Live(mirrored(100), SIZE), "rb50"), 8.0))
    missed = 0
    for name, found, limit in rows:
        verdict = "" if found <= limit else "  OVER"
        missed += found > limit
        print(f"  {name:<38}{found:8.2f} ms" + (f"  of {limit:g}" if limit < float("inf") else "") + verdict)
    return missed


if __name__ == "__main__":
    main()
