"""The components of a mold base: what guides, screws, pushes back and props its plates, each where there is room for it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, get_args

from supplecast.errors import SuppleError
from supplecast.geometry import Point2
from supplecast.tooling import guides
from supplecast.tooling.base.component import Component, rounds, stepped
from supplecast.tooling.base.places import WALL, Plan, downwards
from supplecast.tooling.base.stack import BUTTON, Side, Stack
from supplecast.tooling.fits import h7_g6
from supplecast.tooling.screws import LENGTHS, SCREWS, Size
from supplecast.tooling.stock import Stock, at_least

PILLARS = (10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0)
"""Diameters of guide pillars, mm (ISO 8017, from memory)."""
_HARD = "16MnCr5"  # ISO 683-3, case hardened (from memory)
_PUSHED = {10.0: 6.0, 12.0: 8.0, 16.0: 10.0, 20.0: 12.0, 25.0: 16.0, 32.0: 20.0, 40.0: 25.0}  # return pins by pillar
_SCREWS: dict[float, Size] = {10.0: "M6", 12.0: "M6", 16.0: "M8", 20.0: "M10", 25.0: "M12", 32.0: "M16", 40.0: "M20"}
_PIN_HEADS = {
    1.5: (3.0, 1.5), 2.0: (4.0, 2.0), 2.5: (5.0, 2.0), 3.0: (6.0, 3.0), 4.0: (8.0, 3.0), 5.0: (10.0, 3.0), 6.0: (12.0, 5.0),
    8.0: (14.0, 5.0), 10.0: (16.0, 5.0), 12.0: (18.0, 7.0), 16.0: (22.0, 7.0), 20.0: (26.0, 8.0), 25.0: (32.0, 10.0),
}  # fmt: skip
_PROP_THREAD = 14.0  # mm in a support pillar
_LOOSE = 0.25  # mm a side where a pin only passes (common practice, no source)
_LONG_PLATES = 340.0  # mm: longer plates get a second set of screws (common practice, no source)


class NoRoomError(SuppleError):
    """Something of a mold base finds no place; `field` is the one that would help."""

    def __init__(self, field: str, message: str, hint: str) -> None:
        super().__init__(message, hint)
        self.field = field


def pin_head(diameter: float) -> tuple[float, float]:
    """Diameter and height of the head of a pin in mm (ISO 6751, from memory); of the next size where it has no such pin."""
    size = next((size for size in _PIN_HEADS if size >= diameter - 1e-9), None)
    return _PIN_HEADS[size] if size else (diameter + 8.0, 10.0)


@dataclass(frozen=True)
class Wanted:
    """What is asked of the guides, mm: the pillars' diameter, if not by rule, and how far one of them is displaced; how high
    the highest core stands.
    """

    pillar: float | None
    odd: float
    stands: float


def guided(stack: Stack, plan: Plan, wanted: Wanted) -> tuple[list[Component], float]:
    """Four pillars on the moving side with their bushes, as near to the corners as they find room; the diameter taken.

    They are in their bushes before the highest core comes in. By rule they are as wide as the plates ask for, or less if that
    finds no room.
    """
    rule = guides.diameter(plan.width, 2 * plan.width)
    sizes = [wanted.pillar] if wanted.pillar else [d for d in PILLARS[::-1] if d <= max(rule, PILLARS[0])]
    for wide in sizes:
        pillar, bush = _pillar(stack, wide, wanted), _bush(stack, wide, wanted)
        inset = max(r.radius for r in bush.rounds) + WALL + 3.0
        us, vs = downwards(plan.length / 2 - inset, plan.length / 6), downwards(plan.width / 2 - inset, plan.width / 6)
        places = plan.four([*pillar.rounds, *bush.rounds], us, vs, wanted.odd)
        if places:
            return _copies(places, pillar, bush), wide
    least = f"Pillars of {sizes[-1]:g} mm find no room between the pockets and the edges of the plates."
    raise NoRoomError("pillar", least, "Leave more margin in the plates, or use thinner pillars.")


def _reach(stack: Stack, wide: float, wanted: Wanted) -> float:
    """How far a pillar goes into the fixed side, mm: past the highest core, to the next 5 mm, as far as the plates allow."""
    most = stack["fixedclamp"].thick - stack["fixedclamp"].high[2] - WALL
    return min(5.0 * math.ceil(max(wanted.stands + guides.LEAD * wide, guides.LEAST * wide) / 5.0), most)


def _pillar(stack: Stack, wide: float, wanted: Wanted) -> Component:
    back, r, high = stack["core"].high[2], wide / 2, 6.0 if wide < 20 else 8.0
    tip = -_reach(stack, wide, wanted)
    lead = 0.15 * wide
    outer = ((tip, r - 0.3 * lead), (tip + lead, r), *stepped((tip + lead, back - high, r), (back - high, back, r + 3.0))[1:])
    hole = stepped((0.0, back - high, r), (back - high, back, r + 3.25))
    stock = Stock("Guide pillar", "round", (wide, at_least(back - tip)), _HARD, "ISO 8017", back - tip)
    return Component("pillar", "Guide pillar", "moving", (0.0, 0.0), outer, stock, hole=hole, through=("core",))


def guide_bush(stack: Stack, wide: float) -> Component:
    """The bush of the cavity plate for a pillar of a diameter, its collar at the plate's back."""
    back, high = stack["cavity"].low[2], 6.0 if wide < 20 else 8.0
    outer = 0.7 * wide
    fit = h7_g6(wide)
    bore = wide / 2 + (fit.side if fit else 0.02)
    body = stepped((back, back + high, outer + 3.0), (back + high, 0.0, outer))
    hole = stepped((back, back + high, outer + 3.25), (back + high, 0.0, outer))
    stock = Stock("Guide bush", "ring", (2 * outer, wide, -back), _HARD, "ISO 8018")
    inner = stepped((back, 0.0, bore))
    return Component("bush", "Guide bush", "fixed", (0.0, 0.0), body, stock, inner=inner, hole=hole, through=("cavity",))


def _bush(stack: Stack, wide: float, wanted: Wanted) -> Component:
    bush, back, tip = guide_bush(stack, wide), stack["cavity"].low[2], -_reach(stack, wide, wanted)
    if tip >= back + WALL:
        return bush
    out = stepped((tip - WALL, back, wide / 2 + 1.0))  # the pillar comes out behind the bush
    return replace(bush, hole=(*out, *bush.hole), through=("cavity", "between", "fixedclamp"))


def pushed_back(stack: Stack, plan: Plan, pillar: float) -> list[Component]:
    """Four return pins that push the ejector plates back as the tool closes, and the buttons on which these come to rest."""
    wide = _PUSHED[min(PILLARS, key=lambda d: abs(d - pillar))]
    head, high = pin_head(wide)
    rest, retainer = stack["retainer"].high[2], stack["retainer"]
    fit = h7_g6(wide)
    r, snug = wide / 2, wide / 2 + (fit.side if fit else 0.02)
    support = stack["support"]
    pin = Component(
        "return",
        "Return pin",
        "ejection",
        (0.0, 0.0),
        stepped((0.0, rest - high, r), (rest - high, rest, head / 2)),
        Stock("Return pin", "round", (wide, at_least(rest)), "X40CrMoV5-1", "ISO 6751", rest),
        hole=stepped(
            (0.0, support.low[2], snug),
            (support.low[2], rest - high, r + _LOOSE),
            (rest - high, rest, head / 2 + _LOOSE),
        ),
        through=("core", "support", "retainer"),
    )
    low, base = stack["ejectorplate"].high[2], stack["movingclamp"].low[2]
    button_r, spigot = (8.0 if plan.width < 250 else 10.0), 4.0
    button = Component(
        "button",
        "Stop button",
        "moving",
        (0.0, 0.0),
        stepped((low, base, button_r), (base, base + 8.0, spigot)),
        Stock("Stop button", "round", (2 * button_r, BUTTON), _HARD),
        hole=stepped((base, base + 9.0, spigot)),
        through=("movingclamp",),
    )
    inset = head / 2 + WALL + 1.0
    vs = downwards(retainer.high[1] - inset)
    places = plan.four([*pin.rounds, *rounds((0, 0), button.outer)], downwards(plan.length / 2 - inset, plan.length / 6), vs)
    if places is None:
        raise NoRoomError(
            "rail",
            "The return pins find no room beside the pockets.",
            "Leave more margin in the plates, or use narrower spacers.",
        )
    return _copies(places, pin, button)


def screwed(stack: Stack, plan: Plan, pillar: float, *, floats: bool = False) -> list[Component]:
    """Socket screws: the moving side from its clamping plate through the spacers into the core plate, the fixed side from its
    clamping plate into the cavity plate, unless that floats, and the ejector plates to each other.
    """
    size = _SCREWS[min(PILLARS, key=lambda d: abs(d - pillar))]
    smaller = _smaller(size)
    rail = stack["spacer2"]
    middle = (rail.low[1] + rail.high[1]) / 2
    made: list[Component] = []
    long = plan.length > _LONG_PLATES
    inset = SCREWS[size].head / 2 + WALL + 2.0
    outermost = downwards(plan.length / 2 - inset)
    near = [middle, *(middle + sign * off for off in (2.0, 4.0, 6.0) for sign in (1, -1))]
    moving = socket_screw(
        "movingscrew", "moving side", size, "moving", stack["movingclamp"].high[2], stack["core"].high[2], -1,
        ("movingclamp", "spacer1", "spacer2", "support", "core"))  # fmt: skip
    fixed = socket_screw(
        "fixedscrew",
        "fixed side",
        size,
        "fixed",
        stack["fixedclamp"].low[2],
        stack["cavity"].low[2],
        1,
        ("fixedclamp", "between", "cavity"),
    )
    ejector = socket_screw(
        "ejectorscrew", "ejector plates", smaller, "ejection", stack["ejectorplate"].high[2], stack["ejectorplate"].low[2], -1,
        ("ejectorplate", "retainer"), stack["retainer"].thick)  # fmt: skip
    for one, vs, what in (
        (moving, near, "moving side"),
        *([] if floats else [(fixed, downwards(plan.width / 2 - inset, 0.0), "fixed side")]),
        (ejector, downwards(stack["retainer"].high[1] - inset, 0.0), "ejector plates"),
    ):
        sets = [outermost, [u for u in outermost if u <= plan.length / 6]] if long and one is not ejector else [outermost]
        for number, us in enumerate(sets):
            places = plan.four(one.rounds, us, vs)
            if places is None and number == 0:
                raise NoRoomError(
                    "pillar",
                    f"The screws of the {what} find no room.",
                    "Leave more margin in the plates, or use thinner pillars.",
                )
            made += _copies(places or [], replace(one, id=one.id + "ab"[number]))
    return made


def _smaller(size: Size) -> Size:
    sizes: tuple[Size, ...] = get_args(Size)
    return sizes[max(sizes.index(size) - 1, sizes.index("M5"))]


def socket_screw(
    id: str,
    what: str,
    size: Size,
    side: Side,
    face: float,
    thread: float,
    way: Literal[1, -1],
    through: tuple[str, ...],
    most: float | None = None,
) -> Component:
    """A screw to ISO 4762 that holds `what`: its head is sunk into the plate with its outer `face` at a level, and it goes the
    `way` along the levels until its thread begins at another, with `most` mm for that. It is drawn at its core diameter there.
    """
    screw = SCREWS[size]
    sunk = face + way * screw.head_depth
    grip, most = abs(thread - sunk), most or 2.0 * screw.nominal
    length = _screw_length(grip, screw.nominal, most)
    tip = sunk + way * length
    drilled = thread + way * min(length - grip + 0.5 * screw.nominal, most)
    core = screw.tapping / 2
    body = stepped(
        (sunk - way * screw.nominal, sunk, 0.75 * screw.nominal), (sunk, thread, screw.nominal / 2), (thread, tip, core)
    )
    hole = stepped((face, sunk, screw.head / 2), (sunk, thread, screw.through("medium") / 2), (thread, drilled, core))
    stock = Stock("Socket screw", "screw", (screw.nominal, length), "12.9", "ISO 4762")
    return Component(id, f"Screw, {what}", side, (0.0, 0.0), body, stock, hole=hole, through=through)


def _screw_length(grip: float, nominal: float, most: float) -> float:
    """The longest that holds by no more than 1.5 diameters; if that leaves less than one, the next one that fits."""
    short = max((length for length in LENGTHS if length <= grip + min(1.5 * nominal, most)), default=LENGTHS[0])
    if short >= grip + nominal:
        return float(short)
    longer = next((length for length in LENGTHS if length > short), short)
    return float(longer if longer <= grip + most else short)


def propped(stack: Stack, plan: Plan) -> list[Component]:
    """Pillars in the middle of the space for the ejector plates that hold up the support plate."""
    wide = min(at_least(0.1 * plan.width), 40.0)
    low, high = stack["support"].high[2], stack["movingclamp"].low[2]
    prop = Component(
        "prop",
        "Support pillar",
        "moving",
        (0.0, 0.0),
        stepped((low, high, wide / 2)),
        Stock("Support pillar", "round", (wide, high - low), "C45U"),
        inner=stepped((high - _PROP_THREAD - 4.0, high, SCREWS["M8"].tapping / 2)),
        hole=stepped((low, high, wide / 2 + 1.0)),
        through=("retainer", "ejectorplate"),
    )
    clamp = stack["movingclamp"].high[2]
    screw = socket_screw("propscrew", "support pillar", "M8", "moving", clamp, high, -1, ("movingclamp",), _PROP_THREAD)
    places = plan.along_middle([*prop.rounds, *screw.rounds], 2.5 * wide)
    return _copies(places, prop, screw)


def _copies(places: Sequence[Point2], *ones: Component) -> list[Component]:
    return [replace(one, id=f"{one.id}{number}", at=at) for one in ones for number, at in enumerate(places, 1)]
