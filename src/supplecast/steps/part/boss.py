"""Boss: posts for screws, standing on the body."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal

from pydantic import Field

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.drilling import places
from supplecast.document.fields import Faces, FieldSpec, Length, LengthFromZero, PlaneField, PlanePick, SketchPick, Spots
from supplecast.document.standing import Standing
from supplecast.document.state import Entry
from supplecast.document.step import Before
from supplecast.geometry import Frame, Vec, along, subtract
from supplecast.naming import Body
from supplecast.tooling.bosses import BossSize, ScrewSize, boss_for

_TIE_DROP = 0.15  # how far under the boss's top its tie to the wall stays, as a share of its height


class Boss(Standing):
    """Round posts from a plane down to whatever is there, at the points of a sketch and at picked points, with a pilot hole.

    With a face picked in `up_to`, flat or curved, each post ends on that face carried on instead, and takes its shape;
    `level` then only says where its points lie and which way it stands.

    The diameters are those at the top: typed, or what a thread-forming screw of a size needs in the document's resin. The
    pilot is cored down to a `floor` that is left under it, so that no thick spot stays, or to a `depth`. `gussets` are
    webs round the boss that slope to the body; `tied` runs a web from it to the nearest wall. `root` rounds the post's foot.
    Example: {"id": "bo1", "type": "boss", "screw": "3", "level": {"plane": "top", "offset": "-8 mm"}, "sketch": "k3f"}
    """

    type: Literal["boss"] = "boss"
    word = "Boss"
    purpose = "posts for screws, with pilot and gussets"
    search = "screw post stud dome pilot pillar"
    follows = "union"
    picture = ("M3 18h26v4H3z", "M11 18V6h10v12M14 6v9h4V6M11 10l-5 8M21 10l5 8")
    suits = ("faces", "edges")

    level: PlaneField = PlanePick(plane="top")
    up_to: Faces = ()
    spots: Spots = ()
    sketch: SketchPick = None
    sized: Literal["for a screw", "by diameters"] = "for a screw"
    screw: ScrewSize = "3"
    outer: Length = "6 mm"
    pilot: LengthFromZero = "2.4 mm"
    deep: Literal["leaving a floor", "to a depth"] = "leaving a floor"
    floor: Length = "1.5 mm"
    depth: Length = "8 mm"
    gussets: Annotated[int, Field(ge=0, le=8), FieldSpec("count")] = 0
    gusset_height: Length = "5 mm"
    gusset_length: Length = "4 mm"
    tied: Literal["free-standing", "tied to the nearest wall"] = "free-standing"
    web: Length = "1.2 mm"

    def sentence(self) -> str:
        size = {"for a screw": "{sized} of {screw} mm", "by diameters": "{sized} {outer} outside and {pilot} inside"}[
            self.sized
        ]
        deep = "{deep} of {floor}" if self.deep == "leaving a floor" else "{deep} of {depth}"
        spots = " and {spots}" if self.spots or self.sketch is None else ""
        webs = ", {gussets} gussets {gusset_height} high, {gusset_length} long" if self.gussets else ""
        webs += ", {tied}" if self._is_tied else ""
        webs += ", webs {web} thick" if self.gussets or self._is_tied else ""
        level = "up to {up_to}, over {level}" if self.up_to else "top at {level}"
        where = f"{level}, at {{sketch}}{spots}"
        return f"Boss {size}, cored {deep}, {where}{webs}, root rounded {{root}}, on {{body}}{{also}}"

    def more(self) -> str:
        webs = "" if self.gussets else "; {gussets} gussets"
        webs += "" if self._is_tied else "; {tied}"
        spots = "" if self.spots or self.sketch is None else "; also at {spots}"
        up_to = "" if self.up_to else "; up to a face: {up_to}"
        return f"draft {{draft}}{webs}{spots}{up_to}"

    @property
    def _is_tied(self) -> bool:
        return self.tied != "free-standing"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        spots = [{**pick, "at": "centre"} for pick in picked if "edge" in pick]
        sketch = next((step for step in reversed(before.steps) if step.type == "sketch"), None)
        if spots or sketch is None:
            return {"spots": spots, **cls.leaning(before)}
        level = sketch.held("on").model_dump(exclude_none=True, exclude_defaults=True)
        return {"sketch": sketch.id, "level": level, **cls.leaning(before)}

    def build(self, at: Builder) -> None:
        entry = at.body(self.body)
        plane = at.frame("level")
        spots = places(self, at, plane)
        size = boss_for(self.screw, at.resin) if self.sized == "for a screw" else BossSize(at.mm("outer"), at.mm("pilot"))
        if size.pilot >= size.outer:
            at.fail("pilot", "The pilot is as wide as the boss.", "Make it narrower.")
        if self.sized == "for a screw":
            at.note(f"{at.in_unit(size.outer)} outside, pilot {at.in_unit(size.pilot)}.")
        if self.sized == "by diameters" and spots:
            spot = next(iter(spots.values()))
            at.handle("outer", spot, plane.x, rate=0.5)
        draft = at.radians("draft", 0.0, 30.0)
        pieces: list[Body] = []
        pilots: list[Body] = []
        shares: list[tuple[float, float]] = []
        units: dict[tuple[float, Vec, bool], tuple[kernel.rib.Web, Vec]] = {}
        stop = self._stop(at, size) if self.up_to else None
        for label, spot in spots.items():
            place = spot if stop is None else at.kernel("up_to", stop.over, Frame(spot, plane.x, plane.normal))
            top, down, under = at.kernel("level", kernel.boss.towards, entry.body.solid, Frame(place, plane.x, plane.normal))
            post = None
            # One that ends within the wall under it meets less than one that surely passes the body, which is tried if need be.
            for reach in self._reaches(entry, top, down, under, stop):
                alike = (round(down, 6), top.normal, reach < down + (under or 0.0))
                if alike not in units:
                    units[alike] = self._unit(at, top, size, down, reach, stop), place
                unit, first = units[alike]
                post = self._settled(at, entry, kernel.boss.shifted(unit, subtract(place, first)), label, stop)
                if post is not None:
                    break
            if post is None:
                also = " with its gussets" if self.gussets else ""
                at.fail(
                    "level",
                    f"The boss{also} does not land on {entry.name}: it runs past it, or begins inside it.",
                    "Raise or lower its top, or move its point over the body.",
                )
            pieces.append(post)
            if self._is_tied:
                pieces.append(self._tie(at, entry, top, down, label))
            if size.pilot:
                pilots.append(self._pilot(at, entry, top, size, down, under, draft, stop).labelled(label))
            if under is not None:
                shares.append(((size.outer - size.pilot) / 2 + down * math.tan(draft), under))
        if shares:
            root, wall = max(shares, key=lambda pair: pair[0] / pair[1])
            self.held_to_wall(at, root, wall, "its wall ")
        self.stand(at, pieces, "outer", ("side",), pilots)

    def _reaches(
        self, entry: Entry, top: Frame, down: float, under: float | None, stop: kernel.boss.Stop | None
    ) -> Iterator[float]:
        """How long posts are made, in the order in which they are tried, mm."""
        if under is not None and stop is None and not self.gussets:
            yield down + under / 2
        yield kernel.measure.beyond(entry.body.solid, top.origin)

    def _shape(self, at: Builder, reach: float) -> kernel.rib.Shape:
        """Of post and webs."""
        return kernel.rib.Shape(at.mm("web"), "middle", at.radians("draft", 0.0, 30.0), reach)

    def _stop(self, at: Builder, size: BossSize) -> kernel.boss.Stop:
        ended, face = at.only_face("up_to", "Pick the one face at which the bosses end.")
        return kernel.boss.Stop(ended.body.solid, face, 1.5 * size.outer)

    def _unit(
        self, at: Builder, top: Frame, size: BossSize, down: float, reach: float, stop: kernel.boss.Stop | None
    ) -> kernel.rib.Web:
        """A post and its gussets, as one, before they are settled; the same for all bosses of a height."""
        shape = self._shape(at, reach)
        spare = stop.spare if stop else 0.0
        post = at.kernel("draft", kernel.boss.post, top, size.outer / 2, shape.draft, shape.reach, spare)
        if not self.gussets:
            return post
        height = at.mm("gusset_height")
        if height > down:
            at.fail("gusset_height", f"The gussets are higher than the boss, {at.in_unit(round(down, 3))}.", "Type less.")
        gusset = kernel.boss.Gusset(down - height, height, at.mm("gusset_length"))
        return at.kernel("web", kernel.boss.with_gussets, post, top, size.outer / 2, gusset, self.gussets, shape)

    def _tie(self, at: Builder, entry: Entry, top: Frame, down: float, label: str) -> Body:
        wall = at.kernel("tied", kernel.boss.nearest_wall, entry.body.solid, top, down / 2)
        if wall is None:
            at.fail("tied", "There is no wall around the boss.", "Leave it free-standing, or draw a rib.")
        shape = self._shape(at, kernel.measure.beyond(entry.body.solid, top.origin))
        web = at.kernel("web", kernel.boss.tie, top, down * _TIE_DROP, *wall, shape)
        made = self._settled(at, entry, web, f"{label}.tie")
        if made is None:
            at.fail("tied", f"The web to the wall does not land on {entry.name} all along.", "Draw a rib there instead.")
        return made

    def _settled(
        self, at: Builder, entry: Entry, web: kernel.rib.Web, label: str, stop: kernel.boss.Stop | None = None
    ) -> Body | None:
        """A post, or a web beside one, as it lands on the body and, where there is a stop, ends at that."""
        pieces = at.kernel("level", kernel.attached_features.settled, entry.body.solid, web.made, web.marks)
        if not pieces:
            return None
        made = at.kernel("up_to", stop.ended, pieces[0]) if stop else pieces[0]
        return at.named(made, entry.body).labelled(label)

    def _pilot(
        self,
        at: Builder,
        entry: Entry,
        top: Frame,
        size: BossSize,
        down: float,
        under: float | None,
        draft: float,
        stop: kernel.boss.Stop | None,
    ) -> Body:
        spare = stop.spare if stop else 0.0
        above = kernel.probing.first_hit(entry.body.solid, along(top.origin, top.normal, kernel.boss.MARK), top.normal)
        if spare and above is not None and above < spare:
            at.fail("pilot", "The boss ends against the body, so that its pilot has no mouth.", "Set the pilot to 0.")
        if self.deep == "to a depth":
            depth = at.mm("depth")
            if under is not None and depth >= down + under:
                whole = at.in_unit(round(down + under, 3))
                at.fail("depth", f"The pilot goes through the wall: it is only {whole} deep there.", "Type less.")
            at.figure("solid foot", max(down - depth, at.figures.get("solid foot", 0.0)))
        else:
            depth = down + (under or 0.0) - at.mm("floor")
            if depth <= 0:
                whole = at.in_unit(round(down + (under or 0.0), 3))
                at.fail("floor", f"No pilot is left: the boss and the wall are {whole} high.", "Type less.")
        return at.named(at.kernel("pilot", kernel.boss.pilot, top, size.pilot / 2, draft, depth, spare))
