"""The gauges of the pull: how far faces lean for it, and what it cannot reach."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from supplecast import kernel
from supplecast.geometry import Vec, vec
from supplecast.molding.gauge import Band, Bar, Gauge, GaugeFigure, Offender
from supplecast.molding.gauges.judged import MOST_OFFENDERS, Asked, Judged, offender
from supplecast.wording import brief, direction_words, plural

_SPARE = 70.0  # degrees over what it needs: such a face lies across the pull
_ROUNDING = 5e-3  # degrees: the map is painted by normals that are off by as much


def draft(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    """The least draft against what resin and texture need, and the faces that are short of it or turn over."""
    need = {body.id: body.needed(asked) for body in bodies}
    short = [(body, face) for body in bodies for face in body.pulled.short(np.radians(need[body.id]))]
    short.sort(key=lambda pair: (round(float(pair[0].pulled.least[pair[1]]), 4), -pair[0].pulled.areas[pair[1]]))
    offenders = [_short_face(body, face, float(need[body.id][face])) for body, face in short]
    several = sorted({round(float(one), 6) for each in need.values() for one in each})
    needed = several[0]
    turning = [(body, face) for body in bodies for face in body.pulled.turning]
    offenders += [
        offender("turns over: it is seen from both sides, the mold parts along it", _middle(body, face), body, (face,))
        for body, face in turning
    ]
    leaning = np.concatenate([body.pulled.least[~np.isnan(body.pulled.least)] for body in bodies])
    least = math.degrees(float(leaning.min())) if len(leaning) else 0.0
    worst = min((float(body.pulled.least[face]) / math.radians(need[body.id][face]) for body, face in short), default=1.0)
    state = "good" if not short and not turning else "fault" if worst < 0.5 else "doubt"
    verdict = f"{plural(len(short), 'face')} short" if short else "turns over" if turning else "enough all over"
    bands = (
        Band(needed / 2 - _ROUNDING, f"under {brief(needed / 2)}°", "fault"),
        Band(needed - _ROUNDING, f"up to {brief(needed)}°", "doubt"),
        Band(80.0, f"{brief(needed)}° and more", "good"),
        Band(None, "flat across the pull", "calm"),
    )
    painted = "draft"
    if len(several) > 1:  # faces need unlike much: what is painted is what each has over that
        painted = "spare"
        bands = (
            Band(-needed / 2 - _ROUNDING, f"{brief(needed / 2)}° and more short", "fault"),
            Band(-_ROUNDING, "short", "doubt"),
            Band(_SPARE, "as much as it needs, and more", "good"),
            Band(None, "flat across the pull", "calm"),
        )
    figures = (
        GaugeFigure("least draft", f"{brief(least, 4)}°", "asin(n·d)", "exact: closed form, or sought on the face"),
        GaugeFigure(
            "needed",
            " to ".join(f"{brief(one)}°" for one in dict.fromkeys((several[0], several[-1]))),
            "resin's least + 1° a 0.025 mm of texture",
            "common practice, no source",
        ),
        GaugeFigure("faces that turn over", f"{len(turning)}"),
    )
    scale = max(3.0, 1.5 * needed)
    bar = Bar(min(needed / scale, 1.0), 1.0, min(least / scale, 1.0))
    return Gauge("draft", "Draft", brief(least, 2), "°", state, verdict, bar, painted, bands,
                 tuple(offenders[:MOST_OFFENDERS]), figures)  # fmt: skip


def _short_face(body: Judged, face: int, needed: float) -> Offender:
    has = math.degrees(float(body.pulled.least[face]))
    words = f"{brief(has)}°, needs {brief(needed)}°: {kernel.measure.surface_word(body.pulled.skin.solid, face)} face"
    return offender(words, _middle(body, face), body, (face,))


def _middle(body: Judged, face: int) -> Vec:
    """A place on the face: its own middle may lie off it."""
    places = body.pulled.skin.places
    mine = np.flatnonzero(places.faces == face)
    if not len(mine):
        return kernel.measure.face_middle(body.pulled.skin.solid, face)
    middles = places.middles[mine]
    return vec(middles[np.linalg.norm(middles - middles.mean(axis=0), axis=1).argmin()])


def undercut(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    """What is seen from neither side, and the slides that would free it."""
    undercuts = [(body, one) for body in bodies for one in body.pulled.undercuts]
    area = sum(one.area for _, one in undercuts)
    offenders = []
    for body, one in undercuts:
        if one.slide is not None:
            help = f"a slide along {direction_words(one.slide)} frees it"
        elif one.closed:
            help = "a closed hollow, which no tool can fill or leave"
        elif one.share > 0.02:
            help = f"one slide frees only {one.share:.0%} of it"
        else:
            help = "no straight pull frees it"
        offenders.append(offender(f"{brief(one.area)} mm² hidden: {help}", one.place, body, one.faces))
    slides = sum(one.slide is not None for _, one in undercuts)
    stuck = len(undercuts) - slides
    if not undercuts:
        verdict = "opens freely"
    elif stuck:
        verdict = f"{stuck} cannot open"
    else:
        verdict = f"needs {plural(slides, 'slide')}"
    bands = (
        Band(0.5, "seen from the core side", "core"),
        Band(1.5, "seen from the cavity side", "cavity"),
        Band(2.5, "upright, seen from both", "doubt"),
        Band(None, "seen from neither side", "fault"),
    )
    spacing = max(body.pulled.skin.places.spacing for body in bodies)
    figures = (
        GaugeFigure("hidden area", f"{brief(area)} mm²", "rays along the pull from every place, both ways"),
        GaugeFigure("places asked", f"{sum(len(b.pulled.hidden) for b in bodies)}, {brief(spacing, 2)} mm apart"),
    )
    value, unit = (brief(area), "mm²") if undercuts else ("none", "")
    state = "fault" if stuck else "doubt" if undercuts else "good"
    return Gauge("undercut", "Undercut", value, unit, state, verdict, None, "undercut", bands,
                 tuple(offenders[:MOST_OFFENDERS]), figures)  # fmt: skip
