"""Random whole tools: does each build, share no space at rest, and stay clear at ten stations of its opening and ejection?

    python -m scripts.whole_tools [COUNT] [SEED]

Boxes with or without a window, bosses and a catch inside, at one to four places along any axis, get the whole row of steps.
A step may refuse what does not fit, with words and a way out; it is counted. Whatever builds is looked at by another engine.
"""

from __future__ import annotations

import math
import random
import sys
import time
from collections.abc import Sequence
from itertools import combinations
from typing import Any

import numpy as np

from supplecast import kernel
from supplecast.document.model import read_document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.document.state import Entry
from supplecast.document.step import load_steps
from supplecast.geometry import Vec, dot, times
from supplecast.molding import opening
from supplecast.steps.tool.sides import assembly
from supplecast.tooling.base.stack import RESERVE

STATIONS = 10
PLAY = 0.5  # mm a side of an angle pin in its slide, as the step has it unless told
_MOVING, _EJECTED = ("Moving side",), ("Ejection",)

Steps = list[dict[str, Any]]


def random_part(rng: random.Random) -> Steps:
    """A drafted box with rounded uprights and floor, shelled; what it has besides is drawn by lot."""
    wide, deep, high = rng.randint(50, 110), rng.randint(40, 80), rng.randint(14, 34)
    steps: Steps = [
        {
            "id": "s",
            "type": "sketch",
            "on": {"plane": "top"},
            "draw": [{"kind": "rectangle", "width": f"{wide}", "height": f"{deep}"}],
        },
        {
            "id": "e",
            "type": "extrude",
            "profile": {"sketch": "s"},
            "distance": f"{high}",
            "direction": "down",
            "draft": f"{rng.choice([1, 1.5, 2])}",
        },
        {"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": f"{rng.choice([4, 6, 9])}"},
        {"id": "h", "type": "shell", "wall": f"{rng.choice([1.6, 2, 2.5])}", "open": [{"face": "e.start"}]},
    ]
    if rng.random() < 0.5:
        steps += [
            {"id": "w", "type": "sketch", "on": {"plane": "front"},
             "draw": [{"kind": "rectangle", "width": "12", "height": "6", "x": f"{rng.randint(-8, 8)}", "y": f"{-high / 2}"}]},
            {"id": "wx", "type": "extrude", "profile": {"sketch": "w"}, "distance": "80", "result": "cut"},
        ]  # fmt: skip
    if rng.random() < 0.5:
        steps += [
            {"id": "p", "type": "sketch", "on": {"plane": "top"},
             "points": {"a": [-wide / 5, -deep / 6], "b": [wide / 5, deep / 6]}},
            {"id": "b", "type": "boss", "level": {"plane": "top", "offset": f"{-high / 3:.1f} mm"}, "sketch": "p",
             "sized": "by diameters", "outer": f"{rng.choice([6, 7, 8])}", "pilot": "2.6"},
        ]  # fmt: skip
    if rng.random() < 0.5:
        steps += [
            {"id": "k", "type": "sketch", "on": {"plane": "top", "offset": "-3 mm"},
             "draw": [{"kind": "rectangle", "width": "6", "height": "9", "x": f"{wide / 2 - 4}", "y": "0"}]},
            {"id": "kx", "type": "extrude", "profile": {"sketch": "k"}, "distance": "2.5", "direction": "down",
             "result": "add"},
        ]  # fmt: skip
    return steps


def random_tool(rng: random.Random, part: Steps) -> Steps:
    """All steps of a whole tool, with what the part asks for."""
    kinds = {step["id"] for step in part}
    pull = rng.choice(["+z", "-z", "+x", "-x", "+y", "-y"])
    columns, rows = rng.choice([(1, 1), (2, 1), (2, 1), (1, 2), (2, 2)])
    steps: Steps = [
        {"id": "lnk", "type": "link", "part": {"document": "part"}},
        {"id": "lay", "type": "lay", "by": "an edge or axis", "axis": {"axis": "z"}, "pull": pull},
        {"id": "shr", "type": "shrink", "shrinkage": "0.55 %"},
        {"id": "pln", "type": "parting line", "pull": pull},
        {"id": "blk", "type": "block", "around": f"{rng.choice([32, 36, 44])}", "below": "24", "above": "26", "pull": pull},
        {"id": "sur", "type": "parting surface"},
        {"id": "hlv", "type": "halves", "undercuts": "left to side openings"},
    ]
    if "w" in kinds:
        steps.append({"id": "sid", "type": "side opening", "rides": "on the core half"})
    steps += [
        {
            "id": "ins",
            "type": "inserts",
            "columns": columns,
            "rows": rows,
            "plates": rng.choice(["as they come", "in stock sizes"]),
        },
        {"id": "run", "type": "runners"} if columns * rows > 1 else {"id": "run", "type": "feed"},
    ]
    later: Steps = [{"id": "mb", "type": "mold base", "props": rng.choice(["with support pillars", "without support pillars"])}]
    later += [{"id": "sd", "type": "slide drive"}] if "w" in kinds else []
    if rng.random() < 0.3:
        later.reverse()
    steps += later
    if "b" in kinds:
        steps.append({"id": "cp", "type": "core pins", "pushed": rng.choice(["with sleeves", "without sleeves"])})
    if "k" in kinds:
        steps.append({"id": "lf", "type": "lifters"})
    steps += [
        {"id": "ej", "type": "ejectors", "count": rng.randint(2, 6)},
        {"id": "ve", "type": "vents"},
        {"id": "co", "type": "cooling"},
        {"id": "oc", "type": "opening check"},
    ]
    return steps


def overlaps(made: Built) -> list[str]:
    """Pairs of bodies that share space at rest, or at a station of the opening or ejection."""
    bodies = [e for e in made.state.bodies.values() if e.is_own and e.role not in ("feed", "shot", "part")]
    meshes = [opening.meshed(e.body.solid) for e in bodies]
    found = [
        f"{bodies[i].name} and {bodies[j].name} at rest: {volume:.1f} mm³"
        for i, j in combinations(range(len(bodies)), 2)
        if opening.near(meshes[i], meshes[j])
        and (volume := opening.shared(meshes[i], meshes[j])) > opening.allowed(meshes[i], meshes[j])
    ]
    pull = next(e.pull for e in bodies if e.role == "core" and e.pull)
    for stage, far in (("opening", 60.0), ("ejection", _stroke(bodies, pull) - 1.0)):
        for station in range(1, STATIONS + 1):
            gone = far * station / STATIONS
            ways = [_way(e, pull, stage, gone, bodies) for e in bodies]
            found += _met(bodies, meshes, ways, f"{stage} {gone:.1f} mm")
    return found


def _stroke(bodies: Sequence[Entry], pull: Vec) -> float:
    ends = {e.stock.kind: kernel.measure.span(e.body.solid, pull) for e in bodies if e.stock}
    return ends["Retainer plate"][0] - ends["Support plate"][1] - RESERVE


def _way(entry: Entry, pull: Vec, stage: str, gone: float, bodies: Sequence[Entry]) -> Vec:
    """Where a body is after the core side has gone so far, or the ejector plates have once the slides are out."""
    side = assembly(entry)
    if stage == "opening":
        if entry.role == "core slide":
            aside = next((_drawn(e, entry, pull, gone) for e in bodies if _drives(e, entry)), 0.0)
            way = entry.pull or pull
            return (pull[0] * gone + way[0] * aside, pull[1] * gone + way[1] * aside, pull[2] * gone + way[2] * aside)
        moves = side in (_MOVING, _EJECTED) or entry.role == "molded"
        return times(pull, gone) if moves else (0.0, 0.0, 0.0)
    if entry.role == "core slide":
        return times(entry.pull or pull, 60.0)
    if entry.role == "lifter" and entry.pull:
        return times(entry.pull, gone / -dot(entry.pull, pull))
    if entry.role == "molded" or side == _EJECTED:
        return times(pull, -gone)
    return (0.0, 0.0, 0.0) if side == _MOVING else times(pull, -400.0)


def _drives(pin: Entry, slide: Entry) -> bool:
    is_pin = pin.stock is not None and pin.stock.kind == "Angle pin"
    return is_pin and kernel.nearness.boxes_apart(pin.body.solid, slide.body.solid) <= 0


def _drawn(pin: Entry, slide: Entry, pull: Vec, gone: float) -> float:
    """How far a pin draws its slide out: from when its play is used up to when its outer flank has left the slide, mm."""
    assert pin.pull and pin.stock
    lean = math.acos(min(dot(pin.pull, pull), 1.0))
    box = kernel.measure.box(pin.body.solid)
    tip = max(dot(corner, pull) for corner in box.corners) - pin.stock.sizes[0] * math.sin(lean)
    entry = kernel.measure.span(slide.body.solid, pull)[0]
    return max(min(gone, tip - entry) * math.tan(lean) - PLAY / math.cos(lean), 0.0)


def _met(bodies: Sequence[Entry], meshes: Sequence[opening.Meshed], ways: Sequence[Vec], where: str) -> list[str]:
    boxes = [(m.box[0] + np.array(w), m.box[1] + np.array(w)) for m, w in zip(meshes, ways, strict=True)]
    found = []
    for i, j in combinations(range(len(bodies)), 2):
        apart = np.array(ways[i]) - np.array(ways[j])
        if np.linalg.norm(apart) < 1e-9 or (boxes[i][0] > boxes[j][1]).any() or (boxes[j][0] > boxes[i][1]).any():
            continue
        volume = abs(float((meshes[i].manifold.translate(tuple(apart)) ^ meshes[j].manifold).volume()))
        if volume > opening.allowed(meshes[i], meshes[j]):
            found.append(f"{bodies[i].name} and {bodies[j].name} at {where}: {volume:.1f} mm³")
    return found


def built(seed: int) -> tuple[Built, Steps]:
    """A random part's tool, and its steps."""
    rng = random.Random(seed)
    of = random_part(rng)
    steps = random_tool(rng, of)
    part, tool = (
        read_document({"format": "supplecast", "version": 1, "id": kind, "kind": kind, "name": kind, "steps": rows, **more})
        for kind, rows, more in (("part", of, {}), ("tool", steps, {"resin": "ABS"}))
    )
    return rebuild(tool, Memory(), outside=Project({(d.id, None): d for d in (part, tool)})), steps


def main() -> int:
    load_steps()
    kernel.preload()
    count, seed = (int(sys.argv[n]) if len(sys.argv) > n else usual for n, usual in ((1, 20), (2, 1)))
    wrong = 0
    for number in range(seed, seed + count):
        began = time.perf_counter()
        made, steps = built(number)
        took = time.perf_counter() - began
        first = next((o for o in made.outcomes if o.status != "ok"), None)
        if first:
            print(f"{number}: {first.step} refused at {first.field}: {first.message} {first.hint} ({took:.1f} s)", flush=True)
            wrong += not (first.message and first.hint)
            continue
        met = overlaps(made)
        wrong += bool(met)
        kinds = ",".join(step["id"] for step in steps)
        print(f"{number}: {len(made.state.bodies)} bodies, {took:.1f} s, {kinds}: {met[:6] or 'clear'}", flush=True)
    return wrong


if __name__ == "__main__":
    raise SystemExit(main())
