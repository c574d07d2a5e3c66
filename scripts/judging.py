"""Speed of judging the demo's back shell: seconds on one core, against the limits that editing leaves for it.

The limits are those a designer feels: all gauges follow an edit within 2 s, the wall map within 0.5 s, the draft within 0.3 s.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np

from supplecast import kernel, search
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import gauges
from supplecast.molding.gauges import Asked, Judged
from supplecast.molding.judge import Pulled, Skin
from supplecast.tooling.resins import RESINS

_RUNS = 5
_PLACES = 30_000
_UP = (0.0, 0.0, 1.0)


def main(solid: Solid) -> int:
    """Print what judging a solid takes; returns how many limits were missed."""
    search.warm()
    skin = Skin(solid).places
    chosen = np.random.default_rng(1).choice(len(skin.middles), _PLACES)
    places, normals = skin.middles[chosen], skin.normals[chosen]

    def whole() -> None:
        pulled = Pulled(Skin(solid), _UP)
        body = Judged("b", "Back shell", pulled, pulled.flow((0.0, 0.0, -27.0)))
        gauges.gauges([body], Asked(RESINS["ABS"], _UP, gate=(0.0, 0.0, -27.0)))

    rows: list[tuple[str, Callable[[], object], float]] = [
        ("all gauges and the flow, nothing remembered", whole, 2.0),
        (f"largest balls at {_PLACES:,} places", lambda: skin.whole.balls(places, normals, np.full(_PLACES, 8.8)), 0.5),
        (f"exact draft of {solid.face_count} faces", lambda: kernel.facing.drafts(solid, _UP), 0.3),
    ]
    missed = 0
    for what, run, limit in rows:
        times = []
        for _ in range(_RUNS):
            began = time.perf_counter()
            run()
            times.append(time.perf_counter() - began)
        seconds = statistics.median(times)
        missed += seconds > limit
        print(f"{what:<52} {seconds * 1000:9.1f} ms   {'within' if seconds <= limit else 'OVER'} {limit:g} s", flush=True)
    return missed
