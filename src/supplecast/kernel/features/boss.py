"""Posts of bosses and the webs that hold them, made too long, to be settled on a body.

All hang from a `top` frame: its origin is the middle of the post's top, its normal points up, out of the post.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector

from supplecast.curves import Line2, Run
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec, along, times, turned
from supplecast.kernel.features import rib
from supplecast.kernel.features.attached_features import PAST
from supplecast.kernel.features.rib import Shape, Web
from supplecast.kernel.measuring import measure, probing
from supplecast.kernel.shapes.history import Ledger, Made, Origin, traced_to
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import checked
from supplecast.kernel.verbs import boolean, extent, move, solid

_WAYS = 36
_INTO = 1e-4
MARK = 1e-3  # how far under the top of a post its mark lies, mm


@dataclass(frozen=True)
class Gusset:
    """A web that slopes from the post, `drop` mm under its top, to the body, where it reaches `length` mm from the post."""

    drop: float
    height: float
    length: float


@dataclass(frozen=True)
class Stop:
    """A face of a body, carried on, at which posts end; `spare` mm over the middle of their tops they are surely past it."""

    body: Solid
    face: int
    spare: float

    def over(self, foot: Frame) -> Vec:
        """Where the line along a frame's normal through its origin meets the face, nearest to the origin."""
        shooter = IntCurvesFace_ShapeIntersector()
        shooter.Load(self._sheet(foot.origin), 1e-7)
        shooter.Perform(gp_Lin(gp_Pnt(*foot.origin), gp_Dir(*foot.normal)), -1e6, 1e6)
        hits = [float(shooter.WParameter(number)) for number in range(1, shooter.NbPnt() + 1)]
        if not hits:
            words = "The face, carried on, does not lie over every point."
            raise KernelError(words, "Pick a face that does, or move the point.")
        return along(foot.origin, foot.normal, min(hits, key=abs))

    def ended(self, made: Made) -> Made:
        """What of a post, made past the face, lies under it; the new face is the `top`."""
        maker = boolean.parted(made.solid, [self._sheet(measure.loose_box(made.solid).centre)])
        pieces = checked(maker.Shape(), "the boss", expect=None)
        ledger = Ledger(pieces)
        ledger.kept([made.solid], maker.Modified)
        under = []
        for piece in ledger.made():
            rows = [tuple(o for s in row for o in made.origins[s.sources[0][1]]) for row in piece.origins]  # type: ignore[index]
            roles = {o.role for row in rows for o in row}
            if "foot" in roles and "top" not in roles:
                under.append(Made(piece.solid, tuple(row or (Origin("top"),) for row in rows)))
        if len(under) != 1:
            raise KernelError(
                "The boss does not end at the picked face: that stands too steeply over it, or does not reach over it.",
                "Pick a face that lies more across the boss.",
            )
        return under[0]

    def _sheet(self, near: Vec) -> Any:
        return extent.carried_on(self.body, self.face, 0.0, measure.beyond(self.body, near))


def post(top: Frame, radius: float, draft: float, reach: float, spare: float = 0.0) -> Web:
    """A round post, widening downwards by `draft` rad and begun `spare` mm over its top. Roles `side`, `top`."""
    down = times(top.normal, -1.0)
    begin = radius - spare * math.tan(draft)
    if begin <= 1e-3:
        raise KernelError("So much draft leaves no boss over the picked face.", "Use less draft, or a wider boss.")
    made = solid.cone(along(top.origin, top.normal, spare), down, begin, radius + reach * math.tan(draft), reach + spare)
    return Web(_renamed(made, {"start": "top", "end": PAST + "foot"}), (along(top.origin, down, MARK),), down)


def pilot(top: Frame, radius: float, draft: float, depth: float, spare: float = 0.0) -> Made:
    """The core of a post, narrowing downwards, begun `spare` mm over its top. Roles `pilot`, `pilot floor`. KernelError if it
    closes before its end.
    """
    end = radius - depth * math.tan(draft)
    if end <= 1e-3:
        raise KernelError("The draft closes the pilot before its end.", "Use less draft, or a wider or shallower pilot.")
    begin = radius + spare * math.tan(draft)
    made = solid.cone(along(top.origin, top.normal, spare), times(top.normal, -1.0), begin, end, depth + spare)
    return _renamed(made, {"side": "pilot", "start": "mouth", "end": "pilot floor"})


def towards(body: Solid, top: Frame) -> tuple[Frame, float, float | None]:
    """The top of a post with its normal away from the body, be that under the plane or over it; how far it is down to the body,
    and how thick the wall there is, mm, or None if it never ends. KernelError if there is no body on either side.
    """
    try:
        return top, *_depths(body, top)
    except KernelError:
        over = Frame(top.origin, top.x, times(top.normal, -1.0))
        return over, *_depths(body, over)


def _depths(body: Solid, top: Frame) -> tuple[float, float | None]:
    down = times(top.normal, -1.0)
    mark = along(top.origin, down, MARK)
    free = probing.first_hit(body, mark, down)
    if free is None:
        raise KernelError("There is no body under the boss.", "Move its point over the body, or turn its plane round.")
    wall = probing.first_hit(body, along(mark, down, free + _INTO), down)
    return free + MARK, None if wall is None else wall + _INTO


def shifted(web: Web, by: Vec) -> Web:
    """The same web elsewhere."""
    marks = tuple((p[0] + by[0], p[1] + by[1], p[2] + by[2]) for p in web.marks)
    return Web(move.carried(web.made, move.shift(by)), marks, web.down)


def with_gussets(post: Web, top: Frame, radius: float, size: Gusset, count: int, shape: Shape) -> Web:
    """A post with gussets round it, as one. Faces of the gussets bear their number."""
    webs = [_gusset(top, radius, size, 2 * math.pi * number / count, shape) for number in range(count)]
    rows = [
        [tuple(o if str(o.role).startswith(PAST) else Origin(o.role, (f"{n}",)) for o in row) for row in web.origins]
        for n, web in enumerate(webs, 1)
    ]
    whole = boolean.fuse(post.made.solid, [web.solid for web in webs])
    return Web(traced_to(whole, [post.made.origins, *rows]), post.marks, post.down)


def _gusset(top: Frame, radius: float, size: Gusset, turn: float, shape: Shape) -> Made:
    """A web that stands out from the post at an angle of `turn` rad, begun inside it. KernelError if it is wider than that."""
    if shape.thickness >= 1.6 * radius:
        raise KernelError("The webs are wider than the boss.", "Make them thinner.", sized=True)
    begin = 0.9 * math.sqrt(radius**2 - shape.thickness**2 / 4)
    out = turned(top.x, top.normal, turn)
    across = turned(out, top.normal, -math.pi / 2)
    plane = Frame(top.origin, out, across)  # its y is the way up
    slope = size.height / size.length
    high, low = -size.drop, -size.drop - size.height
    line = Line2("L", (begin, high + slope * (radius - begin)), (radius + size.length, low))
    # Straight down, so that its inner end stays in the post: square to its slope it would come out on the other side.
    web = rib.from_the_side(Run((line,), loose_start=False, loose_end=True), plane, shape, up=False, direction=(0.0, -1.0))
    return _renamed(web.made, {PAST + "tip": "inner end", "side": "slope"})


def tie(top: Frame, drop: float, direction: Vec, length: float, shape: Shape) -> Web:
    """A web from the middle of the post, `drop` mm under its top, along `way` to a wall that is `length` mm away."""
    plane = Frame(along(top.origin, top.normal, -drop), direction, top.normal)
    run = Run((Line2("L", (0.0, 0.0), (length * 0.98, 0.0)),), loose_start=False, loose_end=True)
    web = rib.from_above(run, plane, shape, up=False)
    return Web(_renamed(web.made, {"side": "left", "far": "right"}), web.marks, web.down)


def _renamed(made: Made, roles: Mapping[str, str]) -> Made:
    return Made(made.solid, tuple(tuple(Origin(roles.get(str(o.role), o.role)) for o in row) for row in made.origins))


def nearest_wall(body: Solid, top: Frame, deep: float) -> tuple[Vec, float] | None:
    """The direction to the nearest wall around a post, seen from `deep` mm under its top, and how far it is, mm."""
    start = along(top.origin, top.normal, -deep)
    hits = []
    for number in range(_WAYS):
        direction = turned(top.x, top.normal, 2 * math.pi * number / _WAYS)
        away = probing.first_hit(body, start, direction)
        if away is not None:
            hits.append((away, number, direction))
    if not hits:
        return None
    away, _, direction = min(hits)
    return direction, away
