"""The gauges of a tool: whether it opens, the press it needs, its shot, cycle and price, and the steel round the cavity."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

from supplecast import kernel
from supplecast.geometry import Vec, times
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import estimates, opening, release
from supplecast.molding.gauge import Bar, Gauge, GaugeFigure, Offender
from supplecast.molding.gauges import inputs
from supplecast.molding.judge import Skin, skin_of
from supplecast.molding.mass import grams
from supplecast.tooling.resins import PRICE_SOURCE, SOURCE, Resin
from supplecast.wording import brief, plural

_STIFF = 0.02  # mm that a cavity wall may give way (common practice, from memory)
_THUMB = 25.0  # mm of steel at least (common practice, from memory)


@dataclass(frozen=True)
class Steel:
    """A body of the tool that forms parts: its id and name, the faces that do, and the way it leaves."""

    id: str
    name: str
    solid: Solid
    forming: tuple[int, ...]
    direction: Vec


@dataclass(eq=False)
class ToolAsked:
    """A tool as it is judged: the parts at cavity size, the feed, the steel that forms them, its resin and pull; `checked`
    tells that an opening check has passed; `typed` are figures that the sheet states.
    """

    parts: Sequence[Solid]
    feeds: Sequence[Solid]
    steel: Sequence[Steel]
    outer: Sequence[Solid]
    pull: Vec
    resin: Resin | None
    source: str = SOURCE
    checked: bool = False
    typed: inputs.Typed = field(default_factory=inputs.Typed)

    @cached_property
    def area(self) -> float:
        """Shadow of parts and feed along the pull, mm²."""
        meshes = []
        for solid in (*self.parts, *self.feeds):
            fine = min(max(kernel.measure.loose_box(solid).diagonal / 3000, 0.01), 0.1)
            meshes.append(kernel.mesh.tessellate(solid, fine, 0.3, edges=False).welded())
        return estimates.projected_area(meshes, self.pull)

    @cached_property
    def volume(self) -> float:
        return sum(kernel.measure.volume(solid) for solid in (*self.parts, *self.feeds))

    @cached_property
    def feed(self) -> float:
        return sum(kernel.measure.volume(solid) for solid in self.feeds)

    @cached_property
    def skin(self) -> Skin:
        """Of the largest part: it speaks for the cycle."""
        return skin_of(max(self.parts, key=kernel.measure.volume))

    @property
    def force(self) -> float:
        """Clamp force in kN, with safety; 0 for what is cast by hand."""
        injection = self.resin.injection if self.resin else None
        return estimates.clamp_force(self.area, estimates.pressure(injection)) * (1 + self.typed.margin) if injection else 0.0

    @cached_property
    def cooling(self) -> float:
        injection = self.resin.injection if self.resin else None
        return (
            estimates.cooling_time(self.typed.wall or estimates.cooling_wall(self.skin.walls), injection) if injection else 0.0
        )


def gauges(asked: ToolAsked) -> list[Gauge]:
    """All gauges of a tool, in the order of the strip; none before there is a part."""
    if not asked.parts:
        return []
    return [make(asked) for make in (opens, press, shot, cycle, steel, price)]


def opens(asked: ToolAsked) -> Gauge:
    """Whether every face that forms the part looks against the way its body leaves."""
    if not asked.steel:
        return Gauge("opens", "Opens", "–", "", "none", "no halves yet")
    offenders = []
    for body in asked.steel:
        for face in opening.facing_wrong(body.solid, body.forming, body.direction):
            spot = kernel.measure.point_inside(body.solid, face) or kernel.measure.face_middle(body.solid, face)
            offenders.append(
                Offender(
                    f"{body.name}: this face would take the part along", spot, times(body.direction, -1.0), body.id, (face,)
                )
            )
    formed = sum(len(body.forming) for body in asked.steel)
    figures = (
        GaugeFigure("faces that form the part", f"{formed}"),
        GaugeFigure(
            "look the wrong way",
            f"{len(offenders)}",
            "n · d > sin 0.05° for the way d on which the body leaves",
            "exact range of each face",
        ),
        GaugeFigure(
            "opening check", "passed" if asked.checked else "not run", "add the step “Opening check” for rays and shared space"
        ),
    )
    if offenders:
        return Gauge(
            "opens",
            "Opens",
            "no",
            "",
            "fault",
            f"{plural(len(offenders), 'face')} caught",
            offenders=tuple(offenders),
            figures=figures,
        )
    return Gauge("opens", "Opens", "yes", "", "good", "checked" if asked.checked else "by draft", figures=figures)


def press(asked: ToolAsked) -> Gauge:
    """The force that holds the tool shut, and the one that pushes the parts off."""
    figures = [GaugeFigure("projected area", f"{brief(asked.area / 100, 4)} cm²", "shadow of parts and feed along the pull")]
    injection = asked.resin.injection if asked.resin else None
    if injection is None or asked.resin is None:
        verdict = "cast by hand" if asked.resin else "no resin chosen"
        return Gauge("press", "Projected area", brief(asked.area / 100), "cm²", "none", verdict, figures=tuple(figures))
    off = release.force(asked.skin, asked.pull, asked.resin) * len(asked.parts)
    figures += [
        *inputs.clamped(asked.force, injection, asked.source, asked.typed.margin),
        GaugeFigure(
            "force to eject",
            f"{brief(off)} kN",
            "μ · E S s / r · steep area of the cores",
            "thin ring; Menges, Michaeli, Mohren, from memory",
        ),
    ]
    tonnes = estimates.tonnes(asked.force)
    return Gauge("press", "Clamp", brief(tonnes), "t", "none", f"on {brief(asked.area / 100)} cm²", figures=tuple(figures))


def shot(asked: ToolAsked) -> Gauge:
    """What one shot weighs, and how much of it is feed."""
    waste = asked.feed / asked.volume
    figures = [GaugeFigure("parts and feed", f"{brief(asked.volume / 1000, 4)} cm³"), GaugeFigure("feed", f"{waste:.1%} of it")]
    bar = Bar(0.0, 0.3, min(waste, 1.0))
    verdict = f"{waste:.0%} is feed" if asked.feeds else "no feed yet"
    if asked.resin is None:
        return Gauge("shot", "Shot", brief(asked.volume / 1000), "cm³", "none", verdict, bar, figures=tuple(figures))
    mass = grams(asked.volume, asked.resin)
    figures.append(GaugeFigure("mass", f"{brief(mass, 4)} g", f"V · ρ, ρ = {asked.resin.density:g} g/cm³", asked.source))
    state = "doubt" if waste > 0.3 else "good" if asked.feeds else "none"
    return Gauge("shot", f"Shot, {asked.resin.name}", brief(mass), "g", state, verdict, bar, figures=tuple(figures))


def cycle(asked: ToolAsked) -> Gauge:
    """How long a shot takes, and how many pieces that gives."""
    if asked.resin is None or asked.resin.injection is None:
        return Gauge("cycle", "Cycle", "–", "", "none", "cast by hand" if asked.resin else "no resin chosen")
    whole = estimates.cycle_time(asked.cooling, asked.typed.idle)
    pieces = 3600 / whole * len(asked.parts)
    figures = (
        *inputs.cooled(asked.skin.walls, asked.resin.injection, asked.source, asked.typed.wall),
        GaugeFigure(
            "fill, open, eject, close",
            f"{brief(whole - asked.cooling)} s",
            source="as typed" if asked.typed.idle is not None else "common practice, from memory",
        ),
        GaugeFigure("shots an hour", brief(3600 / whole), "3600 / cycle"),
        GaugeFigure("pieces an hour", brief(pieces), f"{plural(len(asked.parts), 'place')}"),
    )
    return Gauge("cycle", "Cycle", brief(whole), "s", "none", f"{brief(pieces)} pieces/h", figures=figures)


def steel(asked: ToolAsked) -> Gauge:
    """The least steel beside and behind the cavity, against what bends too much."""
    if not asked.outer:
        return Gauge("steel", "Steel", "–", "", "none", "no block yet")
    axis = max(range(3), key=lambda k: abs(asked.pull[k]))
    boxes = [kernel.measure.corner_box(solid) for solid in asked.outer]
    low, high = [min(b.low[k] for b in boxes) for k in range(3)], [max(b.high[k] for b in boxes) for k in range(3)]
    parts = [kernel.measure.loose_box(solid) for solid in asked.parts]
    margins = [m for p in parts for k in range(3) for m in (p.low[k] - low[k], high[k] - p.high[k])]
    least = min(margins)
    depth = max(p.size[axis] for p in parts)
    injection = asked.resin.injection if asked.resin else None
    if injection is None:
        return Gauge(
            "steel",
            "Mold wall",
            brief(least),
            "mm",
            "none",
            "cast by hand",
            figures=(GaugeFigure("least wall", f"{brief(least)} mm"),),
        )
    pressure = sum(injection.pressure) / 2
    needed = estimates.wall_for_deflection(pressure, depth, _STIFF)
    thumb = max(_THUMB, depth)
    state = "fault" if least < needed else "doubt" if least < thumb else "good"
    verdict = {"fault": f"needs {brief(needed)} mm", "doubt": f"{brief(thumb)} mm is usual", "good": "stiff enough"}[state]
    scale = 1.5 * max(thumb, least)
    figures = (
        GaugeFigure("least steel round a cavity", f"{brief(least)} mm"),
        GaugeFigure(
            "by deflection",
            f"{brief(needed)} mm",
            f"t³ = 0.0138 p b⁴ / (E w), p = {pressure:g} MPa, b = {brief(depth)} mm, w = {_STIFF:g} mm",
            "Timoshenko, Theory of Plates and Shells",
        ),
        GaugeFigure(
            "rule of thumb", f"{brief(thumb)} mm", "the larger of 25 mm and the cavity's depth", "common practice, from memory"
        ),
    )
    return Gauge(
        "steel",
        "Steel",
        brief(least),
        "mm",
        state,
        verdict,
        Bar(min(needed / scale, 1.0), 1.0, min(least / scale, 1.0)),
        figures=figures,
    )


def price(asked: ToolAsked) -> Gauge:
    """What a piece costs to mold, and its share of the tool where that is known."""
    if asked.resin is None:
        return Gauge("price", "A piece", "–", "", "none", "no resin chosen")
    material = grams(asked.volume, asked.resin) / 1000 * asked.resin.price
    if asked.resin.injection is None:
        each = material / len(asked.parts)
        return Gauge("price", "A piece", f"¤{each:.2f}", "", "none", "material alone", figures=(
            GaugeFigure("material", f"¤{each:.3f}", f"m · ¤{asked.resin.price:g} per kg", PRICE_SOURCE),))  # fmt: skip
    typed = asked.typed
    rate = typed.press if typed.press is not None else estimates.machine_rate(estimates.tonnes(asked.force))
    whole = estimates.cycle_time(asked.cooling, typed.idle)
    molded = estimates.piece_price(material, rate, whole, len(asked.parts))
    share = typed.tool / typed.pieces if typed.pieces else 0.0
    by_rule = "as typed" if typed.press is not None else "common practice, from memory: ask your molder"
    figures = [
        GaugeFigure("material of a shot", f"¤{material:.3f}", f"m · ¤{asked.resin.price:g} per kg", PRICE_SOURCE),
        GaugeFigure("press", f"¤{rate:.1f} an hour", "" if typed.press is not None else "20 + 0.15 · tonnes", by_rule),
        GaugeFigure("a piece", f"¤{molded:.3f}", "(material + rate · cycle) / places, without the tool"),
    ]
    if share:
        words = f"¤{typed.tool:,.0f} shared by {typed.pieces:,.0f} pieces"
        figures.append(GaugeFigure("of the tool", f"¤{share:.3f}", words, "step “Costing”"))
    verdict = "with press and tool" if share else "with the press"
    return Gauge("price", "A piece", f"¤{molded + share:.2f}", "", "none", verdict, figures=tuple(figures))
