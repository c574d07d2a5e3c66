"""Parts to part: trays with level, stepped and wavy rims, plans with notches and gaps, round and tilted bodies, holes and
undercuts.

All open upwards; the pull is +z.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely
from scipy.interpolate import CubicSpline

from supplecast.curves import Line2, Region, Spline2
from supplecast.geometry import Axis, Floats, Frame, Point2, unit
from supplecast.kernel import blend, boolean, edges, move, solid
from supplecast.kernel.shapes.shape import Solid

SIDE = Frame((0.0, 80.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
"""A plane behind the parts, looking along −y: its y is the world's z."""
Points = list[Point2]


def region(points: Points) -> Region:
    return Region(tuple(Line2(f"L{k}", points[k], points[(k + 1) % len(points)]) for k in range(len(points))))


def hanging(points: Points, top: float, depth: float, degrees: float = 2.0) -> Solid:
    """A prism from a plan at `top` downwards, narrowing by its draft."""
    frame = Frame((0.0, 0.0, top))
    return solid.extrude(region(points), frame, depth, up=False, draft=math.radians(degrees)).solid


def cut(body: Solid, *tools: Solid) -> Solid:
    return boolean.cut(body, list(tools))[0].solid


def rectangle(width: float, depth: float) -> Points:
    w, d = width / 2, depth / 2
    return [(-w, -d), (w, -d), (w, d), (-w, d)]


def inset(points: Points, by: float) -> Points:
    ring = shapely.Polygon(points).buffer(-by, join_style="mitre").exterior
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(shapely.LinearRing(ring.coords).normalize())[:-1]]


def shelled(plan: Points, height: float = 25.0, wall: float = 2.0) -> Solid:
    """A drafted tray over any plan."""
    plan = plan if shapely.LinearRing(plan).is_ccw else plan[::-1]
    inner = inset(plan, wall)
    inner = inner if shapely.LinearRing(inner).is_ccw else inner[::-1]
    return cut(hanging(plan, height, height), hanging(inner, height, height - wall))


def trimmed(body: Solid, rim: list[Line2 | Spline2]) -> Solid:
    """A body cut off over a rim line drawn from left to right, seen from the front."""
    (ax, ay), (bx, by) = rim[0].a, rim[-1].b
    over = [Line2("u1", (bx, by), (bx, 90.0)), Line2("u2", (bx, 90.0), (ax, 90.0)), Line2("u3", (ax, 90.0), (ax, ay))]
    return cut(body, solid.extrude(Region((*rim, *over)), SIDE, 160.0).solid)


def through(points: Points) -> list[Line2 | Spline2]:
    return [Line2(f"r{k}", points[k], points[k + 1]) for k in range(len(points) - 1)]


def waved(level: float, swing: float, length: float, reach: float = 45.0) -> list[Line2 | Spline2]:
    xs = np.linspace(-reach, reach, 19)
    spline = CubicSpline(xs, level + swing * np.sin(xs / length))
    ys, slopes = spline(xs), spline(xs, 1)
    third = np.diff(xs) / 3
    poles: list[Point2] = [(float(xs[0]), float(ys[0]))]
    for k in range(len(xs) - 1):
        poles += [
            (float(xs[k] + third[k]), float(ys[k] + third[k] * slopes[k])),
            (float(xs[k + 1] - third[k]), float(ys[k + 1] - third[k] * slopes[k + 1])),
            (float(xs[k + 1]), float(ys[k + 1])),
        ]
    return [Spline2("wave", tuple(poles), tuple(float(3 * t) for t in third))]


def tray() -> Solid:
    return shelled(rectangle(60, 40))


def stepped() -> Solid:
    return trimmed(tray(), through([(-40, 17), (-5, 17), (10, 25.5), (40, 25.5)]))


def wavy() -> Solid:
    return trimmed(tray(), waved(20, 2.5, 9))


def notched() -> Solid:
    """A tray whose rim drops 6 mm between two upright walls."""
    return cut(shelled(rectangle(70, 50)), solid.box((10, -40, 19), (30, 0, 40)).solid)


def l_plan() -> Solid:
    body = shelled([(-30, -30), (30, -30), (30, 0), (0, 0), (0, 30), (-30, 30)])
    lean = 6 * math.tan(math.radians(7))
    notch = [(-20.0, 19.0), (-8.0, 19.0), (-8 + lean, 40.0), (-20 - lean, 40.0)]
    return cut(body, solid.extrude(region(notch), Frame((0, 0, 0), (1, 0, 0), (0, -1, 0)), 100).solid)


def c_plan(gap: float = 24.0, wave: bool = True) -> Solid:
    g = gap / 2
    plan = [(-30.0, -30.0), (30.0, -30.0), (30.0, -g), (0.0, -g), (0.0, g), (30.0, g), (30.0, 30.0), (-30.0, 30.0)]
    inner = [(-28.0, -28.0), (28.0, -28.0), (28.0, -g - 2), (-2.0, -g - 2), (-2.0, g + 2), (28.0, g + 2), (28.0, 28.0),
             (-28.0, 28.0)]  # fmt: skip
    body = cut(hanging(plan, 25, 25), hanging(inner, 25, 23))
    return trimmed(body, waved(20, 1.5, 7)) if wave else body


def _ball(radius: float) -> Solid:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
    from OCP.gp import gp_Pnt

    return Solid(BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, -20), radius).Shape())


def dome() -> Solid:
    """A cap of a ball with a saddle for a rim, its hollow downwards."""
    cap = boolean.common(_ball(40), [solid.box((-50, -50, -2), (50, 50, 50)).solid])[0].solid
    hollow = boolean.common(_ball(38), [solid.box((-50, -50, -5), (50, 50, 50)).solid])[0].solid
    return cut(cap, hollow, solid.cylinder((-60, 0, -38), (1, 0, 0), 40, 120).solid)


def ring() -> Solid:
    """A tapered ring with a wavy top: an outer loop and an inner one."""
    body = cut(solid.cone((0, 0, 0), (0, 0, 1), 27, 30, 20).solid, solid.cone((0, 0, -1), (0, 0, 1), 23, 20, 22).solid)
    return trimmed(body, waved(14, 1.5, 7))


def cover() -> Solid:
    """A tray with a round and a square hole in its floor."""
    return cut(tray(), solid.cone((10, 0, -1), (0, 0, 1), 5, 5.3, 5).solid, solid.box((-20, -5, -1), (-8, 5, 5)).solid)


def window() -> Solid:
    """The cover with a window in a wall: undercut from both sides."""
    return cut(cover(), solid.box((-6, -30, 10), (6, -5, 18)).solid)


def side_hole() -> Solid:
    """A boss in a tray's wall with a hole through from the side: seen from outside only."""
    body = shelled(rectangle(80, 60))
    pad = hanging([(-9.0, -30.0), (9.0, -30.0), (9.0, -20.0), (-9.0, -20.0)], 20, 18, 1.0)
    whole = boolean.fuse(body, [pad]).solid
    return cut(whole, solid.cylinder((0, -40, 11), (0, 1, 0), 3, 30).solid)


def tilted_cone() -> Solid:
    return solid.cone((-20, 0, 0), unit((1, 0, 0.15)), 12, 8, 40).solid


def skew_box() -> Solid:
    body = solid.box((-20, -14, -9), (20, 14, 9)).solid
    body = blend.fillet(body, range(body.number_of_edges), 3).solid
    return move.moved(body, move.turn(Axis((0, 0, 0), unit((1, 0.4, 0.3))), 0.5)).solid


CASTINGS: dict[str, Callable[[], Solid]] = {
    "tray": tray,
    "stepped rim": stepped,
    "wavy rim": wavy,
    "upright notch": notched,
    "L with a notch": l_plan,
    "C plan": c_plan,
    "dome": dome,
    "ring": ring,
    "cover with holes": cover,
    "tilted cone": tilted_cone,
    "filleted skew box": skew_box,
}


def random_plan(seed: int) -> Solid:
    """A tray over a star-shaped plan of five to nine corners, often hollow ones, with a wavy or a ramped rim."""
    drawn = np.random.default_rng(seed)
    count = int(drawn.integers(5, 10))
    turns = (np.arange(count) + drawn.uniform(-0.25, 0.25, count)) * 2 * math.pi / count
    sizes = drawn.uniform(18, 36, count)
    corners: Floats = np.column_stack([sizes * np.cos(turns), sizes * np.sin(turns)])
    body = shelled([(float(x), float(y)) for x, y in corners], height=22.0)
    if drawn.random() < 0.5:
        return trimmed(body, waved(17, float(drawn.uniform(0.5, 2.0)), float(drawn.uniform(6, 11))))
    low, high = 15.0, float(drawn.uniform(18, 22.5))
    return trimmed(body, through([(-60, low), (-8, low), (8, high), (60, high)]))


def upright_edges(body: Solid) -> list[int]:
    return [e for e in range(body.number_of_edges) if (line := edges.line(body, e)) is not None and abs(line[1][2]) > 0.99]
