"""Hints on what is about to be cut in steel."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast.hints import Hint, Watched, rule
from supplecast.wording import plural, show


@rule
def pins_that_would_move(watched: Watched) -> Iterator[Hint]:
    """Ejector pins by rule in a tool that is proven to open: when the part changes they would be found elsewhere, and their
    holes in the cores be wrong (common practice, no source: places of holes are fixed before steel is cut).
    """
    if not any(True for _ in watched.working("opening check")):
        return
    for step, outcome in watched.working("ejectors"):
        moved = step.held("moved") or ()
        held = {row.number for row in moved}
        numbers = [int(name.split()[1]) for name in outcome.figures if name.startswith("pin ") and name.endswith(" x")]
        free = [number for number in numbers if number not in held]
        if not free:
            continue
        rows = [row.model_dump(mode="json") for row in moved]
        for number in free:
            x, y = (f"{show(outcome.figures[f'pin {number} {axis}'], 3)} mm" for axis in "xy")
            rows.append({"number": number, "x": x, "y": y})
        words = f"{plural(len(free), 'pin')} of each part stand by rule, and would stand elsewhere when the part changes."
        edit = {"op": "set", "step": step.id, "field": "moved", "value": sorted(rows, key=lambda row: row["number"])}
        yield Hint("pins that would move", step.id, words, "hold them where they are", edit)
