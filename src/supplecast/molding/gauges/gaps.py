"""The gauge of gaps: which bodies of a document run into each other, and whether the gaps that are wanted are there."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from supplecast.geometry import Vec, subtract, unit
from supplecast.kernel.shapes.shape import Solid
from supplecast.molding import clearances
from supplecast.molding.clearances import NEAR, Meeting
from supplecast.molding.gauge import Band, Gauge, GaugeFigure, Offender
from supplecast.wording import brief, plural

_TOUCHING = 1e-4  # mm
_MOST_PAIRS = 60
BANDS = (
    Band(-0.5, "no other body within 1 mm", "calm"),
    Band(0.02, "touches", "fault"),
    Band(0.1, "up to 0.1 mm", "thinner"),
    Band(0.3, "up to 0.3 mm", "thin"),
    Band(None, "up to 1 mm", "good"),
)


@dataclass(frozen=True)
class Wanted:
    """A gap that is wanted between two bodies, by their ids: from `least` to `most` mm; `by` says what asks for it."""

    first: str
    second: str
    least: float
    most: float
    by: str


def gaps(bodies: Mapping[str, tuple[str, Solid]], wanted: Sequence[Wanted], same: Collection[tuple[str, str]] = ()) -> Gauge:
    """How the bodies lie to each other: `bodies` are name and solid by id. Pairs that are the `same` thing are passed over."""
    within = max([NEAR, *(w.most for w in wanted)])
    met = clearances.meetings({key: solid for key, (_, solid) in bodies.items()}, within, same)
    overlaps = sorted(((pair, m) for pair, m in met.items() if m.volume), key=lambda row: -row[1].volume)
    off = [(w, _between(met, w)) for w in wanted if w.first in bodies and w.second in bodies]
    off = [(w, m) for w, m in off if not (m is not None and not m.volume and w.least <= _rounded(m.away) <= w.most)]
    apart = sorted(((pair, m) for pair, m in met.items() if not m.volume), key=lambda row: row[1].away)

    def names(pair: tuple[str, str]) -> str:
        return f"{bodies[pair[0]][0]} and {bodies[pair[1]][0]}"

    offenders = [_offender(f"{names(pair)} overlap by {_volume(m)}", pair, m) for pair, m in overlaps]
    told = {pair for pair, _ in overlaps}
    for want, m in off:
        pair = (want.first, want.second) if m is None or (want.first, want.second) in met else (want.second, want.first)
        words = f"{names(pair)} are {_apart(m, within)}; wanted {brief(want.least)} to {brief(want.most)} mm ({want.by})"
        if m is not None and pair not in told:
            offenders.append(_offender(words, pair, m))
    figures = [GaugeFigure(names(pair), f"overlap {_volume(m)}", *_OVERLAP[m.exact]) for pair, m in overlaps]
    figures += [GaugeFigure(f"wanted: {names((w.first, w.second))}", _apart(m, within)) for w, m in off]
    figures += [
        GaugeFigure(names(pair), _apart(m, within), "least distance", "exact" if m.exact else "by triangles")
        for pair, m in apart
    ]
    state = "fault" if overlaps or off else "good"
    if overlaps:
        value, unit_, verdict = str(len(overlaps)), "overlap" if len(overlaps) == 1 else "overlaps", "in each other"
    else:
        value, unit_ = (brief(_rounded(apart[0][1].away)), "mm") if apart else (f"over {brief(within)}", "mm")
        kept = "as wanted" if wanted else "no overlap"
        verdict = f"{plural(len(off), 'gap')} not as wanted" if off else kept
    return Gauge("gaps", "Gaps", value, unit_, state, verdict, None, "gap", BANDS, tuple(offenders),
                 tuple(figures[:_MOST_PAIRS]))  # fmt: skip


_OVERLAP = {True: ("volume in common", "exact"), False: ("volume in common", "by triangles, about")}


def _between(met: Mapping[tuple[str, str], Meeting], want: Wanted) -> Meeting | None:
    return met.get((want.first, want.second)) or met.get((want.second, want.first))


def _rounded(away: float) -> float:
    """A distance as the kernel tells it, to a millionth: 0.1 stays 0.1."""
    return round(away, 6)


def _volume(met: Meeting) -> str:
    return f"{'' if met.exact else 'about '}{brief(met.volume, 4)} mm³"


def _apart(met: Meeting | None, within: float) -> str:
    if met is None:
        return f"over {brief(within)} mm apart"
    if met.volume:
        return "in each other"
    return "touching" if met.away < _TOUCHING else f"{brief(_rounded(met.away), 4)} mm apart"


def _offender(words: str, pair: tuple[str, str], met: Meeting) -> Offender:
    way: Vec = subtract(met.places[1], met.places[0])
    direction = unit(way) if sum(c * c for c in way) > 1e-12 else (0.0, 0.0, 1.0)
    return Offender(words, met.places[0], direction, pair[0], met.faces[0], pair[1], met.faces[1])
