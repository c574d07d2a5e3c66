"""Webs for ribs: walls along drawn lines, made longer and deeper than the body, to be settled on it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from supplecast.curves import Curve2, Line2, Region, Run
from supplecast.errors import KernelError
from supplecast.geometry import Frame, Point2, Vec, along, dot, subtract, times
from supplecast.kernel.features.attached_features import PAST
from supplecast.kernel.shapes.history import Made, Origin, composed
from supplecast.kernel.verbs import draft, solid, surface

Side = Literal["left", "right", "middle"]
_SHARES = np.array([0.02, 0.25, 0.5, 0.75, 0.98])


@dataclass(frozen=True)
class Shape:
    """A rib's `thickness` in mm at its top, on which side of the drawn line, and its draft in rad; `reach` is surely past the
    body.
    """

    thickness: float
    side: Side
    draft: float
    reach: float


@dataclass(frozen=True)
class Web:
    """A rib before it is settled: made too long and too deep. `marks` are points in it along the drawn line, `down` its way."""

    made: Made
    marks: tuple[Vec, ...]
    down: Vec


def from_above(run: Run, top: Frame, shape: Shape, *, up: bool) -> Web:
    """A web hanging from a line drawn in the plane of its top, against the plane's normal or, if `up`, along it."""
    sense = 1.0 if up else -1.0
    drawn = surface.raised(_longer(run, shape.reach), top, sense * shape.reach)
    made = surface.walled(drawn, shape.thickness, shape.side)
    if shape.draft:
        flanks = [i for i, row in enumerate(made.origins) if row[0].role in ("side", "far")]
        made = composed(made, draft.taper(made.solid, flanks, top, shape.draft, times(top.normal, -sense)))
    roles = {"start": "top", "end": PAST + "foot"}
    roles["tip"] = PAST + "tip" if run.loose_start else "tip"
    roles["tail"] = PAST + "tail" if run.loose_end else "tail"
    aside = {"left": 0.5, "right": -0.5, "middle": 0.0}[shape.side] * shape.thickness
    marks = tuple(along(top.point(p), top.normal, sense * 1e-3) for p in _marks(run, aside))
    return Web(_named_by_line(made, roles, run), marks, times(top.normal, sense))


def from_the_side(run: Run, plane: Frame, shape: Shape, *, up: bool, direction: Point2 | None = None) -> Web:
    """A web under a line drawn in the plane of its flank: to the line's right or, if `up`, its left. It grows square to the
    line, or along `way`.

    Its thickness lies before the plane (`left`), behind it (`right`) or to both sides.
    """
    chain = _longer(run, shape.reach)
    (ax, ay), (bx, by) = chain[0].at(np.array([0.0]))[0], chain[-1].at(np.array([1.0]))[0]
    a, b = (float(ax), float(ay)), (float(bx), float(by))
    span = math.dist(a, b)
    if span < 1e-6:
        raise KernelError("The line of the rib ends where it begins.", "Draw an open line.")
    sense = 1.0 if up else -1.0
    direction = direction or (-sense * (b[1] - a[1]) / span, sense * (b[0] - a[0]) / span)
    low_a, low_b = _moved(a, direction, 2 * shape.reach), _moved(b, direction, 2 * shape.reach)
    past = (Line2("tail", b, low_b), Line2("foot", low_b, low_a), Line2("tip", low_a, a))
    down = subtract(plane.point(direction), plane.origin)
    back = {"left": 0.0, "right": shape.thickness, "middle": shape.thickness / 2}[shape.side]
    made = solid.extrude(Region((*chain, *past)), plane.shifted(-back), shape.thickness)
    if shape.draft:
        made = _tapered(made, run, plane, times(down, -1.0), shape.draft)
    rows = [tuple(Origin(PAST + str(o.sources[0])) if o.sources[:1] in (("tail",), ("foot",), ("tip",)) else o for o in row)
            for row in made.origins]  # fmt: skip
    middle = plane.shifted(shape.thickness / 2 - back)
    marks = tuple(middle.point(_moved(p, direction, 1e-3)) for p in _marks(run, 0.0))
    return Web(_named_by_line(Made(made.solid, tuple(rows)), {"start": "back", "end": "front"}, run), marks, down)


def _tapered(made: Made, run: Run, plane: Frame, up: Vec, angle: float) -> Made:
    """The flanks leant about the highest point of the line, so that the web widens downwards."""
    points = [plane.point((float(x), float(y))) for curve in run.chain for x, y in curve.sampled(16)]
    highest = max(points, key=lambda p: dot(p, up))
    flanks = [i for i, row in enumerate(made.origins) if row[0].role in ("start", "end")]
    return composed(made, draft.taper(made.solid, flanks, Frame.lying(highest, up), angle, up))


def _named_by_line(made: Made, roles: Mapping[str, str], run: Run) -> Made:
    """New faces told apart by the line they belong to: its first curve."""
    label = (run.chain[0].entity,)
    return Made(
        made.solid,
        tuple(tuple(Origin(roles[str(o.role)], label) if o.role in roles else o for o in row) for row in made.origins),
    )


def _longer(run: Run, reach: float) -> list[Curve2]:
    """The chain with its loose ends carried on straight ahead."""
    chain = list(run.chain)
    if run.loose_start:
        a, direction = _ahead(chain[0].reversed())
        chain.insert(0, Line2(f"{chain[0].entity}~on", _moved(a, direction, reach), a))
    if run.loose_end:
        b, direction = _ahead(chain[-1])
        chain.append(Line2(f"{chain[-1].entity}~on", b, _moved(b, direction, reach)))
    return chain


def _ahead(curve: Curve2) -> tuple[Point2, Point2]:
    """Where a curve ends, and the direction in which it would go on."""
    before, end = curve.at(np.array([1 - 1e-6, 1.0]))
    step = end - before
    x, y = (float(c) for c in step / np.linalg.norm(step))
    return (float(end[0]), float(end[1])), (x, y)


def _marks(run: Run, aside: float) -> list[Point2]:
    """Points along the drawn line, `aside` mm to its left."""
    marks = []
    for curve in run.chain:
        for before, here in zip(curve.at(_SHARES - 1e-4), curve.at(_SHARES), strict=True):
            step = (here - before) / np.linalg.norm(here - before)
            marks.append((float(here[0] - aside * step[1]), float(here[1] + aside * step[0])))
    return marks


def _moved(p: Point2, direction: Point2, by: float) -> Point2:
    return (p[0] + direction[0] * by, p[1] + direction[1] * by)
