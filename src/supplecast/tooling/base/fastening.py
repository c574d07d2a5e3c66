"""Fastening: screws that hold inserts in their pockets, and the threads by which the halves are lifted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from supplecast.tooling.base.component import Component
from supplecast.tooling.base.components import socket_screw
from supplecast.tooling.base.places import WALL, Block, Plan, downwards
from supplecast.tooling.base.stack import PlateId, Stack
from supplecast.tooling.screws import SCREWS, Size

_EYES: tuple[tuple[float, Size], ...] = ((140, "M8"), (230, "M10"), (340, "M12"), (700, "M16"), (1200, "M20"))
"""Kg that an eye bolt lifts along its axis (ISO 3266, from memory)."""


def insert_screws(
    stack: Stack, plate: PlateId, insert: Block, parts: Sequence[Block], body: str, number: int
) -> list[Component]:
    """Two screws from the back of the plate into opposite corners of an insert, beside the part; fewer where no room is."""
    short = min(b - a for a, b in zip(insert.start, insert.end, strict=True))
    size: Size = "M8" if short >= 120 else "M6" if short >= 50 else "M5"
    moving = plate == "core"
    face, back = (stack[plate].high[2], insert.high) if moving else (stack[plate].low[2], insert.low)
    if abs(face - back) < SCREWS[size].head_depth + WALL:
        return []
    name, side, through = f"insertscrew{number}", stack[plate].side, (plate, body)
    screw = socket_screw(name, "insert", size, side, face, back, -1 if moving else 1, through)
    plan = Plan(0.0, 0.0, parts)
    inset = SCREWS[size].nominal + WALL
    (u0, v0), (u1, v1) = insert.start, insert.end
    spots = ((u0 + inset, v0 + inset), (u1 - inset, v1 - inset))
    made = [replace(screw, id=f"{screw.id}{letter}", at=spot) for letter, spot in zip("ab", spots, strict=True)]
    return [one for one in made if all(plan.is_free(r) for r in one.rounds)]


@dataclass(frozen=True)
class Eye:
    """A tapped hole in the long side of a plate for an eye bolt: its place along it, the level, size and depth, mm."""

    plate: PlateId
    u: float
    level: float
    size: Size
    depth: float

    @property
    def radius(self) -> float:
        return SCREWS[self.size].tapping / 2


def eyes(stack: Stack, plan: Plan, mass: float) -> list[Eye]:
    """A thread for an eye bolt in the upper long side of cavity and core plate that bears `mass` kg, as near to the middle as
    pockets, pillars and screws allow.
    """
    size = next((size for bears, size in _EYES if bears >= mass), _EYES[-1][1])
    made = []
    plates: tuple[PlateId, ...] = ("cavity", "core")
    for id in plates:
        plate = stack[id]
        level, r, deep = (plate.low[2] + plate.high[2]) / 2, SCREWS[size].tapping / 2, 1.5 * SCREWS[size].nominal
        for u in sorted((s * u for u in downwards(plan.length / 3) for s in (1, -1)), key=abs):
            room = _free(plan, u, level, r, plate.high[1])
            if room >= deep + WALL:
                made.append(Eye(id, u, level, size, deep))
                break
    return made


def _free(plan: Plan, u: float, level: float, radius: float, edge: float) -> float:
    """How deep a hole can go in from the upper side before it meets anything, mm."""
    reach, near = edge, radius + WALL
    for block in plan.blocks:
        if block.low - near < level < block.high + near and block.start[0] - near < u < block.end[0] + near:
            reach = min(reach, edge - block.end[1])
    for one in plan.rounds:
        if one.low - near < level < one.high + near and abs(one.at[0] - u) < one.radius + near:
            reach = min(reach, edge - one.at[1] - one.radius)
    return reach
