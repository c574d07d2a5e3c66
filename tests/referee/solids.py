"""Plain solids and their faces, for the kernel alone."""

from __future__ import annotations

from supplecast.curves import Line2, Region
from supplecast.geometry import Frame, Point2
from supplecast.kernel import edges, measure, solid
from supplecast.kernel.shapes.shape import Solid

EXACT = 1e-9


def outline(width: float, height: float, x: float = 0.0, y: float = 0.0) -> Region:
    w, h = width / 2, height / 2
    corners: list[Point2] = [(x - w, y - h), (x + w, y - h), (x + w, y + h), (x - w, y + h)]
    return Region(tuple(Line2(f"L{i}", corners[i], corners[(i + 1) % 4]) for i in range(4)))


def block(width: float, depth: float, height: float) -> Solid:
    return solid.extrude(outline(width, depth), Frame(), height).solid


def facing(body: Solid, z: float) -> list[int]:
    return [f for f in range(body.face_count) if measure.is_flat(body, f) and measure.flat_frame(body, f).normal[2] * z > 0.99]


def uprights(body: Solid) -> list[int]:
    lines = [(e, edges.line(body, e)) for e in range(body.number_of_edges)]
    return [e for e, line in lines if line is not None and abs(line[1][2]) > 0.9]
