"""Nest: room in a body for others that it holds."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Any, Literal

from supplecast import kernel
from supplecast.document import clearing
from supplecast.document.builder import Builder
from supplecast.document.fields import AxisField, AxisPick, BodyId, BodyPick, BodyPicks, Faces, FieldSpec, LengthFromZero
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.expressions import is_nothing
from supplecast.geometry import Vec, times
from supplecast.wording import show

if TYPE_CHECKING:
    from supplecast.kernel.features.nest import Room

_SPARE = 0.01  # of the held body: less than that is not told of
Within = Annotated[BodyId | None, FieldSpec("body", blank="its own outside")]


class Nest(Step):
    """Make room in a `body` for others that it holds, with a `gap` all round: closed, or open along a `way` by which they come
    in, undercuts along it filled and said. Their convex edges are `rounded` about by the gap, or kept `sharp`; edges `of flats`
    are by triangles, no nearer than the gap and a little more in places, as round any mesh.

    Held bodies are `taken` as they are, without what is hollow in them, or `without` some of their faces. A `wall` of that
    thickness is grown about them where they lie inside the body's outside, or inside another body `within`, and rounded by
    `root` where it stands on the body.
    Example: {"id": "n1", "type": "nest", "body": "p81", "tools": ["beam"], "gap": "0.3 mm", "opening": "open along"}
    """

    type: Literal["nest"] = "nest"
    word = "Nest"
    purpose = "room for a body it holds"
    search = "pocket cavity clearance gap seat holder cradle hold grip insert battery wall around"
    follows = "subtract"
    picture = ("M3 10h5v6h16v-6h5v10H3z", "M10 3h12v11H10z")

    body: BodyPick = None
    tools: BodyPicks = ()
    taken: Literal["as they are", "only their outside", "without some faces"] = "as they are"
    without: Faces = ()
    gap: LengthFromZero = "0.3 mm"
    corners: Literal["rounded", "sharp", "of flats"] = "rounded"
    opening: Literal["closed round", "open along"] = "closed round"
    way: AxisField = AxisPick(axis="z")
    facing: Literal["ahead", "back"] = "ahead"
    wall: LengthFromZero = "0 mm"
    within: Within = None
    root: LengthFromZero = "0 mm"
    keep: Literal["use up", "keep"] = "keep"

    def sentence(self) -> str:
        without = " {without}" if self.taken == "without some faces" else ""
        way = " {way} {facing}" if self.opening == "open along" else ""
        wall = " inside {within}, its root rounded {root}" if not is_nothing(self.wall) else ""
        return (
            f"Nest {{tools}} {{taken}}{without} in {{body}}, gap {{gap}} with edges {{corners}}, {{opening}}{way}; "
            f"wall about them {{wall}}{wall}; {{keep}} the former"
        )

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return before.pair(picked)

    def build(self, at: Builder) -> None:
        entry = at.target(self.body)
        held = at.tools("tools", entry, "that it is to hold")
        way = self._way(at)
        rooms = [self._room(at, entry, tool, way) for tool in held]
        within = at.body(self.within, "within").body.solid if self.within else None
        made = at.kernel("tools", kernel.nest.nested, entry.body.solid, rooms, within, at.mm("root"))
        at.replace(entry, at.named(made, entry.body, *(tool.body for tool in held)))
        at.spend(held, self.keep == "keep")

    def _way(self, at: Builder) -> Vec | None:
        if self.opening == "closed round":
            return None
        return times(at.axis("way").direction, 1.0 if self.facing == "ahead" else -1.0)

    def _room(self, at: Builder, entry: Entry, held: Entry, way: Vec | None) -> Room:
        without: tuple[int, ...] = ()
        if self.taken == "without some faces":
            if len(self.tools) > 1:
                at.fail("without", "Faces can be left out of one body only.", "Nest the others in a step of their own.")
            at.need_picks("without", f"Pick the faces of {held.name} that are not wanted.")
            without = tuple(at.faces("without", held))
        fit = kernel.nest.Fit(at.mm("gap"), self.corners, way, self.taken, without)
        room = at.kernel("gap", kernel.nest.room, held.body.solid, entry.body.solid, fit, at.mm("wall"))
        if self.taken == "only their outside" and not room.simpler:
            at.note(f"{held.name} has no holes and no hollow: all of it is held.")
        if room.flats:
            clearing.tell(at, held, room.flats, at.mm("gap"), self.corners)
        if room.spare > _SPARE * kernel.measure.handy_volume(held.body.solid):
            cm3 = show(room.spare / 1000)
            at.note(f"{held.name} has undercuts along this way: {cm3} cm³ of the way in is open for them only.")
        return room
