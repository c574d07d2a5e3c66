"""Ejectors: pins on the core side that push the part off, and the plate they stand on."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, FieldSpec, Length, LengthFromZero, Row
from supplecast.document.step import Step
from supplecast.geometry import Frame, Point2, along, dot, times
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.places import Place, places
from supplecast.steps.tool.steel import bored

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made

_THIN = 2.0  # mm: thinner pins are made stepped (common practice, no source)
_PLATE = 12.0  # mm thick
_RIM = 8.0  # mm of plate round the outermost pins


class Moved(Row):
    """A pin put elsewhere by hand, by its number and its place on the first part."""

    sentence = "pin {number} to {x}, {y}"
    adding = "move a pin"

    number: Annotated[int, Field(ge=1, le=60), FieldSpec("count")] = 1
    x: AnyLength = "0 mm"
    y: AnyLength = "0 mm"


class Ejectors(Step):
    """Round pins where the part is flat and sticks: proposed so that steep faces of the core are near a pin, mirrored on a part
    that mirrors itself; single ones can be moved by hand. Every place of the tool gets the same.

    A bore is a close fit for `guide` mm from the cavity on, with `gap` a side, and wider behind. All pins stand on one plate.
    Example: {"id": "ej10", "type": "ejectors", "count": 8, "diameter": "5"}
    """

    type: Literal["ejectors"] = "ejectors"
    word = "Ejectors"
    purpose = "pins that push the part off the core"
    search = "pins push off knock out"
    follows = "runners"
    picture = ("M4 12h24v4H4z", "M8 12V4M14 12V4M20 12V4M26 12V4M4 18h24v3H4z")
    document_kinds = ("tool",)

    count: Annotated[int, Field(ge=1, le=60), FieldSpec("count")] = 8
    diameter: Length = "4 mm"
    guide: Length = "15 mm"
    gap: LengthFromZero = "0.02 mm"
    relief: LengthFromZero = "0.5 mm"
    clear: LengthFromZero = "3 mm"
    moved: Annotated[tuple[Moved, ...], Field(max_length=60), FieldSpec("rows")] = ()

    def sentence(self) -> str:
        return "Ejectors, {count} for each part, {diameter} wide, guided over {guide} with {gap} a side {moved}{moved.add}"

    def more(self) -> str:
        return "bores {relief} a side wider behind the guide; {clear} from bores and pins"

    def build(self, at: Builder) -> None:
        pair = both(at)
        plane = Frame.lying(times(pair.pull, pair.parting), pair.pull)
        cavities = places(at, plane)
        radius = at.mm("diameter") / 2
        if 2 * radius < _THIN:
            words = f"Pins under {at.in_unit(_THIN)} {at.scope.unit} bend and break"
            at.caution("diameter", f"{words} unless they are stepped and guided all the way (common practice).")
        first = cavities[0]
        spots = self._spots(at, first, pair, plane, radius)
        pins: list[Made] = []
        for place in cavities:
            here = [place.at(first, spot) for spot in spots]
            pins += self._bored(at, place, plane, here, radius)
        self._stand(at, pair, plane, cavities, pins, radius)
        offs = self._clearance(at, pins)
        at.figure("ejectors", len(pins))
        words = ", ".join(f"{n} at {at.in_unit(round(x, 1))}, {at.in_unit(round(y, 1))}" for n, (x, y) in enumerate(spots, 1))
        at.note(f"On the first part: {words}. At least {at.in_unit(round(offs, 2))} {at.scope.unit} from other holes.")
        if offs < at.mm("clear"):
            at.caution(
                "count",
                f"A pin comes within {at.in_unit(round(offs, 2))} of another hole; {at.in_unit(at.mm('clear'))} should stay.",
            )

    def _spots(self, at: Builder, first: Place, pair: Pair, plane: Frame, radius: float) -> list[Point2]:
        skin = molding.judge.skin_of(first.part.body.solid).places
        top = float((skin.whole.corners.reshape(-1, 3) @ list(pair.pull)).max())
        proposed = at.kernel("count", molding.sticking.proposed, skin, pair.pull, radius, self.count, top)
        flat = Frame.lying((0.0, 0.0, 0.0), pair.pull)
        spots = [plane.flat(flat.point(spot)) for spot in proposed]
        if not spots:
            at.fail("diameter", "There is no flat place wide enough for such a pin.", "Use thinner pins.")
        if len(spots) < self.count:
            at.note(f"Room for {len(spots)} pins only.")
        for row, moved in enumerate(self.moved):
            if moved.number > len(spots):
                at.fail(f"moved.{row}.number", f"There is no pin {moved.number}.", f"There are {len(spots)}.")
            x, y = (at.length(f"moved.{row}.{axis}", getattr(moved, axis), "any") for axis in ("x", "y"))
            spots[moved.number - 1] = (x, y)
        return spots

    def _bored(self, at: Builder, place: Place, plane: Frame, spots: list[Point2], radius: float) -> list[Made]:
        """Bores in the steel of one place, and the pins up to its back."""
        up, gap, guide, relief = plane.normal, at.mm("gap"), at.mm("guide"), at.mm("relief")
        far = kernel.measure.beyond(place.part.body.solid, plane.origin)
        back = max(kernel.measure.span(entry.body.solid, up)[1] for entry in place.core) - dot(plane.origin, up)
        tools: list[Made] = []
        pins: list[Made] = []
        for number, spot in enumerate(spots, 1):
            over = plane.point(spot)
            hit = kernel.probing.first_hit(place.part.body.solid, along(over, up, far), times(up, -1.0))
            if hit is None:
                at.fail("moved", f"Pin {number} does not stand on the part.", "Move it over the part.")
            height = far - hit
            foot = along(over, up, height)
            tools.append(kernel.solid.cylinder(along(foot, up, -0.2), up, radius + gap, guide + 0.2))
            tools.append(kernel.solid.cylinder(along(foot, up, guide), up, radius + gap + relief, back - height - guide + 1.0))
            pins.append(kernel.solid.cylinder(foot, up, radius, back - height + 0.5))
        bored(at, "diameter", place.core, [at.named(tool).labelled(str(k)) for k, tool in enumerate(tools, 1)])
        return pins

    def _stand(self, at: Builder, pair: Pair, plane: Frame, cavities: list[Place], pins: list[Made], radius: float) -> None:
        """One body of all pins and the plate behind the core side that they stand on."""
        axis = pair.axis
        boxes = [kernel.measure.loose_box(pin.solid) for pin in pins]
        low = [min(b.low[k] for b in boxes) - _RIM for k in range(3)]
        high = [max(b.high[k] for b in boxes) + _RIM for k in range(3)]
        top = max(kernel.measure.span(e.body.solid, pair.pull)[1] for place in cavities for e in place.core)
        back = top * pair.pull[axis]
        ends = (back, back + pair.pull[axis] * _PLATE)
        low[axis], high[axis] = min(ends), max(ends)
        plate = kernel.solid.box((low[0], low[1], low[2]), (high[0], high[1], high[2]))
        made = at.kernel("diameter", kernel.boolean.fuse, plate.solid, [pin.solid for pin in pins], simplify=False)
        named = [at.named(pin).labelled(f"pin {k}") for k, pin in enumerate(pins, 1)]
        at.new(at.named(made, at.named(plate), *named), "ejector", "Ejectors", pull=pair.pull)

    def _clearance(self, at: Builder, pins: list[Made]) -> float:
        """The least distance between a pin and another, or what else runs through the core side."""
        solids = [pin.solid for pin in pins]
        feeds = [e.body.solid for e in at.bodies() if e.role == "feed"]
        least = kernel.probing.nearest_of(solids, feeds)
        for number, pin in enumerate(solids):
            least = min(least, kernel.probing.nearest_of([pin], solids[number + 1 :]))
        return least
