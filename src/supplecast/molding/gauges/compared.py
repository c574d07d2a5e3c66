"""The gauge of a mesh that a body is compared with: how far the one is off the other."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.molding.deviation import FAR, deviation
from supplecast.molding.gauge import Band, Gauge, GaugeFigure
from supplecast.molding.gauges.judged import Judged, offender
from supplecast.wording import brief

NONE = -99.0
"""Stands for a place that no mesh is near to."""
_CLOSE, _OFF = 0.1, 0.3  # mm: as near as scans and prints are, and what anybody sees (common practice, no source)
BANDS = (
    Band(-50.0, f"no mesh within {FAR:g} mm", "calm"),
    Band(-_OFF, f"over {_OFF:g} mm inside the mesh", "thicker"),
    Band(-_CLOSE, f"over {_CLOSE:g} mm inside the mesh", "thick"),
    Band(_CLOSE, f"within {_CLOSE:g} mm of it", "good"),
    Band(_OFF, f"over {_CLOSE:g} mm outside the mesh", "thin"),
    Band(None, f"over {_OFF:g} mm outside the mesh", "thinner"),
)


def compared(pairs: Sequence[tuple[Judged, str, MeshBody]]) -> Gauge:
    """How far bodies are off the meshes of the same things: each body, and the name and triangles of its mesh."""
    figures, offenders, worst, least = [], [], 0.0, 1.0
    for body, name, mesh in pairs:
        found = deviation(body.pulled.skin.places, mesh, _CLOSE)
        worst, least = max(worst, found.beyond, found.behind, found.missed), min(least, found.share)
        label = f"{body.name} and {name}"
        figures += [
            GaugeFigure(
                f"{label}, within {_CLOSE:g} mm", f"{100 * found.share:.1f} % of its skin", "signed distance", "by triangles"
            ),
            GaugeFigure("outside the mesh by up to", f"{brief(round(found.beyond, 3))} mm"),
            GaugeFigure("inside the mesh by up to", f"{brief(round(found.behind, 3))} mm"),
            GaugeFigure("the mesh beyond it by up to", f"{brief(round(found.missed, 3))} mm"),
        ]
        spots = [(found.beyond, "outside", found.places[0]), (found.behind, "inside", found.places[1])]
        for away, word, place in spots:
            if away > _CLOSE:
                offenders.append(offender(f"{body.name} lies {brief(away)} mm {word} {name}", place, body, ()))
        if found.missed > _CLOSE:
            words = f"{name} has something {brief(found.missed)} mm off {body.name}"
            offenders.append(offender(words, found.missed_at, body, ()))
    state = "good" if worst <= _CLOSE else "doubt"
    verdict = "as the mesh" if worst <= _CLOSE else f"{100 * least:.0f} % fits"
    return Gauge("mesh", "Off mesh", brief(worst), "mm", state, verdict, None, "mesh", BANDS, tuple(offenders), tuple(figures))
