"""A first guess of an outline in a photo: the edges of what stands clearly off a plain ground, fitted by lines and arcs.

The ground is the colour of the picture's rim; what differs from it is parted off by Otsu's threshold, and its edges are
followed between the pixels (marching squares). Each is covered by the fewest lines and arcs that keep within a tolerance,
found by dynamic programming over places along it. What comes out is a guess for the hand to correct; how far it is off the
edges is told.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageOps
from scipy.ndimage import gaussian_filter
from skimage.filters import threshold_otsu
from skimage.measure import find_contours

from supplecast import kernel
from supplecast.curves import Arc2, Circle2, Curve2, Line2
from supplecast.errors import SketchError, SuppleError
from supplecast.geometry import Floats, Point2
from supplecast.sketch.belongings import Photo
from supplecast.sketch.tools.circle import through

_LARGEST = 1600  # pixels along the longer side: more tells nothing of an edge that is soft
_SOFT = 1.0  # pixels
_OFF = 1.6  # pixels of the scaled picture that a piece may lie off the edge
_PLACES = 160  # along an edge, where pieces may meet
_REACH, _CORNER = 8, 0.6  # pixels to either side, and how far (rad) the edge turns between them at a corner
_LEAST = 4e-4  # of the picture's area: smaller specks are none
_MOST = 60  # outlines


@dataclass(frozen=True)
class Traced:
    """Curves in the plane of the sketch, mm, and how far they lie off the edges at most."""

    curves: list[Curve2]
    off: float


def trace(content: bytes, photo: Photo) -> Traced:
    """The outline of what a photo shows, where the photo lies. SuppleError where nothing stands off its ground."""
    with Image.open(io.BytesIO(content), formats=("PNG", "JPEG")) as image:
        image.draft("RGB", (_LARGEST, _LARGEST))
        small = ImageOps.exif_transpose(image).convert("RGB")  # as browsers show it
        small.thumbnail((_LARGEST, _LARGEST))
    pixels = np.asarray(small, dtype=float)
    rim = np.concatenate([pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1]])
    apart = gaussian_filter(np.linalg.norm(pixels - np.median(rim, axis=0), axis=2), _SOFT)
    if float(np.ptp(apart)) < 12:
        raise SuppleError("Nothing stands off the ground of that photo.", "Take a photo on a plain ground of another colour.")
    level = float(threshold_otsu(apart))
    high, wide = apart.shape
    runs = [run for run in find_contours(apart, level) if len(run) > 12 and np.allclose(run[0], run[-1])]
    runs = [run for run in runs if abs(_area(run)) > _LEAST * high * wide]
    runs.sort(key=lambda run: -abs(_area(run)))
    if not runs:
        raise SuppleError(
            "No closed outline is found in that photo.",
            "What is traced must lie wholly in it, on a plain ground of another colour.",
        )
    scale = photo.width / wide
    curves: list[Curve2] = []
    worst = 0.0
    for run in runs[:_MOST]:
        pieces, off = _fitted(run[:-1, ::-1])
        worst = max(worst, off)
        curves += [_placed(piece, photo, scale, wide, high) for piece in pieces]
    return Traced(curves, worst * scale)


def _area(run: Floats) -> float:
    x, y = run[:, 1], run[:, 0]
    return float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y)) / 2


# --- pieces ----------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Piece:
    """From one place to another, straight or by way of a third."""

    a: Point2
    b: Point2
    by: Point2 | None = None
    whole: bool = False


def _fitted(run: Floats) -> tuple[list[_Piece], float]:
    """A closed run of places covered by pieces, and how far it lies off them at most."""
    centre, radius, off = _circle(run)
    if off < _OFF:
        return [_Piece((centre[0] + radius, centre[1]), (centre[0] - radius, centre[1]), whole=True)], off
    # Where the first piece begins is chosen blindly: begun again at a joint, the cover is the best there is.
    run = np.roll(run, -_cover(run)[0][1], axis=0)
    cover = _settled(run, _settled(run, _cover(run)))
    ends = _joints(run, cover)
    pieces = []
    worst = 0.0
    for k, (start, end) in enumerate(cover):
        part = _part(run, start, end)
        a, b = _tuple(ends[k]), _tuple(ends[(k + 1) % len(cover)])
        by = None if _is_straight(part) else _middle(part)
        off = _off_line(part) if by is None else _off_arc(part, by)
        worst = max(worst, off)
        pieces.append(_Piece(a, b, by))
    return pieces, worst


def _is_straight(part: Floats) -> bool:
    return _off_line(part) < _OFF and not _bends(part)


def _settled(run: Floats, cover: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """The same pieces, each joint moved to where the two beside it lie nearest to the places in the mean."""
    count, step = len(cover), len(run) // _PLACES + 1
    starts = [start for start, _ in cover]
    ends = [end for _, end in cover]
    straight = [_is_straight(_part(run, *span)) for span in cover]
    for k in range(1, count):
        low, high = max(starts[k] - step, starts[k - 1] + 3), min(starts[k] + step, ends[k] - 3)
        tried = [
            (_rest(_part(run, starts[k - 1], at), straight[k - 1]) + _rest(_part(run, at, ends[k]), straight[k]), at)
            for at in range(low, high + 1)
        ]
        if tried:
            starts[k] = ends[k - 1] = min(tried)[1]
    return list(zip(starts, ends, strict=True))


def _rest(part: Floats, straight: bool) -> float:
    """What is left between some places and their line or circle: the sum of squares."""
    if straight:
        return float(np.linalg.svd(part - part.mean(axis=0), compute_uv=False)[1] ** 2)
    centre, radius, _ = _circle(part)
    return float(np.sum((np.hypot(part[:, 0] - centre[0], part[:, 1] - centre[1]) - radius) ** 2))


def _joints(run: Floats, cover: Sequence[tuple[int, int]]) -> Floats:
    """Where pieces meet: two lines where they cross, a line and a circle that touch at the foot of its centre, if near."""
    ends = np.array([run[start % len(run)] for start, _ in cover])
    held: list[tuple[Floats, Floats] | Floats] = []
    for span in cover:
        part = _part(run, *span)
        inner = part[len(part) // 8 : len(part) - len(part) // 8] if len(part) > 10 else part
        if _is_straight(part):
            held.append((inner.mean(axis=0), np.linalg.svd(inner - inner.mean(axis=0))[2][0]))
        else:
            centre, radius, _ = _circle(part)
            held.append(np.array([*centre, radius]))
    for k, one in enumerate(held):
        met = _meeting(held[k - 1], one)
        if met is not None and float(np.hypot(*(met - ends[k]))) < 6 * _OFF:
            ends[k] = met
    return ends


def _meeting(last: tuple[Floats, Floats] | Floats, this: tuple[Floats, Floats] | Floats) -> Floats | None:
    if isinstance(last, tuple) and isinstance(this, tuple):
        (p, u), (q, v) = last, this
        cross = float(u[0] * v[1] - u[1] * v[0])
        if abs(cross) < 0.1:
            return None
        return np.asarray(p + u * float((q - p)[0] * v[1] - (q - p)[1] * v[0]) / cross)
    for line, ring in ((last, this), (this, last)):
        if isinstance(line, tuple) and not isinstance(ring, tuple):
            foot = line[0] + line[1] * float((ring[:2] - line[0]) @ line[1])
            return np.asarray(foot) if abs(float(np.hypot(*(foot - ring[:2]))) - ring[2]) < 2 * _OFF else None
    return None


def _marks(run: Floats) -> list[int]:
    """Where pieces may meet: evenly along the run, and at its corners."""
    if len(run) <= _PLACES:
        return list(range(len(run)))
    ahead, behind = np.roll(run, -_REACH, axis=0) - run, run - np.roll(run, _REACH, axis=0)
    turn = np.abs(np.arctan2(behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0], (behind * ahead).sum(axis=1)))
    sharpest = np.max([np.roll(turn, k) for k in range(-_REACH, _REACH + 1)], axis=0)
    corners = np.nonzero((turn == sharpest) & (turn > _CORNER))[0]
    even = [
        k for k in (round(n * len(run) / _PLACES) for n in range(_PLACES)) if np.abs(corners - k).min(initial=99) > _REACH / 2
    ]
    return sorted({0, *even, *(int(k) for k in corners)})


def _part(run: Floats, start: int, end: int) -> Floats:
    return run[np.arange(start, end + 1) % len(run)]


def _cover(run: Floats) -> list[tuple[int, int]]:
    """The fewest pieces from the first place once round, and of those the ones that lie nearest, as spans of places."""
    places = [*_marks(run), len(run)]
    count = len(places)
    best = np.full(count, np.inf)
    best[0] = 0.0
    before = np.zeros(count, dtype=int)
    for j in range(1, count):
        misses = 0
        for i in range(j - 1, -1, -1):
            part = _part(run, places[i], places[j])
            off = min(_off_line(part), _off_arc(part, _middle(part)) if len(part) > 4 else np.inf)
            if off >= _OFF and i < j - 1:
                misses += 1
                if misses > 3:  # what is too long for a piece does not fit by growing
                    break
                continue
            cost = best[i] + 1.0 + 0.1 * off / _OFF  # from one place to the next there must be a piece, be it ever so far off
            if cost < best[j]:
                best[j], before[j] = cost, i
    spans = []
    j = count - 1
    while j > 0:
        spans.append((places[before[j]], places[j]))
        j = int(before[j])
    return spans[::-1]


def _aside(part: Floats) -> Floats:
    """How far some places lie to the left of the line between their ends, (n,); infinitely where there is none."""
    u = part[-1] - part[0]
    length = float(np.hypot(*u))
    return (part - part[0]) @ np.array([-u[1], u[0]]) / length if length > 1e-9 else np.full(len(part), math.inf)


def _off_line(part: Floats) -> float:
    return float(np.abs(_aside(part)).max())


def _circle(part: Floats) -> tuple[Point2, float, float]:
    """The circle nearest to some places in the mean, and how far they lie off it at most."""
    found = kernel.forms.round_through(part, math.inf, math.inf)
    assert found is not None  # neither its size nor its misfit is limited
    centre, radius = found
    return _tuple(centre), radius, float(np.abs(np.hypot(*(part - centre).T) - radius).max())


def _middle(part: Floats) -> Point2:
    """A place half way along an arc through the ends of some places that lies nearest to them."""
    a, b = part[0], part[-1]
    u = b - a
    length = float(np.hypot(*u))
    if length < 1e-9:
        return _tuple(part[len(part) // 2])
    n = np.array([-u[1], u[0]]) / length
    t = (part - a) @ u / length**2
    s = (part - a) @ n
    inner = (t > 0.1) & (t < 0.9)
    rise = float(np.median(s[inner] / (4 * t[inner] * (1 - t[inner])))) if inner.any() else 0.0
    if abs(rise) > 0.12 * length:  # no flat arc: the circle that fits tells it better
        centre, radius, _ = _circle(part)
        offset = float((np.array(centre) - a) @ n)
        side = math.copysign(1.0, float(np.mean(s)))
        rise = offset + side * radius
    return _tuple((a + b) / 2 + n * rise)


def _off_arc(part: Floats, by: Point2) -> float:
    found = _through(_tuple(part[0]), by, _tuple(part[-1]))
    if found is None:
        return math.inf
    centre, radius = found
    if radius > 40 * float(np.hypot(*np.ptp(part, axis=0))):
        return math.inf
    return float(np.abs(np.hypot(part[:, 0] - centre[0], part[:, 1] - centre[1]) - radius).max())


def _bends(part: Floats) -> bool:
    """Whether some places that a line would do for bend to one side so clearly that they are meant as an arc."""
    return bool(abs(np.median(_aside(part))) > 0.6 * _OFF and _off_arc(part, _middle(part)) < 0.5 * _OFF)


def _through(a: Point2, by: Point2, b: Point2) -> tuple[Point2, float] | None:
    """The circle through three places; None where they lie in a line."""
    try:
        return through(a, by, b)
    except SketchError:
        return None


def _tuple(p: Floats) -> Point2:
    return (float(p[0]), float(p[1]))


# --- where the photo lies --------------------------------------------------------------------------------------------


def _placed(piece: _Piece, photo: Photo, scale: float, wide: int, high: int) -> Curve2:
    cos, sin = math.cos(math.radians(photo.turn)), math.sin(math.radians(photo.turn))

    def at(p: Point2) -> Point2:
        # A contour counts from the middle of the first pixel.
        x, y = (p[0] + 0.5 - wide / 2) * scale, (high / 2 - p[1] - 0.5) * scale * photo.stretch
        return (photo.at[0] + x * cos - y * sin, photo.at[1] + x * sin + y * cos)

    a, b = at(piece.a), at(piece.b)
    if piece.whole:
        return Circle2("", ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), math.dist(a, b) / 2)
    found = None if piece.by is None else _through(a, at(piece.by), b)
    if found is None or piece.by is None:
        return Line2("", a, b)
    centre, _ = found
    m = at(piece.by)
    left = (b[0] - a[0]) * (m[1] - a[1]) - (b[1] - a[1]) * (m[0] - a[0]) > 0
    return Arc2("", centre, a, b, not left)
