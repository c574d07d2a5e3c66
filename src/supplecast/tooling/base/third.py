"""A third plate: what lets the cavity plate float, so that runners behind it fall out: pillars that carry it, bolts that stop
and draw the plates one after the other, pins that hold the runners, and plugs that keep the halves together meanwhile.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from supplecast.geometry import Point2
from supplecast.tooling.base.component import Component, stepped
from supplecast.tooling.base.components import NoRoomError, guide_bush, pin_head
from supplecast.tooling.base.pins import PINS
from supplecast.tooling.base.places import WALL, Plan, downwards
from supplecast.tooling.base.stack import Stack
from supplecast.tooling.fits import h7_g6
from supplecast.tooling.stock import Stock, at_least

STRIPS = 8.0
"""Mm that the runner plate goes from the clamping plate, which pushes runners off their pins (common practice: 5 to 10)."""
_ROOM, _STEP = 15.0, 5.0  # mm that the plates open wider than a feed is long, to the next 5 (common practice, from memory)
_UNDER = 0.75  # of a sucker pin's width: its neck, behind which a runner is held (common practice, no source)
_INTO = 0.5  # of its width that a sucker pin stands in a runner (common practice, no source)
_SHARE = 0.8  # of the drop's width: the pin opposite it (common practice, no source)
_FLOOR = 8.0  # mm of clamping plate under the head of a distance bolt when it stops (common practice, no source)
_LOOSE, _FREE = 0.25, 1.0  # mm a side round what slides, and round what only stands out (common practice, no source)
_HARD = "16MnCr5"  # ISO 683-3, case hardened (from memory)
_TINY = 1e-9
_PLUG = 15.0  # mm of a friction plug in either plate (common practice, no source)


@dataclass(frozen=True)
class Shoulder:
    """A shoulder screw: thread and its core, shoulder, head and height of the head, mm (ISO 7379, from memory)."""

    thread: float
    core: float
    shoulder: float
    head: float
    high: float


_SHOULDERS = {
    10.0: (_M5 := Shoulder(5.0, 4.2, 6.0, 10.0, 4.5)), 12.0: _M5, 16.0: Shoulder(6.0, 5.0, 8.0, 13.0, 5.5),
    20.0: (_M8 := Shoulder(8.0, 6.8, 10.0, 16.0, 7.0)), 25.0: _M8, 32.0: Shoulder(10.0, 8.5, 13.0, 18.0, 9.0),
    40.0: Shoulder(12.0, 10.2, 16.0, 24.0, 11.0),
}  # fmt: skip
"""By the diameter of guide pillars, mm."""


@dataclass(frozen=True)
class Third:
    """Runners behind the cavity plate: how far they reach into it, mm, and where their drops begin, each with its width."""

    long: float
    drops: Sequence[tuple[Point2, float]]

    @property
    def opens(self) -> float:
        """How far runner plate and cavity plate must open for the feed to fall out, mm."""
        return opens_for(self.long)


def opens_for(long: float) -> float:
    """How far the plates open for a feed that reaches so many mm into the cavity plate, mm."""
    return _STEP * math.ceil((long + _ROOM) / _STEP - _TINY)


def clamp_for(width: float) -> float:
    """The least thickness in mm of a fixed clamping plate that distance bolts of plates so wide stand in."""
    return _FLOOR + STRIPS + (9.0 if width > 400.0 else 7.0) + 1.0


def third_plate(stack: Stack, plan: Plan, third: Third, pillar: float, mouth: Sequence[Component]) -> list[Component]:
    """All that a third plate needs, each where there is room for it; carrying pillars are as wide as guide pillars. Pins under
    the locating ring, which is in the `mouth`, begin below it.
    """
    bolt = _SHOULDERS[min(_SHOULDERS, key=lambda wide: abs(wide - pillar))]
    made = [_sucker(stack, f"sucker{k}", at, wide, mouth) for k, (at, wide) in enumerate(third.drops, 1)]
    for one in made:
        plan.take(one.rounds)
    carrier, bush = _carrier(stack, third, pillar), replace(guide_bush(stack, pillar), id="carrierbush")
    for ones, what in (
        ([carrier, bush], "carrying pillars"),
        ([_puller(stack, third, bolt)], "puller bolts"),
        ([_distance_bolt(stack, bolt)], "distance bolts"),
        ([_plug(pillar)], "friction plugs"),
    ):
        rounds = [span for one in ones for span in one.rounds]
        widest = max(span.radius for span in rounds)
        inset = widest + WALL + 2.0
        deep = max(span.high for span in rounds) > stack["support"].high[2]  # it goes on among the ejector plates
        vs = _in_rails(stack, widest) if deep else downwards(plan.width / 2 - inset, 0.0)
        places = plan.four(rounds, downwards(plan.length / 2 - inset, 0.0), vs)
        if places is None:
            words = f"The {what} of a third plate find no room beside pockets, feed and guides."
            raise NoRoomError("pillar", words, "Leave more margin in the plates, or use thinner pillars.")
        made += [replace(one, id=f"{one.id}{number}", at=at) for one in ones for number, at in enumerate(places, 1)]
    return made


def _in_rails(stack: Stack, radius: float) -> list[float]:
    """Places across the plates where something runs through a spacer, and past the ejector plates."""
    rail = stack["spacer2"]
    low, high = rail.low[1] + radius + WALL, rail.high[1] - radius - WALL
    return downwards(high, low) or ([(low + high) / 2] if low - high < 2 * WALL else [])


def _sucker(stack: Stack, name: str, at: Point2, drop: float, mouth: Sequence[Component]) -> Component:
    """A pin in the clamping plate whose end is wider than its neck, so that the runner stays on it."""
    wide = max((size for size in PINS if size <= _SHARE * drop), default=PINS[0])
    head, high = pin_head(wide)
    face, back, r = stack["fixedclamp"].low[2], stack["cavity"].low[2], wide / 2
    end = back + _INTO * wide
    for one in mouth:
        for span in one.rounds:
            away = math.dist(span.at, at) - span.radius - head / 2 - _LOOSE
            if away < WALL and one.id == "spruebush":
                far, least = math.dist(span.at, at), math.ceil(math.dist(span.at, at) - away + WALL)
                words = f"The pin that holds the runner over a drop stands {far:.1f} mm from the sprue bush's middle."
                raise NoRoomError("ring", words, f"In the three-plate feed, keep sprue and drops {least} mm apart or more.")
            if away < WALL and one.id == "ring":
                face = max(face, span.high)
    outer = (*stepped((face, face + high, head / 2), (face + high, back, r)), (back, _UNDER * r), (end, r))
    hole = stepped((face, face + high, head / 2 + _LOOSE), (face + high, back, r))
    stock = Stock("Sucker pin", "round", (wide, at_least(end - face)), "X40CrMoV5-1", "ISO 6751", round(end - face, 2))
    return Component(name, "Sucker pin", "fixed", at, outer, stock, hole=hole, through=("fixedclamp", "between"))


def _carrier(stack: Stack, third: Third, wide: float) -> Component:
    """A pillar from the clamping plate on which runner plate and cavity plate slide, as far as they go."""
    face, clamp, r, high = stack["fixedclamp"].low[2], stack["fixedclamp"].high[2], wide / 2, 6.0 if wide < 20 else 8.0
    tip = min(third.opens + STRIPS, stack["movingclamp"].low[2] - _FREE)
    lead = 0.15 * wide
    outer = (*stepped((face, face + high, r + 3.0), (face + high, tip - lead, r)), (tip, r - 0.3 * lead))
    fit = h7_g6(wide)
    hole = stepped(
        (face, face + high, r + 3.0 + _LOOSE), (face + high, clamp, r), (clamp, 0.0, r + (fit.side if fit else 0.02)),
        (0.0, tip + _FREE, r + _FREE),
    )  # fmt: skip
    stock = Stock("Carrying pillar", "round", (wide, at_least(tip - face)), _HARD, "ISO 8017", round(tip - face, 2))
    through = ("fixedclamp", "between", "core", "support", "spacer1", "spacer2")
    return Component("carrier", "Carrying pillar", "fixed", (0.0, 0.0), outer, stock, hole=hole, through=through)


def _puller(stack: Stack, third: Third, bolt: Shoulder) -> Component:
    """A bolt in the runner plate on whose head the cavity plate comes to rest, and draws the runner plate on."""
    back = stack["cavity"].low[2]
    into = min(1.5 * bolt.thread, back - stack["fixedclamp"].high[2] - 2.0)
    head = third.opens
    s, core = bolt.shoulder / 2, bolt.core / 2
    outer = stepped((back - into, back, core), (back, head, s), (head, head + bolt.high, bolt.head / 2))
    hole = stepped((back - into, back, core), (back, 0.0, s + _LOOSE), (0.0, head + bolt.high + _FREE, bolt.head / 2 + _FREE))
    long = round(head + bolt.high - back + into, 2)
    stock = Stock("Puller bolt", "round", (bolt.head, long), "12.9")
    through = ("between", "cavity", "core", "support", "spacer1", "spacer2")
    return Component("puller", "Puller bolt", "fixed", (0.0, 0.0), outer, stock, hole=hole, through=through)


def _distance_bolt(stack: Stack, bolt: Shoulder) -> Component:
    """A bolt in the runner plate whose head comes to rest in the clamping plate."""
    face, clamp, back = stack["fixedclamp"].low[2], stack["fixedclamp"].high[2], stack["cavity"].low[2]
    floor = clamp - _FLOOR
    under = floor - STRIPS
    if under - bolt.high < face + 1.0 - 1e-9:
        least = _FLOOR + STRIPS + bolt.high + 1.0
        words = f"The distance bolts of a third plate need a fixed clamping plate of {least:g} mm."
        raise NoRoomError("clamp", words, "Use a thicker one, or leave it blank.")
    into = min(1.5 * bolt.thread, back - clamp - 2.0)
    s, core = bolt.shoulder / 2, bolt.core / 2
    outer = stepped((under - bolt.high, under, bolt.head / 2), (under, clamp, s), (clamp, clamp + into, core))
    hole = stepped((face, floor, bolt.head / 2 + _FREE), (floor, clamp, s + _LOOSE), (clamp, clamp + into, core))
    stock = Stock("Distance bolt", "screw", (bolt.thread, round(clamp - under, 2)), "12.9", "ISO 7379")
    return Component(
        "distance", "Distance bolt", "fixed", (0.0, 0.0), outer, stock, hole=hole, through=("fixedclamp", "between")
    )


def _plug(pillar: float) -> Component:
    """A plug in the core plate that holds on to the cavity plate until the bolts stop that."""
    r = 6.0 if pillar < 20 else 8.0
    body = stepped((-_PLUG, _PLUG, r))
    stock = Stock("Friction plug", "round", (2 * r, 2 * _PLUG), "PA66")
    hole = stepped((-_PLUG - _FREE, _PLUG, r))
    return Component("plug", "Friction plug", "moving", (0.0, 0.0), body, stock, hole=hole, through=("core", "cavity"))
