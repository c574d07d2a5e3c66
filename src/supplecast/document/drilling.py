"""What all holes have in common: where they are, how deep, and that they are cut all at once."""

from __future__ import annotations

import hashlib
import itertools
import math
from collections.abc import Sequence
from typing import Any, Literal, NamedTuple

from supplecast import kernel
from supplecast.curves import Circle2, Line2, Region
from supplecast.document.builder import Builder
from supplecast.document.fields import Length, PlaneField, PlanePick, SketchPick, Spots
from supplecast.document.shaping import Shaping
from supplecast.document.step import Before, Step
from supplecast.geometry import STANDARD_PLANES, Frame, Vec, along, times


class Ring(NamedTuple):
    """A stretch of a hole: its diameter where it begins and where it ends, and how far from the mouth that is, mm."""

    name: str
    upper: float
    lower: float
    reach: float = 0.0


class Drilling(Shaping):
    """Round holes from a plane or face downwards, at picked points and at the points of a sketch (or, if it has none, the
    centres of its circles), dropped squarely onto the plane.
    """

    result: Literal["cut"] = "cut"
    into: PlaneField = PlanePick(plane="top")
    spots: Spots = ()
    sketch: SketchPick = None
    deep: Literal["through", "to a depth"] = "through"
    depth: Length = "5 mm"

    def where(self) -> str:
        """The end of the sentence: how deep, and where."""
        deep = "{deep}" if self.deep == "through" else "{deep} of {depth}"
        return f"{deep} into {{into}}, at {{sketch}} and {{spots}}, from {{body}}{{also}}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        spots = [{**pick, "at": "centre"} for pick in picked if "edge" in pick]
        sketch = next((step.id for step in reversed(before.steps) if step.type == "sketch"), None)
        return {"into": face or {"plane": "top"}, **({"spots": spots} if spots else {"sketch": sketch})}

    def drill(self, at: Builder, field: str, rings: Sequence[Ring]) -> None:
        """Cut holes of the given `rings`: from the mouth inwards, each a name, the diameter at its upper and lower end, and how
        deep it reaches in mm; the last one goes to the hole's depth.
        """
        targets = self.targets(at)
        plane = at.frame("into")
        spots = places(self, at, plane)
        if self.deep == "through":
            depth = max(kernel.measure.beyond(entry.body.solid, plane.origin) for entry in targets)
        else:
            depth = at.mm("depth")
        if spots:
            spot = next(iter(spots.values()))
            if field == "diameter":
                at.handle(field, spot, plane.x, rate=0.5)
            if self.deep == "to a depth":
                at.handle("depth", spot, times(plane.normal, -1.0))
        inner = [ring.reach for ring in rings[:-1]]
        if inner and depth <= max(inner):
            words = f"{at.in_unit(depth)} is no deeper than the head of the screw, {at.in_unit(max(inner))}."
            at.fail("depth", words, "Type a larger depth.")
        # A plain hole that goes through does so wherever its plane lies.
        plain = self.deep == "through" and len(rings) == 1
        one = at.kernel(field, _bore, rings, depth, -depth if plain else 0.0)
        tools = []
        for label, place in spots.items():
            motion = kernel.move.seat(Frame(), Frame(place, plane.x, times(plane.normal, -1.0)))
            named = at.named(at.kernel(field, kernel.move.carried, one, motion))
            tools.append(("", named.labelled(label)))
        self.combine(at, targets, tools, "into")


def places(step: Step, at: Builder, plane: Frame) -> dict[str, Vec]:
    """Where a step that has `sketch` and `spots` is to do something, dropped squarely onto a plane, by a lasting label each."""
    labelled: dict[str, Vec] = {}
    sketch_id: str | None = step.held("sketch")
    if sketch_id is not None:
        sketch = at.sketch(sketch_id, "sketch")
        centres = {c.entity: c.centre for c in sketch.curves if isinstance(c, Circle2)}
        for name, mark in (sketch.marks or centres).items():
            labelled[name] = sketch.frame.point(mark)
    # Named by what is picked, not by its number: a pick taken out must not pass its name on to the next.
    labels = [hashlib.sha256(pick.model_dump_json().encode()).hexdigest()[:8] for pick in step.held("spots")]
    labelled |= zip(labels, at.spots("spots"), strict=True)
    if not labelled:
        at.fail("spots", "No point is picked.", "Pick round edges or corners, or draw points in a sketch and choose it.")
    dropped = {label: along(p, plane.normal, -plane.over(p)) for label, p in labelled.items()}
    close = any(math.dist(a, b) < 1e-6 for a, b in itertools.combinations(dropped.values(), 2))
    if close or len(set(labels)) < len(labels):
        at.fail("spots", "Two of them stand in the same place.", "Take one of the points out.")
    return dropped


def _bore(rings: Sequence[Ring], depth: float, mouth: float) -> kernel.history.Made:
    """The space of one hole that goes down along z from `mouth`: its outline turned about z."""
    points: list[tuple[str, float, float]] = [("mouth", rings[0].upper / 2, mouth)]
    for number, ring in enumerate(rings):
        above = points[-1][2]
        points.append((f"{ring.name} seat", ring.upper / 2, above))
        points.append((ring.name, ring.lower / 2, depth if number == len(rings) - 1 else ring.reach))
    points.append(("floor", 0.0, depth))
    corners = [(0.0, mouth), *((r, z) for _, r, z in points), (0.0, mouth)]
    names = [*(name for name, _, _ in points), "axis"]
    lines = [Line2(name, a, b) for name, a, b in zip(names, corners, corners[1:], strict=False) if math.dist(a, b) > 1e-9]
    front = STANDARD_PLANES["front"]
    # In the front plane x goes out and y up: turned about its y, the outline is the hole.
    return kernel.revolve.revolve(Region(tuple(lines)), front, (0.0, 0.0), (0.0, 1.0))
