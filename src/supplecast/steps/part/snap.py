"""Snap hook and slot: a cantilever that springs over an edge, and the slot that holds it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.drilling import places
from supplecast.document.fields import (
    Angle,
    AxisField,
    AxisPick,
    BodyPick,
    Length,
    LengthFromZero,
    PlaneField,
    PlanePick,
    SketchPick,
    Spots,
)
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame, Vec, dot, subtract, times, unit
from supplecast.naming import Body
from supplecast.naming.tag import maker, role
from supplecast.tooling import snaps


class Snap(Step):
    """Hooks that stand on a body at picked points and, if a `mate` is given, their slots in another body.

    The foot of the beam lies in a plane, the middle of its front at the point; the hook points along an axis. `length` is from
    the foot to the catch, `undercut` how far the head stands out, and so how far the beam must bend: the strain at its root is
    shown against what the resin bears. The slot has `room` on all sides but at the catch.
    Example: {"id": "sn1", "type": "snap", "level": {"face": "p81.end"}, "sketch": "k3f", "toward": {"axis": "x"}}
    """

    type: Literal["snap"] = "snap"
    word = "Snap hook"
    purpose = "hooks that spring in, and their slots"
    search = "clip latch catch hook cantilever"
    follows = "intersect"
    picture = ("M4 21h12M22 21V4h6v17", "M8 21V6l7 3-4 2v10M22 9h6")
    suits = ("faces", "edges")

    level: PlaneField = PlanePick(plane="top")
    spots: Spots = ()
    sketch: SketchPick = None
    toward: AxisField = AxisPick(axis="x")
    sense: Literal["along it", "against it"] = "along it"
    length: Length = "10 mm"
    thickness: Length = "1.5 mm"
    taper: Literal["of one thickness", "tapered to half"] = "tapered to half"
    width: Length = "5 mm"
    undercut: Length = "1 mm"
    lead: Angle = "30"
    catch: Angle = "90"
    root: LengthFromZero = "0.5 mm"
    body: BodyPick = None
    mate: BodyPick = None
    room: Length = "0.2 mm"
    deep: Literal["through the wall", "to a depth"] = "to a depth"
    depth: Length = "1.5 mm"

    def sentence(self) -> str:
        deep = "" if self.mate is None else ", slot in {mate} {deep}" + (" of {depth}" if self.deep == "to a depth" else "")
        deep += "" if self.mate is None else " with {room} of room"
        spots = " and {spots}" if self.spots or self.sketch is None else ""
        return (
            "Snap hook {length} long, {thickness} thick {taper}, {width} wide, undercut {undercut}, foot in {level}, "
            f"at {{sketch}}{spots}, pointing {{sense}} {{toward}}, on {{body}}{deep}"
        )

    def more(self) -> str:
        mate = "; slot in {mate}" if self.mate is None else ""
        mate += "" if self.spots or self.sketch is None else "; also at {spots}"
        return f"lead-in at {{lead}}, catch at {{catch}}; root rounded {{root}}{mate}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        sketch = next((step.id for step in reversed(before.steps) if step.type == "sketch"), None)
        return {"sketch": sketch, **({"level": face} if face else {})}

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        plane = at.frame("level")
        size = self._size(at)
        direction = self._direction(at, plane)
        hooks: list[Body] = []
        feet: list[tuple[str, Frame]] = []
        for label, place in places(self, at, plane).items():
            foot = Frame(place, direction, plane.normal)
            feet.append((label, foot))
            web = kernel.snap.hook(foot, size, kernel.measure.beyond(entry.body.solid, place))
            pieces = at.kernel("level", kernel.attached_features.settled, entry.body.solid, web.made, web.marks)
            if not pieces:
                words = f"The hook does not land on {entry.name}: its foot lies in it, or past it."
                at.fail("level", words, "Move its point over the body, or lower its plane to it.")
            hooks.append(at.named(pieces[0], entry.body).labelled(label))
        made = at.kernel("thickness", kernel.boolean.fuse, entry.body.solid, [hook.solid for hook in hooks])
        at.replace(entry, self._rounded(at, at.named(made, entry.body, *hooks)))
        self._strained(at, size)
        if self.mate is not None:
            self._slotted(at, entry, size, feet)

    def _size(self, at: Builder) -> kernel.snap.Hook:
        thickness, undercut = at.mm("thickness"), at.mm("undercut")
        length = at.mm("length")
        if length < 2 * thickness:
            at.fail("length", "A beam shorter than twice its thickness does not bend like one.", "Make it longer or thinner.")
        end = thickness / 2 if self.taper == "tapered to half" else thickness
        return kernel.snap.Hook(
            length, thickness, end, at.mm("width"), undercut, at.radians("lead", 10.0, 80.0), at.radians("catch", 20.0, 90.0)
        )

    def _direction(self, at: Builder, plane: Frame) -> Vec:
        """The direction the hook points to, laid into its plane."""
        direction = at.axis("toward").direction
        flat = subtract(direction, times(plane.normal, dot(direction, plane.normal)))
        if math.dist(flat, (0.0, 0.0, 0.0)) < 0.1:
            at.fail("toward", "The axis stands square on the plane of the foot.", "Pick one that lies along it.")
        return times(unit(flat), 1.0 if self.sense == "along it" else -1.0)

    def _rounded(self, at: Builder, whole: Body) -> Body:
        """The beam's root rounded, where strain is highest."""
        radius = at.mm("root")
        if radius <= 0:
            return whole
        added = [f for f, tags in enumerate(whole.tags) if maker(tags[0]) == self.id]
        flanks = [f for f in added if role(whole.tags[f][0]) in ("front", "back", "root")]
        edges = kernel.attached_features.root_edges(whole.solid, flanks, added)
        return at.named(at.kernel("root", kernel.blend.fillet, whole.solid, edges, radius), whole) if edges else whole

    def _strained(self, at: Builder, size: kernel.snap.Hook) -> None:
        tapered = self.taper == "tapered to half"
        strain = snaps.strain(size.length, size.thickness, size.undercut, tapered=tapered)
        most = snaps.permissible(at.resin)
        over = "" if strain <= most else f", over {most:.1%}"
        at.reading(f"strain {strain:.1%}{over}", strain, most)
        if strain > most:
            fits = snaps.largest_thickness(size.length, size.undercut, most, tapered=tapered)
            at.note(f"{at.in_unit(math.floor(fits * 100) / 100)} thick would do, or a longer beam.")

    def _slotted(self, at: Builder, entry: Entry, size: kernel.snap.Hook, feet: Sequence[tuple[str, Frame]]) -> None:
        mate = at.target(self.mate, "mate")
        if mate.id == entry.id:
            at.fail("mate", "A hook's slot is in another body.", "Pick the body it snaps into.")
        room = at.mm("room")
        depth = size.undercut + room if self.deep == "to a depth" and at.mm("depth") < size.undercut + room else at.mm("depth")
        if self.deep == "through the wall":
            depth = kernel.measure.beyond(mate.body.solid, feet[0][1].origin)
        slots = [at.named(kernel.snap.slot(foot, size, room, depth)).labelled(f"{label}.slot") for label, foot in feet]
        made = at.kernel("mate", kernel.boolean.cut, mate.body.solid, [slot.solid for slot in slots])[0]
        at.replace(mate, at.named(made, mate.body, *slots))
