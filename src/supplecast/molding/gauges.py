"""The gauges: what was measured of a part as numbers against the bands of its resin, with a verdict and the offenders."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from supplecast import kernel
from supplecast.geometry import Floats, Vec, vec
from supplecast.molding import estimates
from supplecast.molding.flow import Flow
from supplecast.molding.judge import Pulled
from supplecast.molding.mass import grams
from supplecast.molding.wall import THICK, THIN, Spot
from supplecast.quantities import brief
from supplecast.tooling.resins import PRICE_SOURCE, SOURCE, Resin

_MOST_OFFENDERS = 200
_ROUNDING = 5e-3  # degrees: the map is painted by normals that are off by as much
_THINNEST = 0.4  # of the usual wall, where no resin says: ribs and lips are about half of it
_RAMP = ("f0", "f1", "f2", "f3")
_SAFETY = 1.10  # what is added to the clamp force for safety (common practice, no source)


@dataclass(frozen=True)
class Offender:
    """A place that is out of its band: words, where, which way it looks, and the faces of which body."""

    words: str
    place: Vec
    way: Vec
    body: str
    faces: tuple[int, ...]


def _offender(words: str, place: Vec, body: Judged, faces: tuple[int, ...]) -> Offender:
    near = body.pulled.skin.places.whole.nearest(np.array([place])).triangles[0]
    return Offender(words, place, vec(body.pulled.skin.places.whole.normals[near]), body.id, faces)


@dataclass(frozen=True)
class Band:
    """Values of a map from the band before up to `upto`, or all others: its words, and the name of what it is painted with."""

    upto: float | None
    words: str
    paint: str


@dataclass(frozen=True)
class Figure:
    """A figure behind a gauge, in words, with the formula it comes from and where that, or its input, is from."""

    name: str
    words: str
    formula: str = ""
    source: str = ""


@dataclass(frozen=True)
class Bar:
    """A gauge's bar from 0 to 1: the allowed stretch, and where the value stands."""

    low: float
    high: float
    at: float


@dataclass(frozen=True)
class Gauge:
    """One gauge of the strip. `state` is good, doubt, fault or none; `map` names the values that `bands` paint."""

    id: str
    name: str
    value: str
    unit: str
    state: str
    verdict: str
    bar: Bar | None = None
    map: str = ""
    bands: tuple[Band, ...] = ()
    offenders: tuple[Offender, ...] = ()
    figures: tuple[Figure, ...] = ()


@dataclass(frozen=True)
class Asked:
    """What a part is judged by: its resin, the pull, how deep its texture is in mm, and where it is gated."""

    resin: Resin | None
    pull: Vec
    texture: float = 0.0
    gate: Vec | None = None


@dataclass(frozen=True)
class Judged:
    """A body with its id and name and what was measured of it; `flow` where there is a gate."""

    id: str
    name: str
    pulled: Pulled
    flow: Flow | None = None
    maps: dict[str, Floats] = field(default_factory=dict)

    @property
    def volume(self) -> float:
        return kernel.measure.volume(self.pulled.skin.solid)


def gauges(bodies: Sequence[Judged], asked: Asked) -> list[Gauge]:
    """All gauges of the bodies of a part."""
    return [make(bodies, asked) for make in (_wall, _draft, _undercut, _sink, _flow, _mass, _clamp)]


def values(body: Judged, of: str) -> Floats:
    """The values of a map at the places of a body's skin, (n,)."""
    pulled, walls = body.pulled, body.pulled.skin.walls
    match of:
        case "wall":
            return np.where(walls.rim, -1.0, walls.balls)
        case "draft":
            return np.degrees(pulled.map)
        case "undercut":
            upright = pulled.map < math.radians(0.05)
            facing = pulled.skin.places.normals @ np.array(pulled.pull)
            return np.where(pulled.hidden, 3.0, np.where(upright, 2.0, np.where(facing > 0, 0.0, 1.0)))
        case "flow" if body.flow is not None:
            return np.where(np.isfinite(body.flow.ratios), body.flow.ratios, -1.0)
    raise ValueError(of)


def _largest(bodies: Sequence[Judged]) -> Judged:
    return max(bodies, key=lambda body: body.volume)


def _plural(count: int, one: str, many: str = "") -> str:
    return f"{count} {one if count == 1 else many or one + 's'}"


def _spots(bodies: Sequence[Judged], of: str, limit: float) -> Iterator[tuple[Judged, Spot]]:
    for body in bodies:
        walls = body.pulled.skin.walls
        for spot in walls.thin(limit) if of == "thin" else walls.thick():
            yield body, spot


def _wall(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    walls = _largest(bodies).pulled.skin.walls
    usual = walls.usual
    least, _, most = asked.resin.wall if asked.resin else (_THINNEST * usual, usual, 2 * usual)
    limit = least
    thin = list(_spots(bodies, "thin", limit))
    offenders = tuple(
        _offender(f"{brief(spot.wall)} mm thin, {brief(spot.area, 2)} mm²", spot.place, body, spot.faces) for body, spot in thin
    )
    outside = usual < least or usual > most
    state = "fault" if thin or usual < least else "doubt" if outside else "good"
    if usual > most:
        verdict = f"over {brief(most, 2)} mm"
    else:
        verdict = _plural(len(thin), "thin spot") if thin else "even"
    scale = 1.3 * max(most, usual)
    bands = (
        Band(0.0, "rim, not judged", "calm"),
        Band(limit, f"under {brief(limit)} mm", "fault"),
        Band(max(THIN * usual, limit), f"under {brief(THIN * usual)} mm, as ribs and lips are", "thinner"),
        Band(0.97 * usual, "a little thin", "thin"),
        Band(1.03 * usual, f"{brief(usual)} mm, the usual wall", "good"),
        Band(THICK * usual, "a little thick", "thick"),
        Band(None, f"over {brief(THICK * usual)} mm", "thicker"),
    )
    figures = (
        Figure("usual wall", f"{brief(usual, 4)} mm", "half of the area is thinner", "largest ball inside, rims left out"),
        Figure("1 % thinner than", f"{brief(walls.least, 4)} mm"),
        Figure("1 % thicker than", f"{brief(walls.most, 4)} mm"),
        Figure("through by rays, usual", f"{brief(float(np.median(walls.rays)), 4)} mm"),
        *([Figure("resin's range", f"{brief(least)} to {brief(most)} mm", source=SOURCE)] if asked.resin else []),
    )
    value = brief(usual)
    return Gauge("wall", "Wall", value, "mm", state, verdict, Bar(least / scale, most / scale, usual / scale), "wall", bands,
                 offenders[:_MOST_OFFENDERS], figures)  # fmt: skip


def _needed(asked: Asked) -> float:
    return estimates.required_draft(asked.resin.draft if asked.resin else 1.0, asked.texture)


def _draft(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    needed = _needed(asked)
    short = [(body, face) for body in bodies for face in body.pulled.short(math.radians(needed))]
    short.sort(key=lambda pair: (round(float(pair[0].pulled.least[pair[1]]), 4), -pair[0].pulled.areas[pair[1]]))
    offenders = [_short_face(body, face, needed) for body, face in short]
    turning = [(body, face) for body in bodies for face in body.pulled.turning]
    offenders += [
        _offender("turns over: it is seen from both sides, the mold parts along it", _middle(body, face), body, (face,))
        for body, face in turning
    ]
    leaning = np.concatenate([body.pulled.least[~np.isnan(body.pulled.least)] for body in bodies])
    least = math.degrees(float(leaning.min())) if len(leaning) else 0.0
    state = "good" if not short and not turning else "fault" if short and least < needed / 2 else "doubt"
    verdict = f"{_plural(len(short), 'face')} short" if short else "turns over" if turning else "enough everywhere"
    bands = (
        Band(needed / 2 - _ROUNDING, f"under {brief(needed / 2)}°", "fault"),
        Band(needed - _ROUNDING, f"up to {brief(needed)}°", "doubt"),
        Band(80.0, f"{brief(needed)}° and more", "good"),
        Band(None, "flat across the pull", "calm"),
    )
    figures = (
        Figure("least draft", f"{brief(least, 4)}°", "asin(n·d)", "exact: closed form, or sought on the face"),
        Figure("needed", f"{brief(needed)}°", "resin's least + 1° a 0.025 mm of texture", "common practice, no source"),
        Figure("faces that turn over", f"{len(turning)}"),
    )
    scale = max(3.0, 1.5 * needed)
    bar = Bar(min(needed / scale, 1.0), 1.0, min(least / scale, 1.0))
    return Gauge("draft", "Draft", brief(least, 2), "°", state, verdict, bar, "draft", bands,
                 tuple(offenders[:_MOST_OFFENDERS]), figures)  # fmt: skip


def _short_face(body: Judged, face: int, needed: float) -> Offender:
    has = math.degrees(float(body.pulled.least[face]))
    words = f"{brief(has)}°, needs {brief(needed)}°: {kernel.measure.surface_word(body.pulled.skin.solid, face)} face"
    return _offender(words, _middle(body, face), body, (face,))


def _middle(body: Judged, face: int) -> Vec:
    """A place on the face: its own middle may lie off it."""
    places = body.pulled.skin.places
    mine = np.flatnonzero(places.faces == face)
    if not len(mine):
        return kernel.measure.face_middle(body.pulled.skin.solid, face)
    middles = places.middles[mine]
    return vec(middles[np.linalg.norm(middles - middles.mean(axis=0), axis=1).argmin()])


def way_words(way: Vec) -> str:
    """A direction in words: an axis of the document where it is one."""
    for axis, name in enumerate("xyz"):
        if abs(way[axis]) > 1 - 1e-6:
            return f"{'+' if way[axis] > 0 else '−'}{name}"
    return f"({', '.join(brief(c, 2) for c in way)})"


def _undercut(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    found = [(body, one) for body in bodies for one in body.pulled.undercuts]
    area = sum(one.area for _, one in found)
    offenders = []
    for body, one in found:
        if one.slide is not None:
            help = f"a slide along {way_words(one.slide)} frees it"
        elif one.share > 0.02:
            help = f"one slide frees only {one.share:.0%} of it"
        else:
            help = "no straight pull frees it"
        offenders.append(_offender(f"{brief(one.area)} mm² hidden: {help}", one.place, body, one.faces))
    slides = sum(one.slide is not None for _, one in found)
    stuck = len(found) - slides
    if not found:
        verdict = "opens freely"
    elif stuck:
        verdict = f"{stuck} cannot open"
    else:
        verdict = f"needs {_plural(slides, 'slide')}"
    bands = (
        Band(0.5, "seen from the core side", "core"),
        Band(1.5, "seen from the cavity side", "cavity"),
        Band(2.5, "upright, seen from both", "doubt"),
        Band(None, "seen from neither side", "fault"),
    )
    spacing = max(body.pulled.skin.places.spacing for body in bodies)
    figures = (
        Figure("hidden area", f"{brief(area)} mm²", "rays along the pull from every place, both ways"),
        Figure("places asked", f"{sum(len(b.pulled.hidden) for b in bodies)}, {brief(spacing, 2)} mm apart"),
    )
    value, unit = (brief(area), "mm²") if found else ("none", "")
    state = "fault" if stuck else "doubt" if found else "good"
    return Gauge("undercut", "Undercut", value, unit, state, verdict, None, "undercut", bands,
                 tuple(offenders[:_MOST_OFFENDERS]), figures)  # fmt: skip


def _sink(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    usual = _largest(bodies).pulled.skin.walls.usual
    found = sorted(_spots(bodies, "thick", 0.0), key=lambda pair: -pair[1].wall)
    worst = max([spot.wall for _, spot in found], default=_largest(bodies).pulled.skin.walls.most)
    ratio = worst / usual if usual else 0.0
    offenders = tuple(
        _offender(f"ball of {brief(spot.wall)} mm, {brief(spot.wall / usual)} walls", spot.place, body, spot.faces)
        for body, spot in found
    )
    bands = (
        Band(0.0, "rim, not judged", "calm"),
        Band(1.1 * usual, "as the wall", "good"),
        Band(THICK * usual, f"up to {brief(THICK, 2)} walls", "thick"),
        Band(1.35 * usual, "sinks", "doubt"),
        Band(None, "sinks deeply", "fault"),
    )
    figures = (
        Figure(
            "thickest ball",
            f"{brief(worst, 4)} mm",
            "D = ((t/2 + R)² + (s + R)² − R²) / (s + 2R) at a rib's root",
            "closed form",
        ),
        Figure("limit", f"{brief(THICK, 2)} walls", "a rib of 0.6 walls reaches 1.2", "common practice, from memory"),
    )
    state = "good" if not found else "fault" if ratio > 1.35 else "doubt"
    verdict = f"{_plural(len(found), 'thick spot')}" if found else "no thick spot"
    bar = Bar(0.0, THICK / 2, min(ratio / 2, 1.0))
    return Gauge("sink", "Sink risk", brief(ratio), "walls", state, verdict, bar, "wall", bands,
                 offenders[:_MOST_OFFENDERS], figures)  # fmt: skip


def _flow(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    injection = asked.resin.injection if asked.resin else None
    flows = [body for body in bodies if body.flow is not None]
    if not flows or asked.gate is None:
        return Gauge("flow", "Flow to wall", "–", "", "none", "no gate chosen")
    longest, ratio = max(b.flow.longest for b in flows if b.flow), max(b.flow.highest for b in flows if b.flow)
    most = injection.flow if injection else None
    end = next(b.flow.end for b in flows if b.flow and b.flow.longest == longest)
    unreached = any(not np.isfinite(b.flow.lengths).all() for b in flows if b.flow)
    state = "none" if most is None else "fault" if ratio > most else "doubt" if ratio > 0.8 * most or unreached else "good"
    verdict = "fills" if most is None or ratio <= most else f"over {brief(most)}"
    quarter = max(ratio, 1e-9) / 4
    bands = (
        Band(-0.5, "not reached", "fault"),
        *(Band(quarter * k, f"up to {brief(quarter * k)} walls", paint) for k, paint in enumerate(_RAMP[:3], 1)),
        Band(None, f"up to {brief(ratio)} walls", _RAMP[3]),
    )
    figures = (
        Figure("longest way", f"{brief(longest, 4)} mm", "shortest way through the middle of the walls (Dijkstra)"),
        Figure("in walls", brief(ratio), "sum of each piece over the wall there"),
        *([Figure("resin's limit", brief(most), source=SOURCE)] if most else []),
    )
    offenders = (_offender("fills last: vent here", end, flows[0], ()),)
    bar = Bar(0.0, 0.8, min(ratio / (1.25 * most), 1.0)) if most else None
    return Gauge("flow", "Flow to wall", brief(ratio), "×", state, verdict, bar, "flow", bands, offenders, figures)


def _mass(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    volume = sum(body.volume for body in bodies)
    area = sum(kernel.measure.mass(body.pulled.skin.solid).area for body in bodies)
    figures = [Figure("volume", f"{brief(volume / 1000, 5)} cm³"), Figure("surface", f"{brief(area / 100, 4)} cm²")]
    if asked.resin is None:
        return Gauge("mass", "Volume", brief(volume / 1000, 4), "cm³", "none", "no resin chosen", figures=tuple(figures))
    mass = grams(volume, asked.resin)
    price = mass / 1000 * asked.resin.price
    figures += [
        Figure("mass", f"{brief(mass, 4)} g", f"V · ρ, ρ = {asked.resin.density:g} g/cm³", SOURCE),
        Figure("resin's price", f"{price:.3f}", f"m · {asked.resin.price:g} per kg", PRICE_SOURCE),
    ]
    return Gauge(
        "mass", f"Mass, {asked.resin.name}", brief(mass), "g", "none", f"resin for {price:.2f}", figures=tuple(figures)
    )


def _clamp(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    area = sum(body.pulled.projected for body in bodies)
    figures = [Figure("projected area", f"{brief(area / 100, 4)} cm²", "shadow of the part along the pull")]
    injection = asked.resin.injection if asked.resin else None
    if injection is None:
        verdict = "cast by hand" if asked.resin else "no resin chosen"
        return Gauge("clamp", "Projected area", brief(area / 100), "cm²", "none", verdict, figures=tuple(figures))
    pressure = sum(injection.pressure) / 2
    force = estimates.clamp_force(area, pressure) * _SAFETY
    walls = _largest(bodies).pulled.skin.walls
    cooling = estimates.cooling_time(max(walls.most, walls.usual), injection)
    figures += [
        Figure("clamp force", f"{brief(force)} kN", f"p · A + 10 %, p = {pressure:g} MPa", f"common practice; p: {SOURCE}"),
        Figure("cooling", f"{brief(cooling)} s", "s² / (π² a) · ln(4/π · (Tm − Tw) / (Te − Tw))",
               "Carslaw, Jaeger; Menges, Michaeli, Mohren"),
    ]  # fmt: skip
    tonnes = estimates.tonnes(force)
    return Gauge("clamp", "Clamp", brief(tonnes), "t", "none", f"cools in {brief(cooling, 2)} s", figures=tuple(figures))
