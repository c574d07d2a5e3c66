"""The gauge of filling: how many walls the melt has to flow from its gate."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from supplecast.molding.gauge import Band, Bar, Gauge, GaugeFigure
from supplecast.molding.gauges.judged import Asked, Judged, offender
from supplecast.wording import brief

_RAMP = ("f0", "f1", "f2", "f3")


def flow(bodies: Sequence[Judged], asked: Asked) -> Gauge:
    """The longest way in walls against what the resin flows."""
    injection = asked.resin.injection if asked.resin else None
    flows = [body for body in bodies if body.flow is not None]
    if not flows or asked.gate is None:
        return Gauge("flow", "Flow to wall", "–", "", "none", "no gate chosen")
    longest, ratio = max(b.flow.longest for b in flows if b.flow), max(b.flow.highest for b in flows if b.flow)
    most = injection.flow if injection else None
    end = next(b.flow.end for b in flows if b.flow and b.flow.longest == longest)
    unreached = any(not np.isfinite(b.flow.lengths).all() for b in flows if b.flow)
    state = "none" if most is None else "fault" if ratio > most else "doubt" if ratio > 0.8 * most or unreached else "good"
    short = most is not None and ratio > most
    verdict = f"over {brief(most or 0.0)}" if short else "not all is reached" if unreached else "fills"
    quarter = max(ratio, 1e-9) / 4
    bands = (
        Band(-0.5, "not reached", "fault"),
        *(Band(quarter * k, f"up to {brief(quarter * k)} walls", paint) for k, paint in enumerate(_RAMP[:3], 1)),
        Band(None, f"up to {brief(ratio)} walls", _RAMP[3]),
    )
    figures = (
        GaugeFigure("longest way", f"{brief(longest, 4)} mm", "shortest way through the middle of the walls (Dijkstra)"),
        GaugeFigure("in walls", brief(ratio), "sum of each piece over the wall there"),
        *([GaugeFigure("resin's limit", brief(most), source=asked.source)] if most else []),
    )
    offenders = (offender("fills last: vent here", end, flows[0], ()),)
    bar = Bar(0.0, 0.8, min(ratio / (1.25 * most), 1.0)) if most else None
    return Gauge("flow", "Flow to wall", brief(ratio), "×", state, verdict, bar, "flow", bands, offenders, figures)
