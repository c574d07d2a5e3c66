"""How often the kernel itself breaks down or hangs: random fillets, chamfers, drafts, removals and shells, each in a process
that may be killed.

    python -m scripts.falls [COUNT] [SEED]

Sizes go far past what fits. What falls is told by body, verb and numbers, so that it can be done again by its seed.
"""

from __future__ import annotations

import math
import multiprocessing
import os
import random
import signal
import sys
import time
from collections import Counter
from collections.abc import Callable
from typing import Literal

from tests.referee import known

from scripts.shells import PARTS
from supplecast.document.rebuild import rebuild
from supplecast.document.step import load_steps
from supplecast.errors import KernelError
from supplecast.geometry import Frame
from supplecast.kernel import blend, draft, feature, measure, walls
from supplecast.kernel.shapes.blob import packed, unpacked
from supplecast.kernel.shapes.shape import Solid
from supplecast.web import demo

DEADLINE = 60.0
"""Seconds after which a call is a hang."""
_AXES = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


def bodies() -> dict[str, Solid]:
    """Bodies of every surface, from plain ones to the demo's parts after each of their steps.

    Made in a process of its own: once the kernel has meshed anything, it waits in forked processes for threads that are not
    there.
    """
    with multiprocessing.get_context("fork").Pool(1) as pool:
        return {name: Solid(unpacked(content)) for name, content in pool.apply(_packed_bodies).items()}


def _packed_bodies() -> dict[str, bytes]:
    load_steps()
    made = {name: make()[0] for name, make in vars(known).items() if name.startswith(("a_", "an_"))}
    made |= {name: make() for name, make in PARTS.items() if name in ("12 posts", "16 pads")}
    for document in demo.documents():
        if document.kind != "part":
            continue
        for step in document.steps:
            for entry in rebuild(document, upto=step.id).state.bodies.values():
                if entry.body.solid.closed:
                    made[f"{document.name} at {step.id}"] = entry.body.solid
    return {name: packed(solid) for name, solid in made.items()}


def trial(body: Solid, chance: random.Random) -> tuple[str, Callable[[], object]]:
    """One verb with numbers of chance, in words, and the call."""
    size = measure.loose_box(body).diagonal
    amount = round(size * 10 ** chance.uniform(-3.0, -0.5), 4)
    real = [edge for edge in range(body.number_of_edges) if not body.degenerate_edges[edge]]
    edges = chance.sample(real, min(len(real), chance.choice((1, 1, 2, 4, 8))))
    faces = chance.sample(range(body.face_count), min(body.face_count, chance.choice((1, 1, 2, 3, 6))))
    verb = chance.choice(("fillet", "chamfer", "draft", "remove", "shell"))
    if verb == "fillet":
        return f"fillet {edges} by {amount}", lambda: blend.fillet(body, edges, amount)
    if verb == "chamfer":
        return f"chamfer {edges} by {amount}", lambda: blend.chamfer(body, edges, amount)
    if verb == "remove":
        return f"remove {faces}", lambda: feature.removed(body, faces)
    if verb == "shell":
        corners: Literal["rounded", "sharp"] = chance.choice(("rounded", "sharp"))
        return f"shell open at {faces} by {amount}, {corners}", lambda: walls.shell(body, faces, amount, corners=corners)
    axis = chance.choice(_AXES)
    box = measure.loose_box(body)
    middle = box.centre
    x = _AXES[(_AXES.index(axis) + 1) % 3]
    angle = math.radians(round(chance.uniform(-12, 12), 2))
    chosen = chance.choice((faces, draft.sides(body, axis) or faces))
    words = f"draft {chosen} by {math.degrees(angle):.2f} along {axis}"
    return words, lambda: draft.taper(body, chosen, Frame(middle, x, axis), angle)


def fares(call: Callable[[], object]) -> str:
    """How a call ends in a process of its own."""
    child = os.fork()
    if child == 0:
        os.close(1)
        try:
            call()
        except KernelError:
            os._exit(1)
        except BaseException:
            os._exit(2)
        os._exit(0)
    ends = time.monotonic() + DEADLINE
    while time.monotonic() < ends:
        done, status = os.waitpid(child, os.WNOHANG)
        if done:
            return "breaks down" if os.WIFSIGNALED(status) else ("sound", "refused", "fault")[os.WEXITSTATUS(status)]
        time.sleep(0.01)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    return "hangs"


def main() -> int:
    count, seed = (int(a) for a in (*sys.argv[1:], *("1000", "1")[len(sys.argv) - 1 :]))
    known_bodies = bodies()
    names = list(known_bodies)
    tally: Counter[str] = Counter()
    for number in range(count):
        chance = random.Random(f"{seed}-{number}")
        name = chance.choice(names)
        words, call = trial(known_bodies[name], chance)
        word = fares(call)
        tally[word] += 1
        if word not in ("sound", "refused"):
            print(f"{seed}-{number} {word}: {name}: {words}", flush=True)
    print(dict(tally))
    return 0


if __name__ == "__main__":
    sys.exit(main())
