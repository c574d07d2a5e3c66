"""The gauges of walls: how thick they are, and where so much stands together that it sinks."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from supplecast.molding.gauge import Band, Bar, Gauge, GaugeFigure
from supplecast.molding.gauges.judged import MOST_OFFENDERS, Asked, Judged, largest, offender
from supplecast.molding.wall import THICK, THIN
from supplecast.wording import brief, plural

_DEEP = 1.35  # walls: from there on a mass sinks deeply (common practice, no source)
_THINNEST = 0.4  # of the usual wall, where no resin says: ribs and lips are about half of it


def wall(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    """The usual wall against the resin's range, and the places that are too thin for it."""
    walls = largest(bodies).pulled.skin.walls
    usual = walls.usual
    least, _, most = asked.resin.wall if asked.resin else (_THINNEST * usual, usual, 2 * usual)
    thin = [(body, spot) for body in bodies for spot in body.pulled.skin.walls.thin(least)]
    offenders = tuple(
        offender(f"{brief(spot.wall)} mm thin, {brief(spot.area, 2)} mm²", spot.place, body, spot.faces) for body, spot in thin
    )
    outside = usual < least or usual > most
    state = "fault" if thin or usual < least else "doubt" if outside else "good"
    if usual > most:
        verdict = f"over {brief(most, 2)} mm"
    else:
        verdict = plural(len(thin), "thin spot") if thin else "even"
    scale = 1.3 * max(most, usual)
    bands = (
        Band(0.0, "rim, not judged", "calm"),
        Band(least, f"under {brief(least)} mm", "fault"),
        Band(max(THIN * usual, least), f"under {brief(THIN * usual)} mm, as ribs and lips are", "thinner"),
        Band(0.97 * usual, "a little thin", "thin"),
        Band(1.03 * usual, f"{brief(usual)} mm, the usual wall", "good"),
        Band(THICK * usual, "a little thick", "thick"),
        Band(None, f"over {brief(THICK * usual)} mm", "thicker"),
    )
    figures = (
        GaugeFigure("usual wall", f"{brief(usual, 4)} mm", "half of the area is thinner", "largest ball inside, rims left out"),
        GaugeFigure("1 % thinner than", f"{brief(walls.least, 4)} mm"),
        GaugeFigure("1 % thicker than", f"{brief(walls.most, 4)} mm"),
        GaugeFigure("through by rays, usual", f"{brief(float(np.median(walls.rays)), 4)} mm"),
        *([GaugeFigure("resin's range", f"{brief(least)} to {brief(most)} mm", source=asked.source)] if asked.resin else []),
    )
    value = brief(usual)
    return Gauge("wall", "Wall", value, "mm", state, verdict, Bar(least / scale, most / scale, usual / scale), "wall", bands,
                 offenders[:MOST_OFFENDERS], figures, other_map="rays")  # fmt: skip


def sink(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    """The thickest masses against the wall they stand on."""
    usual = largest(bodies).pulled.skin.walls.usual
    spots = [(body, spot) for body in bodies for spot in body.pulled.skin.walls.thick()]
    spots.sort(key=lambda pair: -pair[1].wall)
    worst = max([spot.wall for _, spot in spots], default=largest(bodies).pulled.skin.walls.most)
    ratio = worst / usual if usual else 0.0
    offenders = tuple(
        offender(f"ball of {brief(spot.wall)} mm, {brief(spot.wall / usual)} walls", spot.place, body, spot.faces)
        for body, spot in spots
    )
    bands = (
        Band(0.0, "rim, not judged", "calm"),
        Band(1.1 * usual, "as the wall", "good"),
        Band(THICK * usual, f"up to {brief(THICK, 2)} walls", "thick"),
        Band(_DEEP * usual, "sinks", "doubt"),
        Band(None, "sinks deeply", "fault"),
    )
    figures = (
        GaugeFigure(
            "thickest ball",
            f"{brief(worst, 4)} mm",
            "D = ((t/2 + R)² + (s + R)² − R²) / (s + 2R) at a rib's root",
            "closed form",
        ),
        GaugeFigure("limit", f"{brief(THICK, 2)} walls", "a rib of 0.6 walls reaches 1.2", "common practice, from memory"),
    )
    state = "good" if not spots else "fault" if ratio > _DEEP else "doubt"
    verdict = plural(len(spots), "thick spot") if spots else "no thick spot"
    bar = Bar(0.0, THICK / 2, min(ratio / 2, 1.0))
    return Gauge("sink", "Sink risk", brief(ratio), "walls", state, verdict, bar, "wall", bands,
                 offenders[:MOST_OFFENDERS], figures)  # fmt: skip
