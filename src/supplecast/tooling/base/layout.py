"""A mold base laid out: its stack, and every component where it finds room."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from supplecast.geometry import Point2
from supplecast.tooling.base import components
from supplecast.tooling.base.component import Component
from supplecast.tooling.base.components import NoRoomError
from supplecast.tooling.base.fastening import Eye, eyes, insert_screws
from supplecast.tooling.base.mouth import Inlet, Mouth, Sprue, mouth
from supplecast.tooling.base.pins import ejector_pin
from supplecast.tooling.base.places import Block, Plan, Round
from supplecast.tooling.base.stack import RESERVE, Asked, PlateId, Stack, stack
from supplecast.tooling.base.third import Third, clamp_for, third_plate
from supplecast.tooling.stock import WIDE, at_least

_PULLER = 6.0  # mm round the sprue that stay free for what pulls it (common practice, no source)


@dataclass(frozen=True)
class Surroundings:
    """What stands in the plates: pockets, parts, feeds and ways of slides; the parts' shadows, under which ejectors stand; the
    inserts by the id of their body, each with its plate; the sprue; how heavy both halves are together, kg; and ejector pins
    that stand already, with the level of their tip and their diameter.
    """

    blocks: Sequence[Block]
    shadows: Sequence[Block]
    inserts: Mapping[str, tuple[PlateId, Block]]
    sprue: Sprue | Inlet | None
    mass: float
    pins: Sequence[tuple[Point2, float, float]] = ()
    heeled: frozenset[str] = frozenset()
    """Inserts that the plate behind holds by their heels."""
    third: Third | None = None


@dataclass(frozen=True)
class Guiding:
    """What may be typed of guides, mouth and props, mm; what is None follows."""

    pillar: float | None = None
    odd: float = 5.0
    ring: float | None = None
    props: bool = True


@dataclass(frozen=True)
class Layout:
    """The stack with all its components; the diameter of its pillars, and inserts that no screw found room in."""

    stack: Stack
    components: tuple[Component, ...]
    eyes: tuple[Eye, ...]
    mouth: Mouth
    pillar: float
    props: int
    unheld: tuple[str, ...]


def laid_out(asked: Asked, around: Surroundings, guiding: Guiding) -> Layout:
    """The base for what is asked, in what there is. NoRoomError where something finds no place."""
    third = around.third
    if third:
        asked = replace(asked, clamp_least=clamp_for(asked.width))
    made, plan, props = _stacked(asked, around, guiding.props)
    if made.room < made.stroke + RESERVE - 1e-6:
        height, least = made["spacer1"].thick, made["spacer1"].thick + made.stroke + RESERVE - made.room
        left = f"leave the ejector plates {max(made.room, 0.0):g} mm to go"
        words = f"Spacers {height:g} mm high {left}; the stroke is {made.stroke:g} mm."
        raise NoRoomError("spacer", words, f"Use {at_least(least, WIDE):g} mm, or leave it blank.")
    opening = mouth(made, plan, around.sprue, guiding.ring)
    guided, wide = components.guided(made, plan, components.Wanted(guiding.pillar, guiding.odd, asked.stands))
    found = [
        *_pins(made, around),
        *opening.components,
        *guided,
        *(third_plate(made, plan, third, wide, opening.components) if third else []),
        *components.pushed_back(made, plan, wide),
        *components.screwed(made, plan, wide, floats=third is not None),
    ]
    lifted = eyes(made, plan, around.mass)
    unheld = []
    for number, (name, (plate, block)) in enumerate(around.inserts.items(), 1):
        if name in around.heeled:
            continue
        screws = insert_screws(made, plate, block, around.shadows, name, number)
        found += screws
        if not screws:
            unheld.append(name)
    return Layout(made, (*props, *found), tuple(lifted), opening, wide, len(props) // 2, tuple(unheld))


def _stacked(asked: Asked, around: Surroundings, wanted: bool) -> tuple[Stack, Plan, list[Component]]:
    """The plates and what they are open for, propped where pillars find places that help."""
    for propped in (True, False) if wanted else (False,):
        made = stack(replace(asked, propped=propped))
        low, high = made["support"].high[2], made["movingclamp"].low[2]
        ejecting = [replace(shadow, low=low, high=high) for shadow in around.shadows]
        plan = Plan(asked.length, asked.width, [*around.blocks, *ejecting])
        plan.take(r for pin in _pins(made, around) for r in [*pin.rounds, Round(pin.at, pin.outer[0][1], 0.0, asked.core)])
        if not propped:
            break
        puller: Point2 = around.sprue.at if around.sprue else (0.0, 0.0)
        plan.take([Round(puller, _PULLER, low, high)])
        props = components.propped(made, plan)
        loaded = max(max(abs(shadow.start[0]), abs(shadow.end[0])) for shadow in around.shadows)
        if _hold(props, loaded, made.span):
            return made, plan, props
    return made, plan, []


def _pins(made: Stack, around: Surroundings) -> list[Component]:
    back, rest = made["core"].high[2], made["retainer"].high[2]
    return [ejector_pin(f"pin{k}", at, tip, wide, back, rest) for k, (at, tip, wide) in enumerate(around.pins, 1)]


def _hold(props: Sequence[Component], loaded: float, span: float) -> bool:
    """Whether props along the middle make two spans of one: no place of what is loaded, `loaded` mm to either side, is farther
    from one than half the span between the spacers (common practice, no source).
    """
    us = sorted(prop.at[0] for prop in props if prop.name == "Support pillar")
    if not us:
        return False
    gaps = [(b - a) / 2 for a, b in zip(us, us[1:], strict=False)]
    return max([*gaps, loaded - us[-1], us[0] + loaded]) <= span / 2
