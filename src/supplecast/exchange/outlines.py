"""Flat outlines in and out: DXF and SVG, at true size.

Read are lines, polylines (with bulges), arcs, circles, ellipses and splines of a DXF's model space, and the paths and shapes of
an SVG. Curved pieces that are no arcs come as cubic Bézier pieces, each a spline of two points: exact for what the file holds
as Béziers, and nearly so for the rest. A DXF's unit is taken from its header, an SVG's from its size in
mm against its view box, else 96 units to an inch.
Weak cases: DXF in its binary form is refused; text, hatches and nested blocks are left out, and counted.
"""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np

from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Spline2
from supplecast.errors import SuppleError
from supplecast.geometry import Point2

_MOST = 2000
_LARGEST = 16 * 2**20
_MOST_NUMBERS = 150_000
_SHORT = 1e-6
_UNITS = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 2.54e-5, 9: 0.0254, 13: 1e-3, 14: 100.0}
_FORMATS = "Save it as DXF or SVG."

Row = dict[str, Any]


def read_outline(content: bytes) -> tuple[list[Row], list[str]]:
    """The curves of a DXF or SVG file, as the sketch takes them in, and notes on what was left out.

    SuppleError for files that are neither, broken, too large, or hold nothing to draw.
    """
    if len(content) > _LARGEST:
        raise SuppleError("The file is larger than 16 MB.", "Save only the outline that is needed.")
    head = content[:4096].lstrip()
    is_svg = _is_svg(content[:65536])
    rows, notes = _svg(content) if is_svg else _dxf(content) if _looks_dxf(head) else ([], [])
    if not is_svg and not _looks_dxf(head):
        raise SuppleError("The file is neither DXF nor SVG.", _FORMATS)
    sound = [row for row in rows if _is_sound(row)]
    if len(sound) < len(rows):
        notes.append(f"{len(rows) - len(sound)} without length left out")
    if len(sound) > _MOST:
        raise SuppleError(
            f"The file holds {len(sound)} curves; a sketch takes {_MOST}.", "Save only the outline that is needed."
        )
    if not sound:
        raise SuppleError("The file holds no lines, arcs, circles or paths.", _FORMATS)
    return sound, notes


def _is_svg(head: bytes) -> bool:
    wide = head.startswith((b"\xff\xfe", b"\xfe\xff"))
    return "<svg" in head.decode("utf-16" if wide else "latin-1", "ignore")


def _looks_dxf(head: bytes) -> bool:
    return bool(re.match(rb"(0|999)\s*\r?\n", head))


def _is_sound(row: Row) -> bool:
    flat = [c for place in row["places"] for c in place]
    if not all(math.isfinite(c) and abs(c) <= 1e5 for c in flat):
        return False
    if row["kind"] == "circle":
        return bool(_SHORT < row["r"] <= 1e5)
    places = row["places"]
    if row["kind"] == "arc":
        return math.dist(places[0], places[1]) > _SHORT and math.dist(places[1], places[2]) > _SHORT
    return max(math.dist(places[0], p) for p in places[1:]) > _SHORT


def _line(a: Point2, b: Point2) -> Row:
    return {"kind": "line", "places": [a, b]}


def _bezier(p: Sequence[Point2]) -> Row:
    """A cubic Bézier as a spline through its ends by way of its two inner poles."""
    return {"kind": "spline", "places": [p[0], p[3], p[1], p[2]]}


# --- DXF ------------------------------------------------------------------------------------------------------------


def _dxf(content: bytes) -> tuple[list[Row], list[str]]:
    from ezdxf import DXFError, recover

    try:
        document, _ = recover.read(io.BytesIO(content))
    except (DXFError, OSError, ValueError, KeyError, IndexError, UnicodeError) as fault:
        raise SuppleError("The DXF file is broken.", "Save it again, as DXF of 2000 or later.") from fault
    scale = _UNITS.get(int(document.header.get("$INSUNITS", 0) or 0), 1.0)
    rows: list[Row] = []
    skipped = 0
    for entity in _unblocked(document.modelspace()):
        row = _dxf_entity(entity, scale)
        if row is None:
            skipped += 1
        else:
            rows += row
        if len(rows) > 4 * _MOST:
            break
    return rows, [f"{skipped} of a kind that cannot be drawn left out"] if skipped else []


def _unblocked(space: Iterable[Any]) -> Iterable[Any]:
    for entity in space:
        if entity.dxftype() == "INSERT":
            yield from entity.virtual_entities()
        else:
            yield entity


def _dxf_entity(entity: Any, scale: float) -> list[Row] | None:
    from ezdxf import path as paths

    def at(p: Any) -> Point2:
        return (float(p[0]) * scale, float(p[1]) * scale)

    kind = entity.dxftype()
    flat = abs(float(entity.dxf.get("extrusion", (0, 0, 1))[2]) - 1) < 1e-9 if entity.dxf.is_supported("extrusion") else True
    if kind == "LINE":
        return [_line(at(entity.dxf.start), at(entity.dxf.end))]
    if kind == "CIRCLE" and flat:
        return [{"kind": "circle", "places": [at(entity.dxf.center)], "r": float(entity.dxf.radius) * scale}]
    if kind == "ARC" and flat:
        return [
            {"kind": "arc", "places": [at(p) for p in (entity.dxf.center, entity.start_point, entity.end_point)], "ccw": True}
        ]
    if kind in ("LWPOLYLINE", "POLYLINE") and flat and getattr(entity, "is_2d_polyline", True):
        rows = []
        for part in entity.virtual_entities():
            rows += _dxf_entity(part, scale) or []
        return rows
    if kind not in ("ELLIPSE", "SPLINE", "CIRCLE", "ARC", "LWPOLYLINE", "POLYLINE"):
        return None
    try:
        drawn = paths.make_path(entity)
    except (TypeError, ValueError):
        return None
    rows = []
    here = drawn.start
    for command in drawn.commands():
        if hasattr(command, "ctrl2"):
            rows.append(_bezier([at(here), at(command.ctrl1), at(command.ctrl2), at(command.end)]))
        elif hasattr(command, "ctrl"):
            first, second = (here + (command.ctrl - here) * (2 / 3)), (command.end + (command.ctrl - command.end) * (2 / 3))
            rows.append(_bezier([at(here), at(first), at(second), at(command.end)]))
        else:
            rows.append(_line(at(here), at(command.end)))
        here = command.end
    return rows


def write_dxf(curves: Sequence[Curve2], construction: Sequence[Curve2] = ()) -> bytes:
    """Curves as DXF in mm; construction curves on a layer of their own."""
    import ezdxf

    document = ezdxf.new("R2010", units=4)
    document.layers.add("outline")
    document.layers.add("construction", linetype="CONTINUOUS", color=8)
    space = document.modelspace()
    for layer, held in (("outline", curves), ("construction", construction)):
        look = {"layer": layer}
        for curve in held:
            match curve:
                case Line2(a=a, b=b):
                    space.add_line(a, b, look)
                case Circle2(centre=c, radius=r):
                    space.add_circle(c, r, look)
                case Arc2(centre=c, ccw=ccw):
                    first, last = (curve.a, curve.b) if ccw else (curve.b, curve.a)
                    ends = [math.degrees(math.atan2(p[1] - c[1], p[0] - c[0])) for p in (first, last)]
                    space.add_arc(c, curve.radius, *ends, dxfattribs=look)
                case Ellipse2():
                    long, short = curve.axes
                    start, end = curve.start, curve.start + curve.sweep
                    ratio = math.hypot(*short) / math.hypot(*long)
                    if ratio > 1:  # the format wants the longer half-axis
                        long, ratio, start, end = short, 1 / ratio, start - math.pi / 2, end - math.pi / 2
                    low, high = min(start, end), max(start, end)
                    space.add_ellipse(curve.centre, (*long, 0.0), ratio, low, high, look)
                case Spline2():
                    knots, poles = curve.b_spline()
                    spline = space.add_spline(dxfattribs={**look, "degree": 3})
                    spline.control_points = [(*p, 0.0) for p in poles.tolist()]
                    spline.knots = knots.tolist()
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode("utf-8")


# --- SVG ------------------------------------------------------------------------------------------------------------


def _svg(content: bytes) -> tuple[list[Row], list[str]]:
    from defusedxml import DefusedXmlException
    from defusedxml import ElementTree as ET
    from svgpathtools import Arc, CubicBezier, Line, QuadraticBezier
    from svgpathtools.document import flattened_paths

    if len(re.findall(rb"\d+", content)) > _MOST_NUMBERS:  # counted first: taking them apart would take minutes
        raise SuppleError("The SVG file holds far more than a sketch takes.", "Save only the outline that is needed.")
    try:
        root = ET.fromstring(content)
        flattened = flattened_paths(root)
        scale = _svg_scale(root)
    except DefusedXmlException as fault:
        raise SuppleError("The SVG file defines entities of its own.", "Save it as plain SVG.") from fault
    except (
        ET.ParseError,
        ValueError,
        KeyError,
        IndexError,
        TypeError,
        AttributeError,
        RecursionError,
        AssertionError,
    ) as fault:
        raise SuppleError("The SVG file is broken.", "Save it again as plain SVG.") from fault

    def at(z: complex) -> Point2:
        return (z.real * scale, -z.imag * scale)

    rows: list[Row] = []
    for path in flattened:
        for piece in path:
            match piece:
                case Line():
                    rows.append(_line(at(piece.start), at(piece.end)))
                case CubicBezier():
                    rows.append(_bezier([at(z) for z in (piece.start, piece.control1, piece.control2, piece.end)]))
                case QuadraticBezier():
                    ends = piece.start, piece.end
                    first, second = (end + (piece.control - end) * (2 / 3) for end in ends)
                    rows.append(_bezier([at(z) for z in (piece.start, first, second, piece.end)]))
                case Arc():
                    rows += _svg_arc(piece, at)
            if len(rows) > 4 * _MOST:
                return rows, []
    return _whole_circles(rows), []


def _whole_circles(rows: Sequence[Row]) -> list[Row]:
    """Two arcs that make up a circle become one: that is how circles are written as paths."""
    joined: list[Row] = []
    for row in rows:
        before = joined[-1] if joined else None
        if before is not None and before["kind"] == row["kind"] == "arc" and before["ccw"] == row["ccw"]:
            (c, a, b), (d, p, q) = before["places"], row["places"]
            if all(math.dist(u, v) < 1e-6 for u, v in ((c, d), (b, p), (a, q))):
                joined[-1] = {"kind": "circle", "places": [c], "r": math.dist(c, a)}
                continue
        joined.append(row)
    return joined


def _svg_arc(piece: Any, at: Any) -> list[Row]:
    """A round arc stays one; an elliptical one comes as Bézier pieces of at most a quarter turn."""
    if abs(piece.radius.real - piece.radius.imag) < 1e-9 * abs(piece.radius):
        return [{"kind": "arc", "places": [at(piece.center), at(piece.start), at(piece.end)], "ccw": piece.delta < 0}]
    count = max(1, math.ceil(abs(piece.delta) / 45))
    rows = []
    for i in range(count):
        t0, t1 = i / count, (i + 1) / count
        a, b = piece.point(t0), piece.point(t1)
        da, db = (piece.derivative(t) * (t1 - t0) for t in (t0, t1))
        # The handle length of a conic's Hermite piece: 4/3·tan(θ/4) of its radius, seen as a share of the derivative.
        angle = math.radians(abs(piece.delta)) / count
        k = 4 / 3 * math.tan(angle / 4) / angle
        rows.append(_bezier([at(z) for z in (a, a + da * k, b - db * k, b)]))
    return rows


def _svg_scale(root: Any) -> float:
    """mm to a user unit. ValueError for a size that is no number."""
    width = re.fullmatch(r"\s*([\d.eE+-]+)\s*(mm|cm|in|pt|px|)\s*", root.get("width", ""))
    box = [float(part) for part in re.findall(r"[-+\d.eE]+", root.get("viewBox", ""))] if root.get("viewBox") else []
    unit = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "px": 25.4 / 96, "": 25.4 / 96}
    if width and len(box) == 4 and box[2] > 0:
        return float(width.group(1)) * unit[width.group(2)] / box[2]
    return 25.4 / 96


def write_svg(curves: Sequence[Curve2], construction: Sequence[Curve2] = ()) -> bytes:
    """Curves as SVG at true size: a user unit is a millimetre."""
    every = [*curves, *construction]
    points = np.concatenate([curve.sampled(24) for curve in every]) if every else np.zeros((1, 2))
    low, high = points.min(axis=0) - 2, points.max(axis=0) + 2
    width, height = high - low
    body = []
    for held, look in ((curves, 'stroke="#12211F"'), (construction, 'stroke="#51625F" stroke-dasharray="3 1"')):
        body += [f'<path d="{_svg_path(curve)}" fill="none" stroke-width="0.25" {look}/>' for curve in held]
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.6g}mm" height="{height:.6g}mm" '
        f'viewBox="{low[0]:.6f} {-high[1]:.6f} {width:.6f} {height:.6f}">\n' + "\n".join(body) + "\n</svg>\n"
    ).encode()


def _svg_path(curve: Curve2) -> str:
    def at(p: Any) -> str:
        return f"{p[0]:.9g} {-p[1]:.9g}"

    match curve:
        case Line2(a=a, b=b):
            return f"M{at(a)}L{at(b)}"
        case Circle2(centre=c, radius=r):
            left, right = (c[0] - r, c[1]), (c[0] + r, c[1])
            return f"M{at(right)}A{r:.9g} {r:.9g} 0 0 0 {at(left)}A{r:.9g} {r:.9g} 0 0 0 {at(right)}Z"
        case Arc2(a=a, b=b, ccw=ccw):
            r, large = curve.radius, int(abs(curve.sweep) > math.pi)
            return f"M{at(a)}A{r:.9g} {r:.9g} 0 {large} {0 if ccw else 1} {at(b)}"
        case Ellipse2():
            long, short = (math.hypot(*axis) for axis in curve.axes)
            turn = -math.degrees(math.atan2(*curve.axes[0][::-1]))
            places = curve.at(np.array([0.0, 0.5, 1.0]))
            direction = 0 if curve.sweep > 0 else 1
            arcs = "".join(f"A{long:.9g} {short:.9g} {turn:.9g} 0 {direction} {at(p)}" for p in places[1:])
            return f"M{at(places[0])}{arcs}"
        case Spline2(poles=poles):
            rest = "".join(f"C{at(poles[i])} {at(poles[i + 1])} {at(poles[i + 2])}" for i in range(1, len(poles), 3))
            return f"M{at(poles[0])}{rest}"
    raise TypeError(curve)
