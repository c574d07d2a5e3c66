"""The check of a shell by sampling, against the bare kernel call that makes it, on parts of more than 40 faces.

It takes no longer than the call does. Alone: `python -m scripts.shells`.
"""

from __future__ import annotations

import math
import statistics
import time
from collections.abc import Callable

from OCP.BRepTools import BRepTools

from scripts.bare import shelled
from supplecast.geometry import Frame
from supplecast.kernel import blend, boolean, draft, edges, measure, solid, wall_check, walls
from supplecast.kernel.shapes.shape import Solid

WALL = 2.0
RUNS = 7


def _upright(body: Solid) -> list[int]:
    return [face for face in range(body.face_count) if measure.is_flat(body, face)
            and abs(measure.flat_frame(body, face).normal[2]) < 0.1]  # fmt: skip


def _rising(body: Solid) -> list[int]:
    return [e for e in range(body.number_of_edges) if (line := edges.line(body, e)) and abs(line[1][2]) > 0.9]


def posted(count: int) -> Solid:
    """A drafted crate with rounds and rooted posts on its back."""
    body = solid.box((0, 0, 0), (120, 72, 27)).solid
    body = draft.taper(body, _upright(body), Frame(), math.radians(1.5)).solid
    body = blend.fillet(body, _rising(body), 8).solid
    posts = [solid.cone((16 + n % 8 * 12.5, 14 + n // 8 * 16, 24), (0, 0, 1), 4.4, 4, 11).solid for n in range(count)]
    body = boolean.fuse(body, posts).solid
    high = [e for e in range(body.number_of_edges) if abs(edges.middle(body, e)[2] - 27) < 1e-6]
    body = blend.fillet(body, [e for e in high if (edges.radius(body, e) or 9) < 5], 1).solid
    rim = next(e for e in range(body.number_of_edges) if edges.line(body, e) and abs(edges.middle(body, e)[2] - 27) < 1e-6)
    return blend.fillet(body, [rim], 4).solid


def padded(count: int) -> Solid:
    """A crate with square pads on its back, drafted, all edges along the pull rounded."""
    pads = [solid.box((x, y, 20), (x + 12, y + 10, 32)).solid
            for x, y in ((8 + n % 8 * 18, 8 + n // 8 * 18) for n in range(count))]  # fmt: skip
    body = boolean.fuse(solid.box((0, 0, 0), (160, 90, 25)).solid, pads).solid
    body = draft.taper(body, _upright(body), Frame(), math.radians(1)).solid
    return blend.fillet(body, _rising(body), 2.5).solid


def pierced(count: int) -> Solid:
    """A crate with bores."""
    bores = [solid.cylinder((12 + n % 8 * 18, 10 + n // 8 * 17, -1), (0, 0, 1), 3, 40).solid for n in range(count)]
    return boolean.cut(solid.box((0, 0, 0), (160, 90, 25)).solid, bores)[0].solid


PARTS: dict[str, Callable[[], Solid]] = {
    "12 posts": lambda: posted(12),
    "24 posts": lambda: posted(24),
    "32 posts": lambda: posted(32),
    "16 pads": lambda: padded(16),
    "40 bores": lambda: pierced(40),
}


def main() -> int:
    """Print one row a part; returns how many checks took longer than the shell."""
    over = 0
    for name, make in PARTS.items():
        body = make()
        opened = tuple(face for face in range(body.face_count) if measure.is_flat(body, face)
                       and abs(measure.face_middle(body, face)[2]) < 1e-6)  # fmt: skip
        made = walls.shell(body, opened, WALL)
        skin = [face for face, row in enumerate(made.origins) if any(origin.role == "inner" for origin in row)]
        wanted = wall_check.Wanted(body, {f: WALL for f in range(body.face_count) if f not in opened}, opened)
        pairs = []
        for _ in range(RUNS):
            BRepTools.Clean_s(body.shape, True)
            BRepTools.Clean_s(made.solid.shape, True)
            began = time.perf_counter()
            fault = wall_check.fault(wall_check.Room(wanted), made.solid, skin)
            between = time.perf_counter()
            assert not fault, fault
            shelled(body, opened, WALL)
            pairs.append((between - began, time.perf_counter() - between))
        check, shell = (statistics.median(pair[i] for pair in pairs) for i in (0, 1))
        ratio = statistics.median(a / b for a, b in pairs)
        over += ratio > 1
        print(
            f"  {name:<10} {body.face_count:4} faces  check {check * 1000:6.1f} ms  shell {shell * 1000:6.1f} ms"
            f"  × {ratio:4.2f}  {'within' if ratio <= 1 else 'OVER'}",
            flush=True,
        )
    return over


if __name__ == "__main__":
    print("The check of a shell, limit × 1 of the bare kernel call:")
    raise SystemExit(main())
