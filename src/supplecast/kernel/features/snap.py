"""Snap hooks and the slots they snap into, as outlines seen from the side.

A hook stands in a `foot` frame: its origin is the middle of the beam's front at the foot, its normal the way the beam goes, its
x the way the hook points. The beam lies behind its front, towards −x; the head stands out before it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from supplecast.curves import Line2, Region
from supplecast.geometry import Frame, Point2, along, cross, times
from supplecast.kernel.features.attached_features import PAST
from supplecast.kernel.features.rib import Web
from supplecast.kernel.shapes.history import Made, Origin
from supplecast.kernel.verbs import solid


@dataclass(frozen=True)
class Hook:
    """Sizes in mm and rad: beam length up to the catch, thickness at its root and at its end, width, undercut, the angles of
    the lead-in and of the catch against the way the hook moves out (90° for a catch that holds for good).
    """

    length: float
    thickness: float
    end: float
    width: float
    undercut: float
    lead: float
    catch: float

    @property
    def rise(self) -> float:
        """How much higher the catch is at its edge than at the beam."""
        return self.undercut / math.tan(self.catch) if self.catch < math.radians(89.9) else 0.0

    @property
    def head(self) -> float:
        """How high the head is over the catch's edge."""
        return 0.3 * self.undercut + self.undercut / math.tan(self.lead)


def hook(foot: Frame, size: Hook, reach: float) -> Web:
    """A hook that runs down past its foot, to be settled on what is there. Faces are told by what they do."""
    top = size.length + size.rise + size.head
    corners: list[tuple[str, Point2]] = [
        ("front", (0.0, -reach)),
        ("catch", (0.0, size.length)),
        ("edge", (size.undercut, size.length + size.rise)),
        ("lead", (size.undercut, size.length + size.rise + 0.3 * size.undercut)),
        ("top", (0.0, top)),
        ("back", (-size.end, top)),
        ("root", (-size.thickness, 0.0)),
        ("past foot", (-size.thickness, -reach)),
    ]
    made = _extruded(foot, corners, size.width)
    return Web(
        made, (along(along(foot.origin, foot.normal, 0.5 * size.length), foot.x, -0.25 * size.end),), times(foot.normal, -1.0)
    )


def slot(foot: Frame, size: Hook, room: float, through: float) -> Made:
    """The space of a slot: round the head with `room` mm to all sides but at the catch, `through` mm deep from the front."""
    low = size.length
    high = size.length + size.rise + size.head + room
    corners: list[tuple[str, Point2]] = [
        ("floor", (-room, low)),
        ("far", (through, low)),
        ("roof", (through, high)),
        ("mouth", (-room, high)),
    ]
    return _extruded(foot, corners, size.width + 2 * room)


def _extruded(foot: Frame, corners: list[tuple[str, Point2]], width: float) -> Made:
    """An outline in the plane of the hook's x and its way up, drawn to both sides of it; told by the names of its sides."""
    across = cross(foot.x, foot.normal)
    plane = Frame(along(foot.origin, across, -width / 2), foot.x, across)
    points = [p for _, p in corners]  # the plane's y is its normal × x, which is the way up
    pairs = zip(corners, [*points[1:], points[0]], strict=True)
    region = Region(tuple(Line2(name, a, b) for (name, a), b in pairs if math.dist(a, b) > 1e-9))
    made = solid.extrude(region, plane, width)
    rows = []
    for row in made.origins:
        origin = row[0]
        name = str(origin.sources[0]) if origin.sources else {"start": "left", "end": "right"}[str(origin.role)]
        rows.append((Origin(name if not name.startswith("past") else PAST + name[5:]),))
    return Made(made.solid, tuple(rows))
