"""Drops: where a feed comes down through the cavity side onto each part, at the same place of all of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.state import SLIDES, Entry
from supplecast.geometry import Floats, Frame, Point2, Vec, along, dot, vec
from supplecast.naming import Body
from supplecast.steps.tool.lying import Lying
from supplecast.steps.tool.pair import Pair
from supplecast.steps.tool.places import Place, places
from supplecast.steps.tool.steel import bored
from supplecast.tooling import hot
from supplecast.tooling.base.component import Outline
from supplecast.tooling.runners import SHEAR, Net

if TYPE_CHECKING:
    from supplecast.kernel.shapes.shape import Solid

FEEDS = ("feed", "runners", "parting feed", "three-plate feed", "hot drops")
"""The steps by which a tool is filled."""
_GRID = 25  # places along each side of a part at which a drop is tried
_SQUARE = 0.98  # of a face's normal along the pull where a drop may stand by rule: within 11° (common practice, no source)
_ROUND = 2.0  # widths of the gate all round which the part goes on (common practice, no source)
_INTO, _OUT = 0.5, 1e-3  # mm that a gate reaches past the part's skin, so that what curves is met all round
_TURNS = 48  # places round a bore
_EVEN = 0.9  # the shortest way over the longest: less even, and parts fill one after the other (common practice, no source)
_ROUNDED = 1.02  # of the usual shear: sizes are rounded
_LEFT = 0.9  # of the gate's land that bores stay off the part everywhere (common practice, no source)
_RIM = 8  # places round a drop at which the skin must be there too


@dataclass(frozen=True)
class Drop:
    """Where a feed comes down on a part: the place on its skin, in space and in the parting plane, and the level of it along
    the pull from the parting plane, mm.
    """

    part: Entry
    skin: Vec
    flat: Point2
    level: float


def feeds_ahead(at: Builder) -> int:
    """How many feeds are made below this step."""
    return sum(at.ahead(kind) for kind in FEEDS)


def drops(at: Builder, pair: Pair, place: tuple[float, float] | None, wide: float) -> list[Drop]:
    """A drop for every part, whose gate is so many mm wide: at a place of the first part, or where each is met squarely by
    what comes down, as near to its middle as can be.
    """
    plane = pair.plane
    found = places(at, plane)
    if place is not None:
        first = plane.flat(pair.on_parting(*place))
        return [_typed(at, pair, plane, one, one.at(found[0], first)) for one in found]
    spot = _by_rule(at, pair, plane, found[0], wide)
    made = []
    for one in found:
        same = one is found[0] or _alike(one, found[0])
        where = one.at(found[0], spot) if same else _by_rule(at, pair, plane, one, wide)
        made.append(_typed(at, pair, plane, one, where))
    return made


def _alike(one: Place, other: Place) -> bool:
    volumes = [kernel.measure.volume(place.part.body.solid) for place in (one, other)]
    return abs(volumes[0] - volumes[1]) < 1e-6 * volumes[1]


def _typed(at: Builder, pair: Pair, plane: Frame, place: Place, where: Point2) -> Drop:
    """The drop at a place of the parting plane."""
    part = place.part
    start = along(plane.point(where), pair.pull, -kernel.measure.beyond(part.body.solid, plane.origin))
    hit = kernel.probing.first_hit(part.body.solid, start, pair.pull)
    if hit is None:
        box = kernel.measure.box(part.body.solid)
        spans = (f"{'xyz'[c]} from {at.in_unit(box.low[c])} to {at.in_unit(box.high[c])}" for c in pair.across)
        at.fail("x", f"Nothing of {part.name} lies under a drop there.", f"It spans {' and '.join(spans)}.")
    skin = along(start, pair.pull, hit)
    return Drop(part, skin, where, dot(skin, pair.pull) - pair.parting)


def _by_rule(at: Builder, pair: Pair, plane: Frame, place: Place, wide: float) -> Point2:
    """The place nearest to a part's middle where what comes down meets it squarely, and goes on meeting it all round."""
    part = place.part
    skin = molding.opening.meshed(part.body.solid)
    flat = kernel.parting.flat(skin.mesh.points, plane)
    low, high = flat.min(axis=0), flat.max(axis=0)
    rows = [np.linspace(a, b, _GRID + 2)[1:-1] for a, b in zip(low, high, strict=True)]
    middle = np.array(place.middle)
    spots = np.concatenate([[middle], np.stack(np.meshgrid(*rows), axis=-1).reshape(-1, 2)])
    spots = spots[np.argsort(np.linalg.norm(spots - middle, axis=1), kind="stable")]
    turns = np.linspace(0.0, 2 * np.pi, _RIM, endpoint=False)
    ring = _ROUND * wide * np.stack([np.cos(turns), np.sin(turns)], axis=1)
    # Each spot with the places round it, at all of which the skin must be there and look the way the drop comes from.
    wanted = (spots[:, None, :] + np.concatenate([[[0.0, 0.0]], ring])[None]).reshape(-1, 2)
    far = kernel.measure.beyond(part.body.solid, plane.origin)
    squarely = _squarely(skin, wanted, plane, pair.pull, far).reshape(len(spots), _RIM + 1).all(axis=1)
    if not squarely.any():
        words = f"{part.name} has no face square to the pull on its cavity side that a gate could stand on"
        at.fail("x", f"{words}.", "Type where it is to come down, or fill the part by runners from its side.")
    x, y = spots[int(np.argmax(squarely))].tolist()
    return (round(x, 3), round(y, 3))


def _squarely(skin: molding.opening.Meshed, spots: Floats, plane: Frame, pull: Vec, far: float) -> Floats:
    x, y = np.array(plane.x), np.array(plane.y)
    starts = np.array(plane.origin) + spots[:, :1] * x + spots[:, 1:] * y - far * np.array(pull)
    rows, away = skin.triangles.hits(starts, np.array(pull))
    met = np.isfinite(away)
    square: Floats = np.zeros(len(spots), dtype=bool)
    square[met] = -(skin.normals[rows[met]] @ np.array(pull)) > _SQUARE
    return square


def gated(at: Builder, pair: Pair, drop: Drop, radius: float, land: float, label: str) -> Body:
    """The gate of a drop: a round neck so long, from the drop's end to the part's skin."""
    start = along(drop.skin, pair.pull, -land)
    turns = np.linspace(0.0, 2 * np.pi, _RIM, endpoint=False)
    plane = pair.plane
    rim = np.array(start) + 0.99 * radius * (
        np.cos(turns)[:, None] * np.array(plane.x) + np.sin(turns)[:, None] * np.array(plane.y)
    )
    _, away = molding.opening.meshed(drop.part.body.solid).triangles.hits(rim, np.array(pair.pull))
    if (away > land + _INTO).any():
        at.fail("x", f"The gate stands over an edge of {drop.part.name}.", "Move it inwards, or make it narrower.")
    bar = at.named(at.kernel("gate", kernel.solid.cylinder, start, pair.pull, radius, land + _INTO)).labelled(label)
    pieces = at.kernel("gate", kernel.boolean.cut, bar.solid, [drop.part.body.solid], pieces=None)
    inside = along(start, pair.pull, _OUT)
    piece = next((p for p in pieces if kernel.probing.covers(p.solid, inside)), None)
    if piece is None:
        at.fail("land", f"The gate does not come out on {drop.part.name}.", "Make its land longer, or move the drop.")
    return at.named(piece, bar, drop.part.body)


def opened(at: Builder, field: str, steel: Sequence[Entry], tools: Sequence[Body], what: str) -> None:
    """Take what comes down out of the steel of the cavity side. It may not cross a slide, a lifter or a pin."""
    apart = kernel.nearness.boxes_apart
    for entry in at.bodies():
        if entry.role in (*SLIDES, "ejector", "lifter"):
            near = [tool for tool in tools if apart(entry.body.solid, tool.solid) <= 0]
            if any(_meet(at, field, entry.body.solid, tool.solid) for tool in near):
                at.fail(field, f"{what} runs through {entry.name}.", "Type another place for the drops.")
    bored(at, field, steel, tools)


def _meet(at: Builder, field: str, one: Solid, other: Solid) -> bool:
    return bool(at.kernel(field, kernel.boolean.common, one, [other]))


def _steel_left(lying: Lying, drop: Drop, outline: Outline) -> float:
    """The least distance to the part of a bore round a drop's axis, mm, at rings of places on it."""
    turns = np.linspace(0.0, 2 * np.pi, _TURNS, endpoint=False)
    rings = []
    for (low, wide), (high, end) in zip(outline, outline[1:], strict=False):
        count = 2 + int(abs(high - low))
        for level, radius in zip(np.linspace(low, high, count), np.linspace(wide, end, count), strict=True):
            rings.append(np.column_stack([radius * np.cos(turns), radius * np.sin(turns), np.full(_TURNS, level)]))
    off, pair = np.concatenate(rings), lying.pair
    places = np.zeros_like(off)
    places[:, lying.long] = drop.skin[lying.long] + off[:, 0]
    places[:, lying.short] = drop.skin[lying.short] + off[:, 1]
    places[:, pair.axis] = (pair.parting + off[:, 2]) * pair.pull[pair.axis]
    return float(molding.opening.meshed(drop.part.body.solid).triangles.nearest(places).away.min())


def keep_steel(at: Builder, lying: Lying, drop: Drop, outline: Outline, land: float, what: str, thinner: str = "") -> None:
    """Refuse a bore round a drop's axis that comes nearer to the part than its gate is long, mm."""
    away = _steel_left(lying, drop, outline)
    if away < _LEFT * land:
        words = (
            f"{what} leaves {at.in_unit(round(away, 2))} {at.scope.unit} of steel before {drop.part.name}, less than its land"
        )
        at.fail("x", f"{words}.", f"Type a place of the part that is flatter all round{thinner}.")


def ways(at: Builder, field: str, net: Net) -> str:
    """How long the ways from the sprue to the gates are, in words; a caution where they differ much."""
    unit = at.scope.unit
    short, long = (at.in_unit(round(f(net.lengths), 2)) for f in (min, max))
    if net.balance < _EVEN:
        at.caution(field, f"The ways are not equally long, {short} to {long} {unit}: parts far off fill later.")
    return f"every way {long} {unit} long: balanced" if net.balance > 1 - 1e-9 else f"ways from {short} to {long} {unit}"


def sheared(at: Builder, found: Sequence[Drop], gate: float) -> str:
    """How hard the melt is sheared in round gates so many mm wide, in words; a caution where that is more than is usual."""
    flow = max(kernel.measure.volume(drop.part.body.solid) for drop in found) / molding.estimates.FILL
    rate = hot.shear_rate(flow, gate)
    if rate > SHEAR * _ROUNDED:
        need = at.no_less(hot.gate(flow))
        at.caution("gate", f"That is more than the usual {SHEAR:,.0f} 1/s. Use {need} {at.scope.unit} or more.")
    return f"filled in {molding.estimates.FILL:g} s, they shear the melt at {rate:,.0f} 1/s"


def approach(found: Sequence[Drop]) -> int:
    """The axis of the parting plane along which drops are reached."""
    columns, rows = ({round(drop.flat[k], 2) for drop in found} for k in (0, 1))
    return 0 if len(rows) == 1 and len(columns) <= 2 else 1


def typed_place(at: Builder, held: Callable[[str], Any], first: str, second: str) -> tuple[float, float] | None:
    """A place of which both coordinates are typed in a step, or neither."""
    typed = [held(field) for field in (first, second)]
    if not any(typed):
        return None
    if not all(typed):
        field = second if typed[0] else first
        at.fail(field, "Only one of the two numbers of this place is given.", "Type both, or leave both blank.")
    return at.mm(first), at.mm(second)


def cavity_steel(at: Builder) -> list[Entry]:
    """The cavity plate with its inserts."""
    return [entry for entry in at.bodies() if entry.role in ("cavity", "cavity insert")]


def cavity_back(pair: Pair) -> float:
    """The level at which the cavity side ends behind, mm from the parting plane: less than nought."""
    return round(kernel.measure.span(pair.cavity.body.solid, pair.pull)[0] - pair.parting, 6)


def middle(pair: Pair, place: tuple[float, float] | None) -> Point2:
    """Where the press's nozzle comes in, in the parting plane: as typed, else in the middle of the plates."""
    if place is not None:
        return pair.plane.flat(pair.on_parting(*place))
    return pair.plane.flat(vec(kernel.measure.corner_box(pair.cavity.body.solid).centre))
