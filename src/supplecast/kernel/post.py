"""Posts of bosses and the webs that hold them, made too long, to be settled on a body.

All hang from a `top` frame: its origin is the middle of the post's top, its normal points up, out of the post.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from supplecast.curves import Line2, Run
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, along, times, turned
from supplecast.kernel import measure, rib, solid
from supplecast.kernel.history import Made, Origin
from supplecast.kernel.rib import Shape, Web
from supplecast.kernel.shape import Solid
from supplecast.kernel.standing import PAST

_WAYS = 36
MARK = 1e-3  # how far under the top of a post its mark lies, mm


@dataclass(frozen=True)
class Gusset:
    """A web that slopes from the post, `drop` mm under its top, to the body, where it reaches `length` mm from the post."""

    drop: float
    height: float
    length: float


def post(top: Frame, radius: float, draft: float, reach: float) -> Web:
    """A round post, widening downwards by `draft` rad. Roles `side`, `top`."""
    down = times(top.normal, -1.0)
    made = solid.cone(top.origin, down, radius, radius + reach * math.tan(draft), reach)
    return Web(_renamed(made, {"start": "top", "end": PAST + "foot"}), (along(top.origin, down, MARK),), down)


def pilot(top: Frame, radius: float, draft: float, depth: float) -> Made:
    """The core of a post, narrowing downwards. Roles `pilot`, `pilot floor`. KernelError if it closes before its end."""
    end = radius - depth * math.tan(draft)
    if end <= 1e-3:
        raise KernelError("The draft closes the pilot before its end.", "Use less draft, or a wider or shallower pilot.")
    made = solid.cone(top.origin, times(top.normal, -1.0), radius, end, depth)
    return _renamed(made, {"side": "pilot", "start": "mouth", "end": "pilot floor"})


def gusset(top: Frame, radius: float, size: Gusset, turn: float, shape: Shape) -> Web:
    """A web that stands out from the post at an angle of `turn` rad; the post is cut from it when it is settled."""
    out = turned(top.x, top.normal, turn)
    across = turned(out, top.normal, -math.pi / 2)
    plane = Frame(top.origin, out, across)  # its y is the way up
    slope = size.height / size.length
    high, low = -size.drop, -size.drop - size.height
    line = Line2("L", (0.0, high + slope * radius), (radius + size.length, low))
    web = rib.from_the_side(Run((line,), loose_start=False, loose_end=True), plane, shape, up=False)
    made = _renamed(web.made, {PAST + "tip": "inner end", "side": "slope"})
    middle = along(along(top.origin, out, radius + size.length / 2), top.normal, (high + low) / 2 - 1e-3)
    return Web(made, (middle,), web.down)


def tie(top: Frame, drop: float, way: Vec, length: float, shape: Shape) -> Web:
    """A web from the middle of the post, `drop` mm under its top, along `way` to a wall that is `length` mm away."""
    plane = Frame(along(top.origin, top.normal, -drop), way, top.normal)
    run = Run((Line2("L", (0.0, 0.0), (length * 0.98, 0.0)),), loose_start=False, loose_end=True)
    web = rib.from_above(run, plane, shape, up=False)
    return Web(_renamed(web.made, {"side": "left", "far": "right"}), web.marks, web.down)


def _renamed(made: Made, roles: Mapping[str, str]) -> Made:
    return Made(made.solid, tuple(tuple(Origin(roles.get(str(o.role), o.role)) for o in row) for row in made.origins))


def nearest_wall(body: Solid, top: Frame, deep: float) -> tuple[Vec, float] | None:
    """The direction to the nearest wall around a post, seen from `deep` mm under its top, and how far it is, mm."""
    start = along(top.origin, top.normal, -deep)
    found = []
    for number in range(_WAYS):
        way = turned(top.x, top.normal, 2 * math.pi * number / _WAYS)
        away = measure.first_hit(body, start, way)
        if away is not None:
            found.append((away, number, way))
    if not found:
        return None
    away, _, way = min(found)
    return way, away
