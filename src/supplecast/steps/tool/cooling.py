"""Cooling: straight bores through both sides of the tool, clear of cavity, pins and feed."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import AnyLength, Factor, Length
from supplecast.document.state import PARTS, SLIDES, Entry
from supplecast.document.step import Step
from supplecast.geometry import AXES, Bar, Vec, along, subtract, unit
from supplecast.molding.mass import grams
from supplecast.naming import Body
from supplecast.naming.tag import maker
from supplecast.steps.tool.pair import Pair, both
from supplecast.steps.tool.pieces import pieces
from supplecast.steps.tool.steel import bored
from supplecast.steps.tool.weighing import known
from supplecast.tooling import coolant
from supplecast.tooling.resins import Injection
from supplecast.wording import brief, plural

PITCH, DEPTH = 3.0, 2.0  # bores apart, and under the cavity, in diameters (common practice, from memory)
_CELL, _LEVELS, _SAME = 0.5, 7, 5e-3
_COLD, _HOT = 10.0, 90.0  # °C that water has without much ado (common practice, no source)
_DRIVEN, _EVEN = 2.0, 5.0  # bar that drive a circuit, and K that its water may get warmer (common practice, from memory)
_BESIDE = 1.5  # diameters beside the parts that a row may go on where there is no room under them (no source)
_NEAREST = 1.0  # diameters between a bore and the cavity, if it is moved out of a joint (common practice, from memory)


@dataclass(frozen=True)
class _Hot:
    """The resin by its name and what injection knows of it, and the heat in W that its shots bring in."""

    resin: str
    injection: Injection
    power: float


class Cooling(Step):
    """Straight bores across the tool under the parts, in the core side, the cavity side or both. Blank distances are three
    diameters from bore to bore and two from a bore to the cavity. The rows are shifted aside to keep clear of pins and feed,
    and the least distances are measured exactly. No bore runs along a joint, where coolant would leak: it keeps clear of the
    backs of inserts, or crosses their sides square, where a seal can stand.
    Example: {"id": "co12", "type": "cooling", "diameter": "8", "along": "the longer side"}
    """

    type: Literal["cooling"] = "cooling"
    word = "Cooling"
    purpose = "straight bores for the coolant"
    search = "water bores channels coolant temperature"
    follows = "trial shot"
    picture = (
        "M4 4h24v17H4z",
        "M8 17a2 2 0 1 0 4 0a2 2 0 1 0-4 0M14 17a2 2 0 1 0 4 0a2 2 0 1 0-4 0M20 17a2 2 0 1 0 4 0a2 2 0 1 0-4 0",
    )
    document_kinds = ("tool",)

    diameter: Length = "8 mm"
    sides: Literal["both sides", "the core side", "the cavity side"] = "both sides"
    along: Literal["the longer side", "the shorter side"] = "the longer side"
    pitch: AnyLength = ""
    depth: AnyLength = ""
    clear: Length = "4 mm"
    circuits: Literal["joined by hoses", "each by itself"] = "joined by hoses"
    flow: Factor = ""
    water: Factor = ""

    def sentence(self) -> str:
        far = "{pitch} apart, {depth} from the cavity, at least {clear} from all else"
        return f"Cooling bores {{diameter}} in {{sides}} along {{along}}, {far}, {{circuits}}"

    def more(self) -> str:
        return "{flow} l/min through each circuit, of water at {water} °C"

    def build(self, at: Builder) -> None:
        pair = both(at)
        size = at.mm("diameter")
        pitch = at.length("pitch", self.pitch, "positive") if self.pitch else PITCH * size
        depth = at.length("depth", self.depth, "positive") if self.depth else DEPTH * size
        if pitch <= size:
            at.fail(
                "pitch", "The bores would run into each other.", f"Leave more than {at.in_unit(size)} from middle to middle."
            )
        bodies = at.bodies()
        parts = [e for e in bodies if e.role in PARTS]
        if not parts:
            at.fail("diameter", "There is no part to cool.", "Link a part first.")
        limit, hot = at.mm("clear"), self._hot(at)
        films = []
        notes = []
        for side in ("core", "cavity"):
            if self.sides not in ("both sides", f"the {side} side"):
                continue
            half = pair.core if side == "core" else pair.cavity
            steel = [e for e in bodies if e.role in (side, f"{side} insert")]
            others = [*pieces(at), *(e for e in bodies if e.role in ("feed", *SLIDES))]
            bores = self._bores(at, pair, half, side, parts, others, size, pitch, depth)
            seals = self._seals(at, side, bores)
            cavity, rest = self._least(bores, parts), self._least(bores, others)
            pins = self._least_to_register(at, bores, steel)
            if min(rest, pins) <= 0:
                at.fail(
                    "depth",
                    f"A bore of the {side} side runs into a pin, a slide or the feed.",
                    "Use another depth, or the other direction.",
                )
            notes.append(f"{side} side {len(bores)}, {at.in_unit(round(cavity, 2))} from the cavity"
                        + (f", {at.in_unit(round(rest, 2))} from pins and feed" if rest < math.inf else "")
                        + (f", {plural(seals, 'seal')} at the inserts' sides" if seals else ""))  # fmt: skip
            at.figure(f"cooling_{side}", cavity)
            worst = min(rest, pins, cavity)
            if worst < limit - _SAME:
                at.caution(
                    "clear",
                    f"A bore of the {side} side comes within {at.in_unit(round(worst, 2))}; {at.in_unit(limit)} should stay.",
                )
            if hot:
                films.append(self._flow(at, hot, side, bores, cavity, size))
            bored(at, "diameter", steel, [_bar(at, bore).labelled(f"{side} {k}") for k, bore in enumerate(bores, 1)])
        at.note(f"Bores: {'; '.join(notes)} {at.scope.unit}.")
        if hot and films:
            at.figure("coolant_power", hot.power)
            at.figure("coolant_film", sum(films) / len(films))

    def _hot(self, at: Builder) -> _Hot | None:
        """What a shot brings in; None for what is not injected."""
        resin = known(at)
        if resin is None or resin.injection is None:
            return None
        injection = resin.injection
        molded = [e.body.solid for e in at.bodies() if e.role in (*PARTS, "feed")]
        largest = max((e.body.solid for e in at.bodies() if e.role in PARTS), key=kernel.measure.volume)
        wall = molding.estimates.cooling_wall(molding.judge.skin_of(largest).walls)
        cycle = molding.estimates.cycle_time(molding.estimates.cooling_time(wall, injection))
        mass = grams(sum(kernel.measure.volume(solid) for solid in molded), resin)
        return _Hot(resin.name, injection, coolant.heat(mass, sum(injection.melt) / 2, injection.eject, cycle))

    def _flow(self, at: Builder, hot: _Hot, side: str, bores: Sequence[Bar], depth: float, size: float) -> float:
        """What the water does on one side: how it flows, what drives it, how warm it and the wall become; returns W/(m² K) that
        pass into it.
        """
        injection, power = hot.injection, hot.power * (0.5 if self.sides == "both sides" else 1.0)
        count = len(bores) if self.circuits == "joined by hoses" else 1
        pitch = math.dist(bores[0].start, bores[1].start) if len(bores) > 1 else PITCH * size
        least, most = injection.mold
        wanted = (least + most) / 2
        celsius = at.plain("water") if self.water else wanted
        each = power * count / len(bores)
        for _ in range(3):  # as warm as brings the wall to the middle of the resin's range, and then as much as flows well
            enough = max(coolant.flow_for(coolant.GOOD, size, celsius), coolant.flow_for_rise(each, _EVEN, celsius))
            flow = at.plain("flow") if self.flow else math.ceil(enough)
            circuit = coolant.Circuit(
                count, size, math.dist(bores[0].start, bores[0].end), depth + size / 2, pitch, flow, celsius
            )
            found = coolant.cooled(circuit, each)
            celsius = celsius if self.water else round(min(max(wanted - found.over, _COLD), _HOT))
        comes = circuit.celsius + found.over
        ways = f"in at 1, out at {count}" if count > 1 else plural(len(bores), "circuit")
        words = f"{brief(flow)} l/min at {brief(circuit.celsius)} °C, {ways}, Re {found.reynolds:,.0f}"
        words = f"{words}, {brief(found.pressure, 2)} bar, {brief(found.rise, 2)} K warmer on its way"
        at.note(f"{side.capitalize()} side takes {power:.0f} W: {words}; wall {comes:.0f} °C.")
        at.figure(f"reynolds_{side}", found.reynolds)
        at.figure(f"wall_celsius_{side}", comes)
        if found.reynolds < coolant.TURBULENT:
            need = math.ceil(10 * coolant.flow_for(coolant.GOOD, size, circuit.celsius)) / 10
            words = f"The water of the {side} side flows too quietly, Re {found.reynolds:,.0f}"
            at.caution("flow", f"{words}. Use {need:g} l/min or more.")
        if found.pressure > _DRIVEN:
            words = f"The {side} side needs {brief(found.pressure)} bar, more than the usual {_DRIVEN:g}"
            at.caution("circuits", f"{words}. Let each bore be a circuit by itself, use wider bores, or less flow.")
        if found.rise > _EVEN:
            words = f"The water of the {side} side gets {brief(found.rise)} K warmer, over the usual {_EVEN:g}"
            at.caution("flow", f"{words}. Use more flow, or let each bore be a circuit by itself.")
        if not least <= comes <= most:
            words = f"The wall of the {side} side comes to {comes:.0f} °C; {hot.resin} wants {least:g} to {most:g}"
            at.caution("water", f"{words}. Use water at {max(wanted - found.over, _COLD):.0f} °C, or other bores.")
        return coolant.passing(found.reynolds, size, circuit.celsius)

    def _bores(
        self,
        at: Builder,
        pair: Pair,
        half: Entry,
        side: str,
        parts: list[Entry],
        others: list[Entry],
        size: float,
        pitch: float,
        depth: float,
    ) -> list[Bar]:
        """A row of bores under the parts, shifted to where it is clearest of everything else."""
        box = kernel.measure.corner_box(half.body.solid)
        a, b = pair.across
        long, short = (a, b) if (box.size[a] >= box.size[b]) == (self.along == "the longer side") else (b, a)
        boxes = [kernel.measure.box(e.body.solid) for e in parts]
        ahead = (side == "core") == (pair.pull[pair.axis] > 0)
        edge = max(x.high[pair.axis] for x in boxes) if ahead else min(x.low[pair.axis] for x in boxes)
        level = self._off_joints(at, edge, depth, ahead, side, pair, size)
        low, high = box.low[pair.axis], box.high[pair.axis]
        if not low + size < level < high - size:
            at.fail("depth", f"Bores so deep leave the {half.name.lower()}.", "Use less depth, or a thicker plate.")
        span = min(x.low[short] for x in boxes), max(x.high[short] for x in boxes)
        direction = AXES[long]

        def start(place: float, height: float = level) -> Vec:
            spot = [0.0, 0.0, 0.0]
            spot[long], spot[short], spot[pair.axis] = box.low[long] - 1.0, place, height
            return (spot[0], spot[1], spot[2])

        beside = (span[0] - _BESIDE * size, span[1] + _BESIDE * size)
        rows: list[float] = []
        for reach in (span, beside):
            rows = rows or _rows(reach, self._free(at, others, start, direction, level, reach, size), pitch)
        if not rows:
            at.fail(
                "depth",
                f"No bore fits between the pins of the {side} side.",
                "Use thinner bores, another depth, or the other direction.",
            )
        length = box.size[long] + 2.0
        return [Bar(start(place), along(start(place), direction, length), size / 2) for place in rows]

    def _off_joints(self, at: Builder, edge: float, depth: float, ahead: bool, side: str, pair: Pair, size: float) -> float:
        """The level of a row `depth` under the cavity's `edge`, clear of the backs of inserts: nearer to the cavity where that
        still leaves a diameter, else behind them. A typed depth that lies in such a joint is refused.
        """
        sense, keep = (1.0 if ahead else -1.0), size / 2 + at.mm("clear")
        boxes = [kernel.measure.corner_box(e.body.solid) for e in at.bodies() if e.role == f"{side} insert"]
        backs = sorted({round(sense * ((b.high if ahead else b.low)[pair.axis] - edge), 6) for b in boxes})
        far = depth + size / 2
        if all(abs(far - back) >= keep for back in backs):
            return edge + sense * far
        nearer, farther = backs[0] - keep, backs[-1] + keep
        if self.depth:
            words = f"So deep the bores of the {side} side run along the backs of the inserts, where coolant leaks"
            less = f"less than {at.in_unit(round(nearer - size / 2, 2))}, or " if nearer > size / 2 else ""
            at.fail("depth", f"{words}.", f"Use {less}more than {at.in_unit(round(farther - size / 2, 2))}.")
        return edge + sense * (nearer if nearer - size / 2 >= _NEAREST * size else farther)

    def _seals(self, at: Builder, side: str, bores: list[Bar]) -> int:
        """How many times bores cross from plate to insert and back: through the sides of inserts, square."""
        count = 0
        for box in (kernel.measure.corner_box(e.body.solid) for e in at.bodies() if e.role == f"{side} insert"):
            for bore in bores:
                middle = [(a + b) / 2 for a, b in zip(bore.start, bore.end, strict=True)]
                inside = [low < c < high for low, c, high in zip(box.low, middle, box.high, strict=True)]
                run = max(range(3), key=lambda k: abs(bore.end[k] - bore.start[k]))
                count += 2 * all(inside[k] for k in range(3) if k != run)
        return count

    def _free(
        self,
        at: Builder,
        others: list[Entry],
        start: Callable[[float, float], Vec],
        direction: Vec,
        level: float,
        span: tuple[float, float],
        size: float,
    ) -> list[float]:
        """Places across the row where a bore keeps clear of pins, slides and feed: rays along it, and as far round it, meet
        nothing.
        """
        round_ = size / 2 + at.mm("clear")
        places = np.arange(span[0] - round_, span[1] + round_ + _CELL, _CELL)
        heights = np.linspace(level - round_, level + round_, _LEVELS)
        rays = np.array([start(float(place), float(height)) for place in places for height in heights])
        standing = molding.opening.standing([molding.opening.meshed(entry.body.solid) for entry in others])
        hit = standing.hits(rays, np.array(direction))[0] >= 0
        blocked = hit.reshape(len(places), -1).any(axis=1)
        wide = math.ceil(round_ / _CELL)
        near = np.convolve(blocked, np.ones(2 * wide + 1), mode="same") > 0.5
        return [float(p) for p, bad in zip(places, near, strict=True) if not bad and span[0] <= p <= span[1]]

    def _least(self, bores: list[Bar], bodies: list[Entry]) -> float:
        return kernel.nearness.bars_to(bores, [kernel.nearness.skin(e.body.solid) for e in bodies])

    def _least_to_register(self, at: Builder, bores: list[Bar], steel: list[Entry]) -> float:
        """How far bores stay from register pins and their holes, which are faces of the steel itself."""
        made = {step for step, kind in at.order if kind == "register pins"}
        skins = []
        for entry in steel:
            faces = [f for f, tags in enumerate(entry.body.tags) if any(maker(tag) in made for tag in tags)]
            skins.append((entry.body.solid, faces))
        return kernel.nearness.bars_to(bores, skins)


def _bar(at: Builder, bore: Bar) -> Body:
    length = math.dist(bore.start, bore.end)
    return at.named(kernel.solid.cylinder(bore.start, unit(subtract(bore.end, bore.start)), bore.radius, length))


def _rows(span: tuple[float, float], free: list[float], pitch: float) -> list[float]:
    """Places for bores among the free ones: as near to an even pitch over the span as they allow, never closer than 0.8 of
    it.
    """
    count = max(int((span[1] - span[0]) // pitch) + 1, 1)
    middle = sum(span) / 2
    wanted = [middle + (k - (count - 1) / 2) * pitch for k in range(count)]
    rows: list[float] = []
    for wish in wanted:
        open_ = [p for p in free if not rows or p - rows[-1] >= 0.8 * pitch]
        if not open_:
            break
        best = min(open_, key=lambda p: abs(p - wish))
        if abs(best - wish) <= pitch:
            rows.append(best)
    return rows
