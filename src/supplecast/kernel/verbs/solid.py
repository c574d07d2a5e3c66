"""Solids raised from outlines: the extrusion, straight or drafted, to one side or both."""

from __future__ import annotations

import math

from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism
from OCP.gp import gp_Ax2, gp_Vec

from supplecast.curves import Arc2, Curve2, Line2, Region
from supplecast.errors import KernelError
from supplecast.geometry import AXES, Frame, Vec, along, cross, times, unit
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin, composed, each, traced_to
from supplecast.kernel.shapes.profile import Profile, as_dir, as_point, plane, profile
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs import boolean

Span = tuple[float, float]
_RAISING = "raising the outline"


def extrude(region: Region, frame: Frame, length: float, *, up: bool = True, draft: float = 0.0) -> Made:
    """Prism over a region, `length` mm along the frame's normal (`up`) or against it.

    `draft` rad leans every side inwards on the way (negative: outwards), measured at the frame's plane. Faces are made in
    the roles `side` (from their entity), `start` (on the plane) and `end`.
    """
    return raised(profile(region, frame), length, up=up, draft=draft)


def raised(flat: Profile, length: float, *, up: bool = True, draft: float = 0.0) -> Made:
    """The same over a flat face that is there already."""
    if length <= 0:
        raise KernelError("The height must be greater than zero.")
    direction = times(flat.frame.normal, 1.0 if up else -1.0)
    if draft == 0.0:
        return _prism(flat, direction, length)
    prism = _prism(flat, direction, length, is_checked=False)
    try:
        return _drafted(prism, flat.frame, direction, draft)
    except KernelError:
        one(prism.solid.shape, _RAISING)  # where the outline itself is at fault, that is what is said
        raise


def extrude_both(region: Region, frame: Frame, above: float, below: float, *, draft: float = 0.0) -> Made:
    """Prism reaching `above` and `below` mm to the two sides of the plane; drafted, it is widest at the plane.

    Roles: `side`, `start` (below), `end` (above); drafted sides below the plane are `under`.
    """
    if draft == 0.0:
        return extrude(region, frame.shifted(-below), above + below)
    upper = extrude(region, frame, above, draft=draft)
    lower = extrude(region, frame, below, up=False, draft=draft)
    whole = boolean.fuse(upper.solid, [lower.solid])
    rename = {"side": "under", "end": "start"}
    below_rows = [tuple(Origin(rename.get(str(o.role), o.role), o.sources) for o in row) for row in lower.origins]
    return traced_to(whole, [upper.origins, below_rows])


def _prism(flat: Profile, direction: Vec, length: float, *, is_checked: bool = True) -> Made:
    maker = BRepPrimAPI_MakePrism(flat.face, gp_Vec(*(c * length for c in direction)), True, True)
    if not maker.IsDone():
        raise KernelError("The outline could not be raised.")
    solid = one(maker.Shape(), _RAISING) if is_checked else Solid(maker.Shape())
    ledger = Ledger([solid])
    for edge, entity in flat.edges:
        for side in each(maker.Generated(edge)):
            ledger.note(side, Origin("side", (entity,)))
    ledger.note(maker.FirstShape(), Origin("start"))
    ledger.note(maker.LastShape(), Origin("end"))
    return ledger.made()[0]


def _drafted(prism: Made, frame: Frame, direction: Vec, draft: float) -> Made:
    if abs(draft) >= math.radians(89):
        raise KernelError("The draft must stay under 89°.")
    maker = BRepOffsetAPI_DraftAngle(prism.solid.shape)
    too_much = KernelError(
        f"{math.degrees(draft):g}° of draft closes the outline before the end.", "Use less draft or less height.", sized=True
    )
    for index, origins in enumerate(prism.origins):
        if any(origin.role == "side" for origin in origins):
            maker.Add(prism.solid.face(index), as_dir(direction), draft, plane(frame))
            if not maker.AddDone():
                raise too_much
    maker.Build()
    if not maker.IsDone():
        raise too_much
    solid = one(maker.Shape(), "drafting the sides")
    volumes = measure.rough_volume(prism.solid), measure.rough_volume(solid)
    if (volumes[1] - volumes[0]) * draft >= 0 or volumes[1] <= 0 or solid.face_count != prism.solid.face_count:
        raise too_much
    ledger = Ledger([solid])
    for index in range(prism.solid.face_count):
        face = prism.solid.face(index)
        origin = Origin(None, (FaceOf(0, index),))
        noted = [ledger.note(s, origin) for s in (*each(maker.Generated(face)), *each(maker.Modified(face)))]
        if not any(noted):
            ledger.note(face, origin)
    return composed(prism, ledger.made()[0])


def _frustum_axis(base: Vec, direction: Vec) -> gp_Ax2:
    return gp_Ax2(as_point(base), as_dir(direction))


def cylinder(base: Vec, direction: Vec, radius: float, length: float) -> Made:
    """Round bar from `base` along `way`: roles `side`, `start`, `end`."""
    return _turned(BRepPrimAPI_MakeCylinder(_frustum_axis(base, direction), radius, length).Shape(), base, direction, length)


def cone(base: Vec, direction: Vec, base_radius: float, end_radius: float, length: float) -> Made:
    """Tapered bar from `base` along `way`: roles `side`, `start`, `end`."""
    if abs(base_radius - end_radius) < 1e-9:
        return cylinder(base, direction, base_radius, length)
    shape = BRepPrimAPI_MakeCone(_frustum_axis(base, direction), base_radius, end_radius, length).Shape()
    return _turned(shape, base, direction, length)


def _turned(shape: object, base: Vec, direction: Vec, length: float) -> Made:
    solid = one(shape, "turning the bar")
    end = along(base, direction, length)
    rows = []
    for index in range(solid.face_count):
        role = "side"
        if measure.is_flat(solid, index):
            middle = measure.face_middle(solid, index)
            role = "start" if math.dist(middle, base) < math.dist(middle, end) else "end"
        rows.append((Origin(role),))
    return Made(solid, tuple(rows))


_BOX_ROLES = ("left", "right", "front", "back", "bottom", "top")


def box(low: Vec, high: Vec) -> Made:
    """Axis-parallel block: roles left/right (x), front/back (y), bottom/top (z)."""
    if any(h - lo <= 0 for lo, h in zip(low, high, strict=True)):
        raise KernelError("The block has no size.")
    solid = one(BRepPrimAPI_MakeBox(as_point(low), as_point(high)).Shape(), "making the block")
    rows = []
    for index in range(solid.face_count):
        normal = measure.flat_frame(solid, index).normal
        axis = max(range(3), key=lambda a: abs(normal[a]))
        rows.append((Origin(_BOX_ROLES[2 * axis + (1 if normal[axis] > 0 else 0)]),))
    return Made(solid, tuple(rows))


def rounded_box(low: Vec, high: Vec, axis: int, radius: float) -> Made:
    """A block from corner to corner with its edges along an axis of the document rounded. Roles as of an extrusion."""
    if radius <= 0:
        return box(low, high)
    a, b = (axis + 1) % 3, (axis + 2) % 3
    if 2 * radius >= min(high[a] - low[a], high[b] - low[b]):
        raise KernelError("The corners are rounder than the block is wide.", "Round them less.", sized=True)
    frame = Frame(times(AXES[axis], low[axis]), AXES[a], AXES[axis])
    ends = ((low[a], low[b], 1, 1), (high[a], low[b], -1, 1), (high[a], high[b], -1, -1), (low[a], high[b], 1, -1))
    sides: list[Curve2] = []
    corners = [((x + u * radius, y + v * radius), (x, y), u, v) for x, y, u, v in ends]
    spots = [((x, c[1]), (c[0], y)) if (u > 0) == (v > 0) else ((c[0], y), (x, c[1])) for c, (x, y), u, v in corners]
    for k, ((centre, _, _, _), (start, end)) in enumerate(zip(corners, spots, strict=True)):
        sides.append(Arc2(f"c{k}", centre, start, end, True))
        sides.append(Line2(f"s{k}", end, spots[(k + 1) % 4][0]))
    return extrude(Region(tuple(sides)), frame, high[axis] - low[axis])


def bar(direction: Vec, up: Vec, length: Span, width: Span, height: Span) -> Made:
    """A block along `way`, which is square to `up`: from and to along `way`, along up × way, and along `up`, mm. Roles as of an
    extrusion: `side`, `start`, `end`.
    """
    aside = across(direction, up)
    corners = [(width[0], height[0]), (width[1], height[0]), (width[1], height[1]), (width[0], height[1])]
    sides = tuple(Line2(f"s{k}", corners[k], corners[(k + 1) % 4]) for k in range(4))
    return extrude(Region(sides), Frame(times(direction, length[0]), aside, direction), length[1] - length[0])


def across(direction: Vec, up: Vec) -> Vec:
    """The direction along which the width of a bar along `way` is measured."""
    return unit(cross(up, direction))
