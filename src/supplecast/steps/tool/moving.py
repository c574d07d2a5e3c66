"""What the bodies of a tool do as it opens: which leave together, which are drawn, and what a third plate takes along."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from supplecast import kernel
from supplecast.document.state import PARTS, SLIDES, Entry, Role
from supplecast.geometry import Vec
from supplecast.naming.tag import in_role
from supplecast.steps.tool.between import RUNNER_PLATE

PUSHING: tuple[Role, ...] = ("ejector", "ejection", "stripper")
"""What goes with the ejector plates, but for lifters, which go sideways too."""
_CORE: tuple[Role, ...] = ("core", "core insert", "core pin")
_CAVITY: tuple[Role, ...] = ("cavity", "cavity insert")
BESIDE = 0.1
"""Mm between bodies that touch."""
SHORT = 1.0
"""Mm before the ejector plates come up against the support."""


@dataclass(frozen=True)
class Tool:
    """The bodies of a tool by what they do as it opens."""

    bodies: Sequence[Entry]

    def of(self, *roles: Role) -> list[Entry]:
        return [e for e in self.bodies if e.role in roles]

    @cached_property
    def core(self) -> list[Entry]:
        return self.of(*_CORE)

    @cached_property
    def cavity(self) -> list[Entry]:
        return self.of(*_CAVITY)

    @cached_property
    def parts(self) -> list[Entry]:
        return self.of(*PARTS)

    @cached_property
    def drawn(self) -> list[Entry]:
        """Slides that nothing locks and no pin draws: cylinders draw them first."""
        slides = [e for e in self.of(*SLIDES) if not any(in_role(tags, "lock") for tags in e.body.tags)]
        return [e for e in slides if self.pin_of(e) is None]

    @cached_property
    def riding(self) -> list[Entry]:
        """Slides that go with the core half, and leave once the cavity half's wedges are off them."""
        return [e for e in self.of("core slide") if e not in self.drawn]

    @cached_property
    def lifters(self) -> list[Entry]:
        """Rods that go with the ejector plates, and sideways."""
        return self.of("lifter")

    @cached_property
    def gibs(self) -> list[Entry]:
        """What slides on the core half are led by."""
        return [e for e in self.of("moving base") if e.stock and e.stock.kind == "Gib"]

    @cached_property
    def held(self) -> list[Entry]:
        """Slides in the cavity half that the core half's wedges hold until it has left."""
        return [e for e in self.of("slide") if e not in self.drawn]

    def pin_of(self, slide: Entry) -> Entry | None:
        """The angle pin that draws a slide, if one does."""
        pins = (e for e in self.of("fixed base") if e.stock and e.stock.kind == "Angle pin")
        return next((e for e in pins if kernel.nearness.boxes_apart(e.body.solid, slide.body.solid) <= 0), None)

    @cached_property
    def runner_plate(self) -> Entry | None:
        """The plate that runners behind the cavity plate lie on, where a mold base lets them open."""
        based = any(e.stock and e.stock.kind == "Puller bolt" for e in self.of("fixed base"))
        plates = (e for e in self.of("fixed base") if e.stock and e.stock.kind == RUNNER_PLATE)
        return next(plates, None) if based and self.of("feed") else None

    def level(self, bodies: Sequence[Entry]) -> tuple[float, float]:
        """From where to where some bodies reach along the pull."""
        spans = [kernel.measure.span(e.body.solid, self.pull) for e in bodies]
        return min(low for low, _ in spans), max(high for _, high in spans)

    @property
    def feed_long(self) -> float:
        """How far a feed from behind reaches into the cavity side, mm."""
        return self.level(self.of("feed"))[1] - self.level(self.cavity)[0]

    def before_runners(self, floats: Sequence[Entry]) -> list[Entry]:
        """What leaves the runners of a third plate first: all that is before them, with what `floats` of the fixed side."""
        return [*self.core, *self.of("moving base", *PUSHING), *self.cavity, *self.of(*SLIDES), *floats]

    def hanging(self, plate: Entry) -> tuple[list[Entry], list[Entry], list[Entry]]:
        """What of the fixed side goes with the cavity plate as a third plate opens, what with the runner plate, and what stays
        with the clamping plate.
        """
        low, high = self.level(self.cavity)
        floats, goes, stays = list[Entry](), list[Entry](), list[Entry]()
        for entry in self.of("fixed base"):
            ends = self.level([entry])
            if entry == plate or (entry.stock and entry.stock.kind in ("Puller bolt", "Distance bolt")):
                goes.append(entry)
            elif low - BESIDE < ends[0] and ends[1] < high + BESIDE:
                floats.append(entry)
            else:
                stays.append(entry)
        return floats, goes, stays

    @cached_property
    def pull(self) -> Vec:
        return self.core[0].pull or (0.0, 0.0, 1.0)

    @cached_property
    def stroke(self) -> float:
        """How far a mold base's ejector plates can go, mm: from the support plate to the retainer plate; 0 without a base."""
        ends = {
            e.stock.kind: kernel.measure.span(e.body.solid, self.pull) for e in self.of("moving base", "ejection") if e.stock
        }
        return (
            ends["Retainer plate"][0] - ends["Support plate"][1] if ends.keys() >= {"Retainer plate", "Support plate"} else 0.0
        )
